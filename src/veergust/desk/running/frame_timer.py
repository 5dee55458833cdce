"""The beat of what plays: as often as asked, and never so often that keys have to wait for the drawing."""

from __future__ import annotations

from typing import ClassVar
from weakref import WeakSet

from PySide6.QtCore import QCoreApplication, QElapsedTimer, QEvent, QObject, Qt, QTimer, Signal

LOW = -1
"""Qt's low event priority (``Qt::LowEventPriority``), with which it asks widgets to draw themselves."""
REST = 2
"""Ms left to everything else between two beats at the least."""


class FrameTimer(QObject):
    """Fires ``timeout`` every ``interval`` ms while it runs.

    The next beat is set only when what the last one asked to be drawn has been drawn. Where that takes longer than an
    interval, beats are left out, and what plays makes up for them by its own clock.
    """

    timeout = Signal()
    DRAWN = QEvent.Type(QEvent.registerEventType())
    beating: ClassVar[WeakSet[FrameTimer]] = WeakSet()
    """All that run."""

    def __init__(self, parent: QObject, interval: int = 1000 // 60) -> None:
        super().__init__(parent)
        self._interval = interval
        self._running = False
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setTimerType(Qt.TimerType.PreciseTimer)
        self._timer.timeout.connect(self._fire)
        self._since = QElapsedTimer()

    def setInterval(self, ms: int) -> None:
        """How many ms from beat to beat."""
        self._interval = ms
        if self._running:
            self._timer.start(ms)

    def isActive(self) -> bool:
        """Whether it runs."""
        return self._running

    def start(self) -> None:
        """Run; the first beat comes after an interval."""
        self._running = True
        self.beating.add(self)
        self._timer.start(self._interval)

    def stop(self) -> None:
        """Run no more."""
        self._running = False
        self.beating.discard(self)
        self._timer.stop()

    def _fire(self) -> None:
        self._since.start()
        self.timeout.emit()
        if self._running:
            # Widgets are drawn by events of this priority, too, and in their order: this one comes after them.
            QCoreApplication.postEvent(self, QEvent(self.DRAWN), LOW)

    def event(self, event: QEvent) -> bool:
        if event.type() == self.DRAWN:
            if self._running and not self._timer.isActive():
                self._timer.start(max(self._interval - self._since.elapsed(), REST))
            return True
        return super().event(event)
