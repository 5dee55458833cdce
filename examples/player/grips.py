"""Hands that are kept on a mount over any mix of layers."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from player.figure import Placed, inside, on
from player.limbs import carry, reach
from player.turns import minus, plus, times

if TYPE_CHECKING:
    from player.export import Export
    from player.fighter import Fighter

Json = dict[str, Any]


def hold_on(export: Export, f: Fighter) -> None:
    """Bring every grip a tick on: it comes while one of its layers shows, and lets go while what it holds on to is in
    the other hand."""
    free = f.is_on("grip") and not f.down
    live = f.live()
    shows = [p.layer for p in live]
    swapped = [p.layer for p in live if p.part.cut(p.frame).get("swaps")]
    for n, grip in enumerate(export.grips):
        there = not grip["layers"] or any(name in shows for name in grip["layers"])
        other = bool(swapped) and any(name in swapped for name in grip["layers"] or swapped)
        want = grip["weight"] if free and there and not other and _arm(export, grip) is not None else 0.0
        pull = 1.0 / (grip["ticks"] + 1)
        f.grips[n] += min(max(want - f.grips[n], -pull), pull)


def _arm(export: Export, grip: Json) -> tuple[tuple[int, int, int, int], Placed, int, Placed] | None:
    """The arm, the palm on its hand, and the joint and frame of what it holds on to; None where that cannot be."""
    figure = export.figure
    hand, at = figure.mount(grip["hand"], False), figure.mount(grip["mount"], False)
    if hand is None or at is None:
        return None
    fore = figure.parents[hand[0]]
    upper = figure.parents[fore] if fore >= 0 else -1
    # What hangs on the arm itself goes wherever the hand goes.
    if upper < 0 or figure.parents[upper] < 0 or figure.hangs_on(at[0], upper):
        return None
    if min(figure.apart(upper, fore), figure.apart(fore, hand[0])) < 1e-4:
        return None
    return (upper, fore, hand[0], hand[0]), hand[1], at[0], at[1]


def reach_grips(export: Export, f: Fighter, joints: list[Placed]) -> None:
    """Bring hands to where they are kept; joints about the body are changed in place."""
    figure = export.figure
    for weight, grip in zip(f.grips, export.grips):
        found = _arm(export, grip) if weight > 0.0 else None
        if found is None:
            continue
        limb, palm, joint, frame = found
        there = inside(joints[joint], frame)[1]
        here = on(joints[limb[2]], palm[1])
        wrist = plus(joints[limb[2]][1], times(minus(there, here), weight))
        lengths = figure.apart(limb[0], limb[1]), figure.apart(limb[1], limb[2])
        carry(figure, joints, reach(joints, limb, *lengths, wrist))
