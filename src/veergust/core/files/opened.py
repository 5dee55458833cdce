"""A project folder that is open: the right to write it, the state on disk that was last seen, and the journal."""

from __future__ import annotations

import contextlib
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path

from veergust.core.files.as_files import FOLDERS, project_files
from veergust.core.files.beneath import Beneath, Stamp
from veergust.core.files.folder import LeftSave, digests, named_files, project_of, read_folder, unfinished
from veergust.core.files.journal import Journal
from veergust.core.files.lock import PATIENCE, CannotWrite, Held, Lock
from veergust.core.files.plan import Unfinished, finish, throw_away
from veergust.core.files.progress import Progress, no_progress
from veergust.core.files.saving import save_project
from veergust.core.model import Project
from veergust.core.trouble import Trouble


@dataclass(frozen=True)
class OnDisk:
    """What is on disk and was not there when it was last looked at.

    ``project`` is None when only files that the project names were changed, which are in ``changed``. ``gone`` are
    those that are no longer there, with the name that the same file has now in its folder, if it has one.
    """

    project: Project | None
    files: Mapping[str, bytes]
    changed: frozenset[str]
    stamps: Mapping[str, Stamp | None]
    gone: Mapping[str, str] = field(default_factory=dict)


class Gone(Trouble):
    """The folder is no longer where it was."""


@contextlib.contextmanager
def open_to_write(folder: Path) -> Iterator[tuple[Project, dict[str, str], Lock]]:
    """A project to change and save at once: the project, the digests of its files, and the lock, held meanwhile.

    Raises ``Trouble``, ``Held`` among others.
    """
    if not folder.is_dir():
        raise Trouble("is not a project folder", file=str(folder), do="give the path of a .veergust folder")
    with Lock(folder, "command", PATIENCE) as lock:
        with Beneath(folder) as place:
            finish(place)
        files = read_folder(folder)
        yield project_of(files, folder), digests(files), lock


class OpenFolder:
    """An open project folder. ``lock`` is None when it is open only to be looked at, and ``why_not`` says why."""

    def __init__(self, folder: Path) -> None:
        """Open a folder, to write if nobody else does. Raises ``Trouble`` and holds nothing then."""
        if not folder.is_dir():
            raise Trouble("is not a project folder", file=str(folder), do="give the path of a .veergust folder")
        self.folder = folder
        self.lock: Lock | None = None
        self.why_not = ""
        self.is_held = False
        """Whether it is to look because somebody else has it open, and not because it could not be written."""
        self.unfinished = LeftSave()
        self._take_lock()
        try:
            if self.lock is not None:
                self._finish()
            self.files = read_folder(folder)
            self.project = project_of(self.files, folder)
        except BaseException:
            self.close()
            raise
        self.journal = Journal(folder, self.files)
        self._stamps: dict[str, Stamp | None] = self._look(self.project)

    def _take_lock(self) -> None:
        self.is_held = False
        try:
            self.lock = Lock(self.folder)
            self.why_not = ""
        except Held as held:
            self.why_not, self.is_held = held.says.removeprefix("is "), True
        except CannotWrite as cannot:
            self.why_not = cannot.why

    def _finish(self) -> None:
        """Finish what a crash left of a save; one that does not fit is left and said."""
        with Beneath(self.folder) as place:
            try:
                finish(place)
            except Trouble:
                self.unfinished = unfinished(self.folder)
            except OSError as error:
                self.why_not = f"what a save left cannot be tidied up ({error.strerror})"
                self.let_go()

    def finish_unfinished(self) -> None:
        """Finish an unfinished save that came with the folder. Raises ``Trouble`` when that cannot be."""
        try:
            with Beneath(self.folder) as place:
                finish(place, strange=True)
        except OSError as error:
            raise Trouble(
                f"cannot be finished ({error.strerror})", file=self.folder.name, do="check its rights"
            ) from error
        self.unfinished = LeftSave()

    def throw_away_unfinished(self) -> None:
        """Remove an unfinished save that was left. Raises ``Trouble`` when that cannot be."""
        try:
            with Beneath(self.folder) as place:
                throw_away(place)
        except OSError as error:
            raise Trouble(
                f"cannot be removed ({error.strerror})", file=self.folder.name, do="check its rights"
            ) from error
        self.unfinished = LeftSave()

    @property
    def to_look(self) -> bool:
        """Whether it is open only to be looked at."""
        return self.lock is None

    def take_over(self) -> bool:
        """Take the right to write if it has become free."""
        if self.lock is None:
            self._take_lock()
            if self.lock is not None:
                self._finish()
        return self.lock is not None

    def save(self, project: Project, progress: Progress = no_progress) -> None:
        """Save. Raises ``Changed`` when what is to be written was changed on disk, or another ``Trouble``;
        ``Unfinished`` when it is saved for certain and not yet in place."""
        if not self.folder.is_dir():
            raise _gone(self.folder)
        if self.lock is not None and not self.lock.held:
            self.let_go()  # its file was removed: whoever made another is the holder now
            self._take_lock()
        if self.lock is None:
            raise Trouble(
                f"is open only to look: {self.why_not}", file=self.folder.name, do="save it under another name"
            )
        try:
            save_project(project, self.folder, known=digests(self.files), lock=self.lock, progress=progress)
        except Unfinished:
            self._saved(project)
            raise
        self._saved(project)

    def _saved(self, project: Project) -> None:
        self.files = project_files(project)
        self._stamps = self._look(project)
        self.journal.saved(self.files)

    def look(self, project: Project) -> OnDisk | None:
        """What somebody else changed in the folder; None when nothing. ``project`` is the one that is open.

        Raises ``Gone``, or another ``Trouble`` when what is there now cannot be read.
        """
        if not self.folder.is_dir():
            raise _gone(self.folder)
        now = self._look(project)
        if now == self._stamps:
            return None
        # A file it had no stamp of is one that came in by this window.
        changed = {n for n, s in now.items() if n in self._stamps and s not in (None, self._stamps[n])}
        files = read_folder(self.folder)
        theirs = project_of(files, self.folder) if files != self.files else None
        named = {name for _, name in named_files(project)}
        touched = frozenset(changed & named)
        gone = self._gone([n for n in named if now.get(n) is None and self._stamps.get(n) is not None])
        if theirs is None and not touched and not gone:
            self._stamps = now
            return None
        return OnDisk(theirs, files, touched, now, gone)

    def _gone(self, names: Sequence[str]) -> dict[str, str]:
        """Files that went, and what the same file is called now beside where it was."""
        out = dict.fromkeys(names, "")
        with Beneath(self.folder) as place:
            for name in names:
                beside = place.listed(name.rpartition("/")[0], "") if "/" in name else []
                out[name] = next((n for n in beside if _stamp(place, n) == self._stamps[name]), "")
        return out

    def seen(self, disk: OnDisk) -> None:
        """What was found is taken up: it is the state that the next save is laid on."""
        self.files = dict(disk.files)
        self.journal.lies_on(self.files)
        self._stamps = dict(disk.stamps)

    def _look(self, project: Project) -> dict[str, Stamp | None]:
        """The stamp of every file of the project, the ones it names and those that make it."""
        with contextlib.suppress(Trouble), Beneath(self.folder) as place:
            names = ["project.json", "ground.json", "stage.json"]
            names += [name for folder in FOLDERS for name in place.listed(folder, ".json")]
            names += [name for _, name in named_files(project)]
            return {name: _stamp(place, name) for name in names}
        return {}

    def let_go(self) -> None:
        """Give the right to write back."""
        if self.lock is not None:
            self.lock.release()
            self.lock = None

    def close(self) -> None:
        """Let the folder go; the journal of this run ends, for its work is saved or was given up."""
        self.let_go()
        if hasattr(self, "journal"):
            self.journal.close()


def _stamp(place: Beneath, name: str) -> Stamp | None:
    try:
        return place.stamp(name)
    except Trouble:
        return None


def _gone(folder: Path) -> Gone:
    return Gone("is no longer there", file=str(folder), do="bring it back, or save the project somewhere else")
