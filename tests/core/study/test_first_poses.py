"""Poses an action begins with: a rest pose left by the export, and a start that pops."""

from __future__ import annotations

import numpy as np
import pytest
from tools.made.edits import replace, section, with_action

from tests.conftest import Found
from veergust.core.model import Action, Clip, Cut, Project
from veergust.core.motion import quat
from veergust.core.motion.figure import Assets
from veergust.core.motion.sampling import Motion, Track
from veergust.core.motion.skeleton import Pose
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.study.findings import findings


def turning(assets: Assets, name: str, times: list[float], degrees: list[float], rest: Pose | None = None) -> Motion:
    """Every joint turned about its own x from its rest by so many degrees at each time."""
    half = np.radians(degrees) / 2.0
    turn = np.stack([np.sin(half), np.zeros_like(half), np.zeros_like(half), np.cos(half)], axis=-1)
    tracks = tuple(
        Track(joint, "rotation", "LINEAR", np.array(times), quat.multiply(np.broadcast_to(r, turn.shape), turn))
        for joint, r in enumerate(assets.skeleton.rest_rotation)
    )
    return Motion(name, times[-1], 60.0, tracks, rest)


def found(quay: Project, assets: Assets, motion: Motion, start: float = 0.0) -> list[str]:
    clip = Clip(name="made", file="clips/made.glb", animation=motion.name)
    action = Action(
        name="Made", sections=(replace(section(seconds=0.4), cuts=(Cut(clip="made", start=start, end=0.4),)),)
    )
    project = replace(quay, clips=(*quay.clips, clip), actions=(*quay.actions, action))
    full = replace_motions(assets, {**assets.motions, (clip.file, motion.name): motion})
    return [f"{f.code} {f.where}" for f in findings(CompiledProject(project, full)) if f.code != "never-started"]


def replace_motions(assets: Assets, motions: dict[tuple[str, str], Motion]) -> Assets:
    return Assets(assets.skeleton, assets.mesh, motions, assets.props, assets.foreign, assets.sources)


def test_a_rest_pose_before_the_first_real_one_is_found(quay: Project, assets: Assets) -> None:
    left = turning(assets, "left", [0.0, 1 / 60, 0.4], [0.0, 40.0, 50.0])
    assert found(quay, assets, left) == ["rest-pose Made › One"]
    assert found(quay, assets, left, start=1 / 60) == []  # cut away
    eased = turning(assets, "eased", [0.0, 0.4], [0.0, 20.0])
    assert found(quay, assets, eased) == []  # it begins with it and is meant to
    posed = turning(assets, "posed", [0.0, 1 / 60, 0.4], [30.0, 70.0, 80.0])
    assert found(quay, assets, posed) == []


def test_the_rest_pose_is_that_of_the_source(quay: Project, assets: Assets) -> None:
    shown = turning(assets, "rest", [0.0, 0.4], [30.0, 30.0])
    turns = np.stack([t.values[0] for t in shown.tracks])[None]
    rest = Pose(turns, assets.skeleton.rest_translation[None])
    left = turning(assets, "left", [0.0, 1 / 60, 0.4], [30.0, 80.0, 80.0], rest)
    assert found(quay, assets, left) == ["rest-pose Made › One"]


@pytest.mark.parametrize(("blend", "codes"), [(0, ["start-pops"]), (1, ["start-pops"]), (8, [])])
def test_a_start_far_from_idle_pops_unless_it_is_blended_in(
    blend: int, codes: list[str], quay: Project, found_in: Found
) -> None:
    project = with_action(quay, "Low sweep", entry="Swing", blend_in=blend)
    told = {f.code for f in found_in(project)}
    # What it does not begin with now is led to by nothing.
    assert sorted(told - {"section-unreached"}) == codes
