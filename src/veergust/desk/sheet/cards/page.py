"""What the pages share: the open action, the section under the playhead, and one way to change them."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QScrollArea, QVBoxLayout, QWidget

from veergust.core.edit.spans import Edit
from veergust.core.model import Action
from veergust.core.play.compiled import CompiledSection
from veergust.core.trouble import Trouble
from veergust.desk.document import Document


class Page(QScrollArea):
    """A page of fields; ``renew`` shows what there is now."""

    title = ""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.page = QWidget()
        self.box = QVBoxLayout(self.page)
        self.box.setContentsMargins(16, 8, 14, 10)
        self.box.setSpacing(6)
        self.setWidget(self.page)

    @property
    def action(self) -> Action | None:
        """The open action."""
        compiled = self.document.compiled
        return compiled.action if compiled else None

    @property
    def place(self) -> tuple[int, int]:
        """(section, tick in it) under the playhead."""
        compiled = self.document.compiled
        return compiled.locate(self.document.frame) if compiled else (0, 0)

    @property
    def part(self) -> CompiledSection | None:
        """The section under the playhead, compiled."""
        compiled = self.document.compiled
        return compiled.sections[self.place[0]] if compiled and compiled.sections else None

    def renew(self) -> None:
        """Show what there is now."""

    def attempt(self, make: Callable[[], Edit]) -> bool:
        """Make an edit; what cannot be done is said in words."""
        try:
            edit = make()
        except Trouble as trouble:
            self.document.said.emit(str(trouble), True)
            self.renew()
            return False
        return self.document.apply(edit)
