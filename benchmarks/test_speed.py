"""How fast the parts that repeat are; run with ``./run bench``. Nothing here passes or fails by a clock."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import msgspec
import numpy as np
import pytest
from PIL import Image

from veergust.core.edit.spans import SpanRef, set_edges
from veergust.core.files.as_files import project_files
from veergust.core.files.assets import load_assets
from veergust.core.files.folder import open_project
from veergust.core.files.importing import import_file
from veergust.core.files.saving import save_project
from veergust.core.model import Action, Fighter, Floor, Project, Stage, Strike
from veergust.core.motion import quat
from veergust.core.motion.skeleton import forward
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.contact.contacts import Contacts
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import Input
from veergust.core.study.coverage import covered, excess
from veergust.core.study.facts import facts
from veergust.core.study.fit import fitted
from veergust.core.study.floor_map import MapTarget, floor_map
from veergust.core.study.now import now

DEMO = Path(__file__).resolve().parents[1] / "demo" / "lantern_quay.veergust"


@pytest.fixture(scope="module")
def build() -> CompiledProject:
    project = open_project(DEMO)
    return CompiledProject(project, load_assets(project, DEMO)[0])


@pytest.mark.parametrize("frames", [1, 100, 1000])
def test_joints_of_a_batch(benchmark: Any, build: CompiledProject, frames: int) -> None:
    bones = build.assets.skeleton
    turn = quat.normalize(np.random.default_rng(1).normal(size=(frames, len(bones), 4)))
    place = np.zeros((frames, len(bones), 3))
    benchmark(forward, bones, turn, place)


@pytest.mark.parametrize("frames", [1, 100, 1000])
def test_one_matrix_product_over_the_same_arrays(benchmark: Any, build: CompiledProject, frames: int) -> None:
    """What the joints of a batch are held against."""
    a = np.random.default_rng(1).normal(size=(frames, len(build.assets.skeleton), 4, 4))
    benchmark(np.matmul, a, a)


def test_a_tick_of_two_fighters(benchmark: Any, build: CompiledProject) -> None:
    simulation = Simulation(build)
    count, first = iter(range(10**9)), simulation.tick()

    def tick() -> None:
        n = next(count)
        simulation.tick([Input("Ossa Renn", "light")] if n % 20 == 0 else [])
        if n % 500 == 499:
            simulation.resume(first)

    benchmark(tick)


def test_a_tick_of_two_drawn_fighters(benchmark: Any) -> None:
    """Held against a tick of two with skeletons."""
    folder = DEMO.parent / "paper_theatre.veergust"
    project = open_project(folder)
    simulation = Simulation(CompiledProject(project, load_assets(project, folder)[0]))
    count, first = iter(range(10**9)), simulation.tick()

    def tick() -> None:
        n = next(count)
        simulation.tick([Input("Ossa Renn", "light")] if n % 20 == 0 else [])
        if n % 500 == 499:
            simulation.resume(first)

    benchmark(tick)


def test_three_hundred_drawn_cells_opened(benchmark: Any, tmp_path: Path) -> None:
    """Of 256 × 256 pixels; 1 s is asked for."""
    cells, sheet = [], np.zeros((15 * 258, 20 * 258, 4), np.uint8)
    draw = np.random.default_rng(1)
    for n in range(300):
        x, y = n % 20 * 258, n // 20 * 258
        sheet[y + 20 : y + 256, x + 80 : x + 180] = draw.integers(0, 255, (236, 100, 4))
        boxes = [{"kind": "hurt", "name": "trunk", "rect": [80, 20, 100, 236]}]
        cells.append({"at": [x, y], "hold": 3, "points": {"hand": [170, 100]}, "boxes": boxes})
    Image.fromarray(sheet, "RGBA").save(tmp_path / "many.png")
    said = {"image": "many.png", "cell": [256, 256], "cells": cells}
    (tmp_path / "many.json").write_text(json.dumps(said))
    folder = tmp_path / "many.veergust"
    save_project(Project(name="many"), folder)
    import_file(Project(name="many"), folder, tmp_path / "many.png")

    def opened() -> None:
        project = open_project(folder)
        CompiledProject(project, load_assets(project, folder)[0]).prepare()

    benchmark.pedantic(opened, rounds=5)


def test_facts_of_an_action(benchmark: Any, build: CompiledProject) -> None:
    benchmark(facts, build, "Low sweep")


def test_a_floor_map(benchmark: Any, build: CompiledProject) -> None:
    """Of some 60 × 60 places, of an action with twelve open frames; 1 s is asked for 40 frames."""
    strikes = next(a for a in build.project.actions if a.name == "Low sweep").sections[1].strikes
    ref = SpanRef("Low sweep", 1, "strikes", 0)
    first = build.action("Low sweep")
    assert first is not None
    assert strikes
    changed = build.renew(set_edges(build.project, first, ref, 0, 12).project)
    compiled = changed.action("Low sweep")
    assert compiled is not None
    benchmark(floor_map, changed, compiled, MapTarget(), 0.04)


def test_a_fit_of_a_swing_of_twelve_frames(benchmark: Any, build: CompiledProject) -> None:
    """Of a foot with its skin, which bends; 0.5 s is asked."""
    compiled = build.action("Duck roll")
    assert compiled is not None
    benchmark(fitted, build, compiled, 0, Strike(start=2, end=14), mount="foot L")


def test_what_a_hitbox_covers_while_it_is_dragged(benchmark: Any, build: CompiledProject) -> None:
    """Share and excess on one frame; 8 ms are asked."""
    compiled = build.action("Low sweep")
    assert compiled is not None
    benchmark(lambda: (covered(build, compiled, 1, 3), excess(build, compiled, 1, 3)))


def test_an_edit_with_its_facts_and_now_card(benchmark: Any, build: CompiledProject) -> None:
    """What a frame of a drag costs without painting."""
    ref = SpanRef("Low sweep", 1, "strikes", 0)
    starts = iter([1, 2, 3, 4] * 100_000)

    def edit() -> None:
        start = next(starts)
        compiled = build.action("Low sweep")
        assert compiled is not None
        changed = build.renew(set_edges(build.project, compiled, ref, start, start + 4).project)
        again = changed.action("Low sweep")
        assert again is not None
        facts(changed, "Low sweep")
        now(changed, again, 11)

    benchmark(edit)


def test_opening_the_demo(benchmark: Any) -> None:
    benchmark(lambda: load_assets(open_project(DEMO), DEMO))


def test_making_the_files_of_two_hundred_actions(benchmark: Any, build: CompiledProject) -> None:
    first = build.project.actions[0]
    many = tuple(msgspec.structs.replace(first, name=f"Action {n}") for n in range(200))
    project = msgspec.structs.replace(build.project, actions=many)
    benchmark(project_files, project)


def crowd(build: CompiledProject, count: int, *, striking: bool) -> Simulation:
    """So many fighters a metre from each other, each with an action that plays on, and an open strike if wanted."""
    project = build.project
    swing = project.actions[0].sections[1]
    strike = msgspec.structs.replace(swing.strikes[0], start=0, end=99, damage=0.0, hit_stop=0, knockback=(0, 0, 0))
    round_ = msgspec.structs.replace(
        swing, strikes=(strike,) if striking else (), exits=(), then="Swing", holds=(), events=()
    )
    loop = Action(name="Round", sections=(round_,), blend_in=0)
    fighters = tuple(
        Fighter(name=f"F{i}", position=(1.1 * (i % 4), 0.0, 1.1 * (i // 4)), facing=90.0 * (i % 4))
        for i in range(count)
    )
    stage = Stage(floors=(Floor(low=(-99.0, -99.0), high=(99.0, 99.0)),), fighters=fighters)
    made = msgspec.structs.replace(project, actions=(*project.actions, loop), reactions=(), stage=stage)
    simulation = Simulation(CompiledProject(made, build.assets))
    for tick in range(10):
        simulation.tick([Input(f.name, action="Round") for f in fighters] if tick == 0 and striking else [])
    return simulation


@pytest.mark.parametrize("striking", [False, True], ids=["idle", "all striking"])
@pytest.mark.parametrize("count", [2, 4, 8, 16])
def test_a_tick_of_a_crowd(benchmark: Any, build: CompiledProject, count: int, striking: bool) -> None:
    simulation = crowd(build, count, striking=striking)
    begun = simulation.tick()

    def tick() -> None:
        simulation.tick()
        if simulation.now > 400:
            simulation.resume(begun)

    benchmark(tick)


@pytest.mark.parametrize("name", ["Low sweep", "Overhead hook", "Duck roll"])
def test_the_first_tick_of_an_action_that_was_never_compiled(benchmark: Any, build: CompiledProject, name: str) -> None:
    def fresh() -> tuple[tuple[Simulation], dict[str, Any]]:
        build.assets.tracks.clear()
        return (Simulation(CompiledProject(build.project, build.assets)),), {}

    benchmark.pedantic(lambda simulation: simulation.tick([Input("Ossa Renn", action=name)]), setup=fresh, rounds=20)


def test_the_contacts_of_sixteen_in_one_ring_who_all_strike(benchmark: Any, build: CompiledProject) -> None:
    """Each within reach of its neighbours, on a tick on which every sweep is open."""
    turns = np.linspace(0.0, 2.0 * np.pi, 16, endpoint=False)
    fighters = tuple(
        Fighter(name=f"{n}", position=(2.0 * np.sin(t), 0.0, 2.0 * np.cos(t)), facing=float(np.degrees(t) + 90.0))
        for n, t in enumerate(turns)
    )
    simulation = Simulation(build.level, fighters=fighters, touches=lambda _: [])
    for tick in range(13):
        simulation.tick([Input(f.name, action="Low sweep") for f in simulation.fighters] if tick == 0 else [])
    assert len(benchmark(lambda: Contacts(simulation.build, simulation.fighters).find())) == 16
