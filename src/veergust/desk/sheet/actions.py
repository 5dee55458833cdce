"""The list of actions on the left: by group, with total frames and a bar of their phases."""

from __future__ import annotations

from typing import NamedTuple

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from veergust.core.play.compiled import CompiledAction
from veergust.desk.document import Document
from veergust.desk.theme import Theme, elided

ROW, GROUP = 35, 26


class Line(NamedTuple):
    """A row of the list: a group's name, or an action and what its row says."""

    top: int
    height: int
    group: str = ""
    action: str = ""
    says: tuple[object, ...] = ()


class ActionList(QWidget):
    """Shows every action; a click or Up and Down opens one."""

    def __init__(self, document: Document, theme: Theme) -> None:
        super().__init__()
        self.document = document
        self.theme = theme
        self.lines: list[Line] = []
        self.longest = 1
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Actions")
        document.changed.connect(self._renew)
        theme.changed.connect(self.update)
        self._renew()

    def _renew(self) -> None:
        groups: dict[str, list[str]] = {}
        for action in self.document.project.actions:
            groups.setdefault(action.group or "Actions", []).append(action.name)
        book, here = self.document.book, self.document.action
        lines, y, longest = [], 10, 1
        for group, names in groups.items():
            lines.append(Line(y, GROUP, group=group))
            y += GROUP
            for name in names:
                compiled = book.action(name)
                if compiled is not None:
                    longest = max(longest, compiled.total)
                    says = (compiled.total, compiled.loops, compiled.open_frames, name == here)
                    lines.append(Line(y, ROW, action=name, says=says))
                    y += ROW
            y += 8
        old, self.lines = self.lines, lines
        self.setMinimumHeight(y)
        if longest != self.longest or len(old) != len(lines):
            self.longest = longest
            self.update()
            return
        for before, line in zip(old, lines):
            if before != line:
                self.update(0, line.top, self.width(), line.height)

    def sizeHint(self) -> QSize:
        return QSize(196, self.minimumHeight())

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        theme, width = self.theme, self.width()
        p.fillRect(self.rect(), theme.colour("paper_side"))
        shown = event.rect()
        for line in self.lines:
            if line.top + line.height < shown.top() or line.top > shown.bottom():
                continue
            if line.group:
                p.setFont(theme.bold(12))
                p.setPen(theme.colour("ink_faint"))
                rect = QRectF(16, line.top, width - 32, line.height)
                p.drawText(rect, Qt.AlignmentFlag.AlignVCenter, elided(line.group, theme.bold(12), width - 32))
                continue
            compiled = self.document.book.action(line.action)
            if compiled is None:
                continue
            here = line.action == self.document.action
            if here:
                p.fillRect(QRectF(0, line.top, width, line.height), theme.colour("selected"))
                p.fillRect(QRectF(0, line.top, 4, line.height), theme.colour("accent" if self.hasFocus() else "ink"))
            font = theme.bold(14) if here else theme.font(14)
            p.setFont(font)
            p.setPen(theme.colour("ink"))
            p.drawText(QRectF(16, line.top + 3, width - 64, 20), Qt.AlignmentFlag.AlignVCenter,
                       elided(line.action, font, width - 64))  # fmt: skip
            p.setFont(theme.font(13))
            p.setPen(theme.colour("ink_soft"))
            total = f"{compiled.total}{'+' if compiled.loops else ''}"
            p.drawText(QRectF(width - 56, line.top + 3, 40, 20), Qt.AlignmentFlag.AlignRight
                       | Qt.AlignmentFlag.AlignVCenter, total)  # fmt: skip
            self._bar(p, compiled, line.top + 27, width)

    def _bar(self, p: QPainter, compiled: CompiledAction, y: float, width: int) -> None:
        """Startup, active and recovery to one scale for the whole list."""
        ticks = compiled.open_frames
        if not ticks:
            return
        scale = (width - 46) / max(self.longest, 1)
        p.fillRect(QRectF(16, y, compiled.total * scale, 3), self.theme.colour("hair_strong", 0.45))
        p.fillRect(QRectF(16 + ticks[0] * scale, y - 0.5, max((ticks[-1] + 1 - ticks[0]) * scale, 3), 4),
                   self.theme.colour("strike"))  # fmt: skip

    def line_at(self, point: QPointF) -> Line | None:
        """The row under a point."""
        return next((x for x in self.lines if x.top <= point.y() < x.top + x.height), None)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus(Qt.FocusReason.MouseFocusReason)
        line = self.line_at(event.position())
        if line is not None and line.action:
            self.document.choose_action(line.action)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        names = [line.action for line in self.lines if line.action]
        if event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down) and self.document.action in names:
            at = names.index(self.document.action) + (1 if event.key() == Qt.Key.Key_Down else -1)
            self.document.choose_action(names[min(max(at, 0), len(names) - 1)])
        else:
            super().keyPressEvent(event)

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.update()
