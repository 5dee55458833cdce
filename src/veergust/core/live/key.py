"""The key that game and editor agree on: a file of the person's own, which nobody else can read."""

from __future__ import annotations

import contextlib
import os
import secrets
import stat
from pathlib import Path

import platformdirs

from veergust.core.trouble import Trouble

PORT = 28519
"""Where a game listens unless it is said otherwise."""


def usual_key() -> Path:
    """Where the key lies unless it is said otherwise."""
    return platformdirs.user_data_path("veergust") / "live.key"


def key_in(path: Path) -> str:
    """The key in a file; one is made where there is none. Raises ``Trouble`` where others can read it."""
    try:
        if not path.exists():
            path.parent.mkdir(parents=True, exist_ok=True)
            with contextlib.suppress(FileExistsError):  # the other side was quicker
                flags = os.O_WRONLY | os.O_CREAT | os.O_EXCL
                with os.fdopen(os.open(path, flags, 0o600), "w", encoding="ascii") as out:
                    out.write(secrets.token_hex(24) + "\n")
        if stat.S_IMODE(path.stat().st_mode) & 0o077:
            raise Trouble("can be read by others", file=str(path), do="chmod 600 it, or take it away")
        return path.read_text(encoding="utf-8").strip()
    except (OSError, ValueError) as error:
        why = getattr(error, "strerror", None) or "it is no text"
        raise Trouble(f"cannot be read ({why})", file=str(path), do="give another with --key") from error
