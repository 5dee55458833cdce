"""Time of a bout: let run, held, and gone through frame by frame; what every stage that is driven shares."""

from __future__ import annotations

from veergust.desk.frame.driving import Driver
from veergust.desk.frame.session import Session
from veergust.desk.frame.timed import Timed

MOST_AT_ONCE = 4
"""So many ticks are made up for on a beat; what is later than that is let go."""


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
        """Play what is due; only the last of it is shown."""
        runs, due = self.running, min(int(ticks), MOST_AT_ONCE)
        for n in range(due):
            self.tick(shown=n + 1 == due)
            if runs and not self.running:
                break
        return min(ticks - due, 1.0)
