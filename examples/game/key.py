"""The key that game and editor agree on: a file of the person's own, which nobody else can read."""

from __future__ import annotations

import os
import secrets
import stat
from pathlib import Path


def usual_key() -> Path:
    """Where the key lies unless it is said otherwise."""
    home = os.environ.get("XDG_DATA_HOME") or str(Path.home() / ".local" / "share")
    return Path(home) / "veergust" / "live.key"


def key_in(path: Path) -> str:
    """The key in a file; one is made where there is none.

    Raises:
        PermissionError: others can read it.
    """
    if not path.exists():
        path.parent.mkdir(parents=True, exist_ok=True)
        made = secrets.token_hex(24)
        try:
            with os.fdopen(os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "w") as out:
                out.write(made + "\n")
        except FileExistsError:
            pass  # the other side was quicker
    if stat.S_IMODE(path.stat().st_mode) & 0o077:
        raise PermissionError(f"{path} can be read by others; chmod 600 it, or take it away")
    return path.read_text().strip()
