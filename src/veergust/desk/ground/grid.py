"""The from × to grid: every state against every other. An empty cell is a transition to be made, a filled one is one to
be changed; what has no way back is marked."""

from __future__ import annotations

from math import ceil

from PySide6.QtCore import QPoint, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QWheelEvent
from PySide6.QtWidgets import QToolTip, QWidget

from veergust.core.kinds.conditions import sentence
from veergust.core.model import ANYWHERE
from veergust.core.play.compiled.chart import Chart
from veergust.core.scene.chart_layout import words_of
from veergust.desk.document.document import Document
from veergust.desk.ground.selection import GroundSelection
from veergust.desk.keys.pressing import pressed
from veergust.desk.keys.table import on_key
from veergust.desk.look.theme import Theme, elided, put_words, wide
from veergust.desk.widgets.accessible import ToldCell, ToldRow

NAMES, CELL, ROW, HEAD = 104.0, 90.0, 24.0, 26.0
STEPS = {"Left": (0, -1), "Right": (0, 1), "Up": (-1, 0), "Down": (1, 0)}


class GridView(QWidget):
    """The grid. ``wanted`` asks for a transition from one to another."""

    wanted = Signal(str, str)

    def __init__(self, document: Document, theme: Theme, selection: GroundSelection) -> None:
        super().__init__()
        self.document, self.theme, self.selection = document, theme, selection
        self.at = (0, 0)
        self.shift = (0.0, 0.0)
        self._made: tuple[object, ...] = ()
        self.cells: dict[tuple[str, str], list[int]] = {}
        self.lost: set[tuple[str, str]] = set()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName("From and to")
        self.setMinimumHeight(120)
        selection.changed.connect(self._follow)
        theme.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(600, 280)

    @property
    def starts(self) -> list[str]:
        """The rows: anywhere, states, groups."""
        chart = self.document.build.chart
        return [ANYWHERE, *chart.states, *chart.groups]

    @property
    def targets(self) -> list[str]:
        """The columns: states, groups."""
        chart = self.document.build.chart
        return [*chart.states, *chart.groups]

    def renew(self) -> None:
        """Show what there is now."""
        chart = self.document.build.chart
        if self._made and self._made[0] is chart:
            return
        self._made = (chart,)
        self.cells = {}
        for i, t in enumerate(chart.locomotion.transitions):
            self.cells.setdefault((t.start, t.to), []).append(i)
        self.lost = _without_way_back(chart)
        self.at = (min(self.at[0], len(self.starts) - 1), min(self.at[1], max(len(self.targets) - 1, 0)))
        self._bound()
        self.update()

    def _bound(self) -> None:
        wide = NAMES + CELL * len(self.targets) - self.width()
        high = HEAD + ROW * len(self.starts) - self.height()
        self.shift = (min(max(self.shift[0], 0.0), max(wide, 0.0)), min(max(self.shift[1], 0.0), max(high, 0.0)))

    def cell(self, row: int, column: int) -> QRectF:
        """Where a cell stands."""
        return QRectF(NAMES + column * CELL - self.shift[0], HEAD + row * ROW - self.shift[1], CELL, ROW)

    def _at(self, point: QPoint) -> tuple[int, int] | None:
        if point.x() < NAMES or point.y() < HEAD:
            return None
        row, column = int((point.y() - HEAD + self.shift[1]) // ROW), int((point.x() - NAMES + self.shift[0]) // CELL)
        return (row, column) if row < len(self.starts) and column < len(self.targets) else None

    def told(self) -> list[ToldRow]:
        """Where it leads from each row to each column, for who hears it."""
        there = self.document.project.locomotion.transitions
        return [
            ToldRow(start, rect=self.cell(row, 0), chosen=row == self.at[0], cells=tuple(
                ToldCell(f"{start} to {to}", "; ".join(sentence(there[i].conditions) or "always"
                     for i in self.cells.get((start, to), ())) or "no transition",
                     self.cell(row, column), (row, column) == self.at)
                for column, to in enumerate(self.targets)))
            for row, start in enumerate(self.starts)
        ]  # fmt: skip

    # Painting

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.fillRect(self.rect(), self.theme.colour("paper"))
        starts, targets = self.starts, self.targets
        p.save()
        p.setClipRect(QRectF(NAMES, HEAD, self.width() - NAMES, self.height() - HEAD))
        left, top = int(self.shift[0] // CELL), int(self.shift[1] // ROW)
        right = left + ceil((self.width() - NAMES) / CELL) + 1
        for row in range(top, min(top + ceil((self.height() - HEAD) / ROW) + 1, len(starts))):
            for column in range(left, min(right, len(targets))):
                self._cell(p, self.cell(row, column), starts[row], targets[column])
        if self.hasFocus() and targets:
            p.setPen(self.theme.pen("accent", 1.6))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawRect(self.cell(*self.at).adjusted(1, 1, -1, -1))
        p.restore()
        self._names(p, starts, targets)
        p.end()

    def _names(self, p: QPainter, starts: list[str], targets: list[str]) -> None:
        p.setFont(self.theme.bold(12))
        p.setPen(self.theme.pen("ink"))
        p.save()
        p.setClipRect(QRectF(NAMES, 0, self.width() - NAMES, HEAD))
        for column, to in enumerate(targets):
            rect = self.cell(0, column)
            words = elided(to, self.theme.bold(12), CELL - 8)
            put_words(p, QRectF(rect.left() + 4, 0, CELL - 4, HEAD), words, self.theme.bold(12))
        p.restore()
        p.save()
        p.setClipRect(QRectF(0, HEAD, NAMES, self.height() - HEAD))
        for row, start in enumerate(starts):
            rect = self.cell(row, 0)
            strong = start == self.selection.name
            font = self.theme.bold(12) if strong else self.theme.font(12)
            words = elided("anywhere" if start == ANYWHERE else start, font, NAMES - 18)
            put_words(p, QRectF(14, rect.top(), NAMES - 14, ROW), words, font)
        p.restore()
        p.setPen(self.theme.pen("ink_faint"))
        p.setFont(self.theme.font(12))
        p.drawText(QRectF(14, 0, NAMES, HEAD), Qt.AlignmentFlag.AlignVCenter, "from \\ to")
        p.setPen(self.theme.pen("hair"))
        p.drawLine(0, int(HEAD), self.width(), int(HEAD))

    def _cell(self, p: QPainter, rect: QRectF, start: str, to: str) -> None:
        p.setPen(self.theme.pen("hair"))
        p.drawLine(rect.bottomLeft(), rect.bottomRight())
        inner = rect.adjusted(2, 2, -2, -2)
        places = self.cells.get((start, to), [])
        if start == to and not places:
            p.fillRect(inner, self.theme.colour("hair", 0.7))
        elif places:
            chosen = self.selection.place in places
            p.fillRect(inner, self.theme.colour("selected" if chosen else "paper_side"))
            t = self.document.project.locomotion.transitions[places[0]]
            more = f" +{len(places) - 1}" if len(places) > 1 else ""
            said = words_of(t).removeprefix("from anywhere: ")
            font = self.theme.bold(12) if chosen else self.theme.font(12)
            p.setPen(self.theme.pen("accent" if chosen else "ink"))
            last = f"· {t.ticks}{more}"
            room = CELL - 14 - wide(last, font)
            words = f"{elided(said, font, room)} {last}"
            put_words(p, inner.adjusted(4, 0, 0, 0), words, font)
            if chosen:
                p.setBrush(Qt.BrushStyle.NoBrush)
                p.setPen(self.theme.pen("accent", 1.4))
                p.drawRect(inner)
        elif (start, to) in self.lost:
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.setPen(self.theme.pen("warn", 1.2, Qt.PenStyle.DashLine))
            p.drawRect(inner)
            put_words(p, inner.adjusted(4, 0, -2, 0), "no way back", self.theme.font(12))
        else:
            p.setPen(self.theme.pen("ink_faint"))
            put_words(p, rect, "·", self.theme.font(12), centred=True)

    # Mouse and keys

    def _open(self, at: tuple[int, int], again: bool = False) -> None:
        """Choose what stands in a cell, the next of several where one is chosen already; ask for one where none is."""
        self.at = at
        start, to = self.starts[at[0]], self.targets[at[1]]
        places = self.cells.get((start, to), [])
        if not places:
            self.wanted.emit(start, to)
            return
        chosen = self.selection.place
        next_ = places[(places.index(chosen) + 1) % len(places)] if chosen in places and again else places[0]
        self.selection.choose_transition(next_)
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        point = event.position().toPoint()
        at = self._at(point)
        if at is not None:
            self._open(at, again=True)
        elif point.x() < NAMES and point.y() > HEAD:
            row = int((point.y() - HEAD + self.shift[1]) // ROW)
            if 0 < row < len(self.starts):
                self.selection.choose(self.starts[row])
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if self.selection.place is not None:
            self.selection.opened.emit()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = self._at(event.position().toPoint())
        if at is None:
            QToolTip.hideText()
            return
        start, to = self.starts[at[0]], self.targets[at[1]]
        there = self.document.project.locomotion.transitions
        said = [
            f"{sentence(there[i].conditions) or 'at once'}, over {there[i].ticks} f"
            for i in self.cells.get((start, to), [])
        ]
        begin = "anywhere" if start == ANYWHERE else start
        words = "\n".join(said) or "click to make a transition"
        QToolTip.showText(event.globalPosition().toPoint(), f"{begin} → {to}\n{words}", self)

    def wheelEvent(self, event: QWheelEvent) -> None:
        dx, dy = event.angleDelta().x(), event.angleDelta().y()
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            dx, dy = dx or dy, 0
        self.shift = (self.shift[0] - dx / 2, self.shift[1] - dy / 2)
        self._bound()
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        keys = pressed(event)
        does = on_key("ground", keys)
        if does == "other_tag" and self.targets:
            row, column = self.at[0] + STEPS[keys][0], self.at[1] + STEPS[keys][1]
            self.at = (min(max(row, 0), len(self.starts) - 1), min(max(column, 0), len(self.targets) - 1))
            places = self.cells.get((self.starts[self.at[0]], self.targets[self.at[1]]), [])
            self.selection.choose_transition(places[0] if places else None)
            self._into_view()
        elif does in ("ground_fields", "new_state") and self.targets:
            if self.selection.place is not None and does == "ground_fields":
                self.selection.opened.emit()
            else:
                self._open(self.at)
        else:
            super().keyPressEvent(event)
            return
        self.update()

    def _into_view(self) -> None:
        rect = self.cell(*self.at)
        x, y = self.shift
        x += min(rect.left() - NAMES, 0.0) + max(rect.right() - self.width(), 0.0)
        y += min(rect.top() - HEAD, 0.0) + max(rect.bottom() - self.height(), 0.0)
        self.shift = (x, y)
        self._bound()

    def _follow(self) -> None:
        transition = self.selection.transition
        if transition is not None and transition.start in self.starts and transition.to in self.targets:
            self.at = (self.starts.index(transition.start), self.targets.index(transition.to))
            self._into_view()
        self.update()


def _without_way_back(chart: Chart) -> set[tuple[str, str]]:
    """(from, to) where a transition leads from *to* to *from*, and nothing at all leads back."""
    there = [(t.start, t.to) for t in chart.locomotion.transitions if t.start in chart.states and t.to in chart.states]
    return {(to, start) for start, to in there if start != to and start not in chart.after[to]}
