"""Feet to the floor: each standing foot stays where it stands, on the floor that is there, and the pelvis gives way.

The pose says when a foot stands: while its ball is as low over the body's floor as it comes. It then keeps the place
where it came down, laid on the floor under it and turned to its slope, until it is lifted, or is so far from where the
pose has it that it takes a step of its own. How far a foot is from its pose is eased away once it is let go, and all of
it by a weight that an action takes away and every ending gives back. What each foot does on a tick is in ``feet``.
"""

from __future__ import annotations

from math import radians

import numpy as np

from veergust.core.kinds import FEET
from veergust.core.model import FeetToFloor
from veergust.core.motion import Array
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.pose import feet
from veergust.core.play.pose.footholds import NO_FOOTING, Footing
from veergust.core.play.pose.speaking import left_to_locomotion
from veergust.core.play.state import FighterState

CATCHES_UP = 0.79
"""What is left, a tick on, of how far the figure trails behind its body; in the air half of that."""
STEP_LOW, STEP_HIGH = 0.04, 0.3
"""A body that rises or sinks so much (m) in a tick has gone a step of the stairs."""


def wanted(build: CompiledProject, fighter: FighterState, settings: FeetToFloor) -> float:
    """How much of the correction is asked for now."""
    if not fighter.grounded or fighter.down or not FEET.on(fighter.holding()):
        return 0.0
    return settings.weight if build.within_any(fighter.locomotion[-1].state, settings.states) else 0.0


def step(build: CompiledProject, fighter: FighterState, joints: Array, floors: Array) -> None:
    """Bring the footing a tick on, for the pose that has just been worked out, its ``joints`` ``[J, 4, 4]`` about the
    body, over the ``floors`` (rows). An action's feet stand and go as it was made, on whatever floor."""
    settings, legs = build.project.locomotion.feet, build.limbs
    before = fighter.footing
    if settings.weight <= 0.0 or not len(legs):
        fighter.footing = NO_FOOTING
        return
    pull = 1.0 / (settings.ticks + 1)
    want = wanted(build, fighter, settings)
    weight = before.weight + min(max(want - before.weight, -pull), pull)
    place = tuple(fighter.position.tolist())
    y, behind = place[1], before.behind
    if before.height is not None and fighter.grounded and STEP_LOW < abs(y - before.height) < STEP_HIGH:
        # A step of the stairs is gone up or down by the figure in some ticks, though the body does it in one.
        behind -= y - before.height
    behind *= CATCHES_UP if fighter.grounded else CATCHES_UP / 2.0
    rows = before.feet if len(before.feet) == len(legs) else build.fresh_feet
    own = left_to_locomotion(build, fighter, build.feet) if fighter.voices else build.all_own
    out = np.empty_like(rows)
    lower = feet.step(
        joints, legs.joints, legs.lengths, legs.tip_high, floors, rows, out, own, place, radians(fighter.facing),
        fighter.grounded, want > 0.0, build.project.settings.rate, build.footroom, before.lower, behind,
    )  # fmt: skip
    fighter.footing = Footing(out, lower, behind, weight, y if fighter.grounded else None)


def lay(build: CompiledProject, fighter: FighterState, rotation: Array, translation: Array, joints: Array) -> None:
    """Lay the feet of a pose on the floor: local ``rotation`` ``[J, 4]`` and ``translation`` ``[J, 3]``, and ``joints``
    ``[J, 4, 4]`` about the body, are changed in place."""
    footing, legs = fighter.footing, build.limbs
    if len(footing.feet) == len(legs):
        feet.lay(
            build.assets.skeleton.above, rotation, translation, joints, legs.joints, legs.lengths, footing.feet,
            build.roots.hips, radians(fighter.facing), footing.lower, footing.behind, footing.weight,
        )  # fmt: skip
