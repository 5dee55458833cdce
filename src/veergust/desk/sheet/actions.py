"""The list of actions on the left: by group, with total frames and a bar of their phases."""

from __future__ import annotations

from typing import NamedTuple

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QContextMenuEvent, QFocusEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QMenu, QWidget

from veergust.core.edit.actions import place_action
from veergust.core.study.playout import outline
from veergust.desk.document.document import Document
from veergust.desk.keys.pressing import BACK, last_of, pressed
from veergust.desk.keys.table import on_key
from veergust.desk.look.theme import Theme, elided
from veergust.desk.widgets.accessible import ToldRow

ROW, GROUP = 35, 26
NONE = "Actions"
"""The heading of those in no group."""


class Line(NamedTuple):
    """A row of the list: a group's name, or an action and what its row says."""

    top: int
    height: int
    group: str = ""
    action: str = ""
    says: tuple[object, ...] = ()


class ActionList(QWidget):
    """Shows every action; a click or Up and Down opens one, a drag (or Alt+Up and Down) puts it elsewhere."""

    remove_wanted = Signal()
    like_wanted = Signal()

    def __init__(self, document: Document, theme: Theme) -> None:
        super().__init__()
        self.document = document
        self.theme = theme
        self.lines: list[Line] = []
        self.longest = 1
        self._pressed: tuple[str, float] | None = None
        self._drop: Line | None = None
        self.setToolTip("Drag to sort or put into another group (Alt+Up, Alt+Down); Delete removes")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Actions")
        document.changed.connect(self._renew)
        theme.changed.connect(self.update)
        self._renew()

    def _renew(self) -> None:
        groups: dict[str, list[str]] = {}
        for action in self.document.project.actions:
            groups.setdefault(action.group or NONE, []).append(action.name)
        build, here = self.document.build, self.document.action
        lines, y, longest = [], 10, 1
        for group, names in groups.items():
            lines.append(Line(y, GROUP, group=group))
            y += GROUP
            for name in names:
                compiled = build.action(name)
                if compiled is not None:
                    total, loops, ticks = outline(build, compiled)
                    longest = max(longest, total)
                    says = (total, loops, ticks, name == here)
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

    def told(self) -> list[ToldRow]:
        """Its rows, for who hears them."""
        out = []
        for line in self.lines:
            rect = QRectF(0, line.top, self.width(), line.height)
            compiled = self.document.build.action(line.action) if line.action else None
            lasts = f"{outline(self.document.build, compiled)[0]} frames" if compiled is not None else ""
            chosen = bool(line.action) and line.action == self.document.action
            out.append(ToldRow(line.group or line.action, lasts, rect, chosen, heading=bool(line.group)))
        return out

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
            compiled = self.document.build.action(line.action)
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
            lasts, loops, ticks = outline(self.document.build, compiled)
            total = f"{lasts}{'+' if loops else ''}"
            p.drawText(QRectF(width - 56, line.top + 3, 40, 20), Qt.AlignmentFlag.AlignRight
                       | Qt.AlignmentFlag.AlignVCenter, total)  # fmt: skip
            self._bar(p, lasts, ticks, line.top + 27, width)
        self._drop_line(p)

    def _drop_line(self, p: QPainter) -> None:
        """Where what is dragged would go."""
        if self._drop is not None:
            y = self._drop.top + (self._drop.height if self._drop.group else 0)
            p.fillRect(QRectF(8, y - 1, self.width() - 16, 2), self.theme.colour("accent"))

    def _bar(self, p: QPainter, lasts: int, ticks: tuple[int, ...], y: float, width: int) -> None:
        """Startup, active and recovery to one scale for the whole list."""
        if not ticks:
            return
        scale = (width - 46) / max(self.longest, 1)
        p.fillRect(QRectF(16, y, lasts * scale, 3), self.theme.colour("hair_strong", 0.45))
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
            if event.button() == Qt.MouseButton.LeftButton:
                self._pressed = line.action, event.position().y()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._pressed is not None and abs(event.position().y() - self._pressed[1]) > 8:
            self._drop = self.line_at(event.position()) or (self.lines[-1] if self.lines else None)
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        pressed, drop = self._pressed, self._drop
        self._pressed = self._drop = None
        self.update()
        if pressed is not None and drop is not None and drop.action != pressed[0]:
            self._put(pressed[0], drop)

    def _put(self, name: str, onto: Line) -> None:
        """Put an action before another, or first into a group."""
        actions = self.document.project.actions
        if onto.group:
            before = next((a.name for a in actions if (a.group or NONE) == onto.group and a.name != name), "")
            group = "" if onto.group == NONE else onto.group
        else:
            before = onto.action
            group = next((a.group for a in actions if a.name == before), "")
        self.document.apply(place_action(self.document.base, name, group, before))

    def _shift(self, by: int) -> None:
        """The open action one row up or down in its group."""
        actions = self.document.project.actions
        here = next((a for a in actions if a.name == self.document.action), None)
        if here is None:
            return
        own = [a.name for a in actions if a.group == here.group]
        at = own.index(here.name) + by
        if 0 <= at < len(own):
            after = own[at + 1] if by > 0 and at + 1 < len(own) else ""
            self.document.apply(place_action(self.document.base, here.name, here.group, own[at] if by < 0 else after))

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        menu = QMenu(self)
        menu.addAction("Like this one", self.like_wanted.emit)
        menu.addAction("Remove…", self.remove_wanted.emit)
        menu.popup(event.globalPos())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        names = [line.action for line in self.lines if line.action]
        keys = pressed(event)
        does, way = on_key("actions", keys), -1 if last_of(keys) in BACK else 1
        if does == "remove_action":
            self.remove_wanted.emit()
        elif does == "place_action":
            self._shift(way)
        elif does == "other_action" and self.document.action in names:
            at = names.index(self.document.action) + way
            self.document.choose_action(names[min(max(at, 0), len(names) - 1)])
        else:
            super().keyPressEvent(event)

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.update()
