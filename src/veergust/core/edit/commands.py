"""Commands: new ones, and the keys they are bound to."""

from __future__ import annotations

from msgspec.structs import replace

from veergust.core.edit.spans import Edit
from veergust.core.model import Command, Project
from veergust.core.trouble import Trouble, named


def who_has(project: Project, key: str) -> str:
    """The command that a key is bound to; nothing when it is free."""
    return next((c.name for c in project.commands if key in c.keys), "")


def add_command(project: Project, name: str, key: str = "", *, take_over: bool = False) -> Edit:
    """A new command, on a key if one is given; ``take_over`` takes it from the command that has it.

    Raises ``Trouble`` for a name that is empty or there already, and for a key that is taken.
    """
    name = name.strip()
    if not name:
        raise Trouble("a command needs a name", field="name", do="type one")
    if name in {c.name for c in project.commands}:
        raise Trouble(f"there is a command {name!r} already", field="name", do="choose another name")
    commands = _without(project, key, "" if take_over else name)
    made = Command(name=name, keys=(key,) if key else ())
    return Edit(replace(project, commands=(*commands, made)), f"New command {name}{f' on {key}' if key else ''}")


def bind(project: Project, name: str, key: str, *, take_over: bool = False) -> Edit:
    """A command on one more key. Raises ``Trouble`` for a key that is taken, unless it is to be taken over."""
    command = named(project.commands, name, "command")
    if key in command.keys:
        return Edit(project, f"{name}: on {key}")
    commands = _without(project, key, "" if take_over else name)
    made = tuple(replace(c, keys=(*c.keys, key)) if c.name == name else c for c in commands)
    return Edit(replace(project, commands=made), f"{name}: on {key}")


def _without(project: Project, key: str, keeps: str) -> tuple[Command, ...]:
    """The commands with a key taken from whoever has it; with ``keeps``, the one that wants it, refused instead."""
    has = who_has(project, key) if key else ""
    if has and keeps:
        raise Trouble(f"{key} is the key of {has}", field="key", do="press another, or take it over")
    return tuple(
        replace(c, keys=tuple(k for k in c.keys if k != key)) if c.name == has else c for c in project.commands
    )
