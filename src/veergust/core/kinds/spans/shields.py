"""Shields: spans of invulnerability, armour or guarding."""

from __future__ import annotations

from collections.abc import Iterator

from veergust.core.kinds.fields import Field, choice, number
from veergust.core.kinds.finding import Finding
from veergust.core.kinds.now import NowItem, ShownFrame
from veergust.core.kinds.spans.kind import Checked, Column, NewSpan, SpanKind, opened
from veergust.core.model import Shield

WORDS = {"invulnerable": "cannot be touched", "armour": "takes hits without reeling", "guard": "guards"}
SHORT = {"invulnerable": "none", "armour": "arm", "guard": "guard"}


class Shields(SpanKind):
    """Shields."""

    key, one, struct, rank = "shields", "shield", Shield, 4
    for_all = True
    told = True
    column = Column("shield", 52.0, 0.2, 36.0)
    fields = (
        choice("kind", "Kind", given=tuple(WORDS)),
        choice("height", "Guards", given=("any", "high", "low"), tip="Which strikes a guard stops"),
        number("strength", "Strength", tip="Poise that armour takes at a time, and a guard in all; 0 never breaks"),
        number("arc", "Arc", "°", 360, 5.0, tip="A guard stops what comes from so wide a part, half to either side"),
        number("toward", "Towards", "°", 180, 5.0, low=-180.0, tip="The middle of its arc; to the left above 0"),
        number("lets", "Lets through", "×", 1.0, 0.05, tip="So much of the damage comes through a guard"),
        number("deflects", "Deflects for", "f", 600, whole=True, tip="On its first frames a guard throws strikes back"),
        Field("hurtboxes", "Only over", "list", of="hurtboxes", tip="None chosen: the whole body"),
    )

    def title(self, span: Shield) -> str:
        return f"Shield {span.kind}"

    def lines(self, span: Shield, covers: float | None) -> tuple[str, str]:
        return SHORT[span.kind], "touch"

    def new(self, laid: NewSpan) -> Shield:
        return Shield(start=laid.start, end=laid.end)

    def now(self, at: ShownFrame) -> Iterator[NowItem]:
        for i, s in opened(at, "shields"):
            says = WORDS[s.kind] + (f" ({', '.join(s.hurtboxes)})" if s.hurtboxes else "")
            yield NowItem("shield", says, f"until {at.first + s.end}", at.section, "shields", i)

    def check(self, at: Checked) -> Iterator[Finding]:
        known = {h.name for h in at.build.project.rig.hurtboxes}
        for name in at.span.hurtboxes:
            if name not in known:
                says = f"covers {name!r}, which is no hurtbox of the figure"
                yield Finding("hurtbox-unknown", "error", at.at("shield"), says, "choose one of its hurtboxes")


KIND = Shields()
