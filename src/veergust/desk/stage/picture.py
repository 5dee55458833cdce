"""The picture on the stage: the renderer on a QOpenGLWidget, under the words and the mouse of the stage."""

from __future__ import annotations

from typing import Any, Protocol

import moderngl
from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtGui import QHideEvent
from PySide6.QtOpenGLWidgets import QOpenGLWidget
from PySide6.QtWidgets import QWidget

from veergust.core.files import note
from veergust.core.motion import Mesh
from veergust.core.scene import Camera, Scene
from veergust.desk.look.theme import Theme
from veergust.render.painter import Painter
from veergust.render.target import Framebuffer

SAMPLES = 4
"""How often each pixel is looked at, so that edges are smooth."""


class Shows(Protocol):
    """What is to be drawn, and how."""

    mesh: Mesh | None
    camera: Camera
    theme: Theme
    moving: bool

    @property
    def scene(self) -> Scene:
        """What is shown."""


class StagePicture(QOpenGLWidget):
    """Draws what its stage shows. ``failed`` says in a sentence that it cannot, once."""

    drawn = Signal()
    failed = Signal(str)

    def __init__(self, stage: Shows, parent: QWidget) -> None:
        super().__init__(parent)
        self.stage = stage
        self._first = True
        self._painter: Painter | None = None
        self._target: Framebuffer | None = None
        self._target_key: tuple[int, int, int] | None = None
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)

    def initializeGL(self) -> None:
        try:
            self._painter = Painter(moderngl.create_context())
        except Exception as error:  # noqa: BLE001 – whatever a driver leads the library to
            self._give_up(error)
            return
        self._target = self._target_key = None
        self.context().aboutToBeDestroyed.connect(self._forget)

    def _give_up(self, error: Exception) -> None:
        self._painter = None
        self.failed.emit(f"The stage is empty: its picture cannot be drawn here. {note(error)}")

    def _forget(self) -> None:
        """Let go of everything that lives in the context, while it still lives."""
        self.makeCurrent()
        if self._target is not None:
            self._target.release()
        if self._painter is not None:
            self._painter.release()
        self._painter = self._target = self._target_key = None
        self.doneCurrent()

    def hideEvent(self, event: QHideEvent) -> None:
        """A stage that nobody sees keeps no picture: three of them would be a good part of the memory."""
        super().hideEvent(event)
        if self._target is not None and self.isValid():
            self.makeCurrent()
            self._target.release()
            self._target = self._target_key = None
            self.doneCurrent()

    def _framebuffer(self, width: int, height: int) -> Any:
        assert self._painter is not None
        samples = 0 if (self.stage.moving or self._first) and self._painter.software else SAMPLES
        key = (width, height, samples)
        if key != self._target_key or self._target is None:
            if self._target is not None:
                self._target.release()
            self._target = Framebuffer(self._painter.context, (width, height), samples)
            self._target_key = key
        return self._target.frame

    def paintGL(self) -> None:
        if self._painter is None:
            return
        try:
            self._paint(self._painter)
        except moderngl.Error as error:  # the context is lost, or its memory gone
            self._give_up(error)
            return
        self.drawn.emit()
        if self._first:
            self._first = False
            if self._target_key is not None and self._target_key[2] != SAMPLES:
                # The first picture is there sooner without smooth edges; they come right after.
                QTimer.singleShot(50, self.update)

    def _paint(self, painter: Painter) -> None:
        stage = self.stage
        ratio = self.devicePixelRatioF()
        size = max(1, round(self.width() * ratio)), max(1, round(self.height() * ratio))
        target = self._framebuffer(*size)
        painter.use_mesh(stage.mesh)
        painter.draw(target, stage.scene, stage.camera, stage.theme.look, size, ratio)
        context = painter.context
        screen = context.detect_framebuffer(self.defaultFramebufferObject())
        context.copy_framebuffer(screen, target)
        screen.use()
