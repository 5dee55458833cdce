"""Where a figure leaps: what neither its clips nor its body nor a fade explains.

A joint pops between two ticks when it goes more than 3 cm, or turns more than 8°, beyond twice what it does on the
ticks beside. Where only a fade makes up a difference it must not be asked for more than 30 cm a tick.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import combinations

import numpy as np
from msgspec.structs import replace
from numpy.typing import NDArray

from veergust.core.kinds import Fixed
from veergust.core.model import Exit, State
from veergust.core.motion import WHOLE, Array, forward, track_of
from veergust.core.play import CompiledAction, CompiledProject, bodies_of, state_pose
from veergust.core.study.drawn_pops import jumps

FAR, TURN = 0.03, 8.0
FADED = 0.3
PHASES = 8
LEFT = 0.05
"""Travel left in the pose at an ending (m) that is told."""


@dataclass(frozen=True)
class Leap:
    """A joint that pops between rows ``row − 1`` and ``row``: how far (m, degrees) beyond what is explained."""

    row: int
    joint: int
    metres: float
    degrees: float


@dataclass(frozen=True)
class Pop:
    """A pop of an action: the ``source`` it comes from (a state, section or action), the frame it enters, and why."""

    action: str
    section: str
    source: str
    at: int
    joint: str
    metres: float
    degrees: float
    why: str
    do: str
    code: str = "pop"


def leaps(worlds: Array, rows: NDArray[np.intp] | None = None) -> list[Leap]:
    """The worst joint of every row of world matrices ``[T, J, 4, 4]`` that pops; of some rows only, when given."""
    count = len(worlds)
    if count < 3 or not worlds.shape[1]:
        return []
    asked = np.arange(1, count) if rows is None else rows[(rows > 0) & (rows < count)]
    moved = np.linalg.norm(np.diff(worlds[..., :3, 3], axis=0), axis=-1)
    turned = _turned(worlds)
    return _worst(asked, moved[asked - 1], turned[asked - 1], _beyond(moved)[asked - 1], _beyond(turned)[asked - 1])


def _worst(rows: NDArray[np.intp], moved: Array, turned: Array, far: Array, turn: Array) -> list[Leap]:
    """The joint of each row that pops worst, of what joints ``[N, J]`` move and turn, and by how much beyond."""
    worst = np.maximum((far - FAR) / FAR, (turn - TURN) / TURN)
    joints = np.argmax(worst, axis=-1)
    found = zip(range(len(rows)), joints)
    return [Leap(int(rows[n]), int(j), float(moved[n, j]), float(turned[n, j])) for n, j in found if worst[n, j] > 0.0]


def _beyond(steps: Array) -> Array:
    """Each step ``[T, …]`` less twice the greater of those beside it."""
    beside = np.zeros_like(steps)
    beside[1:] = steps[:-1]
    beside[:-1] = np.maximum(beside[:-1], steps[1:])
    return steps - 2.0 * beside


def _turned(worlds: Array) -> Array:
    """Degrees ``[T − 1, …]`` that joints ``[T, …, 4, 4]`` turn in the world from row to row."""
    trace = np.einsum("...ab,...ab->...", worlds[:-1, ..., :3, :3], worlds[1:, ..., :3, :3])
    return np.asarray(np.degrees(np.arccos(np.clip((trace - 1.0) / 2.0, -1.0, 1.0))))


def row_steps(compiled: CompiledAction) -> tuple[Array, list[Leap]]:
    """The fastest joint's step (m) on each of the ``N`` rows of the sheet, and where the path pops at a border."""
    bones = compiled.sections[0].skeleton if compiled.order else None
    if bones is None or not len(bones) or bones.picture >= 0:
        return np.zeros(compiled.rows), []
    poses = np.concatenate([compiled.world_of(i)[: compiled.sections[i].ticks] for i in compiled.order])
    bodies = compiled.bodies[: compiled.rows]
    places = poses[..., :3, 3] @ bodies[:, :3, :3].transpose(0, 2, 1) + bodies[:, None, :3, 3]
    steps = np.zeros(compiled.rows)
    steps[1:] = np.sqrt(np.square(np.diff(places, axis=0)).sum(axis=-1).max(axis=-1))
    borders = []
    for n, (first, i) in enumerate(compiled.row_starts()):
        borders += [first + c.first for c in compiled.sections[i].cuts if c.first > 0]
        if n < len(compiled.path):
            borders.append(first)
        else:
            steps[first] = 0.0
    # What follows the path is not played on into.
    return steps, _at_borders(poses, bodies, compiled.total, np.array(borders, dtype=np.intp))


def _at_borders(poses: Array, bodies: Array, total: int, borders: NDArray[np.intp]) -> list[Leap]:
    """What pops at borders of the first ``total`` rows of poses ``[N, J, 4, 4]`` about their bodies ``[N, 4, 4]``: as
    ``leaps`` has it, from the step into each border and those on either side."""
    rows = borders[(borders > 0) & (borders < total)]
    if total < 3 or not len(rows):
        return []
    at = np.clip(rows + np.arange(-2, 2)[:, None], 0, total - 1)  # beyond either end it stands still
    worlds = bodies[at][:, :, None] @ poses[at]  # [4, borders, J, 4, 4]
    moved = np.linalg.norm(np.diff(worlds[..., :3, 3], axis=0), axis=-1)
    turned = _turned(worlds)
    return _worst(rows, moved[1], turned[1], _beyond(moved)[1], _beyond(turned)[1])


def pops(build: CompiledProject, compiled: CompiledAction) -> list[Pop]:
    """Every pop of an action: at cuts and section borders, at starts, exits and endings."""
    if not compiled.path or len(build.assets.skeleton) == 0:
        return []
    if build.assets.skeleton.picture >= 0:
        name = compiled.action.name
        return [Pop(name, *j[:3], "feet", round(j.metres, 4), 0.0, j.why, j.do) for j in jumps(build, compiled)]
    return [
        *_borders(build, compiled),
        *_starts(build, compiled),
        *_exits(build, compiled),
        *_endings(build, compiled),
    ]


def _borders(build: CompiledProject, compiled: CompiledAction) -> Iterator[Pop]:
    for i, part in enumerate(compiled.sections):
        section = part.section
        for cut in part.cuts[1:]:
            rows = np.array([cut.first])
            worlds = bodies_of(part.place, part.yaw)[:, None] @ part.world
            for leap in leaps(worlds, rows):
                says = f"its cut of {cut.cut.clip} begins elsewhere"
                yield _pop(build, compiled, i, section.name, leap.row, leap, says,
                           "crossfade the cut over 4 to 8 frames, or begin it nearer to the pose before")  # fmt: skip
        ways = [(to, part.ticks - 1, compiled.sections[to].blend) for to in compiled.ways(section.then)]
        for gate in section.gates:
            for to in compiled.ways(gate.to):
                blend = gate.blend or compiled.sections[to].blend
                ways += [(to, min(max(t, 0), part.ticks - 1), blend) for t in {gate.start, gate.end - 1}]
        seen: set[tuple[int, int]] = set()
        for to, tick, blend in ways:
            if (to, blend) in seen:
                continue
            found = _link(compiled, i, tick, compiled, to, blend)
            if found is not None:
                seen.add((to, blend))
                where = "the seam of its loop" if to == i else f"{section.name} goes over into it"
                yield _pop(build, compiled, to, section.name, 0, found, where,
                           "crossfade its first cut over 4 to 8 frames, or begin it nearer to that pose")  # fmt: skip


def _link(a: CompiledAction, i: int, tick: int, b: CompiledAction, j: int, blend: int) -> Leap | None:
    """How section ``i`` left after ``tick`` goes over into section ``j``."""
    old, new = a.sections[i], b.sections[j]
    if blend > 0:
        gap = np.linalg.norm(old.world[tick + 1, :, :3, 3] - new.world[0, :, :3, 3], axis=-1)
        joint = int(np.argmax(gap))
        quick = float(gap[joint]) / (blend + 1)
        return Leap(0, joint, quick, 0.0) if quick > FADED else None
    rows = [max(tick - 1, 0), tick]
    first = bodies_of(old.place[[*rows, tick + 1]], old.yaw[[*rows, tick + 1]])
    after = bodies_of(new.place[: min(3, new.ticks + 1)], new.yaw[: min(3, new.ticks + 1)])
    worlds = np.concatenate([first[:2, None] @ old.world[rows], (first[2] @ after)[:, None] @ new.world[: len(after)]])
    found = leaps(worlds, np.array([2]))
    return found[0] if found else None


def _pop(
    build: CompiledProject,
    compiled: CompiledAction,
    section: int,
    source: str,
    at: int,
    leap: Leap,
    why: str,
    do: str,
    code: str = "pop",
) -> Pop:
    return Pop(
        compiled.action.name,
        compiled.sections[section].section.name,
        source,
        at,
        build.assets.skeleton.names[leap.joint],
        round(leap.metres, 4),
        round(leap.degrees, 2),
        why,
        do,
        code,
    )


def words(pop: Pop) -> str:
    """A pop in a sentence."""
    if pop.code == "travel-left":
        return pop.why
    how = f"{pop.metres * 100:.0f} cm" if pop.metres > FAR else f"{pop.degrees:.0f}°"
    if pop.joint == "feet":
        return f"its feet jump by {how}: {pop.why}"
    return f"{pop.joint} pops by {how} in one frame: {pop.why}"


def _starts(build: CompiledProject, compiled: CompiledAction) -> Iterator[Pop]:
    """From each state it may start in, standing and running, through a whole lap of locomotion."""
    rule = compiled.action.start
    if not rule.commands:
        return
    idle = build.idle_state
    states = [s for s in build.states.values() if any(build.chart.within(s.name, name) for name in rule.states)]
    states = states or ([idle] if idle is not None else [])
    part = compiled.sections[compiled.entry]
    for state in states:
        if not any(build.clip(name) for name in (state.clip, *(p.clip for p in state.blend))):
            continue
        gap = np.linalg.norm(build.ask(lap_of, state).places - part.world[0, :, :3, 3], axis=-1)
        worst = gap.max(axis=0)
        joint = int(np.argmax(worst))
        blend = compiled.action.blend_in
        quick = float(worst[joint]) / (blend + 1)
        near = float(np.linalg.norm(part.world[1, joint, :3, 3] - part.world[0, joint, :3, 3]))
        if (blend == 0 and quick > FAR + 2.0 * near) or quick > FADED:
            leap = Leap(0, joint, float(worst[joint]) if blend == 0 else quick, 0.0)
            how = f"blended in over {blend} f" if blend else "with no blend"
            yield _pop(build, compiled, compiled.entry, state.name, 0, leap,
                       f"its first pose is {worst[joint] * 100:.0f} cm from {state.name}, {how}",
                       "blend in longer, or start the first cut nearer to that pose", "start-pops")  # fmt: skip


@dataclass(frozen=True, eq=False)
class Lap:
    """Joint places ``[P, J, 3]`` about the body through a lap of a state, standing and at its speeds."""

    places: Array


def lap_of(build: CompiledProject, state: State) -> Lap:
    """The lap of a state, at the points of its blend and between any two: the same for every action that may start in
    it."""
    poses = []
    for at in ((0.0,) * len(state.over), *(p.at for p in state.blend), *between(state)):
        body = Fixed(dict(zip(state.over, at)))
        poses += [state_pose(build, body, state.name, float(phase)) for phase in np.arange(PHASES) / PHASES]
    turn, place = np.concatenate([p.rotation for p in poses]), np.concatenate([p.translation for p in poses])
    return Lap(forward(build.assets.skeleton, turn, place)[..., :3, 3])


def between(state: State) -> list[tuple[float, ...]]:
    """Places half way between two points of a blend: over one measure of those beside each other, over two of all."""
    points = sorted({p.at for p in state.blend if len(p.at) == len(state.over)})
    pairs = zip(points, points[1:]) if len(state.over) == 1 else combinations(points, 2)
    return [tuple((x + y) / 2.0 for x, y in zip(a, b)) for a, b in pairs]


def _exits(build: CompiledProject, compiled: CompiledAction) -> Iterator[Pop]:
    own = [(i, e) for i, part in enumerate(compiled.sections) for e in part.section.exits]
    for i, exit_ in [*own, *((compiled.path[-1], e) for e in compiled.action.exits)]:
        target = build.action(exit_.to) if exit_.to_kind == "action" else None
        if target is None or not target.sections:
            continue
        entry = target.index.get(exit_.section, target.entry)
        last = compiled.sections[i].ticks - 1
        for tick in dict.fromkeys((min(max(exit_.start - 1, 0), last), min(max(exit_.end - 2, 0), last))):
            leap = _link(compiled, i, tick, target, entry, exit_.blend)
            if leap is not None:
                yield _exit_pop(build, compiled, i, target, exit_, tick, leap)
                break


def _exit_pop(
    build: CompiledProject,
    compiled: CompiledAction,
    i: int,
    target: CompiledAction,
    exit_: Exit,
    tick: int,
    leap: Leap,
) -> Pop:
    name = compiled.sections[i].section.name
    return _pop(build, compiled, i, name, tick, leap,
                f"its {exit_.kind} to {target.action.name} leaps on frame {tick + 1}",
                f"blend the exit over {max(4, exit_.blend * 2)} to {max(8, exit_.blend * 3)} frames")  # fmt: skip


def _endings(build: CompiledProject, compiled: CompiledAction) -> Iterator[Pop]:
    """Back to locomotion: the last pose against idle, and travel that was left in the pose."""
    idle = build.locomotion_clip(build.idle_clip).at(0.0)
    rest = forward(build.assets.skeleton, idle.rotation, idle.translation)[0]
    for i, part in enumerate(compiled.sections):
        if compiled.ways(part.section.then):
            continue
        blend = compiled.action.blend_out
        gap = np.linalg.norm(part.world[-1, :, :3, 3] - rest[:, :3, 3], axis=-1)
        joint = int(np.argmax(gap))
        near = float(np.linalg.norm(part.world[-1, joint, :3, 3] - part.world[-2, joint, :3, 3]))
        quick = float(gap[joint]) / (blend + 1)
        if build.clip(build.idle_clip) is not None and ((blend == 0 and quick > FAR + 2.0 * near) or quick > FADED):
            yield _pop(build, compiled, i, part.section.name, part.ticks, Leap(0, joint, quick, 0.0),
                       f"its last pose is {gap[joint] * 100:.0f} cm from idle, faded out over {blend} f",
                       "fade out longer, or end the last cut nearer to idle")  # fmt: skip
        left = _left(build, compiled, i)
        if left > LEFT:
            root = build.root_joint
            yield _pop(build, compiled, i, part.section.name, part.ticks, Leap(0, root, left, 0.0),
                       f"travel is left in the pose: it snaps back {left:.2f} m at the end",
                       "let that part of the root's travel move the body, or take it out of the clip",
                       "travel-left")  # fmt: skip


def _left(build: CompiledProject, compiled: CompiledAction, section: int) -> float:
    """How far (m) from its body a section's last pose stands, by parts of the travel that are off."""
    part = compiled.sections[section]
    cut = part.cuts[-1] if part.cuts else None
    clip = build.clip(cut.cut.clip) if cut is not None else None
    if cut is None or clip is None:
        return 0.0
    at = np.array([part.source[-1]])
    use, turned = compiled.action.root, cut.cut.mirror
    bare = replace(clip, root=WHOLE)
    whole = track_of(build.assets, bare, build.roots, WHOLE, turned=turned).at(at)[0]
    kept = track_of(build.assets, clip, build.roots, use, turned=turned).at(at)[0]
    return float(np.linalg.norm((whole - kept)[0, [0, 2]]))
