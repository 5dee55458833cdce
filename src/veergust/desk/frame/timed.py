"""Time that runs on a stage or is held: what every stage on which something plays shares."""

from __future__ import annotations

from PySide6.QtCore import QElapsedTimer
from PySide6.QtWidgets import QPushButton, QWidget

from veergust.desk.document.document import Document
from veergust.desk.running.frame_timer import FrameTimer
from veergust.desk.stage.panel import StagePanel


class Timed:
    """For a widget with a ``document``, a ``stage`` and a ``play_button`` that says ``STOPPED`` while time is held.
    What is played on a beat, it says in ``play``."""

    STOPPED = "▸ play on"
    document: Document
    stage: StagePanel
    play_button: QPushButton

    def keep_time(self, widget: QWidget) -> None:
        """Set the clock up, held."""
        self.speed = 1.0
        self.timer = FrameTimer(widget)
        self.timer.timeout.connect(self._beat)
        self.clock, self.work = QElapsedTimer(), QElapsedTimer()
        self._owed = 0.0

    @property
    def running(self) -> bool:
        """Whether time runs."""
        return self.timer.isActive()

    def toggle(self) -> None:
        """Let time run, or hold it."""
        self.hold() if self.running else self.run()

    def run(self) -> None:
        """Let time run from the tick looked at."""
        self._owed = 0.0
        self.clock.start()
        self.timer.start()
        self.stage.view.moving = True
        self.play_button.setText("❚❚ hold")

    def hold(self) -> None:
        """Hold time."""
        self.timer.stop()
        self.stage.view.moving = False
        self.stage.view.update()
        self.play_button.setText(self.STOPPED)

    def set_speed(self, speed: float) -> None:
        """Let time run so many times as fast."""
        self.speed = speed

    def play(self, ticks: float) -> float:
        """Play as many whole ticks as are due; what is left of them."""
        raise NotImplementedError

    def owed(self, late: float = 0.0) -> int:
        """How many whole ticks were due ``late`` ms ago and have not been played yet."""
        if not self.running:
            return 0
        past = max(self.clock.elapsed() - late, 0.0)
        return int(self._owed + past / 1000 * self.document.project.settings.rate * self.speed)

    def _beat(self) -> None:
        rate = self.document.project.settings.rate
        # In whole milliseconds a beat would lose half of one on average: 3 % of the time at sixty a second.
        past = self.clock.nsecsElapsed() / 1e9
        self.clock.restart()
        self._owed = self.play(self._owed + past * rate * self.speed)
