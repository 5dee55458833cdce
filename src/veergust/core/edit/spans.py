"""Moving, stretching, adding and removing what stands on a section."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import msgspec
import numpy as np

from veergust.core.kinds import SPANS, NewSpan, title
from veergust.core.model import (
    Action,
    Event,
    Pin,
    Project,
    Section,
)
from veergust.core.play import CompiledAction
from veergust.core.trouble import Trouble, named

replace = msgspec.structs.replace
STANDS_STILL = 0.05
"""A clip that goes no farther than this (m) does not travel."""


WHOLE = -1


@dataclass(frozen=True)
class SpanRef:
    """A span or event of an action: section (``WHOLE``: it stands for the whole action), kind (a field of ``Section``)
    and place in its list."""

    action: str
    section: int
    kind: str
    index: int


@dataclass(frozen=True)
class Edit:
    """A new project and what was done to it, in words; ``notes`` are what the person should hear besides."""

    project: Project
    words: str
    notes: tuple[str, ...] = ()


def action_of(project: Project, name: str) -> Action:
    """An action by name. Raises ``Unknown``."""
    return named(project.actions, name, "action")


def span_of(project: Project, ref: SpanRef) -> Any:
    """The span or event ``ref`` points at, or None when it is gone."""
    action = next((a for a in project.actions if a.name == ref.action), None)
    if action is None or ref.section >= len(action.sections):
        return None
    items = items_of(project, ref)
    return items[ref.index] if ref.index < len(items) else None


def with_items(project: Project, ref: SpanRef, items: tuple[Any, ...]) -> Project:
    """The project with other spans where those of ``ref``'s kind stand."""

    def section(s: Section) -> Section:
        return replace(s, **{ref.kind: items})

    action = action_of(project, ref.action)
    if ref.section == WHOLE:
        made = SPANS[ref.kind].with_all(action, items)
        return replace(project, actions=tuple(made if a is action else a for a in project.actions))
    sections = tuple(section(s) if i == ref.section else s for i, s in enumerate(action.sections))
    changed = replace(action, sections=sections)
    return replace(project, actions=tuple(changed if a is action else a for a in project.actions))


def items_of(project: Project, ref: SpanRef) -> tuple[Any, ...]:
    """The spans of ``ref``'s kind where it stands."""
    action = action_of(project, ref.action)
    if ref.section == WHOLE:
        return SPANS[ref.kind].of_all(action)
    return tuple(getattr(action.sections[ref.section], ref.kind))


def set_edges(project: Project, compiled: CompiledAction, ref: SpanRef, start: int, end: int) -> Edit:
    """A span laid on ``[start, end)`` of its section, kept inside it and at least one tick long.

    For an event only ``start`` counts. An edge that moves marks the pose it now stands on. One that stands for the
    whole action has no edges: raises ``Trouble``.
    """
    if ref.section == WHOLE:
        raise Trouble(
            "it stands for the whole action", field="span", do="put one on a section to say from when to when"
        )
    span = span_of(project, ref)
    part = compiled.sections[ref.section]
    first = compiled.start_of(ref.section)
    if isinstance(span, Event):
        tick = min(max(start, 0), part.ticks - 1)
        changed = replace(span, tick=tick, pin=replace(span.pin, source=None))
        words = f"{title(span)}: frame {first + span.tick} → {first + tick}"
    else:
        start = min(max(start, 0), part.ticks - 1)
        end = min(max(end, start + 1), part.ticks)
        pins = {}
        if start != span.start:
            pins["start_pin"] = Pin(to=span.start_pin.to)
        if end != span.end:
            pins["end_pin"] = Pin(to=span.end_pin.to)
        changed = replace(span, start=start, end=end, **pins)
        if start - span.start == end - span.end:
            changed = with_keys_moved(changed, start - span.start)
        words = _edge_words(span, changed, first)
    items = tuple(changed if i == ref.index else s for i, s in enumerate(items_of(project, ref)))
    return Edit(with_items(project, ref, items), words)


def with_keys_moved(span: Any, by: int) -> Any:
    """A span whose hitboxes, if it has any, have their keys ``by`` ticks later."""
    if not by or not any(box.keys for box in getattr(span, "boxes", ())):
        return span
    moved = tuple(replace(b, keys=tuple(replace(k, tick=k.tick + by) for k in b.keys)) for b in span.boxes)
    return replace(span, boxes=moved)


def _edge_words(old: Any, new: Any, first: int) -> str:
    opens = f"opens at {first + old.start} → {first + new.start}"
    closes = f"closes at {first + old.end} → {first + new.end}"
    if old.start != new.start and old.end != new.end:
        if old.end - old.start == new.end - new.start:
            return f"{title(old)}: moved {new.start - old.start:+d} f, {opens}"
        return f"{title(old)}: {opens}, {closes}"
    return f"{title(old)}: {opens if old.start != new.start else closes}"


def remove(project: Project, ref: SpanRef) -> Edit:
    """The project without a span."""
    span = span_of(project, ref)
    items = tuple(s for i, s in enumerate(items_of(project, ref)) if i != ref.index)
    return Edit(with_items(project, ref, items), f"{title(span)}: removed")


def remove_all(project: Project, refs: list[SpanRef]) -> Edit:
    """The project without several spans."""
    if len(refs) == 1:
        return remove(project, refs[0])
    for ref in sorted(refs, key=lambda r: r.index, reverse=True):
        project = remove(project, ref).project
    return Edit(project, f"{len(refs)} spans: removed")


def add(
    project: Project,
    ref: SpanRef,
    start: int,
    end: int,
    mount: str = "",
    *,
    compiled: CompiledAction | None = None,
    whole: bool = False,
    pointed: bool = False,
) -> tuple[Edit, SpanRef]:
    """A new span of ``ref.kind`` on ``[start, end)``, and where it stands; with ``whole`` over all of its section.
    Where it lies may be guessed as well, unless it was ``pointed`` at.

    A strike covers the weapon, or has a ball on ``mount`` where there is none. What else is guessed of it goes by the
    action as it is ``compiled``, and is in the notes.
    """
    items, kind = items_of(project, ref), SPANS[ref.kind]
    if ref.section == WHOLE:
        return _add_for_all(project, ref, items)
    ticks, travels = end, False
    if compiled is not None:
        first, ticks = compiled.start_of(ref.section), compiled.sections[ref.section].ticks
        start, end = (0, ticks) if whole and not kind.moment else (start, end)
        went = compiled.bodies[first + start : first + end + 1, :3, 3]
        travels = len(went) > 0 and float(np.ptp(went, axis=0).max()) > STANDS_STILL
    laid = NewSpan(project, ref.action, ref.section, start, end, len(items), mount, ticks, travels)
    made = kind.new(laid)
    if (whole or pointed) and not kind.moment:
        made = replace(made, start=start, end=end)
    changed = with_items(project, ref, (*items, made))
    guessed = kind.guessed(laid, made)
    new = SpanRef(ref.action, ref.section, ref.kind, len(items))
    return Edit(changed, f"{title(made)}: added", (guessed,) if guessed else ()), new


def _add_for_all(project: Project, ref: SpanRef, items: tuple[Any, ...]) -> tuple[Edit, SpanRef]:
    """A new span that stands for the whole action. Raises ``Trouble`` for a kind of which none may."""
    kind = SPANS[ref.kind]
    if not kind.for_all:
        says = f"a {kind.one} cannot stand for the whole action"
        raise Trouble(says, field="span", do="put it on a section; exits, shields, holds and drives can")
    made = replace(kind.new(NewSpan(project, ref.action, 0, 0, 1, len(items))), start=0, end=1)
    new = SpanRef(ref.action, WHOLE, ref.kind, len(items))
    return Edit(with_items(project, ref, (*items, made)), f"{title(made)}: added for the whole action"), new
