"""What is dropped on the window: motion files, sounds, project folders."""

from __future__ import annotations

from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QPoint
from PySide6.QtGui import QDragEnterEvent, QDropEvent
from PySide6.QtWidgets import QWidget

from veergust import core
from veergust.desk.document.document import Document
from veergust.desk.shell.arrivals import Arrivals
from veergust.desk.widgets.notice import Notice

if TYPE_CHECKING:
    from veergust.desk.sheet.bench import SheetBench

    Base = QWidget
else:
    Base = object


class DropDoors(Base):
    """The part of the window that takes what is dropped on it."""

    document: Document
    notice: Notice
    arrivals: Arrivals
    _onto_sheet = False

    if TYPE_CHECKING:

        @property
        def sheet(self) -> SheetBench: ...

        @property
        def is_first(self) -> bool: ...

        def show_bench(self, name: str) -> None: ...

        def open_project(self, folder: Path) -> bool: ...

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        paths = [Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()]
        folders = [p for p in paths if p.is_dir()]
        sounds = [p for p in paths if p.suffix.lower() == ".wav"]
        projects = [p for p in folders if (p / "project.json").is_file() or not core.files.is_bare(p)]
        files = [p for p in paths if p.suffix.lower() in core.files.BROUGHT or (p in folders and p not in projects)]
        if projects:
            self.open_project(projects[0])
        elif files:
            self._onto_sheet = self._over_sheet(event.position().toPoint())
            self.arrivals.bring_in(files)
        elif sounds:
            self.document.bring_sounds(sounds)
        elif paths:
            self.notice.say(f"{paths[0].name} is no {core.files.SPOKEN} file. Drop one, or a project folder.", True)

    def _over_sheet(self, at: QPoint) -> bool:
        """Whether a point of the window is on the exposure sheet."""
        sheet = self.sheet.sheet
        return sheet.isVisible() and sheet.rect().contains(sheet.mapFrom(self, at))

    def arrived(self, names: list[str]) -> None:
        """Clips dropped on the sheet become sections of the open action."""
        onto, self._onto_sheet = self._onto_sheet, False
        if self.is_first:
            self.show_bench("Clips")
        if onto and names:
            self.show_bench("Sheet")
            sheet = self.sheet.sheet
            sheet.take_clips(names)
            if len(names) > 1:
                self.notice.say(
                    f"{len(names)} sections, one for each clip.",
                    False,
                    ("one section of all", partial(self._one_section, names)),
                )

    def _one_section(self, names: list[str]) -> None:
        """The clips that just became a section each, as one section instead."""
        self.document.undo()
        self.sheet.sheet.take_clips(names, together=True)
