"""The library: a row for each clip with its contact strip, length, travel and uses."""

from __future__ import annotations

from PySide6.QtCore import QPoint, QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QResizeEvent, QShowEvent
from PySide6.QtWidgets import QAbstractItemView, QFrame, QListView

from veergust.core.files import SPOKEN
from veergust.core.model import Clip
from veergust.desk.clips.library_ink import ROW, LibraryInk
from veergust.desk.clips.library_model import LibraryEntry, LibraryModel
from veergust.desk.clips.strips import StripMaker
from veergust.desk.document.document import Document
from veergust.desk.keys.pressing import BACK, pressed
from veergust.desk.keys.table import on_key
from veergust.desk.look.theme import Theme
from veergust.desk.widgets.scrolled import scrolled_as_it_was


class Library(QListView):
    """The clips of the project; ``opened`` tells which one the person chose."""

    opened = Signal(str)

    def __init__(self, document: Document, theme: Theme, strips: StripMaker) -> None:
        super().__init__()
        self.document, self.theme = document, theme
        self.table = LibraryModel(document)
        self.setObjectName("library")
        self.setModel(self.table)
        self.setItemDelegate(LibraryInk(self, self.table, theme, strips))
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setAccessibleName("Clips")
        self.setMinimumHeight(ROW * 2)
        strips.made.connect(lambda _: self.viewport().update())
        document.changed.connect(self.renew)
        document.clip_chosen.connect(self.show_chosen)
        theme.changed.connect(self.viewport().update)
        self.renew()

    @property
    def clips(self) -> list[Clip]:
        """The clips that are shown, in their order."""
        return self.table.clips

    def entry(self, clip: Clip) -> LibraryEntry:
        """What a row says."""
        return self.table.entry(clip)

    def narrow(self, text: str) -> None:
        """Show clips whose name or tag holds a text."""
        self.table.text = text.strip().lower()
        self.renew()

    def open_first(self) -> None:
        """Open the first clip that is shown, unless the open one is among them, and take the keys."""
        names = [clip.name for clip in self.clips]
        if names:
            if self.document.clip not in names:
                self.document.choose_clip(names[0])
            self.setFocus()

    def order_by(self, sort: str) -> None:
        """Sort by name, length, travel or uses, or as the project has them."""
        self.table.sorted_by = sort
        self.renew()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.renew()
        self.show_chosen()

    def renew(self) -> None:
        """Have the rows that there are now, once somebody sees them."""
        if self.isVisible():
            with scrolled_as_it_was(self):
                self.table.renew()
                self._mark()
            self.viewport().update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.show_chosen()

    def _mark(self) -> None:
        """Have the open clip be the one that the keys are at."""
        here = self.table.row_of(self.document.clip)
        if here != self.currentIndex():
            self.setCurrentIndex(here)

    def show_chosen(self) -> None:
        """Scroll the open clip into sight."""
        self._mark()
        if self.currentIndex().isValid():
            self.scrollTo(self.currentIndex())
        self.viewport().update()

    def point_of(self, name: str) -> QPoint:
        """The middle of a clip's row, in the viewport."""
        return self.visualRect(self.table.row_of(name)).center()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        clip = self.table.at(self.indexAt(event.position().toPoint()))
        if clip is not None:
            self.opened.emit(clip.name)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Nothing: a press has opened a clip, and nothing is dragged."""

    def keyPressEvent(self, event: QKeyEvent) -> None:
        names, keys = [clip.name for clip in self.clips], pressed(event)
        if on_key("clips", keys) != "other_clip" or not names:
            event.ignore()  # whoever is around it may know it
            return
        step = (8 if keys.startswith("Pg") else 1) * (-1 if keys in BACK else 1)
        at = names.index(self.document.clip) if self.document.clip in names else -step
        self.opened.emit(names[min(max(at + step, 0), len(names) - 1)])

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        if self.table.rows:
            return
        p = QPainter(self.viewport())
        p.setFont(self.theme.font(13))
        p.setPen(self.theme.colour("ink_soft"))
        none = f"No clip is called “{self.table.text}”." if self.table.text else (
            f"No clips yet.\n\nDrop {SPOKEN} files on the window, or press Ctrl+I. The first file "
            "with a skeleton becomes the figure.")  # fmt: skip
        p.drawText(QRectF(16, 18, self.viewport().width() - 32, 160), Qt.TextFlag.TextWordWrap, none)
