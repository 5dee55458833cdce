"""Fighters that are guests from another project: that is found beside the one on whose stage they stand, and read."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from pathlib import Path

from veergust.core.files.beneath import Missing
from veergust.core.files.folder import open_project
from veergust.core.model import Fighter, Project
from veergust.core.motion import Assets
from veergust.core.trouble import Trouble

ENDING = ".veergust"
Guest = tuple[Project, Assets]


def named_guests(project: Project) -> tuple[str, ...]:
    """The projects that fighters on any stage are of beside this one, by folder."""
    return tuple(dict.fromkeys(f.project for f in _fighters(project) if f.project))


def _fighters(project: Project) -> Iterator[Fighter]:
    for stage in (project.stage, *project.stages):
        yield from stage.fighters


def guest_folder(folder: Path, name: str) -> Path:
    """Where a guest's project lies: in a folder of that name beside a project's. Raises ``Trouble``."""
    plain = name.endswith(ENDING) and Path(name).name == name and not any(ord(c) < 32 or c in "/\\:" for c in name)
    if not plain:
        says = f"names {name[:80]!r}, which is no project folder beside this one"
        raise Trouble(says, file=f"{folder.name}/stage.json", field="fighters.project", do="name a folder beside it")
    return folder.parent / name


def beside(folder: Path) -> list[str]:
    """The projects in the folder in which this one lies, by their folders' names."""
    try:
        there = sorted(p.name for p in folder.resolve().parent.iterdir() if p.name.endswith(ENDING))
    except OSError:
        return []
    own = folder.resolve().name
    return [name for name in there if name != own and (folder.parent / name / "project.json").is_file()]


def guests_of(
    project: Project, folder: Path, load: Callable[[Project, Path], Assets], known: Mapping[str, Guest] = {}
) -> tuple[dict[str, Guest], list[str]]:
    """The guests of a project with what their files hold, as ``load`` reads those, by folder, and a sentence for each
    that cannot be had.

    Raises ``Trouble`` for a name that leads elsewhere.
    """
    out: dict[str, Guest] = {}
    missing = []
    for name in named_guests(project):
        where = guest_folder(folder, name)
        if name in known:
            out[name] = known[name]
            continue
        try:
            theirs = open_project(where)
            if theirs.settings.rate != project.settings.rate:
                rates = f"{theirs.settings.rate} frames a second, and this project at {project.settings.rate}"
                missing.append(f"{name} plays at {rates}")
                continue
            out[name] = theirs, load(theirs, where)
        except (Missing, Trouble) as trouble:
            missing.append(f"{name} cannot be read: {str(trouble).rstrip('.')}")
    return out, missing
