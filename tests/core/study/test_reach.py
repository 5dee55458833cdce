"""How far an action reaches: as far as play touches, and the same whatever was kept."""

from __future__ import annotations

import random

import pytest
from tools.made.edits import facing, replace, with_section

from tests.conftest import OSSA
from veergust.core.model import Project
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.simulation import Simulation
from veergust.core.study.facts import facts
from veergust.core.study.reach import Moves, reach_of


@pytest.mark.parametrize("name", ["Low sweep", "Thrust", "Overhead hook"])
def test_reach_is_where_play_still_touches(name: str, quay: Project, assets: Assets) -> None:
    found = facts(CompiledProject(quay, assets), name)
    assert found is not None
    assert found.reach is not None
    command = {"Low sweep": "light", "Thrust": "thrust", "Overhead hook": "heavy"}[name]
    ossa, tarn = quay.stage.fighters
    for off, wanted in ((-0.03, True), (0.03, False)):
        victim = replace(tarn, position=(ossa.position[0] + found.reach + off, 0, 0), plays="stands")
        # The target's pose is that of its first frame of idle, which play reaches on tick 0.
        simulation = Simulation(CompiledProject(facing(quay, ossa, victim), assets))
        touched = False
        simulation.start(OSSA, name)
        for _ in range(found.total or 0):
            touched |= bool(simulation.tick().contacts)
        assert touched is wanted, (command, off)


def test_a_kept_reach_is_the_reach_of_an_action_never_seen_before(quay: Project, assets: Assets) -> None:
    """Edges go about, hitboxes grow and turn to boxes, cuts change sides: what is kept never answers for another."""
    rng = random.Random(7)
    shelf = Moves()
    build = CompiledProject(quay, assets)
    seen = set()
    for _ in range(40):
        name, section = rng.choice([("Low sweep", 1), ("Thrust", 1)])
        part = next(a for a in build.project.actions if a.name == name).sections[section]
        start = rng.randrange(0, 8)
        strike = replace(part.strikes[0], start=start, end=start + rng.randrange(1, 9))
        shape, radius = rng.choice(["capsule", "capsule", "box"]), rng.uniform(0.05, 0.4)
        cuts = tuple(replace(cut, mirror=rng.random() < 0.5) for cut in part.cuts)
        strike = replace(strike, boxes=tuple(replace(b, shape=shape, radius=radius) for b in strike.boxes))
        build = build.renew(with_section(build.project, name, section, strikes=(strike,), cuts=cuts))
        compiled = build.action(name)
        assert compiled is not None
        kept = shelf.reach(build, compiled)
        assert kept == Moves().reach(build, compiled)
        seen.add((name, kept))
    assert len(seen) > 20


def test_a_hurtbox_of_another_posture_is_not_reached(quay: Project, assets: Assets) -> None:
    """The target stands: one far ahead of it that is there only when it lies is no nearer."""
    found = reach(quay, assets)
    far = replace(quay.rig.hurtboxes[0], name="far", radius=0.9)
    for postures, more in (((), True), (("standing",), True), (("ducking", "down"), False)):
        rig = replace(quay.rig, hurtboxes=(*quay.rig.hurtboxes, replace(far, postures=postures)))
        assert (reach(replace(quay, rig=rig), assets) > found + 0.2) is more, postures
    # One who ducks where the ground begins is touched on what is there then.
    first = next(s for s in quay.locomotion.states if s.name == quay.locomotion.entry)
    states = tuple(replace(s, posture="ducking") if s is first else s for s in quay.locomotion.states)
    low = replace(quay, rig=rig, locomotion=replace(quay.locomotion, states=states))
    assert reach(low, assets) > found + 0.2


def reach(project: Project, assets: Assets) -> float:
    build = CompiledProject(project, assets)
    compiled = build.action("Thrust")
    assert compiled is not None
    far = reach_of(build, compiled)
    assert far is not None
    return far
