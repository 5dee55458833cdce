"""What is painted, told to who cannot see it: rows and cells of a canvas in the tree that screen readers walk.

A widget that paints what it shows has a method ``told`` which gives its rows; ``use_accessible`` makes Qt ask for them.
What has changed is said as it is painted anew, and only once somebody listens.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import shiboken6
from PySide6.QtCore import QEvent, QObject, QPoint, QRect, QRectF
from PySide6.QtGui import QAccessible, QAccessibleEvent, QAccessibleInterface, QWindow
from PySide6.QtWidgets import QAbstractScrollArea, QWidget


@dataclass(frozen=True)
class ToldCell:
    """One cell of a row: what it is called, what it says, where it stands on the canvas, whether it is chosen."""

    name: str
    value: str = ""
    rect: QRectF = field(default_factory=QRectF)
    chosen: bool = False


@dataclass(frozen=True)
class ToldRow:
    """A row of a canvas, with its cells if it is one of a table; a ``heading`` stands over those that follow."""

    name: str
    value: str = ""
    rect: QRectF = field(default_factory=QRectF)
    chosen: bool = False
    heading: bool = False
    cells: tuple[ToldCell, ...] = ()


def told_by(widget: Any) -> list[ToldRow]:
    """The rows of a canvas now; none when it has gone."""
    return list(widget.told()) if shiboken6.isValid(widget) else []


class _Interface(QAccessibleInterface):
    """What all of them have; ``canvas`` is the widget."""

    def __init__(self, canvas: Any) -> None:
        super().__init__()
        self.canvas = canvas

    def isValid(self) -> bool:
        return shiboken6.isValid(self.canvas)

    def object(self) -> QObject | None:  # type: ignore[override]
        return None

    def window(self) -> QWindow | None:  # type: ignore[override]
        top = self.canvas.window().windowHandle() if self.isValid() else None
        return top if isinstance(top, QWindow) else None

    def relations(self, match: Any = None) -> list[Any]:
        return []

    def setText(self, kind: QAccessible.Text, text: str) -> None:
        pass

    def childAt(self, x: int, y: int) -> QAccessibleInterface | None:  # type: ignore[override]
        found = (self.child(i) for i in range(self.childCount()))
        return next((one for one in found if one is not None and one.rect().contains(QPoint(x, y))), None)

    def _on_screen(self, rect: QRectF) -> QRect:
        view = self.canvas.viewport() if isinstance(self.canvas, QAbstractScrollArea) else self.canvas
        return QRect(view.mapToGlobal(rect.topLeft().toPoint()), rect.size().toSize())


class CanvasInterface(_Interface):
    """A canvas as a list or a table of its rows."""

    def __init__(self, canvas: Any) -> None:
        super().__init__(canvas)
        self.rows = told_by(canvas)
        self.children: list[RowInterface] = []
        self.watch = _Watch(self)

    def renew(self) -> None:
        """Take the rows as they are now, and say what has changed of them."""
        before, self.rows = self.rows, told_by(self.canvas)
        if len(before) != len(self.rows):
            announce(self.canvas, QAccessible.Event.ObjectReorder)
            return
        for i, (old, new) in enumerate(zip(before, self.rows)):
            if (old.name, old.value, old.cells) != (new.name, new.value, new.cells):
                announce(self.canvas, QAccessible.Event.NameChanged, i)
            if new.chosen and not old.chosen:
                announce(self.canvas, QAccessible.Event.Focus, i)

    def object(self) -> QObject | None:  # type: ignore[override]
        return self.canvas if self.isValid() else None

    def role(self) -> QAccessible.Role:
        return QAccessible.Role.Table if any(row.cells for row in self.rows) else QAccessible.Role.List

    def text(self, kind: QAccessible.Text) -> str:
        if kind == QAccessible.Text.Name:
            return str(self.canvas.accessibleName())
        return str(self.canvas.accessibleDescription()) if kind == QAccessible.Text.Description else ""

    def state(self) -> QAccessible.State:
        state = QAccessible.State()
        state.focusable = True
        state.focused = self.canvas.hasFocus()
        state.invisible = not self.canvas.isVisible()
        return state

    def rect(self) -> QRect:
        return self._on_screen(QRectF(self.canvas.rect()))

    def parent(self) -> QAccessibleInterface | None:  # type: ignore[override]
        over = self.canvas.parentWidget()
        return QAccessible.queryAccessibleInterface(over) if over is not None else None

    def childCount(self) -> int:
        return len(self.rows)

    def child(self, index: int) -> QAccessibleInterface | None:  # type: ignore[override]
        if not 0 <= index < len(self.rows):
            return None
        while len(self.children) <= index:
            made = RowInterface(self, len(self.children))
            QAccessible.registerAccessibleInterface(made)
            self.children.append(made)
        return self.children[index]

    def indexOfChild(self, child: QAccessibleInterface) -> int:
        return child.at if isinstance(child, RowInterface) else -1

    def focusChild(self) -> QAccessibleInterface | None:  # type: ignore[override]
        at = next((i for i, row in enumerate(self.rows) if row.chosen), -1)
        return self.child(at)


class RowInterface(_Interface):
    """A row, whatever stands at its place now."""

    def __init__(self, over: CanvasInterface, at: int) -> None:
        super().__init__(over.canvas)
        self.over, self.at = over, at
        self.children: list[CellInterface] = []

    @property
    def row(self) -> ToldRow:
        """What it is now; nothing when there are fewer."""
        return self.over.rows[self.at] if self.at < len(self.over.rows) else ToldRow("")

    def role(self) -> QAccessible.Role:
        if self.row.heading:
            return QAccessible.Role.Heading
        return QAccessible.Role.Row if self.row.cells else QAccessible.Role.ListItem

    def text(self, kind: QAccessible.Text) -> str:
        return {QAccessible.Text.Name: self.row.name, QAccessible.Text.Value: self.row.value}.get(kind, "")

    def state(self) -> QAccessible.State:
        return _state(self.row.chosen, not self.row.heading)

    def rect(self) -> QRect:
        return self._on_screen(self.row.rect)

    def parent(self) -> QAccessibleInterface:
        return self.over

    def childCount(self) -> int:
        return len(self.row.cells)

    def child(self, index: int) -> QAccessibleInterface | None:  # type: ignore[override]
        if not 0 <= index < len(self.row.cells):
            return None
        while len(self.children) <= index:
            made = CellInterface(self, len(self.children))
            QAccessible.registerAccessibleInterface(made)
            self.children.append(made)
        return self.children[index]

    def indexOfChild(self, child: QAccessibleInterface) -> int:
        return child.at if isinstance(child, CellInterface) else -1


class CellInterface(_Interface):
    """A cell, whatever stands at its place now."""

    def __init__(self, over: RowInterface, at: int) -> None:
        super().__init__(over.canvas)
        self.over, self.at = over, at

    @property
    def cell(self) -> ToldCell:
        """What it is now; nothing when there are fewer."""
        return self.over.row.cells[self.at] if self.at < len(self.over.row.cells) else ToldCell("")

    def role(self) -> QAccessible.Role:
        return QAccessible.Role.Cell

    def text(self, kind: QAccessible.Text) -> str:
        return {QAccessible.Text.Name: self.cell.name, QAccessible.Text.Value: self.cell.value}.get(kind, "")

    def state(self) -> QAccessible.State:
        return _state(self.cell.chosen, True)

    def rect(self) -> QRect:
        return self._on_screen(self.cell.rect)

    def parent(self) -> QAccessibleInterface:
        return self.over

    def childCount(self) -> int:
        return 0

    def child(self, index: int) -> QAccessibleInterface | None:  # type: ignore[override]
        return None

    def indexOfChild(self, child: QAccessibleInterface) -> int:
        return -1


class _Watch(QObject):
    """Sees that a canvas was painted anew."""

    def __init__(self, of: CanvasInterface) -> None:
        super().__init__(of.canvas)
        self.of = of
        seen = of.canvas.viewport() if isinstance(of.canvas, QAbstractScrollArea) else of.canvas
        seen.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.Paint:
            self.of.renew()
        return False


def _state(chosen: bool, choosable: bool) -> QAccessible.State:
    state = QAccessible.State()
    state.selectable = choosable
    state.selected = chosen
    return state


def announce(canvas: QWidget, what: QAccessible.Event, child: int = -1) -> None:
    """Say that something of a canvas has changed."""
    event = QAccessibleEvent(canvas, what)
    event.setChild(child)
    QAccessible.updateAccessibility(event)


_MADE: dict[int, CanvasInterface] = {}


def _factory(key: str, widget: QObject | None) -> QAccessibleInterface | None:
    """Qt asks once for every class a widget has; who paints and tells answers for it."""
    if not isinstance(widget, QWidget) or not hasattr(widget, "told") or key != type(widget).__name__:
        return None
    at = id(widget)
    if at not in _MADE or _MADE[at].canvas is not widget:
        _MADE[at] = CanvasInterface(widget)
        widget.destroyed.connect(lambda: _MADE.pop(at, None))
    return _MADE[at]


def use_accessible() -> None:
    """Have Qt ask canvases for their rows, once a program."""
    QAccessible.installFactory(_factory)
