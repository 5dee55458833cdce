"""Finding anything by name: actions, clips, commands, each leading to where it is used."""

from __future__ import annotations

from dataclasses import dataclass

from veergust.core.model import Project


@dataclass(frozen=True)
class Found:
    """A line of the list: what it says, and the action it leads to (none: nothing uses it)."""

    says: str
    action: str


def everything(project: Project) -> list[Found]:
    """Every action, clip and command, in the project's order."""
    out = [Found(a.name, a.name) for a in project.actions]
    for clip in project.clips:
        users = [a.name for a in project.actions if any(c.clip == clip.name for s in a.sections for c in s.cuts)]
        ground = [s.name for s in project.ground.states if clip.name in (s.clip, *(p.clip for p in s.blend))]
        where = ", ".join([*users, *(f"ground {g}" for g in ground)]) or "nothing uses it"
        out.append(Found(f"{clip.name} · clip · {where}", users[0] if users else ""))
    for command in project.commands:
        starts = [a.name for a in project.actions if command.name in a.start.commands]
        keys = f" on {command.keys[0]}" if command.keys else ""
        where = ", ".join(starts) or "starts nothing"
        out.append(Found(f"{command.name} · command{keys} · {where}", starts[0] if starts else ""))
    return out
