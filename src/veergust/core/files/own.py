"""What tells that this person made something on this machine: a mark that takes a secret of their own to make.

The secret lies in the person's state folder, readable for nobody else, and never in a project. Where it cannot be
kept there is one for the run, and what a crash leaves counts as a stranger's.
"""

from __future__ import annotations

import contextlib
import functools
import hashlib
import hmac
import os
import secrets
import stat
from pathlib import Path

import platformdirs

_LONG = 32
_READ = os.O_RDONLY | os.O_NOFOLLOW | os.O_NONBLOCK | os.O_CLOEXEC


def mark(text: bytes) -> str:
    """The mark of a text (HMAC-SHA-256, RFC 2104), in hexadecimal digits."""
    return hmac.new(_secret(platformdirs.user_state_path("veergust")), text, hashlib.sha256).hexdigest()


def is_own(text: bytes, marked: str) -> bool:
    """Whether a text was marked by this person."""
    return hmac.compare_digest(mark(text).encode(), marked.encode("utf-8", "replace"))


@functools.cache
def _secret(folder: Path) -> bytes:
    path = folder / "secret"
    with contextlib.suppress(OSError):
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        return _read(path) or _made(path)
    return secrets.token_bytes(_LONG)


def _read(path: Path) -> bytes | None:
    """The secret that is there; None when it is none, or one that others could have made or read."""
    try:
        fd = os.open(path, _READ)
    except OSError:
        return None
    with os.fdopen(fd, "rb") as source:
        found = os.fstat(fd)
        theirs = found.st_uid != os.getuid() or found.st_mode & 0o077 or not stat.S_ISREG(found.st_mode)
        data = b"" if theirs else source.read(_LONG + 1)
    return data if len(data) == _LONG else None


def _made(path: Path) -> bytes:
    """Make a secret, whole or not at all; of two that are made at once the first counts. Raises ``OSError``."""
    draft = path.with_name(f".secret.{os.getpid()}.{secrets.token_hex(4)}")
    with os.fdopen(os.open(draft, os.O_WRONLY | os.O_CREAT | os.O_EXCL | os.O_CLOEXEC, 0o600), "wb") as out:
        out.write(secrets.token_bytes(_LONG))
        out.flush()
        os.fsync(out.fileno())
    try:
        with contextlib.suppress(FileExistsError):
            os.link(draft, path)
        found = _read(path)
        if found is None:  # what stands there is no secret: it gives way
            os.replace(draft, path)
            found = _read(path)
    finally:
        with contextlib.suppress(OSError):
            os.unlink(draft)
    if found is None:
        raise OSError("no secret can be kept")
    return found
