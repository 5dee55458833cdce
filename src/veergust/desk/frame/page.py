"""A page of fields that scrolls: what the pages of every bench share."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QFrame, QScrollArea, QVBoxLayout, QWidget

from veergust.core.edit import Edit
from veergust.core.trouble import Trouble
from veergust.desk.document.document import Document

Attempt = Callable[[Callable[[], Edit | None]], bool]
"""Makes an edit, and says in words what cannot be done; whether it was made."""


class Scroll(QScrollArea):
    """What scrolls without a frame, and leaves keys held with others to the commands they belong to.

    Qt's own takes Alt+Down for a step down as well.
    """

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setWidgetResizable(True)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier:
            event.ignore()
        else:
            super().keyPressEvent(event)


class FieldPage(Scroll):
    """Fields under one another; ``renew`` shows what there is now, ``attempt`` makes an edit.

    It is made where it will stand: Qt gives whatever comes under another parent its style, its letters and its colours
    anew, and all that is on it, which takes as long as making it.
    """

    title = ""

    def __init__(self, document: Document, parent: QWidget) -> None:
        super().__init__(parent)
        self.document = document
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.page = QWidget()
        self.box = QVBoxLayout(self.page)
        self.box.setContentsMargins(16, 8, 14, 10)
        self.box.setSpacing(6)
        self.setWidget(self.page)

    def renew(self) -> None:
        """Show what there is now."""

    def forget(self) -> None:
        """Let go of what was worked out of a project that is open no more, whether the page is seen or not."""

    def attempt(self, make: Callable[[], Edit | None]) -> bool:
        """Make an edit; what cannot be done is said in words."""
        try:
            edit = make()
        except Trouble as trouble:
            self.document.said.emit(str(trouble), True)
            self.renew()
            return False
        return edit is not None and self.document.apply(edit)
