"""Where the states of locomotion lie as paper tags, and how the arrows between them go: worked out, arranged by nobody.

Tags stand in bands (on the floor, on guard, in the air), in rows, in the order of the project, those of a group behind
its name. An arrow to the neighbour goes straight; any other goes in a lane of the channel over a row. Lanes are given
out so that no two arrows, with their words, share a stretch of one: so no label ever covers another, or a tag.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

from veergust.core.kinds import briefly
from veergust.core.model import ANYWHERE, Transition
from veergust.core.play import Chart

TAG = (104.0, 62.0)
FOLD = (104.0, 30.0)
GAP = 86.0
LANE = 16.0
TALL = 14.0
EDGE = 14.0
TITLE = 22.0
BANDS = {"floor": "on the floor", "guard": "on guard", "air": "in the air"}
LONGEST = 150.0
"""No label is wider (px)."""

Rect = tuple[float, float, float, float]
"""x, y, width, height."""
Point = tuple[float, float]
Measure = Callable[[str], float]


@dataclass(frozen=True)
class Tag:
    """A state, or the name of a group, on the paper."""

    name: str
    rect: Rect
    group: bool = False
    folded: bool = False

    @property
    def middle(self) -> Point:
        """Its middle."""
        x, y, w, h = self.rect
        return x + w / 2, y + h / 2


@dataclass(frozen=True)
class Arrow:
    """A transition by its place: its way, its words, and where they stand."""

    place: int
    way: tuple[Point, ...]
    words: str
    label: Rect


@dataclass(frozen=True)
class ChartLayout:
    """All that is drawn of a chart: tags by name, arrows, bands (words, top, bottom), and the size of it all."""

    tags: dict[str, Tag]
    arrows: tuple[Arrow, ...]
    bands: tuple[tuple[str, float, float], ...]
    size: tuple[float, float]

    def tag_at(self, x: float, y: float) -> Tag | None:
        """The tag at a point."""
        return next((t for t in self.tags.values() if _holds(t.rect, x, y)), None)

    def arrow_at(self, x: float, y: float) -> Arrow | None:
        """The arrow whose words are at a point, else the one that goes by it."""
        found = next((a for a in self.arrows if _holds(a.label, x, y)), None)
        return found or next((a for a in self.arrows if _near(a.way, x, y)), None)


def words_of(transition: Transition) -> str:
    """A transition's conditions, short enough for an arrow."""
    said = briefly(transition.conditions) or "at once"
    return f"from anywhere: {said}" if transition.start == ANYWHERE else said


@dataclass
class _Row:
    band: str
    names: list[str]
    top: float = 0.0
    lanes: list[list[tuple[float, float]]] = field(default_factory=list)


def lay_out(chart: Chart, width: float, measure: Measure, folded: frozenset[str] = frozenset()) -> ChartLayout:
    """The chart on paper of a ``width`` (px); ``measure`` gives the width of words. Of ``folded`` groups only the name
    is shown, and arrows of what is in them begin and end there."""
    return _Layout(chart, width, measure, folded).made()


class _Layout:
    def __init__(self, chart: Chart, width: float, measure: Measure, folded: frozenset[str]) -> None:
        self.chart, self.measure, self.folded = chart, measure, folded
        self.columns = max(2, int((width - 2 * EDGE + GAP) // (TAG[0] + GAP)))
        self.rows: list[_Row] = []
        self.place: dict[str, tuple[int, int]] = {}
        for band in BANDS:
            self._band(band)

    def shown(self, name: str) -> str:
        """What stands on the paper for a state or group: the outermost folded group around it, or itself."""
        around = [g for g in reversed(self.chart.around[name]) if g in self.folded]
        return around[0] if around else name

    def _band(self, band: str) -> None:
        names: list[str] = []
        for name, state in self.chart.states.items():
            if state.band != band:
                continue
            for group in reversed(self.chart.around[name]):
                if self.shown(group) not in names and self.shown(group) not in self.place:
                    names.append(self.shown(group))
                    self.place[self.shown(group)] = (-1, -1)
            if self.shown(name) not in names and self.shown(name) not in self.place:
                names.append(self.shown(name))
        if band == "floor":
            names += [g for g in self.chart.groups if not self._states_in(g) and g not in names]
        for at in range(0, len(names), self.columns):
            self.rows.append(_Row(band, names[at : at + self.columns]))
            for column, name in enumerate(names[at : at + self.columns]):
                self.place[name] = (len(self.rows) - 1, column)

    def _states_in(self, group: str) -> bool:
        return any(group in self.chart.around[s] for s in self.chart.states)

    def made(self) -> ChartLayout:
        ways = [w for i, t in enumerate(self.chart.locomotion.transitions) if (w := self._way(i, t)) is not None]
        straight = self._straight(ways)
        ports = self._ports([w for w in ways if w.place not in straight])
        lanes = {}
        for way in ways:
            if way.place not in straight:
                lanes[way.place] = self._lane(way, ports)
        bands = self._heights()
        tags = {name: self._tag(name) for name in self.place if self.place[name][0] >= 0}
        arrows = [
            self._straight_arrow(w, tags, straight[w.place])
            if w.place in straight
            else self._bent(w, tags, ports, lanes)
            for w in ways
        ]
        high = bands[-1][2] if bands else 0.0
        wide = 2 * EDGE + self.columns * (TAG[0] + GAP) - GAP
        right = max((a.label[0] + a.label[2] for a in arrows), default=0.0)
        return ChartLayout(tags, tuple(arrows), tuple(bands), (max(wide, right + EDGE), high))

    def _way(self, index: int, t: Transition) -> _Way | None:
        if not self.chart.known(t.to) or (t.start != ANYWHERE and not self.chart.known(t.start)):
            return None
        start = "" if t.start == ANYWHERE else self.shown(t.start)
        to = self.shown(t.to)
        if start == to and t.start != t.to and to in self.folded:
            return None  # within what is folded
        said = words_of(t)
        while self.measure(said) > LONGEST - 8 and len(said) > 4:
            said = said[: -2 - (said[-1] == "…")].rstrip() + "…"
        return _Way(index, start, to, said, self.measure(said) + 8)

    def _x(self, name: str) -> float:
        return EDGE + self.place[name][1] * (TAG[0] + GAP)

    def _straight(self, ways: list[_Way]) -> dict[int, int]:
        """The ways that go straight to a neighbour, and in which half: ahead above, back below."""
        taken: set[tuple[int, int, int]] = set()
        out = {}
        for way in ways:
            if not way.start or way.start == way.to:
                continue
            (r, a), (s, b) = self.place[way.start], self.place[way.to]
            half = 0 if b > a else 1
            key = (r, min(a, b), half)
            if r == s and abs(a - b) == 1 and key not in taken and way.wide <= GAP - 8:
                taken.add(key)
                out[way.place] = half
        return out

    def _over(self, way: _Way) -> int:
        """The row over which a way goes in a lane."""
        to = self.place[way.to][0]
        return to if not way.start else max(to, self.place[way.start][0])

    def _ports(self, ways: list[_Way]) -> dict[tuple[int, str], float]:
        """Where along its tag each bent way begins and ends (x)."""
        sides: dict[tuple[str, str], list[tuple[float, int, str]]] = {}
        for way in ways:
            over = self._over(way)
            for name, end, other in ((way.start, "start", way.to), (way.to, "to", way.start)):
                if name:
                    side = "top" if self.place[name][0] == over else "foot"
                    sides.setdefault((name, side), []).append((self._x(other or name), way.place, end))
        out = {}
        for (name, _), rows in sides.items():
            for i, (_, place, end) in enumerate(sorted(rows)):
                out[place, end] = self._x(name) + TAG[0] * (i + 1) / (len(rows) + 1)
        return out

    def _turns_at(self, way: _Way, ports: dict[tuple[int, str], float]) -> tuple[float, float]:
        """From where to where a way goes in its lane (x): to its ports, or beside a tag past which it goes on."""
        over = self._over(way)
        xs = []
        for name, end in ((way.start, "start"), (way.to, "to")):
            if not name:
                continue
            row = self.place[name][0]
            # Farther up than the next row: past the tags between, in the gap beside.
            far = row < over - 1
            xs.append(self._x(name) + TAG[0] + 6.0 + (way.place % 5) * 3.0 if far else ports[way.place, end])
        return (xs[0], xs[-1]) if way.start else (xs[0], xs[0])

    def _lane(self, way: _Way, ports: dict[tuple[int, str], float]) -> tuple[int, int, float]:
        """The row and lane of a way, and the middle of its words (x)."""
        over = self._over(way)
        a, b = sorted(self._turns_at(way, ports))
        middle = max((a + b) / 2, EDGE + way.wide / 2)
        low, high = min(a, middle - way.wide / 2) - 4.0, max(b, middle + way.wide / 2) + 4.0
        lanes = self.rows[over].lanes
        for n, lane in enumerate(lanes):
            if all(high < x or low > y for x, y in lane):
                lane.append((low, high))
                return over, n, middle
        lanes.append([(low, high)])
        return over, len(lanes) - 1, middle

    def _heights(self) -> list[tuple[str, float, float]]:
        bands: list[tuple[str, float, float]] = []
        y, last = 0.0, ""
        for row in self.rows:
            if row.band != last:
                if bands:
                    bands[-1] = (*bands[-1][:2], y)
                bands.append((BANDS[row.band], y, y))
                y, last = y + TITLE, row.band
            row.top = y + len(row.lanes) * LANE + 8.0
            y = row.top + TAG[1] + 14.0
        if bands:
            bands[-1] = (*bands[-1][:2], y)
        return bands

    def _tag(self, name: str) -> Tag:
        row, _ = self.place[name]
        group = name in self.chart.groups
        w, h = FOLD if group else TAG
        return Tag(name, (self._x(name), self.rows[row].top + (TAG[1] - h) / 2, w, h), group, name in self.folded)

    def _straight_arrow(self, way: _Way, tags: dict[str, Tag], half: int) -> Arrow:
        a, b = tags[way.start].rect, tags[way.to].rect
        row = self.rows[self.place[way.start][0]]
        y = row.top + TAG[1] * (0.36 if half == 0 else 0.70)
        start, end = (a[0] + a[2], b[0]) if half == 0 else (a[0], b[0] + b[2])
        middle = (start + end) / 2
        label = (middle - way.wide / 2, y - TALL - 1 if half == 0 else y + 1, way.wide, TALL)
        return Arrow(way.place, ((start, y), (end, y)), way.words, label)

    def _bent(
        self,
        way: _Way,
        tags: dict[str, Tag],
        ports: dict[tuple[int, str], float],
        lanes: dict[int, tuple[int, int, float]],
    ) -> Arrow:
        over, lane, middle = lanes[way.place]
        row = self.rows[over]
        y = row.top - 8.0 - (lane + 0.5) * LANE
        a, b = self._turns_at(way, ports)
        points: list[Point] = []
        if way.start:
            points += self._leg(way, way.start, "start", over, a, y, tags, ports)
        else:
            points.append((middle, y))
        points += reversed(self._leg(way, way.to, "to", over, b, y, tags, ports))
        label = (middle - way.wide / 2, y - TALL / 2, way.wide, TALL)
        return Arrow(way.place, tuple(points), way.words, label)

    def _leg(
        self,
        way: _Way,
        name: str,
        end: str,
        over: int,
        x: float,
        y: float,
        tags: dict[str, Tag],
        ports: dict[tuple[int, str], float],
    ) -> list[Point]:
        """From a tag to its end of the lane."""
        tx, ty, tw, th = tags[name].rect
        at = self.place[name][0]
        if at == over:
            return [(ports[way.place, end], ty), (ports[way.place, end], y)]
        if at == over - 1:
            return [(ports[way.place, end], ty + th), (ports[way.place, end], y)]
        side = ty + th * (0.2 + 0.6 * ((way.place % 7) / 6))
        return [(tx + tw, side), (x, side), (x, y)]


@dataclass(frozen=True)
class _Way:
    place: int
    start: str
    to: str
    words: str
    wide: float


def _holds(rect: Rect, x: float, y: float) -> bool:
    return rect[0] <= x <= rect[0] + rect[2] and rect[1] <= y <= rect[1] + rect[3]


def _near(way: tuple[Point, ...], x: float, y: float, within: float = 4.0) -> bool:
    for (ax, ay), (bx, by) in zip(way, way[1:]):
        if min(ax, bx) - within <= x <= max(ax, bx) + within and min(ay, by) - within <= y <= max(ay, by) + within:
            return True
    return False
