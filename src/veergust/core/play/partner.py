"""What a fighter does that nobody plays: inputs like any other's, from where everybody stands on the tick before."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from math import cos, hypot, radians, sin

from veergust.core.kinds import chance
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.scripted import schedule
from veergust.core.play.state import FighterState, Input

PAUSE, CLOSE = 40, 2.5
"""One that strikes back does so every 40 ticks, at somebody within 2.5 m."""
SAME = 1e-6
"""A stick that lies so near is left where it is."""
GOES = 30
"""Who goes by chance takes another way every so many ticks."""


class Partner:
    """One fighter on one tick, as whoever gives its commands sees it."""

    def __init__(
        self, build: CompiledProject, fighter: FighterState, others: Sequence[FighterState], tick: int, seed: int
    ) -> None:
        self.build, self.fighter, self.tick, self.seed = build, fighter, tick, seed
        here = fighter.position
        gaps = [(float(o.position[0] - here[0]), float(o.position[2] - here[2])) for o in others if not o.down]
        self.gap: tuple[float, float] | None = min(gaps, key=lambda g: hypot(*g), default=None)

    @property
    def far(self) -> float:
        """How far the nearest other is (m)."""
        return hypot(*self.gap) if self.gap is not None else float("inf")

    def press(self) -> Iterator[Input]:
        """A press of what it answers with."""
        if self.fighter.setup.answer:
            yield Input(self.fighter.name, self.fighter.setup.answer)

    def hold(self) -> Iterator[Input]:
        """What it answers with goes down and stays so."""
        if self.fighter.setup.answer not in self.fighter.held:
            yield from self.press()

    def go(self, x: float, z: float) -> Iterator[Input]:
        """The stick lies there from now on."""
        if hypot(x - self.fighter.stick[0], z - self.fighter.stick[1]) > SAME:
            yield Input(self.fighter.name, axis="move", value=(x, z))

    def walk(self, away: bool) -> Iterator[Input]:
        """At a walk towards the nearest other, or away from it; not at all where there is none."""
        ground = self.build.project.locomotion
        pace = min(ground.walk_speed / max(ground.run_speed, 1e-6), 1.0)
        if self.gap is None or self.far < 1e-6:
            yield from self.go(0.0, 0.0)
        else:
            size = (-pace if away else pace) / self.far
            yield from self.go(self.gap[0] * size, self.gap[1] * size)

    @property
    def touched(self) -> bool:
        """Whether anything has touched it so far, as far as it shows."""
        f = self.fighter
        return f.health < f.setup.health or f.reeling or f.worn > 0.0 or f.poise < f.setup.poise


def _strikes_back(p: Partner) -> Iterator[Input]:
    hurt = p.fighter.health < p.fighter.setup.health
    if hurt and p.tick % PAUSE == 0 and not p.fighter.live() and p.far < CLOSE:
        yield from p.press()


def _guards(p: Partner) -> Iterator[Input]:
    yield from p.hold()


def _guards_once_touched(p: Partner) -> Iterator[Input]:
    if p.touched:
        yield from p.hold()


def _presses(p: Partner) -> Iterator[Input]:
    if p.tick % p.fighter.setup.every == 0:
        yield from p.press()


def _hits_back(p: Partner) -> Iterator[Input]:
    # Pressed anew on every tick, it is the newest press on the first one that starts anything.
    if p.fighter.reeling:
        yield from p.press()


def _walks_in(p: Partner) -> Iterator[Input]:
    if p.far > p.fighter.setup.near:
        yield from p.walk(away=False)
        return
    yield from p.go(0.0, 0.0)
    if p.tick % p.fighter.setup.every == 0:
        yield from p.press()


def _walks_away(p: Partner) -> Iterator[Input]:
    yield from p.walk(away=True) if p.far < p.fighter.setup.near else p.go(0.0, 0.0)


def _once_up(p: Partner) -> Iterator[Input]:
    if p.fighter.posture == "down":
        yield from p.press()


def _random(p: Partner) -> Iterator[Input]:
    f = p.fighter

    def drawn(what: str, count: int = 0) -> float:
        share = chance(p.seed, p.tick, f.name, what)
        return float(min(int(share * count), count - 1)) if count else share

    if p.tick % GOES == 0:
        way, pace = radians(drawn("way") * 360.0), drawn("pace", 3) / 2.0
        yield from p.go(sin(way) * pace, cos(way) * pace)
    for name in f.held:
        if drawn(f"lets {name} go") < 0.1:
            yield Input(f.name, name, press=False)
    names = [c.name for c in p.build.commands.values() if c.gesture is None]
    if names and drawn("presses") < 1.0 / f.setup.every:
        yield Input(f.name, names[int(drawn("which", len(names)))])


def _replays(p: Partner) -> Iterator[Input]:
    yield from p.build.host.ask(_replayed, p.fighter.setup.replay, p.fighter.name).get(p.tick, ())


def _replayed(build: CompiledProject, drill: str, fighter: str) -> dict[int, list[Input]]:
    """What a drill's steps give to the fighter that it begins with, given to another."""
    found = next((d for d in build.project.drills if d.name == drill), None)
    if found is None or not found.steps:
        return {}
    return schedule(tuple(s for s in found.steps if s.fighter == found.steps[0].fighter), fighter)


DOES: dict[str, Callable[[Partner], Iterator[Input]]] = {
    "strikes back": _strikes_back,
    "guards": _guards,
    "guards once touched": _guards_once_touched,
    "presses": _presses,
    "hits back": _hits_back,
    "walks in": _walks_in,
    "walks away": _walks_away,
    "once up": _once_up,
    "random": _random,
    "replays": _replays,
}
ANSWERING = frozenset({"strikes back", "guards", "guards once touched", "presses", "hits back", "walks in", "once up"})
"""Those that press a command of their own."""


def inputs(build: CompiledProject, fighters: list[FighterState], tick: int, seed: int) -> list[Input]:
    """The inputs of all fighters that nobody plays."""
    out: list[Input] = []
    for f in fighters:
        does = DOES.get(f.setup.plays)
        if does is not None and not f.down:
            out += does(Partner(build.of(f.setup), f, [o for o in fighters if o is not f], tick, seed))
    return out
