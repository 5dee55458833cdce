"""What is chosen on the Ground bench, for chart, grid and pages alike: a state, a group, or a transition."""

from __future__ import annotations

from PySide6.QtCore import QObject, Signal

from veergust.core.model import Group, State, Transition
from veergust.desk.document.document import Document


class GroundSelection(QObject):
    """A state or group by name, or a transition by its place among all; nothing by neither."""

    changed = Signal()
    opened = Signal()

    def __init__(self, document: Document, owner: QObject | None = None) -> None:
        super().__init__(owner)
        self.document = document
        self.name = ""
        self.place: int | None = None

    def choose(self, name: str) -> None:
        """Choose a state or group."""
        if (name, None) != (self.name, self.place):
            self.name, self.place = name, None
            self.changed.emit()

    def choose_transition(self, place: int | None) -> None:
        """Choose a transition."""
        if ("", place) != (self.name, self.place):
            self.name, self.place = "", place
            self.changed.emit()

    def settle(self) -> None:
        """Let go of what is not there any more."""
        chart = self.document.build.chart
        if self.name and not chart.known(self.name):
            self.choose("")
        if self.place is not None and self.place >= len(chart.locomotion.transitions):
            self.choose_transition(None)

    @property
    def state(self) -> State | None:
        """The state that is chosen."""
        return self.document.build.chart.states.get(self.name)

    @property
    def group(self) -> Group | None:
        """The group that is chosen."""
        return self.document.build.chart.groups.get(self.name)

    @property
    def transition(self) -> Transition | None:
        """The transition that is chosen."""
        there = self.document.project.locomotion.transitions
        return there[self.place] if self.place is not None and self.place < len(there) else None
