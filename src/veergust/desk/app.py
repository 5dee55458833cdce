"""Starting the program."""

from __future__ import annotations

import ctypes
import sys
from contextlib import suppress
from functools import partial
from pathlib import Path

from PySide6.QtCore import QSettings, QTimer
from PySide6.QtGui import QGuiApplication, QSurface, QSurfaceFormat
from PySide6.QtWidgets import QApplication

from veergust.desk.look.style import FAMILY
from veergust.desk.look.theme import Theme, load_fonts
from veergust.desk.running.ahead import CORE, Ahead
from veergust.desk.running.tidying import Tidying
from veergust.desk.running.work import end_all
from veergust.desk.shell.benches import BENCHES
from veergust.desk.shell.mishaps import Messages, say_errors
from veergust.desk.shell.window import Window
from veergust.desk.stage.opengl import surface_format
from veergust.desk.widgets.accessible import use_accessible
from veergust.desk.widgets.focus_ring import FocusRing

M_MMAP_THRESHOLD, M_ARENA_MAX = -3, -8
TRIMMED = 20_000
"""Ms between two times that memory which nobody uses is given back."""


def give_memory_back(app: QApplication) -> None:
    """Have memory go back to the system when it is let go, as pictures and poses of every size come and go here.

    Of glibc, ``mallopt(3)`` and ``malloc_trim(3)``: large blocks are taken and given back one by one, and what is
    left of the small ones from time to time. Another C library does without.
    """
    with suppress(OSError, AttributeError):
        library = ctypes.CDLL(None)
        library.mallopt(M_MMAP_THRESHOLD, 256 << 10)
        library.mallopt(M_ARENA_MAX, 2)
        timer = QTimer(app)
        timer.timeout.connect(partial(library.malloc_trim, 0))
        timer.start(TRIMMED)


def make_application(arguments: list[str]) -> QApplication:
    """The Qt application with the shipped typeface and the right kind of surface."""
    QSurfaceFormat.setDefaultFormat(surface_format())
    existing = QApplication.instance()
    app = existing if isinstance(existing, QApplication) else QApplication(arguments)
    app.setApplicationName("veergust")
    app.setOrganizationName("veergust")
    app.setDesktopFileName("veergust")
    app.setStyle("Fusion")
    load_fonts()
    font = app.font()
    font.setFamily(FAMILY)
    app.setFont(font)
    # A text cursor that blinks has the whole window put together anew, the stage with it, twice a second.
    app.setCursorFlashTime(0)
    give_memory_back(app)
    use_accessible()
    if app.findChild(FocusRing) is None:
        FocusRing(app)
    if app.findChild(Tidying) is None:
        Tidying(app)
    return app


def make_window(settings: QSettings | None = None) -> Window:
    """The window, with settings from the person's own folder unless others are given."""
    if settings is None:
        settings = QSettings(QSettings.Format.IniFormat, QSettings.Scope.UserScope, "veergust", "veergust")
    window = Window(Theme(), settings)
    be_ready_for_stages(window)
    tidying = QApplication.instance().findChild(Tidying)  # type: ignore[union-attr]
    if tidying is not None:
        window.document.opened.connect(tidying.soon)
        window.document.changed.connect(tidying.note_edit)
    return window


def be_ready_for_stages(window: Window) -> None:
    """Give a window the surface that its stages draw on before any of them is made: one that finds out later is made
    anew by Qt, flickers and loses the keys. Only for X, where it is known to do no harm."""
    window.winId()
    handle = window.windowHandle()
    if QGuiApplication.platformName() == "xcb" and handle is not None:
        handle.setSurfaceType(QSurface.SurfaceType.OpenGLSurface)


def run(project: Path | None, files: tuple[Path, ...] = ()) -> int:
    """Open the window, with a project if one is named and files that are brought in; gives the exit status."""
    messages = Messages()
    app = make_application(sys.argv[:1])
    messages.window_is_there()
    window = make_window()
    say_errors(lambda words: window.notice.say(words, True))
    window.opens = project is not None
    window.show()
    # The window is there first; what it shows comes in right after.
    QTimer.singleShot(0, partial(begin, window, project, files))
    status = int(app.exec())
    end_all()
    return status


def begin(window: Window, project: Path | None, files: tuple[Path, ...] = ()) -> None:
    """Open the project that was asked for, or offer what was never saved of one that had no folder yet; then have
    files come in."""
    if project is None:
        window.say_what_was_found()
        Ahead([*CORE, *(kind.module for kind in BENCHES.values())], window)
    elif not window.open_project(project):
        window.show_first()
        return
    if files:
        window.arrivals.bring_in(list(files))
