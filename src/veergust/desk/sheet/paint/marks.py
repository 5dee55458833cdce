"""What stands on a sheet, as marks: plain values that are equal when they look the same."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any, NamedTuple

import numpy as np
from PySide6.QtCore import QRectF

from veergust.core.edit import WHOLE, SpanRef
from veergust.core.files import Sound
from veergust.core.kinds import SPANS
from veergust.core.model import Section
from veergust.core.motion import Mesh
from veergust.core.play import CompiledAction, CompiledProject, CompiledSection
from veergust.core.study import Hint, Same, Swing
from veergust.desk.sheet.layout import Placed, SheetLayout, Stretch

POSE_WIDTH, POSE_HEIGHT = 86, 58
POSE_EVERY = 5
ACROSS = (0.0, 1e9)
TALL = 240
"""The sheet is drawn in bands so tall."""


CURVES = (Swing.share, Swing.excess)


class InkMark(NamedTuple):
    """One thing drawn with the ink of its kind, nowhere outside ``across`` (left, right) and ``down`` (top, bottom),
    in px from the top left of the first row."""

    kind: str
    across: tuple[float, float]
    down: tuple[float, float]
    drawn: tuple[Any, ...]


@dataclass(frozen=True, eq=False)
class Sheet:
    """All that a drawn sheet shows. The first of ``selected`` has the edge in hand."""

    layout: SheetLayout
    build: CompiledProject
    compiled: CompiledAction
    mesh: Mesh | None
    selected: tuple[SpanRef, ...]
    edge: str
    hints: list[Hint]
    sounds: dict[str, Sound]
    swing: Swing

    def marks(self, view: QRectF) -> list[InkMark]:
        """Everything that shows in ``view``, the lowest ink first."""
        top, bottom = view.top() - POSE_HEIGHT, view.bottom() + POSE_HEIGHT
        every = (
            *self._rows(view), *self._speed(view), *self._phases(view), *self._film(view), *self._way(view),
            *self._steps(view),
            *self._hints(), *self._waves(view), *self._cover(view), *self._spans(view), *self._sections(view),
        )  # fmt: skip
        return [m for m in every if m.down[1] >= top and m.down[0] <= bottom]

    def _across(self, column: str) -> tuple[float, float]:
        left, width = self.layout.columns[column]
        return left, left + width

    def _seen(self, view: QRectF) -> Iterator[Stretch]:
        """Stretches in sight."""
        margin = POSE_HEIGHT
        return (s for s in self.layout.stretches if s.bottom >= view.top() - margin and s.top <= view.bottom() + margin)

    def _frames(self, view: QRectF) -> Iterator[tuple[Stretch, int]]:
        """Frames of open sections in sight."""
        for stretch in self._seen(view):
            if not stretch.folded:
                low = max(stretch.first, self.layout.frame_at(view.top() - POSE_HEIGHT))
                high = min(stretch.first + stretch.ticks, self.layout.frame_at(view.bottom() + POSE_HEIGHT) + 1)
                for frame in range(low, high):
                    yield stretch, frame

    def _rows(self, view: QRectF) -> Iterator[InkMark]:
        step = self.layout.fold
        for stretch, frame in self._frames(view):
            if frame % step == 0:
                y, tall = self.layout.y(frame), stretch.pitch * min(step, stretch.first + stretch.ticks - frame)
                yield InkMark("row", ACROSS, (y, y + tall), (y, tall, frame, frame % (5 * step) == 0))
        end = self.layout.height
        yield InkMark("columns", ACROSS, (0.0, end), (tuple(left for left, _ in self.layout.columns.values()), end))

    # The swing

    def _speed(self, view: QRectF) -> Iterator[InkMark]:
        speed = self.swing.speed(self.build, self.compiled)
        top = max(float(speed.max(initial=0.0)), 4.0)
        for stretch, frame in self._frames(view):
            ink = round(min(0.22, 0.24 * (float(speed[frame]) / top) ** 2), 3)
            if ink > 0.0:
                y = self.layout.y(frame)
                yield InkMark("speed", self._across("strikes"), (y, y + stretch.pitch), (y, stretch.pitch, ink))

    def _phases(self, view: QRectF) -> Iterator[InkMark]:
        """Startup, active and recovery down their column."""
        open_, y = self.compiled.open_frames, self.layout.y
        if not open_:
            return
        first, last, across = open_[0], open_[-1] + 1, self._across("phase")
        yield InkMark("active", across, (y(first), y(last)), (y(first), y(last)))
        taken = set(open_)
        for stretch, frame in self._frames(view):
            if frame < self.compiled.total and not first <= frame < last:
                yield InkMark("idle phase", across, (y(frame), y(frame) + stretch.pitch), (y(frame), stretch.pitch))
            elif frame in taken:
                yield InkMark("open frame", across, (y(frame), y(frame) + stretch.pitch), (y(frame), stretch.pitch))
        for words, a, b in (("startup", 0, first), ("recovery", last, self.compiled.total)):
            top, bottom = y(a) + 1, y(b) - 1
            if bottom - top > 13:
                middle, half = (top + bottom) / 2, min((bottom - top) / 2, 60.0)
                shown = f"{words} {b - a}" if half > 26 else f"{b - a}"
                yield InkMark("phase words", across, (middle - half, middle + half), (shown, middle, half))

    def _film(self, view: QRectF) -> Iterator[InkMark]:
        left, _ = self.layout.columns["cut"]
        for stretch in self._seen(view):
            if stretch.folded:
                continue
            part = self.compiled.sections[stretch.section]
            key_ticks = {0} | {t for s in part.section.strikes for t in (s.start, s.end)}
            for tick in self._shown_poses(part, key_ticks) if self.mesh is not None else ():
                y = max(self.layout.y(stretch.first + tick) - 12, 0.0)
                pose = (Same(part.pose), Same(self.compiled.world_of(stretch.section)), tick, tick in key_ticks)
                yield InkMark("pose", (left - 12, left + POSE_WIDTH), (y, y + POSE_HEIGHT), (y, pose))
            for cut in part.cuts:
                y = self.layout.y(stretch.first + cut.first)
                yield InkMark("cut words", self._across("cut"), (y, y + 16), (y, f"{cut.start:.2f} s", 66.0))
                below = max(y - 12, 0.0) + POSE_HEIGHT - 5
                if (stretch.first == 0 or len(part.cuts) > 1) and cut.ticks * stretch.pitch >= POSE_HEIGHT + 4:
                    # Under the first pose, where nothing is drawn.
                    words = [cut.cut.clip]
                    words += [f"×{cut.cut.rate:g}"] if cut.cut.rate != 1.0 else []
                    words += ["mirrored"] if cut.cut.mirror else []
                    told = (below, " ".join(words), self._across("cut")[1] - self._across("cut")[0] - 8)
                    yield InkMark("cut words", self._across("cut"), (below, below + 16), told)

    def _shown_poses(self, part: CompiledSection, key_ticks: set[int]) -> list[int]:
        """Ticks that have a small pose: where strikes open and close, and every few rows between."""
        shown: list[int] = []
        gap = POSE_EVERY * self.layout.fold
        for tick in sorted(t for t in key_ticks if 0 <= t < part.ticks):
            if not shown or tick - shown[-1] >= max(3, gap * 0.6):
                shown.append(tick)
        for tick in range(0, part.ticks, gap):
            if all(abs(tick - s) >= gap * 0.8 for s in shown) and part.ticks - tick > gap * 0.4:
                shown.append(tick)
        return sorted(shown)

    def _way(self, view: QRectF) -> Iterator[InkMark]:
        """The body's way as a curve that leans out beside the frame numbers."""
        places = self.compiled.way[0][: self.compiled.total + 1]
        far = np.hypot(places[:, 0], places[:, 2])
        longest = float(far.max(initial=0.0))
        if longest < 0.02:
            return
        # A piece for each band in sight, with the points next to it, so that a band has the same whatever is in sight.
        for top in range(int(max(view.top(), 0.0) // TALL) * TALL, int(view.bottom()) + 1, TALL):
            rows = self.layout.rows_between(top, top + TALL)
            first, last = max(rows.start - 2, 0), min(rows.stop + 2, len(far))
            points = tuple(
                (3 + 11 * d / longest, self.layout.y(first + f)) for f, d in enumerate(far[first:last].tolist())
            )
            if len(points) > 1:
                yield InkMark("way", self._across("frame"), (top + 0.5, top + TALL - 0.5), points)

    def _steps(self, view: QRectF) -> Iterator[InkMark]:
        """How far the fastest joint goes from frame to frame, beside the numbers; and where one pops."""
        steps, leaps = self.swing.steps(self.compiled)
        longest = max(float(steps.max(initial=0.0)), 0.05)
        left, right = self._across("frame")
        points: list[tuple[float, float]] = []
        for stretch, frame in self._frames(view):
            if stretch.first < self.compiled.total:
                points.append((right - 2 - 10 * float(steps[frame]) / longest, self.layout.y(frame)))
        for a, b in zip(points, points[1:]):
            yield InkMark("steps", (left, right), (a[1], b[1]), (a, b))
        for leap in leaps:
            y = self.layout.y(leap.row)
            yield InkMark("pop", (left, right), (y - 6, y + 6), (y,))

    def _hints(self) -> Iterator[InkMark]:
        for hint in self.hints:
            top, bottom = self.layout.y(hint.start), self.layout.y(hint.end)
            column = "exits" if hint.kind == "break" else "strikes"
            yield InkMark("hint", self._across(column), (top, max(bottom, top + 14)), (hint.kind, top, bottom))

    # Spans

    def _spans(self, view: QRectF) -> Iterator[InkMark]:
        top, bottom = view.top() - POSE_HEIGHT, view.bottom() + POSE_HEIGHT
        for placed in self.layout.placed:
            if placed.rect.bottom() < top or placed.rect.top() > bottom:
                continue
            box = placed.rect.getRect()
            chosen = placed.ref in self.selected
            words = self._words(placed)
            across = placed.rect.left() - 8, placed.rect.right() + 8
            down = placed.rect.top() - 8, placed.rect.bottom() + 8
            if SPANS[placed.ref.kind].moment:
                yield InkMark("event", across, down, (box, *words, chosen))
            elif placed.role == "break":
                yield InkMark("break", across, down, (box, chosen))
            else:
                span = placed.span
                edge = self.edge if chosen and placed.ref == self.selected[0] else ""
                whole = placed.ref.section == WHOLE
                pins = () if whole else (span.start_pin.to, span.end_pin.to, edge)
                yield InkMark("span", across, down, (box, placed.role, *words, chosen, pins))
                yield from self._keys(placed)

    def _keys(self, placed: Placed) -> Iterator[InkMark]:
        """The keys of what a span opens, each on its row."""
        stretch = self.layout.stretch_of(placed.first)
        boxes = SPANS[placed.ref.kind].boxes(placed.span)
        ticks = sorted({k.tick for box in boxes for k in box.keys})
        for tick in ticks if stretch is not None else ():
            y = placed.rect.top() + (tick - placed.span.start + 0.5) * stretch.pitch  # type: ignore[union-attr]
            if placed.rect.top() <= y <= placed.rect.bottom():
                at = placed.rect.right() - 11.0, y
                yield InkMark("key", (at[0] - 6, at[0] + 6), (y - 6, y + 6), at)

    def _words(self, placed: Placed) -> tuple[str, str]:
        """The two lines written in a span."""
        ref, share = placed.ref, None
        opens = max(getattr(placed.span, "start", 0), 0)
        if SPANS[ref.kind].covers and opens < self.compiled.sections[ref.section].ticks:
            share = self.swing.share(self.build, self.compiled, ref.section, opens)
        return SPANS[ref.kind].lines(placed.span, share)

    def _cover(self, view: QRectF) -> Iterator[InkMark]:
        """How much of what strikes open hitboxes cover, and how much of them is too much, as curves down the rows."""
        lanes = self.layout.curves()
        for stretch in self._seen(view) if lanes is not None else ():
            part = self.compiled.sections[stretch.section]
            if stretch.folded or not part.section.strikes:
                continue
            for kind, (left, width), share in zip(("covered", "too much"), lanes or (), CURVES):
                values = [share(self.swing, self.build, self.compiled, stretch.section, t) for t in range(part.ticks)]
                points = tuple(
                    (round(left + width * (value or 0.0), 1), stretch.top + (tick + 0.5) * stretch.pitch)
                    for tick, value in enumerate(values)
                )
                open_ = tuple(value is not None for value in values)
                yield InkMark(kind, (left - 4, left + width + 4), (stretch.top, stretch.bottom), (left, points, open_))

    def _waves(self, view: QRectF) -> Iterator[InkMark]:
        """The sound of each event that has one, down the rows it lasts."""
        quarter = 0.25 / self.build.project.settings.rate
        for placed in self.layout.placed:
            sound = self.sounds.get(placed.span.name) if placed.ref.kind == "events" else None
            if sound is not None and placed.span.kind == "sound":
                top = self.layout.y(placed.first + placed.span.tick)
                tall = sound.count(quarter) / 4 * self.layout.pitch
                if top <= view.bottom() + POSE_HEIGHT and top + tall >= view.top() - POSE_HEIGHT:
                    yield InkMark("wave", self._across("events"), (top, top + tall), (Same(sound), quarter, top, tall))

    # Sections

    def _sections(self, view: QRectF) -> Iterator[InkMark]:
        for stretch in self._seen(view):
            section = self.compiled.sections[stretch.section].section
            down = stretch.top, stretch.bottom
            if section.mark:
                yield InkMark(
                    "section mark", self._across("section"), down, (section.mark, stretch.top, stretch.bottom)
                )
            yield InkMark("break line", ACROSS, (stretch.top - 1, stretch.top + 1), (stretch.top,))
            if stretch.folded:
                words = (section.name, self._summary(stretch), goes_to(self.compiled, section))
                yield InkMark("folded", ACROSS, down, (stretch.top, stretch.bottom, stretch.first, *words))
        end = self.layout.height
        yield InkMark("break line", ACROSS, (end - 1, end + 1), (end,))

    def _summary(self, stretch: Stretch) -> str:
        """What a folded section holds."""
        section = self.compiled.sections[stretch.section].section
        held = [(len(kind.of(section)), kind.one) for kind in SPANS.values()]
        parts = [f"{n} {word}{'s' if n > 1 else ''}" for n, word in held if n]
        return ", ".join([f"{stretch.ticks} f", *parts])


def goes_to(compiled: CompiledAction, section: Section) -> str:
    """Where a section goes next, as it is written."""
    if section.then == section.name:
        return "loops"
    return f"→ {section.then}" if section.then in {"end", *compiled.index} else f"→ one of {section.then}"
