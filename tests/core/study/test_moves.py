"""The moves of a long take, against where the take was made to have them."""

from __future__ import annotations

from dataclasses import replace as changed
from functools import cache
from pathlib import Path

import numpy as np
import pytest
from tools.made import DEMO
from tools.made.captures import NAMES, Capture, _standing, _time, capture, gait, leap, stagger, write_bvh
from tools.made.readings import read_clip
from tools.made.takes import long_take, spar_take

from veergust.core.files.assets import load_assets
from veergust.core.files.bvh_read import read_bvh
from veergust.core.files.folder import open_project
from veergust.core.files.reading import bind
from veergust.core.model import Clip
from veergust.core.motion.figure import Assets
from veergust.core.motion.filtering import lowpass
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.study.clip_reading import Reading
from veergust.core.study.moves import find_moves, tips


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
    return read_clip(assets, clip)


def test_twelve_moves_of_three_minutes_are_found_where_they_are(tmp_path: Path) -> None:
    """Off the origin, turned, 120 frames a second, trembling hands, a rest pose first, a T at the end, walks between,
    four gaps."""
    taken, moves = long_take(seed=11, gaps=4)
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


NAMES_OF = {"hand L": "hand_left", "hand R": "hand_right", "foot L": "foot_left", "foot R": "foot_right"}


@pytest.mark.parametrize(("seed", "fps"), [(1, 120.0), (2, 120.0), (3, 60.0), (4, 60.0), (5, 30.0)])
def test_blows_of_somebody_who_never_rests_are_found(seed: int, fps: float, tmp_path: Path) -> None:
    """Forty blows of hands and feet among steps, hops, bobbing and swaying: nine of ten at least, hardly one that is none,
    and their edges within five frames."""
    taken, drawn = spar_take(fps=fps, seed=seed)
    found = find_moves(reading(tmp_path, taken))
    used, near = set(), []
    for start, end, limb in drawn:
        mine = [m for m in found if m.joint == NAMES_OF[limb] and start - 3 <= m.strike <= end + 3]
        if mine:
            move = min(mine, key=lambda m: abs(m.start - start))
            used.add(move)
            near.append(abs(move.start - start) <= 5 and abs(move.end - end) <= 5)
    assert len(near) >= 0.9 * len(drawn)
    assert len(found) - len(used) <= 0.1 * len(found)
    assert np.mean(near) >= 0.85
    assert all(m.start < m.strike < m.end and 0.0 < m.sure <= 1.0 for m in found)


@pytest.mark.parametrize("what", ["walk", "run", "fast run", "leap", "stand", "stagger", "turns about"])
def test_steps_jumps_and_stumbles_are_no_moves(what: str, tmp_path: Path) -> None:
    shots = {
        "walk": lambda: gait(1.4, 1.0, 0.6),
        "run": lambda: gait(4.0, 1.6, 0.33, high=0.84, lift=0.3),
        "fast run": lambda: gait(6.0, 1.9, 0.3, high=0.82, lift=0.4),
        "leap": leap,
        "stand": lambda: _standing(4.0, 120.0, (1.0, 1.0), 20.0, 0.0 * _time(4.0, 120.0), 0.0 * _time(4.0, 120.0), 0.0),
        "stagger": stagger,
        "turns about": lambda: spar_take(blows=0, seed=9, seconds=20.0)[0],
    }
    assert find_moves(reading(tmp_path, shots[what]())) == ()


def test_the_tips_speed_is_how_fast_they_go_about_the_hips(tmp_path: Path) -> None:
    """Against the capture's own joints: differences of places in the world, less the hips', in the body's frame."""
    taken = spar_take(blows=6, seed=3)[0]
    shown = reading(tmp_path, taken)
    speeds = tips(shown)
    assert set(speeds) == {"hand_left", "hand_right", "foot_left", "foot_right", "head"}
    places = taken.world()
    about = places[:, NAMES.index("RWrist")] - places[:, 0]
    plain = np.linalg.norm(np.gradient(about, 1 / 120.0, axis=0), axis=-1)
    # The two rigs are not equally large, and the body turns: the bursts are the same, and as fast.
    ours = speeds["hand_right"]
    assert np.corrcoef(lowpass(plain[:, None], 1 / 120.0, 8.0)[:, 0], ours)[0, 1] > 0.95
    assert ours.max() == pytest.approx(plain.max(), rel=0.25)
