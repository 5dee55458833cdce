"""The curve of joint steps and the pops at borders, joint by joint from the poses in the world."""

from __future__ import annotations

import random

import numpy as np
import pytest
from scipy.spatial.transform import Rotation
from tools.made.edits import replace

from veergust.core.model import Action, Cut, Project, Section
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.action import CompiledAction
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.study.pops import FAR, TURN, row_steps


def torn(project: Project, seed: int) -> Action:
    """Parts of clips one after the other, some faded, as nobody would cut them; one of a single frame among them."""
    dice = random.Random(seed)
    clips = [c.name for c in project.clips]
    cuts = [
        Cut(clip=dice.choice(clips), start=0.1 * dice.randrange(3), end=0.1 * dice.randrange(3) + dice.choice((0.02, 0.4)),
            blend=dice.choice((0, 0, 0, 5)), mirror=dice.random() < 0.3)
        for _ in range(9)
    ]  # fmt: skip
    parts = (tuple(cuts[:1]), tuple(cuts[1:5]), tuple(cuts[5:]))
    sections = [Section(name=f"s{n}", cuts=part, then=f"s{n + 1}" if n < 2 else "end") for n, part in enumerate(parts)]
    return replace(project.actions[0], name="Torn", sections=tuple(sections))


def in_the_world(compiled: CompiledAction) -> np.ndarray:
    rows = []
    for i in compiled.path:
        rows += [compiled.world_of(i)[tick] for tick in range(compiled.sections[i].ticks)]
    return np.array([body @ pose for body, pose in zip(compiled.bodies, rows)])


@pytest.mark.parametrize("seed", range(6))
def test_steps_and_pops_are_those_of_the_joints_in_the_world(quay: Project, assets: Assets, seed: int) -> None:
    made = torn(quay, seed)
    compiled = CompiledProject(replace(quay, actions=(*quay.actions, made)), assets).action("Torn")
    assert compiled is not None
    steps, found = row_steps(compiled)
    world = in_the_world(compiled)
    far = [np.zeros(world.shape[1])]
    turn = [np.zeros(world.shape[1])]
    for before, after in zip(world, world[1:]):
        far.append(np.linalg.norm(after[:, :3, 3] - before[:, :3, 3], axis=1))
        between = Rotation.from_matrix(before[:, :3, :3]).inv() * Rotation.from_matrix(after[:, :3, :3])
        turn.append(np.degrees(between.magnitude()))
    assert steps == pytest.approx([f.max() for f in far], abs=1e-9)
    nothing = np.zeros(world.shape[1])
    borders, first = [], 0
    for i in compiled.path:
        borders += [first + cut.first for cut in compiled.sections[i].cuts]
        first += compiled.sections[i].ticks
    expected = {}
    for row in borders:
        if row == 0:
            continue
        by = []
        for steps_of, limit in ((far, FAR), (turn, TURN)):
            sides = [steps_of[n] if 0 < n < len(world) else nothing for n in (row - 1, row + 1)]
            by.append((steps_of[row] - 2 * np.maximum(*sides) - limit) / limit)
        worst = np.maximum(*by)
        if worst.max() > 0:
            expected[row] = int(worst.argmax())
    assert {leap.row: leap.joint for leap in found} == expected
    assert expected, "as nobody would cut them"
