"""The film: the clip's source frames from left to right, its in and out, feet on the floor, keyed poses, playhead."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from PySide6.QtCore import QPointF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QWheelEvent
from PySide6.QtWidgets import QWidget

from veergust.core.edit import Edit, clips_of_take, move_pose, prepare_clip
from veergust.core.model import Clip, FootSpan
from veergust.core.motion import FootContact
from veergust.core.study import Reading
from veergust.core.trouble import Trouble
from veergust.desk.clips.film_ink import KEYS, LANE, RULER, FilmInk
from veergust.desk.clips.playhead import Playhead
from veergust.desk.clips.timeline import LEFT, RIGHT
from veergust.desk.document.document import Document
from veergust.desk.keys.pressing import BACK, last_of, pressed
from veergust.desk.keys.table import on_key
from veergust.desk.look.theme import Theme
from veergust.desk.widgets.accessible import ToldRow

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
        self.ink = FilmInk(self)
        self._grip: tuple[str, int] | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName("Film")
        self.setToolTip(
            "Click or drag to scrub; Shift and drag chooses a part. The wheel zooms, with Shift it goes along. "
            "Drag the ends of the used part, of a foot's ribbon, or a key."
        )
        signals = (document.changed, document.clip_chosen, playhead.moved, playhead.selected, playhead.timeline.changed)
        for signal in (*signals, theme.changed):
            signal.connect(self._renew)
        self._renew()

    # Places

    def _renew(self) -> None:
        self.playhead.fit_count()
        feet = self.feet()
        self.setFixedHeight(self.feet_top() + max(len(feet), 1) * LANE + 8)
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

    def parts(self) -> list[tuple[str, int, int]]:
        """The clips of the same take when there are several: name, first and last frame."""
        reading, clip = self.playhead.reading, self.playhead.clip
        if reading is None or clip is None:
            return []
        clips = clips_of_take(self.document.project, clip)
        last = len(reading.times) - 1
        ends = [(c.name, reading.frame_of(c.start), last if c.end is None else reading.frame_of(c.end)) for c in clips]
        # One that is the whole take covers all others, and says nothing.
        return [e for e in ends if e[2] - e[1] < last] if len(ends) > 1 else []

    def x_of(self, frame: float) -> float:
        """The middle of a frame."""
        return self.playhead.timeline.x_of(frame, self.width())

    def frame_at(self, x: float) -> int:
        """The frame under a place."""
        return self.playhead.timeline.frame_at(x, self.width())

    def parts_top(self) -> int:
        """The top of the lane of the take's clips."""
        return RULER + KEYS

    def feet_top(self) -> int:
        """The top of the lanes of the feet."""
        return RULER + KEYS + (LANE if self.parts() else 0)

    def lane_top(self, joint: int) -> int:
        """The top of a foot's lane."""
        feet = self.feet()
        return self.feet_top() + (feet.index(joint) * LANE if joint in feet else 0)

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
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self._grip = ("select", self.frame_at(at.x()))
        elif self._grip is None:
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
        if self._grip[0] == "select":
            self.playhead.select(self._grip[1], frame)
        elif self._grip[0] != "head":
            edit = self._edit(frame)
            if edit is not None:
                self.document.preview(edit.project)
        self.playhead.move_to(frame)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        grip, self._grip = self._grip, None
        if grip is None or grip[0] in ("head", "select"):
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
            return self._prepared(clip.name, f"in at {frame}", start=self._time(frame))
        frame = min(max(frame, first + 1), top)
        end = None if frame == top else self._time(frame)
        return self._prepared(clip.name, f"out at {frame}", end=end)

    def _prepared(self, name: str, words: str, **fields: float | None) -> Edit:
        return prepare_clip(self.document.base, self.document.build.assets, name, words, **fields)

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
        made = prepare_clip(base, self.document.build.assets, clip.name, contacts=rows)
        return Edit(made.project, f"{clip.name}: {words}")

    def told(self) -> list[ToldRow]:
        """What stands along the film, for who hears it."""
        reading, clip = self.playhead.reading, self.playhead.clip
        if reading is None or clip is None:
            return []
        first, last = self.playhead.used()
        bones = reading.skeleton.names
        rows = [("playhead", f"frame {self.playhead.frame}"), ("in", f"frame {first}"), ("out", f"frame {last}")]
        rows += [(f"clip {name}", f"frames {a} to {b}") for name, a, b in self.parts()]
        rows += [(f"mark {mark.name}".strip(), f"frame {round(mark.time / reading.step)}") for mark in clip.marks]
        rows += [(f"{bones[c.joint]} stands", f"frames {c.start} to {c.end}") for c in reading.contacts]
        return [ToldRow(name, says) for name, says in rows]

    def keyPressEvent(self, event: QKeyEvent) -> None:
        keys = pressed(event)
        way = -1 if last_of(keys) in BACK else 1
        acts: dict[str, Callable[[], object]] = {
            "clip_steps": lambda: self.playhead.step(10 * way),
            "clip_ends": lambda: self.playhead.move_to(self.playhead.used()[0 if way < 0 else 1]),
        }
        act = acts.get(on_key("clips", keys))
        if act is None:
            super().keyPressEvent(event)
        else:
            act()

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Nearer or farther about the frame under the mouse; with Shift, or sideways, along."""
        line, turned = self.playhead.timeline, event.angleDelta()
        if turned.x() or event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            way = turned.x() or turned.y()
            line.pan(-way / 120.0 * (line.high - line.low) * 0.15)
        elif turned.y():
            about = line.low + (event.position().x() - LEFT) / max(self.width() - LEFT - RIGHT, 1) * (
                line.high - line.low
            )
            line.zoom(0.8 ** (turned.y() / 120.0), min(max(about, line.low), line.high))
        event.accept()

    def paintEvent(self, event: QPaintEvent) -> None:
        self.ink.draw(QPainter(self))
