"""The Now card: plain words about the frame under the playhead, and what can happen from it."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from veergust.core.edit import SpanRef
from veergust.core.kinds import NowItem
from veergust.core.study import Now, now
from veergust.desk.document.document import Document
from veergust.desk.keys.pressing import BACK, pressed
from veergust.desk.keys.table import on_key
from veergust.desk.look.theme import Theme, elided, put_words, wide
from veergust.desk.widgets.accessible import ToldRow
from veergust.desk.widgets.stamps import Stamps

TOP, ROW = 58, 26


class NowCard(QWidget):
    """Shows the Now of the open frame; each line can be clicked and selects what it is about."""

    def __init__(self, document: Document, theme: Theme) -> None:
        super().__init__()
        self.document = document
        self.theme = theme
        self.stamps = Stamps()
        self._now: Now | None = None
        self.at = -1
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Now")
        self.setMinimumHeight(TOP + 3 * ROW)
        document.changed.connect(self._renew)
        document.frame_moved.connect(self._renew)
        document.selection_changed.connect(self.update)
        theme.changed.connect(self.update)
        self._renew()

    def _renew(self) -> None:
        self._now = None
        self.update()

    @property
    def now(self) -> Now:
        """What the card says, worked out when it is looked at."""
        if self._now is None:
            compiled = self.document.compiled
            nothing = Now(0, "", "", ())
            self._now = now(self.document.build, compiled, self.document.frame) if compiled else nothing
            self.at = min(self.at, len(self._now.items) - 1)
            words = ". ".join(item.says for item in self._now.items)
            self.setAccessibleDescription(f"Frame {self._now.frame}. {self._now.headline}. {words}")
        return self._now

    def shown(self) -> list[NowItem]:
        """The lines there is room for; what is open now goes first when there is not room for all."""
        room = max(1, int((self.height() - TOP - 4) // ROW))
        items = list(self.now.items)
        if len(items) > room:
            items.sort(key=lambda i: not i.open)
        return items[:room]

    def told(self) -> list[ToldRow]:
        """Its lines, for who hears them."""
        head = ToldRow(f"Frame {self.now.frame}", f"{self.now.headline} · {self.now.phase}", heading=True)
        lines = [
            ToldRow(item.says, item.note, QRectF(8, TOP + n * ROW, self.width() - 16, ROW), n == self.at)
            for n, item in enumerate(self.shown())
        ]
        return [head, *lines]

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        theme, width = self.theme, self.width()
        p.fillRect(self.rect(), theme.colour("paper"))
        if self.document.compiled is None:
            return
        p.setFont(theme.bold(19))
        p.setPen(theme.colour("ink"))
        head = f"Frame {self.now.frame}"
        p.drawText(QRectF(16, 8, width, 30), Qt.AlignmentFlag.AlignVCenter, head)
        used = 16 + p.fontMetrics().horizontalAdvance(head) + 12
        p.setFont(theme.font(13))
        p.setPen(theme.colour("ink_soft"))
        words = f"{self.now.headline} · {self.now.phase}"
        p.drawText(QRectF(used, 10, width - used - 12, 28), Qt.AlignmentFlag.AlignVCenter,
                   elided(words, theme.font(13), width - used - 12))  # fmt: skip
        p.setFont(theme.bold(12))
        p.setPen(theme.colour("ink_faint"))
        p.drawText(QRectF(16, 40, 200, 20), Qt.AlignmentFlag.AlignVCenter, "From here")
        shown = self.shown()
        for n, item in enumerate(shown):
            self._item(p, item, TOP + n * ROW, width, n == self.at and self.hasFocus())
        if len(shown) < len(self.now.items):
            p.setFont(theme.font(12))
            p.setPen(theme.colour("ink_faint"))
            more = f"and {len(self.now.items) - len(shown)} more"
            p.drawText(QRectF(0, 40, width - 16, 20), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, more)

    def _item(self, p: QPainter, item: NowItem, y: int, width: int, focused: bool) -> None:
        theme = self.theme
        if focused or (self._ref(item) is not None and self._ref(item) == self.document.selection):
            p.fillRect(QRectF(8, y, width - 16, ROW - 1), theme.colour("selected"))
        swatch = QRectF(16, y + 6, 14, 14)
        look = item.role, theme.look.name
        self.stamps.put(p, swatch, look, lambda p: theme.draw_span(p, swatch, item.role))
        font, note_font = theme.font(14) if item.open else theme.font(13), theme.font(12)
        note_width = min(round(wide(item.note, note_font)) + 4, width * 0.46)
        p.setPen(theme.colour("ink_soft"))
        note = elided(item.note, note_font, note_width)
        put_words(p, QRectF(width - 16 - note_width, y, note_width, ROW), note, note_font, share=1.0)
        room = width - 40 - note_width - 24
        p.setPen(theme.colour("ink" if item.open else "ink_soft"))
        put_words(p, QRectF(40, y, room, ROW), elided(item.says, font, room), font)
        p.setPen(theme.pen("hair", 1.0))
        p.drawLine(QPointF(16, y + ROW - 0.5), QPointF(width - 16, y + ROW - 0.5))

    def _ref(self, item: NowItem) -> SpanRef | None:
        if item.section is None or not item.kind:
            return None
        return SpanRef(self.document.action, item.section, item.kind, item.index)

    def _choose(self, index: int) -> None:
        shown = self.shown()
        if 0 <= index < len(shown):
            self.at = index
            ref = self._ref(shown[index])
            self.document.select(ref)
            self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus(Qt.FocusReason.MouseFocusReason)
        self._choose(int((event.position().y() - TOP) // ROW))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        keys = pressed(event)
        if on_key("now", keys) == "other_line":
            self._choose(max(self.at + (-1 if keys in BACK else 1), 0))
        else:
            super().keyPressEvent(event)
