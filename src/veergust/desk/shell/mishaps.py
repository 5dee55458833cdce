"""What nobody foresaw: a display that is not there, and errors in the midst of work. They are said, and kept."""

from __future__ import annotations

import os
import sys
import threading
from collections.abc import Callable
from types import TracebackType

from PySide6.QtCore import QMessageLogContext, QtMsgType, qInstallMessageHandler

from veergust import core
from veergust.core.wording import plain


class Messages:
    """Takes what Qt says of itself. Until the window is there it is kept back; what is fatal ends in a sentence."""

    def __init__(self) -> None:
        self.early: list[str] | None = []
        qInstallMessageHandler(self._take)

    def window_is_there(self) -> None:
        """From now on what Qt says is passed on as it comes."""
        for text in self.early or []:
            print(text, file=sys.stderr)
        self.early = None

    def _take(self, kind: QtMsgType, where: QMessageLogContext, text: str) -> None:
        if kind == QtMsgType.QtFatalMsg:
            # What would follow is a core dump.
            print(no_window(), file=sys.stderr, flush=True)
            os._exit(2)
        if self.early is not None:
            self.early.append(text)
        else:
            print(text, file=sys.stderr)


def no_window() -> str:
    """The sentence for a window that cannot be opened."""
    display = os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY")
    asked = os.environ.get("QT_QPA_PLATFORM")
    why = f"the display {display!r} does not answer" if display else "there is no display"
    if asked:
        why = f"the platform {asked!r}, which QT_QPA_PLATFORM asks for, cannot be used"
    elif display and _missing("xcb-cursor"):
        why = "the library libxcb-cursor0 is missing"
    return plain(f"No window can be opened here: {why}; start it in a desktop session, or see veergust --help.")


def _missing(library: str) -> bool:
    from ctypes.util import find_library  # which is slow to import, and asked only where all is lost

    return find_library(library) is None


def say_errors(say: Callable[[str], object]) -> None:
    """From now on an error that nothing caught is said, kept with where it came from, and work goes on."""

    def told(kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        if not issubclass(kind, Exception):
            sys.__excepthook__(kind, error, trace)
            return
        say(core.files.note(error))

    def told_by_thread(found: threading.ExceptHookArgs) -> None:
        if isinstance(found.exc_value, Exception):
            core.files.note(found.exc_value)

    sys.excepthook = told
    threading.excepthook = told_by_thread
