"""The window: the top bar, the benches, opening and saving, and what holds everywhere."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import QByteArray, QSettings
from PySide6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QKeyEvent, QKeySequence, QShortcut
from PySide6.QtWidgets import (
    QApplication,
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QMainWindow,
    QMenu,
    QMessageBox,
    QPushButton,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from veergust.core.files.folder import save_project
from veergust.core.files.importing import KINDS
from veergust.core.model import Project
from veergust.core.trouble import Trouble
from veergust.desk.document import Document
from veergust.desk.findings import FindingsMenu
from veergust.desk.sheet.bench import SheetBench
from veergust.desk.spar.bench import SparBench
from veergust.desk.theme import Theme, elided
from veergust.desk.widgets.notice import Notice
from veergust.desk.widgets.stage_panel import word_button

RECENT = 8
NAME_WIDTH = 150
BENCHES = (("Sheet", "Ctrl+3"), ("Spar", "Ctrl+6"))


class Window(QMainWindow):
    """The program's window."""

    def __init__(self, theme: Theme, settings: QSettings) -> None:
        super().__init__()
        self.theme = theme
        self.settings = settings
        self.theme.use(str(settings.value("theme", "day")))
        # Before any widget is made, so that the first layout has the sizes of the style and not Qt's own.
        self._style_application()
        self.document = Document()
        self.notice = Notice(theme)
        self.sheet = SheetBench(self.document, theme)
        self.spar = SparBench(self.document, theme)
        self.benches = QStackedWidget()
        self.benches.addWidget(self.sheet)
        self.benches.addWidget(self.spar)
        self.bench_buttons: list[QPushButton] = []
        self.project_button = word_button("Untitled", "Open, save, recent projects, theme (F10)")
        self.project_button.setObjectName("project")
        self.project_button.clicked.connect(self.show_menu)
        self.findings_button = word_button("", "What the checks found (F8)")
        self.findings_button.setObjectName("warn")
        self.findings_button.setAccessibleName("Findings")
        self.findings_button.clicked.connect(self.show_findings)
        self.menu = QMenu(self)
        self.recent_menu = QMenu("Recent projects", self)
        self._fill_menu()
        self._lay_out()
        self._keys()
        self.setAcceptDrops(True)
        self.resize(1280, 800)
        document = self.document
        document.said.connect(lambda words, error: self.notice.say(words, error))
        document.changed.connect(self._refresh)
        document.saved_changed.connect(self._refresh)
        theme.changed.connect(self._restyle)
        geometry = settings.value("geometry")
        if isinstance(geometry, QByteArray):
            self.restoreGeometry(geometry)
        for name, splitter in self._splitters().items():
            state = settings.value(f"split/{name}")
            if isinstance(state, QByteArray):
                splitter.restoreState(state)
        self._restyle()
        self.show_bench(0)
        self._refresh()

    # Building

    def _lay_out(self) -> None:
        bar = QWidget()
        bar.setObjectName("bar")
        bar.setFixedHeight(44)
        row = QHBoxLayout(bar)
        row.setContentsMargins(16, 0, 14, 0)
        row.setSpacing(18)
        brand = QLabel("veergust")
        brand.setObjectName("brand")
        row.addWidget(brand)
        self.project_button.setFixedWidth(NAME_WIDTH)
        row.addWidget(self.project_button)
        for i, (name, keys) in enumerate(BENCHES):
            button = word_button(name, f"The {name} bench ({keys})", checkable=True)
            button.setObjectName("bench")
            button.clicked.connect(lambda _=False, n=i: self.show_bench(n))
            row.addWidget(button)
            self.bench_buttons.append(button)
        row.addStretch(1)
        row.addWidget(self.findings_button)
        self.bar = bar
        centre = QWidget()
        box = QVBoxLayout(centre)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addWidget(bar)
        box.addWidget(self.notice)
        box.addWidget(self.benches, 1)
        self.setCentralWidget(centre)

    def _fill_menu(self) -> None:
        menu = self.menu
        menu.addAction("New project…", QKeySequence("Ctrl+Shift+P"), self.new_project)
        menu.addAction("Open project…", QKeySequence.StandardKey.Open, self.ask_open)
        menu.addMenu(self.recent_menu)
        menu.addSeparator()
        menu.addAction("Save", QKeySequence.StandardKey.Save, self.save)
        menu.addAction("Save as…", QKeySequence("Ctrl+Shift+S"), self.save_as)
        menu.addSeparator()
        menu.addAction("Import clips…", QKeySequence("Ctrl+I"), self.ask_import)
        menu.addSeparator()
        self.undo_action = menu.addAction("Undo", QKeySequence.StandardKey.Undo, self.document.undo)
        self.redo_action = menu.addAction("Redo", QKeySequence("Ctrl+Y"), self.document.redo)
        menu.addSeparator()
        self.theme_action = menu.addAction("Night theme", QKeySequence("Ctrl+Shift+T"), self.turn_theme)
        menu.addSeparator()
        menu.addAction("Quit", QKeySequence("Ctrl+Q"), self.close)
        self.addActions(menu.actions())
        self.recent_menu.aboutToShow.connect(self._fill_recent)

    def _keys(self) -> None:
        for keys, act in (
            ("Ctrl+3", lambda: self.show_bench(0)),
            ("Ctrl+6", lambda: self.show_bench(1)),
            ("Ctrl+Shift+Z", self.document.redo),
            ("Ctrl+Shift+N", self.sheet.make_action),
            ("F8", self.show_findings),
            ("F10", self.show_menu),
        ):
            QShortcut(QKeySequence(keys), self, act)

    def _style_application(self) -> None:
        app = QApplication.instance()
        if isinstance(app, QApplication):
            app.setStyleSheet(self.theme.style())

    def _restyle(self) -> None:
        look = self.theme.look
        self._style_application()
        self.setStyleSheet(
            f"#bar {{ border-bottom: 2px solid {look.hair_strong}; }}#brand {{ font-size: 19px; font-weight: 700; }}"
        )
        self.theme_action.setText("Day theme" if look.name == "night" else "Night theme")

    def _refresh(self) -> None:
        document = self.document
        mark = " •" if document.unsaved else ""
        font = self.project_button.font()
        name = elided(document.project.name, font, NAME_WIDTH - 36)
        self.project_button.setText(f"{name}{mark} ▾")
        self.setWindowTitle(f"{document.project.name}{mark} — veergust")
        found = document.findings()
        self.findings_button.setText(f"{len(found)} finding{'s' if len(found) != 1 else ''}" if found else "")
        self.findings_button.setVisible(bool(found))
        self.undo_action.setText(f"Undo: {document.done[-1].words}" if document.done else "Undo")
        self.undo_action.setEnabled(bool(document.done))
        self.redo_action.setText(f"Redo: {document.undone[-1].words}" if document.undone else "Redo")
        self.redo_action.setEnabled(bool(document.undone))

    def _splitters(self) -> dict[str, QSplitter]:
        return {"across": self.sheet.splitter, "right": self.sheet.right_splitter}

    # Benches

    def show_bench(self, index: int) -> None:
        """Show a bench by its place."""
        self.benches.setCurrentIndex(index)
        for i, button in enumerate(self.bench_buttons):
            button.setChecked(i == index)
        if index == 0:
            self.spar.hold()
            self.sheet.sheet.setFocus()
        else:
            self.sheet.stop()
            self.spar.setFocus()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if self.benches.currentWidget() is self.sheet and self.sheet.key(event):
            return
        super().keyPressEvent(event)

    def turn_theme(self) -> None:
        """From day to night and back."""
        self.theme.use("day" if self.theme.look.name == "night" else "night")
        self.settings.setValue("theme", self.theme.look.name)

    def show_menu(self) -> None:
        """The project's menu."""
        self.menu.popup(self.project_button.mapToGlobal(self.project_button.rect().bottomLeft()))

    def show_findings(self) -> None:
        """What the checks found, each line leading there."""
        found = self.document.findings()
        if found:
            menu = FindingsMenu(self, self.document, found)
            corner = self.findings_button.rect().bottomRight()
            at = self.findings_button.mapToGlobal(corner)
            at.setX(at.x() - menu.sizeHint().width())
            menu.popup(at)

    # Projects

    def open_project(self, folder: Path) -> bool:
        """Open a project folder, after asking about unsaved work."""
        if not self.may_leave():
            return False
        self.notice.hide()
        if not self.document.open(folder):
            return False
        self._remember(folder)
        self.offer_recovery()
        self.show_bench(self.benches.currentIndex())
        return True

    def offer_recovery(self) -> None:
        """Offer the work a crash left in the journal."""
        journal = self.document.journal
        steps = journal.steps() if journal else []
        if journal is None or not steps:
            return
        many = f"{len(steps)} change{'s' if len(steps) != 1 else ''}"
        self.notice.say(
            f"{many} to this project were never saved; the last was “{steps[-1]}”.",
            False,
            ("take them back", self.document.recover),
            ("leave them", journal.clear),
        )

    def ask_open(self) -> None:
        """Ask which project to open."""
        folder = QFileDialog.getExistingDirectory(self, "Open a project folder", self._last_place())
        if folder:
            self.open_project(Path(folder))

    def new_project(self) -> None:
        """Ask for a folder and make an empty project there."""
        if not self.may_leave():
            return
        chosen, _ = QFileDialog.getSaveFileName(self, "New project", f"{self._last_place()}/New.veergust")
        if not chosen:
            return
        folder = Path(chosen)
        if folder.exists() and any(folder.iterdir() if folder.is_dir() else [folder]):
            self.notice.say(f"{folder.name} is there already. Choose another name.", True)
            return
        try:
            save_project(Project(name=folder.stem), folder)
        except Trouble as trouble:
            self.notice.say(str(trouble), True)
            return
        self.document.open(folder)
        self._remember(folder)

    def save(self) -> bool:
        """Save where it was opened, or ask."""
        if self.document.folder is None:
            return self.save_as()
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
        files, _ = QFileDialog.getOpenFileNames(self, "Import clips", "", "glTF (*.glb *.gltf)")
        if files:
            self.document.bring_in([Path(f) for f in files])

    def may_leave(self) -> bool:
        """Whether the open project may be left: asks when it is not saved."""
        if not self.document.unsaved:
            return True
        box = QMessageBox(self)
        box.setWindowTitle("Not saved")
        box.setText(f"{self.document.project.name} has changes that are not saved.")
        save = box.addButton("Save", QMessageBox.ButtonRole.AcceptRole)
        drop = box.addButton("Leave without saving", QMessageBox.ButtonRole.DestructiveRole)
        stay = box.addButton("Stay", QMessageBox.ButtonRole.RejectRole)
        box.setDefaultButton(save)
        box.setEscapeButton(stay)
        box.exec()
        if box.clickedButton() is save:
            return self.save()
        if box.clickedButton() is drop:
            if self.document.journal is not None:
                self.document.journal.clear()
            return True
        return False

    def _last_place(self) -> str:
        return str(self.document.folder.parent if self.document.folder else Path.home())

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

    # Files dropped, and the end

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        paths = [Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()]
        folders = [p for p in paths if p.is_dir()]
        files = [p for p in paths if p.suffix.lower() in KINDS]
        if folders:
            self.open_project(folders[0])
        elif files:
            self.document.bring_in(files)
        elif paths:
            self.notice.say(f"{paths[0].name} is not a .glb or .gltf file. Drop one, or a project folder.", True)

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self.may_leave():
            event.ignore()
            return
        self.settings.setValue("geometry", self.saveGeometry())
        for name, splitter in self._splitters().items():
            self.settings.setValue(f"split/{name}", splitter.saveState())
        if self.document.journal is not None:
            self.document.journal.clear()
        event.accept()
