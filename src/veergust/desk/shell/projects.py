"""The ways in and out of a project: new, open, recent, save, save as, and leaving one that is not saved."""

from __future__ import annotations

from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QSettings, Qt
from PySide6.QtWidgets import QFileDialog, QMenu, QMessageBox, QStackedWidget

from veergust import core
from veergust.core.trouble import Trouble
from veergust.desk.document.document import Document
from veergust.desk.shell.arrivals import Arrivals
from veergust.desk.shell.findings import FindingsButton
from veergust.desk.shell.lately import keep_poses
from veergust.desk.widgets.asking import accepted
from veergust.desk.widgets.notice import Notice

if TYPE_CHECKING:
    from veergust.core.files import Left
    from veergust.core.kinds import Ref

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget as Base
else:
    Base = object

RECENT = 8


class ProjectDoors(Base):
    """The part of the window that opens and saves; it needs the window's document, notice and settings."""

    document: Document
    notice: Notice
    arrivals: Arrivals
    settings: QSettings
    benches: QStackedWidget
    recent_menu: QMenu
    findings_button: FindingsButton

    if TYPE_CHECKING:

        @property
        def bench(self) -> str: ...

        def show_bench(self, name: str) -> None: ...

        def show_first(self) -> None: ...

        def bring_back(self, left: Left) -> None: ...

        def say_what_was_found(self) -> None: ...

        def go_to(self, at: Ref) -> None: ...

        def look_at_disk(self, ask: bool = False) -> bool: ...

    def open_project(self, folder: Path) -> bool:
        """Open a project folder, after asking about unsaved work."""
        if not self.may_leave():
            return False
        self.keep_poses()
        self.notice.hide()
        if not self.document.open(folder):
            return False
        if not self.document.is_untitled:
            self._remember(folder)
        self.say_what_was_found()
        self.show_bench(self.bench if self.document.project.clips else "Clips")
        return True

    def ask_open(self) -> None:
        """Ask which project to open."""
        folder = QFileDialog.getExistingDirectory(self, "Open a project folder", self._last_place())
        if folder:
            self.open_project(Path(folder))

    def new_project(self) -> None:
        """Begin a project that has no place yet."""
        if self.may_leave():
            self.keep_poses()
            self.notice.hide()
            self.document.begin_anew()
            self.show_first()

    def look_at_demo(self, name: str = core.files.NAME) -> None:
        """Open a copy of a demo that is the person's own."""
        try:
            folder = core.files.fresh_demo(name)
        except Trouble as trouble:
            self.notice.say(str(trouble), True)
            return
        self.open_project(folder)

    def look_at_paper(self) -> None:
        """Open a copy of the paper theatre."""
        self.look_at_demo(core.files.PAPER)

    def open_late(self, folder: Path, bring_back: bool) -> None:
        """Open a project of the list on the first page, with its work that was never saved where that is wanted."""
        if not self.open_project(folder):
            self.show_first()
            return
        left = core.files.left_behind(folder)
        if left and (bring_back or core.files.is_draft(folder)):
            self.bring_back(left[0])

    def keep_poses(self) -> None:
        """Keep what the first page shows of the project that is open."""
        found = self.findings_button.found
        if not self.document.is_untitled:
            keep_poses(self.document, len(found) if found is not None else 0)

    def save(self) -> bool:
        """Save where it was opened, or ask."""
        if self.document.is_untitled:
            return self.save_as()
        if self.document.refuses() or not self.look_at_disk(ask=True):
            return False
        return self.document.save()

    def save_as(self) -> bool:
        """Ask where to save."""
        start = f"{self._last_place()}/{self.document.project.name}.veergust"
        chosen, _ = QFileDialog.getSaveFileName(self, "Save the project as", start)
        if not chosen or not self.document.save(Path(chosen)):
            return False
        self._remember(Path(chosen))
        return True

    def ask_import(self) -> None:
        """Ask for motion files."""
        files, _ = QFileDialog.getOpenFileNames(
            self,
            "Import clips",
            "",
            f"Motion and drawings ({' '.join(f'*{suffix}' for suffix in sorted(core.files.BROUGHT))})",
        )
        if files:
            self.arrivals.bring_in([Path(f) for f in files])

    def hand_over(self) -> None:
        """The page on which the project is written for the game."""
        from veergust.desk.shell.handing import HandOver  # what it needs is not needed for anything else

        accepted(HandOver(self.document, self.settings, self.go_to, self.findings_button.found, self))

    def may_leave(self) -> bool:
        """Whether the open project may be left: asks when it is not saved."""
        if not self.document.unsaved:
            return True
        box = QMessageBox(self)
        box.setTextFormat(Qt.TextFormat.PlainText)
        box.setWindowTitle("Not saved")
        box.setText(f"{self.document.project.name} has changes that are not saved.")
        save = box.addButton("Save", QMessageBox.ButtonRole.AcceptRole)
        drop = box.addButton("Leave without saving", QMessageBox.ButtonRole.DestructiveRole)
        stay = box.addButton("Stay", QMessageBox.ButtonRole.RejectRole)
        box.setDefaultButton(save)
        box.setEscapeButton(stay)
        accepted(box)
        if box.clickedButton() is save:
            return self.save()
        return box.clickedButton() is drop

    def _last_place(self) -> str:
        folder = self.document.folder
        place = Path.home() if folder is None or self.document.is_untitled else folder.parent
        return str(place if place.is_dir() else Path.home())

    def recent(self) -> list[str]:
        """Project folders opened lately that are still there."""
        value = self.settings.value("recent", [])
        rows = [value] if isinstance(value, str) else value
        return [str(row) for row in rows if Path(row).is_dir()] if isinstance(rows, list) else []

    def _remember(self, folder: Path) -> None:
        rows = [str(folder), *(r for r in self.recent() if r != str(folder))]
        self.settings.setValue("recent", rows[:RECENT])

    def _fill_recent(self) -> None:
        self.recent_menu.clear()
        rows = self.recent()
        for row in rows:
            path = Path(row)
            self.recent_menu.addAction(f"{path.stem}    {path.parent}", partial(self.open_project, path))
        if not rows:
            self.recent_menu.addAction("None yet").setEnabled(False)
