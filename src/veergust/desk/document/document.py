"""The open project: a value, the steps back, the file it came from, and what is selected.

Widgets read ``project``, ``build`` and what is ``known`` of them, and send edits to ``apply``; a drag shows
``preview`` values and ends in one ``apply``. Nothing else changes the project.
"""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

from veergust import core
from veergust.core.trouble import Trouble
from veergust.core.wording import listed
from veergust.desk.document.derived import Derived
from veergust.desk.document.keeping import Keeping
from veergust.desk.document.step import Step

if TYPE_CHECKING:
    from veergust.core.edit import Edit, SpanRef
    from veergust.core.kinds import Ref
    from veergust.core.model import Project, Rig
    from veergust.core.motion import Assets, Mesh
    from veergust.core.play import CompiledAction


class Document(Keeping):
    """One open project."""

    frame_moved = Signal()
    selection_changed = Signal()
    clip_chosen = Signal()

    def __init__(self, owner: QObject | None = None) -> None:
        super().__init__(owner)
        self._mesh: tuple[Assets, Rig, Mesh | None] | None = None
        self.action = ""
        self.frame = 0
        self.selection: SpanRef | None = None
        self.also: tuple[SpanRef, ...] = ()
        self.clip = ""
        self._previewing: Project | None = None
        self.derived = Derived(self)

    def look_at_start(self) -> None:
        """Look at a project that was just opened, from its first action and clip."""
        project = self.project
        self.action = project.actions[0].name if project.actions else ""
        self.frame, self.selection = 0, None
        self.clip = project.clips[0].name if project.clips else ""
        self.derived = Derived(self)
        self._previewing = None
        self.opened.emit()
        self.changed.emit()
        self.selection_changed.emit()
        self.frame_moved.emit()
        self.saved_changed.emit()

    def receive(self, edit: Edit, assets: Assets) -> None:
        """Make an edit whose files are loaded already, such as an import."""
        self.cancel_preview()
        self.build = core.play.CompiledProject(self.project, assets)
        self.opened.emit()
        self.apply(edit)

    def _load_what_is_named(self, project: Project) -> None:
        """Load what a step forth or back names and the assets have not: files, props, another mapping or figure."""
        assets, rig = self.build.assets, project.rig
        named = {clip.file for clip in project.clips} - {""}
        known = named <= assets.files | self._gone and {p.file for p in rig.props} <= assets.props.keys() | self._gone
        old = self.project.rig
        same_figure = (rig.figure, rig.unit, rig.turn, rig.sheets) == (old.figure, old.unit, old.turn, old.sheets)
        if rig.sheets and same_figure:
            same_figure = set(core.files.drawn_joints(rig)) <= set(assets.skeleton.names)
        same_maps = project.sources == assets.sources or not assets.foreign
        known &= set(rig.sheets) <= assets.sheets.keys() | self._gone
        known &= set(core.files.named_guests(project)) <= assets.guests.keys() | self._gone
        if self.folder is None or (known and same_figure and same_maps):
            return
        try:
            assets, missing = core.files.load_assets(project, self.folder, known=assets if same_figure else None)
        except Trouble as trouble:
            self.said.emit(str(trouble), True)
            return
        self._gone = core.files.gone(missing)
        self.build = core.play.CompiledProject(self.project, assets)

    # Changing

    def apply(self, edit: Edit) -> bool:
        """Make an edit one step; false when it changes nothing."""
        before = self._previewing or self.project
        self._previewing = None
        edit = replace(edit, project=core.edit.settled(edit.project, before))
        if edit.project == before or self.refuses() or self._cannot_be(before, edit.project):
            self._show(before)
            return False
        self.done.append(Step(edit.words, before, edit.project, len(self.taken)))
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
            core.files.check_change(before, after)
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
        self.build = self.build.renew(project)
        if self.selection and core.edit.span_of(project, self.selection) is None:
            self.selection, self.also = None, ()
            self.selection_changed.emit()
        if self.compiled is None and project.actions:
            self.action = project.actions[0].name
        if self.build.clip(self.clip) is None:
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
            self._stepped(step.before, step.known, f"Undone: {step.words}")

    def redo(self) -> None:
        """Make the step last undone again."""
        self.cancel_preview()
        if self.undone:
            step = self.undone.pop()
            self.done.append(step)
            self._stepped(step.after, step.known, f"Done again: {step.words}")

    def _stepped(self, project: Project, known: int, words: str) -> None:
        project, theirs = self.round_theirs(project, known)
        if theirs:
            self.said.emit(f"{words}; left as it was changed on disk: {listed(theirs)}.", False)
        self._show(project)
        self._write_journal(words, project)
        self.saved_changed.emit()

    # What is looked at

    @property
    def compiled(self) -> CompiledAction | None:
        """The action that is open, compiled."""
        return self.build.action(self.action)

    def choose_action(self, name: str) -> None:
        """Open an action on the sheet."""
        if name != self.action and self.build.action(name) is not None:
            self.action, self.frame, self.selection = name, 0, None
            self.changed.emit()
            self.selection_changed.emit()
            self.frame_moved.emit()

    def choose_clip(self, name: str) -> None:
        """Open a clip."""
        if name != self.clip and self.build.clip(name) is not None:
            self.clip = name
            self.clip_chosen.emit()

    @property
    def mesh(self) -> Mesh | None:
        """What is drawn: the figure with its props."""
        assets, rig = self.build.assets, self.project.rig
        if self._mesh is None or self._mesh[0] is not assets or self._mesh[1] is not rig:
            if self._mesh is not None and self._mesh[0] is assets and self._mesh[1] == rig:
                return self._mesh[2]
            self._mesh = (assets, rig, core.scene.figure_mesh(assets, rig))
        return self._mesh[2]

    def move_to(self, frame: int) -> None:
        """Put the playhead on a frame of the open action."""
        total = self.compiled.rows if self.compiled else 0
        frame = min(max(frame, 0), max(total - 1, 0))
        if frame != self.frame:
            self.frame = frame
            self.frame_moved.emit()

    def go_to(self, at: Ref) -> None:
        """Open the action of a place, select its span if it is one, and put the playhead there."""
        self.choose_action(at.name)
        if at.section is None or self.compiled is None or at.section >= len(self.compiled.sections):
            return
        ref = core.edit.SpanRef(at.name, at.section, at.kind, at.index) if at.kind and at.index is not None else None
        span = core.edit.span_of(self.project, ref) if ref is not None else None
        self.select(ref if span is not None else None)
        tick = at.frame if span is None else getattr(span, "tick", getattr(span, "start", 0))
        self.move_to(self.compiled.start_of(at.section) + max(tick or 0, 0))

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

    def select_all(self) -> None:
        """Select every span of the section under the playhead."""
        compiled = self.compiled
        if compiled is None or not compiled.sections:
            return
        at = compiled.locate(self.frame)[0]
        section = compiled.sections[at].section
        kinds = core.kinds.SPANS.items()
        refs = [core.edit.SpanRef(self.action, at, key, i) for key, k in kinds for i in range(len(k.of(section)))]
        self.selection, self.also = (refs[0], tuple(refs[1:])) if refs else (None, ())
        self.selection_changed.emit()

    @property
    def selected(self) -> list[SpanRef]:
        """Every selected span that is there, the first chosen first."""
        refs = [self.selection, *self.also] if self.selection else []
        return [r for r in refs if r is not None and core.edit.span_of(self.project, r) is not None]
