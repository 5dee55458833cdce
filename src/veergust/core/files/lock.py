"""One writer at a time: a lock on a file in the project folder, which the system frees when its holder ends.

The file names who holds it and since when. It goes when the lock is given back; one that a crash left is taken over.
"""

from __future__ import annotations

import contextlib
import errno
import fcntl
import os
import socket
import stat
import threading
import time
import weakref
from datetime import datetime
from pathlib import Path

import msgspec

from veergust.core.trouble import Trouble

LOCK = ".lock"
_LONGEST = 4096


PATIENCE = 60.0
"""Seconds that a command waits for another to be done."""


class Held(Trouble):
    """Somebody else has the project open to write."""


class CannotWrite(Trouble):
    """The folder cannot be locked; ``why`` says so of the folder, as what goes on being looked at."""

    why = "the folder can only be read"


class Holder(msgspec.Struct, frozen=True):
    """Who holds a lock: a window or a command, of which process on which machine, and since when."""

    kind: str
    process: int
    machine: str
    since: str

    def words(self) -> str:
        """As it is told: where it is open and since when."""
        try:
            then = datetime.fromisoformat(self.since)
            day = "" if then.date() == datetime.now().date() else f"{then:%d %B }"
            when = f" since {day}{then:%H:%M}"
        except ValueError:
            when = ""
        where = "" if self.machine == socket.gethostname() else f" on {self.machine[:60]}"
        return f"open in another {'command' if self.kind == 'command' else 'window'}{where}{when}"


class Lock:
    """The right to write into a folder, held until ``release`` or the end of the process."""

    def __init__(self, folder: Path, kind: str = "window", wait: float = 0.0) -> None:
        """Take the lock, waiting ``wait`` s for a command that holds it. Raises ``Held`` or ``CannotWrite``."""
        self.folder = folder
        self.turn = threading.RLock()
        """Held while files are brought into place, so that threads of one program take turns."""
        self._fd = -1
        self._end: weakref.finalize[..., Lock] | None = None
        end = time.monotonic() + wait
        while not self._take(kind):
            holder = holder_of(folder)
            if time.monotonic() >= end or (holder is not None and holder.kind != "command"):
                words = holder.words() if holder is not None else "open in another window"
                raise Held(f"is {words}", file=folder.name, do="close it there, or wait until it is done")
            time.sleep(0.02)

    def _take(self, kind: str) -> bool:
        path = self.folder / LOCK
        try:
            fd = os.open(path, os.O_RDWR | os.O_CREAT | os.O_NOFOLLOW | os.O_NONBLOCK | os.O_CLOEXEC, 0o644)
        except OSError as error:
            if error.errno in (errno.ELOOP, errno.ENXIO, errno.EISDIR):
                raise self._not_ours() from error
            raise self._unwritten(error, "check the folder's rights") from error
        try:
            found = os.fstat(fd)
            if not stat.S_ISREG(found.st_mode) or found.st_nlink > 1 or not _ours(os.pread(fd, _LONGEST, 0)):
                raise self._not_ours()
            if not held_by_us(fd):
                os.close(fd)
                return False
            # The one who held it may have removed the file in between: then another is the lock now.
            if not _same(fd, path):
                os.close(fd)
                return False
            now = datetime.now().isoformat(timespec="seconds")
            text = msgspec.json.encode(Holder(kind, os.getpid(), socket.gethostname(), now))
            os.ftruncate(fd, 0)
            os.pwrite(fd, text, 0)
        except OSError as error:
            _let_go(fd, path)
            raise self._unwritten(error, "make room on the disk") from error
        except CannotWrite:
            os.close(fd)
            raise
        self._fd = fd
        # One that nobody gives back, in a program that ends or a window that was forgotten, goes all the same.
        self._end = weakref.finalize(self, _let_go, fd, path)
        return True

    def _not_ours(self) -> CannotWrite:
        says = "is no file of this program"
        trouble = CannotWrite(says, file=f"{self.folder.name}/{LOCK}", do="move it away")
        trouble.why = f"{LOCK} in it {says}; move it away"
        return trouble

    def _unwritten(self, error: OSError, do: str) -> CannotWrite:
        trouble = CannotWrite(f"cannot be written ({error.strerror})", file=f"{self.folder.name}/{LOCK}", do=do)
        if error.errno not in (errno.EACCES, errno.EPERM, errno.EROFS):
            trouble.why = f"{LOCK} in it cannot be written ({error.strerror})"
        return trouble

    @property
    def held(self) -> bool:
        """Whether it is ours and the folder is still the one it was taken on."""
        return self._fd >= 0 and _same(self._fd, self.folder / LOCK)

    def release(self) -> None:
        """Give it back."""
        if self._end is not None:
            self._end()
        self._fd, self._end = -1, None

    def __enter__(self) -> Lock:
        return self

    def __exit__(self, *_: object) -> None:
        self.release()


def held_by_us(fd: int) -> bool:
    """Lock an open file for this process alone; false when another holds it.

    Where the file system has no locks nobody is kept out, and what others write is only seen before a save.
    """
    try:
        fcntl.flock(fd, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        return False
    except OSError as error:
        if error.errno not in (errno.ENOLCK, errno.EOPNOTSUPP, errno.ENOSYS):
            raise
    return True


def _let_go(fd: int, path: Path) -> None:
    """Free a lock; its file goes first, so that nobody finds a lock that is nobody's."""
    with contextlib.suppress(OSError):
        if _same(fd, path):
            os.unlink(path)
    with contextlib.suppress(OSError):
        os.close(fd)


def _same(fd: int, path: Path) -> bool:
    try:
        a, b = os.fstat(fd), os.stat(path, follow_symlinks=False)
    except OSError:
        return False
    return (a.st_dev, a.st_ino) == (b.st_dev, b.st_ino)


def _ours(data: bytes) -> bool:
    """Whether the content of a lock file is what this program writes, or nothing yet."""
    if not data.strip(b"\0"):
        return True
    try:
        msgspec.json.decode(data, type=Holder)
    except (msgspec.MsgspecError, UnicodeDecodeError, RecursionError):
        return False
    return True


def holder_of(folder: Path) -> Holder | None:
    """Who holds the lock of a folder, as far as its file tells."""
    try:
        fd = os.open(folder / LOCK, os.O_RDONLY | os.O_NOFOLLOW | os.O_NONBLOCK | os.O_CLOEXEC)
    except OSError:
        return None
    try:
        return msgspec.json.decode(os.pread(fd, _LONGEST, 0), type=Holder)
    except (OSError, msgspec.MsgspecError, UnicodeDecodeError, RecursionError):
        return None
    finally:
        os.close(fd)
