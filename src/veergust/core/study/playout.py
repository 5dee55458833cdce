"""An action played out by nobody: asked for by name at a standstill on open floor, with no input and nobody near.

Facts are what this gives. Where nothing on the way can turn out otherwise it is counted; else it is played.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from veergust.core.model import Condition, Fighter
from veergust.core.motion.quat import Array
from veergust.core.play.compiled.action import CompiledAction
from veergust.core.play.compiled.project import Book
from veergust.core.play.rules.conditions import OPS
from veergust.core.play.simulation import Bout
from veergust.core.play.state import FighterState, Input

Counted = tuple[tuple[tuple[int, int], ...], bool] | None
Outline = tuple[int, bool, tuple[int, ...]]

LONGEST = 1200
ALONE = {
    "on_floor": 1.0,
    "rising": 0.0,
    "height": 0.0,
    "held": 0.0,
    "released": 1.0,
    "pressed": 0.0,
    "contact": 0.0,
    "distance": 1e9,
    "section_ended": 0.0,
}
"""What conditions find that nobody presses and nothing touches."""


@dataclass(frozen=True, eq=False)
class Playout:
    """The (section, tick) shown on each of ``N`` ticks, the body's place ``[N+1, 3]`` and yaw ``[N+1]`` (radians) on
    them and after the last, and whether it ``ends`` by itself."""

    frames: tuple[tuple[int, int], ...]
    place: Array
    yaw: Array
    ends: bool
    why: str = ""

    def open_ticks(self, compiled: CompiledAction) -> list[int]:
        """Ticks on which any strike is open."""
        return [n for n, (s, t) in enumerate(self.frames) if compiled.opens(s, t)]


def play_out(book: Book, compiled: CompiledAction) -> Playout:
    """Count or play an action out."""
    counted = count_out(compiled)
    if counted is not None:
        frames, ends = counted
        way = compiled.way_over(frames)
        return Playout(frames, way.place, way.yaw, ends, "" if ends else LOOPS)
    fighters = [state for state, _ in play_alone(book, compiled, posed=False)]
    shown = [s for s in fighters if s.live()]
    frames = tuple((s.live()[0].section, s.live()[0].frame) for s in shown)
    ends = len(shown) < len(fighters)
    after = fighters[: len(shown) + 1]
    place = np.array([s.position for s in after]).reshape(-1, 3)
    yaw = np.unwrap(np.radians([s.facing for s in after]))
    return Playout(frames, place, yaw, ends, "" if ends else LOOPS)


def outline(compiled: CompiledAction) -> Outline:
    """How many ticks an action lasts, whether it goes on from there, and on which a strike is open: as it is counted,
    or along its path where that has to be played."""
    kept: Outline | None = compiled.kept.get("outline")
    if kept is None:
        counted = count_out(compiled)
        kept = compiled.total, compiled.loops, compiled.open_frames
        if counted is not None:
            frames, ends = counted
            kept = len(frames), not ends, tuple(n for n, (s, t) in enumerate(frames) if compiled.opens(s, t))
        compiled.kept["outline"] = kept
    return kept


LOOPS = "it plays on until something ends it"


def count_out(compiled: CompiledAction) -> Counted:
    """The frames an action shows when nobody intervenes and whether it ends; None when that has to be played."""
    if "counted" not in compiled.kept:
        compiled.kept["counted"] = _count(compiled)
    counted: Counted = compiled.kept["counted"]
    return counted


def _count(compiled: CompiledAction) -> Counted:
    frames: list[tuple[int, int]] = []
    section = compiled.entry
    seen: set[int] = set()
    if not compiled.sections:
        return (), True
    if _asks_body(compiled) and any(cut.climbs for part in compiled.sections for cut in part.cuts):
        return None
    while section not in seen:
        seen.add(section)
        part = compiled.sections[section].section
        leads: str | None = None
        for tick in range(compiled.sections[section].ticks):
            breaks = [e for e in part.exits if e.start <= tick < e.end] + list(compiled.action.exits)
            for exit_ in breaks:
                held = _alone(exit_.conditions) if exit_.kind == "break" else False
                if held is None:
                    return None
                if held and exit_.contact in ("any", "none"):
                    # What starts shows its first frame, whatever is asked of that.
                    return (tuple(frames) or ((section, tick),)), True
            frames.append((section, tick))
            for gate in part.gates:
                if gate.start <= tick < gate.end:
                    held = _alone(gate.conditions)
                    if held is None:
                        return None
                    if held and compiled.ways(gate.to):
                        leads = gate.to
                        break
            if leads is not None:
                break
        onward = compiled.ways(leads if leads is not None else part.then)
        if len(onward) > 1:
            return None
        if not onward:
            return tuple(frames), True
        section = onward[0]
    return tuple(frames), False


def _asks_body(compiled: CompiledAction) -> bool:
    asked = [x.conditions for p in compiled.sections for x in p.section.gates]
    asked += [x.conditions for p in compiled.sections for x in p.section.exits]
    return any(c.test in ("on_floor", "rising", "height") for conditions in asked for c in conditions)


def _alone(conditions: tuple[Condition, ...]) -> bool | None:
    """Whether conditions hold when nobody is there; None when that depends on how it is played."""
    out: bool | None = True
    for c in conditions:
        if c.test not in ALONE:
            out = None if out else out
        elif not OPS[c.op](ALONE[c.test], c.value):
            return False
    return out


def play_alone(book: Book, compiled: CompiledAction, *, posed: bool = True) -> Iterator[tuple[FighterState, Bout]]:
    """The fighter on each tick, played alone, up to the first on which the action has ended."""
    name = "attacker"
    bout = Bout(book.level, fighters=(Fighter(name=name, facing=0.0),), posed=posed)
    inputs = [Input(name, action=compiled.action.name)]
    for _ in range(LONGEST):
        record = bout.tick(inputs)
        inputs = []
        state = record.fighter(name)
        yield state, bout
        if not any(v.compiled.action.name == compiled.action.name for v in state.live()):
            return
