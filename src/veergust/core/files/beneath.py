"""A folder whose files are reached only beneath it.

Every path is walked part by part from the folder's own descriptor, links are followed by hand as long as they stay
inside, and what was checked is what is opened: nothing is looked up by name a second time. Only ordinary files are
read; a pipe, a device, a socket or a folder in a file's place is refused before it is opened. All changes of a
project folder go through here too, and they follow no link at all.
"""

from __future__ import annotations

import contextlib
import logging
import os
import stat
from collections.abc import Iterable, Iterator
from pathlib import Path, PurePosixPath
from types import TracebackType

from veergust.core.trouble import Trouble

LOG = logging.getLogger(__name__)
MOST_LINKS = 40
MOST_BYTES = 2 << 30
"""No file that is read is longer."""
MOST_IN_ALL = 8 << 30
"""Nor are the clips, props or sounds of a project together, each file counted once."""
_FOLDER = os.O_RDONLY | os.O_DIRECTORY | os.O_CLOEXEC
_READ = os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC | os.O_NOCTTY

Stamp = tuple[int, int, int]
"""What tells one state of a file from another without reading it: its inode, when it was changed (ns), its size."""


class Missing(Trouble):
    """A file that is named and not there."""


def reference(text: str, *, beside: str = "", file: str, field: str) -> str:
    """A reference as a path from the folder, refused when its words alone lead out or no folder could hold it.

    ``beside`` is the folder, from the top, that the reference counts from. Raises ``Trouble`` for absolute paths,
    ``..``, drive letters, other schemes, backslashes and control characters.
    """
    pure = PurePosixPath(text)
    if not text or pure.is_absolute() or ".." in pure.parts or ":" in text or "\\" in text:
        raise _outside(text, file, field)
    if any(ord(c) < 32 or ord(c) == 127 for c in text) or len(os.fsencode(text)) > 4000:
        raise Trouble(
            f"names {text[:80]!r}, which no file can be called",
            file=file,
            field=field,
            do="give the file a plain name",
        )
    return (PurePosixPath(beside) / pure).as_posix()


def _outside(text: str, file: str, field: str) -> Trouble:
    return Trouble(
        f"names {text[:200]!r}, which is outside the folder",
        file=file,
        field=field,
        do="put the file into the folder and name it without a path",
    )


def read_regular(path: Path, most: int = MOST_BYTES) -> bytes:
    """The bytes of a file somebody named outright, wherever it lies. Raises ``Trouble``; never waits on a pipe."""
    name = path.name or str(path)
    try:
        if not stat.S_ISREG(os.stat(path).st_mode):
            raise Trouble("is not an ordinary file", file=name, do="give a file")
        return _read(os.open(path, _READ), name, most)
    except (OSError, ValueError) as error:
        raise unreadable(error, name) from error


def unreadable(error: OSError | ValueError, name: str) -> Trouble:
    """The trouble for a file that could not be read."""
    why = getattr(error, "strerror", None) or "no file can be called so"
    kind = Missing if isinstance(error, FileNotFoundError | NotADirectoryError) else Trouble
    return kind(f"cannot be read ({why})", file=name, do="check the name and the folder")


def _read(fd: int, name: str, most: int) -> bytes:
    """Read a descriptor to its end and close it."""
    with os.fdopen(fd, "rb", buffering=0) as source:
        found = os.fstat(fd)
        if not stat.S_ISREG(found.st_mode):
            raise Trouble("is not an ordinary file", file=name, do="put the file in its place")
        data = source.read(min(most, found.st_size) + 1) or b""
        while rest := source.read(1 << 20):
            data += rest
            if len(data) > most:
                break
    if len(data) > most:
        raise Trouble(f"is longer than {most} bytes", file=name, do="make it smaller")
    return data


class Beneath:
    """A folder held open. Names are paths from its top with ``/`` between their parts."""

    def __init__(self, folder: Path) -> None:
        self.name = folder.name
        try:
            self._top = os.open(folder, _FOLDER)
        except (OSError, ValueError) as error:
            raise Trouble(
                f"is not a folder that can be read ({getattr(error, 'strerror', None) or error})",
                file=folder.name or str(folder),
                do="give the path of a .veergust folder",
            ) from error
        self._real = os.path.realpath(folder)

    def __enter__(self) -> Beneath:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self.close()

    def close(self) -> None:
        """Let the folder go."""
        if self._top >= 0:
            os.close(self._top)
            self._top = -1

    # Finding the way

    @contextlib.contextmanager
    def _at(self, name: str, make: bool = False, follow: bool = True, links: bool = True) -> Iterator[tuple[int, str]]:
        """The folder a name ends in, as a descriptor, and its last part there, links followed beneath the top.

        With ``make`` folders on the way are made; without ``follow`` a link in the last place is itself meant;
        without ``links`` one on the way is refused, and in the last place too where it would be followed.
        """
        stack = [os.dup(self._top)]
        try:
            yield self._walk(name, stack, make, follow, links)
        finally:
            for fd in stack:
                os.close(fd)

    def _walk(self, name: str, stack: list[int], make: bool, follow: bool, links: bool) -> tuple[int, str]:
        todo = [p for p in reversed(name.split("/")) if p not in ("", ".")]
        followed = 0
        while todo:
            part = todo.pop()
            if part == "..":
                if len(stack) == 1:
                    raise _outside(name, self.name, "")
                os.close(stack.pop())
                continue
            link = self._link(part, stack[-1]) if todo or follow else None
            if link is not None:
                if not links:
                    raise self._is_link(name, name.split("/")[: len(stack)])
                followed += 1
                if followed > MOST_LINKS:
                    raise _outside(name, self.name, "")
                todo += self._onward(name, link, stack)
            elif not todo:
                return stack[-1], part
            else:
                stack.append(self._into(part, stack[-1], make))
        raise Trouble("is a folder where a file should be", file=f"{self.name}/{name}", do="move it away")

    def _is_link(self, name: str, parts: list[str]) -> Trouble:
        return Trouble(
            f"is a link, and nothing is written through one (to {name})",
            file="/".join([self.name, *parts]),
            do="put the file or folder itself in its place",
        )

    def _onward(self, name: str, link: str, stack: list[int]) -> list[str]:
        """The parts of the way that a link leads, the last first; a full path begins at the top again."""
        if link.startswith("/"):
            if not (link + "/").startswith(self._real + "/"):
                raise _outside(name, self.name, "")
            link = link[len(self._real) :]
            while len(stack) > 1:
                os.close(stack.pop())
        return [p for p in reversed(link.split("/")) if p not in ("", ".")]

    def _into(self, part: str, fd: int, make: bool) -> int:
        if make:
            with contextlib.suppress(FileExistsError):
                os.mkdir(part, dir_fd=fd)
                os.fsync(fd)
        return os.open(part, _FOLDER | os.O_NOFOLLOW, dir_fd=fd)

    def _link(self, part: str, fd: int) -> str | None:
        try:
            return os.readlink(part, dir_fd=fd)
        except OSError:
            return None  # no link, or not there

    # Reading

    def read(self, name: str, *, label: str = "", most: int = MOST_BYTES, links: bool = True) -> bytes:
        """The bytes of a file. Raises ``Missing``, or another ``Trouble``, that calls it ``label``.

        Without ``links`` none is followed, as when it is to be written.
        """
        label = label or f"{self.name}/{name}"
        try:
            with self._at(name, links=links) as (fd, last):
                if not stat.S_ISREG(os.stat(last, dir_fd=fd, follow_symlinks=False).st_mode):
                    raise Trouble("is not an ordinary file", file=label, do="put the file in its place")
                LOG.info("reads %s/%s", self.name, name)
                return _read(os.open(last, _READ | os.O_NOFOLLOW, dir_fd=fd), label, most)
        except (OSError, ValueError) as error:
            raise unreadable(error, label) from error

    def stamp(self, name: str) -> Stamp | None:
        """The stamp of an ordinary file; None when there is none of that name. Raises ``Trouble`` if it leads out."""
        found = self._stat(name)
        if found is None or not stat.S_ISREG(found.st_mode):
            return None
        return found.st_ino, found.st_mtime_ns, found.st_size

    def check_sizes(self, names: Iterable[str], most: int, each: bool = False) -> None:
        """Raise ``Trouble`` when files are longer in all than ``most`` bytes, before any is read.

        The same file under several names counts once, for it is looked at once; with ``each`` under every name.
        """
        stamps = [stamp for stamp in map(self._stamp_within, names) if stamp is not None]
        in_all = sum(stamp[2] for stamp in (stamps if each else set(stamps)))
        if in_all > most:
            says = f"names files of {in_all >> 20} MB in all, and {most >> 20} are the most"
            raise Trouble(says, file=self.name, do="take out what is not needed, or split the project")

    def _stamp_within(self, name: str) -> Stamp | None:
        with contextlib.suppress(Trouble):  # one that leads out is said when it is read
            return self.stamp(name)
        return None

    def size(self, name: str) -> int:
        """The length of what stands there, 0 for nothing, a link itself not followed."""
        with contextlib.suppress(OSError, ValueError), self._at(name, follow=False) as (fd, last):
            return os.stat(last, dir_fd=fd, follow_symlinks=False).st_size
        return 0

    def ordinary(self, name: str) -> str:
        """``file``, or nothing where none is, when what leads there are folders. Raises ``Trouble`` that names what is
        neither: a link, a pipe, a folder in a file's place."""
        parts = name.split("/")
        for i in range(1, len(parts) + 1):
            here = "/".join(parts[:i])
            kind, wanted = self.kind(here), "file" if i == len(parts) else "folder"
            if kind == "link":
                raise self._is_link(name, parts[:i])
            if kind not in ("", wanted):
                says = f"is no ordinary {wanted}, and one is to be there"
                raise Trouble(says, file=f"{self.name}/{here}", do="move it away")
            if not kind:
                return ""
        return "file"

    def mode(self, name: str) -> int | None:
        """The rights of a file that is there."""
        found = self._stat(name)
        return None if found is None else stat.S_IMODE(found.st_mode)

    def _stat(self, name: str) -> os.stat_result | None:
        try:
            with self._at(name) as (fd, last):
                return os.stat(last, dir_fd=fd, follow_symlinks=False)
        except (OSError, ValueError):
            return None

    def kind(self, name: str) -> str:
        """``file``, ``folder``, ``link``, ``other`` or nothing: what stands at a name, a link itself not followed."""
        try:
            with self._at(name, follow=False) as (fd, last):
                mode = os.stat(last, dir_fd=fd, follow_symlinks=False).st_mode
        except (OSError, ValueError):
            return ""
        kinds = {stat.S_IFREG: "file", stat.S_IFDIR: "folder", stat.S_IFLNK: "link"}
        return kinds.get(stat.S_IFMT(mode), "other")

    def listed(self, name: str, suffix: str) -> list[str]:
        """The names in a folder that end so, sorted, as paths from the top; none when there is no such folder."""
        try:
            with self._at(f"{name}/_") as (fd, _):
                rows = os.listdir(fd)
        except OSError:
            return []
        return sorted(f"{name}/{row}" for row in rows if row.endswith(suffix) and not row.startswith("."))

    # Changing

    def write(self, name: str, data: bytes, mode: int | None = None) -> None:
        """Write a new file and have it on the disk; folders on the way are made. Nothing executable is ever made."""
        with self._at(name, make=True, links=False) as (fd, last):
            flags = os.O_WRONLY | os.O_CREAT | os.O_EXCL | os.O_CLOEXEC | os.O_NOFOLLOW
            out = os.open(last, flags, 0o666, dir_fd=fd)
            try:
                if mode is not None:
                    with contextlib.suppress(OSError):  # some file systems have no rights to keep
                        os.fchmod(out, mode & 0o666)
                view = memoryview(data)
                while view:
                    view = view[os.write(out, view) :]
                os.fsync(out)
            finally:
                os.close(out)

    def move(self, source: str, target: str) -> None:
        """Put a file in another's place at once, not executable. Raises ``Trouble`` where a link stands on a way."""
        with self._at(source, links=False) as (a, old), self._at(target, make=True, links=False) as (b, new):
            if os.stat(old, dir_fd=a, follow_symlinks=False).st_mode & 0o7111:
                _plain_rights(old, a)
            os.replace(old, new, src_dir_fd=a, dst_dir_fd=b)

    def remove(self, name: str) -> None:
        """Remove a file; one that is gone already is no error. Raises ``Trouble`` where a link stands on the way."""
        with contextlib.suppress(FileNotFoundError), self._at(name, links=False) as (fd, last):
            os.unlink(last, dir_fd=fd)

    def sync(self, name: str) -> None:
        """Have on the disk what was made, moved and removed in the folder that holds ``name``."""
        with contextlib.suppress(FileNotFoundError), self._at(name, links=False) as (fd, _):
            os.fsync(fd)

    def clear(self, name: str) -> None:
        """Remove a folder of our own with all that is in it; links in it are removed, not followed."""
        with contextlib.suppress(FileNotFoundError), self._at(name, follow=False, links=False) as (fd, last):
            _clear(fd, last)


def _plain_rights(name: str, at: int) -> None:
    """Take the rights of a program from a file that somebody else laid ready."""
    fd = os.open(name, _READ | os.O_NOFOLLOW, dir_fd=at)
    try:
        os.fchmod(fd, os.fstat(fd).st_mode & 0o666)
    finally:
        os.close(fd)


def _clear(fd: int, name: str) -> None:
    mode = os.stat(name, dir_fd=fd, follow_symlinks=False).st_mode
    if not stat.S_ISDIR(mode):
        os.unlink(name, dir_fd=fd)
        return
    inner = os.open(name, _FOLDER | os.O_NOFOLLOW, dir_fd=fd)
    try:
        for row in os.listdir(inner):
            _clear(inner, row)
    finally:
        os.close(inner)
    os.rmdir(name, dir_fd=fd)
