"""Feet on the floor, told by where the joints are in the world and by the floors of the stage as the test lays them."""

from __future__ import annotations

from math import cos, radians, sin, tan

import numpy as np
import pytest
from msgspec.structs import replace
from tools.made.edits import action

from veergust.core.model import Fighter, Floor, Hold, Project, Stage
from veergust.core.motion.figure import Assets
from veergust.core.motion.quat import angle_between
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import FighterState, Input

WHO = "Walker"
BALL_HIGH = 0.025
"""The demo's balls of the feet lie so high over the sole (m)."""
Moves = dict[int, tuple[float, float]]


class Film:
    """A fighter played on a stage: joints in the world ``[T, J, 3]``, local turns ``[T, J, 4]``, and its states."""

    def __init__(self, quay: Project, assets: Assets, floors: tuple[Floor, ...], **how: object) -> None:
        at, facing, moves, ticks = (how[k] for k in ("at", "facing", "moves", "ticks"))
        inputs: dict[int, list[Input]] = how.get("inputs", {})  # type: ignore[assignment]
        stage = Stage(floors=floors, fighters=(Fighter(name=WHO, position=at, facing=facing),), put_back_below=-9.0)  # type: ignore[arg-type]
        build = CompiledProject(replace(quay, stage=stage), assets)
        simulation = Simulation(build)
        index = build.assets.skeleton.index
        places, turns, self.states, self.weights = [], [], [], []
        for t in range(ticks):  # type: ignore[call-overload]
            given = list(inputs.get(t, []))
            if t in moves:  # type: ignore[operator]
                given.append(Input(WHO, axis="move", value=moves[t]))  # type: ignore[index]
            simulation.tick(given)
            f = simulation.fighters[0]
            places.append(_world(f))
            assert f.pose is not None
            turns.append(f.pose.rotation[0])
            self.states.append(f.locomotion[-1].state)
            self.weights.append(f.footing.weight)
        self.joints, self.turns = np.array(places), np.array(turns)
        self.balls = [self.joints[:, index[f"toes_{side}"]] for side in ("left", "right")]
        self.ankles = [self.joints[:, index[f"foot_{side}"]] for side in ("left", "right")]

    def slides(self, first: int, raised: float = 0.022) -> list[float]:
        """How far (m) each ball goes over the floor while it is down, for every stance that ends from tick ``first`` on."""
        out = []
        for ball in self.balls:
            down = ball[:, 1] < np.percentile(ball[:, 1], 1) + raised
            edges = np.flatnonzero(np.diff(np.concatenate([[0], down.astype(int), [0]]))).reshape(-1, 2)
            for start, end in edges:
                if end > first and end - start >= 4:
                    way = ball[max(start, 0) : end][:, [0, 2]]
                    out.append(float(np.linalg.norm(way[:, None] - way[None], axis=-1).max()))
        return out


def _world(f: FighterState) -> np.ndarray:
    turn = radians(f.facing)
    spin = np.array([[cos(turn), 0.0, sin(turn)], [0.0, 1.0, 0.0], [-sin(turn), 0.0, cos(turn)]])
    return f.joints_now[:, :3, 3] @ spin.T + f.position


FLAT = (Floor(low=(-200.0, -200.0), high=(200.0, 200.0)),)


def walked(quay: Project, assets: Assets, moves: Moves, ticks: int, **more: object) -> Film:
    return Film(quay, assets, FLAT, at=(0.0, 0.0, 0.0), facing=90.0, moves=moves, ticks=ticks, **more)


@pytest.mark.parametrize("stick", [0.1, 0.2, 0.3, 0.45, 0.6, 0.8, 1.0])
def test_standing_feet_stay_within_3_centimetres_at_any_speed(quay: Project, assets: Assets, stick: float) -> None:
    film = walked(quay, assets, {0: (stick, 0.0)}, 300)
    slides = film.slides(120)
    assert len(slides) >= 4
    assert max(slides) < 0.03


@pytest.mark.parametrize("way", [(0.0, 1.0), (1.0, 0.0), (-0.7, 0.7), (0.3, -0.4)])
def test_on_guard_they_do_all_ways_round(quay: Project, assets: Assets, way: tuple[float, float]) -> None:
    held = {0: [Input(WHO, command="guard")]}
    film = walked(quay, assets, {0: way}, 260, inputs=held)
    assert film.states[-1] == "guard walk"
    assert max(film.slides(120, 0.018)) < 0.03


@pytest.mark.parametrize(
    "moves",
    [
        {60: (0.3, 0.0)},
        {60: (1.0, 0.0)},
        {0: (0.3, 0.0), 60: (0.0, 0.0)},
        {0: (1.0, 0.0), 60: (0.0, 0.0)},
        {0: (0.3, 0.0), 60: (-0.3, 0.0)},
        {0: (1.0, 0.0), 60: (-1.0, 0.0)},
        {0: (0.3, 0.0), 60: (0.0, 0.3)},
    ],
    ids=["walks off", "runs off", "stops walking", "stops running", "turns walking", "turns running", "a quarter"],
)
def test_starting_stopping_and_turning_no_foot_slides_6_centimetres(
    quay: Project, assets: Assets, moves: Moves
) -> None:
    film = walked(quay, assets, moves, 170)
    assert max(film.slides(58)) < 0.06
    # Without the correction this is what the clips alone give: the bound means something.
    plain = replace(quay, locomotion=replace(quay.locomotion, feet=replace(quay.locomotion.feet, weight=0.0)))
    assert max(walked(plain, assets, moves, 170).slides(58)) > max(film.slides(58))


SLOPE = tan(radians(20.0))
RAMP = (
    Floor(low=(-5.0, -5.0), high=(5.0, 0.0)),
    Floor(low=(-5.0, 0.0), high=(5.0, 4.0), height=0.0, rise=4.0 * SLOPE, along="z"),
    Floor(low=(-5.0, 4.0), high=(5.0, 12.0), height=4.0 * SLOPE),
)
STAIRS = (
    Floor(low=(-5.0, -5.0), high=(5.0, 0.0)),
    *(Floor(low=(-5.0, 0.3 * i), high=(5.0, 0.3 * (i + 1)), height=0.15 * (i + 1)) for i in range(8)),
    Floor(low=(-5.0, 2.4), high=(5.0, 12.0), height=0.15 * 8),
)


def ramp_height(z: float) -> float:
    return SLOPE * min(max(z, 0.0), 4.0)


def stairs_height(z: float) -> float:
    return 0.15 * min(max(int(np.floor(z / 0.3)) + 1, 0), 8)


@pytest.mark.parametrize(
    ("floors", "height", "start", "facing", "stick"),
    [
        (RAMP, ramp_height, -1.0, 0.0, 0.3),
        (RAMP, ramp_height, 5.0, 180.0, -0.3),
        (STAIRS, stairs_height, -1.0, 0.0, 0.3),
        (STAIRS, stairs_height, 3.4, 180.0, -0.3),
        (STAIRS, stairs_height, -1.0, 0.0, 0.2),
    ],
    ids=["up a slope of 20°", "down it", "up stairs", "down stairs", "slowly up stairs"],
)
def test_soles_lie_on_slopes_and_stairs_while_they_stand(
    quay: Project, assets: Assets, floors: tuple[Floor, ...], height: object, start: float, facing: float, stick: float
) -> None:
    y = float(height(start))  # type: ignore[operator]
    film = Film(quay, assets, floors, at=(0.0, y, start), facing=facing, moves={10: (0.0, stick)}, ticks=230)
    steep = np.array([0.0, cos(radians(20.0)), -sin(radians(20.0))])
    stood = 0
    for ball, ankle in zip(film.balls, film.ankles):
        for t in range(12, len(ball)):
            if np.linalg.norm(ball[t] - ball[t - 1]) > 0.002 or np.linalg.norm(ball[t - 3] - ball[t]) > 0.004:
                continue
            # Where the floor bends under a foot, part of the sole has to hang over it.
            if floors is RAMP and min(abs(ball[t][2]), abs(ball[t][2] - 4.0)) < 0.12:
                continue
            heel = ball[t] + (ankle[t] - ball[t]) * 1.3
            under = max(height(ball[t][2]), height(heel[2])) if floors is STAIRS else height(ball[t][2])  # type: ignore[operator]
            up = steep if floors is RAMP and 0.05 < ball[t][2] < 3.95 else np.array([0.0, 1.0, 0.0])
            gap = float((ball[t] - np.array([ball[t][0], under, ball[t][2]])) @ up) - BALL_HIGH
            stood += 1
            assert abs(gap) < 0.01, f"tick {t}: {gap * 100:.1f} cm"
    assert stood > 60
    turned = np.asarray(angle_between(film.turns[11:-1], film.turns[12:]))
    assert turned.max() < 25.0
    # No leg is ever straighter than the clips' own: the knees keep their bend.
    assert film.joints[-1, 0, 1] == pytest.approx(height(film.joints[-1, 0, 2]), abs=0.16)  # type: ignore[operator]


def test_an_action_that_holds_the_feet_takes_them_off_and_every_ending_gives_them_back(
    quay: Project, assets: Assets
) -> None:
    """Interrupted on each of its frames: within, the correction goes; after, it comes back."""
    sweep = action(quay, "Low sweep")
    sections = tuple(replace(s, holds=(Hold(start=0, end=999, setting="feet", value=0.0),)) for s in sweep.sections)
    held = replace(sweep, sections=sections)
    project = replace(quay, actions=tuple(held if a is sweep else a for a in quay.actions))
    settings = project.locomotion.feet
    for stop in range(1, 40, 3):
        inputs = {20: [Input(WHO, command="light")], 20 + stop: [Input(WHO, action="Duck roll")]}
        film = walked(project, assets, {}, 20 + stop + 90, inputs=inputs)
        assert film.weights[19] == pytest.approx(settings.weight)
        falling = film.weights[20 : 20 + stop]
        assert falling[0] < film.weights[19]
        assert all(b <= a for a, b in zip(falling, falling[1:]))
        if stop > settings.ticks + 1:
            assert falling[settings.ticks + 1] == 0.0
        assert film.weights[-1] == pytest.approx(settings.weight)


@pytest.mark.parametrize("way", ["up", "down"])
@pytest.mark.parametrize(("rise", "tread"), [(0.15, 0.3), (0.12, 0.35), (0.18, 0.36)])
@pytest.mark.parametrize("stick", [0.25, 0.32, 1.0])
def test_no_toe_passes_under_the_step_it_is_over(
    quay: Project, assets: Assets, stick: float, rise: float, tread: float, way: str
) -> None:
    """On real stairs, walking slowly, walking and running: toes that swing are over the steps as well as those that stand,
    and are not torn up there in one tick."""
    steps, begins = 12, 2.0

    def height(z: float) -> float:
        n = 0 if z < begins else min(int((z - begins) / tread) + 1, steps)
        return rise * (n if way == "up" else steps - n)

    edges = [-9.0, *(begins + tread * n for n in range(steps)), 40.0]
    floors = tuple(Floor(low=(-4.0, a), high=(4.0, b), height=height((a + b) / 2)) for a, b in zip(edges, edges[1:]))
    film = Film(quay, assets, floors, at=(0.0, height(0.0), 0.0), facing=0.0, moves={3: (0.0, stick)}, ticks=330)
    assert abs(film.joints[-1, 0, 1] - film.joints[0, 0, 1]) > 0.8 * (steps - 1) * rise
    deep = np.array([[height(z) - (y - BALL_HIGH) for _, y, z in ball] for ball in film.balls])
    assert deep.max() < 0.15
    assert np.mean(deep > 0.03) < 0.04
    gone = np.linalg.norm(np.diff(film.joints, axis=0), axis=-1).max()
    assert gone < 0.26
