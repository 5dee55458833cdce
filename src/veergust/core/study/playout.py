"""An action played out by nobody: asked for by name at a standstill on open floor, with no input and nobody near.

Facts are what this gives. Where nothing on the way can turn out otherwise it is counted; else it is played.
"""

from __future__ import annotations

from collections.abc import Container, Iterable, Iterator
from dataclasses import dataclass

import numpy as np

from veergust.core.kinds import alone
from veergust.core.model import Condition, Exit, Fighter
from veergust.core.motion import Array
from veergust.core.play import At, CompiledAction, CompiledProject, FighterState, Input, Simulation

Counted = tuple[tuple[tuple[int, int], ...], bool] | None
Outline = tuple[int, bool, tuple[int, ...]]

LONGEST = 1200


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


def play_out(build: CompiledProject, compiled: CompiledAction) -> Playout:
    """Count or play an action out."""
    counted = count_out(build, compiled)
    if counted is not None:
        frames, ends = counted
        way = compiled.trajectory_over(frames)
        return Playout(frames, way.place, way.yaw, ends, "" if ends else LOOPS)
    fighters = [state for state, _ in play_alone(build, compiled, posed=False)]
    shown = [s for s in fighters if s.live()]
    frames = tuple((s.live()[0].section, s.live()[0].frame) for s in shown)
    ends = len(shown) < len(fighters)
    after = fighters[: len(shown) + 1]
    place = np.array([s.position for s in after]).reshape(-1, 3)
    yaw = np.unwrap(np.radians([s.facing for s in after]))
    return Playout(frames, place, yaw, ends, "" if ends else LOOPS)


def outline(build: CompiledProject, compiled: CompiledAction) -> Outline:
    """How many ticks an action lasts, whether it goes on from there, and on which a strike is open: as it is counted,
    or along its path where that has to be played."""
    kept: Outline | None = compiled.kept.get("outline")
    if kept is None:
        counted = count_out(build, compiled)
        kept = compiled.total, compiled.loops, compiled.open_frames
        if counted is not None:
            frames, ends = counted
            kept = len(frames), not ends, tuple(n for n, (s, t) in enumerate(frames) if compiled.opens(s, t))
        compiled.kept["outline"] = kept
    return kept


LOOPS = "it plays on until something ends it"


def count_out(build: CompiledProject, compiled: CompiledAction) -> Counted:
    """The frames an action shows when nobody intervenes and whether it ends; None when that has to be played."""
    if weighs_itself(build, compiled):
        return None
    if "counted" not in compiled.kept:
        compiled.kept["counted"] = _count(compiled)
    counted: Counted = compiled.kept["counted"]
    return counted


class _MustPlay(Exception):
    """What comes next can turn out otherwise."""


def _count(compiled: CompiledAction) -> Counted:
    if not compiled.sections:
        return (), True
    if any(cut.climbs for part in compiled.sections for cut in part.cuts):
        return None  # where it is over the floor decides what drives it
    try:
        return _counted(compiled)
    except _MustPlay:
        return None


def _counted(compiled: CompiledAction) -> tuple[tuple[tuple[int, int], ...], bool]:
    """The frames and whether they end; raises ``_MustPlay`` where that depends on how it is played."""
    flow = compiled.flow

    def sure(conditions: tuple[Condition, ...]) -> bool:
        held = alone(conditions)
        if held is None:
            raise _MustPlay
        return held

    def only(to: str, there: Container[str]) -> str | None:
        ways = flow.ways(to)
        if len(ways) > 1:
            raise _MustPlay
        return flow.sections[ways[0]].name if ways else None

    def breaking(exits: Iterable[Exit]) -> list[Exit]:
        return [e for e in exits if e.kind == "break" and alone(e.conditions) is not False]

    always = breaking(compiled.action.exits)
    breaks = [breaking(section.exits) for section in flow.sections]
    gated = [any(alone(g.conditions) is not False for g in section.gates) for section in flow.sections]

    def broken(at: At) -> bool:
        open_ = [e for e in breaks[at.section] if e.start <= at.tick < e.end]
        return any(sure(e.conditions) and e.contact in ("any", "none") for e in (*open_, *always))

    frames: list[tuple[int, int]] = []
    entered: set[int] = set()
    at = At(flow.entry)
    while at.tick > 0 or at.section not in entered:
        entered.add(at.section)
        last = flow.ticks[at.section] - 1
        if at.tick < last and not (always or breaks[at.section] or gated[at.section]):
            # Nothing leads out of it before its end.
            frames += [(at.section, tick) for tick in range(at.tick, last)]
            at = At(at.section, last, at.lap)
        if broken(at):
            # What starts shows its first frame, whatever is asked of that.
            return (tuple(frames) or ((at.section, at.tick),)), True
        frames.append((at.section, at.tick))
        gate = flow.gate(at, lambda i, g: sure(g.conditions) and bool(flow.ways(g.to)), only)
        onward = flow.next(at, gate[1].section if gate is not None else None, only)
        if onward is None:
            return tuple(frames), True
        at = onward[0]
    return tuple(frames), False


def weighs_itself(build: CompiledProject, compiled: CompiledAction) -> bool:
    """Whether an action sets, as it starts or on its way, by how much its own layer counts."""
    layer = build.layers.get(compiled.action.layer)
    if layer is None or not layer.layer.by:
        return False
    by = layer.layer.by
    events = (e for part in compiled.action.sections for e in part.events)
    sets = any(s.setting == by for s in compiled.action.on_start.parameters)
    return sets or any(e.kind == "parameter" and e.name == by for e in events)


def play_alone(
    build: CompiledProject, compiled: CompiledAction, *, posed: bool = True
) -> Iterator[tuple[FighterState, Simulation]]:
    """The fighter on each tick, played alone, up to the first on which the action has ended."""
    name = "attacker"
    simulation = Simulation(build.level, fighters=(Fighter(name=name, facing=0.0),), posed=posed)
    inputs = [Input(name, action=compiled.action.name)]
    for _ in range(LONGEST):
        record = simulation.tick(inputs)
        inputs = []
        state = record.fighter(name)
        yield state, simulation
        if not any(v.compiled.action.name == compiled.action.name for v in state.live()):
            return
