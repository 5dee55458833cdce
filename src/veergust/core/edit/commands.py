"""Commands: new ones, the keys they are bound to, and the gestures they are made by."""

from __future__ import annotations

from typing import Any, Literal

from msgspec.structs import replace

from veergust.core.edit.names import typed
from veergust.core.edit.parameters import through
from veergust.core.edit.spans import Edit
from veergust.core.kinds import CONDITIONS, asked_for, listed_commands
from veergust.core.model import (
    Action,
    Command,
    Condition,
    DrillStep,
    Exit,
    Fighter,
    Gesture,
    Jump,
    Locomotion,
    Pool,
    Project,
    StartRule,
)
from veergust.core.trouble import Trouble, named

COMMAND_TESTS = frozenset(name for name, kind in CONDITIONS.items() if kind.of == "command")
"""The conditions that name a command."""


def who_has(project: Project, key: str) -> str:
    """The command that a key is bound to, for whichever player; nothing when it is free."""
    return next((c.name for c in project.commands if key in (*c.keys, *c.second)), "")


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


def bind(
    project: Project, name: str, key: str, *, take_over: bool = False, player: Literal["keys", "second"] = "keys"
) -> Edit:
    """A command on one more key, of the first player or the ``second``.

    Raises:
        Trouble: the key is taken, and not to be taken over; or it is on a pad, which is bound once for both players.
    """
    command = named(project.commands, name, "command")
    if key in getattr(command, player):
        return Edit(project, f"{name}: on {key}")
    if player == "second" and key.startswith(("pad ", "mouse ")):
        raise Trouble(f"{key} is bound for both players", field="key", do="bind it for the first player")
    commands = _without(project, key, "" if take_over else name)
    made = tuple(replace(c, **{player: (*getattr(c, player), key)}) if c.name == name else c for c in commands)
    return Edit(replace(project, commands=made), f"{name}: on {key}")


def unbind(project: Project, name: str, key: str) -> Edit:
    """A command without one of its keys."""
    command = named(project.commands, name, "command")
    keys, second = (tuple(k for k in there if k != key) for there in (command.keys, command.second))
    return set_command(project, name, f"not on {key}", keys=keys, second=second)


def set_command(project: Project, name: str, words: str, **fields: Any) -> Edit:
    """A command with other fields."""
    command = named(project.commands, name, "command")
    made = tuple(replace(c, **fields) if c is command else c for c in project.commands)
    return Edit(replace(project, commands=made), f"{name}: {words}")


GESTURES: dict[str, Gesture] = {
    "held": Gesture(kind="held", ticks=12),
    "let go": Gesture(kind="let go", ticks=20),
    "double": Gesture(kind="double", within=14),
    "together": Gesture(kind="together", within=3),
    "motion": Gesture(kind="motion", ways=("back", "forward"), within=12),
}
"""Each kind of gesture as it begins; a motion's first command is the one that is pressed at its end."""
PARTS = {"held": 1, "let go": 1, "double": 1, "together": 2, "motion": 1}


def set_gesture(project: Project, name: str, kind: str) -> Edit:
    """A command made by a gesture of a kind, of the first commands that are pressed; or by a press (``""``).

    Raises ``Trouble`` where there are too few commands that it could be made of.
    """
    if not kind:
        return set_command(project, name, "a press", gesture=None)
    command = named(project.commands, name, "command")
    there = {c.name for c in project.commands if c.gesture is None and c.name != name}
    plain = [n for n in listed_commands(project) if n in there]
    of = [n for n in command.gesture.of if n in plain] if command.gesture is not None else []
    of += [n for n in plain if n not in of]
    if len(of) < PARTS[kind]:
        says = "there are too few other commands that are pressed"
        raise Trouble(says, field="gesture", do="make the commands it is made of")
    return set_command(project, name, kind, gesture=replace(GESTURES[kind], of=tuple(of[: PARTS[kind]])))


def change_gesture(project: Project, name: str, words: str, **fields: Any) -> Edit:
    """A command's gesture with other fields. Raises ``Trouble`` for one that nobody could make."""
    gesture = named(project.commands, name, "command").gesture
    if gesture is None:
        raise Trouble(f"{name} is a press", field="gesture", do="choose how it is made first")
    made = replace(gesture, **fields)
    if not made.of and (made.kind != "motion" or not made.ways):
        raise Trouble("a gesture needs something it is made of", field="gesture", do="choose a command or a way")
    if made.kind == "together" and len(set(made.of)) < 2:
        raise Trouble("one key alone is not pressed together with itself", field="gesture", do="choose two commands")
    return set_command(project, name, words, gesture=made)


def rename_command(project: Project, old: str, new: str) -> Edit:
    """A command under another name, wherever it is asked for. Raises ``Trouble`` where the name is taken or empty."""
    named(project.commands, old, "command")
    new = typed(new, old, {c.name for c in project.commands}, "command")

    def other(names: tuple[str, ...]) -> tuple[str, ...]:
        return tuple(new if n == old else n for n in names) if old in names else names

    def renamed(value: Any) -> Any:
        if isinstance(value, Condition):
            asks = value.test in COMMAND_TESTS and value.name == old
            return replace(value, name=new) if asks else value
        if isinstance(value, Command):
            return replace(value, name=new) if value.name == old else value
        for field in ("commands", "sequence", "of"):
            there = getattr(value, field, ())
            if isinstance(value, StartRule | Pool | Exit | Gesture) and other(there) is not there:
                value = replace(value, **{field: other(there)})
        if isinstance(value, Exit | Jump | DrillStep) and value.command == old:
            return replace(value, command=new)
        if isinstance(value, Fighter) and value.answer == old:
            return replace(value, answer=new)
        return value

    return Edit(through(project, renamed), f"{old} is called {new}")


def remove_command(project: Project, name: str) -> Edit:
    """The project without a command. Raises ``Trouble`` while anything asks for it."""
    named(project.commands, name, "command")
    users = [c.name for c in project.commands if c.gesture is not None and name in c.gesture.of]
    users += [a.name for a in project.actions if name in asked_for(replace(project, **_alone(a)))]
    if users or name in asked_for(project):
        who = ", ".join(users[:4]) or "the ground or a pool"
        raise Trouble(f"{who} asks for {name!r}", field="command", do="take it out there first")
    left = tuple(c for c in project.commands if c.name != name)
    return Edit(replace(project, commands=left), f"Remove command {name}")


def _alone(action: Action) -> dict[str, Any]:
    """What makes a project one of this action alone."""
    return {"actions": (action,), "pools": (), "locomotion": Locomotion(), "layers": ()}


def _without(project: Project, key: str, keeps: str) -> tuple[Command, ...]:
    """The commands with a key taken from whoever has it; with ``keeps``, the one that wants it, refused instead."""
    has = who_has(project, key) if key else ""
    if has and keeps:
        raise Trouble(f"{key} is the key of {has}", field="key", do="press another, or take it over")
    return tuple(
        replace(c, keys=tuple(k for k in c.keys if k != key), second=tuple(k for k in c.second if k != key))
        if c.name == has
        else c
        for c in project.commands
    )
