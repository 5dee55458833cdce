"""How a locomotion state plays: which clips, by how much, how fast, and the pose they make."""

from __future__ import annotations

from math import hypot

import numpy as np

from veergust.core.kinds import Moving, measured
from veergust.core.model import State
from veergust.core.motion import Array, Pose, feet_of, mean, strongest
from veergust.core.play.compiled.locomotion_clip import LocomotionClip, Part
from veergust.core.play.compiled.project import CompiledProject

SLOWEST, FASTEST = 0.25, 2.5
"""So many times as fast as it was made a clip is played at the most, to keep up with the body."""
KNOWN = 64
"""So many mixes of blends are kept: a tick asks for the same one several times."""
TRIED = 48
"""Phases of a lap among which that is sought in which the feet fit."""
AS_WELL = 1e-6
"""Phases fit as well whose squares of distances (m²) differ by no more."""
HALF = 0.5 - 1e-6
"""What lies half way between two frames is of the earlier, whatever the rounding."""

Place = tuple[float, ...] | None
"""Where a blend stands among its points; None: where the body is."""


def parts_of(build: CompiledProject, body: Moving, state: State, at: Place = None) -> list[Part]:
    """The clips of a state that show, with weight and speed."""
    if not state.blend:
        return [(build.locomotion_clip(state.clip), 1.0, state.matched)]
    blend = build.blends[state.name]
    place = blend.place(values_of(body, state)) if at is None else at
    known = build.parts.get((state.name, place))
    if known is None:
        points = build.blend_points.get(state.name)
        if points is None:
            points = [(build.locomotion_clip(p.clip), point_speed(build, state, i)) for i, p in enumerate(state.blend)]
            build.blend_points[state.name] = points
        known = [(points[i][0], w, points[i][1]) for i, w in blend.weights_at(place)]
        if len(build.parts) >= KNOWN:
            build.parts.clear()
        build.parts[state.name, place] = known
    return known


def values_of(body: Moving, state: State) -> list[float]:
    """What a state's blend is over, as it is now."""
    return [measured(body, name) for name in state.over[:2]]


def nearer(build: CompiledProject, body: Moving, state: State, at: Place, share: float) -> Place:
    """Where a blend stands a tick on: by a ``share`` nearer to where the body is."""
    if not state.blend:
        return None
    blend, values = build.blends[state.name], values_of(body, state)
    return blend.place(values) if at is None else blend.nearer(at, values, share)


def point_speed(build: CompiledProject, state: State, index: int) -> float:
    """The ground speed (m/s) of a point of a blend: as it is laid out by speed, else that of its clip."""
    point = state.blend[index]
    by = dict(zip(state.over, point.at))
    if "speed" in by:
        return abs(by["speed"])
    if "ahead" in by or "left" in by:
        return hypot(by.get("ahead", 0.0), by.get("left", 0.0))
    return hypot(*build.locomotion_clip(point.clip).pace)


def loops(state: State, clip: LocomotionClip) -> bool:
    """Whether a clip goes round in a state."""
    return bool(state.blend) or (clip.loop if state.plays == "clip" else state.plays == "loop")


def moves(build: CompiledProject, state: State) -> bool:
    """Whether a state goes over the floor in steps, which it hands on to the next."""
    return bool(state.blend or state.matched)


def own_phase(state: State, clip: LocomotionClip, phase: float) -> float:
    """How much of a clip has played in a phase of its state: where the same foot stands, else the same share."""
    if state.plays == "hold" and not state.blend:
        return 1.0
    if loops(state, clip) and clip.beat is not None:
        return clip.beat.own(phase)
    return phase


def phase_at(state: State, clip: LocomotionClip, own: float) -> float:
    """The phase of its state in which a share ``own`` of a clip has played."""
    if loops(state, clip) and clip.beat is not None and state.plays != "hold":
        return clip.beat.step(own)
    return own


def cycles(build: CompiledProject, body: Moving, state: State, phase: float, place: Place = None) -> float:
    """How many phases a second a state goes on by: as fast as the feet have to, to stand while the body goes."""
    seconds = stride = 0.0
    speed = measured(body, "speed")
    for clip, weight, at in parts_of(build, body, state, place):
        beat = clip.beat if loops(state, clip) else None
        length = clip.seconds * (beat.slope(phase) if beat is not None else 1.0)
        seconds += weight * length
        stride += weight * length * at
    if stride <= 1e-6:
        return 1.0 / max(seconds, 1e-6)
    return min(max(speed / stride, SLOWEST / seconds), FASTEST / seconds)


def state_pose(build: CompiledProject, body: Moving, name: str, phase: float, place: Place = None) -> Pose:
    """The pose of a locomotion state about the body."""
    state = build.states.get(name)
    if state is None:
        return build.assets.skeleton.rest_pose()
    return mixed(build, moments_of(build, body, state, phase, place))


Moments = list[tuple[Pose, float, float]]
"""Poses of clips, on which of their frames (and how far towards the next), and how much each counts; together 1."""


def moments_of(build: CompiledProject, body: Moving, state: State, phase: float, place: Place = None) -> Moments:
    """The moments of the clips that make a state's pose."""
    return [
        (clip.pose, clip.frame_at(own_phase(state, clip, phase), loops(state, clip)), weight)
        for clip, weight, _ in parts_of(build, body, state, place)
    ]


def mixed(build: CompiledProject, moments: Moments) -> Pose:
    """The pose that moments make together; the figure at rest where there are none."""
    if not moments:
        return build.assets.skeleton.rest_pose()
    pose, at, _ = moments[0]
    if len(moments) == 1 and at == int(at):
        return pose.frame(int(at))
    return strongest(moments) if build.assets.skeleton.picture >= 0 else mean(moments)


def first_phase(build: CompiledProject, body: Moving, state: State) -> float:
    """The phase in which a state's clip begins."""
    parts = parts_of(build, body, state)
    clip = max(parts, key=lambda p: p[1])[0] if parts else None
    return phase_at(state, clip, 0.0) if clip is not None else 0.0


def feet_in(build: CompiledProject, body: Moving, state: State, phase: float) -> Array:
    """Where the feet are about the body in a phase of a state: ``[feet, 3]`` (m), off the clips' own grids."""
    feet = list(feet_of(build.assets.skeleton))
    out = np.zeros((len(feet), 3))
    for clip, weight, _ in parts_of(build, body, state):
        own = own_phase(state, clip, phase)
        frames = len(clip.joints) - 1
        at = (own % 1.0 if loops(state, clip) else min(max(own, 0.0), 1.0)) * frames
        out += weight * clip.joints[int(at + HALF), feet]
    return out


def fitting_phase(build: CompiledProject, body: Moving, state: State, feet: Array) -> float:
    """The phase of a state in which the feet are nearest to ``feet`` ``[feet, 3]`` about the body (m): the first of all
    that fit as well."""
    tried = np.arange(TRIED) / TRIED
    far = [float(np.sum((feet_in(build, body, state, float(t)) - feet) ** 2)) for t in tried]
    return float(tried[int(np.argmax(np.array(far) <= min(far) + AS_WELL))])
