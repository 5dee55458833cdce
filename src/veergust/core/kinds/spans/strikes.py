"""Strikes: hitboxes that are open, and what a hit does."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from veergust.core.kinds.fields import Field, choice, number
from veergust.core.kinds.finding import Finding
from veergust.core.kinds.now import NowItem, ShownFrame
from veergust.core.kinds.spans.kind import Checked, Column, NewSpan, SpanKind, mount_known
from veergust.core.model import Hitbox, Rig, Strike

PUSHES = ("ahead", "away", "swing")
TEAMS = ("others", "own", "everybody")
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
        number(
            "stun",
            "Stun",
            "f",
            600,
            whole=True,
            nothing="as it reels",
            tip="The victim cannot act for so long; without a number as long as its reaction is",
        ),
        number(
            "guard_stun", "Guard stun", "f", 600, whole=True, nothing="as it reels", tip="As stun, of one who guards"
        ),
        Field(
            "knockback", "Knockback", "vector", "m/s", -50, 50, 0.5, tip="To the side, up, and ahead of the attacker"
        ),
        choice(
            "push",
            "Forward is",
            given=PUSHES,
            tip="Which way knockback pushes: as the attacker looks, away from it, or the way the hitbox goes",
        ),
        number("push_ticks", "Slows over", "f", 600, whole=True, tip="0: the friction of the floor slows it"),
        choice("push_ease", "Slows", given=("even", "eased", "hold"), tip="How, over its own frames"),
        number("hit_stop", "Hit stop", "f", 60, whole=True, tip="Both time lines stand still so long"),
        number(
            "victim_stop",
            "Victim's stop",
            "f",
            60,
            whole=True,
            nothing="the same",
            tip="Where the victim stands still for another time than the attacker",
        ),
        choice("guard", "Guard", given=tuple(GUARDS), tip="Which guard stops it"),
        Field("strength", "Strength", "text", tip="What the reaction table looks up"),
        number("poise", "Poise", tip="How much armour it breaks"),
        number("repeat", "Again every", "f", 600, whole=True, tip="Touches one victim again; 0 is once an opening"),
        number("most", "At most", "×", 1000, whole=True, tip="So often in an opening; 0 is as often as there is time"),
        Field("group", "Group", "text", tip="Strikes of one group touch each victim once together"),
        choice("team", "Whom", given=TEAMS, tip="Those who are not of its own team, those who are, or everybody"),
        Field("runs", "Runs", "outcomes", tip="What goes off as it opens, touches or misses"),
    )

    def title(self, span: Strike) -> str:
        return span.name

    def runs(self, span: Strike) -> bool:
        return bool(span.runs)

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
