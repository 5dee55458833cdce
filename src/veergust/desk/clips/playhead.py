"""Where the person is in the open clip, and playing it."""

from __future__ import annotations

from PySide6.QtCore import QElapsedTimer, QObject, Signal

from veergust.core.model import Clip
from veergust.core.motion import ends
from veergust.core.study import Reading, used_frames
from veergust.desk.clips.timeline import Timeline
from veergust.desk.document.document import Document
from veergust.desk.running.frame_timer import FrameTimer


class Playhead(QObject):
    """A frame of the open clip's source; ``moved`` tells when it is another. Frames count from the source's start."""

    moved = Signal()
    played = Signal(bool)
    selected = Signal()

    def __init__(self, document: Document, owner: QObject | None = None) -> None:
        super().__init__(owner)
        self.document = document
        self.frame = 0
        self.timeline = Timeline(self)
        self.selection: tuple[int, int] | None = None
        self.speed = 1.0
        self.timer = FrameTimer(self)
        self.timer.timeout.connect(self._tick)
        self.clock = QElapsedTimer()
        self._from = 0.0

    @property
    def clip(self) -> Clip | None:
        """The open clip."""
        return self.document.build.clip(self.document.clip)

    @property
    def reading(self) -> Reading | None:
        """The open clip, read."""
        return self.document.derived.reading(self.document.clip)

    @property
    def seconds(self) -> float:
        """The source time of the frame."""
        reading = self.reading
        return float(reading.times[min(self.frame, len(reading.times) - 1)]) if reading else 0.0

    def used(self) -> tuple[int, int]:
        """First and last frame between in and out."""
        reading = self.reading
        return used_frames(self.document.build.assets, reading) if reading else (0, 0)

    def opened(self) -> None:
        """Another clip is open: what is seen of the source stays when it is the same, and nothing is selected."""
        self.selection = None
        self.fit_count()

    def fit_count(self) -> None:
        """See all of a source that has another number of frames than the one before."""
        reading = self.reading
        count = len(reading.times) if reading else 1
        if count != self.timeline.count:
            self.timeline.reset(count)

    def settle(self) -> None:
        """Stay within the source, where the clip has become another one under the hand."""
        reading = self.reading
        last = len(reading.times) - 1 if reading else 0
        if self.frame > last:
            self.frame, self.selection = last, None
            self.fit_count()

    def select(self, start: int, end: int) -> None:
        """Choose a part of the source, of at least one frame."""
        low, high = min(start, end), max(start, end)
        self.selection = (low, high) if high > low else None
        self.selected.emit()

    def select_here(self, start: bool) -> None:
        """Have the chosen part begin on this frame, or end on it; the other end stays, or is that of the used part."""
        first, last = self.selection or self.used()
        self.select(*((self.frame, max(last, self.frame + 1)) if start else (min(first, self.frame - 1), self.frame)))

    def move_to(self, frame: int) -> None:
        """Go to a frame."""
        reading = self.reading
        frame = min(max(frame, 0), len(reading.times) - 1) if reading else 0
        if frame != self.frame:
            self.frame = frame
            self.timeline.follow(frame)
            self.moved.emit()

    def step(self, frames: int) -> None:
        """Stop, and go on by frames."""
        self.stop()
        self.move_to(self.frame + frames)

    @property
    def playing(self) -> bool:
        """Whether the clip is being played."""
        return self.timer.isActive()

    def toggle(self) -> None:
        """Play between in and out, over and over, or stop."""
        if self.playing:
            self.stop()
        elif self.clip is not None and self.reading is not None:
            first, last = self.used()
            inside = first <= self.frame < last
            self._from = float(self.frame - first) * self.reading.step if inside else 0.0
            if self.clip.reverse:
                self._from = max((last - first) * self.reading.step - self._from, 0.0) if inside else 0.0
            self.clock.start()
            self.timer.start()
            self.played.emit(True)

    def play(self) -> None:
        """Play, unless it plays already."""
        if not self.playing:
            self.toggle()

    def stop(self) -> None:
        """Stop playing."""
        if self.playing:
            self.timer.stop()
            self.played.emit(False)

    def set_speed(self, speed: float) -> None:
        """Play slower or as it is."""
        if self.playing:
            self._from = self._along()
            self.clock.restart()
        self.speed = speed

    def _along(self) -> float:
        rate = self.clip.rate if self.clip else 1.0
        return self._from + self.clock.elapsed() / 1000 * self.speed * rate

    def _tick(self) -> None:
        clip, reading = self.clip, self.reading
        if clip is None or reading is None:
            self.stop()
            return
        start, end = ends(self.document.build.assets, clip)
        along, span = self._along(), max(end - start, 1e-6)
        pause = 0.0 if clip.loop else 0.4
        if along > span + pause:
            self._from = along = along % span if clip.loop else 0.0
            self.clock.restart()
        at = min(along, span)
        self.move_to(reading.frame_of(end - at if clip.reverse else start + at))
