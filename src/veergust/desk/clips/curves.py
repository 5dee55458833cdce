"""How fast what may strike goes, and the height of the hips, on the film's own frames."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPixmap, QPolygonF
from PySide6.QtWidgets import QMenu, QWidget

from veergust.core.motion import Array
from veergust.core.study import WEAPON, Reading, Same, tips
from veergust.desk.clips.playhead import Playhead
from veergust.desk.clips.timeline import LEFT, RIGHT
from veergust.desk.document.document import Document
from veergust.desk.look.theme import Theme
from veergust.desk.widgets.buttons import word_button

BODY, LIMBS = "body", "limbs"
HIPS = ("hips", "m", "hold")
DASHES = (Qt.PenStyle.SolidLine, Qt.PenStyle.DashLine, Qt.PenStyle.DotLine, Qt.PenStyle.DashDotLine)
WHOSE = "Whose speed is shown: hands', feet's, the head's and the weapon's about the hips, or the body's over the floor"
STEPS = (0.1, 0.2, 0.5, 1.0, 2.0, 5.0, 10.0, 20.0, 50.0)
GAP = 4


STANDS_OUT, ROOM = 0.3, 64.0
"""A curve is named where it is so high (of the plot) and no other is named so near (px)."""


def outline(values: Array, start: int, end: int, most: int) -> NDArray[np.intp]:
    """The frames ``[N]`` of a curve to draw from ``start`` to before ``end``: all of them, or where they are more than
    ``most``, the lowest and the highest of each of half as many parts, so that no peak is lost."""
    rows = np.arange(start, min(end, len(values)))
    parts = max(most // 2, 1)
    if len(rows) <= 2 * parts:
        return rows
    long = -(-len(rows) // parts)
    padded = np.concatenate([rows, np.full(-len(rows) % long, rows[-1])]).reshape(-1, long)
    at = np.arange(len(padded))
    found = [padded[at, pick(values[padded], axis=1)] for pick in (np.argmin, np.argmax)]
    return np.unique(np.concatenate([*found, rows[[0, -1]]]))


def _plain(name: str) -> str:
    return name.replace("_", " ")


class Curves(QWidget):
    """Two plots one over the other: speeds (m/s) and the height of the hips (m). A click goes there.

    The speeds are those of what may strike, hands, feet, head and weapon, each by itself or all together; or the
    body's over the floor.
    """

    def __init__(self, document: Document, theme: Theme, playhead: Playhead) -> None:
        super().__init__()
        self.theme = theme
        self.playhead = playhead
        self.document = document
        self.before = False
        """Whether the source is shown under what it was cleaned to."""
        self.what = LIMBS
        self._tips: tuple[object, dict[str, Array]] = (None, {})
        self._drawn: tuple[tuple[object, ...], QPixmap] = ((), QPixmap())
        self.choice = word_button("", WHOSE)
        self.choice.setParent(self)
        self.choice.setAccessibleName("Whose speed is shown")
        self.choice.setGeometry(4, GAP, LEFT - 22, 22)
        self.choices = QMenu(self)
        self.choice.setMenu(self.choices)
        self.choices.triggered.connect(lambda chosen: self.show_speed_of(chosen.data()))
        self.setAccessibleName("Speed and height")
        self.setToolTip("Click or drag to scrub; Shift and drag chooses a part")
        self._chosen_from: int | None = None
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        for signal in (
            document.changed,
            document.clip_chosen,
            playhead.moved,
            playhead.timeline.changed,
            theme.changed,
        ):
            signal.connect(self.update)

    def show_speed_of(self, what: str) -> None:
        """Show the speed of what may strike, by its name, of the limbs together, or the body's."""
        self.what = what
        self.choice.setText(_plain(what))
        self.update()

    def speeds(self) -> list[tuple[str, Array]]:
        """The speeds that are shown, each with its name."""
        reading = self.playhead.reading
        if reading is None:
            return []
        tips = self._tips_of(reading)
        if self.what == LIMBS and len(tips) > 1:
            # A weapon goes so much faster than any hand that beside it none would be seen.
            return [(n, v) for n, v in tips.items() if n != WEAPON]
        return [(self.what, tips[self.what])] if self.what in tips else [(BODY, reading.speed)]

    def _tips_of(self, reading: Reading) -> dict[str, Array]:
        """Speeds of the tips of a reading, worked out once; the menu offers them."""
        if self._tips[0] is not reading:
            rig, build = self.document.project.rig, self.document.build
            weapon = build.mount(rig.weapon.tip) if rig.weapon is not None else None
            self._tips = (reading, tips(reading, weapon))
            names = [LIMBS, *self._tips[1], BODY]
            self.choices.clear()
            for name in names:
                self.choices.addAction(_plain(name)).setData(name)
            self.show_speed_of(self.what if self.what in names else LIMBS)
        return self._tips[1]

    def _across(self) -> tuple[float, float]:
        return float(LEFT), max(self.width() - LEFT - RIGHT, 1)

    def x_of(self, frame: float) -> float:
        """The place of a frame."""
        return self.playhead.timeline.x_of(frame, self.width())

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        reading = self.playhead.reading
        raw = self.document.derived.uncleaned(self.document.clip) if self.before else None
        self.choice.setVisible(reading is not None)
        if reading is None:
            p.fillRect(self.rect(), self.theme.colour("paper"))
            return
        line, ratio = self.playhead.timeline, self.devicePixelRatioF()
        speeds = self.speeds()
        shows = (Same(reading), Same(raw), self.what, self.playhead.used(), line.low, line.high, self.size(), ratio,
                 self.theme.look.name)  # fmt: skip
        if self._drawn[0] != shows:
            picture = QPixmap(self.size() * ratio)
            picture.setDevicePixelRatio(ratio)
            self._draw(picture, speeds, reading, raw)
            self._drawn = shows, picture
        p.drawPixmap(0, 0, self._drawn[1])
        x, (left, wide) = self.x_of(self.playhead.frame), self._across()
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setClipRect(QRectF(left, 0, wide + RIGHT, self.height()))
        p.setPen(self.theme.pen("accent", 2.0))
        for place in self._places():
            p.drawLine(QPointF(x, place.top()), QPointF(x, place.bottom()))

    def _places(self) -> tuple[QRectF, QRectF]:
        """Where the two plots lie."""
        tall = (self.height() - 3 * GAP) / 2
        return QRectF(0, GAP, self.width(), tall), QRectF(0, 2 * GAP + tall, self.width(), tall)

    def _draw(self, picture: QPixmap, speeds: list[tuple[str, Array]], reading: Reading, raw: Reading | None) -> None:
        """Draw both plots: all that stays as it is while the playhead moves."""
        p = QPainter(picture)
        p.fillRect(self.rect(), self.theme.colour("paper"))
        under = raw.speed if raw is not None and self.what == BODY else None
        upper, lower = self._places()
        self._plot(p, upper, ("", "m/s", "drive"), speeds, under)
        self._plot(p, lower, HIPS, [("", reading.height)], raw.height if raw is not None else None)
        p.end()

    def _plot(
        self, p: QPainter, place: QRectF, words: tuple[str, str, str], curves: list[tuple[str, Array]],
        under: Array | None,
    ) -> None:  # fmt: skip
        theme, (name, unit, role) = self.theme, words
        count = len(curves[0][1])
        left, wide = self._across()
        # A leap of a frame, as out of a rest pose, does not set the scale.
        most = max(float(np.partition(v, -3)[-3] if count > 8 else v.max()) for _, v in curves)
        low, high = min(float(min(v.min() for _, v in curves)), 0.0), max(most, 0.5) * 1.12

        def y_of(value: float) -> float:
            return place.bottom() - (value - low) / (high - low) * place.height()

        first, last = self.playhead.used()
        used = QRectF(self.x_of(first), place.top(), self.x_of(last) - self.x_of(first), place.height())
        p.fillRect(used & QRectF(left, place.top(), wide + RIGHT, place.height()), theme.colour("selected"))
        p.setFont(theme.font(12))
        step = next((s for s in STEPS if (high - low) / s * 16 <= place.height()), STEPS[-1])
        for n in range(int(np.ceil(low / step)), int(high / step) + 1):
            y = y_of(n * step)
            p.setPen(theme.colour("ink_soft"))
            right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
            p.drawText(
                QRectF(0, min(max(y - 7, place.top()), place.bottom() - 13), left - 8, 14), right, f"{n * step:g}"
            )
            p.setPen(theme.pen("hair", 1.0))
            p.drawLine(QPointF(left, y), QPointF(left + wide, y))
        p.setPen(theme.pen("hair_strong", 1.0))
        p.drawLine(QPointF(left, place.top()), QPointF(left, place.bottom()))
        p.setPen(theme.colour("ink_soft"))
        p.setFont(theme.font(13))
        p.drawText(QRectF(12, place.top(), left - 40, 18), Qt.AlignmentFlag.AlignVCenter, name)
        p.drawText(QRectF(12, place.top() + 16, left - 40, 18), Qt.AlignmentFlag.AlignVCenter, unit)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        line = self.playhead.timeline
        start, end = max(int(line.low) - 1, 0), min(int(line.high) + 2, count)
        p.setClipRect(QRectF(left, place.top(), wide + RIGHT, place.height()))
        drawn = [(under, theme.pen("ink_faint", 1.0), "")] if under is not None else []
        for n, (called, values) in enumerate(curves):
            pen = theme.pen(role, 1.8 if len(curves) == 1 else 1.2, DASHES[n % len(DASHES)])
            drawn.append((values, pen, called if len(curves) > 1 else ""))
        called_at: list[float] = []
        for values, pen, called in drawn:
            rows = outline(values, start, end, 2 * self.width())
            p.setPen(pen)
            p.drawPolyline(
                QPolygonF([QPointF(self.x_of(f), y_of(v)) for f, v in zip(rows.tolist(), values[rows].tolist())])
            )
            if called and len(rows):
                self._call(p, place, called, values, rows, y_of, high, called_at)
        p.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        p.setClipping(False)

    def _call(
        self, p: QPainter, place: QRectF, called: str, values: Array, rows: NDArray[np.intp],
        y_of: Callable[[float], float], high: float, called_at: list[float],
    ) -> None:  # fmt: skip
        """The name of a curve beside the highest of it that is in sight, where it stands out and there is room."""
        top = int(rows[np.argmax(values[rows])])
        x = self.x_of(top) + 5
        if float(values[top]) < STANDS_OUT * high or any(abs(x - other) < ROOM for other in called_at):
            return
        called_at.append(x)
        p.setFont(self.theme.font(12))
        p.setPen(self.theme.colour("ink"))
        high_enough = max(y_of(float(values[top])) + 4, place.top() + 10)
        p.drawText(QPointF(min(x, self.width() - ROOM), high_enough), _plain(called))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        chooses = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        self._chosen_from = self._frame_at(event) if chooses else None
        self.mouseMoveEvent(event)

    def _frame_at(self, event: QMouseEvent) -> int:
        return self.playhead.timeline.frame_at(event.position().x(), self.width())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.playhead.reading is None or not event.buttons():
            return
        frame = self._frame_at(event)
        self.playhead.step(0)
        if self._chosen_from is not None and frame != self._chosen_from:
            self.playhead.select(self._chosen_from, frame)
        self.playhead.move_to(frame)
