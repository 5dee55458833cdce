"""Keeping a window alive while it works: it is drawn and can be given up, and nothing else can be done in it."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QCloseEvent, QKeyEvent
from PySide6.QtWidgets import QApplication, QWidget

Kind = QEvent.Type
DONE_BY_HAND = {
    Kind.MouseButtonPress, Kind.MouseButtonRelease, Kind.MouseButtonDblClick, Kind.MouseMove, Kind.Wheel, Kind.KeyPress,
    Kind.KeyRelease, Kind.ShortcutOverride, Kind.ContextMenu, Kind.DragEnter, Kind.DragMove, Kind.Drop,
    Kind.TouchBegin, Kind.TouchUpdate, Kind.TouchEnd, Kind.Close, Kind.InputMethod,
}  # fmt: skip


def answer_only(within: QWidget, give_up: Callable[[], object]) -> None:
    """Have all that waits be drawn and done, of what is done by hand only what is ``within`` a widget; Esc gives up."""
    only = _Only(within, give_up)
    app = QApplication.instance()
    assert app is not None
    app.installEventFilter(only)
    try:
        QApplication.processEvents()
    finally:
        app.removeEventFilter(only)


class _Only(QObject):
    def __init__(self, within: QWidget, give_up: Callable[[], object]) -> None:
        super().__init__()
        self.within, self.give_up = within, give_up

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == Kind.Shortcut:
            return True
        if event.type() not in DONE_BY_HAND or not isinstance(watched, QWidget):
            return False
        if watched is self.within or self.within.isAncestorOf(watched):
            return False
        if isinstance(event, QKeyEvent) and event.type() == Kind.KeyPress and event.key() == Qt.Key.Key_Escape:
            self.give_up()
        if isinstance(event, QCloseEvent):
            event.ignore()
        return True
