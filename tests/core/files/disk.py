"""A disk that can fail at any call: it kills the program, fills up, or loses power, for tests of what is kept."""

from __future__ import annotations

import errno
import os
from dataclasses import dataclass, field
from itertools import product
from pathlib import Path
from types import ModuleType
from typing import Any

import pytest

from veergust.core.files import beneath, journal, left, lock

CALLS = ("open", "write", "pwrite", "ftruncate", "fsync", "replace", "unlink", "rmdir", "mkdir", "fchmod")


class Killed(BaseException):
    """The program is no more."""


class Disk:
    """Stands in for ``os``: counts the calls that reach the disk, fails from call ``dies`` on, and keeps a record.

    With ``full`` it says that the disk is full at that call, once, instead of killing.
    """

    def __init__(self, dies: int | None = None, full: bool = False) -> None:
        self.dies, self.full = dies, full
        self.count = 0
        self.record: list[tuple[Any, ...]] = []
        self.held: set[int] = set()

    def bury(self) -> None:
        """Close what the killed program had open, as its end would."""
        for fd in self.held:
            os.close(fd)
        self.held.clear()

    def close(self, fd: int) -> None:
        os.close(fd)
        self.held.discard(fd)

    def __getattr__(self, name: str) -> Any:
        real = getattr(os, name)
        return self._watched(name, real) if name in CALLS else real

    def _watched(self, name: str, real: Any) -> Any:
        def call(*args: Any, **kwargs: Any) -> Any:
            if name == "open" and not args[1] & os.O_CREAT:
                return real(*args, **kwargs)
            if self.dies is not None and self.count >= self.dies:
                if not self.full:
                    raise Killed
                if self.count == self.dies:
                    self.count += 1
                    raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC))
            self.count += 1
            self._note(name, args, kwargs)
            done = real(*args, **kwargs)
            if name == "open":
                self.held.add(done)
            return done

        return call

    def _note(self, name: str, args: tuple[Any, ...], kwargs: dict[str, Any]) -> None:
        if name in ("write", "fsync", "ftruncate", "pwrite", "fchmod"):
            path = os.readlink(f"/proc/self/fd/{args[0]}")
            self.record.append((name, path, bytes(args[1]) if name == "write" else b""))
        elif name == "replace":
            ends = [kwargs.get("src_dir_fd"), kwargs.get("dst_dir_fd")]
            self.record.append((name, *(_path(a, fd) for a, fd in zip(args, ends))))
        else:
            self.record.append((name, _path(args[0], kwargs.get("dir_fd"))))

    def install(self, patch: pytest.MonkeyPatch) -> Disk:
        """Put it in the place of ``os`` wherever the program changes a disk."""
        modules: list[ModuleType] = [beneath, lock, journal, left]
        for module in modules:
            patch.setattr(module, "os", self)
        return self


def _path(name: object, fd: int | None) -> str:
    return os.path.join(os.readlink(f"/proc/self/fd/{fd}"), str(name)) if fd is not None else str(name)


@dataclass
class _File:
    data: bytes = b""
    durable: bytes = b""


@dataclass
class Platter:
    """What a disk holds for certain: names by folder as far as the folder was synced, bytes as far as the file was."""

    names: dict[str, _File | None] = field(default_factory=dict)
    waiting: list[tuple[str, str, _File | None]] = field(default_factory=list)
    seen: dict[str, _File | None] = field(default_factory=dict)

    @staticmethod
    def of(folder: Path) -> Platter:
        """A disk that holds this folder for certain."""
        out = Platter()
        for path in (folder, *folder.rglob("*")):
            data = path.read_bytes() if path.is_file() else b""
            out.names[str(path)] = _File(data, data) if path.is_file() else None
        out.seen = dict(out.names)
        return out

    def _entry(self, path: str, what: _File | str | None) -> None:
        self.waiting.append((os.path.dirname(path), path, what))  # type: ignore[arg-type]
        if what == "gone":
            self.seen.pop(path, None)
        else:
            self.seen[path] = what  # type: ignore[assignment]

    def _moved(self, path: str, target: str) -> None:
        self.seen[target] = self.seen.pop(path)
        self.waiting.append((os.path.dirname(target), target, self.seen[target]))
        self.waiting.append((os.path.dirname(target), path, "gone"))  # type: ignore[arg-type]

    def play(self, row: tuple[Any, ...]) -> None:
        """Do one call of a record."""
        name, path = row[0], row[1]
        held = self.seen.get(path)
        if name == "open" and held is None:
            self._entry(path, _File())
        elif name == "open" and held is not None:
            held.data = b""
        elif name == "mkdir":
            if path not in self.seen:
                self._entry(path, None)
        elif name == "write" and held is not None:
            held.data += row[2]
        elif name == "fsync" and held is not None:
            held.durable = held.data
        elif name == "fsync":
            for folder, entry, what in [w for w in self.waiting if w[0] == path]:
                self._settle(entry, what)
                self.waiting.remove((folder, entry, what))
        elif name == "replace":
            # One step of the file system's own journal, as it is on every one that keeps a journal.
            self._moved(path, row[2])
        elif name in ("unlink", "rmdir"):
            self._entry(path, "gone")

    def _settle(self, entry: str, what: _File | str | None) -> None:
        if what == "gone":
            self.names.pop(entry, None)
        else:
            self.names[entry] = what  # type: ignore[assignment]

    def cuts(self) -> list[dict[str, bytes | None]]:
        """Every state a power cut can leave: of each folder either nothing or all of what it was not synced for."""
        folders = sorted({w[0] for w in self.waiting})
        out = []
        for kept in product((False, True), repeat=len(folders)):
            now = dict(self.names)
            for folder, entry, what in self.waiting:
                if kept[folders.index(folder)]:
                    if what == "gone":
                        now.pop(entry, None)
                    else:
                        now[entry] = what
            out.append({p: f.durable if f is not None else None for p, f in now.items()})
        return out


def lay(state: dict[str, bytes | None], old: Path, new: Path) -> None:
    """Make the folder that a state of ``old`` is, at ``new``; what has lost its folder is lost."""
    for path in sorted(state):
        target = new / os.path.relpath(path, old)
        data = state[path]
        if data is None:
            if target.parent.is_dir() or target == new:
                target.mkdir(exist_ok=True)
        elif target.parent.is_dir():
            target.write_bytes(data)
