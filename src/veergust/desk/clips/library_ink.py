"""How a row of the library is drawn: the contact strip of a clip, its name, its length and travel, and what uses it."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QPoint, QRectF, QSize, Qt
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QListView, QStyledItemDelegate, QStyleOptionViewItem

from veergust.core.model import Clip
from veergust.desk.clips.library_model import Index, LibraryModel
from veergust.desk.clips.strips import HIGH, WIDE, Order, StripMaker
from veergust.desk.look.theme import Theme, elided

ROW, HEAD = 66, 26
MIDDLE = Qt.AlignmentFlag.AlignVCenter


class LibraryInk(QStyledItemDelegate):
    """Draws headings and clips."""

    def __init__(self, view: QListView, model: LibraryModel, theme: Theme, strips: StripMaker) -> None:
        super().__init__(view)
        self.view, self.model, self.theme, self.strips = view, model, theme, strips

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        return QSize(120, ROW if self.model.at(index) is not None else HEAD)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        shown: Any = option
        rect = QRectF(shown.rect)
        clip = self.model.at(index)
        if clip is not None:
            self._clip(painter, clip, rect)
            return
        painter.setFont(self.theme.bold(12))
        painter.setPen(self.theme.colour("ink_faint"))
        painter.drawText(rect.adjusted(14, 0, -14, 0), MIDDLE, str(index.data()))

    def _clip(self, p: QPainter, clip: Clip, rect: QRectF) -> None:
        theme, document, top, wide = self.theme, self.model.document, int(rect.top()), int(rect.width())
        if clip.name == document.clip:
            p.fillRect(QRectF(0, top, wide, ROW - 1), theme.colour("selected"))
            p.fillRect(QRectF(0, top, 4, ROW - 1), theme.colour("ink" if self.view.hasFocus() else "hair_strong"))
        if document.mesh is not None:
            order = Order(clip, document.build.assets, document.mesh, document.build.roots, theme.colour("ink"),
                          theme.colour("ink_faint"), self.view.devicePixelRatioF())  # fmt: skip
            strip = self.strips.strip(order)
            if strip is not None:
                p.drawImage(QPoint(8, top + (ROW - HIGH) // 2), strip)
        entry = self.model.entry(clip)
        left, room = WIDE + 12, wide - WIDE - 22
        travel = f" · {entry.travel:.2f} m" if entry.travel >= 0.005 else ""
        used = elided(", ".join(entry.uses), theme.font(12), room) or "○ unused"
        for words, y, high, font, ink in (
            (elided(clip.name, theme.bold(14), room), 6, 18, theme.bold(14), "ink"),
            (f"{entry.frames} f · {entry.seconds:.2f} s{travel}", 24, 16, theme.font(12), "ink_soft"),
            (used, 41, 16, theme.font(12), "ink_soft" if entry.uses else "warn"),
        ):
            p.setFont(font)
            p.setPen(theme.colour(ink))
            p.drawText(QRectF(left, top + y, room, high), MIDDLE, words)
        p.setPen(theme.pen("hair", 1.0))
        p.drawLine(8, top + ROW - 1, wide - 8, top + ROW - 1)
