"""A ring around whatever the keys brought the focus to, the same on every button, field, page, list and canvas."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, QPoint, QRect, Qt
from PySide6.QtGui import QGuiApplication, QWindow
from PySide6.QtWidgets import QApplication, QWidget
from shiboken6 import isValid

THICK = 2
RESHAPES = (QEvent.Type.Move, QEvent.Type.Resize, QEvent.Type.Show, QEvent.Type.Hide)


class FocusRing(QObject):
    """Four thin edges in the window of the widget that has the keys, so that nothing under a ring is painted anew.

    It is there for whoever works by keys: not before the first key, and not after the mouse, whose pointer shows where
    one is.
    """

    def __init__(self, app: QApplication) -> None:
        super().__init__(app)
        self.around: QWidget | None = None
        self.edges: list[QWidget] = []
        self.by_keys = False
        """Whether the last that was done was a key."""
        self._windows: list[QWindow] = []
        app.focusChanged.connect(self._follow)
        app.focusWindowChanged.connect(self._listen)

    @property
    def is_shown(self) -> bool:
        """Whether it is there."""
        return any(edge.isVisible() for edge in self.edges)

    def _listen(self, window: QWindow | None) -> None:
        """Hear of the keys and the mouse of a window, once each; what its widgets make of them costs nothing here."""
        self._windows = [w for w in self._windows if isValid(w)]
        if window is not None and window not in self._windows:
            window.installEventFilter(self)
            self._windows.append(window)

    def _follow(self, old: QWidget | None, new: QWidget | None) -> None:
        self._leave()
        by_mouse = QGuiApplication.mouseButtons() != Qt.MouseButton.NoButton
        if new is None or by_mouse or not self.by_keys or new.window() is new:
            return
        self.around = new
        new.installEventFilter(self)
        for _ in range(4):
            edge = QWidget(new.window())
            edge.setObjectName("ring")
            edge.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
            edge.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
            self.edges.append(edge)
        self._lay()

    def _leave(self) -> None:
        if self.around is not None:
            self.around.removeEventFilter(self)
            self.around = None
        for edge in self.edges:
            edge.hide()
            edge.deleteLater()
        self.edges = []

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        kind = event.type()
        if kind == QEvent.Type.KeyPress:
            self.by_keys = True
        elif kind == QEvent.Type.MouseButtonPress:
            self.by_keys = False
            self._leave()
        elif kind in RESHAPES and watched is self.around:
            self._lay()
        return False

    def _lay(self) -> None:
        """Put the edges around what can be seen of the widget."""
        widget = self.around
        if widget is None:
            return
        window = widget.window()
        seen = widget.visibleRegion().boundingRect()
        shown = QRect(widget.mapTo(window, QPoint(0, 0)) + seen.topLeft(), seen.size())
        ring = shown.adjusted(-THICK, -THICK, THICK, THICK) & window.rect()
        across, down = (ring.width(), THICK), (THICK, ring.height())
        places = (
            (ring.topLeft(), across), (QPoint(ring.left(), ring.bottom() + 1 - THICK), across),
            (ring.topLeft(), down), (QPoint(ring.right() + 1 - THICK, ring.top()), down),
        )  # fmt: skip
        for edge, (at, size) in zip(self.edges, places):
            edge.setGeometry(at.x(), at.y(), *size)
            edge.setVisible(widget.isVisible() and not seen.isEmpty())
            edge.raise_()
