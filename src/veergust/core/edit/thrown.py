"""Making a spawned event fly: the things it may name, and what each does."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace

from veergust.core.edit.alternates import throughout
from veergust.core.edit.fields import set_fields
from veergust.core.edit.names import free, typed
from veergust.core.edit.spans import Edit, SpanRef, span_of
from veergust.core.model import Action, Event, Project, Section, Thrown
from veergust.core.trouble import Trouble

OF_STRIKE = ("damage", "stun", "guard_stun", "knockback", "hit_stop", "guard", "strength", "poise", "team", "runs")
"""The fields of its strike that a thing may say."""


def make_thrown(project: Project, ref: SpanRef) -> Edit:
    """What an event spawns, made a thing that flies; one without a name is named.

    Raises:
        Trouble: it spawns nothing, or what it spawns flies already.
    """
    event = span_of(project, ref)
    if not isinstance(event, Event) or event.kind != "spawn":
        raise Trouble("this event spawns nothing", field="kind", do="make it a spawn first")
    if any(t.name == event.name for t in project.thrown):
        raise Trouble(f"{event.name} flies already", field="name", do="change what it does")
    name = event.name or free("thrown", {t.name for t in project.thrown})
    made = replace(project, thrown=(*project.thrown, Thrown(name=name)))
    if not event.name:
        made = set_fields(made, [ref], name=name).project
    return Edit(made, f"{name} flies")


def set_thrown(project: Project, name: str, /, **changes: Any) -> Edit:
    """A thing with other fields, or with others of its strike; a new name goes along wherever it is spawned.

    Raises:
        Trouble: there is none of that name, or another has the new one.
    """
    thing = _found(project, name)
    of_strike = {k: v for k, v in changes.items() if k in OF_STRIKE}
    own = {k: v for k, v in changes.items() if k not in OF_STRIKE}
    if "name" in own:
        own["name"] = typed(own["name"], name, {t.name for t in project.thrown}, "thing")
    made = replace(thing, strike=replace(thing.strike, **of_strike), **own)
    project = replace(project, thrown=tuple(made if t.name == name else t for t in project.thrown))
    if made.name != name:
        there = (throughout(a, lambda action: _renamed(action, name, made.name)) for a in project.actions)
        project = replace(project, actions=tuple(there))
    return Edit(project, f"{made.name}: {', '.join(changes)}")


def remove_thrown(project: Project, name: str) -> Edit:
    """The project without a thing; what spawns it lets nothing go any more."""
    _found(project, name)
    return Edit(replace(project, thrown=tuple(t for t in project.thrown if t.name != name)), f"{name} flies no more")


def _found(project: Project, name: str) -> Thrown:
    thing = next((t for t in project.thrown if t.name == name), None)
    if thing is None:
        raise Trouble(f"nothing called {name!r} flies", field="thrown", do="choose one that does")
    return thing


def _renamed(action: Action, old: str, new: str) -> Action:
    def section(part: Section) -> Section:
        events = tuple(replace(e, name=new) if (e.kind, e.name) == ("spawn", old) else e for e in part.events)
        return replace(part, events=events) if events != part.events else part

    sections = tuple(section(part) for part in action.sections)
    return replace(action, sections=sections) if sections != action.sections else action
