"""The part of the open project that keeps it: opening, saving, what others changed on disk, and the journal."""

from __future__ import annotations

import dataclasses
import time
from collections.abc import Collection
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import QObject, Signal

from veergust import core
from veergust.core.trouble import Trouble
from veergust.core.wording import listed, plain
from veergust.desk.document.progress import Teller
from veergust.desk.document.sounds import Sounds
from veergust.desk.document.step import Step

if TYPE_CHECKING:
    from veergust.core.edit import Edit
    from veergust.core.files import Journal, Left, Lock, OnDisk, OpenFolder, Progress
    from veergust.core.model import Project
    from veergust.core.motion import Assets
    from veergust.core.play import CompiledProject


class Keeping(QObject):
    """One open project and its folder. ``Document`` adds how it is changed and looked at."""

    changed = Signal()
    saved_changed = Signal()
    opened = Signal()
    said = Signal(str, bool)
    working = Signal(str, float, object)
    """What is being done, how far it is (0…1) and what gives it up, if it can be, when it takes longer than a moment;
    nothing when it is done."""

    def __init__(self, owner: QObject | None = None) -> None:
        super().__init__(owner)
        self.kept: OpenFolder | None = None
        self.project = core.model.Project()
        self._build: CompiledProject | None = None
        self._gone: set[str] = set()
        self.opening = False
        """Whether a project is on its way in, and what is here is still the one before."""
        self.done: list[Step] = []
        self.undone: list[Step] = []
        self.taken: list[tuple[Project, Project]] = []
        """What others did while it was open: the project before each was taken in, and after."""
        self.saved_project = self.project
        self._saved_build: CompiledProject | None = None
        self.saved_at: float | None = None
        self._journal_fine = True
        self._untitled: Journal | None = None
        self.sounds = Sounds()

    if TYPE_CHECKING:

        @property
        def base(self) -> Project: ...

        def apply(self, edit: Edit) -> bool: ...

        def cancel_preview(self) -> None: ...

        def look_at_start(self) -> None: ...

        def _show(self, project: Project) -> None: ...

    @property
    def build(self) -> CompiledProject:
        """The project, compiled: an empty one until there is another, and not before it is asked for."""
        if self._build is None:
            self._build = core.play.CompiledProject(self.project, core.motion.EMPTY)
        return self._build

    @build.setter
    def build(self, build: CompiledProject) -> None:
        self._build = build

    @property
    def is_begun(self) -> bool:
        """Whether anything was opened or begun yet; before that there is nothing to be found out."""
        return self._build is not None

    @property
    def saved_build(self) -> CompiledProject:
        """What was last saved or opened, compiled."""
        if self._saved_build is None:
            self._saved_build = core.play.CompiledProject(self.saved_project, core.motion.EMPTY)
        return self._saved_build

    @property
    def folder(self) -> Path | None:
        """Where the project lies."""
        return self.kept.folder if self.kept is not None else None

    @property
    def journal(self) -> Journal:
        """The journal of this run."""
        if self.kept is not None:
            return self.kept.journal
        if self._untitled is None:
            self._untitled = core.files.Journal(None, core.files.project_files(core.model.Project()))
        return self._untitled

    def _close_untitled(self) -> None:
        if self._untitled is not None:
            self._untitled.close()
            self._untitled = None

    @property
    def lock(self) -> Lock | None:
        """The right to write into the folder."""
        return self.kept.lock if self.kept is not None else None

    @property
    def to_look(self) -> str:
        """Why the project is open only to be looked at; nothing when it can be changed."""
        return self.kept.why_not if self.kept is not None and self.kept.to_look else ""

    def open(self, folder: Path) -> bool:
        """Open a project folder. When it cannot be read, says why and leaves everything as it was."""
        # The lock of the same folder, held by this window, would keep it from itself.
        same = self.kept if self.folder is not None and _is_same(self.folder, folder) else None
        if same is not None:
            same.let_go()
        try:
            kept = core.files.OpenFolder(folder)
            try:
                self.opening = True
                assets, missing = core.files.load_assets(kept.project, folder, self._progress(may_stop=True))
            except BaseException:
                kept.close()
                raise
            finally:
                self.opening = False
                self.working.emit("", 1.0, None)
        except (Trouble, core.files.Stopped) as why:
            if same is not None:
                same.take_over()
            says = f". {why}" if isinstance(why, Trouble) else ": it was given up."
            self.said.emit(f"{folder.name} was not opened{says}", isinstance(why, Trouble))
            return False
        self._take(kept, assets, missing)
        lost = [str(t) for t in core.files.missing_clips(kept.project, assets, folder.name)] or missing
        if lost:
            more = f" (and {len(lost) - 1} more like it)" if len(lost) > 1 else ""
            self.said.emit(lost[0] + more, True)
        return True

    def begin_anew(self) -> None:
        """Begin a project that has no place yet; what was open is let go."""
        self.let_go()
        self._show_opened(None, core.model.Project(), core.motion.EMPTY, [])

    def _take(self, kept: OpenFolder, assets: Assets, missing: list[str]) -> None:
        self.let_go()
        self._show_opened(kept, kept.project, assets, missing)

    def _show_opened(self, kept: OpenFolder | None, project: Project, assets: Assets, missing: list[str]) -> None:
        self.kept, self.project = kept, project
        self.build = core.play.CompiledProject(project, assets)
        self._gone = core.files.gone(missing)
        self.done, self.undone, self.taken = [], [], []
        self.saved_project, self._saved_build = project, self._build
        if self.is_untitled:
            self.saved_project, self._saved_build = core.model.Project(), None
        self.saved_at = None
        self._journal_fine = True
        self.load_sounds()
        self.look_at_start()

    @property
    def is_untitled(self) -> bool:
        """Whether it has no place of the person's choosing yet."""
        return self.kept is None or core.files.is_draft(self.kept.folder)

    def settle(self) -> bool:
        """Have a folder for files that come in: a project without one gets a draft, until it is saved somewhere."""
        if self.kept is not None:
            return True
        try:
            kept = core.files.OpenFolder(core.files.make_draft(self.project))
        except Trouble as trouble:
            self.said.emit(str(trouble), True)
            return False
        self._close_untitled()
        self.kept = kept
        return True

    def _progress(self, *, may_stop: bool = False) -> Progress:
        """Tells how far a work is once it has taken half a second."""
        return Teller(self.working.emit, may_stop=may_stop)

    def load_sounds(self) -> None:
        """Read the sounds beside the project."""
        for says in self.sounds.read(self.folder)[:1]:
            self.said.emit(says, True)

    def bring_sounds(self, files: list[Path]) -> bool:
        """Take WAV files into the project."""
        if self.refuses() or not self.settle():
            return False
        assert self.folder is not None
        try:
            edit = core.files.bring_sounds(self.base, self.folder, files, self.lock)
        except Trouble as trouble:
            self.said.emit(str(trouble), True)
            return False
        self.load_sounds()
        if not self.apply(edit):
            self.changed.emit()
        self.said.emit(f"{edit.words}: an event of that name is heard on its frame.", False)
        return True

    def recover(self, left: Left) -> bool:
        """Bring back the work that a crash left in a journal, as one step that can be undone."""
        if self.refuses():
            return False
        try:
            found = left.take_back(core.files.project_files(self.project), self.folder)
        except Trouble as trouble:
            self.said.emit(f"Nothing was brought back. {trouble}", True)
            return False
        changed = self.apply(core.edit.Edit(found, "Work brought back from the journal"))
        # It goes only when this run's own journal holds it, or there is nothing in it that is not there.
        if self._journal_fine:
            left.throw_away()
        return changed

    def save(self, folder: Path | None = None) -> bool:
        """Save, to another folder if one is given. When it fails the work stays open and unsaved."""
        self.cancel_preview()
        try:
            if folder is not None and (self.folder is None or not _is_same(self.folder, folder)):
                self._save_as(folder)
            elif self.kept is not None:
                self.kept.save(self.project, self._progress())
            else:
                return False
        except core.files.Unfinished as unfinished:
            self.said.emit(str(unfinished), True)  # it is saved for certain
        except Trouble as trouble:
            self.said.emit(f"Not saved. {trouble}", True)
            return False
        finally:
            self.working.emit("", 1.0, None)
        self._journal_fine = True
        self.saved_project, self._saved_build = self.project, self.build
        self.saved_at = time.time()
        self.saved_changed.emit()
        self.changed.emit()
        return True

    def _save_as(self, folder: Path) -> None:
        if folder.exists() and (not folder.is_dir() or any(folder.iterdir())):
            raise Trouble("is there already", file=folder.name, do="choose another name")
        source = self.folder if self.folder is not None and self.folder.is_dir() else None
        cut_off = None
        name = self._name_in(folder)
        try:
            called = replace(self.project, name=name)
            core.files.save_project(called, folder, clips_from=source, progress=self._progress())
        except core.files.Unfinished as unfinished:
            cut_off = unfinished
        kept = core.files.OpenFolder(folder)  # which finishes it where it can
        self.let_go()
        self.kept = kept
        self._call_it(name)
        if cut_off is not None:
            raise cut_off

    def _name_in(self, folder: Path) -> str:
        """What it is called in another folder: one without a name of its own is called by where it lies."""
        unnamed = core.model.Project().name
        own = self.project.name not in (unnamed, self.folder.stem if self.folder is not None else "")
        return self.project.name if own else plain(folder.stem) or unnamed

    def _call_it(self, name: str) -> None:
        """Give it another name, in its steps as well, so that none of them takes it back."""
        old = self.project.name
        if name == old:
            return

        def called(project: Project) -> Project:
            return replace(project, name=name) if project.name == old else project

        for steps in (self.done, self.undone):
            steps[:] = [dataclasses.replace(s, before=called(s.before), after=called(s.after)) for s in steps]
        self._show(called(self.project))

    def let_go(self) -> None:
        """Let what was open go: its work is saved, or was given up."""
        self._close_untitled()
        if self.kept is not None:
            self.kept.journal.close()
            if not self.kept.to_look:
                core.files.throw_away_draft(self.kept.folder)
            self.kept.close()

    def take_in(self, project: Project, words: str, found: OnDisk) -> None:
        """Take up what somebody else made of the folder; ``project`` is to be shown from now on.

        It is no step of one's own: undo goes round it, and ``take_back_theirs`` asks for it by name.
        """
        assert self.kept is not None
        self.cancel_preview()
        self.kept.seen(found)
        saved = found.project or self.saved_project
        before = self.project
        self.saved_project = saved
        if project != before:
            self.taken.append((before, project))
            self._show(project)
        if project != saved:
            self._write_journal(words, project)
        else:
            self.journal.saved(self.kept.files)
        self._saved_build = self.build if project == saved else self.build.renew(saved)
        self.saved_changed.emit()
        self.changed.emit()

    def take_back_theirs(self) -> bool:
        """Take back what others did when it was last taken in, as a step of one's own; false when there is nothing."""
        self.cancel_preview()
        if not self.taken:
            self.said.emit("Nobody else has changed this project while it was open.", False)
            return False
        before, after = self.taken[-1]
        merged = core.changes.merge(after, self.project, before)
        if not self.apply(core.edit.Edit(core.changes.settle(merged, {}, before), "What changed on disk, taken back")):
            return False
        kept = listed([d.says for d in merged.differences])
        if kept:
            self.said.emit(f"Changed here since, and left as it is: {kept}.", False)
        return True

    def round_theirs(self, project: Project, known: int) -> tuple[Project, list[str]]:
        """A project of one's own steps with what others did since ``known`` of it was there, and which parts of it
        are theirs although the step was about them too."""
        parts: list[str] = []
        for before, after in self.taken[known:]:
            merged = core.changes.merge(before, project, after)
            project = core.changes.settle(merged, {d.key: "theirs" for d in merged.differences}, after)
            parts += [d.says for d in merged.differences]
        return project, parts

    def load_again(self, names: Collection[str]) -> None:
        """Read clips and other files anew that were changed on disk."""
        if self.folder is None:
            return
        try:
            known = None if self.project.rig.figure in names else self.build.assets.without(names)
            assets, missing = core.files.load_assets(self.project, self.folder, self._progress(), known)
        except Trouble as trouble:
            self.said.emit(str(trouble), True)
            return
        finally:
            self.working.emit("", 1.0, None)
        self._gone = core.files.gone(missing)
        self.build = core.play.CompiledProject(self.project, assets)
        self.opened.emit()
        self.changed.emit()

    @property
    def unsaved(self) -> bool:
        """Whether something differs from what was last saved or opened."""
        return self.project is not self.saved_project and self.project != self.saved_project

    def refuses(self) -> bool:
        """Whether nothing may be changed here, which is said then."""
        if self.to_look:
            self.said.emit(
                f"This project is open only to look: {self.to_look}. Save it under another name to work on.", True
            )
        return bool(self.to_look)

    def _write_journal(self, words: str, project: Project) -> None:
        """Keep a step; a journal that cannot be written is no reason to stop work, and is said once."""
        try:
            self.journal.write(words, project)
            self._journal_fine = True
        except Trouble as trouble:
            if self._journal_fine:
                self.said.emit(str(trouble), True)
            self._journal_fine = False


def _is_same(a: Path, b: Path) -> bool:
    return a.resolve() == b.resolve()
