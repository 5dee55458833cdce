"""Moving, stretching, adding and removing what stands on a section."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import msgspec

from veergust.core.model import (
    Action,
    Box,
    Condition,
    Drive,
    Event,
    Exit,
    Gate,
    Hold,
    Pin,
    Project,
    Section,
    Shield,
    Strike,
)
from veergust.core.play.compiled.action import CompiledAction

replace = msgspec.structs.replace
KINDS = ("strikes", "exits", "gates", "shields", "holds", "drives", "events")


@dataclass(frozen=True)
class SpanRef:
    """A span or event of an action: section, kind (a field of ``Section``) and place in its list."""

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
    """An action by name."""
    return next(a for a in project.actions if a.name == name)


def span_of(project: Project, ref: SpanRef) -> Any:
    """The span or event ``ref`` points at, or None when it is gone."""
    action = next((a for a in project.actions if a.name == ref.action), None)
    if action is None or ref.section >= len(action.sections):
        return None
    items = getattr(action.sections[ref.section], ref.kind)
    return items[ref.index] if ref.index < len(items) else None


def _with_items(project: Project, ref: SpanRef, items: tuple[Any, ...]) -> Project:
    def section(s: Section) -> Section:
        return replace(s, **{ref.kind: items})

    action = action_of(project, ref.action)
    sections = tuple(section(s) if i == ref.section else s for i, s in enumerate(action.sections))
    changed = replace(action, sections=sections)
    return replace(project, actions=tuple(changed if a is action else a for a in project.actions))


def _items(project: Project, ref: SpanRef) -> tuple[Any, ...]:
    return tuple(getattr(action_of(project, ref.action).sections[ref.section], ref.kind))


def title(span: Any) -> str:
    """What a span is called in words."""
    if isinstance(span, Strike):
        return span.name
    if isinstance(span, Exit):
        return f"{span.kind.capitalize()} to {span.to or 'locomotion'}"
    if isinstance(span, Hold):
        return f"Hold {span.setting}"
    if isinstance(span, Drive):
        return f"Drive {span.kind}"
    if isinstance(span, Shield):
        return f"Shield {span.kind}"
    if isinstance(span, Event):
        return span.name or "Event"
    return f"Gate to {span.to}"


def set_edges(project: Project, compiled: CompiledAction, ref: SpanRef, start: int, end: int) -> Edit:
    """A span laid on ``[start, end)`` of its section, kept inside it and at least one tick long.

    For an event only ``start`` counts. An edge that moves marks the pose it now stands on.
    """
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
    items = tuple(changed if i == ref.index else s for i, s in enumerate(_items(project, ref)))
    return Edit(_with_items(project, ref, items), words)


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
    items = tuple(s for i, s in enumerate(_items(project, ref)) if i != ref.index)
    return Edit(_with_items(project, ref, items), f"{title(span)}: removed")


def _new_event(project: Project, tick: int) -> Event:
    """An event of the project's first known name, of the kind and at the mount it has elsewhere."""
    name = project.known_events[0] if project.known_events else ""
    every = (e for a in project.actions for s in a.sections for e in s.events)
    like = next((e for e in every if e.name == name), Event(tick=tick, name=name))
    return Event(tick=tick, kind=like.kind, name=name, mount=like.mount)


def add(project: Project, ref: SpanRef, start: int, end: int, mount: str = "") -> tuple[Edit, SpanRef]:
    """A new span of ``ref.kind`` on ``[start, end)``, and where it stands.

    A strike covers the weapon, or has a ball on ``mount`` where there is none.
    """
    items = _items(project, ref)
    commands = project.commands
    others = [a.name for a in project.actions if a.name != ref.action]
    weapon = project.rig.weapon
    made: Any
    match ref.kind:
        case "strikes":
            mount = mount or (project.rig.mounts[0].name if project.rig.mounts else "")
            box = Box(mount=mount, shape="sphere", radius=0.12)
            if weapon is not None:
                box = Box(mount=weapon.base, to=(0, 1.0, 0))
            made = Strike(start=start, end=end, name=f"Strike {len(items) + 1}", boxes=(box,))
        case "exits":
            made = Exit(
                start=start,
                end=end,
                command=commands[0].name if commands else "",
                to=others[0] if others else ref.action,
                kind="cancel",
            )
        case "shields":
            made = Shield(start=start, end=end)
        case "holds":
            made = Hold(start=start, end=end)
        case "drives":
            made = Drive(start=start, end=end, kind="stick")
        case "gates":
            sections = action_of(project, ref.action).sections
            onward = sections[(ref.section + 1) % len(sections)].name
            held = Condition(test="released", name=commands[0].name) if commands else Condition(test="on_floor")
            made = Gate(start=start, end=end, to=onward, conditions=(held,))
        case _:
            made = _new_event(project, start)
    changed = _with_items(project, ref, (*items, made))
    return Edit(changed, f"{title(made)}: added"), SpanRef(ref.action, ref.section, ref.kind, len(items))
