"""Weights of blends: continuous, one in all, exact at their points; and clips kept in step by their feet."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from msgspec.structs import replace

from veergust.core.kinds.measures import Fixed
from veergust.core.model import BlendPoint, Clip, Project, State
from veergust.core.motion.figure import Assets
from veergust.core.motion.gait import beat_of
from veergust.core.play.compiled.blending import CompiledBlend
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.locomotion.playing import own_phase, parts_of

number = st.floats(-8.0, 8.0).map(lambda v: round(v, 2))
flat = st.lists(st.tuples(number, number), min_size=1, max_size=9, unique=True)
line = st.lists(st.tuples(number), min_size=1, max_size=7, unique=True)
around = st.lists(
    st.tuples(st.floats(-180, 180).map(lambda v: round(v, 0)), st.floats(0.2, 6.0).map(lambda v: round(v, 1))),
    min_size=1,
    max_size=8,
    unique=True,
)


def space(points: list[tuple[float, ...]], over: tuple[str, ...]) -> CompiledBlend:
    return CompiledBlend(
        State(name="x", over=over, blend=tuple(BlendPoint(clip=str(i), at=p) for i, p in enumerate(points)))
    )


def dense(made: CompiledBlend, at: tuple[float, ...], n: int) -> np.ndarray:
    out = np.zeros(n)
    for i, w in made.weights(at):
        out[i] += w
    return out


def check(
    points: list[tuple[float, ...]], over: tuple[str, ...], ask: tuple[float, ...], step: tuple[float, ...]
) -> None:
    made, n = space(points, over), len(points)
    places = [made.place(p) for p in points]
    # Points a hair apart stand for one place; findings say so.
    assume(all(np.linalg.norm(np.subtract(a, b)) > 0.05 for i, a in enumerate(places) for b in places[i + 1 :]))
    for i, p in enumerate(points):
        assert dense(made, p, n)[i] == pytest.approx(1.0, abs=1e-6)
    here = dense(made, ask, n)
    assert here.sum() == pytest.approx(1.0, abs=1e-9)
    assert here.min() >= 0.0
    near = dense(made, tuple(a + 1e-7 * s for a, s in zip(ask, step)), n)
    assert np.abs(near - here).max() < 1e-3


@given(points=line, ask=st.tuples(number), step=st.tuples(st.floats(-1, 1)))
def test_over_one_number(points: list[tuple[float, ...]], ask: tuple[float, ...], step: tuple[float, ...]) -> None:
    check(points, ("speed",), ask, step)


@given(points=flat, ask=st.tuples(number, number), step=st.tuples(st.floats(-1, 1), st.floats(-1, 1)))
def test_over_two(points: list[tuple[float, ...]], ask: tuple[float, ...], step: tuple[float, ...]) -> None:
    check(points, ("ahead", "left"), ask, step)


@given(
    points=around,
    ask=st.tuples(st.floats(-180, 180), st.floats(0, 6)),
    step=st.tuples(st.floats(-1, 1), st.floats(-1, 1)),
)
def test_over_direction_and_speed(
    points: list[tuple[float, ...]], ask: tuple[float, ...], step: tuple[float, ...]
) -> None:
    check([(0.0, 0.0), *points], ("direction", "speed"), ask, step)


def test_all_ways_round_meet() -> None:
    made = space([(0.0, 0.0), (0.0, 1.0), (90.0, 1.0), (180.0, 1.0), (-90.0, 1.0)], ("direction", "speed"))
    assert dense(made, (179.999, 1.0), 5) == pytest.approx(dense(made, (-179.999, 1.0), 5), abs=1e-4)
    ring = space([(-90.0,), (0.0,), (90.0,), (180.0,)], ("direction",))
    assert dense(ring, (-135.0,), 4) == pytest.approx([0.5, 0.0, 0.0, 0.5])


def test_points_on_one_line_are_blended_along_it() -> None:
    made = space([(0.0, 0.0), (1.0, 1.0), (3.0, 3.0)], ("ahead", "left"))
    assert dense(made, (2.0, 2.0), 3) == pytest.approx([0.0, 0.5, 0.5])
    assert dense(made, (0.0, 1.0), 3) == pytest.approx([0.5, 0.5, 0.0])


# In step


def shifted(quay: Project, name: str, by: float, copy: str) -> Clip:
    """A clip that begins elsewhere in its lap, as another that was cut by hand."""
    clip = next(c for c in quay.clips if c.name == name)
    return replace(clip, name=copy, start=by, end=1.0, loop=True)


def test_clips_are_in_step_where_the_same_foot_stands_wherever_they_begin(build: CompiledProject) -> None:
    """At one phase of the blend the same foot is the lower one in walk and in run, though they were cut otherwise."""
    walk, run = build.locomotion_clip("walk"), build.locomotion_clip("run")
    assert walk.beat is not None
    assert run.beat is not None
    index = build.assets.skeleton.index
    balls = [index["toes_left"], index["toes_right"]]
    state = build.states["run"]
    same = 0
    for phase in np.linspace(0.0, 1.0, 40, endpoint=False):
        lower = []
        for clip, _, _ in parts_of(build, Fixed({"speed": 2.5}), state):
            at = round(own_phase(state, clip, float(phase)) % 1.0 * (len(clip.joints) - 1))
            lower.append(int(np.argmin(clip.joints[at, balls, 1])))
        same += lower[0] == lower[1]
    assert same >= 36


def test_a_beat_counts_strides_and_finds_the_middles_of_stances(assets: Assets) -> None:
    """Made-up feet: each down for 60 % of a stride, two strides a lap, the lap beginning anywhere."""
    bones = assets.skeleton
    feet = [bones.index[n] for n in ("foot_left", "foot_right")]
    toes = [bones.index[n] for n in ("toes_left", "toes_right")]
    for laps, begins in ((1, 0.0), (2, 0.13), (3, 0.71)):
        t = np.linspace(0.0, 1.0, 241)
        places = np.broadcast_to(bones.rest_world[:, :3, 3], (241, len(bones), 3)).copy()
        for k, (foot, toe) in enumerate(zip(feet, toes)):
            phase = ((t + begins) * laps + 0.5 * k) % 1.0
            up = np.where(phase < 0.6, 0.0, 0.12 * np.sin(np.pi * (phase - 0.6) / 0.4))
            places[:, foot, 1] += up
            places[:, toe, 1] += up
        beat = beat_of(bones, places, 0.85)
        assert beat is not None
        assert beat.laps == laps
        for step in range(laps):
            own = beat.own(float(step))
            middle = ((own + begins) * laps) % 1.0
            assert middle == pytest.approx(0.3, abs=0.03)
            assert beat.step(own) == pytest.approx(step, abs=1e-6)
    still = np.broadcast_to(bones.rest_world[:, :3, 3], (241, len(bones), 3))
    assert beat_of(bones, still, 0.85) is None


def test_a_clip_on_the_spot_tells_its_pace_by_its_feet(build: CompiledProject, quay: Project, assets: Assets) -> None:
    """Walk and run played in place go as fast, by their feet, as the same clips do by their travel."""
    for name in ("walk", "run", "guard_left", "guard_back"):
        clip = build.locomotion_clip(name)
        by_travel = np.array(clip.pace)
        still = type(clip)(clip.skeleton, clip.pose, clip.seconds, True)
        assert np.array(still.pace) == pytest.approx(by_travel, abs=0.15 * float(np.linalg.norm(by_travel)))
