"""What the pages of the Clips bench share: the open clip, and one way to change it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QScrollArea, QVBoxLayout, QWidget

from veergust.core.edit.clips import set_clip
from veergust.core.edit.spans import Edit
from veergust.core.model import Clip
from veergust.core.study.clip_reading import Reading
from veergust.core.trouble import Trouble
from veergust.desk.clips.playhead import Playhead
from veergust.desk.document import Document


class Card(QScrollArea):
    """A page. ``renew`` shows the open clip; ``change`` sets fields of it as one step."""

    title = ""

    def __init__(self, document: Document, playhead: Playhead) -> None:
        super().__init__()
        self.document = document
        self.playhead = playhead
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.page = QWidget()
        self.box = QVBoxLayout(self.page)
        self.box.setContentsMargins(16, 10, 14, 12)
        self.box.setSpacing(6)
        self.setWidget(self.page)

    @property
    def clip(self) -> Clip | None:
        """The open clip."""
        return self.playhead.clip

    @property
    def reading(self) -> Reading | None:
        """The open clip, read."""
        return self.playhead.reading

    def renew(self) -> None:
        """Show the clip as it is now."""

    def moved(self) -> None:
        """The playhead is on another frame."""

    def change(self, words: str = "", **fields: Any) -> None:
        """Set fields of the open clip."""
        name = self.document.clip
        self.attempt(lambda: set_clip(self.document.base, name, words, **fields))

    def attempt(self, make: Callable[[], Edit | None]) -> bool:
        """Make an edit; what cannot be done is said in words."""
        try:
            edit = make()
        except Trouble as trouble:
            self.document.said.emit(str(trouble), True)
            self.renew()
            return False
        return edit is not None and self.document.apply(edit)
