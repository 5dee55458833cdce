"""The journal: work done since the last save, kept outside the project folder so that a crash loses none of it.

A journal belongs to one run of the program, which holds a lock on it; one that nobody holds was left by a crash, and
stays until it is taken back or thrown away. It has a line for each step with the files that the step changed, as they
were on disk and as they are now, and a sum. Lines do not need each other: damage costs the steps it hits and no more.
"""

from __future__ import annotations

import base64
import contextlib
import os
import secrets
import zlib
from collections.abc import Mapping
from datetime import datetime
from pathlib import Path

import msgspec

from veergust.core.files.as_files import project_files
from veergust.core.files.lock import held_by_us
from veergust.core.files.places import journal_folder, journal_key
from veergust.core.files.plan import digest
from veergust.core.model import Project
from veergust.core.trouble import Trouble

LONGEST = 64 << 20
"""No journal that is read is longer (bytes); one that is written starts anew at half of it, with all that changed."""


class JournalEntry(msgspec.Struct, frozen=True):
    """What a step made of one file: its digest as it was saved and its digest now, and both texts, packed."""

    base: str | None = None
    brings: str | None = None
    text: str | None = None
    was: str | None = None


class JournalStep(msgspec.Struct, frozen=True):
    """One step: its words, when it was made, and the files it changed."""

    says: str
    at: str
    files: dict[str, JournalEntry]


class Journal:
    """The journal of this run for one project, from a state of its files on disk; without a folder, from nothing."""

    def __init__(self, folder: Path | None, saved: Mapping[str, bytes]) -> None:
        self.path = (
            journal_folder() / f"{journal_key(folder)}-{datetime.now():%Y%m%d%H%M%S}-{secrets.token_hex(4)}.journal"
        )
        self._saved = dict(saved)
        self._last = dict(saved)
        self._packed: dict[str, str] = {}
        self._fd = -1
        self._stale = False

    def write(self, words: str, project: Project) -> None:
        """Add a step, on the disk when this returns. Raises ``Trouble`` when the journal cannot be written."""
        files = project_files(project)
        try:
            anew = self._stale or self._fd < 0 or not self.path.exists() or os.fstat(self._fd).st_size > LONGEST // 2
            before = self._saved if anew else self._last
            names = [n for n in {**before, **files} if before.get(n) != files.get(n)]
            at = datetime.now().isoformat(timespec="seconds")
            step = JournalStep(words, at, {n: self._entry(n, files.get(n)) for n in names})
            text = msgspec.json.encode(step)
            line = b"\x1e%08x %08x %s\n" % (zlib.crc32(text), len(text), text)
            if anew:
                self._begin(line)
            else:
                _append(self._fd, line)
        except OSError as error:
            raise Trouble(
                f"the journal cannot be written ({error.strerror or error}), so a crash would lose what is not saved",
                do="save more often, and make room or mend the rights of its folder",
            ) from error
        self._last, self._stale = files, False

    def _begin(self, line: bytes) -> None:
        """Begin a file with a first line, and let one that was written so far go once that is on the disk."""
        folder = self.path.parent
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        draft = self.path.with_suffix(".draft")
        fd = os.open(draft, os.O_WRONLY | os.O_CREAT | os.O_TRUNC | os.O_APPEND | os.O_CLOEXEC, 0o600)
        try:
            held_by_us(fd)
            _append(fd, line)
            os.replace(draft, self.path)
            sync_folder(folder)
        except BaseException:
            os.close(fd)
            with contextlib.suppress(OSError):
                os.unlink(draft)
            raise
        if self._fd >= 0:
            os.close(self._fd)
        self._fd = fd

    def saved(self, files: Mapping[str, bytes]) -> None:
        """All of it is saved: forget it, and start from there."""
        self.close()
        self.lies_on(files)
        self._stale = False

    def lies_on(self, files: Mapping[str, bytes]) -> None:
        """The folder has other files now than it had: what was done is told anew from them by the next step, and what
        is written stays until then."""
        self._saved = dict(files)
        self._last = dict(files)
        self._packed.clear()
        self._stale = True

    def _entry(self, name: str, now: bytes | None) -> JournalEntry:
        saved = self._saved.get(name)
        if saved is not None and name not in self._packed:
            self._packed[name] = _pack(saved)  # the same for every step
        return JournalEntry(
            None if saved is None else digest(saved)[:16],
            None if now is None else digest(now)[:16],
            None if now is None else _pack(now),
            None if saved is None else self._packed[name],
        )

    def close(self) -> None:
        """End it: its work is saved, or was given up."""
        if self._fd >= 0:
            with contextlib.suppress(OSError):
                os.unlink(self.path)
            os.close(self._fd)
            self._fd = -1


def _pack(text: bytes) -> str:
    return base64.b64encode(zlib.compress(text, 6)).decode()


def _append(fd: int, line: bytes) -> None:
    view = memoryview(line)
    while view:
        view = view[os.write(fd, view) :]
    os.fsync(fd)


def sync_folder(folder: Path) -> None:
    """Have on the disk what was made and removed in a folder. Raises ``OSError``."""
    fd = os.open(folder, os.O_RDONLY | os.O_DIRECTORY | os.O_CLOEXEC)
    try:
        os.fsync(fd)
    finally:
        os.close(fd)
