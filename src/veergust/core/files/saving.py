"""Saving: a plan, made by the one who holds the folder's lock, that is carried out whole or not at all."""

from __future__ import annotations

import contextlib
from collections.abc import Mapping
from itertools import count
from pathlib import Path
from typing import Any

import msgspec

from veergust.core.files.as_files import FOLDERS, check_files, project_files
from veergust.core.files.beneath import MOST_IN_ALL, Beneath, Missing
from veergust.core.files.folder import LONGEST_TEXT, digests, named_files
from veergust.core.files.lock import PATIENCE, Lock
from veergust.core.files.plan import Unfinished, digest, finish, stage
from veergust.core.files.progress import Progress, no_progress
from veergust.core.files.reading import reader_of
from veergust.core.files.text import bare
from veergust.core.model import Project
from veergust.core.trouble import Trouble
from veergust.core.wording import listed

Digests = Mapping[str, str]
"""The digests of a project's files as they were opened or last saved, by path in the folder."""


class Changed(Trouble):
    """Files that are to be written are not the ones that were opened any more."""

    def __init__(self, folder: Path, names: list[str]) -> None:
        super().__init__(
            f"{listed(names)} changed on disk since it was opened",
            file=folder.name,
            do="try again",
        )
        self.names = names


def save_project(
    project: Project,
    folder: Path,
    *,
    clips_from: Path | None = None,
    known: Digests | None = None,
    lock: Lock | None = None,
    also: Mapping[str, bytes] | None = None,
    progress: Progress = no_progress,
) -> dict[str, str]:
    """Save into ``folder``, whole or not at all, and give the digests of its files as they are then.

    ``clips_from`` is the folder whose clips come along, ``also`` are other files that come with the project.
    ``known`` are the digests as it was opened: a file that was changed since by somebody else is not overwritten
    (``Changed``), and only files known are ever removed. Without ``lock`` the folder is locked meanwhile. What could
    not be opened again is refused before anything is written (``Trouble``). ``Unfinished`` means that it is saved for
    certain, and not yet in place. ``progress`` must not give up.
    """
    files = project_files(project)
    check_files(project, {n: d for n, d in files.items() if (known or {}).get(n) != digest(d)}, folder.name)
    files |= also or {}
    with _ready(folder, clips_from, project) as more:
        files |= more
        with contextlib.ExitStack() as held:
            held.enter_context((lock or held.enter_context(Lock(folder, "command", PATIENCE))).turn)
            place = held.enter_context(Beneath(folder))
            _finish_before(place)
            _write(place, folder, files, known, progress)
    return digests(project_files(project))


def add_files(folder: Path, files: Mapping[str, bytes], *, lock: Lock | None = None) -> None:
    """Put files beside a project, such as clips, all or none. Without ``lock`` the folder is locked meanwhile."""
    try:
        with contextlib.ExitStack() as held:
            held.enter_context((lock or held.enter_context(Lock(folder, "command", PATIENCE))).turn)
            place = held.enter_context(Beneath(folder))
            _finish_before(place)
            stage(place, dict(files), (), {name: _digest_there(place, name) for name in files})
            finish(place)
    except OSError as error:
        raise _unwritten(folder, error) from error


def _finish_before(place: Beneath) -> None:
    """Bring what a save before this one made certain into place. When that fails nothing of this one is saved."""
    try:
        finish(place)
    except Unfinished as error:
        raise Trouble(
            f"cannot be written while the save before is not all in place ({error.why})",
            file=error.file,
            do="make room or mend the rights, and try again",
        ) from error


@contextlib.contextmanager
def _ready(folder: Path, clips_from: Path | None, project: Project) -> Any:
    """The folder made if it is not there, and what comes along; when it fails nothing that was made is left."""
    try:
        along = _along(project, folder, clips_from)
        made = _make(folder)
        try:
            yield along
        except BaseException as error:
            if not isinstance(error, Unfinished):
                for step in made:
                    with contextlib.suppress(OSError):
                        step.rmdir()
            raise
    except OSError as error:
        raise _unwritten(folder, error) from error


def _make(folder: Path) -> list[Path]:
    """Make a folder and those above it; gives the ones that were made, the lowest first."""
    made = []
    for step in (folder, *folder.parents):
        if step.exists():
            break
        made.append(step)
    folder.mkdir(parents=True, exist_ok=True)
    return made


def _along(project: Project, folder: Path, clips_from: Path | None) -> dict[str, bytes]:
    if clips_from is None or clips_from.resolve() == folder.resolve():
        return {}
    out = {}
    with Beneath(clips_from) as source:
        named = list(dict.fromkeys(n for _, n in named_files(project)))
        source.check_sizes([*named, *source.listed("sounds", ".wav")], MOST_IN_ALL, each=True)
        for name in named:
            with contextlib.suppress(Missing):
                out[name] = source.read(name)
                with contextlib.suppress(Trouble, ValueError):  # what is wrong with it is said when it is read
                    out |= reader_of(clips_from / name).beside(clips_from / name, clips_from, True)
        for name in source.listed("sounds", ".wav"):
            out[name] = source.read(name)
    return out


def _write(place: Beneath, folder: Path, files: dict[str, bytes], known: Digests | None, progress: Progress) -> None:
    there = {name: _digest_there(place, name) for name in files}
    write = {name: data for name, data in files.items() if there[name] != digest(data)}
    gone = [n for n in (_listed_there(place) if known is None else known) if n not in files]
    there |= {name: _digest_there(place, name) for name in gone}
    if known is not None:
        foreign = [n for n in [*write, *gone] if n.endswith(".json") and there[n] not in (known.get(n), None)]
        if foreign:
            raise Changed(folder, sorted(foreign))
    removed = [n for n in gone if there[n] is not None]
    # Each file is written, which takes the longest, and then moved or removed.
    steps = count(1)
    in_all = 2 * len(write) + len(removed)

    def told(name: str) -> None:
        progress("Saving", next(steps) / in_all)

    stage(place, write, removed, there, told)
    finish(place, told)


def _digest_there(place: Beneath, name: str) -> str | None:
    try:
        return digest(place.read(name))
    except Missing:
        return None
    except Trouble:
        if place.kind(name) in ("folder", "other"):
            raise Trouble(
                "is no ordinary file, and one is to be written there", file=f"{place.name}/{name}", do="move it away"
            ) from None
        raise


def _listed_there(place: Beneath) -> list[str]:
    """The actions, stages, drills and takes that the project in a folder names as its own."""
    try:
        top = msgspec.json.decode(bare(place.read("project.json", most=LONGEST_TEXT)))
        rows = [(kind, stem) for kind in FOLDERS for stem in top.get(kind, [])]
    except (Trouble, msgspec.DecodeError, UnicodeDecodeError, RecursionError, AttributeError, TypeError):
        return []
    return [f"{kind}/{stem}.json" for kind, stem in rows if isinstance(stem, str)]


def _unwritten(folder: Path, error: OSError) -> Trouble:
    return Trouble(
        f"cannot be written ({error.strerror or error})",
        file=str(folder),
        do="check the disk and the rights, or save somewhere else",
    )
