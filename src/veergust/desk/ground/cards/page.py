"""What the pages of the Ground bench share: locomotion, what is chosen of it, and one way to change it."""

from __future__ import annotations

from typing import Any

from PySide6.QtWidgets import QWidget

from veergust.core.edit import with_locomotion
from veergust.core.model import Locomotion
from veergust.desk.document.document import Document
from veergust.desk.frame.page import FieldPage
from veergust.desk.ground.selection import GroundSelection


class GroundPage(FieldPage):
    """A page about locomotion."""

    def __init__(self, document: Document, selection: GroundSelection, parent: QWidget) -> None:
        super().__init__(document, parent)
        self.selection = selection

    @property
    def locomotion(self) -> Locomotion:
        """Locomotion as it is now."""
        return self.document.project.locomotion

    def set_locomotion(self, words: str, **fields: Any) -> None:
        """Set fields of locomotion as one step."""
        self.attempt(lambda: with_locomotion(self.document.base, words, **fields))
