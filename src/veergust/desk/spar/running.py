"""Time of a bout: let run, held, and gone through frame by frame; what every stage that is driven shares."""

from __future__ import annotations

from PySide6.QtCore import QElapsedTimer
from PySide6.QtWidgets import QPushButton, QWidget

from veergust.desk.shell.document import Document
from veergust.desk.spar.driving import Driver
from veergust.desk.spar.session import Session
from veergust.desk.stage.panel import StagePanel
from veergust.desk.widgets.beat import Beat

MOST_AT_ONCE = 4
"""So many ticks are made up for on a beat; what is later than that is let go."""


class Running:
    """For a widget with a ``document``, a ``session``, a ``stage`` and a ``play_button`` that says ``STOPPED`` while
    time is held. What one tick is, it says in ``tick``."""

    STOPPED = "▸ play on"
    document: Document
    session: Session
    stage: StagePanel
    driver: Driver
    play_button: QPushButton

    def keep_time(self, widget: QWidget) -> None:
        """Set the clock up, held."""
        self.speed = 1.0
        self.timer = Beat(widget)
        self.timer.timeout.connect(self._beat)
        self.clock = QElapsedTimer()
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
        if not self.document.project.stage.fighters:
            return
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

    def step_on(self) -> None:
        """One frame on."""
        self.hold()
        self.session.forward()

    def step_back(self) -> None:
        """One frame back."""
        self.hold()
        self.session.back()

    def restart(self) -> None:
        """Begin a new take where the fighters stand on the stage."""
        self.session.restart()

    def tick(self, shown: bool = True) -> None:
        """Play one tick."""
        self.session.tick(shown=shown)

    def set_speed(self, speed: float) -> None:
        """Let time run so many times as fast."""
        self.speed = speed

    def _beat(self) -> None:
        rate, runs = self.document.project.settings.rate, self.running
        self._owed += self.clock.restart() / 1000 * rate * self.speed
        ticks = min(int(self._owed), MOST_AT_ONCE)
        self._owed = min(self._owed - ticks, 1.0)
        for n in range(ticks):
            self.tick(shown=n + 1 == ticks)  # only the last of them is shown
            if runs and not self.running:
                break
