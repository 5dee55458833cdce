"""A pose that is corrected: limbs brought to a place, chains of joints turned, all that hangs on them carried along."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from math import sqrt
from typing import NamedTuple

from player.figure import Figure, Placed
from player.turns import (
    STILL,
    Turn,
    Vector,
    between,
    dot,
    minus,
    multiply,
    plus,
    rotate,
    size,
    times,
    unit,
)

STRAIGHTEST = 0.975
"""No limb is made straighter than this share of its length, or than it was."""


class Move(NamedTuple):
    """A joint turned on about the body, and brought from a place to another."""

    turn: Turn
    start: Vector
    end: Vector


def carry(figure: Figure, joints: list[Placed], moves: Mapping[int, Move]) -> None:
    """All that hangs on each moved joint carried along, the nearest counting."""
    nearest: list[Move | None] = []
    for j, parent in enumerate(figure.parents):
        move = moves.get(j) or (nearest[parent] if parent >= 0 else None)
        nearest.append(move)
        if move is not None:
            turn, place = joints[j]
            joints[j] = multiply(move.turn, turn), plus(rotate(move.turn, minus(place, move.start)), move.end)


def reach(
    joints: Sequence[Placed],
    limb: tuple[int, int, int, int],
    upper: float,
    lower: float,
    target: Vector,
    tilt: Turn = STILL,
) -> dict[int, Move]:
    """The moves of a limb (upper, middle and end joint, and what the end points to) that bring its end to a place and
    turn it on. The middle stays in the plane it was in; by the law of cosines."""
    a, b, c, tip = (joints[j][1] for j in limb)
    was, way = minus(c, a), minus(target, a)
    whole = upper + lower
    length = max(size(way), abs(upper - lower) + 1e-4)
    length = min(length, max(STRAIGHTEST * whole, min(size(was), whole)))
    old, along = unit(was), unit(way)
    bend = minus(b, a)
    bend = minus(bend, times(old, dot(bend, old)))
    if size(bend) > 1e-6:
        side = rotate(between(old, along), unit(bend))
    else:
        # A straight limb bends to where its end points.
        ahead = minus(tip, c)
        ahead = minus(ahead, times(along, dot(ahead, along)))
        side = unit(ahead) if size(ahead) > 1e-6 else (0.0, 0.0, 1.0)
    cosine = min(max((upper * upper + length * length - lower * lower) / (2.0 * upper * length), -1.0), 1.0)
    middle = plus(a, times(plus(times(along, cosine), times(side, sqrt(1.0 - cosine * cosine))), upper))
    end = plus(a, times(along, length))
    return {
        limb[0]: Move(between(minus(b, a), minus(middle, a)), a, a),
        limb[1]: Move(between(minus(c, b), minus(end, middle)), b, middle),
        limb[2]: Move(tilt, c, end),
    }


def turned(figure: Figure, joints: Sequence[Placed], turns: Sequence[tuple[int, Turn]]) -> dict[int, Move]:
    """The moves of a chain of joints, parents first, each turned on about the body where those above brought it."""
    moves: dict[int, Move] = {}
    for joint, turn in turns:
        was, above = joints[joint][1], figure.parents[joint]
        while above >= 0 and above not in moves:
            above = figure.parents[above]
        if above < 0:
            moves[joint] = Move(turn, was, was)
        else:
            over = moves[above]
            moves[joint] = Move(
                multiply(turn, over.turn), was, plus(rotate(over.turn, minus(was, over.start)), over.end)
            )
    return moves
