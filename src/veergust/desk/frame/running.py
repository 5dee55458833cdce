"""Time of a bout: let run, held, and gone through frame by frame; what every stage that is driven shares."""

from __future__ import annotations

from veergust.desk.frame.driving import Driver
from veergust.desk.frame.session import Session
from veergust.desk.frame.timed import Timed

LATEST = 2.0
"""Ticks that are due by more than this (s) are let go: the machine slept."""
BUDGET = 60
"""For so long (ms) ticks are played on a beat; what is left is made up for on the next ones."""


class Running(Timed):
    """For a widget with a ``session`` beside what ``Timed`` asks for. What one tick is, it says in ``tick``."""

    session: Session
    driver: Driver

    def run(self) -> None:
        """Let time run from the tick looked at."""
        if self.document.project.stage.fighters:
            super().run()

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

    def play(self, ticks: float) -> float:
        """Play what is due; only the last of it is shown. Pictures are left out where there is no time for them, ticks
        are not."""
        rate = self.document.project.settings.rate * max(self.speed, 1.0)
        runs, most = self.running, max(LATEST * rate, 1.0)
        if ticks > most + 1.0:
            self.session.hurry()
        ticks = min(ticks, most)
        due, played = int(ticks), 0
        self.work.start()
        while played < due:
            played += 1
            last = played == due or self.work.elapsed() > BUDGET
            self.tick(shown=last)
            if last or (runs and not self.running):
                break
        return ticks - played
