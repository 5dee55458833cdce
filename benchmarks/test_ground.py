"""Locomotion: a tick of two who blend, fade and stand on the floor; a large chart laid out and painted; an edit."""

from __future__ import annotations

import random
from itertools import cycle
from math import cos, sin
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from msgspec.structs import replace
from PySide6.QtCore import QSettings
from PySide6.QtGui import QPixmap
from PySide6.QtWidgets import QApplication

from veergust.core.edit.locomotion import set_state, set_transition
from veergust.core.files.assets import load_assets
from veergust.core.files.folder import open_project
from veergust.core.model import Condition, Fighter, Floor, Group, Locomotion, Project, Stage, State, Transition
from veergust.core.play.compiled.chart import Chart
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import Input
from veergust.core.scene.chart_layout import lay_out
from veergust.desk.app import make_application, make_window
from veergust.desk.ground.bench import GroundBench

DEMO = Path(__file__).resolve().parents[1] / "demo" / "lantern_quay.veergust"
NAMES = ("A", "B")


@pytest.fixture(scope="module")
def project() -> Project:
    return open_project(DEMO)


def walking(project: Project) -> Simulation:
    """Two on guard who have just begun to walk askew: a blend over two numbers fades in, feet stand, eyes meet."""
    fighters = tuple(Fighter(name=n, position=(5.0 * i, 0.0, 0.0)) for i, n in enumerate(NAMES))
    stage = Stage(floors=(Floor(low=(-1e4, -1e4), high=(1e4, 1e4)),), fighters=fighters)
    simulation = Simulation(CompiledProject(replace(project, stage=stage), load_assets(project, DEMO)[0]))
    for t in range(40):
        held = [Input(n, "guard") for n in NAMES] if t == 0 else []
        simulation.tick(held)
    return simulation


@pytest.mark.parametrize("feet", [True, False], ids=["feet and look", "clips alone"])
def test_a_tick_of_two_who_walk_on_guard(benchmark: Any, project: Project, feet: bool) -> None:
    if not feet:
        ground = project.locomotion
        bare = replace(ground, feet=replace(ground.feet, weight=0.0), look=replace(ground.look, weight=0.0))
        project = replace(project, locomotion=bare)
    simulation = walking(project)

    def tick() -> None:
        turn = simulation.now / 40.0
        way = (0.8 * cos(turn), 0.8 * sin(turn))
        # Stopping and going, so that a crossfade runs most of the time.
        stick = way if simulation.now % 24 < 12 else (0.0, 0.0)
        simulation.tick([Input(n, axis="move", value=stick) for n in NAMES])

    benchmark(tick)


def test_one_matrix_product_over_the_joints_of_two(benchmark: Any, project: Project) -> None:
    """What a tick is held against."""
    joints = len(load_assets(project, DEMO)[0].skeleton)
    a = np.random.default_rng(1).normal(size=(2, joints, 4, 4))
    benchmark(np.matmul, a, a)


def large() -> Locomotion:
    """40 states in 6 groups, with 120 transitions."""
    rng = random.Random(4)
    groups = tuple(Group(name=f"group {i}") for i in range(6))
    names = [f"state {i}" for i in range(40)]
    bands = ("floor", "guard", "air")
    states = tuple(
        State(name=n, group=f"group {i % 6}" if i % 3 else "", band=bands[i % 3])  # type: ignore[arg-type]
        for i, n in enumerate(names)
    )
    transitions = tuple(
        Transition(
            start=rng.choice([*names, "*"]),
            to=rng.choice(names),
            conditions=(Condition(test="speed", op=">", value=float(i)),),
        )
        for i in range(120)
    )
    return Locomotion(entry=names[0], states=states, groups=groups, transitions=transitions)


def test_a_large_chart_is_laid_out(benchmark: Any) -> None:
    chart = Chart(large())
    benchmark(lay_out, chart, 900.0, lambda words: 6.0 * len(words))


@pytest.fixture
def ground(tmp_path: Path) -> Any:
    make_application(["veergust"]) if QApplication.instance() is None else None
    window = make_window(QSettings(str(tmp_path / "settings.ini"), QSettings.Format.IniFormat))
    window.may_leave = lambda: True  # type: ignore[method-assign]
    window.resize(1280, 800)
    window.show()
    window.open_project(DEMO)
    window.show_bench("Ground")
    QApplication.processEvents()
    yield window.ground
    window.close()


def painted(bench: GroundBench) -> None:
    for widget in (bench.chart, bench.grid):
        widget.render(QPixmap(widget.size()))


def test_a_large_chart_is_laid_out_and_painted(benchmark: Any, ground: GroundBench) -> None:
    small = ground.document.project
    many = cycle((replace(small, locomotion=large()), replace(small, locomotion=replace(large(), run_speed=5.0))))

    def show() -> None:
        ground.document.preview(next(many))
        painted(ground)

    benchmark(show)


def test_an_edit_is_on_the_paper_and_on_the_stage(benchmark: Any, ground: GroundBench) -> None:
    document = ground.document
    ticks, most = cycle((5, 6)), cycle((0.8, 0.9))

    def edit() -> None:
        changed = set_transition(document.base, 3, "ticks", ticks=next(ticks)).project
        document.preview(set_state(changed, "guard", "speed", most=next(most)).project)
        painted(ground)
        ground.live.session.tick()

    benchmark(edit)
