"""The work that runs left in their journals when they ended without saving: read, compared with what is there now, and
taken back."""

from __future__ import annotations

import base64
import contextlib
import os
import re
import zlib
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

import msgspec

from veergust.core.changes import Replayed, replay
from veergust.core.files.as_files import FOLDERS, Read, project_files, project_from_files
from veergust.core.files.beneath import read_regular
from veergust.core.files.folder import LONGEST_TEXT, project_of
from veergust.core.files.journal import LONGEST, JournalStep, sync_folder
from veergust.core.files.lock import held_by_us
from veergust.core.files.places import journals_of
from veergust.core.files.plan import digest, is_ours
from veergust.core.files.text import bare
from veergust.core.model import Project
from veergust.core.trouble import Trouble
from veergust.core.wording import listed

_BEGIN = re.compile(rb"([0-9a-f]{8}) ([0-9a-f]{8}) (?=\{)")
"""How a line begins: the sum of what follows, and its length."""


@dataclass(frozen=True)
class LeftStep:
    """A step of a journal that was left, why it does not fit what is there now, if it does not, and whether a part of
    it does."""

    step: JournalStep
    why_not: str = ""
    partly: bool = False


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
        """Whether a project with these files has all that its steps made already."""
        done = self._replayed(files)
        if self.damaged or any(done.in_the_way):
            return False
        return done.project == project_from_files(files, "")

    def onto(self, files: Mapping[str, bytes]) -> list[LeftStep]:
        """Each step, with whether it fits a project with these files, part by part. Raises ``Trouble``."""
        done = self._replayed(files)
        rows = zip(self.steps, done.in_the_way, done.taken)
        return [
            LeftStep(step, f"{listed(list(parts))} changed since", some) if parts else LeftStep(step)
            for step, parts, some in rows
        ]

    def take_back(self, files: Mapping[str, bytes], folder: Path | None) -> Project:
        """The project with these files and all of the steps that fits. Raises ``Trouble`` when that gives none."""
        back = self._replayed(files).project
        made = project_files(back)
        return project_of(made, folder) if folder is not None else project_from_files(made, "")

    def _replayed(self, files: Mapping[str, bytes]) -> Replayed:
        known: Read = {}
        base = dict(files)
        for step in self.steps:
            with contextlib.suppress(Trouble):  # such a step fits nowhere
                for name, entry in step.files.items():
                    _put(base, name, entry.base, entry.was)
        ours = dict(base)
        states: list[Project | None] = []
        for step in self.steps:
            try:
                for name, entry in step.files.items():
                    _put(ours, name, entry.brings, entry.text)
                states.append(project_from_files({**ours, "project.json": _listed(ours)}, "", known))
            except Trouble:
                states.append(None)
        now = project_from_files(files, "", known)
        try:
            found = project_from_files({**base, "project.json": _listed(base)}, "", known)
        except Trouble:
            found = now
        return replay(found, states, now)

    def throw_away(self) -> None:
        """Forget it for good."""
        with contextlib.suppress(OSError):
            os.unlink(self.path)
            sync_folder(self.path.parent)


def _put(files: dict[str, bytes], name: str, mark: str | None, packed: str | None) -> None:
    """Put what a journal holds of a file in its place, or take it away; one that is as it should be stays."""
    if mark is None:
        files.pop(name, None)
    elif name not in files or digest(files[name])[:16] != mark:
        files[name] = _text(packed, mark)


def _text(packed: str | None, mark: str) -> bytes:
    unpack = zlib.decompressobj()
    try:
        text = unpack.decompress(base64.b64decode(packed or "", validate=True), LONGEST_TEXT)
    except (ValueError, zlib.error) as error:
        raise Trouble("a step of the journal is damaged", do="throw the journal away") from error
    if digest(text)[:16] != mark:
        raise Trouble("a step of the journal is damaged", do="throw the journal away")
    return text


def _listed(files: Mapping[str, bytes]) -> bytes:
    """``project.json`` without the names of files that are not there."""
    try:
        top = msgspec.json.decode(bare(files["project.json"]))
        gone = False
        for kind in FOLDERS:
            if kind not in top:
                continue
            there = [stem for stem in top[kind] if f"{kind}/{stem}.json" in files]
            gone |= len(there) < len(top[kind])
            top[kind] = there
    except (KeyError, msgspec.DecodeError, UnicodeDecodeError, TypeError, AttributeError, RecursionError):
        return files.get("project.json", b"")
    return msgspec.json.encode(top) if gone else files["project.json"]


def left_behind(folder: Path | None) -> list[Left]:
    """The journals that crashes left of a project, or of those that had no folder yet, the newest first."""
    out = []
    for path in journals_of(folder):
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
