"""A figure tinted by who moves it."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from veergust.core.motion import Array
from veergust.core.play import CompiledProject, FighterState, body_matrix, joint_shares
from veergust.core.scene.things import Body, Label, Scene
from veergust.core.scene.view import OPEN_FLOOR

ADDED = 0.6
"""So much of a joint's ink is that of what adds to it."""
BESIDE = 1.25
"""Two that are compared stand so far apart (m)."""


def tinted(
    build: CompiledProject, fighter: FighterState, role_of: Callable[[str], str], aside: float = 0.0, tone: str = "body"
) -> Body:
    """A fighter with the ink of its layer, which ``role_of`` names, on every joint that an action moves."""
    joints = body_matrix(fighter.position + np.array([aside, 0.0, 0.0]), fighter.facing) @ fighter.joints_now
    _, own, adds = joint_shares(build, fighter)
    tints: Array = own
    for i in range(len(adds)):
        if adds[i].any():
            tints = tints * (1.0 - ADDED * adds[i])
            tints[i] = tints[i] + ADDED * adds[i]
    return Body(joints, tone, roles=tuple(role_of(v.layer) for v in fighter.voices), tints=tints)


def mix_scene(
    build: CompiledProject,
    fighter: FighterState,
    role_of: Callable[[str], str],
    other: tuple[CompiledProject, FighterState, str, str] | None = None,
) -> Scene:
    """A fighter as its layers make it; or two beside one another, mixed in two ways, with what each is called."""
    if other is None:
        return Scene(bodies=(tinted(build, fighter, role_of),), floors=OPEN_FLOOR)
    with_, second, here, there = other
    half = BESIDE / 2
    bodies = (tinted(build, fighter, role_of, half), tinted(with_, second, role_of, -half))
    x, y, z = (float(v) for v in fighter.position)
    labels = (
        Label(here, np.array([x + half, y - 0.02, z + 0.3])),
        Label(there, np.array([x - half, y - 0.02, z + 0.3])),
    )
    return Scene(bodies=bodies, labels=labels, floors=OPEN_FLOOR)
