"""Stand-ins for events: worked out from the frame alone."""

from __future__ import annotations

import numpy as np
import pytest
from msgspec import convert, to_builtins
from msgspec.structs import replace
from tools.made.edits import action, with_section

from veergust.core.model import Event, Floor, Project, Thrown
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import Input
from veergust.core.scene.stand_ins import StandIns, Throw, mount_frame, stand_ins, throw_of

NAME = "Low sweep"


def shown(project: Project, assets: Assets, row: int) -> StandIns:
    build = CompiledProject(project, assets)
    compiled = build.action(NAME)
    assert compiled is not None
    return stand_ins(build, compiled, row, np.eye(4))


def with_events(quay: Project, *events: Event) -> Project:
    bare = quay
    for index in range(len(action(quay, NAME).sections)):
        bare = with_section(bare, NAME, index, events=events if index == 1 else ())
    return bare


def test_a_trail_follows_its_mount_from_on_to_off(quay: Project, assets: Assets) -> None:
    on, off = Event(tick=1, name="ribbon on", mount="tip"), Event(tick=6, name="ribbon off", mount="tip")
    project = with_events(quay, on, off)
    assert not shown(project, assets, 8).paths
    trail = shown(project, assets, 12).paths
    assert len(trail) == 1
    build = CompiledProject(project, assets)
    compiled = build.action(NAME)
    assert compiled is not None
    for point, row in zip(trail[0].points, range(9, 13)):
        assert np.allclose(point, mount_frame(build, compiled, row, "tip", np.eye(4))[:3, 3])
    assert not shown(project, assets, 14).paths
    # The off of another trail does not end this one.
    other = with_events(quay, on, replace(off, mount="butt"))
    assert shown(other, assets, 16).paths


def test_a_burst_grows_at_its_place_and_is_gone(quay: Project, assets: Assets) -> None:
    project = with_events(quay, Event(tick=4, name="dust", mount="foot R", offset=(0.0, 0.0, 0.1)))
    early, late = shown(project, assets, 13), shown(project, assets, 18)
    size = [np.ptp(np.concatenate([p.points for p in s.paths]), axis=0).max() for s in (early, late)]
    assert 0.0 < size[0] < size[1]
    assert not shown(project, assets, 22).paths
    assert not shown(project, assets, 11).paths


@pytest.mark.parametrize("rate", [30, 60, 120])
def test_a_thrown_ball_flies_as_it_would_and_stays_on_the_floor(quay: Project, assets: Assets, rate: int) -> None:
    thrown = Event(
        tick=2, kind="spawn", name="bottle", mount="palm L", payload="speed=5, up: 3 gravity=10", facing="body"
    )
    project = with_events(replace(quay, settings=replace(quay.settings, rate=rate)), thrown)
    build = CompiledProject(project, assets)
    compiled = build.action(NAME)
    assert compiled is not None
    first = compiled.start_of(1) + 2
    start = mount_frame(build, compiled, first, "palm L", np.eye(4))[:3, 3]
    after = min(6, compiled.total - first - 1)
    ball = stand_ins(build, compiled, first + after, np.eye(4)).tubes[0]
    t = after / rate
    ahead = compiled.bodies[first][:3, 2]
    want = start + ahead * 5 * t + np.array([0, 3 * t - 5 * t * t, 0])
    assert np.allclose(ball.a, want, atol=1e-6)
    last = stand_ins(build, compiled, compiled.total - 1, np.eye(4)).tubes
    assert all(tube.a[1] >= 0.0 for tube in last)


def test_words_of_sounds_stand_where_they_sound_and_payloads_are_read_with_care(quay: Project, assets: Assets) -> None:
    project = with_events(quay, Event(tick=1, kind="sound", name="whoosh", mount="tip"))
    assert [label.text for label in shown(project, assets, 10).labels] == ["♪ whoosh"]
    assert shown(project, assets, 40).labels == ()
    assert throw_of("colour=red") == Throw()
    assert throw_of("speed=fast up=1.5") == Throw(up=1.5)


@pytest.mark.parametrize("facing", ["body", "mount", "world"])
def test_a_thing_of_the_table_is_drawn_where_play_has_it(quay: Project, assets: Assets, facing: str) -> None:
    """Tick for tick, over level ground with nobody near, on its own radius; and no more once its life is over."""
    thing = Thrown(name="bottle", speed=4.0, up=2.0, gravity=6.0, life=12, radius=0.13)
    spawn = Event(tick=2, kind="spawn", name="bottle", mount="palm L", payload="speed=7")
    spawn = convert(to_builtins(spawn) | {"facing": facing}, Event)
    project = replace(with_events(quay, spawn), thrown=(thing,))
    ossa = replace(project.stage.fighters[0], position=(0.0, 0.0, 0.0), facing=0.0, plays="keys")
    floor = Floor(low=(-90.0, -90.0), high=(90.0, 90.0))
    stage = replace(project.stage, fighters=(ossa,), posts=(), floors=(floor,))
    build = CompiledProject(replace(project, stage=stage), assets)
    compiled = build.action(NAME)
    assert compiled is not None
    simulation = Simulation(build)
    seen = []
    for row in range(compiled.total):
        record = simulation.tick([Input(ossa.name, action=NAME)] if row == 0 else [])
        seen.append([t.position for t in record.world.things])
        drawn = stand_ins(build, compiled, row, np.eye(4)).tubes
        assert [t.radius for t in drawn] == [0.13] * len(seen[-1]), row
        assert np.allclose([t.a for t in drawn], seen[-1], atol=2e-3), row
    assert sum(map(len, seen)) == 12
