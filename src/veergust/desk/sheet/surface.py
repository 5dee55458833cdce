"""The sheet, as its keys and its mouse see it."""

from __future__ import annotations

from typing import Protocol

from PySide6.QtCore import QPointF, SignalInstance
from PySide6.QtWidgets import QWidget

from veergust.core.edit import Carried
from veergust.desk.document.document import Document
from veergust.desk.look.theme import Theme
from veergust.desk.sheet.layout import SheetLayout
from veergust.desk.sheet.pages import SheetPages


class Surface(Protocol):
    """What lies on it, where the cursor stands, and what can be done there."""

    document: Document
    theme: Theme
    pages: SheetPages
    fold: int
    column: str
    edge: str
    typed: str
    retiming: bool
    carried: tuple[Carried, ...]

    @property
    def dragging(self) -> SignalInstance:
        """Sent when something is taken in hand, and when it is let go."""

    @property
    def details_wanted(self) -> SignalInstance:
        """Sent when the fields of what is selected are wanted."""

    @property
    def layout_(self) -> SheetLayout:
        """The sheet as it lies now."""

    def viewport(self) -> QWidget: ...
    def sheet_point(self, point: QPointF) -> QPointF:
        """A point of the viewport on the sheet, with y from the first row."""

    def open_wide(self) -> None:
        """Open the column of strikes wide, or as it was."""

    def fold_section(self, *, others: bool = False) -> None:
        """Show the section under the playhead as one line, or whole again."""

    def escape(self) -> None:
        """Give up a drag, else what was typed, else the selection."""

    def add_here(self, kind: str = "", *, whole: bool = False, pointed: bool = False, for_all: bool = False) -> None:
        """Put a new span on the playhead, or one that stands for the whole action."""
