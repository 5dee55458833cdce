"""Small changes to the demo that tests of play and study make."""

from __future__ import annotations

from typing import Any

import msgspec

from veergust.core.model import Action, Fighter, Floor, Project, Section

replace = msgspec.structs.replace
WIDE = (Floor(low=(-500.0, -500.0), high=(500.0, 500.0)),)
"""A floor that nobody comes to the end of."""


def action(project: Project, name: str) -> Action:
    return next(a for a in project.actions if a.name == name)


def with_action(project: Project, name: str, **fields: Any) -> Project:
    changed = replace(action(project, name), **fields)
    return replace(project, actions=tuple(changed if a.name == name else a for a in project.actions))


def with_section(project: Project, name: str, index: int, **fields: Any) -> Project:
    sections = list(action(project, name).sections)
    sections[index] = replace(sections[index], **fields)
    return with_action(project, name, sections=tuple(sections))


def alone(project: Project, **stage: Any) -> Project:
    """Only the first fighter, nothing else about."""
    fighters = tuple(f for f in project.stage.fighters if f.plays == "keys")
    return replace(project, stage=replace(project.stage, fighters=fighters, posts=(), **stage))


def facing(project: Project, *fighters: Fighter) -> Project:
    return replace(project, stage=replace(project.stage, fighters=fighters, posts=()))


def adding(project: Project, *actions: Action) -> Project:
    return replace(project, actions=(*project.actions, *actions))


def section(clip: str = "idle", seconds: float = 0.2, **fields: Any) -> Section:
    from veergust.core.model import Cut

    return Section(name=fields.pop("name", "One"), cuts=(Cut(clip=clip, end=seconds),), **fields)
