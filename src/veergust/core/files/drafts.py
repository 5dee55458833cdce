"""Projects without a place of the person's choosing yet: folders of their own that hold what came in until a save.

A draft is a project folder like any other, in the person's data folder, so that a crash loses nothing of it. It goes
when it was saved somewhere, or given up.
"""

from __future__ import annotations

import contextlib
import os
import shutil
from itertools import count
from pathlib import Path

from veergust.core.files.folder import open_project
from veergust.core.files.left import left_behind
from veergust.core.files.lock import Lock
from veergust.core.files.places import drafts_folder, is_draft
from veergust.core.files.saving import save_project
from veergust.core.model import Project
from veergust.core.trouble import Trouble


def make_draft(project: Project) -> Path:
    """A new draft that holds a project. Raises ``Trouble`` and leaves nothing then."""
    home = drafts_folder()
    try:
        home.mkdir(parents=True, exist_ok=True, mode=0o700)
        for n in count(1):
            folder = home / f"untitled_{n}.veergust"
            with contextlib.suppress(FileExistsError):
                folder.mkdir(mode=0o700)
                break
    except OSError as error:
        raise Trouble(
            f"cannot be written ({error.strerror})", file=str(home), do="save the project first, somewhere else"
        ) from error
    try:
        save_project(project, folder)
    except BaseException:
        shutil.rmtree(folder, ignore_errors=True)
        raise
    return folder


def throw_away_draft(folder: Path) -> None:
    """Remove a draft, unless work that a crash left waits for it; the caller holds its lock."""
    if is_draft(folder) and not left_behind(folder):
        shutil.rmtree(folder, ignore_errors=True)


def left_drafts() -> list[Path]:
    """Drafts that nobody has open and that hold something, the newest first; what holds nothing is removed."""
    out = []
    with contextlib.suppress(OSError):
        rows = sorted(drafts_folder().iterdir(), key=lambda p: p.stat().st_mtime, reverse=True)
        for folder in rows:
            with contextlib.suppress(Trouble), Lock(folder):
                if left_behind(folder) or _holds_something(folder):
                    out.append(folder)
                else:
                    throw_away_draft(folder)
    return out


def _holds_something(folder: Path) -> bool:
    try:
        return open_project(folder) != Project()
    except Trouble:
        return any(os.scandir(folder / "clips")) if (folder / "clips").is_dir() else False
