"""The whole of a long action beside its sheet: drawn poses, what is open where, what of it is in sight."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPixmap
from PySide6.QtWidgets import QWidget

from veergust.core.study import Same
from veergust.desk.document.document import Document
from veergust.desk.look.theme import Theme
from veergust.desk.sheet.layout import HEAD
from veergust.desk.sheet.view import SheetView
from veergust.desk.widgets.inked import pose_pixmap

WIDE, TALL = 58, 54
BAR = 6
"""Width of the bar in which strikes and windows stand (px)."""


class Overview(QWidget):
    """There while the sheet is longer than its room. A click goes there, a drag goes along."""

    def __init__(self, document: Document, theme: Theme, sheet: SheetView) -> None:
        super().__init__()
        self.document = document
        self.theme = theme
        self.sheet = sheet
        self._poses: dict[tuple[object, ...], QPixmap] = {}
        self.setFixedWidth(WIDE)
        self.setAccessibleName("Overview of the action")
        self.setToolTip("The whole action. Click to go there.")
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        bar = sheet.verticalScrollBar()
        bar.rangeChanged.connect(self._fit)
        for signal in (document.changed, document.frame_moved, bar.valueChanged, theme.changed):
            signal.connect(self.update)
        self._fit()

    def _fit(self) -> None:
        self.setVisible(self.sheet.verticalScrollBar().maximum() > 0 and self.document.compiled is not None)
        self.update()

    @property
    def scale(self) -> float:
        """Pixels here for one of the sheet."""
        return (self.height() - HEAD - 8) / max(self.sheet.layout_.height, 1.0)

    def y_of(self, frame: int) -> float:
        """Where a frame lies here."""
        return HEAD + self.sheet.layout_.y(frame) * self.scale

    def frame_at(self, y: float) -> int:
        """The frame that lies at a height."""
        frame = self.sheet.layout_.frame_at(min(max((y - HEAD) / self.scale, 0.0), self.sheet.layout_.height - 1e-6))
        return min(max(frame, 0), max(self.sheet.layout_.total - 1, 0))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        # Its frames are those of the sheet, and so are its keys.
        self.sheet.keyPressEvent(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.document.move_to(self.frame_at(event.position().y()))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self.mousePressEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        theme, compiled = self.theme, self.document.compiled
        p.fillRect(self.rect(), theme.colour("paper_side"))
        if compiled is None or not compiled.order:
            return
        layout, bar, scale = self.sheet.layout_, self.sheet.verticalScrollBar(), self.scale
        room = self.sheet.viewport().height() - HEAD
        seen = QRectF(0.5, HEAD + bar.value() * scale, WIDE - 1, min(room, layout.height) * scale)
        p.fillRect(seen, theme.colour("paper_bright"))
        self._draw_poses(p)
        for placed in layout.placed:
            if placed.role in ("strike", "combo", "cancel"):
                x = WIDE - BAR - 1.0 if placed.role == "strike" else WIDE - 2 * BAR - 2.0
                rect = QRectF(x, HEAD + placed.rect.top() * scale, BAR - 1, max(placed.rect.height() * scale, 2.0))
                theme.draw_span(p, rect, placed.role, False)
        p.setPen(theme.pen("hair_strong", 1.0))
        for stretch in layout.stretches[1:]:
            p.drawLine(QPointF(0, HEAD + stretch.top * scale), QPointF(WIDE, HEAD + stretch.top * scale))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawRect(seen)
        p.setPen(theme.pen("accent", 2.0))
        y = self.y_of(self.document.frame)
        p.drawLine(QPointF(0, y), QPointF(WIDE, y))

    def _draw_poses(self, p: QPainter) -> None:
        compiled, mesh = self.document.compiled, self.document.mesh
        if compiled is None or mesh is None:
            return
        ratio = self.devicePixelRatioF()
        if len(self._poses) > 400:
            self._poses.clear()
        count = max(int((self.height() - HEAD) / TALL), 1)
        ink = self.theme.colour("ink")
        for n in range(count):
            y = HEAD + (self.height() - HEAD - 8) * (n + 0.5) / count
            section, tick = compiled.locate(self.frame_at(y))
            world = compiled.world_of(section)
            key = (Same(world), tick, Same(mesh), ratio, self.theme.look.name)
            if key not in self._poses:
                self._poses[key] = pose_pixmap(mesh, world[tick], WIDE - 2 * BAR, TALL - 6, ink, ratio)
            p.drawPixmap(QPointF(0, y - TALL / 2 + 3), self._poses[key])
