"""Finding anything by name: actions, clips, states, commands, each leading to where it is used; and what the window
can do."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from veergust import core
from veergust.desk.keys.table import TABLE

if TYPE_CHECKING:
    from veergust.core.model import Project


@dataclass(frozen=True)
class Found:
    """A line of the list: what it says, and what it leads to: a part of the project, or a command of the window."""

    says: str
    action: str = ""
    clip: str = ""
    state: str = ""
    layer: str = ""
    does: str = ""


def everything(project: Project) -> list[Found]:
    """Every part of the project that has a name, in its order, then what the window does from everywhere."""
    out = [Found(a.name, a.name) for a in project.actions]
    used = core.study.users(project)
    for clip in project.clips:
        by = ", ".join(used.get(clip.name, ())) or "nothing uses it"
        out.append(Found(f"{clip.name} · clip · {by}", clip=clip.name))
    out += [Found(f"{s.name} · state", state=s.name) for s in project.locomotion.states]
    out += [Found(f"{y.name} · layer", layer=y.name) for y in project.layers]
    by_name = {c.name: c for c in project.commands}
    for command in (by_name[name] for name in core.kinds.listed_commands(project)):
        starts = [a.name for a in project.actions if command.name in a.start.commands]
        keys = f" on {command.keys[0]}" if command.keys else ""
        where = ", ".join(starts) or "starts nothing"
        out.append(Found(f"{command.name} · command{keys} · {where}", starts[0] if starts else ""))
    out += [Found(f"{c.does} · {c.words}", does=c.name) for c in TABLE if c.where == "everywhere" and c.name != "find"]
    return out
