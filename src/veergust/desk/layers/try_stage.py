"""The mix on the stage, round and round: the figure tinted by who moves it, and who speaks over time under it."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from msgspec.structs import replace
from PySide6.QtCore import QElapsedTimer, QTimer, Signal
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from veergust.core.files import SPOKEN
from veergust.core.model import Layer
from veergust.core.play import CompiledProject, FighterState, pose_again
from veergust.core.scene import Camera, Label, Scene, mix_scene
from veergust.core.study import Trial, Trying, usual_trying
from veergust.desk.document.document import Document
from veergust.desk.frame.timed import Timed
from veergust.desk.frame.transport import transport
from veergust.desk.layers.selection import LayerSelection, role_of
from veergust.desk.layers.speak_strip import SpeakStrip
from veergust.desk.look.theme import Theme
from veergust.desk.stage.panel import StagePanel
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.label import PlainLabel

NOBODY = f"Nobody to try it on yet. Drop a figure and its clips ({SPOKEN}) on the window."
MOST_AT_ONCE = 6
"""So many frames are made up for on a beat."""
IDLE, SETTLED = 12, 160
"""Milliseconds: so long a piece of a round is played at a time, and so long after the last edit it is played anew."""
SPACES = {"joint": "joint by joint", "body": "in body space"}


class TryStage(Timed, QWidget):
    """Plays what is tried. ``shown`` is sent with every frame looked at, ``changed`` when something else is tried."""

    STOPPED = "▸ play"
    shown = Signal()
    changed = Signal()

    def __init__(self, document: Document, theme: Theme, selection: LayerSelection) -> None:
        super().__init__()
        self.document, self.theme, self.selection = document, theme, selection
        self.trying = usual_trying(document.build)
        self.trial: Trial | None = None
        self.other: Trial | None = None
        self.take: list[FighterState] = []
        """Ticks of a take of Spar that is read instead of a round."""
        self.at = 0
        self.stale = True
        self.stage = StagePanel(theme, "Mix on the stage", (), (), follow=True)
        self.stage.view.camera = Camera(target=(0.0, 0.85, 0.0), yaw=-28.0, pitch=8.0, distance=4.4)
        self.stage.follow_button.clicked.connect(self.show_tick)
        self.strip = SpeakStrip(theme, lambda name: role_of(document, name))
        self.strip.looked.connect(self.look_at)
        self.where = PlainLabel()
        self.where.setObjectName("note")
        self.both = word_button("side by side", "The layer joint by joint and in body space, beside each other (B)",
                                checkable=True)  # fmt: skip
        self.both.setObjectName("switch")
        self.both.clicked.connect(self._compare)
        row = QHBoxLayout()
        row.setContentsMargins(12, 2, 12, 6)
        row.setSpacing(4)
        transport(self, row, "Play it round and round, or hold it", lambda: self.step(-1), lambda: self.step(1))
        row.addWidget(self.where, 1)
        row.addWidget(self.both)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addWidget(self.stage, 1)
        box.addWidget(self.strip)
        box.addLayout(row)
        self.keep_time(self)
        self.later = QTimer(self)
        self.later.timeout.connect(self._play_ahead)
        self.settle = QTimer(self)
        self.settle.setSingleShot(True)
        self.settle.timeout.connect(self._anew)
        document.changed.connect(self._edited)
        document.opened.connect(self._opened)
        selection.changed.connect(self._compare)

    # What is tried

    def _opened(self) -> None:
        self.hold()
        self.take, self.trial, self.other = [], None, None
        self.trying, self.at = usual_trying(self.document.build), 0
        self._anew()
        self.changed.emit()

    def try_out(self, trying: Trying) -> None:
        """Try something else."""
        if trying == self.trying and not self.take:
            return
        self.trying, self.take = trying, []
        self._anew()
        self.changed.emit()

    def put(self, layer: str, action: str) -> None:
        """Try an action on a layer; nothing on it when empty."""
        rest = tuple(row for row in self.trying.actions if row[0] != layer)
        rows = (*rest, (layer, action)) if action else rest
        self.try_out(Trying(self.trying.state, self.trying.speed, rows))

    def read_take(self, ticks: list[FighterState]) -> None:
        """Look at a take of Spar, tick by tick."""
        self.hold()
        self.take, self.at = ticks, 0
        self.show_tick()
        self.changed.emit()

    def _edited(self) -> None:
        """What is shown is posed anew at once; the round is played anew once the hand is still."""
        if not self.isVisible():
            self.stale = True
            return
        self.settle.start(SETTLED)
        self.show_tick()

    def _anew(self) -> None:
        self.stale = True
        self.show_tick()

    def _make(self) -> None:
        build = self.document.build
        names = {y.name for y in self.document.project.layers}
        kept = tuple((y, a) for y, a in self.trying.actions if y in names and build.action(a) is not None)
        state = self.trying.state if self.trying.state in build.states else usual_trying(build).state
        self.trying = Trying(state, self.trying.speed, kept)
        self.trial, self.stale = Trial(build, self.trying), False
        self.other = self._flipped(build) if self.both.isChecked() else None
        self.later.start(0)

    def _flipped(self, build: CompiledProject) -> Trial | None:
        """The same round with the chosen layer mixed the other way."""
        if self.selection.layer is None:
            return None

        def flip(layer: Layer) -> Layer:
            space = "body" if layer.space == "joint" else "joint"
            return replace(layer, space=space) if layer.name == self.selection.name else layer

        project = build.project
        return Trial(build.renew(replace(project, layers=tuple(map(flip, project.layers)))), self.trying)

    def _compare(self) -> None:
        if self.both.isChecked():
            self._anew()
        elif self.other is not None:
            self.other = None
            self.show_tick()

    def _play_ahead(self) -> None:
        """Play the rest of the round while nothing else is to be done, so that the strip is whole."""
        watch = QElapsedTimer()
        watch.start()
        trials = [t for t in (self.trial, self.other) if t is not None and t.ticks is None]
        while trials and watch.elapsed() < IDLE:
            for trial in trials:
                trial.on()
            trials = [t for t in trials if t.ticks is None]
        if not trials:
            self.later.stop()
        self._show_strip()

    # Time

    def step(self, by: int) -> None:
        """A frame on or back."""
        self.hold()
        self.look_at(self.at + by)

    def look_at(self, tick: int) -> None:
        """Look at a frame; past the end it begins again."""
        length = self._length()
        self.at = tick % length if length is not None else max(tick, 0)
        self.show_tick()

    def _length(self) -> int | None:
        if self.take:
            return len(self.take)
        return self.trial.ticks if self.trial is not None else None

    def play(self, ticks: float) -> float:
        """Go on by what is due, round and round."""
        if int(ticks):
            self.look_at(self.at + min(int(ticks), MOST_AT_ONCE))
        return ticks % 1.0

    # Showing

    @property
    def fighter(self) -> FighterState | None:
        """The figure on the frame that is looked at, as it is mixed now."""
        if self.take:
            return self.take[min(self.at, len(self.take) - 1)]
        return self._of(self.trial, self.document.build) if self.trial is not None else None

    def _of(self, trial: Trial, build: CompiledProject) -> FighterState:
        there = trial.at(self.at).fighters[0]
        if trial.build.project.layers == build.project.layers and trial.build.project.masks == build.project.masks:
            return there
        # Played before the last edit: posed as it would be after it.
        layers = {y.name for y in build.project.layers}
        out = there.copy()
        out.voices = tuple(v for v in out.voices if v.layer in layers)
        pose_again(trial.build.renew(replace(trial.build.project, layers=build.project.layers,
                                             masks=build.project.masks)), out)  # fmt: skip
        return out

    def show_tick(self) -> None:
        """Show the frame that is looked at."""
        if not self.isVisible():
            return
        if not len(self.document.build.assets.skeleton):
            self.trial, self.other, self.take, self.at = None, None, [], 0
            self.stage.view.show_scene(Scene(labels=(Label(NOBODY, np.array([0.0, 0.9, 0.0])),)), None)
            self._show_strip()
            self.shown.emit()
            return
        if not self.take and (self.stale or self.trial is None):
            self._make()
        fighter = self.fighter
        if fighter is None:
            return
        if self.stage.follow_button.isChecked():
            camera = self.stage.view.camera
            x, y, z = (float(v) for v in fighter.position)
            self.stage.view.camera = Camera((x, y + 0.85, z), camera.yaw, camera.pitch, camera.distance, camera.lens)
        self.stage.view.show_scene(self._scene(fighter), self.document.mesh)
        self._show_strip()
        self.shown.emit()

    def _scene(self, fighter: FighterState) -> Scene:
        roles: Callable[[str], str] = lambda name: role_of(self.document, name)  # noqa: E731
        build = self.document.build
        layer = self.selection.layer
        if self.other is None or self.take or layer is None:
            return mix_scene(build, fighter, roles)
        second = self.other.at(self.at).fighters[0]
        here, there = SPACES[layer.space], SPACES["body" if layer.space == "joint" else "joint"]
        return mix_scene(build, fighter, roles, (self.other.build, second, here, there))

    def _show_strip(self) -> None:
        ticks = self.take or [r.fighters[0] for r in (self.trial.records if self.trial is not None else [])]
        names = [y.name for y in reversed(self.document.project.layers)]
        length = self._length() or max(len(ticks), 60)
        self.strip.show_ticks(ticks, length, self.at, names)
        whole = f" of {length}" if self._length() is not None else ""
        source = "take of Spar, " if self.take else ""
        self.where.setText(f"{source}frame {self.at}{whole}")

    def showEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        super().showEvent(event)
        self.show_tick()
