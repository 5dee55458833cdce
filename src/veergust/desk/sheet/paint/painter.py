"""The sheet put on paper: its bands, the playhead across them, section names and the headings over all."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter

from veergust.core.study import Same
from veergust.desk.look.theme import Theme, elided, put_words
from veergust.desk.sheet.layout import COLUMNS, HEAD, SheetLayout
from veergust.desk.sheet.paint.bands import Bands
from veergust.desk.sheet.paint.ink import LEFT, RIGHT, Ink, upright
from veergust.desk.sheet.paint.marks import Sheet, goes_to


class SheetPainter:
    """Paints sheets, and keeps what it painted for as long as it looks the same."""

    def __init__(self, theme: Theme) -> None:
        self.theme = theme
        self.ink = Ink(theme)
        self.bands = Bands(self.ink.draw)

    def paint(self, p: QPainter, sheet: Sheet, frame: int, view: QRectF, cursor: str) -> None:
        """Paint the rows that ``view`` shows; the painter's origin is the first row's top left."""
        layout = sheet.layout
        if not layout.stretches:
            return
        self.ink.columns, self.ink.right, self.ink.mesh = layout.columns, view.right(), sheet.mesh
        style = (self.theme.look.name, tuple(layout.columns.values()), Same(sheet.mesh))
        self.bands.paint(p, sheet.marks(self.bands.around(view)), view, self.theme.colour("paper"), style)
        self._names(p, sheet, view)
        self._playhead(p, layout, frame, view, cursor)

    def _names(self, p: QPainter, sheet: Sheet, view: QRectF) -> None:
        """Section names and where they go next, kept in sight while their rows scroll by."""
        left, width = sheet.layout.columns["section"]
        bold, plain = self.theme.bold(13), self.theme.font(12)
        for stretch in sheet.layout.stretches:
            low = min(stretch.bottom, view.bottom()) - 4
            # Under the first row, which the playhead goes over, where there is room for that.
            first = stretch.top + (sheet.layout.pitch if low - stretch.top > 5 * sheet.layout.pitch else 0.0)
            top = max(first, view.top()) + 4
            room = low - top
            if stretch.folded or room < 24:
                continue
            section = sheet.compiled.sections[stretch.section].section
            at = QPointF(left + width - 4, top)
            used = upright(p, self.theme, at, room, section.name, bold, "ink") + 8
            if room - used > 30:
                words = goes_to(sheet.compiled, section)
                upright(p, self.theme, at + QPointF(0, used), room - used, words, plain, "ink_soft")

    def _playhead(self, p: QPainter, layout: SheetLayout, frame: int, view: QRectF, cursor: str) -> None:
        y, tall = layout.row_top(frame), max(layout.tall(frame), 3.0)
        p.fillRect(QRectF(0, y, view.right(), tall), self.theme.colour("accent", 0.10))
        if cursor in layout.columns:
            left, width = layout.columns[cursor]
            p.fillRect(QRectF(left, y, width, tall), self.theme.colour("accent", 0.18))
        p.setPen(self.theme.pen("ink", 1.5))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawRect(QRectF(0.5, y, view.right() - 1, tall))
        _, width = layout.columns["frame"]
        box = QRectF(0, y, width, max(tall, 12.0))
        p.fillRect(box, self.theme.colour("ink"))
        p.setFont(self.theme.bold(12))
        p.setPen(self.theme.colour("paper_bright"))
        p.drawText(box.adjusted(0, 0, -10, 0), RIGHT, str(frame))

    def head(self, p: QPainter, layout: SheetLayout, title: str, facts: str, width: float) -> None:
        """The action's name over the sheet, and the column headings."""
        theme = self.theme
        p.fillRect(QRectF(0, 0, width, HEAD), theme.colour("paper"))
        p.setFont(theme.bold(17))
        p.setPen(theme.colour("ink"))
        name = elided(title, theme.bold(17), width * 0.55)
        p.drawText(QRectF(14, 4, width * 0.55, 30), LEFT, name)
        used = p.fontMetrics().horizontalAdvance(name) + 24
        p.setFont(theme.font(13))
        p.setPen(theme.colour("ink_soft"))
        room = width - used - 8
        p.drawText(QRectF(used, 5, room, 30), LEFT, elided(facts, theme.font(13), room))
        p.setPen(theme.pen("hair", 1.0))
        p.drawLine(QPointF(0, 35), QPointF(width, 35))
        p.setFont(theme.font(12))
        p.setPen(theme.colour("ink_soft"))
        for column, words in ((name, column.heading) for name, column in COLUMNS.items()):
            left, wide = layout.columns[column]
            shown = elided(words, theme.font(12), wide - 4)
            put_words(p, QRectF(left + 5, 36, wide - 4, 17), shown, theme.font(12))
        for (left, wide), words in zip(layout.curves() or (), ("covered", "too much")):
            put_words(p, QRectF(left - 3, 36, wide + 8, 17), words, theme.font(12))
        p.setPen(theme.pen("hair_strong", 1.0))
        p.drawLine(QPointF(0, HEAD - 0.5), QPointF(width, HEAD - 0.5))
