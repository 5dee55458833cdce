"""Where everything on the sheet lies, worked out without painting, for painting and hit-testing alike."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Collection, Iterator
from dataclasses import dataclass
from operator import attrgetter
from typing import Any

from PySide6.QtCore import QPointF, QRectF

from veergust.core.edit import WHOLE, SpanRef
from veergust.core.kinds import SPANS, Column
from veergust.core.model import Event, Section
from veergust.core.play import CompiledAction

ROW = 15.0
HEAD = 54.0
GRAB = 5.0
STAVE = 13.0
STAVE_ALL = 18.0
EVENT = 12.0
FOLDED = 22.0

Spanned = tuple[str, int, Any]
"""A span as (kind, place in its list, span)."""

COLUMNS: dict[str, Column] = {
    "frame": Column("", 52.0, 0.0, 52.0),
    "section": Column("", 28.0, 0.0, 28.0),
    "cut": Column("cut", 92.0, 0.2, 98.0),
    "phase": Column("", 22.0, 0.0, 22.0),
    "all": Column("all", 0.0, 0.0, 0.0),
    **{key: kind.column for key, kind in SPANS.items() if kind.column is not None},
}
"""The columns from left to right: what every sheet has, then one for each kind of span that has its own."""
STANDS = {
    column: tuple(key for key, kind in SPANS.items() if column in (key, kind.beside))
    for column, kind in SPANS.items()
    if kind.column is not None
}
"""The kinds of spans that stand in a column."""
WIDEST = max(COLUMNS, key=lambda name: COLUMNS[name].share)
"""The column that takes most of the room there is, and gives first where there is none."""
NARROWEST = 24.0
WIDE_STRIKES, SPANS_SHARE = 250.0, 0.36
"""How wide strikes are when they are opened wide (px), and what part of that the spans themselves have."""


def column_of(kind: str) -> str:
    """The column in which a kind of span stands."""
    return SPANS[kind].beside or kind


@dataclass(frozen=True)
class Placed:
    """A span or event on the sheet."""

    ref: SpanRef
    span: Any
    role: str
    rect: QRectF
    first: int


@dataclass(frozen=True)
class Hit:
    """What lies under a point: a span and which part of it (``start``, ``end``, ``body``), or nothing."""

    placed: Placed | None
    part: str
    frame: int
    column: str


@dataclass(frozen=True)
class Stretch:
    """The rows of a section: ``ticks`` of them from row ``first``, ``pitch`` px each from ``top`` down.

    A folded one is a single line, and all its frames share it.
    """

    section: int
    first: int
    ticks: int
    top: float
    pitch: float
    folded: bool

    @property
    def bottom(self) -> float:
        """Where the next one begins."""
        return self.top + self.ticks * self.pitch


class SheetLayout:
    """The sheet of one action at one width; ``fold`` is how many frames share a row, ``folded`` names the sections
    shown as one line. Sections that lie as they lay ``before`` are not laid out again."""

    def __init__(
        self,
        compiled: CompiledAction | None,
        width: float,
        fold: int = 1,
        folded: Collection[str] = (),
        before: SheetLayout | None = None,
        *,
        wide: bool = False,
    ) -> None:
        self.compiled = compiled
        self.fold = fold
        self.pitch = ROW / fold
        self.wide = wide
        self.columns = _columns(width, compiled, WIDE_STRIKES if wide else 0.0)
        self.total = compiled.rows if compiled else 0
        self.stretches: list[Stretch] = []
        top = 0.0
        for first, i in compiled.row_starts() if compiled else ():
            part = compiled.sections[i]  # type: ignore[union-attr]
            shut = part.section.name in folded
            pitch = FOLDED / part.ticks if shut else self.pitch
            self.stretches.append(Stretch(i, first, part.ticks, top, pitch, shut))
            top = self.stretches[-1].bottom
        self.height = top
        self._tops = [s.top + n * s.pitch for s in self.stretches for n in range(s.ticks)]
        self.by_section: dict[tuple[str, Stretch], tuple[Section, list[Placed]]] = {}
        if compiled is not None:
            self._lay(compiled, before if before is not None and before.columns == self.columns else None)
        self.placed = [p for _, placed in self.by_section.values() for p in placed]
        self.placed += self._for_all(compiled) if compiled is not None else ()

    def stretch_of(self, frame: float) -> Stretch | None:
        """The stretch that holds a frame, the last one past the end."""
        at = bisect_right(self.stretches, frame, key=attrgetter("first")) - 1
        return self.stretches[max(at, 0)] if self.stretches else None

    def y(self, frame: int) -> float:
        """Top of a frame's row, from the top of the first row."""
        if frame >= self.total:
            return self.height + (frame - self.total) * self.pitch
        return self._tops[frame] if frame >= 0 else frame * self.pitch

    def rows_between(self, top: float, bottom: float) -> range:
        """The frames, and the end after the last, whose rows begin there."""
        return range(bisect_left(self._tops, top), bisect_right(self._tops, bottom))

    def tall(self, frame: int) -> float:
        """How tall a frame's row is; all frames of a folded section share its line."""
        stretch = self.stretch_of(frame)
        return FOLDED if stretch is not None and stretch.folded else self.pitch

    def row_top(self, frame: int) -> float:
        """Top of what is lit when a frame is looked at: its row, or the line of its folded section."""
        stretch = self.stretch_of(frame)
        return stretch.top if stretch is not None and stretch.folded else self.y(frame)

    def _frames(self, y: float) -> float:
        if not self.stretches or y >= self.height:
            return self.total + (y - self.height) / self.pitch
        at = bisect_right(self.stretches, y, key=attrgetter("top")) - 1
        stretch = self.stretches[max(at, 0)]
        return stretch.first + (y - stretch.top) / stretch.pitch

    def frame_at(self, y: float) -> int:
        """The frame whose row holds ``y``; of a folded section the first."""
        frame = int(self._frames(y) // 1)
        stretch = self.stretch_of(frame)
        return stretch.first if stretch is not None and stretch.folded and y < self.height else frame

    def line_at(self, y: float) -> int:
        """The frame whose top edge is nearest to ``y``."""
        return round(self._frames(y))

    def column_at(self, x: float) -> str:
        """The column that holds ``x``."""
        for name, (left, width) in self.columns.items():
            if left <= x < left + width:
                return name
        return list(COLUMNS)[-1] if x > 0 else "frame"

    def hit(self, point: QPointF) -> Hit:
        """What lies under a point of the sheet (y from the first row)."""
        frame, column = self.frame_at(point.y()), self.column_at(point.x())
        stretch = self.stretch_of(frame)
        if stretch is not None and stretch.folded and stretch.top <= point.y() < stretch.bottom:
            return Hit(None, "", frame, "section")
        edges = [
            (abs(point.y() - edge), name, p)
            for p in self.placed
            if p.ref.section != WHOLE
            and not SPANS[p.ref.kind].moment
            and p.rect.left() - 2 <= point.x() <= p.rect.right() + 2
            for name, edge in (("start", p.rect.top()), ("end", p.rect.bottom()))
        ]
        near = [e for e in edges if e[0] <= GRAB]
        if near:
            _, part, placed = min(near, key=lambda e: e[0])
            return Hit(placed, part, frame, column)
        for placed in reversed(self.placed):
            if placed.rect.contains(point):
                return Hit(placed, "body", frame, column)
        return Hit(None, "", frame, column)

    def find(self, ref: SpanRef | None) -> Placed | None:
        """Where a span lies."""
        return next((p for p in self.placed if p.ref == ref), None)

    def curves(self) -> tuple[tuple[float, float], tuple[float, float]] | None:
        """(left, width) of what strikes cover, and of what is too much; None where strikes are not opened wide."""
        if not self.wide:
            return None
        left, width = self.columns["strikes"]
        own = self._room("strikes")[1]
        each = (width - own) / 2
        return (left + own + 8, each - 16), (left + own + each + 8, each - 16)

    def _room(self, column: str) -> tuple[float, float]:
        """(left, width) of what the spans of a column share."""
        left, width = self.columns[column]
        return (left, width * SPANS_SHARE) if self.wide and column == "strikes" else (left, width)

    def _in_lanes(self, spans: list[Spanned], breaks: list[Spanned]) -> list[tuple[str, int, Any, int, int]]:
        tall = max(EVENT / self.pitch, 1.0)
        return _lanes([s for s in spans if s not in breaks], tall) + _lanes(breaks, tall)

    def _lay(self, compiled: CompiledAction, before: SheetLayout | None) -> None:
        name = compiled.action.name
        for stretch in self.stretches:
            section = compiled.sections[stretch.section].section
            old = before.by_section.get((name, stretch)) if before is not None else None
            if old is not None and old[0] is section:
                self.by_section[name, stretch] = old
            elif not stretch.folded:
                self.by_section[name, stretch] = section, list(self._place(name, section, stretch))

    def _for_all(self, compiled: CompiledAction) -> Iterator[Placed]:
        """What stands for the whole action, each once down all of its rows."""
        left, _ = self.columns["all"]
        for lane, (kind, i, span) in enumerate(_whole_spans(compiled)):
            rect = QRectF(left + 3 + lane * STAVE_ALL, 0.0, STAVE_ALL - 4, max(self.height, 1.0))
            yield Placed(SpanRef(compiled.action.name, WHOLE, kind, i), span, SPANS[kind].role(span), rect, 0)

    def _place(self, name: str, section: Section, stretch: Stretch) -> Iterator[Placed]:
        """The spans of a section; one that lies past its end is drawn there, on the rows below."""
        first = stretch.first

        def y(tick: int) -> float:
            return stretch.top + tick * stretch.pitch

        for column, kinds in STANDS.items():
            spans = [(k, i, s) for k in kinds for i, s in enumerate(getattr(section, k))]
            breaks = [s for s in spans if SPANS[s[0]].role(s[2]) == "break"]
            for kind, i, span, lane, lanes in self._in_lanes(spans, breaks):
                left, width = self._room(column)
                if any(SPANS[k].staved for k in kinds):
                    # Breaks mostly last the whole section: a narrow stave of their own at the right.
                    stave = SPANS[kind].role(span) == "break"
                    left, width = (left + width - STAVE, STAVE) if stave else (left, width - STAVE)
                if SPANS[kind].moment:
                    wide = (width - 6) / lanes
                    rect = QRectF(left + 4 + lane * wide, y(span.tick), wide, max(self.pitch, EVENT))
                else:
                    wide = (width - 4) / lanes
                    tall = max(y(span.end) - y(span.start), 3.0)
                    rect = QRectF(left + 3 + lane * wide, y(span.start), max(wide - 3, 5.0), tall)
                yield Placed(SpanRef(name, stretch.section, kind, i), span, SPANS[kind].role(span), rect, first)


def _whole_spans(compiled: CompiledAction) -> list[Spanned]:
    """The spans that stand for the whole action."""
    return [(key, i, span) for key, kind in SPANS.items() for i, span in enumerate(kind.of_all(compiled.action))]


def _columns(width: float, compiled: CompiledAction | None, strikes: float = 0.0) -> dict[str, tuple[float, float]]:
    """(left, width) of each column; one with nothing in it gives its room to the others. Strikes have ``strikes`` px at
    least."""
    sections = [s.section for s in compiled.sections] if compiled else []

    def wide(name: str, least: float, bare: float) -> float:
        used = name not in STANDS or any(getattr(s, k) for s in sections for k in STANDS[name])
        return least if used else bare

    widths = {name: wide(name, column.least, column.bare) for name, column in COLUMNS.items()}
    many = len(_whole_spans(compiled)) if compiled is not None else 0
    widths["all"] = 4.0 + many * STAVE_ALL if many else 0.0
    widths["strikes"] = max(widths["strikes"], strikes)
    short = max(0.0, sum(widths.values()) - width)
    widths[WIDEST] = max(widths[WIDEST] - short, 60.0)
    # Where that is not enough, all that stands on the sheet gives of its width.
    short = max(0.0, sum(widths.values()) - width)
    room = {name: max(widths[name] - NARROWEST, 0.0) for name in STANDS if not (strikes and name == "strikes")}
    for name in room if short else ():
        widths[name] -= room[name] * min(short / sum(room.values()), 1.0)
    spare = max(0.0, width - sum(widths.values()))
    shares = sum(column.share for column in COLUMNS.values())
    out, at = {}, 0.0
    for name, column in COLUMNS.items():
        full = widths[name] + spare * column.share / shares
        out[name] = (at, full)
        at += full
    return out


def _ticks(span: Any, tall: float) -> tuple[float, float]:
    """The ticks something takes up; an event as many as its words are tall."""
    return (span.tick, span.tick + tall) if isinstance(span, Event) else (span.start, span.end)


def _lanes(spans: list[Spanned], tall: float) -> list[tuple[str, int, Any, int, int]]:
    """Spans that overlap stand side by side: each gets a lane and the number of lanes."""
    ends: list[float] = []
    given = []
    for kind, i, span in sorted(spans, key=lambda s: _ticks(s[2], tall)):
        start, end = _ticks(span, tall)
        lane = next((n for n, last in enumerate(ends) if last <= start + 1e-9), len(ends))
        if lane == len(ends):
            ends.append(end)
        else:
            ends[lane] = end
        given.append((kind, i, span, lane))
    return [(k, i, s, lane, len(ends)) for k, i, s, lane in given]
