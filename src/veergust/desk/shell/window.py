"""The window: the top bar, the benches, opening and saving, and what holds everywhere."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QByteArray, QEvent, QLocale, QSettings, Qt, QTimer
from PySide6.QtGui import QAction, QCloseEvent, QGuiApplication, QKeySequence, QShortcut, QShowEvent
from PySide6.QtWidgets import (
    QApplication,
    QHBoxLayout,
    QMainWindow,
    QMenu,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from veergust.desk.document.document import Document
from veergust.desk.document.progress import Stop
from veergust.desk.keys.table import keys_of
from veergust.desk.look.style import style_sheet
from veergust.desk.look.theme import Theme, elided
from veergust.desk.pads.pads import shared_pads
from veergust.desk.shell.arrivals import Arrivals
from veergust.desk.shell.benches import BENCHES, BenchDoors
from veergust.desk.shell.dropping import DropDoors
from veergust.desk.shell.findings import FindingsButton
from veergust.desk.shell.going import GoingDoors
from veergust.desk.shell.help import HelpPage
from veergust.desk.shell.ondisk import OnDiskDoors
from veergust.desk.shell.projects import ProjectDoors
from veergust.desk.shell.sending import SendingDoors
from veergust.desk.widgets.asking import accepted
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.fields import NumberField, close_list
from veergust.desk.widgets.label import PlainLabel
from veergust.desk.widgets.notice import Notice
from veergust.desk.widgets.only import answer_only

if TYPE_CHECKING:
    from veergust.core.files import Arrival, Draft
    from veergust.core.model import SourceRig

RECENT = 8
NAME_WIDTH = 150
START_PAGE = 3
"""The page of the Sheet with the rule by which an action starts."""


def system_theme() -> str:
    """The theme that goes with the system's colours."""
    dark = QGuiApplication.styleHints().colorScheme() == Qt.ColorScheme.Dark
    return "night" if dark else "day"


class Window(BenchDoors, DropDoors, GoingDoors, ProjectDoors, OnDiskDoors, SendingDoors, QMainWindow):
    """The program's window."""

    def __init__(self, theme: Theme, settings: QSettings) -> None:
        super().__init__()
        self.setLayoutDirection(QLocale.system().textDirection())
        self.theme = theme
        self.settings = settings
        shared_pads().use(settings)
        self.theme.use(str(settings.value("theme", "")) or system_theme())
        QGuiApplication.styleHints().colorSchemeChanged.connect(self._follow_system)
        # Before any widget is made, so that the first layout has the sizes of the style and not Qt's own.
        self._style_application()
        self.document = Document(self)
        self.notice = Notice(theme)
        self.arrivals = Arrivals(self.document, self.notice, self)
        self.benches = QStackedWidget()
        self._keep_places()
        self.opens = False
        """Whether a project is opened as soon as the window is there: the first page is not for that moment."""
        self.places = QStackedWidget()
        self.places.addWidget(self.benches)
        self.bench_buttons: list[QPushButton] = []
        self.project_button = word_button("Untitled", f"Open, save, recent projects, theme ({keys_of('menu')[0]})")
        self.project_button.setObjectName("project")
        self.project_button.clicked.connect(self.show_menu)
        self.look_button = word_button("to look", "Open only to look; press to take over when the other has gone")
        self.look_button.setObjectName("warn")
        self.look_button.clicked.connect(self.take_over)
        self.look_button.hide()
        self.findings_button = FindingsButton(self.document, self.go_to)
        self.findings_button.said.connect(self.notice.say)
        self.acts: dict[str, Callable[[], object]] = {}
        self.menu = QMenu(self)
        self.recent_menu = QMenu("Recent projects", self)
        self._fill_menu()
        self._lay_out()
        self._keys()
        self.setAcceptDrops(True)
        self.resize(1280, 800)
        document = self.document
        document.said.connect(lambda words, error: self.notice.say(words, error))
        document.working.connect(self._tell_work)
        document.changed.connect(self._refresh)
        document.saved_changed.connect(self._refresh)
        theme.changed.connect(self._restyle)
        self.arrivals.arrived.connect(self.arrived)
        self.arrivals.map_wanted.connect(self.ask_mapping)
        self.arrivals.cut_wanted.connect(self.ask_cells)
        geometry = settings.value("geometry")
        if isinstance(geometry, QByteArray):
            self.restoreGeometry(geometry)
        self._restyle()
        self._refresh()

    def showEvent(self, event: QShowEvent) -> None:
        if not (self._made or self._first or self.opens):
            self.show_first()
        super().showEvent(event)

    # Building

    def _lay_out(self) -> None:
        bar = QWidget()
        bar.setObjectName("bar")
        bar.setFixedHeight(44)
        row = QHBoxLayout(bar)
        row.setContentsMargins(16, 0, 14, 0)
        row.setSpacing(18)
        brand = PlainLabel("veergust")
        brand.setObjectName("brand")
        row.addWidget(brand)
        self.project_button.setFixedWidth(NAME_WIDTH)
        row.addWidget(self.project_button)
        for name, kind in BENCHES.items():
            button = word_button(name, f"The {name} bench ({keys_of(kind.command)[0]})", checkable=True)
            button.setObjectName("bench")
            button.clicked.connect(lambda _=False, n=name: self.show_bench(n))
            row.addWidget(button)
            self.bench_buttons.append(button)
        row.addWidget(self.look_button)
        row.addStretch(1)
        self.find_button = word_button("Find anything  Ctrl K", "Find an action, clip or command by name (Ctrl+K)")
        self.find_button.clicked.connect(self.find_anything)
        row.addWidget(self.find_button)
        row.addWidget(self.findings_button)
        self.bar = bar
        centre = QWidget()
        box = QVBoxLayout(centre)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addWidget(bar)
        box.addWidget(self.notice.room)
        box.addWidget(self.places, 1)
        self.notice.lie_in(centre)
        self.setCentralWidget(centre)

    def _fill_menu(self) -> None:
        menu = self.menu
        self._entry("New project", "new_project", self.new_project)
        self._entry("Open project…", "open_project", self.ask_open)
        menu.addMenu(self.recent_menu)
        self._entry("Look at the demo", "demo", self.look_at_demo)
        self._entry("Look at the paper theatre", "paper", self.look_at_paper)
        menu.addSeparator()
        self._entry("Save", "save", self.save)
        self._entry("Save as…", "save_as", self.save_as)
        menu.addSeparator()
        self._entry("Import clips…", "import", self.ask_import)
        self._entry("Hand over to the game…", "hand_over", self.hand_over)
        self._entry("Report…", "report", self.ask_report)
        self._entry("Send as a picture…", "send_picture", self.ask_picture)
        self._entry("Send with its spans…", "send_spans", self.ask_picture_with_spans)
        menu.addSeparator()
        self.undo_action = self._entry("Undo", "undo", self.document.undo)
        self.redo_action = self._entry("Redo", "redo", self.document.redo)
        self._entry("What changed…", "changed", self.show_changed)
        self._entry("Take back what came from disk", "take_back_theirs", self.document.take_back_theirs)
        menu.addSeparator()
        self.theme_action = self._entry("Night theme", "theme", self.turn_theme)
        self._entry("Recipes", "recipes", self.show_recipes)
        self._entry("Keys", "help", self.show_help)
        menu.addSeparator()
        self._entry("Quit", "quit", self.close)
        self.addActions(menu.actions())
        self.recent_menu.aboutToShow.connect(self._fill_recent)

    def _entry(self, words: str, name: str, act: Callable[[], object]) -> QAction:
        """An entry of the menu, with the keys that the table has for it."""
        self.acts[name] = act
        action = QAction(words, self)
        action.setShortcuts([QKeySequence(keys) for keys in keys_of(name)])
        action.triggered.connect(lambda: act())
        self.menu.addAction(action)
        return action

    def _keys(self) -> None:
        shortcuts: dict[str, Callable[[], object]] = {
            **{kind.command: partial(self.show_bench, name) for name, kind in BENCHES.items()},
            "new_action": lambda: self.sheet.make_action(),
            "new_like": lambda: self.sheet.make_like(),
            "find_here": self.find_here,
            "fold_side": lambda: None if self.is_first else self.bench_of(self.bench).fold_side(),
            "put_together": self.put_together,
            "full_screen": self.turn_full_screen,
            "find": self.find_anything,
            "rename": self.rename,
            "findings": self.findings_button.show_page,
            "menu": self.show_menu,
        }
        self.acts |= shortcuts
        for name, act in shortcuts.items():
            for keys in keys_of(name):
                QShortcut(QKeySequence(keys), self, act)

    def turn_full_screen(self) -> None:
        """To the whole screen and back."""
        self.setWindowState(self.windowState() ^ Qt.WindowState.WindowFullScreen)

    def show_help(self) -> None:
        """Every key, by where it holds."""
        accepted(HelpPage(self))

    def show_recipes(self) -> None:
        """What is done most days, step by step."""
        accepted(HelpPage(self, recipes=True))

    def _style_application(self) -> None:
        app = QApplication.instance()
        style = style_sheet(self.theme.look)
        # Every widget is polished anew by a new sheet, so the same one is not set again.
        if isinstance(app, QApplication) and app.styleSheet() != style:
            # Qt takes six times as long to have one sheet follow another as to take one off and put one on.
            app.setStyleSheet("")
            app.setStyleSheet(style)

    def _restyle(self) -> None:
        self._style_application()
        self.theme_action.setText("Day theme" if self.theme.look.name == "night" else "Night theme")

    def _refresh(self) -> None:
        document = self.document
        close_list()
        NumberField.rate = document.project.settings.rate
        mark = " •" if document.unsaved else ""
        font = self.project_button.font()
        name = elided(document.project.name, font, NAME_WIDTH - 36)
        self.project_button.setText(f"{name}{mark} ▾")
        looking = " (to look)" if document.to_look else ""
        self.setWindowTitle(f"{document.project.name}{mark}{looking} — veergust")
        self.look_button.setVisible(bool(looking))
        # While something is dragged the checks wait until it stands still for a moment.
        if document.dragging:
            self.findings_button.check_soon()
        elif document.is_begun:
            self.findings_button.check()
        self.undo_action.setText(f"Undo: {document.done[-1].words}" if document.done else "Undo")
        self.undo_action.setEnabled(bool(document.done))
        self.redo_action.setText(f"Redo: {document.undone[-1].words}" if document.undone else "Redo")
        self.redo_action.setEnabled(bool(document.undone))

    def _tell_work(self, says: str, share: float, stop: Stop | None) -> None:
        """Say how far a work is during which nothing else can be done, but to give it up where it can be."""
        if says and stop is not None:
            self.notice.progress(f"{says} …", share, stop)
            answer_only(self.notice, stop)
        elif says:
            self.notice.say(f"{says} …  {share * 100:.0f} %")
            self.repaint()
        elif self.notice.label.text().endswith(" %"):
            self.notice.hide()

    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        if event.type() == QEvent.Type.ActivationChange and self.isActiveWindow():
            # Somebody may have written the folder while another window was in front.
            QTimer.singleShot(0, self._looked_at)

    def _looked_at(self) -> None:
        if QApplication.activeModalWidget() is None and self.isActiveWindow():
            self.look_at_disk()

    def _follow_system(self) -> None:
        """Day or night as the system has it, until the person has said which."""
        if not self.settings.value("theme", ""):
            self.theme.use(system_theme())

    def turn_theme(self) -> None:
        """From day to night and back, which takes a moment: every widget is dressed anew."""
        name = "day" if self.theme.look.name == "night" else "night"
        self.notice.say(f"Changing to the {name} theme …")
        self.repaint()
        self.theme.use(name)
        self.settings.setValue("theme", self.theme.look.name)
        self.notice.hide()

    def show_menu(self) -> None:
        """The project's menu."""
        self.menu.popup(self.project_button.mapToGlobal(self.project_button.rect().bottomLeft()))

    def make_action(self, clip: str) -> None:
        """A new action of a clip, on the Sheet."""
        self.make_actions([clip])

    def make_actions(self, clips: list[str]) -> None:
        """A new action of each clip, the first on the Sheet."""
        from veergust.desk.sheet.making import make_actions

        make_actions(self.document, clips)
        self.show_bench("Sheet")

    def tell(self, words: str, *choices: tuple[str, Callable[[], object]]) -> None:
        """Say something, and what can be done about it."""
        self.notice.say(words, False, *choices)

    def choose_start(self, command: str) -> None:
        """Have an action chosen that a command starts, and show its start rule."""
        from veergust.desk.sheet.making import choose_start

        if choose_start(self.document, self, command):
            self.show_bench("Sheet")
            self.sheet.show_page(START_PAGE)

    def put_together(self) -> None:
        """Put actions together on a command, on the Sheet."""
        self.show_bench("Sheet")
        self.sheet.put_together()

    def mapped(self, rig: SourceRig) -> None:
        self.clips.stack.leave()
        self.arrivals.answer(rig)

    def cells_cut(self, draft: Draft) -> None:
        self.clips.stack.leave()
        self.arrivals.cut(draft)

    def ask_mapping(self, arrival: Arrival) -> None:
        """A file with a foreign skeleton came in: ask how its joints answer to the figure's."""
        self.show_bench("Clips")
        self.clips.stack.ask_mapping(arrival, self.document.build.assets.skeleton)

    def ask_cells(self, draft: Draft) -> None:
        """A sheet of drawings came in with nothing said beside it: ask where its cells are."""
        self.show_bench("Clips")
        self.clips.stack.ask_cells(draft)

    # The end

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self.may_leave():
            event.ignore()
            return
        self.keep_poses()
        self.settings.setValue("geometry", self.saveGeometry())
        self.keep_sizes()
        self.document.let_go()
        event.accept()
