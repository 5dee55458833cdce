"""Where on the floor an action touches: as play does with somebody put there, and as it is worked out by hand."""

from __future__ import annotations

import random

import numpy as np
import pytest
from scipy.spatial.transform import Rotation
from tools.made.edits import action, facing, replace, with_action, with_section

from tests.conftest import OSSA
from veergust.core.model import Hitbox, Hurtbox, Project
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.hurting import hurt_shapes
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.contact.volumes import Shape, Volume
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import Input
from veergust.core.study.floor_map import NEVER, FloorMap, Hurt, MapTarget, arc_of, first_touches, floor_map, placed
from veergust.core.study.reach import ReachMove, reach_of
from veergust.core.trouble import Trouble


def map_of(build: CompiledProject, name: str, *given: object) -> FloorMap:
    compiled = build.action(name)
    assert compiled is not None
    return floor_map(build, compiled, *given)  # type: ignore[arg-type]


def played(build: CompiledProject, name: str, x: float, z: float, stop: int) -> int:
    """The tick on which play first touches somebody who stands at a place and looks at where the action begins."""
    ossa, tarn = build.project.stage.fighters
    ossa = replace(ossa, position=(0.0, 0.0, 0.0), facing=0.0)
    looks = float(np.degrees(np.arctan2(-x, -z)))
    tarn = replace(tarn, position=(x, 0.0, z), facing=looks, plays="stands")
    simulation = Simulation(build.renew(facing(build.project, ossa, tarn)), posed=True)
    for tick in range(stop):
        if simulation.tick([Input(OSSA, action=name)] if tick == 0 else []).contacts:
            return tick
    return NEVER


@pytest.mark.parametrize("name", ["Low sweep", "Thrust", "Mirrored sweep"])
def test_a_place_is_touched_on_the_tick_on_which_play_touches_it(name: str, quay: Project, assets: Assets) -> None:
    """At random places, touched and not, except where one step to the side it is another tick: play breathes."""
    sweep = action(quay, "Low sweep")
    cuts = [replace(s, cuts=tuple(replace(c, mirror=True) for c in s.cuts)) for s in sweep.sections]
    quay = replace(quay, actions=(*quay.actions, replace(sweep, name="Mirrored sweep", sections=tuple(cuts))))
    build = CompiledProject(quay, assets)
    found = map_of(build, name)
    rng, rows, columns = random.Random(4), *found.first.shape
    assert found.ticks is not None
    asked: dict[int, int] = {}
    cells = [(r, c) for r in range(1, rows - 1) for c in range(1, columns - 1)]
    rng.shuffle(cells)
    for row, column in cells:
        x, z = found.origin[0] + column * found.step, found.origin[1] + row * found.step
        tick = int(found.first[row, column])
        around = set(found.first[row - 1 : row + 2, column - 1 : column + 2].ravel().tolist())
        # Nearer, bodies push each other apart.
        if np.hypot(x, z) < 1.15 or around != {tick} or asked.get(tick, 0) >= 4:
            continue
        asked[tick] = asked.get(tick, 0) + 1
        assert played(build, name, x, z, found.ticks[1] + 6) == tick, (x, z)
    assert len(asked) >= 3
    assert sum(asked.values()) >= 8


def test_the_way_ahead_is_the_reach_of_the_facts(build: CompiledProject) -> None:
    for name in ("Low sweep", "Thrust", "Overhead hook"):
        found, compiled = map_of(build, name), build.action(name)
        assert compiled is not None
        column = round(-found.origin[0] / found.step)
        ahead = [found.origin[1] + r * found.step for r in range(len(found.first)) if found.first[r, column] != NEVER]
        assert found.reach == reach_of(build, compiled)
        assert found.reach is not None
        assert max(ahead) <= found.reach < max(ahead) + found.step


def test_width_and_farthest_are_those_of_the_cells(build: CompiledProject) -> None:
    found = map_of(build, "Low sweep")
    places = [
        (found.origin[0] + c * found.step, found.origin[1] + r * found.step)
        for (r, c), tick in np.ndenumerate(found.first)
        if tick != NEVER
    ]
    far = max(places, key=lambda p: np.hypot(*p))
    assert found.farthest is not None
    assert found.farthest[0] == pytest.approx(np.hypot(*far), abs=1e-3)
    assert found.farthest[1] == pytest.approx(np.degrees(np.arctan2(*far)), abs=0.1)
    angles = [np.degrees(np.arctan2(x, z)) for x, z in places if np.hypot(x, z) >= found.room]
    assert max(angles) - min(angles) == pytest.approx(found.width, abs=6.0)
    # Nothing of the map's rim is touched: nothing is cut off.
    assert (found.first[[0, -1]] == NEVER).all()
    assert (found.first[:, [0, -1]] == NEVER).all()


def test_an_arc_goes_round_the_back() -> None:
    small = np.full(3, 1.0)
    assert arc_of(np.array([-170.0, 175.0, 180.0]), small) == pytest.approx((174.0, 17.0))
    assert arc_of(np.array([10.0, -20.0, 5.0]), small) == pytest.approx((-21.0, 32.0))
    assert arc_of(np.arange(0.0, 360.0, 10.0), np.full(36, 6.0))[1] == 360.0
    assert arc_of(np.zeros(0), np.zeros(0)) == (0.0, 0.0)


def test_a_dead_corner_is_where_a_near_place_is_not_touched_and_a_far_one_is() -> None:
    first = np.full((31, 21), NEVER, np.int32)
    first[12:25, 5:16] = 7  # from 1.2 m ahead on
    first[5:25, 12:16] = 6  # and to the left, nearer
    found = FloorMap("x", MapTarget(), 0.1, (-1.0, 0.0), first, 0.6)
    assert found.corner is not None
    assert found.corner[0] == pytest.approx(1.3, abs=0.12)
    assert found.corner[1] < 5.0
    first[5:25, 5:16] = 7
    assert FloorMap("x", MapTarget(), 0.1, (-1.0, 0.0), first, 0.6).corner is None


def ball(at: int, x: float, y: float, z: float, radius: float) -> ReachMove:
    frame = np.eye(4)
    frame[:3, 3] = x, y, z
    shape = Shape(np.zeros(3), np.zeros(3), radius)
    return ReachMove(at, Hitbox(mount=""), at, False, False, Volume("", frame, frame, shape, shape))


def body_of(at: tuple[float, float, float], radius: float) -> Hurt:
    """Somebody who is one ball."""
    box = Hurtbox(name="all", joint="all", offset=at, to=at, radius=radius)
    return Hurt(hurt_shapes([box], {"all": 0}, lambda _: None), np.eye(4)[None])


def test_whoever_walks_up_or_away_is_touched_when_the_balls_meet() -> None:
    """A ball of 0.2 m that hangs a metre ahead; the target is a ball of 0.1 m. The rest is arithmetic."""
    moves = [ball(tick, 0.0, 1.0, 1.0, 0.2) for tick in range(200)]
    body = body_of((0.0, 1.0, 0.0), 0.1)
    for speed, begins in ((2.0, 3.01), (0.5, 1.9), (-1.0, 0.21), (-0.25, 0.65)):
        rim = 1.3 if speed > 0 else 0.7
        when = (begins - rim) / speed * 60
        (tick,) = first_touches(moves, body, np.array([[0.0, begins]]), speed, 60)
        assert tick == int(np.floor(when)), (speed, begins)
    # Beside the way it is never met, and whoever does not walk is met at once or never.
    places = np.array([[0.35, 3.0], [0.0, 1.25], [0.0, 1.35]])
    assert first_touches(moves, body, places[:1], 0.0, 60).tolist() == [NEVER]
    assert first_touches(moves, body, places[1:], 0.0, 60).tolist() == [0, NEVER]


def test_what_a_target_holds_out_is_where_it_looks() -> None:
    """A ball ahead and to the left of the target, at random places: turned by SciPy so that it looks at the start."""
    rng = np.random.default_rng(11)
    out = 0.35, 1.0, 0.5
    body = body_of(out, 0.08)
    places = rng.uniform(-3.0, 3.0, (400, 2))
    turn = Rotation.from_euler("y", np.arctan2(-places[:, 0], -places[:, 1])[:, None])
    world = turn.apply(out) + np.stack([places[:, 0], 0 * places[:, 0], places[:, 1]], axis=-1)
    spot = np.array([0.9, 1.0, 0.7])
    far = np.linalg.norm(world - spot, axis=1)
    clear = np.abs(far - 0.88) > 1e-3
    found = first_touches([ball(3, 0.9, 1.0, 0.7, 0.8)], body, places, 0.0, 60)
    assert ((found != NEVER) == (far <= 0.88))[clear].all()
    assert 20 < (found != NEVER).sum() < 300


def test_a_target_stands_where_it_was_put_looks_at_the_start_and_walks(build: CompiledProject) -> None:
    hips = build.roots.hips
    still = placed(build, MapTarget(), (1.5, 2.0), 0)[hips]
    own = placed(build, MapTarget(), (0.0, 0.0), 0)[hips]
    assert np.hypot(*(still[[0, 2], 3] - [1.5, 2.0])) < 0.3
    # Turned about by as much as its place is about the start.
    back = np.array([-1.5, -2.0]) / 2.5
    turn = own[:3, :3].T @ still[:3, :3]
    assert np.trace(turn) == pytest.approx(1 + 2 * np.cos(np.arctan2(*back) - np.pi), abs=1e-6)
    walked = placed(build, MapTarget(speed=3.0), (1.5, 2.0), 20)[hips]
    assert np.allclose(walked[[0, 2], 3] - still[[0, 2], 3], back * 1.0, atol=1e-9)


def test_a_crouching_target_is_not_touched_by_what_goes_over_it(quay: Project, assets: Assets) -> None:
    sweep = action(quay, "Low sweep")
    high = tuple(
        replace(s, strikes=tuple(replace(k, boxes=(Hitbox(mount="head", shape="sphere", offset=(0, 0.35, 0.6)),))
                                 for k in s.strikes))
        for s in sweep.sections
    )  # fmt: skip
    build = CompiledProject(with_action(quay, "Low sweep", sections=high), assets)
    upright, rolled = (map_of(build, "Low sweep", MapTarget(stance)) for stance in ("", "Duck roll"))
    assert (upright.first != NEVER).sum() > (rolled.first != NEVER).sum()


@pytest.mark.parametrize(
    ("target", "step", "says"),
    [
        (MapTarget("nobody"), 0.1, "nobody"),
        (MapTarget(speed=float("nan")), 0.1, "m/s"),
        (MapTarget(speed=1e9), 0.1, "m/s"),
        (MapTarget(), 0.0, "step"),
        (MapTarget(), float("nan"), "step"),
    ],
)
def test_what_cannot_be_mapped_is_said(build: CompiledProject, target: MapTarget, step: float, says: str) -> None:
    with pytest.raises(Trouble, match=says):
        map_of(build, "Low sweep", target, step)


def test_a_map_of_what_goes_very_far_is_bounded(quay: Project, assets: Assets) -> None:
    sweep = action(quay, "Low sweep")
    far = tuple(
        replace(s, strikes=tuple(replace(k, boxes=(Hitbox(mount="hips", to=(0, 0, 900.0)),)) for k in s.strikes))
        for s in sweep.sections
    )
    build = CompiledProject(with_action(quay, "Low sweep", sections=far), assets)
    assert map_of(build, "Low sweep", MapTarget(), 0.01).first.size <= 60_000


def test_nothing_is_touched_by_what_has_no_strike(build: CompiledProject) -> None:
    found = map_of(build, "Duck roll")
    assert (found.ticks, found.reach, found.width, found.corner, found.farthest) == (None, None, 0.0, None, None)


def test_a_target_is_touched_on_the_hurtboxes_of_how_it_stands(quay: Project, assets: Assets) -> None:
    """Whether it stands in a state of the ground or in an action, by what is given there."""
    low, high = quay.rig.hurtboxes[0], quay.rig.hurtboxes[1]
    rig = replace(quay.rig, hurtboxes=(replace(low, postures=("ducking",), radius=0.21), replace(high, radius=0.12)))
    states = tuple(replace(s, posture="ducking") if s.name == "walk" else s for s in quay.locomotion.states)
    quay = replace(quay, rig=rig, locomotion=replace(quay.locomotion, states=states))
    quay = with_section(quay, "Thrust", 0, posture="ducking")
    build = CompiledProject(quay, assets)
    for stance, radii in (("", [0.12]), ("walk", [0.12, 0.21]), ("Thrust", [0.12, 0.21]), ("Low sweep", [0.12])):
        assert sorted(Hurt.of(build, stance).shapes.radius.tolist()) == radii, stance
