"""Which joint of a foreign skeleton answers to which of the figure's: proposed by name, place in the chain and rest
position, each pair with its reason.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import product
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from veergust.core.model import Vec3
from veergust.core.motion import quat
from veergust.core.motion.feet import feet_of
from veergust.core.motion.naming import Part, parts_of
from veergust.core.motion.quat import Array
from veergust.core.motion.skeleton import Skeleton

Reason = Literal["name", "chain", "position"]
SMALL = ("", "thumb", "index", "middle", "ring", "little", "fingers", "toe", "eye", "jaw")
CHAINS = ("spine", "neck")
LENGTHS = (0.4, 2.5)
"""How much shorter or longer than usual a limb's bone may be to be the same bone."""
NEAR = 0.14


@dataclass(frozen=True)
class Pair:
    """A joint of the source, the joint of the figure it moves, and why."""

    source: str
    figure: str
    reason: Reason


@dataclass(frozen=True)
class MappingProposal:
    """Pairs in the figure's order; how the source stands up (degrees about x, y, z) and is scaled."""

    pairs: tuple[Pair, ...]
    turn: Vec3
    scale: float


def propose(source: Skeleton, figure: Skeleton) -> MappingProposal:
    """Match ``source`` to ``figure``."""
    named = _by_name(source, figure)
    turn = stand_up(source, figure, named)
    named = _of_one_length(source, figure, named)
    named |= _along_chains(source, figure, named, turn)
    found = {f: Pair(source.names[s], figure.names[f], reason) for f, (s, reason) in named.items()}
    for f, s in _by_position(source, figure, {f: s for f, (s, _) in named.items()}, turn).items():
        found[f] = Pair(source.names[s], figure.names[f], "position")
    pairs = tuple(found[f] for f in sorted(found))
    return MappingProposal(
        pairs,
        turn,
        size_ratio(source, figure, {p.figure: p.source for p in pairs}, turn),
    )


def shares_nothing(source: Skeleton, figure: Skeleton, pairs: Sequence[tuple[str, str]]) -> bool:
    """Whether so little of a skeleton answers to the figure's that nothing of its motion would be left.

    ``pairs`` are (source, figure). It is enough that the hips and two limbs, or a third of the figure's joints that
    are no fingers or toes, have an answer.
    """
    parts = parts_of(figure)
    large = [n for n, p in zip(figure.names, parts) if not p.end and p.kind not in SMALL]
    got = {f for _, f in pairs}
    kinds = [p.kind for n, p in zip(figure.names, parts) if n in got]
    body = "hips" in kinds and sum(k in ("thigh", "shin", "upper_arm", "forearm") for k in kinds) >= 2
    return not body and len(got & set(large)) < max(1, len(large) // 3)


def _by_name(source: Skeleton, figure: Skeleton) -> dict[int, tuple[int, Reason]]:
    """Figure joint → source joint, where the names are the same or mean the same and are the only ones to."""
    lower = {name.lower(): j for j, name in reversed(list(enumerate(source.names)))}
    theirs, ours = parts_of(source), parts_of(figure)
    exact = {f: lower[name.lower()] for f, name in enumerate(figure.names) if name.lower() in lower}
    # What is called root here may be the hips there.
    exact = {f: s for f, s in exact.items() if not ours[f].kind or theirs[s].kind in ("", ours[f].kind)}
    # "Spine" may be the lowest of three here and the middle one there: in a chain a name alone says little.
    if any(part.kind in CHAINS and f not in exact for f, part in enumerate(ours)):
        exact = {f: s for f, s in exact.items() if ours[f].kind not in CHAINS}
    out: dict[int, tuple[int, Reason]] = {f: (s, "name") for f, s in exact.items()}
    taken = set(exact.values())
    for f, part in enumerate(ours):
        if f in out or not part.kind or part.kind in CHAINS or part.end:
            continue
        same = [s for s, p in enumerate(theirs) if _means(p, part) and s not in taken]
        # One finger joint after the other; of anything else the first of its chain.
        rank = [g for g, p in enumerate(ours) if _means(p, part) and g not in exact].index(f)
        if rank < len(same) and (rank == 0 or part.number):
            out[f] = (same[rank], "name")
    return out


def _of_one_length(
    source: Skeleton, figure: Skeleton, named: dict[int, tuple[int, Reason]]
) -> dict[int, tuple[int, Reason]]:
    """The pairs without limbs whose bone is of quite another length here than there, in bodies made equally tall.

    Such a bone is answered by another joint between the same two where one fits, else by none.
    """
    out = dict(named)
    bones = [(f, below) for f in named for below in [_next_limb(figure, f, named)] if below is not None]
    if not bones:
        return out

    def ratio(s: int, f: int, below: int) -> float:
        there = np.linalg.norm(source.rest_world[out[below][0], :3, 3] - source.rest_world[s, :3, 3])
        here = np.linalg.norm(figure.rest_world[below, :3, 3] - figure.rest_world[f, :3, 3])
        return float(there / max(float(here), 1e-9))

    usual = float(np.median([ratio(out[f][0], f, below) for f, below in bones]))
    taken = {s for s, _ in out.values()}
    for f, below in bones:
        if below not in out or LENGTHS[0] * usual <= ratio(out[f][0], f, below) <= LENGTHS[1] * usual:
            continue
        between, at = [], source.parents[out[below][0]]
        while at >= 0 and at not in taken - {out[f][0]}:
            between.append(at)
            at = source.parents[at]
        fits = [s for s in between if LENGTHS[0] * usual <= ratio(s, f, below) <= LENGTHS[1] * usual]
        if fits:
            nearest = min(fits, key=lambda s: abs(np.log(max(ratio(s, f, below), 1e-9) / max(usual, 1e-9))))
            taken ^= {out[f][0], nearest}
            out[f] = (nearest, "position")
        else:
            taken.discard(out[f][0])
            del out[f]
    return out


def _next_limb(figure: Skeleton, joint: int, named: dict[int, tuple[int, Reason]]) -> int | None:
    """The mapped joint at the other end of a limb's bone."""
    parts = parts_of(figure)
    after = {"thigh": "shin", "shin": "foot", "upper_arm": "forearm", "forearm": "hand"}.get(parts[joint].kind)
    wanted = [f for f in named if after and parts[f].kind == after and parts[f].side == parts[joint].side]
    return wanted[0] if wanted else None


def _means(a: Part, b: Part) -> bool:
    return bool(a.kind) and (a.kind, a.side) == (b.kind, b.side) and not a.end


def _along_chains(
    source: Skeleton, figure: Skeleton, named: dict[int, tuple[int, Reason]], turn: Vec3
) -> dict[int, tuple[int, Reason]]:
    """The joints between hips and head, by how far up they are: the same share of the way goes together."""
    ends = [f for f, p in enumerate(parts_of(figure)) if p.kind in ("hips", "head") and not p.side and f in named]
    out: dict[int, tuple[int, Reason]] = {}
    if len(ends) < 2:
        return out
    low, high = ends[0], ends[-1]
    ours = _between(figure, low, high)
    theirs = _between(source, named[low][0], named[high][0])
    ours, theirs = [f for f in ours if f not in named], [s for s in theirs if s not in {v for v, _ in named.values()}]
    if not ours or not theirs:
        return out
    up_ours = _share(figure.rest_world[:, 1, 3], ours, low, high)
    stood = standing(source, turn)
    up_theirs = _share(stood[:, 1], theirs, named[low][0], named[high][0])
    # Both run upwards, so the best matching that keeps their order is an alignment of two sequences.
    for f, s in _aligned(up_ours, up_theirs):
        out[ours[f]] = (theirs[s], "chain")
    return out


def _between(skeleton: Skeleton, low: int, high: int) -> list[int]:
    out = []
    at = skeleton.parents[high]
    while at >= 0 and at != low:
        out.append(at)
        at = skeleton.parents[at]
    return out[::-1] if at == low else []


def _share(height: Array, joints: list[int], low: int, high: int) -> Array:
    span = height[high] - height[low]
    return np.asarray((height[joints] - height[low]) / (span if abs(span) > 1e-9 else 1.0))


def _aligned(ours: Array, theirs: Array) -> list[tuple[int, int]]:
    """Pairs (i, j), both rising, as many as the shorter has, with the least difference of their shares."""
    swap = len(ours) > len(theirs)
    a, b = (theirs, ours) if swap else (ours, theirs)
    n, m = len(a), len(b)
    cost = np.full((n + 1, m + 1), np.inf)
    cost[0] = 0.0
    for i, j in product(range(1, n + 1), range(1, m + 1)):
        cost[i, j] = min(cost[i, j - 1], cost[i - 1, j - 1] + abs(a[i - 1] - b[j - 1]))
    pairs, i, j = [], n, m
    while i > 0 and j > 0:
        if cost[i, j] == cost[i, j - 1]:
            j -= 1
        else:
            pairs.append((i - 1, j - 1))
            i, j = i - 1, j - 1
    return [(y, x) if swap else (x, y) for x, y in reversed(pairs)]


def _by_position(source: Skeleton, figure: Skeleton, known: dict[int, int], turn: Vec3) -> dict[int, int]:
    """The rest, where two joints stand at the same place of bodies made equally tall.

    A pair counts when each hangs, however far, on the other's mapped ancestor, so that no chain is crossed.
    """
    free_s = [s for s in range(len(source)) if s not in known.values() and not parts_of(source)[s].end]
    free_f = [f for f in range(len(figure)) if f not in known]
    if not free_s or not free_f:
        return {}
    here, there = _normal(figure.rest_world[:, :3, 3]), _normal(standing(source, turn))
    cost = np.linalg.norm(here[free_f][:, None] - there[free_s][None], axis=-1)
    ours, theirs = parts_of(figure), parts_of(source)
    for i, f in enumerate(free_f):
        for k, s in enumerate(free_s):
            if _anchor(figure, f, set(known)) != _named_anchor(source, s, known):
                cost[i, k] = 9.0
            # Names that mean different things weigh more than places that agree.
            if ours[f].kind and theirs[s].kind and ours[f].kind != theirs[s].kind:
                cost[i, k] = 9.0
    rows, columns = _assigned(cost)
    return {free_f[i]: free_s[k] for i, k in zip(rows, columns) if cost[i, k] < NEAR * (1.0 if known else 2.0)}


def _anchor(figure: Skeleton, joint: int, known: set[int]) -> int:
    at = figure.parents[joint]
    while at >= 0 and at not in known:
        at = figure.parents[at]
    return at


def _named_anchor(source: Skeleton, joint: int, known: dict[int, int]) -> int:
    back = {s: f for f, s in known.items()}
    at = source.parents[joint]
    while at >= 0 and at not in back:
        at = source.parents[at]
    return back.get(at, -1)


def _normal(places: Array) -> Array:
    """Places with the lowest at 0, the highest at 1, and the middle of the body over the origin."""
    tall = max(float(np.ptp(places[:, 1])), 1e-9)
    middle = (places.max(axis=0) + places.min(axis=0)) / 2
    return np.asarray((places - [middle[0], places[:, 1].min(), middle[2]]) / tall)


def standing(source: Skeleton, turn: Vec3) -> Array:
    """Rest places ``[J, 3]`` of a source stood up by ``turn``, in its own unit."""
    return quat.rotate(quat.from_euler(turn), source.rest_world[:, :3, 3])


def stand_up(source: Skeleton, figure: Skeleton, named: dict[int, tuple[int, Reason]]) -> Vec3:
    """Of the 24 ways a body can lie along the axes, the one in which the source's rest pose best fits the figure's.

    As it is comes first, and another must be clearly better.
    """
    rest = source.rest_world[:, :3, 3]
    ways: list[Vec3] = [(float(x), float(y), float(z)) for z in (0, 90, -90, 180) for x in (0, -90, 90, 180)
                        for y in (0, 90, 180, -90)]  # fmt: skip
    best, least = ways[0], np.inf
    ours = _normal(figure.rest_world[:, :3, 3])
    for way in ways:
        theirs = _normal(quat.rotate(quat.from_euler(way), rest))
        if len(named) >= 4:
            gap = np.linalg.norm(ours[list(named)] - theirs[[s for s, _ in named.values()]], axis=-1).mean()
        else:
            cost = np.linalg.norm(ours[:, None] - theirs[None], axis=-1)
            rows, columns = _assigned(cost)
            gap = cost[rows, columns].mean()
        if gap < least - 0.02:
            best, least = way, float(gap)
    return best


def leg_length(skeleton: Skeleton, foot: int | None = None) -> float:
    """Length from the hip joint over the knee to the ankle; without feet, half the height (own unit)."""
    feet = [foot] if foot is not None else list(feet_of(skeleton))
    if not feet:
        return max(float(np.ptp(skeleton.rest_world[:, :3, 3], axis=0).max()), 1e-9) / 2
    knee = skeleton.parents[feet[0]]
    places = skeleton.rest_world[:, :3, 3]
    hip = skeleton.parents[knee] if knee >= 0 else -1
    chain = [j for j in (feet[0], knee, hip) if j >= 0]
    return max(sum(float(np.linalg.norm(places[a] - places[b])) for a, b in zip(chain, chain[1:])), 1e-9)


def size_ratio(source: Skeleton, figure: Skeleton, pairs: dict[str, str], turn: Vec3) -> float:
    """Metres of the figure for one unit of the source: leg by leg where a leg is mapped, else by height.

    ``pairs`` are figure joint → source joint.
    """
    for foot in feet_of(figure):
        knee, hip = figure.parents[foot], figure.parents[figure.parents[foot]]
        chain = [figure.names[j] for j in (foot, knee, hip)]
        if all(name in pairs for name in chain):
            there = source.rest_world[[source.index[pairs[name]] for name in chain], :3, 3]
            length = float(np.linalg.norm(np.diff(there, axis=0), axis=-1).sum())
            if length > 1e-9:
                return leg_length(figure, foot) / length
    tall = float(np.ptp(standing(source, turn)[:, 1]))
    return float(np.ptp(figure.rest_world[:, 1, 3])) / max(tall, 1e-9)


def _assigned(cost: Array) -> tuple[NDArray[np.signedinteger], NDArray[np.signedinteger]]:
    """Rows and columns of the cheapest assignment."""
    from scipy.optimize import linear_sum_assignment

    rows, columns = linear_sum_assignment(cost)
    return rows, columns
