"""The record of errors nobody foresaw: told in a sentence, kept with where they came from for whoever mends them."""

from __future__ import annotations

import contextlib
import traceback
from datetime import datetime
from pathlib import Path

import platformdirs

LONGEST = 1 << 20


def faults_file() -> Path:
    """Where they are kept."""
    return platformdirs.user_state_path("veergust") / "faults.log"


def note(error: BaseException) -> str:
    """Keep an error, and give the sentence that says so."""
    words = f"Something went wrong that should not ({type(error).__name__}: {error})"
    path = faults_file()
    with contextlib.suppress(OSError):
        path.parent.mkdir(parents=True, exist_ok=True)
        old = path.stat().st_size if path.exists() else 0
        with path.open("wb" if old > LONGEST else "ab") as out:
            text = "".join(traceback.format_exception(error))
            out.write(f"{datetime.now().isoformat(timespec='seconds')}\n{text}\n".encode(errors="backslashreplace"))
        return f"{words}; where it came from is in {path}."
    return f"{words}."
