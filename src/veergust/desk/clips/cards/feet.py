"""Feet: when they stand on the floor, and how far they slide there."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import QListWidget, QWidget

from veergust.core.motion import FootContact, feet_of
from veergust.desk.clips.cards.card import Card
from veergust.desk.clips.film import Film
from veergust.desk.clips.playhead import Playhead
from veergust.desk.document.document import Document
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.fields import heading, note
from veergust.desk.widgets.rows import buttons

REACH = 4


class FeetCard(Card):
    """Contacts as a list; the film has them as ribbons."""

    title = "Feet"
    needs_joints = "Feet are found by their joints. This figure is drawn: where it stands is said by its cells."

    def __init__(self, document: Document, playhead: Playhead, film: Film, parent: QWidget) -> None:
        super().__init__(document, playhead, parent)
        self.film = film
        self.words = note()
        self.box.addWidget(self.words)
        self.list = QListWidget()
        self.list.setAccessibleName("Feet on the floor")
        self.list.setMinimumHeight(190)
        self.list.currentRowChanged.connect(self._chosen)
        self.box.addWidget(self.list)
        self.add_buttons = [
            word_button("+ left here", "The left foot stands from the playhead on", strong=True),
            word_button("+ right here", "The right foot stands from the playhead on", strong=True),
        ]
        for side, button in enumerate(self.add_buttons):
            button.clicked.connect(self._adder(side))
        self.remove_button = word_button("remove", "The chosen foot does not stand there (Delete)")
        self.remove_button.clicked.connect(self.remove)
        self.again = word_button("find again", "Forget what was set by hand and find them from height and speed")
        self.again.clicked.connect(lambda: self.change("feet found again", contacts=None))
        self.box.addWidget(buttons(*self.add_buttons))
        self.box.addWidget(buttons(self.remove_button, self.again))
        self.box.addWidget(heading("Slide"))
        self.slide = note()
        self.box.addWidget(self.slide)
        self.box.addStretch(1)
        film.chosen.connect(self._from_film)

    def renew(self) -> None:
        clip, reading = self.clip, self.reading
        self.show_fields(clip is not None)
        if clip is None or reading is None:
            return
        found = clip.contacts is None
        self.words.setText("Found from height and speed." if found else "Set by hand.")
        self.again.setEnabled(not found)
        rows = [
            f"{reading.skeleton.names[c.joint]}   {c.start} to {c.end}   slides {reading.slide(c):.1f} cm"
            for c in reading.contacts
        ]
        if rows != [self.list.item(i).text() for i in range(self.list.count())]:
            self.list.blockSignals(True)
            self.list.clear()
            self.list.addItems(rows)
            self.list.setCurrentRow(self.film.contact)
            self.list.blockSignals(False)
        first, last = self.playhead.used()
        inside = [reading.slide(c) for c in reading.contacts if c.start < last and c.end > first]
        most = max(inside, default=0.0)
        self.slide.setText(
            f"At most {most:.1f} cm against the body's travel, {sum(inside):.1f} cm over all of them."
            if inside else "No foot stands in the used part."
        )  # fmt: skip

    def _chosen(self, row: int) -> None:
        self.film.contact = row
        self.film.update()
        reading = self.reading
        if reading is not None and 0 <= row < len(reading.contacts):
            self.playhead.move_to(reading.contacts[row].start)

    def _from_film(self) -> None:
        self.list.blockSignals(True)
        self.list.setCurrentRow(self.film.contact)
        self.list.blockSignals(False)

    def _adder(self, side: int) -> Callable[[], None]:
        return lambda: self.add(side)

    def add(self, side: int) -> None:
        """A foot stands from the playhead on, for a few frames; 0 is the left one."""
        reading = self.reading
        if reading is None:
            return
        feet = sorted(feet_of(reading.skeleton), key=lambda j: -float(reading.skeleton.rest_world[j, 0, 3]))
        if side >= len(feet):
            self.document.said.emit("The figure has no such foot.", True)
            return
        start = min(self.playhead.frame, len(reading.times) - 2)
        end = min(start + REACH, len(reading.times))
        spans = [*reading.contacts, FootContact(feet[side], start, end)]
        self.attempt(lambda: self.film.feet_edit(spans, "foot on the floor added"))

    def remove(self) -> None:
        """Take the chosen contact away."""
        reading, row = self.reading, self.film.contact
        if reading is not None and 0 <= row < len(reading.contacts):
            spans = [c for i, c in enumerate(reading.contacts) if i != row]
            self.film.contact = -1
            self.attempt(lambda: self.film.feet_edit(spans, "foot on the floor removed"))
