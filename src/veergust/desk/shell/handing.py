"""Handing the project over to the game: where to, in which axes, what will be written, what stops it."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any, Literal

from PySide6.QtCore import QSettings
from PySide6.QtGui import QCloseEvent
from PySide6.QtWidgets import (
    QDialog,
    QFileDialog,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QProgressBar,
    QVBoxLayout,
    QWidget,
)

from veergust.core.export import Axes, Exported, export
from veergust.core.kinds import Finding, Ref
from veergust.core.play import CompiledProject
from veergust.core.study import findings
from veergust.desk.document.document import Document
from veergust.desk.running.work import BackgroundTask
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.fields import ChoiceField, Form, TextField, heading, note
from veergust.desk.widgets.rows import buttons, switch

UP = [("Y is up", "y"), ("Z is up", "z")]
HAND = [("right-handed", "right"), ("left-handed", "left")]
UNIT = [("metres", "m"), ("centimetres", "cm")]
FILES = 45
"""About so many files an export tells of while it is made; the bar goes by that."""
Row = tuple[str, str]


class HandOver(QDialog):
    """The page of an export. It looks what would be written as soon as it knows where to."""

    def __init__(
        self,
        document: Document,
        settings: QSettings,
        go: Callable[[Ref], None],
        found: list[Finding] | None = None,
        parent: QWidget | None = None,
    ) -> None:
        """``found`` is what the checks found, where that is known."""
        super().__init__(parent)
        found = found if found is not None else findings(document.build)
        self.document, self.settings, self.go = document, settings, go
        self.work: BackgroundTask | None = None
        self.stops: list[Finding] = [f for f in found if f.level == "error"]
        self.setWindowTitle("Hand over to the game")
        self.resize(640, 620)
        box = QVBoxLayout(self)
        box.setContentsMargins(20, 16, 20, 16)
        box.setSpacing(8)
        self.folder = TextField("Folder of the game", self._chosen, "Clips, actions and all else are written there")
        self.folder.setMinimumWidth(380)
        choose = word_button("choose…", "Choose the folder")
        choose.clicked.connect(self.choose)
        self.up = ChoiceField("Up", self._axes, "The axis that is up in the game")
        self.hand = ChoiceField("Hand", self._axes, "The hand that the game's axes are of")
        self.unit = ChoiceField("Unit", self._axes, "The unit of the game's lengths")
        form = Form()
        form.row("Folder", self.folder, choose)
        axes = QWidget()
        row = QHBoxLayout(axes)
        row.setContentsMargins(0, 0, 0, 0)
        for field, rows in ((self.up, UP), (self.hand, HAND), (self.unit, UNIT)):
            field.show_choices(rows, str(settings.value(self._key(field.accessibleName()), "") or rows[0][1]))
            row.addWidget(field)
        row.addStretch(1)
        form.row("Axes", axes)
        box.addWidget(heading("Where to, and how"))
        box.addWidget(form)
        self.mesh = switch("with the figure's mesh", "Each clip has the skin as well as the skeleton", self._axes)
        self.mesh.setChecked(settings.value(self._key("mesh"), "yes") == "yes")
        box.addWidget(buttons(self.mesh))
        self.words = note()
        self.words.setWordWrap(True)
        box.addWidget(self.words)
        self.list = QListWidget()
        self.list.setAccessibleName("What will be written, or what stops it")
        self.list.itemActivated.connect(self._open)
        box.addWidget(self.list, 1)
        self.bar = QProgressBar()
        self.bar.setRange(0, 100)
        self.bar.setTextVisible(False)
        self.bar.hide()
        box.addWidget(self.bar)
        self.look_button = word_button("look again", "What would be written now")
        self.look_button.clicked.connect(self.look)
        self.write_button = word_button("hand over", "Write it", strong=True)
        self.write_button.clicked.connect(self.write)
        self.give_up_button = word_button("give up", "Leave the folder as it is")
        self.give_up_button.clicked.connect(self.give_up)
        self.close_button = word_button("close", "Back to work")
        self.close_button.clicked.connect(self.close)
        box.addWidget(buttons(self.write_button, self.look_button, self.give_up_button, self.close_button))
        self.folder.show_value(str(settings.value(self._key("folder"), "") or ""))
        self._renew()
        if self.stops:
            self._show_stops()
        elif self.folder.text():
            self.look()
        else:
            self.words.setText("Choose the folder that the game reads.")

    def _key(self, what: str) -> str:
        """Where a person's choice for this project is kept."""
        home = self.document.folder
        return f"hand over/{what.lower()}/{home.name if home is not None else ''}"

    # What is asked for

    def choose(self) -> None:
        """Ask for the folder."""
        found = QFileDialog.getExistingDirectory(self, "The folder that the game reads", self.folder.text())
        if found:
            self.folder.show_value(found)
            self._chosen(found)

    def _chosen(self, folder: str) -> None:
        self.settings.setValue(self._key("folder"), folder.strip())
        self.look()

    def _axes(self, _: Any) -> None:
        for field in (self.up, self.hand, self.unit):
            self.settings.setValue(self._key(field.accessibleName()), field.currentData())
        self.settings.setValue(self._key("mesh"), "yes" if self.mesh.isChecked() else "no")
        self.look()

    @property
    def axes(self) -> Axes:
        """The axes that are chosen."""
        return Axes(self.up.currentData(), self.hand.currentData(), self.unit.currentData())

    # Looking and writing

    def look(self) -> None:
        """Look what would be written."""
        self._run("look")

    def write(self) -> None:
        """Write it."""
        self._run("write")

    def _run(self, what: Literal["look", "write"]) -> None:
        folder = self.folder.text().strip()
        if self.stops or not folder or self.work is not None:
            return
        # A book of its own: the window's is not looked into from two sides at once.
        project, assets, axes, mesh = (
            self.document.project,
            self.document.build.assets,
            self.axes,
            self.mesh.isChecked(),
        )

        def act(progress: Callable[[str, float], None]) -> Exported:
            count = 0

            def told(path: str) -> None:
                nonlocal count
                count += 1
                progress(path, min(count / FILES, 0.97))

            build = CompiledProject(project, assets)
            return export(build, Path(folder), axes, mesh=mesh, told=told, look=what == "look")

        self.work = BackgroundTask(act, self._watch, lambda made: self._made(what, made), self._failed, self)
        self._renew()
        self.work.start()

    def give_up(self) -> None:
        """Give up what goes on."""
        if self.work is not None:
            self.work.stop()

    def _watch(self, says: str, share: float) -> None:
        self.words.setText(f"{says} …")
        self.bar.setValue(round(share * 100))

    def _made(self, what: Literal["look", "write"], made: Exported) -> None:
        self.work = None
        verbs = ("is written", "is removed") if what == "look" else ("was written", "was removed")
        rows: list[Row] = [(path, verbs[0]) for path in made.written]
        rows += [(path, verbs[1]) for path in made.removed]
        rows += [(path, "changed by hand, stays") for path in made.left_alone]
        rows += [(path, "is the same") for path in made.unchanged]
        counts = f"{len(made.written)} to write" if what == "look" else f"{len(made.written)} written"
        self.words.setText(f"{counts}, {len(made.removed)} to go, {len(made.unchanged)} the same."
                           if what == "look" else
                           f"{counts}, {len(made.removed)} removed, {len(made.unchanged)} the same.")  # fmt: skip
        self.list.clear()
        for path, says in rows:
            self.list.addItem(f"{path}   {says}")
        self._renew()

    def _failed(self, says: str) -> None:
        self.work = None
        self.words.setText(says or "Given up; the folder is as it was.")
        self.list.clear()
        self._renew()

    def _show_stops(self) -> None:
        many = f"{len(self.stops)} errors stop" if len(self.stops) > 1 else "An error stops"
        self.words.setText(f"{many} it. Return on one goes there.")
        for found in self.stops:
            item = QListWidgetItem(f"{found.where}: {found.says}; {found.do}.")
            self.list.addItem(item)

    def _open(self, item: QListWidgetItem) -> None:
        if self.stops:
            self.go(self.stops[self.list.row(item)].at)
            self.close()

    def _renew(self) -> None:
        busy = self.work is not None
        self.bar.setVisible(busy)
        self.bar.setValue(0)
        self.give_up_button.setVisible(busy)
        for button in (self.look_button, self.write_button):
            button.setEnabled(not busy and not self.stops and bool(self.folder.text().strip()))
        for field in (self.folder, self.up, self.hand, self.unit, self.mesh):
            field.setEnabled(not busy)

    def closeEvent(self, event: QCloseEvent) -> None:
        self.give_up()
        super().closeEvent(event)
