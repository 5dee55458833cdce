"""The open project: a value, the steps back, the file it came from, and what is selected.

Widgets read ``project``, ``book`` and what is ``known`` of them, and send edits to ``apply``; a drag shows
``preview`` values and ends in one ``apply``. Nothing else changes the project.
"""

from __future__ import annotations

import time
from collections.abc import Collection
from dataclasses import dataclass
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from veergust.core.edit.spans import Edit, SpanRef, span_of
from veergust.core.files.cast import load_cast
from veergust.core.files.folder import check_change, project_files, save_project
from veergust.core.files.importing import bring_sounds
from veergust.core.files.journal import Left
from veergust.core.files.lock import Lock
from veergust.core.files.opened import OnDisk, OpenFolder
from veergust.core.files.wav_read import Sound, read_sounds
from veergust.core.files.wholeness import missing_clips
from veergust.core.model import Project, Rig
from veergust.core.motion.figure import EMPTY, Cast, Mesh
from veergust.core.play.book import Book
from veergust.core.play.compiled import CompiledAction
from veergust.core.scene.dress import figure_mesh
from veergust.core.trouble import Trouble
from veergust.desk.known import Known
from veergust.desk.speaker import Speaker


@dataclass(frozen=True)
class Step:
    """One step back: what was done, and the projects before and after."""

    words: str
    before: Project
    after: Project


class Document(QObject):
    """One open project."""

    changed = Signal()
    frame_moved = Signal()
    selection_changed = Signal()
    clip_chosen = Signal()
    saved_changed = Signal()
    opened = Signal()
    said = Signal(str, bool)

    def __init__(self) -> None:
        super().__init__()
        self.kept: OpenFolder | None = None
        self.project = Project()
        self.book = Book(self.project, EMPTY)
        self._mesh: tuple[Cast, Rig, Mesh | None] | None = None
        self._gone: set[str] = set()
        self.done: list[Step] = []
        self.undone: list[Step] = []
        self.saved_project = self.project
        self.saved_book = self.book
        self.saved_at: float | None = None
        self.action = ""
        self.frame = 0
        self.selection: SpanRef | None = None
        self.also: tuple[SpanRef, ...] = ()
        self.clip = ""
        self._journal_fine = True
        self._previewing: Project | None = None
        self.known = Known(self)
        self.sounds: dict[str, Sound] = {}
        self.speaker = Speaker()

    # Opening and saving

    @property
    def folder(self) -> Path | None:
        """Where the project lies."""
        return self.kept.folder if self.kept is not None else None

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
            kept = OpenFolder(folder)
            try:
                cast, missing = load_cast(kept.project, folder)
            except BaseException:
                kept.close()
                raise
        except Trouble as trouble:
            if same is not None:
                same.take_over()
            self.said.emit(f"{folder.name} was not opened. {trouble}", True)
            return False
        self._take(kept, cast, missing)
        self.saved_at = None
        gone = [str(t) for t in missing_clips(kept.project, cast, folder.name)] or missing
        if gone:
            more = f" (and {len(gone) - 1} more like it)" if len(gone) > 1 else ""
            self.said.emit(gone[0] + more, True)
        return True

    def _take(self, kept: OpenFolder, cast: Cast, missing: list[str]) -> None:
        if self.kept is not None:
            self.kept.close()
        project = kept.project
        self.kept, self.project = kept, project
        self.book = Book(project, cast)
        self._gone = {words.split(" is not in the folder")[0] for words in missing}
        self.done, self.undone = [], []
        self.saved_project, self.saved_book = project, self.book
        self.action = project.actions[0].name if project.actions else ""
        self.frame, self.selection = 0, None
        self.clip = project.clips[0].name if project.clips else ""
        self.load_sounds()
        self.known = Known(self)
        self._previewing = None
        self._journal_fine = True
        self.opened.emit()
        self.changed.emit()
        self.selection_changed.emit()
        self.frame_moved.emit()
        self.saved_changed.emit()

    def load_sounds(self) -> None:
        """Read the sounds beside the project."""
        self.sounds, bad = read_sounds(self.folder) if self.folder else ({}, [])
        if bad:
            self.said.emit(bad[0], True)
        if self.sounds:
            self.speaker.warm()

    def hear(self, names: list[str]) -> None:
        """Play the sounds of these names; those the project has no file for are silent."""
        for name in names:
            if name in self.sounds:
                self.speaker.play(self.sounds[name])

    def bring_sounds(self, files: list[Path]) -> bool:
        """Take WAV files into the project."""
        if self.folder is None:
            self.said.emit("Save the project first, so that it has a folder for its sounds.", True)
            return False
        if self.refuses():
            return False
        try:
            edit = bring_sounds(self.base, self.folder, files, self.lock)
        except Trouble as trouble:
            self.said.emit(str(trouble), True)
            return False
        self.load_sounds()
        if not self.apply(edit):
            self.changed.emit()
        self.said.emit(f"{edit.words}: an event of that name is heard on its frame.", False)
        return True

    def recover(self, left: Left) -> bool:
        """Take back the work that a crash left in a journal, as one step that can be undone."""
        if self.folder is None or self.refuses():
            return False
        try:
            found = left.take_back(project_files(self.project), self.folder)
        except Trouble as trouble:
            self.said.emit(f"Nothing was taken back. {trouble}", True)
            return False
        changed = self.apply(Edit(found, "Work taken back from the journal"))
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
                self.kept.save(self.project)
            else:
                return False
        except Trouble as trouble:
            self.said.emit(f"Not saved. {trouble}", True)
            return False
        self._journal_fine = True
        self.saved_project, self.saved_book = self.project, self.book
        self.saved_at = time.time()
        self.saved_changed.emit()
        self.changed.emit()
        return True

    def _save_as(self, folder: Path) -> None:
        if folder.exists() and (not folder.is_dir() or any(folder.iterdir())):
            raise Trouble("is there already", file=folder.name, do="choose another name")
        source = self.folder if self.folder is not None and self.folder.is_dir() else None
        save_project(self.project, folder, clips_from=source)
        kept = OpenFolder(folder)
        if self.kept is not None:
            self.kept.close()
        self.kept = kept

    def take_in(self, project: Project, words: str, found: OnDisk) -> None:
        """Take up what somebody else made of the folder; ``project`` is to be shown from now on."""
        assert self.kept is not None
        self.cancel_preview()
        self.kept.seen(found)
        saved = found.project or self.saved_project
        before = self.project
        self.saved_project = saved
        if project != before:
            if not self.to_look:
                self.done.append(Step(words, before, project))
                self.undone.clear()
            self._show(project)
            if project != saved:
                self._write_journal(words, project)
        self.saved_book = self.book if project == saved else self.book.renew(saved)
        self.saved_changed.emit()
        self.changed.emit()

    def load_again(self, names: Collection[str]) -> None:
        """Read clips and other files anew that were changed on disk."""
        if self.folder is None:
            return
        try:
            known = None if self.project.rig.figure in names else self.book.cast.without(names)
            cast, missing = load_cast(self.project, self.folder, known=known)
        except Trouble as trouble:
            self.said.emit(str(trouble), True)
            return
        self._gone = {words.split(" is not in the folder")[0] for words in missing}
        self.book = Book(self.project, cast)
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
        if self.kept is None:
            return
        try:
            self.kept.journal.write(words, project)
            self._journal_fine = True
        except Trouble as trouble:
            if self._journal_fine:
                self.said.emit(str(trouble), True)
            self._journal_fine = False

    def receive(self, edit: Edit, cast: Cast) -> None:
        """Make an edit whose files are loaded already, such as an import."""
        self.cancel_preview()
        self.book = Book(self.project, cast)
        self.opened.emit()
        self.apply(edit)

    def _load_what_is_named(self, project: Project) -> None:
        """Load what a step forth or back names and the cast has not: files, props, another mapping or figure."""
        cast, rig = self.book.cast, project.rig
        named = {clip.file for clip in project.clips} - {""}
        known = named <= cast.files | self._gone and {p.file for p in rig.props} <= cast.props.keys() | self._gone
        old = self.project.rig
        same_figure = (rig.figure, rig.unit, rig.turn) == (old.figure, old.unit, old.turn)
        same_maps = project.sources == cast.sources or not cast.foreign
        if self.folder is None or (known and same_figure and same_maps):
            return
        try:
            cast, missing = load_cast(project, self.folder, known=cast if same_figure else None)
        except Trouble as trouble:
            self.said.emit(str(trouble), True)
            return
        self._gone = {words.split(" is not in the folder")[0] for words in missing}
        self.book = Book(self.project, cast)

    # Changing

    def apply(self, edit: Edit) -> bool:
        """Make an edit one step; false when it changes nothing."""
        before = self._previewing or self.project
        self._previewing = None
        if edit.project == before or self.refuses() or self._cannot_be(before, edit.project):
            self._show(before)
            return False
        self.done.append(Step(edit.words, before, edit.project))
        self.undone.clear()
        self._show(edit.project)
        self._write_journal(edit.words, edit.project)
        self.saved_changed.emit()
        for note in edit.notes:
            self.said.emit(note, False)
        return True

    def _cannot_be(self, before: Project, after: Project) -> bool:
        """Whether a change is one that could not be opened again, which is said then."""
        try:
            check_change(before, after)
        except Trouble as trouble:
            self.said.emit(f"That cannot be: {trouble.field} {trouble.says}.", True)
            return True
        return False

    def preview(self, project: Project) -> None:
        """Show a project while a drag goes on; ``apply`` or ``cancel_preview`` ends it."""
        if self.to_look:
            return
        if self._previewing is None:
            self._previewing = self.project
        self._show(project)

    @property
    def dragging(self) -> bool:
        """Whether something is being dragged, and what is shown is not yet what will be kept."""
        return self._previewing is not None

    @property
    def base(self) -> Project:
        """The project a drag began from, or the project itself."""
        return self._previewing or self.project

    def cancel_preview(self) -> None:
        """Give up a drag."""
        if self._previewing is not None:
            base, self._previewing = self._previewing, None
            self._show(base)

    def _show(self, project: Project) -> None:
        self._load_what_is_named(project)
        self.project = project
        self.book = self.book.renew(project)
        if self.selection and span_of(project, self.selection) is None:
            self.selection, self.also = None, ()
            self.selection_changed.emit()
        if self.compiled is None and project.actions:
            self.action = project.actions[0].name
        if self.book.clip(self.clip) is None:
            self.clip = project.clips[0].name if project.clips else ""
        total = self.compiled.rows if self.compiled else 0
        self.frame = min(self.frame, max(total - 1, 0))
        self.changed.emit()

    def undo(self) -> None:
        """Take the last step back."""
        self.cancel_preview()
        if self.done:
            step = self.done.pop()
            self.undone.append(step)
            self._stepped(step.before, f"Undone: {step.words}")

    def redo(self) -> None:
        """Make the step last undone again."""
        self.cancel_preview()
        if self.undone:
            step = self.undone.pop()
            self.done.append(step)
            self._stepped(step.after, f"Done again: {step.words}")

    def _stepped(self, project: Project, words: str) -> None:
        self._show(project)
        self._write_journal(words, project)
        self.saved_changed.emit()

    # What is looked at

    @property
    def compiled(self) -> CompiledAction | None:
        """The action that is open, compiled."""
        return self.book.action(self.action)

    def choose_action(self, name: str) -> None:
        """Open an action on the sheet."""
        if name != self.action and self.book.action(name) is not None:
            self.action, self.frame, self.selection = name, 0, None
            self.changed.emit()
            self.selection_changed.emit()
            self.frame_moved.emit()

    def choose_clip(self, name: str) -> None:
        """Open a clip."""
        if name != self.clip and self.book.clip(name) is not None:
            self.clip = name
            self.clip_chosen.emit()

    @property
    def mesh(self) -> Mesh | None:
        """What is drawn: the figure with its props."""
        cast, rig = self.book.cast, self.project.rig
        if self._mesh is None or self._mesh[0] is not cast or self._mesh[1] is not rig:
            if self._mesh is not None and self._mesh[0] is cast and self._mesh[1] == rig:
                return self._mesh[2]
            self._mesh = (cast, rig, figure_mesh(cast, rig))
        return self._mesh[2]

    def move_to(self, frame: int) -> None:
        """Put the playhead on a frame of the open action."""
        total = self.compiled.rows if self.compiled else 0
        frame = min(max(frame, 0), max(total - 1, 0))
        if frame != self.frame:
            self.frame = frame
            self.frame_moved.emit()

    def select(self, ref: SpanRef | None) -> None:
        """Select a span, and no other."""
        if ref != self.selection or self.also:
            self.selection, self.also = ref, ()
            self.selection_changed.emit()

    def select_also(self, ref: SpanRef) -> None:
        """Select a span of the same kind besides, or no longer."""
        if self.selection is None or self.selection.kind != ref.kind or ref == self.selection:
            self.select(ref)
        else:
            rest = tuple(r for r in self.also if r != ref)
            self.also = rest if len(rest) < len(self.also) else (*self.also, ref)
            self.selection_changed.emit()

    @property
    def selected(self) -> list[SpanRef]:
        """Every selected span that is there, the first chosen first."""
        refs = [self.selection, *self.also] if self.selection else []
        return [r for r in refs if r is not None and span_of(self.project, r) is not None]


def _is_same(a: Path, b: Path) -> bool:
    return a.resolve() == b.resolve()
