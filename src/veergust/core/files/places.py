"""Where a person's own things lie: journals and drafts. Whoever asks only whether there are any reads none."""

from __future__ import annotations

import hashlib
import os
from pathlib import Path

import platformdirs


def journal_folder() -> Path:
    """Where journals lie."""
    return platformdirs.user_state_path("veergust") / "journal"


def journal_key(folder: Path | None) -> str:
    """How the journals of a project folder begin, or those of projects that have none yet."""
    if folder is None:
        return "untitled"
    return hashlib.sha256(os.fsencode(folder.resolve())).hexdigest()[:16]


def journals_of(folder: Path | None) -> list[Path]:
    """The journals of a project folder, whoever writes them, the newest first."""
    return sorted(journal_folder().glob(f"{journal_key(folder)}-*.journal"), reverse=True)


def drafts_folder() -> Path:
    """Where drafts lie."""
    return platformdirs.user_data_path("veergust") / "untitled"


def is_draft(folder: Path | None) -> bool:
    """Whether a project folder is a draft."""
    return folder is not None and folder.parent == drafts_folder()


def any_drafts() -> bool:
    """Whether there is a draft, whoever has it open."""
    try:
        return next(drafts_folder().iterdir(), None) is not None
    except OSError:
        return False
