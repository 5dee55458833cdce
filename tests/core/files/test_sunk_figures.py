"""Figures whose hips rest at the origin, with their legs under the floor, and whose motions bring them up to it."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from tools.made.captures import blow
from tools.made.rigs import figure, motion

from veergust.core.files.assets import load_assets
from veergust.core.files.gltf_write import write_glb
from veergust.core.files.importing import import_file
from veergust.core.files.saving import save_project
from veergust.core.model import Project
from veergust.core.motion.prepared import carried
from veergust.core.motion.sampling import Motion, Track
from veergust.core.motion.skeleton import Skeleton, forward
from veergust.core.play.compiled.project import CompiledProject


def sunk(by: str) -> tuple[Skeleton, Motion]:
    """The capture's creature with hips at the origin under a node, and a blow: raised by the node, or by the hips."""
    bones = figure("a root above them")
    places = bones.rest_translation.copy()
    places[bones.index["Hip"]] = 0.0
    taken = motion("a root above them", blow(), "blow")
    hips = bones.index["Hip"]
    tracks = [t for t in taken.tracks if (t.joint, t.path) != (hips, "translation")]
    way = next(t for t in taken.tracks if (t.joint, t.path) == (hips, "translation"))
    carrier = bones.index["Root"] if by == "node" else hips
    tracks.append(Track(carrier, "translation", "LINEAR", way.times, way.values))
    return Skeleton(("Stand", *bones.names[1:]), bones.parents, bones.rest_rotation, places), Motion(
        "blow", taken.seconds, taken.fps, tuple(tracks)
    )


@pytest.mark.parametrize("by", ["node", "hips"])
def test_what_a_motion_brings_up_is_not_lifted_as_well(tmp_path: Path, by: str) -> None:
    skeleton, taken = sunk(by)
    source = tmp_path / "sunk.glb"
    source.write_bytes(write_glb(skeleton, None, (taken,)))
    home = tmp_path / "made.veergust"
    save_project(Project(name="made"), home)
    project = import_file(Project(name="made"), home, source).project
    assets = load_assets(project, home)[0]
    bones, hips = assets.skeleton, assets.skeleton.index["Hip"]
    # At rest it stands on the floor, and in the blow where its maker had it.
    assert bones.rest_world[:, 1, 3].min() == pytest.approx(0.0, abs=0.01)
    clip = next(c for c in project.clips if c.animation == "blow")
    at = np.arange(0, 160, 20) / 120.0
    left = carried(assets, clip, at, CompiledProject(project, assets).roots)[1]
    high = forward(bones, left.rotation, left.translation)[:, hips, 1, 3]
    assert np.abs(high - blow().hips[::20][: len(high), 1]).max() < 1e-5
