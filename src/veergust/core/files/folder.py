"""The project folder, read.

``NAME.veergust/`` holds ``project.json``, ``ground.json``, ``stage.json``, ``actions/*.json``, ``stages/*.json``,
``drills/*.json``, ``takes/*.json`` and ``clips/``. A save is a plan (``plan``), made by the one who holds the folder's
lock (``lock``); reading changes nothing and sees the old project or the new one, also while a save goes on. Files the
program does not know, and those somebody else put there, are left alone.
"""

from __future__ import annotations

import contextlib
import time
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path

from veergust.core.files.as_files import FOLDERS, action_path, project_from_files
from veergust.core.files.beneath import Beneath, Missing, reference
from veergust.core.files.bounds import check_bounds
from veergust.core.files.plan import COMMIT, SAVING, digest, pending, strangers
from veergust.core.model import Project
from veergust.core.trouble import Trouble

LONGEST_TEXT = 64 << 20
"""No JSON file of a project is longer (bytes)."""
LONGEST_TEXTS = 1 << 30
"""Nor are all of them together."""
MOST_FILES = 10_000
PATIENCE = 10.0
"""Seconds that reading waits for a moment between two saves."""


def read_folder(folder: Path) -> dict[str, bytes]:
    """The JSON files of a project folder, all of one state: the old one or the new one while a save goes on.

    Changes nothing. Raises ``Trouble``.
    """
    if not folder.is_dir():
        raise Trouble("is not a project folder", file=str(folder), do="give the path of a .veergust folder")
    end = time.monotonic() + PATIENCE
    with Beneath(folder) as place:
        while True:
            found = _read_once(place)
            if found is not None:
                return found
            if time.monotonic() > end:
                raise Trouble("is being saved all the time", file=folder.name, do="wait a little and try again")
            time.sleep(0.002)


def _read_once(place: Beneath) -> dict[str, bytes] | None:
    """The files, or None when somebody wrote while they were read."""
    before = _stamps(place)
    try:
        plan = pending(place)
    except Trouble:
        plan = None  # left as it is: it counts for nothing
    place.check_sizes([name for name in before if name != SAVING], LONGEST_TEXTS, each=True)
    try:
        files = {name: place.read(name, most=LONGEST_TEXT) for name in before if name != SAVING}
        for name, change in (plan.files if plan is not None else {}).items():
            if not name.endswith(".json"):
                continue
            if change.brings is None:
                files.pop(name, None)
            elif name not in files or digest(files[name]) != change.brings:
                files[name] = place.read(f"{SAVING}/{name}", most=LONGEST_TEXT)
    except Missing:
        if _stamps(place) == before:
            raise  # nobody took it away just now: a link that leads to nothing
        return None
    return files if _stamps(place) == before else None


def _stamps(place: Beneath) -> dict[str, object]:
    """What tells one state of the folder from another without reading it."""
    names = ["project.json", "ground.json", "stage.json"]
    names += [name for folder in FOLDERS for name in place.listed(folder, ".json")]
    if len(names) > MOST_FILES:
        raise Trouble(f"holds more than {MOST_FILES} files", file=place.name, do="split the project")
    out: dict[str, object] = {name: place.stamp(name) for name in names if place.kind(name)}
    with contextlib.suppress(Trouble):  # a list behind a link counts for nothing
        out[SAVING] = place.stamp(COMMIT)
    return out


def digests(files: Mapping[str, bytes]) -> dict[str, str]:
    """The digest of each file."""
    return {name: digest(data) for name, data in files.items()}


@dataclass(frozen=True)
class LeftSave:
    """An unfinished save that is left as it is: what is said of it, and whether it could be finished all the same."""

    says: str = ""
    fits: bool = False


def unfinished(folder: Path) -> LeftSave:
    """The unfinished save in a folder that is left as it is; it says nothing when all is well."""
    try:
        with Beneath(folder) as place:
            plan = pending(place)
            strange = plan is not None and not plan.is_own
            return LeftSave(str(strangers(place, plan)), True) if plan is not None and strange else LeftSave()
    except Trouble as trouble:
        return LeftSave(str(trouble))


def open_project(folder: Path) -> Project:
    """Read a project folder. Raises ``Trouble`` naming file and field; nothing is changed."""
    return project_of(read_folder(folder), folder)


def project_of(files: dict[str, bytes], folder: Path) -> Project:
    """The project in files read from ``folder``, with its numbers and references checked. Raises ``Trouble``."""
    project = project_from_files(files, folder.name)
    check_bounds(project, folder.name, lambda action: action_path(project, action))
    with Beneath(folder) as place:
        for field, file in named_files(project):
            place.stamp(reference(file, file=f"{folder.name}/project.json", field=field))
    return project


def named_files(project: Project) -> list[tuple[str, str]]:
    """Field and path of every file that a project names."""
    rows = [(f"clips[{i}].file", clip.file) for i, clip in enumerate(project.clips) if clip.file]
    rows += [("rig.figure", project.rig.figure)] if project.rig.figure else []
    rows += [(f"rig.sheets[{i}]", file) for i, file in enumerate(project.rig.sheets)]
    return rows + [(f"rig.props[{i}].file", prop.file) for i, prop in enumerate(project.rig.props)]
