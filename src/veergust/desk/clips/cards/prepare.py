"""Prepare: in and out, rate, loop, mirror, backwards; proposals; the seam; name, tags, copies."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QLineEdit, QVBoxLayout, QWidget

from veergust.core.study import best_loop, proposals, seam, shortest_loop
from veergust.desk.clips.cards.card import Card
from veergust.desk.clips.playhead import Playhead
from veergust.desk.document.document import Document
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.fields import Form, NumberField, heading, note
from veergust.desk.widgets.label import PlainLabel
from veergust.desk.widgets.rows import buttons, switch


class PrepareCard(Card):
    """Where a clip begins and ends, and how it is played."""

    title = "Prepare"
    copy_wanted = Signal()
    rename_wanted = Signal()
    action_wanted = Signal()

    def __init__(self, document: Document, playhead: Playhead, parent: QWidget) -> None:
        super().__init__(document, playhead, parent)
        self.start = NumberField("In", lambda v: self._edge("in", int(v)), unit="f", low=0,
                                 tip="First frame used, in the source (I: the playhead's)")  # fmt: skip
        self.end = NumberField("Out", lambda v: self._edge("out", int(v)), unit="f", low=0,
                               tip="Last frame used, in the source (O: the playhead's)")  # fmt: skip
        self.rate = NumberField("Rate", lambda v: self.change(rate=v), unit="×", low=0.05, high=20.0, step=0.05,
                                decimals=2, tip="How fast it plays; 1 is as in the source")  # fmt: skip
        self.loop = switch("loops", "It starts over at its end", lambda on: self.change(loop=on))
        self.mirror = switch("mirrored", "Left and right change places", lambda on: self.change(mirror=on))
        self.reverse = switch("backwards", "From out to in", lambda on: self.change(reverse=on))
        self.length = note()
        form = Form()
        form.row("In", self.start)
        form.row("Out", self.end)
        form.row("Rate", self.rate)
        self.box.addWidget(form)
        self.swaps = switch("changes hands", "Where it is mirrored, here or in a cut, a weapon goes to the other hand",
                            lambda on: self.change(swaps=on))  # fmt: skip
        self.box.addWidget(buttons(self.loop, self.mirror, self.swaps, self.reverse))
        self.box.addWidget(self.length)
        self.box.addWidget(heading("Proposals"))
        self.offers = QWidget()
        self.offer_box = QVBoxLayout(self.offers)
        self.offer_box.setContentsMargins(0, 0, 0, 0)
        self.offer_box.setSpacing(2)
        self.box.addWidget(self.offers)
        self.box.addWidget(heading("Seam, when it loops"))
        self.seam = note()
        self.box.addWidget(self.seam)
        self.best = word_button("", "Cut the clip to the frames that meet best, and loop it", strong=True)
        self.best.setAccessibleName("Best loop")
        self.best.clicked.connect(self._take_loop)
        self.box.addWidget(buttons(self.best))
        self.box.addWidget(heading("In the library"))
        self.tags = QLineEdit()
        self.tags.setPlaceholderText("tags, with commas")
        self.tags.setAccessibleName("Tags")
        self.tags.editingFinished.connect(self._set_tags)
        self.box.addWidget(self.tags)
        rename = word_button("rename", "Give the clip another name; what plays it follows (F2)")
        rename.clicked.connect(self.rename_wanted)
        copy = word_button("editable copy", "Write the source as a GLB on the figure, and a clip that plays it")
        copy.clicked.connect(self.copy_wanted)
        action = word_button("make an action", "A new action of this clip, on the Sheet", strong=True)
        action.clicked.connect(self.action_wanted)
        self.box.addWidget(buttons(action, copy, rename))
        self.source = PlainLabel()
        self.source.setObjectName("note")
        self.source.setWordWrap(True)
        self.box.addWidget(self.source)
        self.box.addStretch(1)
        self._loop: tuple[int, int] | None = None
        self._shown: object = None

    def _edge(self, edge: str, frame: int) -> None:
        reading = self.reading
        if reading is None:
            return
        top = len(reading.times) - 1
        frame = min(max(frame, 0), top)
        at = round(float(reading.times[frame]), 9)
        if edge == "in":
            self.change(f"in at {frame}", start=at)
        else:
            self.change(f"out at {frame}", end=None if frame == top else at)

    def set_edge_here(self, edge: str) -> None:
        """Put in or out under the playhead."""
        self._edge(edge, self.playhead.frame)

    def _set_tags(self) -> None:
        clip = self.clip
        rows = tuple(dict.fromkeys(t.strip() for t in self.tags.text().split(",") if t.strip()))
        if clip is not None and rows != clip.tags:
            self.change(f"tags {', '.join(rows) or 'none'}", tags=rows)

    def _take_loop(self) -> None:
        reading = self.reading
        if reading is not None and self._loop is not None:
            first, last = self._loop
            end = None if last == len(reading.times) - 1 else round(float(reading.times[last]), 9)
            start = round(float(reading.times[first]), 9)
            self.change(f"loops from {first} to {last}", start=start, end=end, loop=True)

    def _take(self, edge: str, frame: int) -> None:
        self._edge(edge, frame)
        self.playhead.move_to(frame)

    def renew(self) -> None:
        clip, reading = self.clip, self.reading
        self.show_fields(clip is not None)
        if clip is None or reading is None:
            return
        first, last = self.playhead.used()
        top = len(reading.times) - 1
        for field, value in ((self.start, first), (self.end, last)):
            field.show_most(top)
            field.show_value(value)
        self.rate.show_value(clip.rate)
        self.loop.setChecked(clip.loop)
        self.mirror.setChecked(clip.mirror)
        self.swaps.setChecked(clip.swaps)
        self.reverse.setChecked(clip.reverse)
        seconds = (last - first) * reading.step / max(clip.rate, 1e-6)
        ticks = max(1, round(seconds * self.document.project.settings.rate))
        self.length.setText(f"{last - first} of {top} source frames: {seconds:.2f} s, {ticks} f in the game")
        if not self.tags.hasFocus():
            self.tags.setText(", ".join(clip.tags))
        file = clip.file or "poses keyed here"
        self.source.setText(f"{file} · {reading.fps:g} frames a second")
        mark = (clip, id(reading))
        if mark != self._shown:
            self._shown = mark
            self._offer(first, last)

    def _offer(self, first: int, last: int) -> None:
        reading = self.reading
        assert reading is not None
        while self.offer_box.count():
            item = self.offer_box.takeAt(0)
            if item is not None and (widget := item.widget()) is not None:
                widget.hide()
                widget.deleteLater()
        found = proposals(reading, first, last, self.document.derived.idle_pose())
        for offer in found:
            button = word_button(offer.says, f"Put {offer.edge} on frame {offer.frame}", strong=True)
            button.clicked.connect(partial(self._take, offer.edge, offer.frame))
            self.offer_box.addWidget(buttons(button))
        if not found:
            self.offer_box.addWidget(note("none: it begins and ends well"))
        here = seam(reading, first, last)
        self.seam.setText(f"pose {here.pose:.1f} cm, speed {here.speed:.0f} cm/s from last to first")
        self._loop = best_loop(reading)
        self.best.setVisible(self._loop is not None and self._loop != (first, last))
        if self._loop is not None:
            best = seam(reading, *self._loop)
            what = shortest_loop(reading)[1]
            where = f"{self._loop[0]} to {self._loop[1]}"
            self.best.setText(f"best for {what}: {where}, {best.pose:.1f} cm, {best.speed:.0f} cm/s")
