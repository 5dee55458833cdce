"""The stage: a picture with the camera under the mouse and words painted over it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol

from PySide6.QtCore import QPoint, QPointF, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QFocusEvent,
    QFontMetricsF,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QWidget

from veergust.core.motion import Mesh
from veergust.core.scene import Camera, Scene
from veergust.desk.keys.pressing import last_of, pressed
from veergust.desk.keys.table import on_key
from veergust.desk.look.theme import Theme
from veergust.desk.stage.opengl import opengl_trouble
from veergust.desk.stage.picture import StagePicture

VIEWS = {"side": (0.0, 8.0), "front": (90.0, 8.0), "top": (0.0, 89.0)}
WAYS = {"Left": (-1.0, 0.0), "Right": (1.0, 0.0), "Up": (0.0, 1.0), "Down": (0.0, -1.0)}
TURN, MOVE, NEARER = 6.0, 0.1, 1.1
"""Degrees, metres and how many times as near a key turns, moves and brings the camera."""


class StageTool(Protocol):
    """What takes the mouse on the stage before the camera does, and draws its handles over it."""

    def draw(self, p: QPainter, view: StageView) -> None:
        """Draw over the picture."""

    def press(self, at: QPointF, view: StageView) -> bool:
        """The button went down; true when this is the tool's."""

    def drag(self, at: QPointF, view: StageView) -> None:
        """The mouse moved with the button down."""

    def release(self, at: QPointF, view: StageView) -> None:
        """The button came up."""


class Words(QWidget):
    """The words over the stage, on a sheet of glass of their own."""

    def __init__(self, stage: StageView) -> None:
        super().__init__(stage)
        self.stage = stage
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.setAttribute(Qt.WidgetAttribute.WA_NoSystemBackground)
        self.setObjectName("glass")

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        self.stage.draw_words(p)
        p.end()


class StageView(QWidget):
    """Shows a scene. Drag orbits, drag with the middle button (or Shift) pans, the wheel zooms.

    Without usable OpenGL there is no picture, and ``trouble`` says why in its place.
    """

    camera_moved = Signal()
    pressed_on = Signal()
    """The mouse was pressed on it."""

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.theme = theme
        self._scene = Scene()
        self._make: Callable[[], Scene] | None = None
        self.mesh: Mesh | None = None
        self.camera = Camera()
        self.moving = False
        self.trouble = opengl_trouble()
        self.picture: StagePicture | None = None
        if not self.trouble:
            self.picture = StagePicture(self, self)
            self.picture.failed.connect(self._fail)
        self._grabbed: QPoint | None = None
        self.tool: StageTool | None = None
        self._tool_holds = False
        self.words = Words(self)
        if self.picture is not None:
            self.picture.drawn.connect(self.words.update)
        self.setMinimumSize(200, 160)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._by_keys = False
        self.setAccessibleName("Stage")
        self.setToolTip("Drag to turn, Shift-drag to move, wheel to zoom; come by Tab, and the arrow keys do")
        theme.changed.connect(self.update)

    def show_scene(self, scene: Scene | Callable[[], Scene], mesh: Mesh | None) -> None:
        """Show a scene from now on; one that is still to be made is made when it is looked at."""
        if isinstance(scene, Scene):
            self._scene, self._make = scene, None
        else:
            self._make = scene
        self.mesh = mesh
        self.update()

    @property
    def scene(self) -> Scene:
        """What is shown."""
        if self._make is not None:
            make, self._make = self._make, None
            self._scene = make()
        return self._scene

    def look_from(self, view: str) -> None:
        """Look from the side, the front or the top."""
        turn, tilt = VIEWS[view]
        self.set_camera(Camera(self.camera.target, turn, tilt, self.camera.distance, self.camera.lens))

    def set_camera(self, camera: Camera) -> None:
        """Move the camera."""
        self.camera = camera
        self.camera_moved.emit()
        self.update()

    def update(self) -> None:  # type: ignore[override]
        """Draw it all anew."""
        super().update()
        self.words.update()
        if self.picture is not None:
            self.picture.update()

    def _fail(self, why: str) -> None:
        """Say in the stage's place why there is no picture; all else of it goes on."""
        self.trouble = why
        if self.picture is not None:
            self.picture.hide()
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        if not self.trouble:
            return
        p = QPainter(self)
        p.fillRect(self.rect(), self.theme.colour("sky"))
        p.setFont(self.theme.font(14))
        p.setPen(self.theme.colour("ink_soft"))
        words = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
        p.drawText(self.rect().adjusted(24, 24, -24, -24), words, self.trouble)
        p.end()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.words.setGeometry(self.rect())
        if self.picture is not None:
            self.picture.setGeometry(self.rect())

    def draw_words(self, p: QPainter) -> None:
        """Paint the scene's labels over the picture."""
        if self.trouble:
            return
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        for label in self.scene.labels:
            x, y, size = self.camera.on_picture(label.at, self.width(), self.height())
            if size <= 0:
                continue
            font = self.theme.bold(22 if label.strong else 13)
            colour = self.theme.colour(label.role or "ink")
            if label.strong:
                p.setPen(colour)
                self._burst(p, x, y)
            wide = QFontMetricsF(font).horizontalAdvance(label.text)
            left, base = (x - wide - 16, y - 14) if label.strong else (x - wide / 2, y + 13)
            outline = QPainterPath()
            outline.addText(QPointF(left, base), font, label.text)
            # A rim of paper keeps words readable over the figures.
            p.strokePath(outline, QPen(self.theme.colour("sky"), 4.0))
            p.fillPath(outline, colour)
        if self.tool is not None:
            self.tool.draw(p, self)

    def _burst(self, p: QPainter, x: float, y: float) -> None:
        p.save()
        p.translate(x, y)
        pen = QPen(QColor(p.pen().color()), 2.0)
        p.setPen(pen)
        for _ in range(8):
            p.rotate(45)
            p.drawLine(6, 0, 14, 0)
        p.restore()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.pressed_on.emit()
        if self.tool is not None and event.button() == Qt.MouseButton.LeftButton:
            self._tool_holds = self.tool.press(event.position(), self)
            if self._tool_holds:
                return
        self._grabbed = event.position().toPoint()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.tool is not None and self._tool_holds:
            self.tool.drag(event.position(), self)
            return
        if self._grabbed is None:
            return
        at = event.position().toPoint()
        step, self._grabbed = at - self._grabbed, at
        pans = event.buttons() & Qt.MouseButton.MiddleButton or (event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        if pans:
            metre = self.camera.distance / max(self.height(), 1) * 0.6
            self.set_camera(self.camera.pan(-step.x() * metre, step.y() * metre))
        else:
            self.set_camera(self.camera.orbit(-step.x() * 0.5, step.y() * 0.4))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self.tool is not None and self._tool_holds:
            self._tool_holds = False
            self.tool.release(event.position(), self)
            return
        self._grabbed = None

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        # Who clicks on the stage goes on with the keys of the bench; who comes by Tab turns the stage.
        self._by_keys = event.reason() in (Qt.FocusReason.TabFocusReason, Qt.FocusReason.BacktabFocusReason)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        keys = pressed(event)
        name = on_key("stage", keys) if self._by_keys else ""
        camera = self.camera
        across, up = WAYS.get(last_of(keys), (0.0, 0.0))
        if name == "turn_stage":
            self.set_camera(camera.orbit(-TURN * across, TURN * up))
        elif name == "move_stage":
            self.set_camera(camera.pan(MOVE * across, MOVE * up))
        elif name == "near_stage":
            self.set_camera(camera.zoom(1 / NEARER if keys == "+" else NEARER))
        elif name == "side_stage":
            self.look_from(list(VIEWS)[int(keys) - 1])
        else:
            super().keyPressEvent(event)

    def wheelEvent(self, event: QWheelEvent) -> None:
        self.set_camera(self.camera.zoom(0.999 ** event.angleDelta().y()))
