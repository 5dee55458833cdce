"""Alternates of an action: kept under a name, flipped to, dropped. They are in the action, and saved with it."""

from __future__ import annotations

from collections.abc import Callable

from msgspec.structs import replace

from veergust.core.edit.cuts import with_action
from veergust.core.edit.spans import Edit, action_of
from veergust.core.model import Action, Kept, Project
from veergust.core.trouble import Trouble


def bare(action: Action) -> Action:
    """An action without its alternates."""
    return replace(action, kept=(), version="first")


def keep(project: Project, name: str, label: str) -> Edit:
    """Keep the action as it is under a name of its own; what is changed from now on is another version."""
    action = action_of(project, name)
    label = label.strip()
    taken = {action.version, *(k.name for k in action.kept)}
    if not label:
        raise Trouble("a version needs a name", field="name", do="type one")
    if label in taken:
        raise Trouble(f"there is a version {label!r} already", field="name", do="choose another name")
    kept = (*action.kept, Kept(name=action.version, action=bare(action)))
    return Edit(with_action(project, replace(action, version=label, kept=kept)), f"{name}: {label} goes on from here")


def flip(project: Project, name: str, index: int) -> Edit:
    """Play a kept version; the one that played is kept in its place, so that flipping again is what it was."""
    action = action_of(project, name)
    chosen = action.kept[index]
    mine = Kept(name=action.version, action=bare(action))
    kept = tuple(mine if i == index else k for i, k in enumerate(action.kept))
    made = replace(chosen.action, name=action.name, version=chosen.name, kept=kept)
    return Edit(with_action(project, made), f"{name}: now as {chosen.name}")


def drop(project: Project, name: str, index: int) -> Edit:
    """Forget a kept version."""
    action = action_of(project, name)
    gone = action.kept[index]
    kept = tuple(k for i, k in enumerate(action.kept) if i != index)
    return Edit(with_action(project, replace(action, kept=kept)), f"{name}: version {gone.name} dropped")


def throughout(action: Action, change: Callable[[Action], Action]) -> Action:
    """An action changed, and its kept versions with it: so that what is renamed is followed in them too."""
    made = change(action)
    if not made.kept:
        return made
    kept = tuple(replace(k, action=change(k.action)) for k in made.kept)
    return replace(made, kept=kept) if kept != made.kept else made
