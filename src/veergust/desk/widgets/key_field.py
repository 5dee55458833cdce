"""A field that takes the next key, button of the mouse or button of a pad that is pressed while it has the focus."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject
from PySide6.QtGui import QFocusEvent, QMouseEvent
from PySide6.QtWidgets import QKeySequenceEdit, QLineEdit

from veergust.desk.keys.pressing import last_of, mouse_name
from veergust.desk.pads.pads import Pads, shared_pads


class KeyField(QKeySequenceEdit):
    """``taken`` is told what was pressed."""

    def __init__(self, label: str, tip: str, taken: Callable[[str], object], pads: Pads | None = None) -> None:
        super().__init__()
        self.setAccessibleName(label)
        self.setToolTip(tip)
        self.setMaximumSequenceLength(1)
        self._taken = taken
        self.pads = pads or shared_pads()
        self.pads.pressed.connect(self._pad)
        self.keySequenceChanged.connect(self._key)
        for line in self.findChildren(QLineEdit):
            line.installEventFilter(self)
        self.empty()

    def _key(self) -> None:
        keys = self.keySequence().toString()
        if keys:
            self._taken(last_of(keys))

    def _pad(self, pad: int, button: str) -> None:
        if self.hasFocus() or any(line.hasFocus() for line in self.findChildren(QLineEdit)):
            self._taken(f"pad {button}")

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if isinstance(event, QMouseEvent) and (name := mouse_name(event.button())):
            if event.type() == QEvent.Type.MouseButtonPress:
                self._taken(name)
            return True
        if event.type() == QEvent.Type.ContextMenu:
            return True
        if event.type() in (QEvent.Type.FocusIn, QEvent.Type.FocusOut):
            self.pads.taken = event.type() == QEvent.Type.FocusIn
        return super().eventFilter(watched, event)

    def focusInEvent(self, event: QFocusEvent) -> None:
        self.pads.taken = True
        super().focusInEvent(event)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        self.pads.taken = False
        super().focusOutEvent(event)

    def empty(self) -> None:
        """Ready for the next one."""
        self.blockSignals(True)
        self.clear()
        self.blockSignals(False)
        for line in self.findChildren(QLineEdit):
            line.setPlaceholderText("press it here")
