"""Gates: where an action may go on to another of its sections."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from veergust.core.kinds.conditions import sentence
from veergust.core.kinds.fields import CONDITIONS, choice, number
from veergust.core.kinds.finding import Finding
from veergust.core.kinds.now import NowItem, ShownFrame
from veergust.core.kinds.spans.exits import own_command
from veergust.core.kinds.spans.kind import Checked, NewSpan, SpanKind, conditions_known, opened
from veergust.core.model import Condition, Gate


class Gates(SpanKind):
    """Gates."""

    key, one, struct, rank, beside = "gates", "gate", Gate, 2, "exits"
    leads_away, leads_to = True, "to"
    fields = (
        choice("to", "Leads to", "sections"),
        CONDITIONS,
        number("blend", "Crossfade", "f", 120, whole=True, tip="0: as the first cut of where it leads says"),
    )

    def title(self, span: Gate) -> str:
        return f"Gate to {span.to}"

    def lines(self, span: Gate, covers: float | None) -> tuple[str, str]:
        return f"→ {span.to}", "gate"

    def new(self, laid: NewSpan) -> Gate:
        """To the section after, all the while that it plays, when the action's own command is let go."""
        command = own_command(laid)
        sections = laid.its_action.sections
        onward = sections[(laid.section + 1) % len(sections)].name
        when = Condition(test="released", name=command) if command else Condition(test="on_floor")
        start, end = (0, laid.ticks) if laid.ticks > laid.end else (laid.start, laid.end)
        return Gate(start=start, end=end, to=onward, conditions=(when,))

    def guessed(self, laid: NewSpan, span: Gate) -> str:
        return f"A gate to {span.to}: {sentence(span.conditions)}. Change it in its fields (Return)."

    def now(self, at: ShownFrame) -> Iterator[NowItem]:
        for i, g in opened(at, "gates"):
            says = f"{sentence(g.conditions) or 'always'} → {g.to}"
            yield NowItem("gate", says, f"until {at.first + g.end}", at.section, "gates", i)

    def check(self, at: Checked) -> Iterator[Finding]:
        gate: Any = at.span
        if not at.compiled.ways(gate.to):
            says = f"leads to {gate.to!r}, no section here and no pool of some"
            yield Finding("gate-target-missing", "error", at.at("gate"), says, "choose a section or a pool")
        yield from conditions_known(at.build, gate.conditions, at.at("gate"))


KIND = Gates()
