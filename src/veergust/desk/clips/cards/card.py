"""What the pages of the Clips bench share: the open clip, and one way to change it."""

from __future__ import annotations

from typing import Any

from PySide6.QtWidgets import QWidget

from veergust.core.edit import prepare_clip
from veergust.core.model import Clip
from veergust.core.study import Reading
from veergust.desk.clips.playhead import Playhead
from veergust.desk.document.document import Document
from veergust.desk.frame.page import FieldPage
from veergust.desk.widgets.fields import note

NO_CLIP = "No clip is open. Bring files in, or choose one in the library."


class Card(FieldPage):
    """A page about the open clip. ``change`` sets fields of it as one step. One that is about joints says what it
    ``needs_joints`` for, in place of its fields, of a figure that is drawn."""

    needs_joints = ""

    def __init__(self, document: Document, playhead: Playhead, parent: QWidget) -> None:
        super().__init__(document, parent)
        self.playhead = playhead
        self.nothing = note(NO_CLIP)
        self.nothing.setParent(self.viewport())
        self.nothing.setGeometry(16, 10, 290, 60)
        self.nothing.hide()

    def show_fields(self, there: bool) -> None:
        """Show the fields where there is a clip; words in their place where there is none, or where they need joints
        that a drawn figure has not."""
        drawn = bool(self.needs_joints) and self.document.build.assets.skeleton.picture >= 0
        self.nothing.setText(self.needs_joints if drawn else NO_CLIP)
        self.page.setVisible(there and not drawn)
        self.nothing.setVisible(not there or drawn)

    @property
    def clip(self) -> Clip | None:
        """The open clip."""
        return self.playhead.clip

    @property
    def reading(self) -> Reading | None:
        """The open clip, read."""
        return self.playhead.reading

    def moved(self) -> None:
        """The playhead is on another frame."""

    def change(self, words: str = "", **fields: Any) -> None:
        """Set fields of the open clip."""
        name = self.document.clip
        self.attempt(lambda: prepare_clip(self.document.base, self.document.build.assets, name, words, **fields))
