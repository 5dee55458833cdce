"""The moves of a long take, against where the take was made to have them."""

from __future__ import annotations

from dataclasses import replace as changed
from functools import cache
from pathlib import Path

import numpy as np
import pytest

from tests.conftest import DEMO
from tests.core.captures import Capture, capture, long_take, write_bvh
from veergust.core.files.assets import load_assets
from veergust.core.files.bvh_read import read_bvh
from veergust.core.files.folder import open_project
from veergust.core.files.reading import bind
from veergust.core.model import Clip
from veergust.core.motion.figure import Assets
from veergust.core.motion.filtering import lowpass
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.study.clip_reading import Reading, read_clip
from veergust.core.study.moves import find_moves


@cache
def demo() -> CompiledProject:
    project = open_project(DEMO)
    return CompiledProject(project, load_assets(project, DEMO)[0])


def reading(folder: Path, taken: Capture) -> Reading:
    build = demo()
    bound = bind(read_bvh(write_bvh(folder, taken, "take.bvh")), build.assets.skeleton, build.project.rig, ())
    [motion] = bound.motions
    assets: Assets = changed(build.assets, motions={("clips/take.bvh", motion.name): motion}, tracks={}, cleaned={})
    clip = Clip(name="take", file="clips/take.bvh", animation=motion.name, root_joint="hips")
    found = read_clip(assets, clip, build.roots)
    assert found is not None
    return found


@pytest.mark.parametrize(("seed", "gaps"), [(7, 0), (11, 4)])
def test_twelve_moves_of_three_minutes_are_found_where_they_are(seed: int, gaps: int, tmp_path: Path) -> None:
    """Off the origin, turned, 120 frames a second, trembling hands, a rest pose first, a T at the end, walks between."""
    taken, moves = long_take(seed=seed, gaps=gaps)
    shown = reading(tmp_path, taken)
    assert len(shown.times) == len(taken.hips), "it is read whole"
    found = find_moves(shown)
    edges = [(m.start, m.end) for m in found]
    for start, end in moves:
        near = min(edges, key=lambda e: abs(e[0] - start))
        assert abs(near[0] - start) <= 6, (start, edges)
        assert abs(near[1] - end) <= 6, (end, edges)
    assert len(found) <= len(moves) + 2
    assert all(m.start < m.strike < m.end for m in found)
    assert {m.joint for m in found} == {"hand_left", "hand_right", "foot_left", "foot_right"}


def test_somebody_who_only_walks_or_stands_makes_no_move(tmp_path: Path) -> None:
    taken = capture(seconds=4.0, noise=1.0)
    still = Capture(np.repeat(taken.hips[:1], 480, axis=0), np.repeat(taken.turns[:1], 480, axis=0), 120.0)
    assert find_moves(reading(tmp_path, still)) == ()


def test_what_is_slow_goes_through_the_filter_and_what_trembles_does_not() -> None:
    t = np.arange(600) / 120.0
    slow, fast = np.sin(2 * np.pi * 1.0 * t), np.sin(2 * np.pi * 25.0 * t)
    away = np.array([300.0, 1.0, -200.0])
    both = away + np.stack([slow + 0.2 * fast, slow, 0 * t], -1)[:, None]
    out = lowpass(both, 1 / 120.0, 7.0)[:, 0]
    inside = slice(60, -60)
    assert np.abs(out[inside, 0] - away[0] - slow[inside]).max() < 0.01
    assert np.abs(out[inside, 1] - away[1] - slow[inside]).max() < 0.01
    assert np.array_equal(lowpass(both[:10], 1 / 120.0, 7.0), both[:10]), "what is too short is left as it is"
