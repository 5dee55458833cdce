"""The film: the clip's source frames from left to right, its in and out, feet on the floor, keyed poses, playhead."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPolygonF
from PySide6.QtWidgets import QWidget

from veergust.core.edit.clips import set_clip
from veergust.core.edit.poses import move_pose
from veergust.core.edit.spans import Edit
from veergust.core.model import Clip, FootSpan
from veergust.core.motion.feet import FootContact
from veergust.core.study.clip_reading import Reading
from veergust.core.trouble import Trouble
from veergust.desk.clips.playhead import Playhead
from veergust.desk.look.theme import Theme
from veergust.desk.shell.document import Document

LEFT, RIGHT = 78, 16
RULER, LANE, KEYS = 26, 15, 20
NEAR = 6.0


class Film(QWidget):
    """Shows and changes when things are; drag anything that has an edge, click anywhere to go there."""

    chosen = Signal()

    def __init__(self, document: Document, theme: Theme, playhead: Playhead) -> None:
        super().__init__()
        self.document = document
        self.theme = theme
        self.playhead = playhead
        self.contact = -1
        self._grip: tuple[str, int] | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName("Film")
        self.setToolTip("Click or drag to scrub. Drag the ends of the used part, of a foot's ribbon, or a key.")
        for signal in (document.changed, document.clip_chosen, playhead.moved, theme.changed):
            signal.connect(self._renew)
        self._renew()

    # Places

    def _renew(self) -> None:
        feet = self.feet()
        self.setFixedHeight(RULER + KEYS + max(len(feet), 1) * LANE + 8)
        reading, clip = self.playhead.reading, self.playhead.clip
        if reading is not None and clip is not None:
            first, last = self.playhead.used()
            self.setAccessibleDescription(
                f"{clip.name}: frame {self.playhead.frame} of {len(reading.times) - 1}, used {first} to {last}"
            )
        self.update()

    def feet(self) -> list[int]:
        """The joints that have a lane."""
        reading = self.playhead.reading
        return sorted({c.joint for c in reading.contacts}) if reading else []

    def x_of(self, frame: float) -> float:
        """The middle of a frame."""
        reading = self.playhead.reading
        count = max(len(reading.times) - 1, 1) if reading else 1
        return LEFT + frame / count * max(self.width() - LEFT - RIGHT, 1)

    def frame_at(self, x: float) -> int:
        """The frame under a place."""
        reading = self.playhead.reading
        count = max(len(reading.times) - 1, 1) if reading else 1
        return round(min(max((x - LEFT) / max(self.width() - LEFT - RIGHT, 1), 0.0), 1.0) * count)

    def lane_top(self, joint: int) -> int:
        """The top of a foot's lane."""
        feet = self.feet()
        return RULER + KEYS + feet.index(joint) * LANE if joint in feet else RULER + KEYS

    def _grip_at(self, at: QPointF) -> tuple[str, int] | None:
        reading, clip = self.playhead.reading, self.playhead.clip
        if reading is None or clip is None:
            return None
        if RULER <= at.y() < RULER + KEYS:
            for i, key in enumerate(clip.poses):
                if abs(self.x_of(key.time / reading.step) - at.x()) < NEAR:
                    return "key", i
        for i, contact in enumerate(reading.contacts):
            top = self.lane_top(contact.joint)
            if top <= at.y() < top + LANE:
                if abs(self.x_of(contact.start) - at.x()) < NEAR:
                    return "foot start", i
                if abs(self.x_of(contact.end) - at.x()) < NEAR:
                    return "foot end", i
        first, last = self.playhead.used()
        if at.y() < RULER:
            if abs(self.x_of(first) - at.x()) < NEAR and at.x() <= self.x_of(first) + 2:
                return "in", 0
            if abs(self.x_of(last) - at.x()) < NEAR and at.x() >= self.x_of(last) - 2:
                return "out", 0
        return None

    # The mouse and the keys

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        self.playhead.stop()
        self._grip = self._grip_at(at)
        reading = self.playhead.reading
        if reading is None:
            return
        if self._grip is None:
            inside = [
                i for i, c in enumerate(reading.contacts)
                if 0 <= at.y() - self.lane_top(c.joint) < LANE and c.start <= self.frame_at(at.x()) < c.end
            ]  # fmt: skip
            self.contact = inside[0] if inside else -1
            self._grip = ("head", 0)
            self.playhead.move_to(self.frame_at(at.x()))
        elif self._grip[0].startswith("foot"):
            self.contact = self._grip[1]
        self.chosen.emit()
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._grip is None:
            grip = self._grip_at(event.position())
            self.setCursor(Qt.CursorShape.SizeHorCursor if grip else Qt.CursorShape.ArrowCursor)
            return
        frame = self.frame_at(event.position().x())
        if self._grip[0] != "head":
            edit = self._edit(frame)
            if edit is not None:
                self.document.preview(edit.project)
        self.playhead.move_to(frame)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        grip, self._grip = self._grip, None
        if grip is None or grip[0] == "head":
            return
        self._grip = grip
        edit = self._edit(self.frame_at(event.position().x()))
        self._grip = None
        if edit is not None:
            self.document.apply(edit)
        else:
            self.document.cancel_preview()

    def _edit(self, frame: int) -> Edit | None:
        assert self._grip is not None
        kind, index = self._grip
        try:
            if kind in ("in", "out"):
                return self.edge_edit(kind, frame)
            if kind == "key":
                return self._key_edit(index, frame)
            return self._foot_edit(index, kind, frame)
        except Trouble as trouble:
            self.document.said.emit(str(trouble), True)
            return None

    def edge_edit(self, edge: str, frame: int) -> Edit | None:
        """In or out put on a frame, at least one frame apart."""
        reading, clip = self.playhead.reading, self.playhead.clip
        if reading is None or clip is None:
            return None
        first, last = self.playhead.used()
        top = len(reading.times) - 1
        if edge == "in":
            frame = min(max(frame, 0), last - 1)
            return set_clip(self.document.base, clip.name, f"in at {frame}", start=self._time(frame))
        frame = min(max(frame, first + 1), top)
        end = None if frame == top else self._time(frame)
        return set_clip(self.document.base, clip.name, f"out at {frame}", end=end)

    def _time(self, frame: int) -> float:
        reading = self.playhead.reading
        return round(float(reading.times[frame]), 9) if reading else 0.0

    def _key_edit(self, index: int, frame: int) -> Edit | None:
        reading, clip = self.playhead.reading, self.playhead.clip
        if reading is None or clip is None:
            return None
        base = self.document.base
        tick = round(float(frame * reading.step) * base.settings.rate)
        return move_pose(base, clip.name, index, tick)

    def _foot_edit(self, index: int, kind: str, frame: int) -> Edit | None:
        reading, clip = self._base_reading()
        if reading is None or clip is None or index >= len(reading.contacts):
            return None
        spans = list(reading.contacts)
        old = spans[index]
        if kind == "foot start":
            spans[index] = replace(old, start=min(max(frame, 0), old.end - 1))
        else:
            spans[index] = replace(old, end=min(max(frame, old.start + 1), len(reading.times)))
        return self.feet_edit(spans, "foot on the floor moved")

    def _base_reading(self) -> tuple[Reading | None, Clip | None]:
        """The clip as it was before a drag began."""
        clip = next((c for c in self.document.base.clips if c.name == self.document.clip), None)
        now = self.playhead.reading
        if clip is None or now is None:
            return None, None
        return replace(now, clip=clip), clip

    def feet_edit(self, spans: list[FootContact], words: str) -> Edit | None:
        """The clip with these feet on the floor, as the person's own."""
        reading, clip = self.playhead.reading, self.playhead.clip
        if reading is None or clip is None:
            return None
        rows = tuple(
            FootSpan(
                joint=reading.skeleton.names[c.joint], start=self._time(c.start), end=round(c.end * reading.step, 9)
            )
            for c in sorted(spans, key=lambda c: (c.joint, c.start))
        )
        base = self.document.base
        return Edit(set_clip(base, clip.name, contacts=rows).project, f"{clip.name}: {words}")

    def keyPressEvent(self, event: QKeyEvent) -> None:
        far = 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
        acts: dict[int, Callable[[], object]] = {
            Qt.Key.Key_Left: lambda: self.playhead.step(-far),
            Qt.Key.Key_Right: lambda: self.playhead.step(far),
            Qt.Key.Key_Home: lambda: self.playhead.move_to(self.playhead.used()[0]),
            Qt.Key.Key_End: lambda: self.playhead.move_to(self.playhead.used()[1]),
        }
        act = acts.get(event.key()) if not event.modifiers() & Qt.KeyboardModifier.ControlModifier else None
        if act is None:
            super().keyPressEvent(event)
        else:
            act()

    # Drawing

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme, wide, high = self.theme, self.width(), self.height()
        p.fillRect(self.rect(), theme.colour("paper"))
        p.setPen(theme.pen("hair_strong", 1.0))
        p.drawLine(0, 0, wide, 0)
        reading, clip = self.playhead.reading, self.playhead.clip
        if reading is None or clip is None:
            return
        first, last = self.playhead.used()
        p.fillRect(QRectF(self.x_of(first), 1, self.x_of(last) - self.x_of(first), high - 1), theme.colour("selected"))
        self._ruler(p, reading)
        self._lanes(p, reading)
        self._keys(p, reading, clip)
        for frame, sign in ((first, 1), (last, -1)):
            x = self.x_of(frame)
            p.setPen(theme.pen("ink", 2.0))
            p.drawLine(QPointF(x, 1), QPointF(x, high))
            p.setBrush(theme.colour("ink"))
            p.drawPolygon(QPolygonF([QPointF(x, 1), QPointF(x + sign * 8, 1), QPointF(x, 10)]))
        x = self.x_of(self.playhead.frame)
        p.setPen(theme.pen("accent", 2.0))
        p.drawLine(QPointF(x, 0), QPointF(x, high))
        label = QRectF(min(max(x - 16, LEFT - 16), wide - 34), 0, 32, 16)
        p.fillRect(label, theme.colour("accent"))
        p.setFont(theme.bold(12))
        p.setPen(theme.colour("paper_bright"))
        p.drawText(label, Qt.AlignmentFlag.AlignCenter, str(self.playhead.frame))

    def _ruler(self, p: QPainter, reading: Reading) -> None:
        theme, count = self.theme, len(reading.times) - 1
        p.setFont(theme.font(12))
        p.setPen(theme.colour("ink_soft"))
        p.drawText(QRectF(12, 2, LEFT - 16, RULER - 4), Qt.AlignmentFlag.AlignVCenter, "frames")
        pixels = (self.width() - LEFT - RIGHT) / max(count, 1)
        step = next((s for s in (1, 2, 5, 10, 20, 50, 100, 200, 500, 1000) if s * pixels >= 34), 2000)
        for frame in range(0, count + 1, step):
            x = self.x_of(frame)
            p.setPen(theme.pen("hair_strong", 1.0))
            p.drawLine(QPointF(x, RULER - 5), QPointF(x, RULER))
            if min(abs(x - self.x_of(edge)) for edge in self.playhead.used()) > 9:
                p.setPen(theme.colour("ink_soft"))
                p.drawText(QRectF(x - 20, 6, 40, 14), Qt.AlignmentFlag.AlignCenter, str(frame))

    def _lanes(self, p: QPainter, reading: Reading) -> None:
        theme = self.theme
        feet = self.feet()
        p.setFont(theme.font(12))
        if not feet:
            p.setPen(theme.colour("ink_faint"))
            p.drawText(QRectF(LEFT + 4, RULER + KEYS, 200, LANE), Qt.AlignmentFlag.AlignVCenter, "no foot stands")
            p.drawText(QRectF(12, RULER + KEYS, LEFT - 16, LANE), Qt.AlignmentFlag.AlignVCenter, "feet")
        for joint in feet:
            name = reading.skeleton.names[joint].lower()
            side = "L" if "left" in name or name.startswith("l") or name.endswith("l") else "R"
            p.setPen(theme.colour("ink_soft"))
            p.drawText(QRectF(12, self.lane_top(joint), LEFT - 16, LANE), Qt.AlignmentFlag.AlignVCenter, f"foot {side}")
        for i, contact in enumerate(reading.contacts):
            x, end = self.x_of(contact.start), min(self.x_of(contact.end), self.width() - RIGHT + 4.0)
            rect = QRectF(x, self.lane_top(contact.joint) + 2, max(end - x, 2), LANE - 4)
            theme.draw_span(p, rect, "drive", i == self.contact)
            slide = reading.slide(contact)
            if slide >= 1.0 and rect.width() > 44:
                p.setPen(theme.colour("warn"))
                p.setFont(theme.bold(11))
                p.drawText(rect, Qt.AlignmentFlag.AlignCenter, f"slides {slide:.0f} cm")
                p.setFont(theme.font(12))

    def _keys(self, p: QPainter, reading: Reading, clip: Clip) -> None:
        theme = self.theme
        p.setFont(theme.font(12))
        p.setPen(theme.colour("ink_soft"))
        p.drawText(QRectF(12, RULER, LEFT - 16, KEYS), Qt.AlignmentFlag.AlignVCenter, "poses")
        middle = RULER + KEYS / 2
        if not clip.poses:
            p.setPen(theme.colour("ink_faint"))
            p.drawText(QRectF(LEFT + 4, RULER, 300, KEYS), Qt.AlignmentFlag.AlignVCenter, "none keyed by hand")
            return
        xs = [self.x_of(key.time / reading.step) for key in clip.poses]
        p.setPen(theme.pen("hair_strong", 1.0))
        p.drawLine(QPointF(xs[0], middle), QPointF(xs[-1], middle))
        for x, key in zip(xs, clip.poses):
            empty = clip.file and not key.turns and not key.places
            p.setPen(theme.pen("ink", 1.4))
            p.setBrush(theme.colour("paper" if empty else "ink"))
            p.drawPolygon(QPolygonF([QPointF(x, middle - 6), QPointF(x + 6, middle), QPointF(x, middle + 6),
                                     QPointF(x - 6, middle)]))  # fmt: skip
