"""The ink of each kind of mark."""

from __future__ import annotations

from collections.abc import Sequence
from hashlib import blake2b
from typing import Any

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QPainter, QPainterPath, QPen, QPixmap

from veergust.core.motion import Mesh
from veergust.core.study import Same
from veergust.desk.look.theme import TILE, Theme, elided, put_words, wide
from veergust.desk.sheet.paint.marks import POSE_HEIGHT, POSE_WIDTH, InkMark
from veergust.desk.widgets.inked import pose_pixmap
from veergust.desk.widgets.stamps import Stamps
from veergust.look import MARKS

LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter

PENCILLED = {"strike": ("strikes", "strike", "strike? A"), "end": ("strikes", "ink_faint", "ends? A"),
             "break": ("exits", "break", "break? Shift A")}  # fmt: skip
"""The column, ink and words of each proposal."""
STEPS = 13.0
"""Room (px) for the curve of steps at the right of the frame column."""


def upright(p: QPainter, theme: Theme, at: QPointF, length: float, words: str, font: QFont, colour: str) -> float:
    """Words written downwards from ``at``, cut to ``length``; gives how long they are."""
    p.save()
    p.translate(at)
    p.rotate(90)
    p.setFont(font)
    p.setPen(theme.colour(colour))
    shown = elided(words, font, length)
    p.drawText(QRectF(0, 0, length, 22), LEFT, shown)
    used = p.fontMetrics().horizontalAdvance(shown)
    p.restore()
    return float(used)


class Ink:
    """Draws marks; keeps the small poses. ``columns`` and ``mesh`` are those of the sheet that is drawn."""

    def __init__(self, theme: Theme) -> None:
        self.theme = theme
        self.columns: dict[str, tuple[float, float]] = {}
        self.right = 0.0
        self.mesh: Mesh | None = None
        self._poses: dict[tuple[object, ...], QPixmap] = {}
        self._posed: Mesh | None = None
        self.stamps = Stamps()

    def draw(self, p: QPainter, marks: Sequence[InkMark]) -> None:
        """Draw marks in their order."""
        for mark in marks:
            getattr(self, "_" + mark.kind.replace(" ", "_"))(p, *mark.drawn)

    # Rows

    def _row(self, p: QPainter, y: float, tall: float, frame: int, major: bool) -> None:
        theme = self.theme
        if major:
            p.fillRect(QRectF(0, y, self.right, tall), theme.colour("paper_bright"))
        p.setPen(theme.pen("hair", 1.0))
        p.drawLine(QPointF(0, y), QPointF(self.right, y))
        p.setPen(theme.pen("ink" if major else "ink_faint"))
        left, width = self.columns["frame"]
        font = theme.bold(12) if major else theme.font(12)
        put_words(p, QRectF(left, y, width - STEPS - 5, tall), str(frame), font, share=1.0)

    def _columns(self, p: QPainter, lefts: tuple[float, ...], end: float) -> None:
        p.setPen(self.theme.pen("hair", 1.0))
        for left in lefts[1:]:
            p.drawLine(QPointF(left, 0.0), QPointF(left, end))

    # The swing

    def _speed(self, p: QPainter, y: float, tall: float, ink: float) -> None:
        left, width = self.columns["strikes"]
        p.fillRect(QRectF(left + 1, y, width - 1, tall), self.theme.colour("strike", ink))

    def _phase_rect(self, top: float, bottom: float) -> QRectF:
        left, width = self.columns["phase"]
        return QRectF(left + 4, top, width - 8, bottom - top)

    def _active(self, p: QPainter, top: float, bottom: float) -> None:
        # It may be far longer than the band that is drawn: as much of it as shows, with its hatch where it would be.
        whole, seen = self._phase_rect(top + 1, bottom - 1), p.clipBoundingRect()
        above = max((seen.top() - whole.top()) // TILE - 1, 0.0) * TILE
        below = max((whole.bottom() - seen.bottom()) // TILE - 1, 0.0) * TILE
        self.theme.draw_span(p, whole.adjusted(0.0, above, 0.0, -below), "strike")

    def _open_frame(self, p: QPainter, y: float, tall: float) -> None:
        p.fillRect(self._phase_rect(y, y + tall), self.theme.colour("strike", 0.55))

    def _idle_phase(self, p: QPainter, y: float, tall: float) -> None:
        p.fillRect(self._phase_rect(y, y + tall), self.theme.colour("hair"))

    def _phase_words(self, p: QPainter, words: str, middle: float, half: float) -> None:
        left, width = self.columns["phase"]
        font = self.theme.font(12)
        p.save()
        p.translate(left + width / 2, middle)
        p.rotate(90)
        p.setFont(font)
        p.setPen(self.theme.colour("ink_soft"))
        box = QRectF(-half, -width / 2, 2 * half, width)
        p.drawText(box, Qt.AlignmentFlag.AlignCenter, elided(words, font, 2 * half))
        p.restore()

    def _pose(self, p: QPainter, y: float, pose: tuple[Same, Same, int, bool]) -> None:
        left, _ = self.columns["cut"]
        ratio = p.device().devicePixelRatioF()
        _, world, tick, strong = pose
        if self.mesh is not self._posed:
            self._poses, self._posed = {}, self.mesh
        # By what it shows, so that no pose of an edit that is long gone is kept for its picture's sake.
        shows = blake2b(world.thing[tick].tobytes(), digest_size=16).digest()
        key = (shows, strong, ratio, self.theme.look.name)
        if key not in self._poses:
            ink = self.theme.colour("ink", 0.92 if strong else 0.5)
            if len(self._poses) > 600:
                self._poses.clear()
            assert self.mesh is not None
            self._poses[key] = pose_pixmap(self.mesh, world.thing[tick], POSE_WIDTH, POSE_HEIGHT, ink, ratio)
        p.drawPixmap(QPointF(left - 12, y), self._poses[key])

    def _cut_words(self, p: QPainter, y: float, words: str, room: float) -> None:
        left, width = self.columns["cut"]
        font = self.theme.font(12)
        p.setPen(self.theme.colour("ink_soft"))
        box = QRectF(left + width - room - 4, y + 2, room, 14)
        shown = elided(words, font, room)
        used = wide(shown, font)
        p.fillRect(QRectF(box.right() - used - 1, box.top(), used + 2, 14), self.theme.colour("paper", 0.8))
        put_words(p, box, shown, font, share=1.0)

    def _way(self, p: QPainter, *points: tuple[float, float]) -> None:
        self._curve(p, "drive", 1.6, points)

    def _curve(
        self, p: QPainter, role: str, thick: float, points: Sequence[tuple[float, float]],
        style: Qt.PenStyle = Qt.PenStyle.SolidLine,
    ) -> None:  # fmt: skip
        path = QPainterPath(QPointF(*points[0]))
        for x, y in points[1:]:
            path.lineTo(x, y)
        p.save()
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(self.theme.pen(role, thick, style))
        p.drawPath(path)
        p.restore()

    def _steps(self, p: QPainter, *points: tuple[float, float]) -> None:
        """The fastest joint's step, leaning in from the right of the frame column."""
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setPen(self.theme.pen("ink_faint", 1.0))
        p.drawLine(QPointF(*points[0]), QPointF(*points[1]))
        p.setRenderHint(QPainter.RenderHint.Antialiasing, False)

    def _pop(self, p: QPainter, y: float) -> None:
        """Where a joint leaps from one row to the next."""
        left, width = self.columns["frame"]
        x = left + width - 6
        p.save()
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setPen(self.theme.pen("warn", 1.6))
        p.drawLine(QPointF(left + 2, y), QPointF(left + width - 1, y))
        p.setBrush(self.theme.colour("warn"))
        p.drawPolygon([QPointF(x, y - 5), QPointF(x + 5, y), QPointF(x, y + 5), QPointF(x - 5, y)])
        p.restore()

    def _hint(self, p: QPainter, kind: str, top: float, bottom: float) -> None:
        """A proposal, as faint pencil: a strike's place, that of a break, a line where recovery could end."""
        column, role, words = PENCILLED[kind]
        left, width = self.columns[column]
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(self.theme.pen(role, 1.2, Qt.PenStyle.DashLine))
        if kind == "end":
            p.drawLine(QPointF(left, top), QPointF(left + width, top))
        else:
            p.drawRect(QRectF(left + 3, top + 0.5, width - 7, bottom - top - 1))
        room = width - 14 if kind == "break" else width - 10
        font = self.theme.font(12)
        put_words(p, QRectF(left + 6, top, room, 14), elided(words, font, room), font, share=1.0)

    def _covered(self, p: QPainter, left: float, points: Sequence[tuple[float, float]], open_: Sequence[bool]) -> None:
        """What strikes cover, row by row, with the share in words where it is least."""
        self._share(p, "strike", Qt.PenStyle.SolidLine, left, points, open_)

    def _too_much(self, p: QPainter, left: float, points: Sequence[tuple[float, float]], open_: Sequence[bool]) -> None:
        """What of them lies where nothing moves."""
        self._share(p, "hold", Qt.PenStyle.DotLine, left, points, open_)

    def _share(
        self, p: QPainter, role: str, style: Qt.PenStyle, left: float, points: Sequence[tuple[float, float]],
        open_: Sequence[bool],
    ) -> None:  # fmt: skip
        p.setPen(self.theme.pen("hair_strong", 1.0))
        p.drawLine(QPointF(left, points[0][1]), QPointF(left, points[-1][1]))
        self._curve(p, role, 2.0, points, style)
        p.save()
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(self.theme.pen(role).color())
        for (x, y), there in zip(points, open_):
            if there:
                p.drawEllipse(QPointF(x, y), 2.2, 2.2)
        p.restore()

    # Spans

    def _span(
        self, p: QPainter, box: tuple[float, float, float, float], role: str, title: str, small: str, chosen: bool,
        pins: tuple[str, ...],
    ) -> None:  # fmt: skip
        rect = QRectF(*box)
        looks = ("span", role, title, small, chosen, pins, self.theme.look.name)
        self.stamps.put(p, rect, looks, lambda on: self._whole_span(on, rect, role, title, small, chosen, pins))

    def _whole_span(
        self, p: QPainter, rect: QRectF, role: str, title: str, small: str, chosen: bool, pins: tuple[str, ...]
    ) -> None:
        theme = self.theme
        theme.draw_span(p, rect, role, chosen)
        ink = theme.colour(role)
        lines = [(title, theme.bold(12), ink), (small, theme.font(12), theme.colour("ink"))]
        if rect.width() < 22:
            lines = [(theme.look.role(role).letter, theme.bold(12), ink)]
        # Two lines still fit a span of two rows when they stand a little closer.
        step = 15.0 if rect.height() >= 33 else 13.0
        tall = min(len([1 for words, _, _ in lines if words]) * step, rect.height() - 3)
        if tall >= 11:
            p.fillRect(QRectF(rect.left() + 2, rect.top() + 2, rect.width() - 4, tall), theme.colour("paper", 0.86))
        for n, (words, font, colour) in enumerate(lines):
            if words and (n + 1) * step <= rect.height() + 3:
                p.setFont(font)
                p.setPen(colour)
                line = QRectF(rect.left() + 5, rect.top() + 1 + n * step, rect.width() - 7, 15)
                p.drawText(line, LEFT, elided(words, font, rect.width() - 7))
        if pins:
            self._pins(p, rect, ink, *pins)

    def _key(self, p: QPainter, x: float, y: float) -> None:
        """A key of a hitbox."""
        p.save()
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setPen(self.theme.pen("strike", 1.6))
        p.setBrush(self.theme.colour("paper_bright"))
        p.drawPolygon([QPointF(x, y - 5), QPointF(x + 5, y), QPointF(x, y + 5), QPointF(x - 5, y)])
        p.restore()

    def _pins(self, p: QPainter, rect: QRectF, ink: QColor, start: str, end: str, in_hand: str) -> None:
        """Each edge's pin: a full dot to the pose, an open one to the frame; the edge in hand is ringed."""
        p.save()
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        for edge, y, pin in (("start", rect.top(), start), ("end", rect.bottom(), end)):
            at = QPointF(rect.right() - 1, y)
            p.setPen(QPen(ink, 1.4))
            p.setBrush(ink if pin == "pose" else self.theme.colour("paper"))
            p.drawEllipse(at, 3.4, 3.4)
            if in_hand == edge:
                p.setBrush(Qt.BrushStyle.NoBrush)
                p.drawEllipse(at, 6.0, 6.0)
        p.restore()

    def _break(self, p: QPainter, box: tuple[float, float, float, float], chosen: bool) -> None:
        """A break usually lasts the whole section: a narrow dotted stave."""
        self.theme.draw_span(p, QRectF(*box).adjusted(0, 1, 0, -1), "break", chosen)

    def _event(self, p: QPainter, box: tuple[float, float, float, float], words: str, mount: str, chosen: bool) -> None:
        rect, theme = QRectF(*box), self.theme
        p.save()
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        if chosen:
            p.setPen(theme.pen("accent", 1.6))
            p.setBrush(theme.colour("selected"))
            p.drawRoundedRect(rect.adjusted(0, 0.5, 0, -0.5), 3, 3)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.colour("ink"))
        y = rect.center().y()
        path = QPainterPath(QPointF(rect.left() + 4, y - 4.5))
        path.lineTo(rect.left() + 10, y)
        path.lineTo(rect.left() + 4, y + 4.5)
        path.closeSubpath()
        p.drawPath(path)
        font = theme.font(12)
        p.setPen(theme.colour("ink"))
        both, room = f"{words} · {mount}" if mount else words, rect.width() - 17
        words = both if wide(both, font) <= room else words
        put_words(p, rect.adjusted(15, 0, -2, 0), elided(words, font, room), font)
        p.restore()

    def _wave(self, p: QPainter, sound: Same, quarter: float, top: float, tall: float) -> None:
        left, width = self.columns["events"]
        middle = left + width - 14
        peaks = sound.thing.peaks(quarter)
        step = tall / max(len(peaks), 1)
        path = QPainterPath(QPointF(middle, top))
        for i, peak in enumerate(peaks):
            path.lineTo(middle + 11 * float(peak), top + (i + 0.5) * step)
        for i, peak in reversed(list(enumerate(peaks))):
            path.lineTo(middle - 11 * float(peak), top + (i + 0.5) * step)
        path.closeSubpath()
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(self.theme.colour("event", 0.28))
        p.drawPath(path)

    # Sections

    def _section_mark(self, p: QPainter, mark: str, top: float, bottom: float) -> None:
        left, width = self.columns["section"]
        brush: Any = self.theme.hatch(self.theme.look.role(MARKS[mark]), p.device().devicePixelRatioF())
        p.fillRect(QRectF(left + 1, top + 1, width - 2, bottom - top - 2), brush)

    def _break_line(self, p: QPainter, y: float) -> None:
        p.setPen(self.theme.pen("ink", 2.0))
        p.drawLine(QPointF(0, y), QPointF(self.right, y))

    def _folded(self, p: QPainter, top: float, bottom: float, frame: int, name: str, held: str, goes: str) -> None:
        """A section as one line: its first frame, its name, what it holds, where it goes."""
        theme = self.theme
        tall = bottom - top
        left, _ = self.columns["section"]
        p.fillRect(QRectF(left + 1, top + 1, self.right - left - 1, tall - 2), theme.colour("paper_side"))
        p.setFont(theme.font(12))
        p.setPen(theme.colour("ink_faint"))
        at, width = self.columns["frame"]
        p.drawText(QRectF(at, top, width - 10, tall), RIGHT, str(frame))
        x, room = left + 10, self.right - left - 20
        for words, font, colour in (
            ("▸", theme.font(12), "ink_soft"),
            (name, theme.bold(13), "ink"),
            (held, theme.font(12), "ink_soft"),
            (goes, theme.font(12), "ink"),
        ):
            p.setFont(font)
            p.setPen(theme.colour(colour))
            shown = elided(words, font, max(room, 0.0))
            p.drawText(QRectF(x, top, max(room, 0.0), tall), LEFT, shown)
            used = p.fontMetrics().horizontalAdvance(shown) + 14
            x, room = x + used, room - used
