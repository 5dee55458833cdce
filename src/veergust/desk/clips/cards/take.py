"""Take: many clips out of one long take, found or chosen, named in a row; its marks."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QListWidget, QListWidgetItem, QWidget

from veergust.core.edit import Edit, name_mark, take_parts, turn_mark, unused_parts
from veergust.core.study import Move, find_moves
from veergust.desk.clips.cards.card import Card
from veergust.desk.clips.playhead import Playhead
from veergust.desk.document.document import Document
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.fields import Form, TextField, heading, note
from veergust.desk.widgets.rows import buttons

UNSURE = 0.6
"""A move that is less sure is marked."""


def doubt_of(move: Move) -> str:
    """What stands behind a move that may be none."""
    return "" if move.sure >= UNSURE else "  ?"


class TakeCard(Card):
    """What a take holds, and what becomes of it."""

    title = "Take"

    def __init__(self, document: Document, playhead: Playhead, parent: QWidget) -> None:
        super().__init__(document, playhead, parent)
        self.found: tuple[Move, ...] = ()
        self._of: object = None
        self.words = note()
        self.box.addWidget(self.words)
        self.find_button = word_button(
            "find the moves", "Parts in which a hand or a foot strikes out, from guard to guard", strong=True
        )
        self.find_button.clicked.connect(self.look_for_moves)
        self.name = TextField("Named", lambda _: self._name_rows(), "The clips are called this, with a number")
        form = Form()
        form.row("Named", self.name)
        self.list = QListWidget()
        self.list.setAccessibleName("Moves found")
        self.list.setMinimumHeight(190)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setTextElideMode(Qt.TextElideMode.ElideMiddle)
        self.list.currentRowChanged.connect(self._look)
        self.take_button = word_button("make clips of those ticked", "A clip of each", strong=True)
        self.take_button.clicked.connect(self.take)
        self.box.addWidget(buttons(self.find_button))
        self.box.addWidget(form)
        self.box.addWidget(self.list)
        self.box.addWidget(buttons(self.take_button))
        self.box.addWidget(heading("The chosen part"))
        self.chosen = note()
        self.box.addWidget(self.chosen)
        self.part_button = word_button("new clip of this part", "A clip of what is chosen on the film (N)", strong=True)
        self.part_button.clicked.connect(self.take_chosen)
        self.clear_button = word_button("choose nothing", "Choose no part")
        self.clear_button.clicked.connect(lambda: playhead.select(0, 0))
        self.box.addWidget(buttons(self.part_button, self.clear_button))
        self.box.addWidget(heading("Marks"))
        self.marks = QListWidget()
        self.marks.setAccessibleName("Marks")
        self.marks.setMaximumHeight(92)
        self.marks.currentRowChanged.connect(self._to_mark)
        self.marks.itemChanged.connect(self._named)
        self.box.addWidget(self.marks)
        self.box.addWidget(note("M puts a mark under the playhead, or takes it away. A double click names it."))
        self.box.addStretch(1)
        playhead.selected.connect(self._selected)

    def renew(self) -> None:
        clip, reading = self.clip, self.reading
        self.show_fields(clip is not None)
        if clip is None or reading is None:
            return
        if self._of != (clip.file, clip.animation):
            self._of, self.found = (clip.file, clip.animation), ()
            self.name.show_value(clip.name)
            self._fill()
        bare = unused_parts(self.document.project, clip, float(reading.times[-1]))
        left = sum(end - start for start, end in bare)
        self.words.setText(
            f"{float(reading.times[-1]):.1f} s, {len(reading.times) - 1} source frames at {reading.fps:g} a second; "
            f"{left:.1f} s of it in no clip of its own."
        )
        self._selected()
        rows = [(reading.frame_of(m.time), m.name) for m in clip.marks]
        self.marks.blockSignals(True)
        self.marks.clear()
        for frame, name in rows:
            item = QListWidgetItem(name or f"frame {frame}")
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsEditable)
            self.marks.addItem(item)
        self.marks.blockSignals(False)

    def _selected(self) -> None:
        part = self.playhead.selection
        self.chosen.setText(
            f"Frames {part[0]} to {part[1]} of the source." if part else "None: hold Shift and drag along the film."
        )
        self.part_button.setEnabled(part is not None)
        self.clear_button.setEnabled(part is not None)

    # Found

    def look_for_moves(self) -> None:
        """Look for moves in the whole source."""
        reading = self.reading
        if reading is None:
            return
        self.found = find_moves(reading)
        self._fill()
        if not self.found:
            self.document.said.emit("No move was found: no hand and no foot strikes out.", False)

    def _fill(self) -> None:
        self.list.blockSignals(True)
        self.list.clear()
        for move in self.found:
            item = QListWidgetItem(move.says)
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            item.setCheckState(Qt.CheckState.Checked)
            self.list.addItem(item)
        self.list.blockSignals(False)
        self._name_rows()
        self.take_button.setEnabled(bool(self.found))

    def _name_rows(self) -> None:
        """Write beside each move what its clip will be called."""
        wish = self.name.text().strip() or self.document.clip
        for n, move in enumerate(self.found):
            item = self.list.item(n)
            strikes = f"{move.joint.replace('_', ' ')} at {move.strike}{doubt_of(move)}"
            item.setText(f"{wish}_{n + 1:02d}  {move.start}–{move.end}  {strikes}")
            item.setToolTip(move.says)

    def _look(self, row: int) -> None:
        if 0 <= row < len(self.found):
            move = self.found[row]
            self.playhead.timeline.show(move.start, move.end)
            self.playhead.select(move.start, move.end)
            self.playhead.move_to(move.strike)

    def take(self) -> None:
        """A clip of each move that is ticked."""
        wish = self.name.text().strip() or self.document.clip
        rows = [
            (f"{wish}_{n + 1:02d}", move.start, move.end)
            for n, move in enumerate(self.found)
            if self.list.item(n).checkState() == Qt.CheckState.Checked
        ]
        if rows:
            self._make(rows)

    def take_chosen(self) -> None:
        """A clip of the part that is chosen on the film."""
        part = self.playhead.selection
        if part is not None:
            self._make([(self.document.clip, *part)])

    def _make(self, rows: list[tuple[str, int, int]]) -> None:
        reading = self.reading
        assert reading is not None
        times = [(name, float(reading.times[a]), float(reading.times[b])) for name, a, b in rows]
        made: list[str] = []

        def edit() -> Edit:
            out, names = take_parts(self.document.base, self.document.clip, times)
            made.extend(names)
            return out

        self.attempt(edit)
        if made:
            self.playhead.select(0, 0)
            self.document.said.emit(f"New in the library: {', '.join(made)}.", False)

    # Marks

    def turn_mark(self) -> None:
        """A mark under the playhead, or away."""
        reading, seconds = self.reading, self.playhead.seconds
        if reading is not None:
            self.attempt(partial(turn_mark, self.document.base, self.document.clip, seconds, reading.step))

    def to_mark(self, way: int) -> None:
        """Go to the next mark, or the one before."""
        clip, reading = self.clip, self.reading
        if clip is None or reading is None:
            return
        frames = [reading.frame_of(m.time) for m in clip.marks]
        there = [f for f in frames if (f - self.playhead.frame) * way > 0]
        if there:
            self.playhead.step(0)
            self.playhead.move_to(min(there, key=lambda f: abs(f - self.playhead.frame)))

    def _to_mark(self, row: int) -> None:
        clip, reading = self.clip, self.reading
        if clip is not None and reading is not None and 0 <= row < len(clip.marks):
            self.playhead.move_to(reading.frame_of(clip.marks[row].time))

    def _named(self, item: QListWidgetItem) -> None:
        row = self.marks.row(item)
        self.attempt(partial(name_mark, self.document.base, self.document.clip, row, item.text()))
