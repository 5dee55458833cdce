"""Exits: combo windows, cancels and breaks, through which an action is left."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from veergust.core.kinds.commands import listed_commands
from veergust.core.kinds.conditions import sentence
from veergust.core.kinds.fields import CONDITIONS, Field, choice, number
from veergust.core.kinds.finding import Finding
from veergust.core.kinds.now import NowItem, ShownFrame
from veergust.core.kinds.spans.kind import Checked, Column, NewSpan, SpanKind, conditions_known
from veergust.core.model import Exit, Strike

CONTACTS = {
    "hit": "after a hit only",
    "guarded": "after a guarded touch only",
    "deflected": "after a deflected touch only",
    "none": "before any touch",
}


def asks(exit_: Exit) -> tuple[str, ...]:
    """The commands an exit asks for in turn; none for a break."""
    if exit_.kind == "break":
        return ()
    return exit_.sequence or ((exit_.command,) if exit_.command else ())


def note_of(exit_: Exit, buffer: int) -> str:
    """The small print of an exit; ``buffer`` is for how many ticks the project remembers a press."""
    notes = []
    if exit_.contact in CONTACTS:
        notes.append(CONTACTS[exit_.contact])
    if exit_.conditions and exit_.kind != "break":
        notes.append("if " + sentence(exit_.conditions))
    if exit_.kind == "break":
        notes.append("breaks at once")
    elif exit_.early:
        notes.append(f"early press counts, {buffer} f")
    return " · ".join(notes)


def own_command(laid: NewSpan) -> str:
    """The command that starts the action itself, or the first there is."""
    own = laid.its_action.start.commands
    return own[0] if own else next(iter(listed_commands(laid.project)), "")


def _next_of_group(laid: NewSpan) -> str:
    """The action after it in its group, or itself."""
    group = [
        a.name for a in laid.project.actions if a.group == laid.its_action.group and a.layer == laid.its_action.layer
    ]
    at = group.index(laid.action) + 1
    return group[at] if at < len(group) else laid.action


def _strike(laid: NewSpan) -> Strike | None:
    """The strike of the section that a new exit follows: the last that opens before it, else the first; none once a
    combo follows it already."""
    strikes = sorted(laid.its_section.strikes, key=lambda s: s.start)
    strike = next((s for s in reversed(strikes) if s.start <= laid.start), strikes[0] if strikes else None)
    taken = strike is not None and any(e.kind == "combo" and e.start >= strike.end for e in laid.its_section.exits)
    return None if taken else strike


class Exits(SpanKind):
    """Exits."""

    key, one, struct, rank = "exits", "exit", Exit, 1
    for_all = True
    leads_away = True
    staved = True
    column = Column("exits", 152.0, 0.6, 60.0)
    fields = (
        choice("kind", "Kind", given=("combo", "cancel", "break")),
        choice("command", "Command", "commands", tip="What the player presses; a break has none"),
        Field("sequence", "In turn", "list", of="commands", tip="Several commands in turn, instead of the one"),
        choice("to_kind", "Leads to", given=("action", "tag", "pool", "ground")),
        choice("to", "Which", "targets"),
        choice("section", "Begins with", "target sections", tip="A section of it, if not its usual first one"),
        choice(
            "contact",
            "Contact",
            given=("any", "hit", "guarded", "deflected", "none"),
            tip="What must have been touched so far",
        ),
        CONDITIONS,
        number("blend", "Crossfade", "f", 120, whole=True),
        Field("priority", "Priority", "number", low=-100, high=100, whole=True, tip="The higher one is taken"),
        number(
            "buffer",
            "A press counts",
            "f",
            10_000,
            whole=True,
            nothing="as usual",
            tip="For how long a press is remembered for it, if not as its command or the project says",
        ),
        Field("early", "early presses count", "flag", tip="A press remembered from before fires on its first frame"),
    )

    def title(self, span: Exit) -> str:
        return f"{span.kind.capitalize()} to {span.to or 'locomotion'}"

    def role(self, span: Exit) -> str:
        return span.kind

    def lines(self, span: Exit, covers: float | None) -> tuple[str, str]:
        if span.kind == "break":
            return "!", ""
        return f"→ {span.to or 'ground'}", ", ".join(asks(span))

    def new(self, laid: NewSpan) -> Exit:
        """After a strike a combo, on the action's own command to the next of its group; else what another command
        starts."""
        strike = _strike(laid)
        if strike is not None:
            start, end = (strike.end, laid.ticks) if laid.ticks > strike.end else (laid.start, laid.end)
            return Exit(start=start, end=end, command=own_command(laid), to=_next_of_group(laid))
        own, actions = own_command(laid), laid.project.actions
        by = next(((c, a) for a in actions for c in a.start.commands if a.name != laid.action and c != own), None)
        if by is None:
            others = [a.name for a in actions if a.name != laid.action]
            return Exit(start=laid.start, end=laid.end, command=own, to=(others or [laid.action])[0], kind="cancel")
        return Exit(start=laid.start, end=laid.end, command=by[0], to=by[1].name, kind="cancel")

    def guessed(self, laid: NewSpan, span: Exit) -> str:
        on = f"{span.command} leads" if span.command else "leads"
        after = " after the strike" if _strike(laid) is not None else ""
        return f"A {span.kind}: {on} to {span.to}{after}. Change it in its fields (Return)."

    def now(self, at: ShownFrame) -> list[NowItem]:
        out = []
        for i, e in enumerate(at.compiled.sections[at.section].section.exits):
            if e.end <= at.tick:
                continue
            to = e.to or "locomotion"
            open_ = e.start <= at.tick
            if e.kind == "break":
                says = f"{sentence(e.conditions)} → {to}"
            elif open_:
                says = f"{', '.join(asks(e))} until {at.first + e.end} → {to}"
            else:
                says = f"{', '.join(asks(e))} from {at.first + e.start} → {to}"
            note = note_of(e, at.build.project.settings.buffer)
            out.append(NowItem(e.kind, says, note, at.section, "exits", i, open_))
        return sorted(out, key=lambda item: (not item.open, item.role == "break"))

    def check(self, at: Checked) -> Iterator[Finding]:
        exit_: Any = at.span
        where = at.at(exit_.kind)
        target = at.build.action(exit_.to) if exit_.to_kind == "action" else None
        if exit_.to_kind == "action" and target is None:
            says = f"leads to {exit_.to!r}, which is no action"
            yield Finding("exit-target-missing", "error", where, says, "choose an action")
        if exit_.section and target is not None and exit_.section not in target.index:
            says = f"starts with {exit_.section!r}, which {exit_.to} does not have"
            yield Finding("exit-section-missing", "error", where, says, "choose one of its sections")
        if exit_.to_kind == "tag" and not at.build.tagged(exit_.to):
            says = f"leads to the tag {exit_.to!r}, which no action has"
            yield Finding("exit-target-missing", "error", where, says, "choose a tag, or give it to an action")
        pool = at.build.pools.get(exit_.to) if exit_.to_kind == "pool" else None
        if exit_.to_kind == "pool" and pool is None:
            says = f"leads to the pool {exit_.to!r}, which is not there"
            yield Finding("exit-target-missing", "error", where, says, "choose a pool")
        elif pool is not None and not any(i.name in at.build.actions_by_name for i in pool.items):
            says = f"leads to the pool {exit_.to!r}, in which there is no action"
            yield Finding("exit-target-missing", "error", where, says, "choose a pool of actions, or put some into it")
        if exit_.kind == "break" and not exit_.conditions and exit_.contact == "any":
            says = "has no condition: it breaks the action on its first frame"
            yield Finding("break-always", "warning", where, says, "say when it breaks, by a condition or a contact")
        unknown = [c for c in asks(exit_) or ("",) if c not in at.build.commands] if exit_.kind != "break" else []
        for command in unknown:
            says = f"asks for the command {command!r}, which the project does not have"
            yield Finding("command-unknown", "error", where, says, "choose a command")
        yield from conditions_known(at.build, exit_.conditions, where)


KIND = Exits()
