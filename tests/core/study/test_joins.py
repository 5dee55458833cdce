"""Two clips held against each other, and what loops: against every pair of frames, looked at one by one."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from msgspec.structs import replace
from tools.made.captures import Capture, capture

from tests.core.study.test_moves import demo, reading
from veergust.core.model import Project
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.study.clip_reading import Reading, reading_of
from veergust.core.study.joins import best_pair
from veergust.core.study.preparing import best_loop, quiet_ends, shortest_loop


def read(build: CompiledProject, name: str) -> Reading:
    found = reading_of(build, name)
    assert found is not None
    return found


def test_the_best_pair_is_the_best_of_all_pairs(quay: Project, assets: Assets) -> None:
    build = CompiledProject(quay, assets)
    a, b = read(build, "staff_sweep"), read(build, "staff_thrust")
    used_a, used_b = (3, len(a.times) - 4), (0, len(b.times) - 1)
    found = best_pair(a, used_a, b, used_b)
    assert found is not None
    here, there, far = found
    gaps = np.array(
        [[np.linalg.norm(x - y, axis=-1).mean() for y in b.bare] for x in a.bare[used_a[0] : used_a[1] + 1]]
    )
    assert far == pytest.approx(float(gaps[here - used_a[0], there]))
    assert far < np.percentile(gaps, 1.0) + 0.01, "speeds count too, so that it need not be the very nearest pose"


def test_a_part_of_a_clip_is_found_again_in_the_whole_of_it(quay: Project, assets: Assets) -> None:
    clip = next(c for c in quay.clips if c.name == "overhead")
    both = replace(quay, clips=(*quay.clips, replace(clip, name="again")))
    build = CompiledProject(both, assets)
    a, b = read(build, "overhead"), read(build, "again")
    assert best_pair(a, (17, 17), b, (0, len(b.times) - 1)) == (17, 17, pytest.approx(0.0, abs=1e-9))


def test_a_loop_of_a_walk_is_a_stride_at_least(tmp_path: Path) -> None:
    """Steps of somebody who walks at 1.2 m/s, a stride of 1.3 m: nothing shorter is proposed."""
    shown = reading(tmp_path, capture(seconds=5.0, noise=1.0))
    least, what = shortest_loop(shown)
    assert what == "a stride"
    assert 0.6 < least < 1.6
    loop = best_loop(shown)
    assert loop is not None
    assert (loop[1] - loop[0]) * shown.step >= least


def test_somebody_who_stands_and_breathes_is_still(tmp_path: Path) -> None:
    """Two seconds of sway, breath and trembling hands before a step: the step is where it begins."""
    taken = capture(seconds=4.0, noise=0.5)
    t = np.arange(240) / 120.0
    hips = np.repeat(taken.hips[:1], 240, axis=0)
    hips[:, 0] += 0.012 * np.sin(2 * np.pi * 0.3 * t)
    turns = np.repeat(taken.turns[:1], 240, axis=0)
    turns[:, 5:11] += 0.25 * np.sin(2 * np.pi * 9.0 * t)[:, None, None]
    shown = reading(tmp_path, Capture(np.concatenate([hips, taken.hips]), np.concatenate([turns, taken.turns]), 120.0))
    first, _ = quiet_ends(shown)
    # The body is averaged over 0.2 s, so that it leans into the step before it comes.
    assert 190 <= first <= 252
    assert demo().project.name
