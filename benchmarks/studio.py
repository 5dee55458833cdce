"""A studio's project: the demo's moves over and over, each with clips in files of its own, on the demo's ground.

Nothing of it is made by hand, and no two of it are the same object: what is quick only because it was seen before is
not quick here.
"""

from __future__ import annotations

import shutil
from pathlib import Path

from msgspec.structs import replace

from veergust.core.files.demo import copy_demo
from veergust.core.files.folder import open_project
from veergust.core.files.saving import save_project
from veergust.core.model import Action, Clip, Project

FEEL = ("short", "long", "low", "high", "slow", "quick", "wide", "close")


def studio(count: int, folder: Path, clips: int | None = None) -> Path:
    """A project folder of ``count`` actions and about twice as many clips (or ``clips``), made at ``folder``."""
    copy_demo(folder)
    small = open_project(folder)
    more = _clips(small, 2 * count if clips is None else clips, folder)
    by_source: dict[str, list[str]] = {}
    for clip in (*small.clips, *more):
        by_source.setdefault(clip.animation, []).append(clip.name)
    actions = [_again(small.actions[n % len(small.actions)], n // len(small.actions), by_source) for n in range(count)]
    save_project(replace(small, actions=tuple(actions), clips=(*small.clips, *more)), folder)
    return folder


def _clips(small: Project, most: int, folder: Path) -> list[Clip]:
    """Copies of the demo's clips, up to ``most`` with them, each with a file of its own."""
    made = []
    for n in range(len(small.clips), most):
        clip = small.clips[n % len(small.clips)]
        name = f"{clip.name}_{n // len(small.clips):03d}"
        file = f"clips/{name}.glb"
        shutil.copyfile(folder / clip.file, folder / file)
        made.append(replace(clip, name=name, file=file))
    return made


def _again(action: Action, lap: int, by_source: dict[str, list[str]]) -> Action:
    """An action of the demo once more, with other clips of the same motion."""
    if lap == 0:
        return action

    def other(name: str) -> str:
        same = by_source.get(name, [name])
        return same[lap % len(same)]

    sections = tuple(replace(s, cuts=tuple(replace(c, clip=other(c.clip)) for c in s.cuts)) for s in action.sections)
    return replace(action, name=f"{action.name}, {FEEL[lap % len(FEEL)]} {lap}", sections=sections)
