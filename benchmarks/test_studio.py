"""A studio's project of 30, 300 and 1,000 actions with twice as many clips: all that somebody waits for, whole, with
checks, journal and painting; and what grows with frames, states, layers and joints."""

from __future__ import annotations

import os
import subprocess
import sys
from collections.abc import Callable, Iterator
from itertools import cycle, product
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from benchmarks.growth import grows
from benchmarks.studio import studio
from msgspec.structs import replace
from PySide6.QtCore import QSettings
from PySide6.QtGui import QPixmap
from PySide6.QtWidgets import QApplication

from veergust.core.edit.cuts import retime_cut
from veergust.core.edit.spans import Edit, SpanRef, set_edges
from veergust.core.files.assets import load_assets
from veergust.core.files.demo import copy_demo
from veergust.core.files.folder import open_project
from veergust.core.model import Group, Layer, Locomotion, State, Transition
from veergust.core.motion.skeleton import Skeleton, forward
from veergust.core.play.compiled.chart import Chart
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import Input
from veergust.core.scene.chart_layout import lay_out
from veergust.core.study.facts import facts
from veergust.core.study.findings import findings
from veergust.core.study.store import Store
from veergust.desk.app import make_application, make_window
from veergust.desk.shell.find import everything
from veergust.desk.shell.window import Window
from veergust.desk.widgets.choose import Chooser

SIZES = (30, 300, 1000)
STRIKE = SpanRef("Low sweep", 1, "strikes", 0)
sized = pytest.mark.parametrize("size", SIZES)


@pytest.fixture(scope="session")
def studios(tmp_path_factory: pytest.TempPathFactory) -> Callable[[int], Path]:
    made: dict[int, Path] = {}

    def of(size: int) -> Path:
        if size not in made:
            made[size] = studio(size, tmp_path_factory.mktemp("studio") / f"s{size}.veergust")
        return made[size]

    return of


@pytest.fixture(scope="session")
def opened(studios: Callable[[int], Path]) -> Iterator[Callable[[int], Window]]:
    """The window with a studio's project, the Sheet and its first strike before one; the last that was asked for."""
    kept: dict[int, Window] = {}

    def of(size: int) -> Window:
        if size not in kept:
            close()
            kept[size] = at_sheet(studios(size))
        return kept[size]

    def close() -> None:
        for window in kept.values():
            window.may_leave = lambda: True  # type: ignore[method-assign]
            window.close()
            window.deleteLater()
        kept.clear()
        if QApplication.instance() is not None:
            QApplication.processEvents()

    yield of
    close()


def at_sheet(folder: Path) -> Window:
    if QApplication.instance() is None:
        make_application(["veergust"])
    window = make_window(QSettings(str(folder.parent / "settings.ini"), QSettings.Format.IniFormat))
    window.resize(1280, 800)
    window.show()
    window.open_project(folder)
    window.show_bench("Sheet")
    window.document.choose_action("Low sweep")
    settle(window)
    return window


def settle(window: Window) -> None:
    """Wait until nothing is checked or measured any more."""
    while window.findings_button._slices.busy or window.sheet.list._slices.busy:
        QApplication.processEvents()


def painter(window: Window) -> Callable[[], None]:
    """Paints all of the Sheet that an edit changes, where nothing waits for the stage's picture."""
    sheet = window.sheet
    widgets = (sheet.sheet.viewport(), sheet.facts, sheet.now, sheet.list.viewport())
    papers = [QPixmap(widget.size()) for widget in widgets]

    def paint() -> None:
        for widget, paper in zip(widgets, papers):
            widget.render(paper)

    return paint


@sized
def test_an_edit_whole(benchmark: Any, opened: Callable[[int], Window], size: int) -> None:
    grows(benchmark, size, by=0.2)
    window = opened(size)
    document, paint, edges = window.document, painter(window), cycle(product((1, 2, 3), (5, 6, 7, 8)))

    def edit() -> None:
        assert document.compiled is not None
        document.apply(set_edges(document.project, document.compiled, STRIKE, *next(edges)))
        paint()

    benchmark.pedantic(edit, setup=lambda: settle(window), rounds=15)


@sized
def test_an_edit_undone(benchmark: Any, opened: Callable[[int], Window], size: int) -> None:
    grows(benchmark, size, by=0.2)
    window = opened(size)
    document, paint = window.document, painter(window)
    assert document.compiled is not None
    for start in (1, 2, 3, 1, 2, 3, 1, 2, 3):
        document.apply(set_edges(document.project, document.compiled, STRIKE, start, 7))

    def undo() -> None:
        document.undo()
        paint()

    benchmark.pedantic(undo, setup=lambda: settle(window), rounds=8)


@sized
def test_another_action_opened(benchmark: Any, opened: Callable[[int], Window], size: int) -> None:
    grows(benchmark, size, by=0.2)
    window = opened(size)
    document, paint = window.document, painter(window)
    names = cycle([a.name for a in document.project.actions[15:30]])

    def choose() -> None:
        document.choose_action(next(names))
        paint()

    benchmark.pedantic(choose, setup=lambda: settle(window), rounds=15)
    document.choose_action("Low sweep")


@sized
def test_one_change_saved(benchmark: Any, opened: Callable[[int], Window], size: int) -> None:
    grows(benchmark, size, by=1.0)
    window = opened(size)
    document, edges = window.document, cycle(product((1, 2, 3), (5, 6, 7, 8)))

    def change() -> None:
        assert document.compiled is not None
        document.apply(set_edges(document.project, document.compiled, STRIKE, *next(edges)))
        settle(window)

    benchmark.pedantic(window.save, setup=change, rounds=6)


@sized
def test_anything_found_by_name(benchmark: Any, opened: Callable[[int], Window], size: int) -> None:
    grows(benchmark, size, by=1.0)
    window = opened(size)

    def find() -> None:
        page = Chooser(window, "Find anything", [f.says for f in everything(window.document.project)], "")
        page.resize(460, 420)
        page.line.setText("sweep")
        page.grab()
        page.deleteLater()

    benchmark(find)


@sized
def test_a_studio_opened(
    benchmark: Any, studios: Callable[[int], Path], opened: Callable[[int], Window], size: int
) -> None:
    grows(benchmark, size, by=1.0)
    window = opened(size)
    window.may_leave = lambda: True  # type: ignore[method-assign]
    benchmark.pedantic(lambda: window.open_project(studios(size)), rounds=2)
    settle(window)
    window.document.choose_action("Low sweep")


@sized
def test_all_checked_after_an_edit(benchmark: Any, opened: Callable[[int], Window], size: int) -> None:
    grows(benchmark, size, by=1.0)
    build = opened(size).document.build
    store, edges = Store(), cycle(product((1, 2, 3), (5, 6, 7, 8)))
    findings(build, store)
    compiled = build.action("Low sweep")
    assert compiled is not None

    def check() -> None:
        findings(build.renew(set_edges(build.project, compiled, STRIKE, *next(edges)).project), store)

    benchmark(check)


@pytest.mark.parametrize("size", SIZES[:2])
def test_facts_of_every_action(benchmark: Any, opened: Callable[[int], Window], size: int) -> None:
    grows(benchmark, size, by=1.0)
    build = opened(size).document.build

    def measure() -> None:
        build.memo.clear()
        for action in build.project.actions:
            facts(build, action.name)

    benchmark.pedantic(measure, rounds=1)


@sized
def test_a_tick_of_two_who_press(benchmark: Any, opened: Callable[[int], Window], size: int) -> None:
    grows(benchmark, size, by=0.2)
    build = opened(size).document.build
    build.prepare()
    simulation = Simulation(build)
    names, count = [f.name for f in simulation.fighters[:2]], iter(range(10**9))

    def tick() -> None:
        press = next(count) % 8 == 0
        simulation.tick([Input(n, c) for n, c in zip(names, ("light", "heavy"))] if press else [])

    benchmark(tick)


# By frames, states, layers and joints


@pytest.mark.parametrize("size", [60, 1500, 6000])
def test_an_edge_dragged_in_an_action_of_frames(benchmark: Any, tmp_path: Path, size: int) -> None:
    grows(benchmark, size, by=0.35)
    window = at_sheet(copy_demo(tmp_path / "long.veergust"))
    document = window.document
    assert document.compiled is not None
    sweep, laps = document.compiled.action, max(round(size / document.compiled.rows), 1)
    first = sweep.sections[0].name
    sections = [
        replace(s, name=f"{s.name} {n}", then=f"{first} {n + 1}" if s.then == "end" else f"{s.then} {n}")
        for n in range(laps)
        for s in sweep.sections
    ]
    sections[-1] = replace(sections[-1], then="end")
    long = replace(sweep, sections=tuple(sections), entry="")
    actions = tuple(long if a.name == long.name else a for a in document.project.actions)
    document.apply(Edit(replace(document.project, actions=actions), "long"))
    settle(window)
    paint, edges, compiled = painter(window), cycle(product((1, 2, 3), (5, 6, 7, 8, 9, 10, 11))), document.compiled

    def drag() -> None:
        document.preview(set_edges(document.base, compiled, STRIKE, *next(edges)).project)
        paint()

    paint()
    benchmark.pedantic(drag, rounds=20)
    document.cancel_preview()
    window.may_leave = lambda: True  # type: ignore[method-assign]
    window.close()


@sized
def test_a_cut_retimed_whole(benchmark: Any, opened: Callable[[int], Window], size: int) -> None:
    grows(benchmark, size, by=0.2)
    window = opened(size)
    document, paint, ticks = window.document, painter(window), cycle((6, 7, 8, 9, 10))

    def retime() -> None:
        document.preview(retime_cut(document.base, document.build.assets, "Low sweep", 1, 0, next(ticks)).project)
        paint()

    benchmark.pedantic(retime, rounds=15)
    document.cancel_preview()
    settle(window)


@pytest.mark.parametrize("size", [10, 200])
def test_a_chart_of_states_laid_out(benchmark: Any, size: int) -> None:
    grows(benchmark, size, by=1.5)
    names = [f"state {i}" for i in range(size)]
    made = Locomotion(
        entry=names[0],
        groups=(Group(name="some"),),
        states=tuple(State(name=n, group="some" if i % 4 else "") for i, n in enumerate(names)),
        transitions=tuple(Transition(start=n, to=names[(i * 7 + 3) % size]) for i, n in enumerate(names)),
    )
    benchmark(lay_out, Chart(made), 900.0, lambda words: 6.0 * len(words))


@pytest.mark.parametrize("size", [2, 12])
def test_a_tick_of_one_on_layers(benchmark: Any, tmp_path: Path, size: int) -> None:
    grows(benchmark, size, by=1.0)
    folder = copy_demo(tmp_path / "demo.veergust")
    project = open_project(folder)
    layers = tuple(Layer(name=f"over {n}", mask=project.masks[0].name) for n in range(size))
    jab = next(a for a in project.actions if a.name == "Staff jab")
    actions = tuple(replace(jab, name=f"jab {n}", layer=f"over {n}") for n in range(size))
    project = replace(project, layers=(*project.layers, *layers), actions=(*project.actions, *actions))
    fighters = project.stage.fighters[:1]
    made = CompiledProject(
        replace(project, stage=replace(project.stage, fighters=fighters)), load_assets(project, folder)[0]
    )
    made.prepare()
    simulation, count = Simulation(made), iter(range(10**9))

    def tick() -> None:
        n = next(count)
        asked = [Input(fighters[0].name, action=f"jab {n % size}")] if n % 2 == 0 else []
        simulation.tick(asked)

    benchmark(tick)


@pytest.mark.parametrize("size", [30, 200])
def test_a_pose_of_joints(benchmark: Any, size: int) -> None:
    grows(benchmark, size, by=1.0)
    rng = np.random.default_rng(1)
    turns = rng.normal(size=(size, 4))
    turns /= np.linalg.norm(turns, axis=1, keepdims=True)
    parents = tuple(max(j - 1 - j % 3, -1) for j in range(size))
    bones = Skeleton(tuple(f"j{n}" for n in range(size)), parents, turns, rng.normal(size=(size, 3)))
    benchmark(forward, bones, turns[None], rng.normal(size=(1, size, 3)))


# Starting

WINDOW = """
from veergust.desk.app import make_application, make_window
from PySide6.QtCore import QSettings
app = make_application(["veergust"])
window = make_window(QSettings({settings!r}, QSettings.Format.IniFormat))
window.show()
app.processEvents()
"""
BARE = """
from PySide6.QtWidgets import QApplication, QMainWindow
app = QApplication([])
window = QMainWindow()
window.resize(1280, 800)
window.show()
app.processEvents()
"""


@pytest.mark.parametrize("what", ["this program", "a bare window"])
def test_from_nothing_to_a_window(benchmark: Any, tmp_path: Path, what: str) -> None:
    """A process that shows its first window; the second of two starts, as bytecode is kept."""
    words = WINDOW.format(settings=str(tmp_path / "settings.ini")) if what == "this program" else BARE

    def start() -> None:
        kept = {name: value for name, value in os.environ.items() if name != "PYTHONDONTWRITEBYTECODE"}
        subprocess.run([sys.executable, "-c", words], check=True, capture_output=True, env=kept)

    start()
    benchmark.pedantic(start, rounds=5)
