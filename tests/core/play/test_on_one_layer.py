"""One action over another on the same layer: whatever the layer's weight and mask let it have, the one that comes in
takes the place of the one that goes, smoothly and wholly, on every family of figures."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from msgspec.structs import replace
from tools.made.edits import section
from tools.made.rigs import FAMILIES, WHO, project_of

from tests.conftest import OSSA
from tests.core.play.test_layers import bare, held_pose, smooth
from veergust.core.model import Action, Layer, Mask, Project
from veergust.core.motion.figure import Assets
from veergust.core.motion.quat import Array
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.pose.speaking import joint_shares
from veergust.core.play.rules import decide
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import Input

BLEND, FIRST, SECOND = 8, 4, 16
KINDS: dict[str, dict[str, Any]] = {
    "half": {"weight": 0.5},
    "half, in body space": {"weight": 0.5, "space": "body", "mask": "up"},
    "feathered": {"mask": "up"},
    "feathered, in body space": {"mask": "up", "space": "body"},
    "additive": {"mode": "additive", "mask": "up", "reference": "level"},
    "additive, in body space": {"mode": "additive", "space": "body", "reference": "level", "weight": 0.7},
}


def two(quay: Project, kind: str) -> Project:
    """Two actions that hold a pose each, on a layer of a kind."""
    rng = np.random.default_rng(5)
    clips = [held_pose(rng, name) for name in ("level", "one", "other")]
    layer = Layer(name="Over", **KINDS[kind])
    actions = tuple(
        Action(name=name, layer="Over", sections=(section(name, 1.0),), blend_in=BLEND, blend_out=4)
        for name in ("one", "other")
    )
    masks = (Mask(name="up", joint="waist", feather=3),)
    made = replace(quay, clips=(*quay.clips, *clips), layers=(layer,), masks=masks, actions=actions, drills=())
    return bare(made)


def places(build: CompiledProject, asked: dict[int, str], ticks: int, who: str = OSSA) -> Array:
    """Joints about the body ``[ticks, J, 3]`` while actions are asked for by name."""
    simulation, out = Simulation(build), []
    for t in range(ticks):
        state = simulation.tick([Input(who, action=asked[t])] if t in asked else []).fighter(who)
        out.append(state.joints_now[:, :3, 3].copy())
    return np.array(out)


def left_of_the_first(build: CompiledProject, one: str, other: str, who: str = OSSA) -> Array:
    """How far (m) the farthest joint is, tick by tick, from where it is when the other plays alone."""
    with_both = places(build, {FIRST: one, SECOND: other}, SECOND + BLEND + 6, who)
    alone = places(build, {SECOND: other}, SECOND + BLEND + 6, who)
    return np.asarray(np.linalg.norm(with_both - alone, axis=-1).max(axis=1))


def goes_smoothly(gap: Array) -> None:
    """It is less from tick to tick by no more than a smooth fade is at its quickest, and nothing once it is over."""
    fade = gap[SECOND - 1 : SECOND + BLEND + 1]
    assert fade[0] > 0.01
    quickest = max(smooth((t + 2) / (BLEND + 1)) - smooth((t + 1) / (BLEND + 1)) for t in range(BLEND))
    drops = -np.diff(fade)
    assert drops.min() > -0.02 * fade[0]
    assert drops.max() < 1.5 * quickest * fade[0]
    assert gap[SECOND + BLEND :].max() < 1e-9


@pytest.mark.parametrize("kind", KINDS)
def test_what_comes_in_on_a_layer_takes_the_place_of_what_goes(kind: str, quay: Project, assets: Assets) -> None:
    goes_smoothly(left_of_the_first(CompiledProject(two(quay, kind), assets), "one", "other"))


@pytest.mark.parametrize("family", FAMILIES)
@pytest.mark.parametrize("weight", [0.5, 1.0])
def test_on_every_family_of_figures(family: str, weight: float) -> None:
    parts = (("blow", 0.4, 1.1), ("walk", 0.1, 0.9))
    project, assets = project_of(family, (7.0, -4.0), 130.0, parts)
    layers = tuple(replace(y, weight=weight) if y.name == "Up" else y for y in project.layers)
    actions = tuple(replace(a, blend_in=BLEND) for a in project.actions)
    build = CompiledProject(replace(project, layers=layers, actions=actions), assets)
    gap = left_of_the_first(build, "up 0", "up 1", WHO)
    assert gap[SECOND - 1] > 0.02
    assert -np.diff(gap[SECOND - 1 : SECOND + BLEND + 2]).min() < 0.4 * gap[SECOND - 1]
    assert gap[SECOND + BLEND + 1 :].max() < 1e-9


@pytest.mark.parametrize("kind", ["half", "feathered"])
def test_all_on_a_layer_have_together_what_it_lets_them(kind: str, quay: Project, assets: Assets) -> None:
    build = CompiledProject(two(quay, kind), assets)
    simulation = Simulation(build)
    layer = build.layers["Over"]
    lets = layer.mask * layer.layer.weight
    for t in range(SECOND + BLEND + 2):
        asked = {FIRST: "one", SECOND: "other"}.get(t)
        fighter = simulation.tick([Input(OSSA, action=asked)] if asked else []).fighter(OSSA)
        rest, own, _ = joint_shares(build, fighter)
        np.testing.assert_allclose(rest + own.sum(axis=0), 1.0, atol=1e-12)
        if t >= SECOND:
            come = smooth((t - SECOND + 1) / (BLEND + 1))
            np.testing.assert_allclose(own[-1], lets * come, atol=1e-12)
            np.testing.assert_allclose(rest, 1.0 - lets, atol=1e-12)


@pytest.mark.parametrize("every", [1, 2, 4])
def test_an_action_asked_for_over_and_over_does_not_pile_up(
    every: int, quay: Project, assets: Assets, monkeypatch: pytest.MonkeyPatch
) -> None:
    """However often, no more are kept than show; what is let go made no difference that could be seen."""
    build = CompiledProject(two(quay, "half"), assets)
    # But for the first, which takes its time, so long that more would be there than may if none were let go.
    ticks = 80 if every == 1 else 150
    asked = {t: ("one", "other")[t % 3 == 0] for t in range(2, ticks, every)}
    simulation = Simulation(build)
    most = 0
    for t in range(ticks):
        state = simulation.tick([Input(OSSA, action=asked[t])] if t in asked else []).fighter(OSSA)
        most = max(most, len(state.voices))
    shown = places(build, asked, 80)
    monkeypatch.setattr(decide, "UNSEEN", 0.0)
    assert np.abs(shown - places(build, asked, 80)).max() < 1e-3
    # Each comes to about 1/9, 1/4 or a half before the next: so many of them have a ten-thousandth left.
    assert most <= {1: 170, 2: 60, 4: 20}[every]
