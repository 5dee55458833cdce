"""Showing the window. Nothing of the core is imported for it, which a first window does not need."""

from __future__ import annotations

import sys
from pathlib import Path


def show_window(project: Path | None, files: tuple[Path, ...] = ()) -> None:
    """The window, with a project and files that are brought in; ends the process with its answer."""
    from veergust.desk.app import run

    sys.exit(run(project, files))
