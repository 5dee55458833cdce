"""Writing a file so that it is there whole or not at all."""

from __future__ import annotations

import contextlib
import os
import stat
from collections.abc import Iterator
from pathlib import Path
from typing import BinaryIO

from veergust.core.trouble import Trouble


@contextlib.contextmanager
def whole_file(path: Path) -> Iterator[BinaryIO]:
    """A file to write. It takes its place when all of it is on the disk; when anything fails there is none.

    A pipe or a device is written as it is. Raises ``Trouble`` when it cannot be written.
    """
    try:
        target = Path(os.path.realpath(path))
        mode = _mode(target)
        if mode is not None and not stat.S_ISREG(mode):
            if stat.S_ISDIR(mode):
                raise Trouble("is a folder", file=str(path), do="give the name of a file")
            # A pipe that nobody reads is refused, not waited for.
            fd = os.open(target, os.O_WRONLY | os.O_NONBLOCK | os.O_CLOEXEC)
            os.set_blocking(fd, True)
            with os.fdopen(fd, "wb") as out:
                yield out
            return
        draft = target.with_name(f".{target.name[:80]}.{os.getpid()}.part")
        fd = os.open(draft, os.O_WRONLY | os.O_CREAT | os.O_EXCL | os.O_CLOEXEC, 0o666)
        try:
            with os.fdopen(fd, "wb") as out:
                if mode is not None:
                    os.fchmod(fd, stat.S_IMODE(mode))
                yield out
                out.flush()
                os.fsync(fd)
            os.replace(draft, target)
        except BaseException:
            with contextlib.suppress(OSError):
                os.unlink(draft)
            raise
    except (OSError, ValueError) as error:
        why = getattr(error, "strerror", None) or error
        raise Trouble(f"cannot be written ({why})", file=str(path), do="choose another place") from error


def _mode(path: Path) -> int | None:
    try:
        return os.stat(path).st_mode
    except FileNotFoundError:
        return None
