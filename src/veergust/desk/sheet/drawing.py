"""Drawing on the picture of a drawn figure: hitboxes, hurtboxes, the body and points, on the cell that is shown."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from veergust.core.edit import Edit, Rect, SpanRef, draw_body, draw_hitbox, draw_hurtbox, draw_point, free
from veergust.core.motion import ROOT
from veergust.core.scene import body_at
from veergust.core.trouble import Trouble
from veergust.desk.document.document import Document
from veergust.desk.look.theme import Theme
from veergust.desk.sheet.deeds import strike_here
from veergust.desk.sheet.hit_tool import HitTool
from veergust.desk.stage.panel import StagePanel
from veergust.desk.stage.view import StageView
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.fields import ChoiceField
from veergust.desk.widgets.label import PlainLabel

MODES = {
    "hitbox": "Drag a rectangle on the drawing: what strikes on it",
    "hurtbox": "Drag a rectangle on the drawing: what can be struck on it",
    "body": "Drag a rectangle on the drawing: the body, on all of them",
    "point": "Click on the drawing: where a point is on it",
}
ROLES = {"hitbox": "strike", "hurtbox": "hurt", "body": "capsule", "point": "accent"}
LEAST = 3.0
"""A rectangle of fewer points across was a click."""
NEW = "(new)"


class DrawTool:
    """On a stage: draws what its row says, and else hands on to the handles of hitboxes."""

    def __init__(self, document: Document, theme: Theme, handles: HitTool) -> None:
        self.document, self.theme, self.handles = document, theme, handles
        self.mode = ""
        self.name = NEW
        self.drawn: SpanRef | None = None
        self._from: QPointF | None = None
        self._to = QPointF()

    def on_body(self, at: QPointF, view: StageView) -> tuple[float, float]:
        """Where a place of the picture is on the drawing: up and ahead of where the body stands (m).

        The drawing stands upright over the body and turned to the camera: the ray through the place meets its plane.
        """
        compiled = self.document.compiled
        assert compiled is not None
        body, camera = body_at(compiled, self.document.frame), view.camera
        there = camera.in_plane(at.x(), at.y(), view.width(), view.height(), body[:3, 3])
        side = camera.axes[0] if float(body[:3, 2] @ camera.axes[0]) >= 0.0 else -camera.axes[0]
        normal = np.cross(side, [0.0, 1.0, 0.0])
        ray = there - camera.eye
        far = float((body[:3, 3] - camera.eye) @ normal) / float(ray @ normal)
        gap = camera.eye + ray * far - body[:3, 3]
        return float(gap[1]), float(gap @ side)

    def press(self, at: QPointF, view: StageView) -> bool:
        if not self.mode or self.document.compiled is None or not self.document.compiled.path:
            return self.handles.press(at, view)
        self._from = self._to = at
        return True

    def drag(self, at: QPointF, view: StageView) -> None:
        if self._from is None:
            self.handles.drag(at, view)
            return
        self._to = at
        view.words.update()

    def release(self, at: QPointF, view: StageView) -> None:
        if self._from is None:
            self.handles.release(at, view)
            return
        start, self._from = self._from, None
        far = at - start
        view.words.update()
        if self.mode != "point" and min(abs(far.x()), abs(far.y())) < LEAST:
            return
        try:
            edit = self._edit(self.on_body(start, view), self.on_body(at, view))
        except Trouble as trouble:
            self.document.said.emit(str(trouble), True)
            return
        self.document.apply(edit)
        if self.mode == "hitbox" and self.drawn is not None:
            self.document.select(self.drawn)

    def _edit(self, a: tuple[float, float], b: tuple[float, float]) -> Edit:
        document, rect = self.document, Rect.between(a, b)
        build, action, frame = document.build, document.action, document.frame
        if self.mode == "body":
            return draw_body(document.project, rect)
        if self.mode == "point":
            return draw_point(build, action, frame, self.name, *b)
        if self.mode == "hurtbox":
            names = {h.name for h in document.project.rig.hurtboxes}
            return draw_hurtbox(build, action, frame, rect, free("box", names) if self.name == NEW else self.name)
        edit, self.drawn = draw_hitbox(build, action, frame, rect, strike_here(document))
        return edit

    def draw(self, p: QPainter, view: StageView) -> None:
        """The rectangle that is being drawn; else the handles."""
        if self._from is None:
            if not self.mode:
                self.handles.draw(p, view)
            return
        p.setPen(QPen(self.theme.colour(ROLES[self.mode]), 2.0, Qt.PenStyle.DashLine))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawRect(QRectF(self._from, self._to).normalized())


class DrawRow(QWidget):
    """Under the stage of a figure that is drawn: what a drag on its drawing draws. Other figures have no such row."""

    def __init__(self, document: Document, theme: Theme, stage: StagePanel, handles: HitTool) -> None:
        super().__init__()
        self.document, self.stage = document, stage
        self.tool = DrawTool(document, theme, handles)
        stage.view.tool = self.tool
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 0, 8, 4)
        row.setSpacing(2)
        row.addWidget(PlainLabel("Draw on it"))
        self.buttons: dict[str, QPushButton] = {}
        for mode, tip in MODES.items():
            button = word_button(mode, tip, checkable=True)
            button.clicked.connect(lambda on, m=mode: self.choose(m if on else ""))
            self.buttons[mode] = button
            row.addWidget(button)
        self.which = ChoiceField("Which", self._named, "Which hurtbox, or which point")
        row.addWidget(self.which)
        row.addStretch(1)
        stage.add_row(self)
        document.changed.connect(self.renew)
        document.opened.connect(lambda: self.choose(""))
        self.renew()

    def choose(self, mode: str) -> None:
        """Draw this from now on (empty: nothing). What is drawn is shown, and seen from the side."""
        self.tool.mode = mode
        if mode:
            self.stage.view.look_from("side")
        if mode in ("hurtbox", "body"):
            self.stage.switches["hurtboxes" if mode == "hurtbox" else "body"].setChecked(True)
        self.renew()
        self.stage.view.words.update()

    def _named(self, name: str) -> None:
        self.tool.name = name

    def renew(self) -> None:
        """Show what there is to draw."""
        self.setVisible(self.document.build.assets.skeleton.picture >= 0)
        mode, rig = self.tool.mode, self.document.project.rig
        for name, button in self.buttons.items():
            button.setChecked(name == mode)
        names = [h.name for h in rig.hurtboxes if h.spans] if mode == "hurtbox" else []
        names = [m.name for m in rig.mounts if m.joint != ROOT] if mode == "point" else names
        choices = [(n, n) for n in names] + ([("a new one", NEW)] if mode == "hurtbox" else [])
        if self.tool.name not in [value for _, value in choices]:
            self.tool.name = choices[0][1] if choices else NEW
        self.which.setVisible(bool(choices))
        self.which.show_choices(choices, self.tool.name)
