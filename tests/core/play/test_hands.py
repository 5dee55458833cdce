"""Hands kept on a mount: where the mount is, whatever is mixed, let go by a hold, and never with a leap."""

from __future__ import annotations

import numpy as np
import pytest
from msgspec.structs import replace
from tools.made.edits import WIDE, alone

from tests.conftest import OSSA
from veergust.core.model import Grip, Hold, Project
from veergust.core.motion.figure import Assets
from veergust.core.motion.quat import Array
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import Input

COMMANDS = {"Cover": "cover", "Staff jab": "jab", "Lantern toss": "toss"}
PALM = np.array([0.0, -0.075, 0.0, 1.0])
LOW = np.array([0.0, -0.36, 0.0, 1.0])


def between(assets: Assets, joints: Array) -> float:
    """How far (m) the palm is from where the staff is held low, by the joints alone."""
    index = assets.skeleton.index
    return float(np.linalg.norm((joints[index["hand_left"]] @ PALM - joints[index["staff"]] @ LOW)[:3]))


def gaps(
    project: Project, assets: Assets, action: str, ticks: int = 80
) -> tuple[list[float], list[float], list[Array]]:
    """On the run: the gap, how much it is kept, and the left arm's joints in the world."""
    simulation = Simulation(CompiledProject(alone(project, floors=WIDE), assets))
    out, kept, arms = [], [], []
    arm = [assets.skeleton.index[n] for n in ("upper_arm_left", "forearm_left", "hand_left")]
    for t in range(ticks):
        given = [Input(OSSA, axis="move", value=(1.0, 0.0))] if t == 0 else []
        now = simulation.tick([*given, *([Input(OSSA, COMMANDS[action])] if t == 30 else [])]).fighter(OSSA)
        out.append(between(assets, now.joints_now))
        kept.append(now.grips[0] if now.grips else 0.0)
        arms.append(now.joints_now[arm, :3, 3])
    return out, kept, arms


def test_the_other_hand_stays_on_the_staff_over_a_run(quay: Project, assets: Assets) -> None:
    held, kept, _ = gaps(quay, assets, "Cover")
    free, _, _ = gaps(replace(quay, grips=()), assets, "Cover")
    full = [t for t, k in enumerate(kept) if k >= 1.0]
    assert len(full) > 20
    assert max(held[t] for t in full) < 0.01
    # Without it the hand goes along the staff as the clips have it, and off it while they are mixed.
    assert max(free[t] for t in full) > 0.015


def test_an_action_that_holds_it_off_has_its_hand_and_gives_it_back(quay: Project, assets: Assets) -> None:
    thrown, kept, _ = gaps(quay, assets, "Lantern toss")
    assert max(kept) == 0.0
    assert max(thrown) > 0.3
    hold = Hold(start=8, end=14, setting="grip", value=0.0)
    cover = next(a for a in quay.actions if a.name == "Cover")
    parted = tuple(replace(s, holds=(hold,)) if s.name == "Held" else s for s in cover.sections)
    actions = tuple(replace(a, sections=parted) if a.name == "Cover" else a for a in quay.actions)
    _, kept, _ = gaps(replace(quay, actions=actions), assets, "Cover", 110)
    least = min(range(42, 70), key=lambda t: kept[t])
    assert kept[least] < 0.3
    assert max(kept[least:]) == 1.0
    assert all(abs(b - a) <= 1.0 / 7.0 + 1e-9 for a, b in zip(kept, kept[1:]))


def test_no_joint_of_the_arm_leaps(quay: Project, assets: Assets) -> None:
    for action in ("Cover", "Staff jab"):
        _, _, held = gaps(quay, assets, action)
        _, _, free = gaps(replace(quay, grips=()), assets, action)
        steps, bare = (np.linalg.norm(np.diff(np.array(a), axis=0), axis=-1) for a in (held, free))
        # Beside the mix's own step what the grip brings in: the gap over its frames.
        assert (steps - bare.max() - 0.06).max() < 0.0


def test_a_weapon_that_changed_hands_is_not_held_by_the_hand_it_is_in(quay: Project, assets: Assets) -> None:
    """Mirrored, the arms are as the reflection has them: none goes after a mount that is in its own palm."""
    cover = next(a for a in quay.actions if a.name == "Cover")
    names = {cut.clip for section in cover.sections for cut in section.cuts}
    for swaps in (False, True):
        clips = tuple(replace(c, mirror=True, swaps=swaps) if c.name in names else c for c in quay.clips)
        project = replace(quay, clips=clips)
        _, kept, held = gaps(project, assets, "Cover")
        _, _, bare = gaps(replace(project, grips=()), assets, "Cover")
        assert (max(kept) == 0.0) == swaps
        assert np.array_equal(np.array(held), np.array(bare)) == swaps


@pytest.mark.parametrize(
    "grip",
    [Grip(hand="palm L", mount="nowhere"), Grip(hand="no hand", mount="grip"), Grip(hand="hips", mount="grip"),
     Grip(hand="palm L", mount="palm L"), Grip(hand="hand_left", mount="hand_left")],
)  # fmt: skip
def test_a_grip_that_cannot_be_does_nothing(grip: Grip, quay: Project, assets: Assets) -> None:
    _, _, bare = gaps(replace(quay, grips=()), assets, "Cover", 40)
    _, _, arms = gaps(replace(quay, grips=(grip,)), assets, "Cover", 40)
    assert np.array_equal(np.array(bare), np.array(arms))
