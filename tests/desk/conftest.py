"""A real window on a fresh copy of the demo, and ways to use it as a person does."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from hashlib import blake2b
from pathlib import Path
from types import ModuleType
from typing import Any

import pytest
from PySide6.QtCore import QEventLoop, QPoint, QPointF, QSettings, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QImage, QPaintEvent, QPixmap, QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QWidget
from pytestqt.qtbot import QtBot

from veergust import core
from veergust.core.edit.spans import SpanRef
from veergust.core.files.assets import load_assets as read_assets
from veergust.core.files.folder import project_of as read_project
from veergust.core.files.formats import SUFFIXES
from veergust.core.model import Project
from veergust.core.motion.figure import Assets, Mesh
from veergust.core.motion.quat import Array
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.results import Results
from veergust.core.study.store import Store
from veergust.desk.app import make_application, make_window
from veergust.desk.clips.strips import paint_strip
from veergust.desk.running import tidying
from veergust.desk.running.work import end_all
from veergust.desk.shell.findings import FindingsButton
from veergust.desk.shell.window import Window
from veergust.desk.stage import picture, view
from veergust.desk.stage.picture import Shows, StagePicture
from veergust.desk.stage.view import StageView
from veergust.desk.widgets.inked import pose_pixmap

READ = {*SUFFIXES, ".bin", ".png", ".gif"}
CHECKED = {"test_recipes", "test_sheet", "test_widgets", "test_window", "test_wander", "test_narrow", "test_sides"}
"""The modules whose tests have the window look for findings."""
STRIKE = SpanRef("Low sweep", 1, "strikes", 0)


@pytest.fixture(scope="session")
def qapp() -> Iterator[QApplication]:
    yield make_application(["veergust"])
    end_all()


def let_go(window: Window) -> None:
    """Let a window close without asking about unsaved work."""
    window.may_leave = lambda: True  # type: ignore[method-assign]


def at_rest(window: Window) -> None:
    """Stop what plays in a window, on the benches it has; a bench that was never shown is not made for it."""
    if "Spar" in window._made:
        window.spar.hold()
    if "Sheet" in window._made:
        window.sheet.stop()


def told(files: dict[str, bytes]) -> tuple[tuple[str, bytes], ...]:
    """What tells one content of files from another."""
    return tuple((name, blake2b(files[name]).digest()) for name in sorted(files))


class Over:
    """A module of which some names answer otherwise, for whoever looks at it through this."""

    def __init__(self, module: ModuleType, **names: object) -> None:
        self._module = module
        self.__dict__.update(names)

    def __getattr__(self, name: str) -> Any:
        return getattr(self._module, name)


def read_by(load: Callable[..., Any], make: Callable[..., Any] = CompiledProject) -> Over:
    """The core as a document sees it that reads its clips, and compiles its project, by these."""
    return Over(core, files=Over(core.files, load_assets=load), play=Over(core.play, CompiledProject=make))


@pytest.fixture(scope="session", autouse=True)
def opened_once() -> Iterator[None]:
    """The demo is the same in hundreds of copies: what has the same bytes is read, compiled and studied once."""
    projects, loaded, builds = (
        Results[Any, Project](60),
        Results[Any, tuple[Assets, list[str]]](20),
        Results[Any, CompiledProject](20),
    )
    store = Store(8000)

    def project_of(files: dict[str, bytes], folder: Path) -> Project:
        return projects.of((folder.name, told(files)), lambda: read_project(files, folder))

    def load_assets(project: Project, folder: Path, *rest: Any) -> tuple[Assets, list[str]]:
        files = [path for path in sorted(folder.rglob("*")) if path.suffix in READ]
        there = [path for path in files if path.suffix != ".json" or path.parent.name == "clips"]
        elsewhere = any(fighter.project for stage in (project.stage, *project.stages) for fighter in stage.fighters)
        if elsewhere or any(path.is_symlink() or not path.is_file() for path in there):
            return read_assets(project, folder, *rest)
        content = told({str(path.relative_to(folder)): path.read_bytes() for path in there})
        key = folder.name, project.rig, project.clips, project.sources, content
        return loaded.of(key, lambda: read_assets(project, folder, *rest))

    def compiled(project: Project, assets: Assets) -> CompiledProject:
        return builds.of((id(project), id(assets)), lambda: CompiledProject(project, assets), (project, assets))

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr("veergust.core.files.opened.project_of", project_of)
        patch.setattr("veergust.desk.document.keeping.core", read_by(load_assets, compiled))
        stored = Over(core.study, Store=lambda *most: Store(*most) if most else store)
        patch.setattr("veergust.desk.document.derived.core", Over(core, study=stored))
        yield


@pytest.fixture(scope="session", autouse=True)
def tidied_seldom() -> Iterator[None]:
    """Hundreds of projects are opened one after another, and a search of everything after each takes its time."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(tidying, "SOON", 30.0)
        yield


@pytest.fixture(scope="session", autouse=True)
def rough_edges() -> Iterator[None]:
    """Smooth edges are half of what a picture costs on the processor, and nothing here looks at them."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(picture, "SAMPLES", 0)
        yield


@pytest.fixture(scope="session", autouse=True)
def poses_once() -> Iterator[None]:
    """The same small poses stand on hundreds of sheets, and the same strips in hundreds of lists: each is inked once."""
    inked: dict[tuple[Any, ...], tuple[Mesh, QPixmap]] = {}
    strips: dict[tuple[Any, ...], tuple[Mesh, QImage]] = {}

    def pose(mesh: Mesh, joints: Array, width: int, height: int, ink: QColor, ratio: float) -> QPixmap:
        key = id(mesh), joints.tobytes(), width, height, ink.rgba(), ratio
        if key not in inked:
            inked[key] = mesh, pose_pixmap(mesh, joints, width, height, ink, ratio)
        return inked[key][1]

    def strip(mesh: Mesh, joints: Array, ink: QColor, ghost: QColor, ratio: float) -> QImage:
        key = id(mesh), joints.tobytes(), ink.rgba(), ghost.rgba(), ratio
        if key not in strips:
            strips[key] = mesh, paint_strip(mesh, joints, ink, ghost, ratio)
        return strips[key][1].copy()

    with pytest.MonkeyPatch.context() as patch:
        for place in ("ground.chart_view", "sheet.paint.ink", "sheet.overview", "widgets.inked"):
            patch.setattr(f"veergust.desk.{place}.pose_pixmap", pose)
        patch.setattr("veergust.desk.clips.strips.paint_strip", strip)
        yield


@pytest.fixture(autouse=True)
def no_strips(request: pytest.FixtureRequest, monkeypatch: pytest.MonkeyPatch) -> None:
    """What the first page shows of each project is kept when its window closes; only tests of that page look at it."""
    if request.node.path.stem != "test_first":
        monkeypatch.setattr("veergust.desk.shell.projects.keep_poses", lambda *_: None)


@pytest.fixture(autouse=True)
def looked_for(request: pytest.FixtureRequest, monkeypatch: pytest.MonkeyPatch) -> None:
    """What the checks find of every edit is looked for only where somebody looks at it: it takes longer than the edit."""
    if request.node.path.stem not in CHECKED:
        monkeypatch.setattr(FindingsButton, "check", FindingsButton.hide)


class NoPicture(QWidget):
    """A stage's picture that is not drawn, and says that it was."""

    drawn = Signal()
    failed = Signal(str)

    def __init__(self, stage: Shows, parent: QWidget) -> None:
        super().__init__(parent)
        self.stage = stage
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)

    def paintEvent(self, event: QPaintEvent) -> None:
        self.drawn.emit()


@pytest.fixture(autouse=True)
def bare_stage(request: pytest.FixtureRequest, monkeypatch: pytest.MonkeyPatch) -> None:
    """The graphics card is a simulated one, and pictures of stages cost more than all else of most tests: only those
    that are marked ``pictured`` have any."""
    if request.node.get_closest_marker("pictured") is None:
        monkeypatch.setattr(view, "StagePicture", NoPicture)


@pytest.fixture
def window(qtbot: QtBot, folder: Path, tmp_path: Path) -> Iterator[Window]:
    made = make_window(QSettings(str(tmp_path / "settings.ini"), QSettings.Format.IniFormat))
    qtbot.addWidget(made, before_close_func=let_go)
    made.open_project(folder)
    made.show()
    with qtbot.waitActive(made):
        made.activateWindow()
    yield made
    at_rest(made)


@pytest.fixture
def untitled(qtbot: QtBot, tmp_path: Path) -> Iterator[Window]:
    """The program as it starts without a file."""
    made = make_window(QSettings(str(tmp_path / "settings.ini"), QSettings.Format.IniFormat))
    qtbot.addWidget(made, before_close_func=let_go)
    made.show()
    with qtbot.waitActive(made):
        made.activateWindow()
    yield made
    at_rest(made)


def arrived(window: Window) -> None:
    """Let files that are on their way come in, or ask for a mapping."""
    until(lambda: window.arrivals.work is None)


def focused() -> QWidget:
    """The widget that has the keys."""
    widget = QApplication.focusWidget()
    assert widget is not None
    return widget


def type_in(field: Any, text: str) -> None:
    """Type into a field in place of what is there."""
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, text)
    QTest.keyClick(field, Qt.Key.Key_Return)


def pick(field: Any, word: str) -> None:
    """Choose from a list as it drops down, by what it says."""
    at = field.findText(word)
    assert at >= 0, [field.itemText(i) for i in range(field.count())]
    field.setCurrentIndex(at)
    field.activated.emit(at)


def drawn_by(view: StageView) -> StagePicture:
    """What draws a stage that is shown."""
    assert view.picture is not None
    return view.picture


def until(fine: Callable[[], bool], longest: int = 20000) -> None:
    """Run the event loop, as the program does, until something is so."""
    loop, watch = QEventLoop(), QTimer()
    watch.setInterval(5)
    watch.timeout.connect(lambda: loop.quit() if fine() else None)
    watch.start()
    QTimer.singleShot(longest, loop.quit)
    loop.exec()
    watch.stop()
    assert fine()


class Watch:
    """A clock that goes on only when told to, in place of a bench's own."""

    def __init__(self) -> None:
        self.now: float = 0

    def start(self) -> None:
        self.now = 0

    def elapsed(self) -> int:
        return int(self.now)

    def nsecsElapsed(self) -> int:
        return int(self.now * 1_000_000)

    def restart(self) -> int:
        past, self.now = self.now, 0
        return int(past)


def turn_wheel(
    widget: QWidget,
    at: QPointF,
    turned: int,
    held: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier,
    pixels: int = 0,
) -> None:
    """Turn the wheel over a place of a widget by eighths of a degree; with ``pixels`` as a touchpad does."""
    phase = Qt.ScrollPhase.ScrollUpdate if pixels else Qt.ScrollPhase.NoScrollPhase
    event = QWheelEvent(
        at, widget.mapToGlobal(at), QPoint(0, pixels), QPoint(0, turned), Qt.MouseButton.NoButton, held, phase, False
    )
    QApplication.sendEvent(widget, event)


class Hand:
    """Mouse and keys on the sheet."""

    def __init__(self, window: Window) -> None:
        self.window = window
        self.sheet = window.sheet.sheet

    def point(self, x: float, y: float) -> QPoint:
        return self.sheet.widget_point(x, y).toPoint()

    def spot(self, ref: SpanRef, part: str) -> QPointF:
        placed = self.sheet.layout_.find(ref)
        assert placed is not None
        y = {"start": placed.rect.top(), "end": placed.rect.bottom(), "body": placed.rect.center().y()}[part]
        return QPointF(placed.rect.center().x(), y)

    def press(self, at: QPointF) -> None:
        QTest.mousePress(self.sheet.viewport(), Qt.MouseButton.LeftButton, pos=self.point(at.x(), at.y()))

    def move(self, at: QPointF) -> None:
        QTest.mouseMove(self.sheet.viewport(), self.point(at.x(), at.y()))
        QApplication.processEvents()

    def release(self, at: QPointF) -> None:
        QTest.mouseRelease(self.sheet.viewport(), Qt.MouseButton.LeftButton, pos=self.point(at.x(), at.y()))

    def drag(self, ref: SpanRef, part: str, frames: int) -> None:
        start = self.spot(ref, part)
        end = QPointF(start.x(), start.y() + frames * self.sheet.layout_.pitch)
        self.press(start)
        self.move((start + end) / 2)
        self.move(end)
        self.release(end)

    def keys(self, *keys: Any) -> None:
        self.sheet.setFocus()
        for key in keys:
            if isinstance(key, tuple):
                QTest.keyClick(self.sheet, *key)
            else:
                QTest.keyClick(self.sheet, key)


@pytest.fixture
def hand(window: Window) -> Hand:
    return Hand(window)
