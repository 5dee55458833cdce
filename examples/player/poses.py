"""Poses mixed: the mean of several, one over another, one's difference added to another."""

from __future__ import annotations

from collections.abc import Sequence
from math import acos, degrees, sin

from player.clips import GroundClip
from player.figure import Figure
from player.glb import Pose
from player.turns import (
    STILL,
    Turn,
    Vector,
    alike,
    back,
    mixed,
    multiply,
    normal,
    other_sign,
    partly,
    shorter,
)

Moment = tuple[Pose, Pose, float, float]
"""A pose and the next of its clip, how far it is from the one to the other, and by how much it counts."""
KEEPS, GOES = 45.0, 150.0
"""In body space an aim is kept while what it hangs on is turned by less than the first from where the pose above has it
(degrees); from the second on it is joint by joint."""


HALF = 0.5 - 1e-9
"""A drawing that shows by more than this is the one that is seen."""


def strongest(moments: Sequence[Moment]) -> Pose:
    """Of drawings there is no mean: that one which counts most, the first of those that count alike."""
    most = max(weight for _, _, _, weight in moments)
    a, b, t, _ = next(m for m in moments if m[3] >= most - 1e-9)
    return b if t >= 1.0 - 1e-6 else a


def mean(moments: Sequence[Moment]) -> Pose:
    """The weighted mean: turns by their normalised sum, each of the sign nearer to the first."""
    first = moments[0][0].turns
    rows = [(pose, w * part) for a, b, t, w in moments for pose, part in ((a, 1.0 - t), (b, t)) if w * part != 0.0]
    turns: list[Turn] = []
    places: list[Vector] = []
    for j, own in enumerate(first):
        x = y = z = w = px = py = pz = 0.0
        for pose, much in rows:
            q, v = pose.turns[j], pose.places[j]
            px, py, pz = px + much * v[0], py + much * v[1], pz + much * v[2]
            if alike(own, q) < 0.0:
                much = -much
            x, y, z, w = x + much * q[0], y + much * q[1], z + much * q[2], w + much * q[3]
        turns.append(normal((x, y, z, w)))
        places.append((px, py, pz))
    return Pose(turns, places)


def at_share(clip: GroundClip, share: float, loop: bool) -> Pose:
    """A clip where a share of it has played: evenly from frame to frame, the shorter way round."""
    at = clip.frame(share, loop)
    low = int(at)
    if at <= low or clip.drawn:
        return clip.poses[int(at + 1e-6)]
    a, b, t = clip.poses[low], clip.poses[low + 1], at - low
    turns = [_slerp(p, q, t) for p, q in zip(a.turns, b.turns)]
    return Pose(turns, [mixed(p, q, t) for p, q in zip(a.places, b.places)])


def _slerp(a: Turn, b: Turn, t: float) -> Turn:
    if alike(a, b) < 0.0:
        b = other_sign(b)
    angle = acos(min(alike(a, b), 1.0))
    sine = sin(angle)
    wa, wb = (1.0 - t, t) if sine < 1e-6 else (sin((1.0 - t) * angle) / sine, sin(t * angle) / sine)
    return normal(tuple(wa * p + wb * q for p, q in zip(a, b)))  # type: ignore[arg-type]


def _same_way(delta: Turn, way: Sequence[Turn] | None, joint: int) -> Turn:
    """A turn of the sign that goes the way round it went before, the shorter one where there is no before."""
    side = delta[3] if way is None else alike(delta, way[joint])
    return other_sign(delta) if side < 0.0 else delta


def over(
    figure: Figure, base: Pose, pose: Pose, weight: Sequence[float], way: Sequence[Turn] | None, space: str = "joint"
) -> tuple[Pose, list[Turn]]:
    """A pose over another by a weight for each joint, each joint the way round it began; and the ways they go now."""
    if figure.picture >= 0:
        return (pose if weight[figure.picture] > HALF else base), [STILL] * len(base.turns)
    places = [b if w >= 1.0 else a if w <= 0.0 else mixed(a, b, w) for a, b, w in zip(base.places, pose.places, weight)]
    turns = list(base.turns)
    goes = [STILL] * len(turns)
    body = space == "body"
    about = _about_body(figure, base) if body else turns
    aims = _swayed(figure, about, _about_body(figure, pose), weight) if body else pose.turns
    for j, much in enumerate(weight):
        if much > 0.0:
            turn = goes[j] = _same_way(multiply(back(about[j]), aims[j]), way, j)
            about[j] = aims[j] if much >= 1.0 else normal(multiply(about[j], partly(turn, much)))
    return Pose(_local(figure, about, base, pose, weight) if body else about, places), goes


def added(
    figure: Figure,
    base: Pose,
    pose: Pose,
    reference: Pose,
    weight: Sequence[float],
    way: Sequence[Turn] | None,
    space: str = "joint",
) -> tuple[Pose, list[Turn]]:
    """A pose with the difference from a reference to another added by a weight for each joint."""
    if figure.picture >= 0:
        return base, [STILL] * len(base.turns)
    rows = zip(base.places, pose.places, reference.places, weight)
    places = [
        (a[0] + (b[0] - c[0]) * w, a[1] + (b[1] - c[1]) * w, a[2] + (b[2] - c[2]) * w) if w > 0.0 else a
        for a, b, c, w in rows
    ]
    goes = [STILL] * len(places)
    if space == "body":
        about, aims, from_ = (_about_body(figure, p) for p in (base, pose, reference))
        for j, much in enumerate(weight):
            if much > 0.0:
                goes[j] = _same_way(multiply(aims[j], back(from_[j])), way, j)
                about[j] = normal(multiply(partly(goes[j], much), about[j]))
        return Pose(_local(figure, about, base, None, weight), places), goes
    turns = list(base.turns)
    for j, much in enumerate(weight):
        if much > 0.0:
            goes[j] = _same_way(multiply(back(reference.turns[j]), pose.turns[j]), way, j)
            turns[j] = normal(multiply(turns[j], partly(goes[j], much)))
    return Pose(turns, places), goes


def _about_body(figure: Figure, pose: Pose) -> list[Turn]:
    out: list[Turn] = []
    for parent, turn in zip(figure.parents, pose.turns):
        out.append(turn if parent < 0 else multiply(out[parent], turn))
    return out


def _swayed(figure: Figure, about: Sequence[Turn], aims: list[Turn], weight: Sequence[float]) -> list[Turn]:
    """Where joints aim about the body: as in the pose above, while what holds them (the nearest joint over them that
    the mask leaves alone) sways a little; the farther it is off, the more they go with it."""
    holds: list[int] = []
    for parent in figure.parents:
        holds.append(-1 if parent < 0 else holds[parent] if weight[parent] > 0.0 else parent)
    out = list(aims)
    for j, hold in enumerate(holds):
        if hold >= 0 and weight[j] > 0.0:
            turn = shorter(multiply(about[hold], back(aims[hold])))
            t = (2.0 * degrees(acos(min(max(turn[3], -1.0), 1.0))) - KEEPS) / (GOES - KEEPS)
            t = min(max(t, 0.0), 1.0)
            out[j] = multiply(partly(turn, t * t * (3.0 - 2.0 * t)), aims[j])
    return out


def _local(figure: Figure, about: list[Turn], base: Pose, pose: Pose | None, weight: Sequence[float]) -> list[Turn]:
    """Turns in what they hang on, of turns about the body where there is a weight; those of the base elsewhere."""
    out: list[Turn] = []
    under: list[bool] = []
    for j, parent in enumerate(figure.parents):
        under.append(parent >= 0 and (under[parent] or weight[parent] > 0.0))
        if weight[j] <= 0.0:
            if under[j]:
                about[j] = multiply(about[parent], base.turns[j])
            out.append(base.turns[j])
        elif parent < 0:
            out.append(about[j])
        elif pose is not None and weight[j] >= 1.0 and weight[parent] >= 1.0:
            out.append(pose.turns[j])
        else:
            out.append(normal(multiply(back(about[parent]), about[j])))
    return out
