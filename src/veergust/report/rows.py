"""What a report says of an action, before it is a page or a table."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import msgspec

from veergust.core.changes import span_title
from veergust.core.kinds import FACTS, RANKED, Finding, written
from veergust.core.play import CompiledAction, CompiledProject
from veergust.core.study import Facts, facts, findings, version_facts
from veergust.core.trouble import Unknown


@dataclass(frozen=True)
class Bar:
    """A span along an action: what it is called, of which kind, and its frames ``[start, end)`` of the whole."""

    title: str
    role: str
    start: int
    end: int


@dataclass(frozen=True)
class Way:
    """A way out of an action: on which frames, by what, and where to."""

    start: int
    end: int
    by: str
    to: str


@dataclass(frozen=True)
class ActionReport:
    """An action: its numbers as they are written, its sections and spans along its frames, the ways out of it, what was
    found, and the numbers of its other versions."""

    name: str
    group: str
    starts: tuple[str, ...]
    facts: Facts
    written: dict[str, str]
    total: int
    sections: tuple[Bar, ...]
    bars: tuple[Bar, ...]
    ways: tuple[Way, ...]
    findings: tuple[Finding, ...]
    versions: tuple[tuple[str, dict[str, str]], ...]


def reports(build: CompiledProject, names: Sequence[str] = ()) -> list[ActionReport]:
    """The reports of actions, all or those named, in the project's order. Raises ``Unknown``."""
    for name in names:
        if name not in build.actions_by_name:
            raise Unknown("action", name, build.actions_by_name)
    found = findings(build)
    out = []
    for action in build.project.actions:
        compiled = build.action(action.name)
        numbers = facts(build, action.name) if compiled is not None else None
        if compiled is None or numbers is None or (names and action.name not in names):
            continue
        own = tuple(f for f in found if f.at.part == "action" and f.at.name == action.name)
        out.append(
            ActionReport(
                name=action.name,
                group=action.group,
                starts=action.start.commands,
                facts=numbers,
                written=written(numbers),
                total=compiled.total,
                sections=tuple(sections_of(compiled)),
                bars=tuple(bars_of(compiled)),
                ways=tuple(_ways(compiled)),
                findings=own,
                versions=tuple(_versions(build, compiled)),
            )
        )
    return out


def sections_of(compiled: CompiledAction) -> Iterable[Bar]:
    """The sections along an action."""
    for first, i in compiled.starts():
        part = compiled.sections[i]
        yield Bar(part.section.name, "section", first, first + part.ticks)


def bars_of(compiled: CompiledAction) -> Iterable[Bar]:
    """The spans along an action."""
    for first, i in compiled.starts():
        part = compiled.sections[i]
        for kind in RANKED:
            for span in kind.of(part.section):
                start = span.tick if kind.moment else span.start
                end = start + 1 if kind.moment else span.end
                yield Bar(span_title(span), kind.role(span), first + start, first + min(end, part.ticks))


def _ways(compiled: CompiledAction) -> Iterable[Way]:
    for first, i in compiled.starts():
        part = compiled.sections[i]
        for exit_ in part.section.exits:
            by = " ".join(exit_.sequence) or exit_.command or exit_.kind
            by += f" ({exit_.contact})" if exit_.contact != "any" else ""
            yield Way(first + exit_.start, first + min(exit_.end, part.ticks), by, exit_.to or "locomotion")
        for gate in part.section.gates:
            yield Way(first + gate.start, first + min(gate.end, part.ticks), "its conditions", gate.to)
    for exit_ in compiled.action.exits:
        by = " ".join(exit_.sequence) or exit_.command or exit_.kind
        yield Way(0, compiled.total, by, exit_.to or "locomotion")


def _versions(build: CompiledProject, compiled: CompiledAction) -> Iterable[tuple[str, dict[str, str]]]:
    action = compiled.action
    for index, kept in enumerate(action.kept):
        made = msgspec.structs.replace(kept.action, name=action.name)
        actions = tuple(made if a is action else a for a in build.project.actions)
        other = build.renew(msgspec.structs.replace(build.project, actions=actions))
        numbers = version_facts(other, action.name, index)
        if numbers is not None:
            yield kept.name, written(numbers)


def as_csv(rows: Iterable[ActionReport]) -> str:
    """One row an action, as RFC 4180 has it: numbers bare, empty where one does not apply, metres and ticks."""
    out = io.StringIO()
    table = csv.writer(out)  # its own usual form is that of the standard: commas, quotes doubled, CR and LF
    table.writerow(
        ["name", "group", "commands", "startup", "active", "gaps", "recovery", "total", "on_hit", "on_guard", "reach_m",
         "travel_x_m", "travel_y_m", "travel_z_m", "damage", "coverage", "findings"]
    )  # fmt: skip
    for row in rows:
        f = row.facts
        numbers = [f.startup, f.active, f.gaps, f.recovery, f.total, f.on_hit, f.on_guard, f.reach, *f.travel, f.damage,
                   f.coverage]  # fmt: skip
        plain = ["" if n is None else f"{n:.6g}" for n in numbers]
        table.writerow([row.name, row.group, " ".join(row.starts), *plain, len(row.findings)])
    return out.getvalue()


def as_text(rows: Sequence[ActionReport]) -> str:
    """A plain table, its columns under one another."""
    table = [["action", *(kind.label for kind in FACTS)]]
    table += [[row.name, *row.written.values()] for row in rows]
    widths = [max(len(line[n]) for line in table) for n in range(len(table[0]))]
    lines = ["  ".join(cell.ljust(wide) for cell, wide in zip(line, widths)).rstrip() for line in table]
    return "\n".join(lines) + "\n"
