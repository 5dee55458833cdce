"""Fields of a kind: what can be set, with unit, range and choices."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Literal

from veergust.core.kinds.settings import SETTINGS
from veergust.core.model import Action, Project

Widget = Literal["number", "choice", "text", "flag", "vector", "conditions", "list", "pairs", "outcomes"]
NOWHERE = "none"
Choices = list[tuple[str, str]]
"""(words, value) of what a choice offers."""


@dataclass(frozen=True)
class Field:
    """One field of a span: its name in the model, its label, and how it is set.

    ``low`` and ``high`` bound numbers, ``whole`` ones have no fraction, and where one may have no value of its own
    ``nothing`` is what is read there; ``of`` says where the choices of a choice
    come from (a name in ``SOURCES``), ``given`` lists them when they are always the same; ``more`` names are typed.
    """

    name: str
    label: str
    widget: Widget
    unit: str = ""
    low: float = 0.0
    high: float = 1e5
    step: float = 1.0
    whole: bool = False
    nothing: str = ""
    of: str = ""
    given: tuple[str, ...] = ()
    tip: str = ""
    more: bool = False


def number(name: str, label: str, unit: str = "", high: float = 1e4, step: float = 1.0, **more: Any) -> Field:
    """A field that is a number from 0 (or its own ``low``) up."""
    return Field(name, label, "number", unit, high=high, step=step, **more)


def choice(name: str, label: str, of: str = "", given: tuple[str, ...] = (), tip: str = "") -> Field:
    """A field that is one of several."""
    return Field(name, label, "choice", of=of, given=given, tip=tip)


CONDITIONS = Field("conditions", "When", "conditions")


def _named(things: Any) -> Choices:
    return [(thing.name, thing.name) for thing in things]


def _same(names: Any) -> Choices:
    return [(name, name) for name in dict.fromkeys(names)]


def _commands(project: Project, action: Action, span: Any) -> Choices:
    from veergust.core.kinds.commands import listed_commands

    return [(NOWHERE, ""), *_same(listed_commands(project))]


def _sections(project: Project, action: Action, span: Any) -> Choices:
    return [*_named(action.sections), *((f"one of {p.name}", p.name) for p in project.pools)]


def _hurtboxes(project: Project, action: Action, span: Any) -> Choices:
    return _named(project.rig.hurtboxes)


def _target_sections(project: Project, action: Action, span: Any) -> Choices:
    target = next((a for a in project.actions if a.name == getattr(span, "to", "")), None)
    named = target.sections if target is not None and getattr(span, "to_kind", "") == "action" else ()
    return [("first section", ""), *_named(named)]


def _mounts(project: Project, action: Action, span: Any) -> Choices:
    return [("the body", ""), *_named(project.rig.mounts)]


def _settings(project: Project, action: Action, span: Any) -> Choices:
    return _same([*SETTINGS, *(h.setting for a in project.actions for s in a.sections for h in s.holds)])


def _events(project: Project, action: Action, span: Any) -> Choices:
    used = (e.name for a in project.actions for s in a.sections for e in s.events if e.name)
    return [(NOWHERE, ""), *_same([*project.known_events, *used])]


def _targets(project: Project, action: Action, span: Any) -> Choices:
    return targets(project, getattr(span, "to_kind", "action"))


SOURCES: dict[str, Callable[[Project, Action, Any], Choices]] = {
    "commands": _commands,
    "sections": _sections,
    "hurtboxes": _hurtboxes,
    "target sections": _target_sections,
    "mounts": _mounts,
    "settings": _settings,
    "events": _events,
    "targets": _targets,
}
"""Where choices come from: of the project, the action and the span that is set."""


def targets(project: Project, kind: str) -> Choices:
    """What an exit may lead to: an action, a pool, a tag, or locomotion."""
    lists: dict[str, Callable[[], Choices]] = {
        "action": lambda: _named(project.actions),
        "pool": lambda: _named(project.pools),
        "tag": lambda: _same(t for a in project.actions for t in a.tags),
        "ground": lambda: [("locomotion", "")],
    }
    return lists[kind]()
