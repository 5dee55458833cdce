"""The journal: work done since the last save, kept outside the project folder so that a crash loses none of it.

A journal belongs to one run of the program, which holds a lock on it; one that nobody holds was left by a crash, and
stays until it is taken back or thrown away. It has a line for each step with the files that the step changed, what
their state was on disk, and a sum. Lines do not need each other: damage costs the steps it hits and no more.
"""

from __future__ import annotations

import base64
import contextlib
import hashlib
import os
import re
import secrets
import zlib
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

import msgspec
import platformdirs

from veergust.core.files.as_files import project_files
from veergust.core.files.beneath import read_regular
from veergust.core.files.folder import LONGEST_TEXT, project_of
from veergust.core.files.lock import held_by_us
from veergust.core.files.plan import digest, is_ours
from veergust.core.files.text import bare
from veergust.core.model import Project
from veergust.core.trouble import Trouble
from veergust.core.wording import listed

LONGEST = 64 << 20
"""No journal that is read is longer (bytes); one that is written starts anew at half of it, with all that changed."""
_BEGIN = re.compile(rb"([0-9a-f]{8}) ([0-9a-f]{8}) (?=\{)")
"""How a line begins: the sum of what follows, and its length."""


def journal_folder() -> Path:
    """Where journals lie."""
    return platformdirs.user_state_path("veergust") / "journal"


class JournalEntry(msgspec.Struct, frozen=True):
    """What a step made of one file: its digest as it was saved, its digest now, and its text, packed."""

    base: str | None = None
    brings: str | None = None
    text: str | None = None


class JournalStep(msgspec.Struct, frozen=True):
    """One step: its words, when it was made, and the files it changed."""

    says: str
    at: str
    files: dict[str, JournalEntry]


def _key(folder: Path) -> str:
    return hashlib.sha256(os.fsencode(folder.resolve())).hexdigest()[:16]


class Journal:
    """The journal of this run for one project, from a state of its files on disk."""

    def __init__(self, folder: Path, saved: Mapping[str, bytes]) -> None:
        self.path = journal_folder() / f"{_key(folder)}-{datetime.now():%Y%m%d%H%M%S}-{secrets.token_hex(4)}.journal"
        self._saved = dict(saved)
        self._last = dict(saved)
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
            step = JournalStep(words, at, {n: _entry(self._saved.get(n), files.get(n)) for n in names})
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
            _sync(folder)
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
        self._stale = True

    def close(self) -> None:
        """End it: its work is saved, or was given up."""
        if self._fd >= 0:
            with contextlib.suppress(OSError):
                os.unlink(self.path)
            os.close(self._fd)
            self._fd = -1


def _entry(saved: bytes | None, now: bytes | None) -> JournalEntry:
    return JournalEntry(
        None if saved is None else digest(saved)[:16],
        None if now is None else digest(now)[:16],
        None if now is None else base64.b64encode(zlib.compress(now, 6)).decode(),
    )


def _append(fd: int, line: bytes) -> None:
    view = memoryview(line)
    while view:
        view = view[os.write(fd, view) :]
    os.fsync(fd)


def _sync(folder: Path) -> None:
    fd = os.open(folder, os.O_RDONLY | os.O_DIRECTORY | os.O_CLOEXEC)
    try:
        os.fsync(fd)
    finally:
        os.close(fd)


@dataclass(frozen=True)
class LeftStep:
    """A step of a journal that was left, and why it does not fit what is there now, if it does not."""

    step: JournalStep
    why_not: str = ""


@dataclass(frozen=True)
class Left:
    """A journal that a crash left: its file, its steps that are whole, and how many are damaged."""

    path: Path
    steps: tuple[JournalStep, ...]
    damaged: int = 0

    @property
    def since(self) -> str:
        """When its first step was made: the day and the hour."""
        with contextlib.suppress(ValueError):
            return f"{datetime.fromisoformat(self.steps[0].at):%d %B, %H:%M}"
        return "an unknown day"

    def holds_nothing(self, files: Mapping[str, bytes]) -> bool:
        """Whether a project with these files is what its last steps made of each already."""
        last = {name: entry.brings for step in self.steps for name, entry in step.files.items()}
        now = {name: digest(data)[:16] for name, data in files.items()}
        return not self.damaged and all(now.get(name) == brings for name, brings in last.items())

    def onto(self, files: Mapping[str, bytes]) -> list[LeftStep]:
        """Each step, with whether it fits a project with these files.

        A step fits when each file it changed is as it was when that run began, is what the step makes of it
        already, or was changed by a step before that fits.
        """
        now = {name: digest(data)[:16] for name, data in files.items()}
        mine: set[str] = set()
        out = []
        for step in self.steps:
            other = [
                name
                for name, entry in step.files.items()
                if name not in mine and now.get(name) not in (entry.base, entry.brings)
            ]
            out.append(LeftStep(step, f"{listed([_called(n, files) for n in other])} changed since" if other else ""))
            mine |= set() if other else set(step.files)
        return out

    def take_back(self, files: Mapping[str, bytes], folder: Path) -> Project:
        """The project with these files and every step that fits. Raises ``Trouble`` when that gives none."""
        out = dict(files)
        for left in self.onto(files):
            for name, entry in left.step.files.items() if not left.why_not else ():
                if entry.text is None:
                    out.pop(name, None)
                else:
                    out[name] = _text(entry)
        if "project.json" in out:
            out["project.json"] = _listed(out)
        return project_of(out, folder)

    def throw_away(self) -> None:
        """Forget it for good."""
        with contextlib.suppress(OSError):
            os.unlink(self.path)
            _sync(self.path.parent)


def _called(name: str, files: Mapping[str, bytes]) -> str:
    """What a file is called by the animator: the name of the action or drill in it."""
    try:
        return str(msgspec.json.decode(bare(files[name]))["name"])
    except (KeyError, TypeError, msgspec.DecodeError, UnicodeDecodeError, RecursionError):
        return name


def _text(entry: JournalEntry) -> bytes:
    unpack = zlib.decompressobj()
    try:
        text = unpack.decompress(base64.b64decode(entry.text or "", validate=True), LONGEST_TEXT)
    except (ValueError, zlib.error) as error:
        raise Trouble("a step of the journal is damaged", do="throw the journal away") from error
    if digest(text)[:16] != entry.brings:
        raise Trouble("a step of the journal is damaged", do="throw the journal away")
    return text


def _listed(files: Mapping[str, bytes]) -> bytes:
    """``project.json`` without the names of files whose step is gone."""
    try:
        top = msgspec.json.decode(bare(files["project.json"]))
        for kind in ("actions", "drills"):
            if kind in top:
                top[kind] = [stem for stem in top[kind] if f"{kind}/{stem}.json" in files]
    except (msgspec.DecodeError, UnicodeDecodeError, TypeError, RecursionError):
        return files["project.json"]
    return msgspec.json.encode(top)


def left_behind(folder: Path) -> list[Left]:
    """The journals that crashes left of a project, the newest first."""
    out = []
    for path in sorted(journal_folder().glob(f"{_key(folder)}-*.journal"), reverse=True):
        if _held(path):
            continue
        try:
            data = read_regular(path, LONGEST)
        except Trouble:
            continue
        steps, damaged = _steps(data)
        if steps or damaged:
            out.append(Left(path, tuple(steps), damaged))
    return out


def _held(path: Path) -> bool:
    """Whether a run that is still there writes it."""
    try:
        fd = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_NOFOLLOW | os.O_CLOEXEC)
    except OSError:
        return True
    try:
        return not held_by_us(fd)
    finally:
        os.close(fd)


def _steps(data: bytes) -> tuple[list[JournalStep], int]:
    """Every whole line, and how many are not; each is found by its own beginning, whatever became of the others."""
    out: list[JournalStep] = []
    begins = list(_BEGIN.finditer(data))
    for begin in begins:
        body = data[begin.end() : begin.end() + int(begin[2], 16)]
        if zlib.crc32(body) != int(begin[1], 16):
            continue
        try:
            step = msgspec.json.decode(body, type=JournalStep)
        except (msgspec.MsgspecError, UnicodeDecodeError, RecursionError):
            continue
        if all(is_ours(name) and name.endswith(".json") for name in step.files):
            out.append(step)
    return out, max(data.count(b"\x1e"), len(begins), 1 if data else 0) - len(out)
