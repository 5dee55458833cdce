"""Holds: spans in which a setting of the character is overridden."""

from __future__ import annotations

from collections.abc import Iterator

from msgspec.structs import replace

from veergust.core.kinds.fields import Field, choice
from veergust.core.kinds.finding import Finding
from veergust.core.kinds.now import NowItem, ShownFrame
from veergust.core.kinds.settings import SETTINGS, held_words
from veergust.core.kinds.spans.kind import Checked, Column, NewSpan, SpanKind, opened
from veergust.core.model import Action, Hold, Setting


class Holds(SpanKind):
    """Holds."""

    key, one, struct, rank = "holds", "hold", Hold, 3
    for_all = True
    told = True
    column = Column("hold", 42.0, 0.2, 36.0)
    fields = (
        choice("setting", "Setting", "settings"),
        Field("value", "Value", "number", low=-1e4, high=1e4, step=0.1, tip="0 takes it away"),
    )

    def of_all(self, action: Action) -> tuple[Hold, ...]:
        return tuple(Hold(start=0, end=1, setting=s.setting, value=s.value) for s in action.holds)

    def with_all(self, action: Action, spans: tuple[Hold, ...]) -> Action:
        return replace(action, holds=tuple(Setting(setting=h.setting, value=h.value) for h in spans))

    def title(self, span: Hold) -> str:
        return f"Hold {span.setting}"

    def holds(self, span: Hold) -> tuple[str, float]:
        return span.setting, span.value

    def lines(self, span: Hold, covers: float | None) -> tuple[str, str]:
        return span.setting, "free" if span.value == 0 else f"{span.value:g}"

    def new(self, laid: NewSpan) -> Hold:
        return Hold(start=laid.start, end=laid.end)

    def now(self, at: ShownFrame) -> Iterator[NowItem]:
        for i, h in opened(at, "holds"):
            until = f"until {at.first + h.end}"
            yield NowItem("hold", held_words(h.setting, h.value), until, at.section, "holds", i)
        for s in at.compiled.action.holds:
            yield NowItem("hold", f"{s.setting} is held at {s.value:g}", "until the action ends")

    def check(self, at: Checked) -> Iterator[Finding]:
        if at.span.setting not in SETTINGS:
            says = f"holds {at.span.setting!r}, which nothing asks for"
            yield Finding("setting-unknown", "warning", at.at("hold"), says, f"choose one of {', '.join(SETTINGS)}")


KIND = Holds()
