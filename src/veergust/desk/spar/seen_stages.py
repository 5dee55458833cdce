"""What others saw, beside the stage: a picture for each, from the same camera, so that it is compared at a glance."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QWidget

from veergust.core.motion import Mesh
from veergust.core.scene import Scene
from veergust.desk.look.theme import Theme
from veergust.desk.stage.panel import StagePanel
from veergust.desk.stage.view import StageView
from veergust.desk.widgets.label import PlainLabel


class SeenStages:
    """One picture over the stage and one under it, with names, where there is something to compare; they are made when
    they are first asked for."""

    def __init__(self, panel: StagePanel, theme: Theme) -> None:
        self.panel, self.theme = panel, theme
        self.views: list[StageView] = []
        self.names: list[PlainLabel] = []
        """Of what is over the stage, of the stage, and of what is under it."""

    @property
    def shown(self) -> bool:
        """Whether there is more than the one stage."""
        return any(not view.isHidden() for view in self.views)

    def show(self, own: str, others: Sequence[tuple[str, Scene]], mesh: Mesh | None) -> None:
        """Show what ``others`` saw, each by a name, beside what the stage has of its ``own``; none: the stage alone."""
        if others and not self.views:
            self._make()
        parts: list[QWidget] = [*self.views, *self.names]
        for part in parts:
            part.setVisible(bool(others))
        if not others:
            return
        (over, above), (under, below) = others
        for label, words in zip(self.names, (over, own, under)):
            label.setText(words)
        for view, scene in zip(self.views, (above, below)):
            view.camera, view.moving = self.panel.view.camera, self.panel.view.moving
            view.show_scene(scene, mesh)

    def _make(self) -> None:
        own = self.panel.view
        self.views = [StageView(self.theme), StageView(self.theme)]
        self.names = [PlainLabel("") for _ in range(3)]
        for label in self.names:
            label.setObjectName("whose")
        over, name, under = self.names
        for place, part in enumerate((over, self.views[0], name)):
            self.panel.stack.insertWidget(place, part)
        self.panel.stack.addWidget(under)
        self.panel.stack.addWidget(self.views[1])
        for view in (own, *self.views):
            self.panel.stack.setStretchFactor(view, 1)
        own.camera_moved.connect(self._look_alike)
        for view in self.views:
            # The keys play on the stage itself.
            view.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            view.camera_moved.connect(lambda v=view: own.set_camera(v.camera))

    def _look_alike(self) -> None:
        for view in self.views:
            view.camera = self.panel.view.camera
            view.update()
