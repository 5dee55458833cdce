"""Stand-ins for what events do in the game, worked out from the frame alone, so that scrubbing shows them too.

An effect is a burst, or a trail along its mount from one called ``NAME on`` (or ``begin``) to ``NAME off`` (``end``);
a spawn is a thrown ball; a sound or a message is its word.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import degrees

import numpy as np

from veergust.core.model import Event, Floor, Hitbox, Thrown
from veergust.core.motion import Array, quat
from veergust.core.play import (
    CompiledAction,
    CompiledProject,
    Flying,
    aimed,
    box_frame,
    launch,
    read_numbers,
    rows_of,
    step,
)
from veergust.core.scene.things import Label, Path, Tube

BURST, WORD, TRAIL, FLIGHT = 9, 14, 10, 90
SPIKES = 8
BALL = 0.07
OPENS, SHUTS = ("on", "begin"), ("off", "end")


GROUND = rows_of((Floor(low=(-1e4, -1e4), high=(1e4, 1e4)),))
THROWN = ("speed", "up", "gravity")


@dataclass(frozen=True)
class Throw:
    """A thrown ball: speed ahead and up (m/s), and gravity (m/s²), read from a payload like ``speed=9, up=2``."""

    speed: float = 8.0
    up: float = 2.0
    gravity: float = 9.8


@dataclass(frozen=True, eq=False)
class StandIns:
    """What is added to a scene."""

    tubes: tuple[Tube, ...] = ()
    paths: tuple[Path, ...] = ()
    labels: tuple[Label, ...] = ()


def throw_of(payload: str) -> Throw:
    """A throw from a payload; what is not said, or is no number, is as usual."""
    return Throw(**{name: value for name, value in read_numbers(payload).items() if name in THROWN})


def mount_frame(build: CompiledProject, compiled: CompiledAction, row: int, mount: str, start: Array) -> Array:
    """The frame ``[4, 4]`` of a mount (the body without one) on a row, in the world that ``start`` stands in."""
    section, tick = compiled.locate(row)
    body = start @ compiled.bodies[row]
    if not mount:
        return np.asarray(body)
    part = compiled.sections[section]
    found = box_frame(build, Hitbox(mount=mount), body @ compiled.world_of(section)[tick], part.mirrored(tick))
    return np.asarray(found if found is not None else body)


def stand_ins(build: CompiledProject, compiled: CompiledAction, row: int, start: Array) -> StandIns:
    """What the events up to ``row`` show on it. Events of sections the path does not reach show on their own rows."""
    tubes: list[Tube] = []
    paths: list[Path] = []
    labels: list[Label] = []
    here = row < compiled.total
    fired = [
        (first + e.tick, e)
        for first, i in compiled.row_starts()
        if (first < compiled.total) == here
        for moments in compiled.sections[i].moments.values()
        for e in (moment.event for moment in moments)
        if first + e.tick <= row and e.tick < compiled.sections[i].ticks
    ]
    rate = build.project.settings.rate
    for at, event in fired:
        age = row - at
        stem, word = _stem(event.name)
        if event.kind == "effect" and word in OPENS:
            if not _shut(fired, at, event, stem):
                first = max(at, row - TRAIL)
                way = [_place(build, compiled, r, event, start)[:3, 3] for r in range(first, row + 1)]
                if len(way) > 1:
                    paths.append(Path(np.array(way), "event", marks=False))
        elif event.kind == "effect" and word not in SHUTS and age < BURST:
            paths += _burst(_place(build, compiled, at, event, start)[:3, 3], age / BURST)
        elif event.kind == "spawn" and age < FLIGHT * rate / 60:
            _ball(
                tubes,
                paths,
                _place(build, compiled, at, event, start),
                start @ compiled.bodies[at],
                event,
                (age, rate),
                build.thrown.get(event.name),
            )
        elif event.kind in ("sound", "message") and age < WORD and event.name:
            place = _place(build, compiled, at, event, start)[:3, 3]
            sign = "♪" if event.kind == "sound" else "✉"
            labels.append(Label(f"{sign} {event.name}", place + np.array([0.0, 0.12, 0.0]), "event"))
    return StandIns(tuple(tubes), tuple(paths), tuple(labels))


def _stem(name: str) -> tuple[str, str]:
    head, _, word = name.rpartition(" ")
    return (head, word) if word in (*OPENS, *SHUTS) else (name, "")


def _shut(fired: list[tuple[int, Event]], at: int, event: Event, stem: str) -> bool:
    return any(t >= at and e.mount == event.mount and _stem(e.name)[0] == stem and _stem(e.name)[1] in SHUTS
               for t, e in fired)  # fmt: skip


def _place(build: CompiledProject, compiled: CompiledAction, row: int, event: Event, start: Array) -> Array:
    frame = mount_frame(build, compiled, row, event.mount, start).copy()
    frame[:3, 3] = (frame @ np.array([*event.offset, 1.0]))[:3]
    return frame


def _burst(centre: Array, grown: float) -> list[Path]:
    out = []
    turn = np.linspace(0, 2 * np.pi, SPIKES, endpoint=False)
    for i, a in enumerate(turn):
        tilt = 0.5 if i % 2 else -0.35
        way = np.array([np.cos(a), np.sin(a) * 0.8 + tilt * 0.3, np.sin(a + tilt)])
        near, far = 0.05 + 0.16 * grown, 0.10 + 0.26 * grown
        out.append(Path(np.stack([centre + way * near, centre + way * far]), "event", marks=False))
    return out


def _ball(
    tubes: list[Tube],
    paths: list[Path],
    frame: Array,
    body: Array,
    event: Event,
    age: tuple[int, int],
    thing: Thrown | None,
) -> None:
    """A spawned thing after ``age`` ticks (of so many a second): as it flies in play, or as its payload says."""
    ticks, rate = age
    radius = thing.radius if thing is not None else BALL
    way = _flown(thing, frame, body, event, age) if thing is not None else _thrown(frame, body, event, ticks / rate)
    if not len(way):
        return
    tubes.append(Tube(way[-1], way[-1], radius, "event", True))
    if len(way) > 1:
        paths.append(Path(way, "event", marks=False))


def _thrown(frame: Array, body: Array, event: Event, seconds: float) -> Array:
    throw = throw_of(event.payload)
    ahead = {"body": body[:3, 2], "mount": frame[:3, 1], "world": np.array([0.0, 0.0, 1.0])}[event.facing]
    times = np.linspace(0.0, max(seconds, 1e-3), 16)[:, None]
    up = np.array([0.0, 1.0, 0.0])
    way = frame[:3, 3] + times * (ahead * throw.speed + up * throw.up) - up * (throw.gravity / 2) * times**2
    above = way[:, 1] >= BALL
    return np.asarray(way if above.all() else way[: max(int(np.argmin(above)), 1)])


def _flown(thing: Thrown, frame: Array, body: Array, event: Event, age: tuple[int, int]) -> Array:
    """Where a thing has been, over level ground and with nobody near; nothing once it is gone."""
    ticks, rate = age
    turns = {"body": float(quat.yaw_of(body)), "mount": float(quat.yaw_of(frame)), "world": 0.0}
    thing = aimed(thing, event.payload)
    x, y, z = frame[:3, 3].tolist()
    start = (x, y, z)
    one: Flying | None = Flying(0, thing, "", 0, start, start, launch(thing, degrees(turns[event.facing]), start, None))
    way = [start]
    for n in range(ticks):
        one = step(GROUND, one, None, 1.0 / rate) if one is not None and n + 1 < thing.life else None
        if one is None:
            return np.zeros((0, 3))
        way.append(one.position)
    return np.array(way)
