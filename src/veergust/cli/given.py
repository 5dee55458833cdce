"""What commands are given: a project that is whole enough, ticks, joints by name."""

from __future__ import annotations

import re
from pathlib import Path

from veergust.cli.saying import warn
from veergust.core.files import BROUGHT, SPOKEN, load_assets, missing_clips, open_project, unfinished
from veergust.core.model import Project
from veergust.core.play import CompiledProject
from veergust.core.trouble import Trouble, Unknown

MOST_PANELS = 240


def load(
    folder: Path, *, whole: bool = False, actions: tuple[str, ...] = (), locomotion: bool = True
) -> tuple[Project, CompiledProject]:
    """A project and its build. With ``whole`` the clips of the actions (all, or those named) must be there, and with
    ``ground`` those of locomotion."""
    project = open_project(folder)
    left = unfinished(folder).says
    if left:
        warn(left)
    assets, _ = load_assets(project, folder)
    wanted = tuple(a for a in project.actions if not actions or a.name in actions)
    for trouble in missing_clips(project, assets, folder.name, wanted, locomotion=locomotion) if whole else ():
        raise trouble
    return project, CompiledProject(project, assets)


def to_open(paths: tuple[Path, ...]) -> tuple[Path | None, tuple[Path, ...]]:
    """What the window opens with: a project folder, or the ``project.json`` in one, and motion files to bring in."""
    files = tuple(p for p in paths if p.suffix.lower() in BROUGHT and not p.is_dir())
    rest = [p.parent if p.name == "project.json" and p.is_file() else p for p in paths if p not in files]
    for file in files:
        if not file.is_file():
            raise Trouble("is not there", file=str(file), do="give the path of a motion file")
    if len(rest) > 1:
        raise Trouble("is one project too many", file=str(rest[1]), do="open one at a time")
    if rest and rest[0].is_file():
        raise Trouble("is no project", file=str(rest[0]), do=f"give a .veergust folder, or {SPOKEN} files")
    return (rest[0] if rest else None), files


def tick_list(text: str) -> tuple[int, ...]:
    """``FROM:TO[:STEP]`` as ticks, TO left out."""
    match = re.fullmatch(r"(\d{1,7}):(\d{1,7})(?::(\d{1,7}))?", text)
    found = range(int(match[1]), int(match[2]), max(int(match[3] or 1), 1)) if match else range(0)
    if match is None or match[3] == "0" or not 0 < len(found) <= MOST_PANELS:
        raise Trouble(f"--ticks {text!r} names no ticks", do=f"write FROM:TO or FROM:TO:STEP, {MOST_PANELS} at most")
    return tuple(found)


def joints_named(build: CompiledProject, project: str, joints: str | None) -> dict[str, int]:
    """Joints of the figure by the names that are given, comma between them. Raises ``Unknown``."""
    index = build.assets.skeleton.index
    names = [name.strip() for name in joints.split(",")] if joints is not None else []
    for name in names:
        if name not in index:
            raise Unknown("joint", name, index, file=project)
    return {name: index[name] for name in names}
