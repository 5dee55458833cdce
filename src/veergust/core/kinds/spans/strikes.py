"""Strikes: hitboxes that are open, and what a hit does."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from veergust.core.kinds.fields import Field, choice, number
from veergust.core.kinds.finding import Finding
from veergust.core.kinds.now import NowItem, ShownFrame
from veergust.core.kinds.spans.kind import Checked, Column, NewSpan, SpanKind, mount_known
from veergust.core.model import Hitbox, Rig, Strike

GUARDS = {"any": "guard any", "high": "guard high", "low": "guard low", "none": "not guardable"}


def new_box(rig: Rig, mount: str) -> Hitbox:
    """A new hitbox: over the weapon where that strikes or nothing else is said to, else a ball on the limb's mount."""
    weapon = rig.weapon
    if weapon is not None and mount in ("", weapon.base, weapon.tip):
        return Hitbox(mount=weapon.base, to=(0, 1.0, 0))
    return Hitbox(mount=mount or (rig.mounts[0].name if rig.mounts else ""), shape="sphere", radius=0.12)


class Strikes(SpanKind):
    """Strikes."""

    key, one, struct, rank = "strikes", "strike", Strike, 0
    told = acts = opens_boxes = True
    column = Column("strikes", 74.0, 0.6, 46.0)
    covers = True
    outside = ("strike-outside", "error")
    fields = (
        Field("name", "Name", "text"),
        number("damage", "Damage", tip="Taken from health on a hit"),
        Field(
            "knockback", "Knockback", "vector", "m/s", -50, 50, 0.5, tip="To the side, up, and ahead of the attacker"
        ),
        number("hit_stop", "Hit stop", "f", 60, whole=True, tip="Both time lines stand still so long"),
        choice("guard", "Guard", given=tuple(GUARDS), tip="Which guard stops it"),
        Field("strength", "Strength", "text", tip="What the reaction table looks up"),
        number("poise", "Poise", tip="How much armour it breaks"),
        number("repeat", "Again every", "f", 600, whole=True, tip="Touches one victim again; 0 is once an opening"),
    )

    def title(self, span: Strike) -> str:
        return span.name

    def boxes(self, span: Strike) -> tuple[Hitbox, ...]:
        return span.boxes

    def lines(self, span: Strike, covers: float | None) -> tuple[str, str]:
        return span.name, f"covers {covers:.0%}" if covers is not None else f"{span.damage:g} damage"

    def new(self, laid: NewSpan) -> Strike:
        box = new_box(laid.project.rig, laid.mount)
        return Strike(start=laid.start, end=laid.end, name=f"Strike {laid.there + 1}", boxes=(box,))

    def now(self, at: ShownFrame) -> Iterator[NowItem]:
        for i, s in enumerate(at.compiled.sections[at.section].section.strikes):
            if s.start <= at.tick < s.end:
                share = at.covered()
                much = f", covers {share:.0%} of its sweep" if share is not None else ""
                says, note = (
                    f"{s.name} is open until {at.first + s.end}{much}",
                    f"{s.damage:g} damage · {GUARDS[s.guard]}",
                )
                yield NowItem("strike", says, note, at.section, "strikes", i)
            elif s.start > at.tick:
                note = f"in {s.start - at.tick} f"
                yield NowItem(
                    "strike", f"{s.name} opens at {at.first + s.start}", note, at.section, "strikes", i, False
                )

    def check(self, at: Checked) -> Iterator[Finding]:
        strike: Any = at.span
        if not strike.boxes:
            yield Finding("strike-empty", "warning", at.at(strike.name), "has no hitbox", "give it a hitbox on a mount")
        for n, box in enumerate(strike.boxes):
            yield from mount_known(at, box.mount, strike.name)
            if not box.mount:
                says = f"has hitbox {n + 1} on no mount: it is nowhere and touches nothing"
                do = "put it on the limb or weapon that strikes"
                yield Finding("hitbox-nowhere", "error", at.at(strike.name), says, do)


KIND = Strikes()
