"""What the numbers of a swing propose: where its strike belongs, and where its recovery could end."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from veergust.core.motion import Array
from veergust.core.play import CompiledAction, CompiledProject
from veergust.core.study.checks.ledges import goes_on
from veergust.core.study.coverage import swing_of

FAST, LEAST = 0.72, 3.0
SETTLED = 0.12


@dataclass(frozen=True)
class Hint:
    """A proposal on frames ``[start, end)`` of the path: a strike there, a recovery that ends at ``start``, or a break
    where there is no floor."""

    kind: Literal["strike", "end", "break"]
    start: int
    end: int
    says: str


def hints(build: CompiledProject, name: str) -> list[Hint]:
    """What is proposed for an action: a strike about each burst of the weapon's tip that no strike has yet, an end
    where the follow-through has settled, and a break in each section that would go on in the air."""
    compiled = build.action(name)
    total = compiled.total if compiled is not None else 0
    if compiled is None or total < 4:
        return []
    breaks = _breaks(build, compiled)
    if compiled.loops:
        return breaks
    speed = swing_of(build).speed(build, compiled)[:total]
    taken = set(compiled.open_frames)
    out = []
    for start, end in bursts(speed):
        if not taken & set(range(start - 2, end + 2)):
            says = f"the tip is fastest at {start}–{end - 1}: open the strike there"
            out.append(Hint("strike", start, end, says))
    settled = settles(compiled, max([*taken, *(h.end for h in out)], default=0))
    if settled is not None:
        out.append(Hint("end", settled, settled + 1, f"the follow-through settles at {settled}: end recovery there"))
    return out + breaks


def _breaks(build: CompiledProject, compiled: CompiledAction) -> list[Hint]:
    """A break in each section that would go on in the air."""
    far, bare = goes_on(build, compiled)
    firsts = {i: first for first, i in reversed([*compiled.row_starts()])}
    says = f"it carries the body {far:.1f} m: end it where the floor does"
    return [Hint("break", firsts[i], firsts[i] + compiled.sections[i].ticks, says) for i in bare if i in firsts]


def bursts(speed: Array) -> list[tuple[int, int]]:
    """Runs of frames on which the tip goes at ``FAST`` of its fastest, each with a peak above ``LEAST`` m/s."""
    top = float(speed.max(initial=0.0))
    if top < LEAST:
        return []
    edges = np.flatnonzero(np.diff(np.concatenate([[False], speed >= FAST * top, [False]]).astype(np.int8)))
    return [(int(a), int(b)) for a, b in edges.reshape(-1, 2) if b - a > 1]


def settles(compiled: CompiledAction, after: int) -> int | None:
    """The first frame from which the body stirs less than ``SETTLED`` of its most; None when that is the end."""
    poses = [compiled.world_of(i)[: compiled.sections[i].ticks, :, :3, 3] for i in compiled.path]
    joints = np.concatenate(poses)
    stir = np.concatenate([[0.0], np.linalg.norm(np.diff(joints, axis=0), axis=-1).mean(axis=-1)])
    moving = np.flatnonzero(stir > SETTLED * float(stir.max(initial=0.0)))
    last = int(moving[-1]) + 1 if len(moving) else 0
    return last if after < last < len(stir) - 3 else None
