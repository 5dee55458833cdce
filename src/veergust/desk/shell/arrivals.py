"""Motion files on their way in: read, mapped where their skeleton is a foreign one, taken into the project."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

from msgspec.structs import replace
from PySide6.QtCore import QObject, Qt, Signal
from PySide6.QtWidgets import QMessageBox

from veergust import core
from veergust.core.trouble import Trouble
from veergust.core.wording import listed
from veergust.desk.document.document import Document
from veergust.desk.running.work import BackgroundTask
from veergust.desk.widgets.asking import accepted
from veergust.desk.widgets.notice import Notice

if TYPE_CHECKING:
    from veergust.core.files import Arrival, Draft, Progress
    from veergust.core.model import Project, SourceRig
    from veergust.core.motion import Assets


def _in_the_way(folder: Path, file: Path) -> bool:
    """Whether another file of that name is in the project; one that cannot be read is not asked about."""
    try:
        return bool(core.files.stands_in_the_way(folder, file))
    except Trouble:
        return False


class Arrivals(QObject):
    """Brings files in, one batch at a time. ``map_wanted`` asks for a mapping, ``cut_wanted`` how a sheet of
    drawings is cut; ``answer``, ``cut`` or ``give_up`` follow."""

    map_wanted = Signal(object)
    cut_wanted = Signal(object)
    arrived = Signal(object)
    ended = Signal()

    def __init__(self, document: Document, notice: Notice, owner: QObject | None = None) -> None:
        super().__init__(owner)
        self.document = document
        self.notice = notice
        self.work: BackgroundTask | None = None
        self.waiting: list[Arrival] = []
        self.uncut: list[Arrival] = []

    @property
    def busy(self) -> bool:
        """Whether a batch is on its way."""
        return self.work is not None or bool(self.waiting) or bool(self.uncut)

    def bring_in(self, files: list[Path]) -> None:
        """Import motion files into the open project."""
        if self.document.refuses():
            return
        if self.busy:
            self.document.said.emit("Other files are still on their way in; wait for them or give them up.", True)
            return
        if not self.document.settle():
            return
        folder, project = self.document.folder, self.document.project
        assert folder is not None
        again = [f for f in files if _in_the_way(folder, f)]
        if again:
            self.replace(folder, again)
        files = [f for f in files if f not in again]
        if not files:
            return

        def read(progress: Progress) -> list[Arrival]:
            out = []
            for i, file in enumerate(files):
                progress(f"Reading {file.name}", i / len(files))
                out.append(core.files.arrive(project, folder, file))
            return out

        self._start(read, self._read)

    def replace(self, folder: Path, files: list[Path]) -> None:
        """Ask whether files take the place of those of their names, and have them do so."""
        names = listed([f.name for f in files])
        box = QMessageBox(self.notice.window())
        box.setTextFormat(Qt.TextFormat.PlainText)
        box.setWindowTitle("There already")
        box.setText(f"{names}: there is another of that name in the project. What is there is kept beside it.")
        take = box.addButton("Take its place", QMessageBox.ButtonRole.AcceptRole)
        leave = box.addButton("Leave it out", QMessageBox.ButtonRole.RejectRole)
        box.setDefaultButton(take)
        box.setEscapeButton(leave)
        accepted(box)
        if box.clickedButton() is not take:
            return
        read: list[str] = []
        try:
            for file in files:
                read += core.files.put_in_place(folder, file, self.document.lock)[0]
        except Trouble as trouble:
            self.document.said.emit(str(trouble), True)
            return
        finally:
            if read:
                self.document.load_again(read)
        self.document.said.emit(f"Read again: {names}. Its clips play what it has now.", False)

    def _start(self, act: Any, then: Any) -> None:
        def watch(says: str, share: float) -> None:
            self.notice.progress(f"{says} …", share, work.stop)

        work = BackgroundTask(
            act, watch, lambda result: self._end(then, result), lambda says: self._end(self._refused, says), self
        )
        self.work = work
        work.start()

    def _end(self, then: Any, result: Any) -> None:
        self.work = None
        self.notice.hide()
        then(result)

    def _refused(self, says: str) -> None:
        self.waiting, self.uncut = [], []
        words = f"Nothing was imported. {says}" if says else "Nothing was imported: it was given up."
        self.document.said.emit(words, bool(says))
        self.ended.emit()

    def _read(self, arrivals: list[Arrival]) -> None:
        self.waiting = [a for a in arrivals if a.draft is None]
        self.uncut = [a for a in arrivals if a.draft is not None]
        self._go_on()

    def cut(self, draft: Draft) -> None:
        """Take a sheet in as it is cut now."""
        folder = self.document.folder
        assert folder is not None
        try:
            self.waiting = [*self.waiting, core.files.of_draft(self.document.project, folder, draft)]
        except Trouble as trouble:
            self._refused(str(trouble))
            return
        self.uncut = self.uncut[1:]
        self._go_on()

    def _go_on(self) -> None:
        unknown = next((a for a in self.waiting if a.rig is not None and not a.known), None)
        if self.uncut:
            self.cut_wanted.emit(self.uncut[0].draft)
        elif unknown is not None:
            self.map_wanted.emit(unknown)
        else:
            self._take_in()

    def answer(self, rig: SourceRig) -> None:
        """Use this mapping for every waiting file of its skeleton."""
        self.waiting = [
            core.files.Arrival(a.source, a.content, rig, True) if a.rig and a.rig.fingerprint == rig.fingerprint else a
            for a in self.waiting
        ]
        self._go_on()

    def give_up(self) -> None:
        """Take none of the waiting files in."""
        self._refused("")

    def _take_in(self) -> None:
        folder, before, known = self.document.folder, self.document.project, self.document.build.assets
        lock = self.document.lock
        waiting, self.waiting = self.waiting, []
        assert folder is not None

        def take(progress: Progress) -> tuple[Project, list[str], list[str], Assets]:
            project = before
            names: list[str] = []
            left_out: list[str] = []
            for arrival in waiting:
                done = core.files.take_in(project, folder, arrival, save=False, progress=progress, lock=lock)
                project = done.project
                names += done.clips
                left_out += [f"{arrival.source.name}: {words}" for words in done.left_out]
            same = project.rig.figure == before.rig.figure
            assets, _ = core.files.load_assets(project, folder, progress, known if same else None)
            return project, names, left_out, assets

        self._start(take, lambda result: self._taken(before, waiting, *result))

    def _taken(
        self,
        before: Project,
        waiting: list[Arrival],
        project: Project,
        names: list[str],
        left_out: list[str],
        assets: Assets,
    ) -> None:
        words = f"Import {', '.join(names) if names else waiting[0].source.name}"
        now = self.document.base
        if now is not before:
            # The person went on working: what came in is added to what there is now.
            new = tuple(c for c in project.clips if c not in before.clips)
            rig = project.rig if project.rig != before.rig else now.rig
            project = core.edit.outfit(
                replace(now, clips=core.edit.before_stand(now.clips, new), sources=project.sources, rig=rig), assets
            )
        self.document.receive(core.edit.Edit(project, words), assets)
        if names:
            self.document.choose_clip(names[0])
        rest = f" Left out or taken so: {'; '.join(left_out[:3])}" if left_out else ""
        more = f" (and {len(left_out) - 3} more)" if len(left_out) > 3 else ""
        self.document.said.emit(f"{words}.{rest}{more}", False)
        self.arrived.emit(names)
        self.ended.emit()
