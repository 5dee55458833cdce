"""Fields of a whole action: its place, its start, its blends, and what runs at its start and endings."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace

from veergust.core.edit.cuts import with_action
from veergust.core.edit.spans import Edit, action_of
from veergust.core.model import Ending, Project, Setting
from veergust.core.trouble import Trouble

ENDINGS = {
    "on_start": "on start",
    "on_completed": "on completed",
    "on_cancelled": "on cancelled",
    "on_broken": "on broken",
}


def set_action(project: Project, name: str, words: str, **fields: Any) -> Edit:
    """An action with other fields."""
    return Edit(with_action(project, replace(action_of(project, name), **fields)), f"{name}: {words}")


def set_start(project: Project, name: str, words: str, **fields: Any) -> Edit:
    """An action with another start rule."""
    action = action_of(project, name)
    return set_action(project, name, words, start=replace(action.start, **fields))


def set_ending(project: Project, name: str, which: str, parameters: str, message: str) -> Edit:
    """What runs at a start or an ending: ``parameters`` reads ``heat = 1, stance = 0``.

    Raises ``Trouble`` for a parameter that is not a name and a number.
    """
    ending = Ending(parameters=read_settings(parameters), message=message.strip())
    return set_action(project, name, ENDINGS[which], **{which: ending})


def read_settings(text: str) -> tuple[Setting, ...]:
    """Settings written as ``name = number``, with commas."""
    out = []
    for part in filter(None, (p.strip() for p in text.split(","))):
        setting, equals, value = (w.strip() for w in part.partition("="))
        try:
            out.append(Setting(setting=setting, value=float(value)))
        except ValueError:
            equals = ""
        if not setting or not equals:
            raise Trouble(f"{part!r} is no setting", field="parameters", do="write name = number, with commas")
    return tuple(out)


def write_settings(settings: tuple[Setting, ...]) -> str:
    """Settings as ``read_settings`` reads them."""
    return ", ".join(f"{s.setting} = {s.value:g}" for s in settings)
