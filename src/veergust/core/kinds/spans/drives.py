"""Drives: what moves the body over a span."""

from __future__ import annotations

from collections.abc import Iterator

from veergust.core.kinds.drives import DRIVES, drive_at, drive_kind
from veergust.core.kinds.fields import Field, choice, number
from veergust.core.kinds.now import NowItem, ShownFrame
from veergust.core.kinds.spans.kind import Column, NewSpan, SpanKind
from veergust.core.model import Drive


class Drives(SpanKind):
    """Drives."""

    key, one, struct, rank = "drives", "drive", Drive, 5
    for_all = True
    column = Column("drive", 42.0, 0.2, 36.0)
    fields = (
        choice("kind", "Kind", given=tuple(DRIVES), tip="What moves the body"),
        Field("scale", "Multiplier", "number", "×", -10, 10, 0.1),
        choice("turn", "Turns", given=("usual", "not", "stick", "target"), tip="What it turns the body to"),
        number("turn_rate", "At most", "°/s", 3600, tip="How fast it turns with the stick or to the target"),
    )

    def title(self, span: Drive) -> str:
        return f"Drive {span.kind}"

    def lines(self, span: Drive, covers: float | None) -> tuple[str, str]:
        return span.kind, f"×{span.scale:g}"

    def new(self, laid: NewSpan) -> Drive:
        """By root motion, or by nothing where the clip does not travel."""
        return Drive(start=laid.start, end=laid.end, kind="root" if laid.travels else "none")

    def guessed(self, laid: NewSpan, span: Drive) -> str:
        why = "the clip travels there" if laid.travels else "the clip does not travel there"
        return f"Drive {span.kind}: {why}. Change it in its fields (Return)."

    def now(self, at: ShownFrame) -> Iterator[NowItem]:
        """One line on every frame: how far the body has gone, and by what."""
        part = at.compiled.sections[at.section]
        drive, index = drive_at(part.section.drives, at.compiled.action.drives, at.tick, part.ticks)
        if at.build.root_share(at.compiled.action.layer) <= 0.0:
            yield NowItem("drive", "locomotion goes on moving the body", "as the stick says")
            return
        kind = drive_kind(drive)
        says = f"body has moved {at.moved:.2f} m, {kind.says(drive)}"
        note = f"until {at.first + drive.end}" if kind.stick or kind.flies else "stick gives nothing"
        if index is None:
            yield NowItem("drive", says, note)
        else:
            yield NowItem("drive", says, note, at.section, "drives", index)


KIND = Drives()
