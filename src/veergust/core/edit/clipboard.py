"""Spans copied from one action and put into another, and a new action like one there is."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from msgspec.structs import replace

from veergust.core.edit.actions import free_name
from veergust.core.edit.cuts import with_section
from veergust.core.edit.spans import WHOLE, Edit, SpanRef, action_of, span_of, with_keys_moved
from veergust.core.kinds import SPANS, title
from veergust.core.model import Event, Pin, Project
from veergust.core.play import CompiledAction
from veergust.core.trouble import Trouble


@dataclass(frozen=True)
class Carried:
    """A copied span: its kind, itself, and the clip and source times (s) its edges stood on."""

    kind: str
    span: Any
    clip: str
    opens: float
    closes: float


def copy_spans(project: Project, compiled: CompiledAction, refs: list[SpanRef]) -> tuple[Carried, ...]:
    """Copies of spans, with the poses they stood on."""
    out = []
    for ref in (r for r in refs if r.section != WHOLE):
        span = span_of(project, ref)
        part = compiled.sections[ref.section]
        start, end = (span.tick, span.tick + 1) if isinstance(span, Event) else (span.start, span.end)
        cut = part.cut_at(min(max(start, 0), part.ticks - 1))
        times = [float(part.source[min(max(t, 0), part.ticks)]) for t in (start, end)]
        out.append(Carried(ref.kind, span, cut.cut.clip if cut else "", *times))
    return tuple(out)


def paste_spans(
    project: Project, compiled: CompiledAction, section: int, tick: int, carried: tuple[Carried, ...], by: str
) -> tuple[Edit, list[SpanRef]]:
    """Put copies into a section: by ``pose``, where it shows the same poses of the same clip; else by ``frame``, the
    first on ``tick`` and the others as far from it as they were. What would not fit is laid inside."""
    if not carried:
        raise Trouble("nothing was copied", field="span", do="copy a span first")
    part = compiled.sections[section]
    first = min(_start(c.span) for c in carried)
    refs = []
    section_ = action_of(project, compiled.action.name).sections[section]
    for c in carried:
        start = tick + _start(c.span) - first
        length = 1 if isinstance(c.span, Event) else c.span.end - c.span.start
        end = start + length
        cut = next((k for k in part.cuts if k.cut.clip == c.clip), None)
        if by == "pose" and cut is not None and cut.end != cut.start:
            start, end = (part.tick_of_pose(t, cut.first) for t in (c.opens, c.closes))
        start = min(max(start, 0), part.ticks - 1)
        end = min(max(end, start + 1), part.ticks)
        made: Any
        if isinstance(c.span, Event):
            made = replace(c.span, tick=start, pin=Pin(to=c.span.pin.to))
        else:
            made = replace(with_keys_moved(c.span, start - c.span.start), start=start, end=end,
                           start_pin=Pin(to=c.span.start_pin.to), end_pin=Pin(to=c.span.end_pin.to))  # fmt: skip
        known = {s.name for s in compiled.action.sections} | {p.name for p in project.pools}
        leads = SPANS[c.kind].leads_to
        if leads and getattr(made, leads) not in known:
            made = replace(made, **{leads: section_.name})
        items = getattr(section_, c.kind)
        refs.append(SpanRef(compiled.action.name, section, c.kind, len(items)))
        section_ = replace(section_, **{c.kind: (*items, made)})
    what = title(carried[0].span) if len(carried) == 1 else f"{len(carried)} spans"
    made_project = with_section(project, compiled.action.name, section, section_)
    return Edit(made_project, f"{what}: pasted by the {by}"), refs


def _start(span: Any) -> int:
    return int(span.tick if isinstance(span, Event) else span.start)


def like(project: Project, name: str) -> tuple[Edit, str]:
    """A new action like one there is, and its name; it starts on no command until one is given."""
    action = action_of(project, name)
    new = free_name(project, name)
    copy = replace(action, name=new, start=replace(action.start, commands=()), kept=(), version="first")
    at = project.actions.index(action) + 1
    actions = (*project.actions[:at], copy, *project.actions[at:])
    return Edit(replace(project, actions=actions), f"New action {new}, like {name}"), new
