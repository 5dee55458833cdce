"""How the film is drawn."""

from __future__ import annotations

from typing import Protocol

from PySide6.QtCore import QPointF, QRect, QRectF, Qt
from PySide6.QtGui import QPainter, QPolygonF

from veergust.core.model import Clip
from veergust.core.study import Reading
from veergust.desk.clips.playhead import Playhead
from veergust.desk.clips.timeline import LEFT, RIGHT
from veergust.desk.look.theme import Theme, elided

RULER, LANE, KEYS = 26, 15, 20
STEPS = (1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 2000, 5000, 10000, 20000, 50000)
MIDDLE = Qt.AlignmentFlag.AlignVCenter


class FilmShown(Protocol):
    """A film, as its ink sees it."""

    theme: Theme
    playhead: Playhead
    contact: int

    def rect(self) -> QRect: ...
    def width(self) -> int: ...
    def height(self) -> int: ...
    def feet(self) -> list[int]:
        """The joints that have a lane."""

    def parts(self) -> list[tuple[str, int, int]]:
        """The clips of the same take: name, first and last frame."""

    def x_of(self, frame: float) -> float:
        """The middle of a frame."""

    def parts_top(self) -> int:
        """The top of the lane of the take's clips."""

    def feet_top(self) -> int:
        """The top of the lanes of the feet."""

    def lane_top(self, joint: int) -> int:
        """The top of a foot's lane."""


class FilmInk:
    """Draws a film as it is now."""

    def __init__(self, film: FilmShown) -> None:
        self.film = film
        self.theme = film.theme

    def draw(self, p: QPainter) -> None:
        """All of it."""
        film, theme = self.film, self.theme
        wide, high = film.width(), film.height()
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.fillRect(film.rect(), theme.colour("paper"))
        p.setPen(theme.pen("hair_strong", 1.0))
        p.drawLine(0, 0, wide, 0)
        reading, clip = film.playhead.reading, film.playhead.clip
        if reading is None or clip is None:
            return
        self._names(p, reading)
        p.setClipRect(QRectF(LEFT - 9, 0, wide - LEFT + 9, high))
        first, last = film.playhead.used()
        used = QRectF(film.x_of(first), 1, film.x_of(last) - film.x_of(first), high - 1)
        p.fillRect(used, theme.colour("selected"))
        self._selection(p, high)
        self._ruler(p, reading)
        self._keys(p, reading, clip)
        self._parts(p, clip, reading)
        self._feet(p, reading)
        self._marks(p, clip, reading, high)
        for frame, sign in ((first, 1), (last, -1)):
            x = film.x_of(frame)
            p.setPen(theme.pen("ink", 2.0))
            p.drawLine(QPointF(x, 1), QPointF(x, high))
            p.setBrush(theme.colour("ink"))
            p.drawPolygon(QPolygonF([QPointF(x, 1), QPointF(x + sign * 8, 1), QPointF(x, 10)]))
        self._head(p, wide, high)
        p.setClipping(False)

    def _names(self, p: QPainter, reading: Reading) -> None:
        """What the lanes are, at the left."""
        film, theme = self.film, self.theme
        p.setFont(theme.font(12))
        p.setPen(theme.colour("ink_soft"))
        rate = "frames" if film.playhead.timeline.whole else "frames ↔"
        p.drawText(QRectF(12, 2, LEFT - 16, RULER - 4), MIDDLE, rate)
        p.drawText(QRectF(12, RULER, LEFT - 16, KEYS), MIDDLE, "poses")
        if film.parts():
            p.drawText(QRectF(12, film.parts_top(), LEFT - 16, LANE), MIDDLE, "clips")
        feet = film.feet()
        if not feet:
            p.drawText(QRectF(12, film.feet_top(), LEFT - 16, LANE), MIDDLE, "feet")
            p.setPen(theme.colour("ink_faint"))
            p.drawText(QRectF(LEFT + 4, film.feet_top(), 200, LANE), MIDDLE, "no foot stands")
        for joint in feet:
            name = reading.skeleton.names[joint].lower()
            side = "L" if "left" in name or name.startswith("l") or name.endswith("l") else "R"
            p.setPen(theme.colour("ink_soft"))
            p.drawText(QRectF(12, film.lane_top(joint), LEFT - 16, LANE), MIDDLE, f"foot {side}")

    def _selection(self, p: QPainter, high: int) -> None:
        chosen = self.film.playhead.selection
        if chosen is None:
            return
        a, b = (self.film.x_of(f) for f in chosen)
        rect = QRectF(a, 1, b - a, high - 2)
        self.theme.draw_span(p, rect, "event", True)
        p.setFont(self.theme.bold(12))
        p.setPen(self.theme.colour("ink"))
        p.drawText(rect.adjusted(4, 0, -4, 0), Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignBottom,
                   f"{chosen[0]} to {chosen[1]}" if rect.width() > 70 else "")  # fmt: skip

    def _ruler(self, p: QPainter, reading: Reading) -> None:
        film, theme, line = self.film, self.theme, self.film.playhead.timeline
        pixels = (film.width() - LEFT - RIGHT) / max(line.high - line.low, 1e-9)
        step = next((s for s in STEPS if s * pixels >= 38), STEPS[-1])
        p.setFont(theme.font(12))
        for frame in range(int(line.low) // step * step, int(line.high) + 1, step):
            x = film.x_of(frame)
            p.setPen(theme.pen("hair_strong", 1.0))
            p.drawLine(QPointF(x, RULER - 5), QPointF(x, RULER))
            if min(abs(x - film.x_of(edge)) for edge in film.playhead.used()) > 9:
                p.setPen(theme.colour("ink_soft"))
                p.drawText(QRectF(x - 25, 6, 50, 14), Qt.AlignmentFlag.AlignCenter, str(frame))

    def _keys(self, p: QPainter, reading: Reading, clip: Clip) -> None:
        film, theme = self.film, self.theme
        middle = RULER + KEYS / 2
        if not clip.poses:
            p.setFont(theme.font(12))
            p.setPen(theme.colour("ink_faint"))
            p.drawText(QRectF(LEFT + 4, RULER, 300, KEYS), MIDDLE, "none keyed by hand")
            return
        xs = [film.x_of(key.time / reading.step) for key in clip.poses]
        p.setPen(theme.pen("hair_strong", 1.0))
        p.drawLine(QPointF(xs[0], middle), QPointF(xs[-1], middle))
        for x, key in zip(xs, clip.poses):
            empty = clip.file and not key.turns and not key.places
            p.setPen(theme.pen("ink", 1.4))
            p.setBrush(theme.colour("paper" if empty else "ink"))
            p.drawPolygon(QPolygonF([QPointF(x, middle - 6), QPointF(x + 6, middle), QPointF(x, middle + 6),
                                     QPointF(x - 6, middle)]))  # fmt: skip

    def _parts(self, p: QPainter, clip: Clip, reading: Reading) -> None:
        """The clips of the same take; what none of them uses stays bare."""
        film, theme = self.film, self.theme
        p.setFont(theme.font(12))
        for name, start, end in film.parts():
            rect = QRectF(film.x_of(start), film.parts_top() + 2, max(film.x_of(end) - film.x_of(start), 3), LANE - 3)
            theme.draw_span(p, rect, "combo", name == clip.name)
            if rect.width() > 34:
                p.setPen(theme.colour("ink"))
                p.drawText(rect.adjusted(3, 0, -3, 0), MIDDLE, elided(name, theme.font(12), rect.width() - 6))

    def _feet(self, p: QPainter, reading: Reading) -> None:
        film, theme, line = self.film, self.theme, self.film.playhead.timeline
        p.setFont(theme.font(12))
        for i, contact in enumerate(reading.contacts):
            if contact.end < line.low or contact.start > line.high:
                continue
            x, end = film.x_of(contact.start), min(film.x_of(contact.end), film.width() - RIGHT + 4.0)
            rect = QRectF(x, film.lane_top(contact.joint) + 2, max(end - x, 2), LANE - 4)
            theme.draw_span(p, rect, "drive", i == film.contact)
            slide = reading.slide(contact) if rect.width() > 44 else 0.0
            if slide >= 1.0:
                p.setPen(theme.colour("warn"))
                p.setFont(theme.bold(12))
                p.drawText(rect, Qt.AlignmentFlag.AlignCenter, f"slides {slide:.0f} cm")
                p.setFont(theme.font(12))

    def _marks(self, p: QPainter, clip: Clip, reading: Reading, high: int) -> None:
        film, theme = self.film, self.theme
        p.setFont(theme.font(12))
        for mark in clip.marks:
            x = film.x_of(mark.time / reading.step)
            p.setPen(theme.pen("accent", 1.2, Qt.PenStyle.DashLine))
            p.drawLine(QPointF(x, 12), QPointF(x, high))
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(theme.colour("accent"))
            p.drawPolygon(QPolygonF([QPointF(x, 12), QPointF(x + 7, 15), QPointF(x, 18)]))
            if mark.name:
                p.setPen(theme.colour("accent"))
                p.drawText(QRectF(x + 9, 10, 120, 13), MIDDLE, elided(mark.name, theme.font(12), 120))

    def _head(self, p: QPainter, wide: int, high: int) -> None:
        film, theme = self.film, self.theme
        x = film.x_of(film.playhead.frame)
        p.setPen(theme.pen("accent", 2.0))
        p.drawLine(QPointF(x, 0), QPointF(x, high))
        label = QRectF(min(max(x - 18, LEFT - 8), wide - 38), 0, 36, 16)
        p.fillRect(label, theme.colour("accent"))
        p.setFont(theme.bold(12))
        p.setPen(theme.colour("paper_bright"))
        p.drawText(label, Qt.AlignmentFlag.AlignCenter, str(film.playhead.frame))
