"""The chain of joints that looks at a target, as it is on the figure."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from veergust.core.model import Look
from veergust.core.motion import Array, Indices, Skeleton


@dataclass(frozen=True, eq=False)
class Chain:
    """The ``joints`` ``[n]`` of a look (parents before children) and their ``shares`` ``[n]``.

    The ``head`` is the one that is to face the target, and looks along ``ahead`` ``[3]`` in its own frame."""

    joints: Indices
    shares: Array
    head: int
    ahead: Array


def chain_of(bones: Skeleton, look: Look) -> Chain:
    """A look on a figure; joints that are not there are left out."""
    shares = {bones.index[s.joint]: s.share for s in look.joints if s.joint in bones.index}
    joints = sorted(shares)
    # It is the last that is named which looks; in the rest pose it looks ahead.
    head = next((bones.index[s.joint] for s in reversed(look.joints) if s.joint in bones.index), -1)
    ahead = bones.rest_world[head, 2, :3].copy() if head >= 0 else np.zeros(3)
    return Chain(np.array(joints, dtype=np.intp), np.array([shares[j] for j in joints], dtype=np.float64), head, ahead)
