"""Join: how a frame of the clip goes over into a pose of another, and how long to fade."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from veergust.core.edit import Edit, prepare_clip
from veergust.core.motion import Pose, about_body, ends, forward
from veergust.core.study import Join, alike, apart, best_pair, join, used_frames
from veergust.desk.clips.cards.card import Card
from veergust.desk.clips.playhead import Playhead
from veergust.desk.document.document import Document
from veergust.desk.look.theme import Theme, elided
from veergust.desk.widgets.accessible import ToldRow
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.fields import ChoiceField, Form, NumberField, heading, note
from veergust.desk.widgets.rows import buttons

ROW = 21
WHERE = [("its start", "start"), ("its end", "end"), ("a frame of it", "frame")]


class Differences(QWidget):
    """The joints that differ most, each with a bar."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme = theme
        self.rows: list[tuple[str, float, float]] = []
        self.setMinimumHeight(8 * ROW)
        self.setAccessibleName("Differences by joint")

    def show_rows(self, rows: list[tuple[str, float, float]]) -> None:
        """Show name, degrees, centimetres."""
        self.rows = rows
        self.setAccessibleDescription(". ".join(f"{n} {d:.0f} degrees" for n, d, _ in rows))
        self.update()

    def told(self) -> list[ToldRow]:
        """The joints and how far they are apart, for who hears them."""
        return [ToldRow(name, f"{degrees:.0f}°, {far:.1f} cm", QRectF(0, i * ROW, self.width(), ROW))
                for i, (name, degrees, far) in enumerate(self.rows)]  # fmt: skip

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        theme, wide = self.theme, self.width()
        most = max((d for _, d, _ in self.rows), default=1.0)
        for i, (name, degrees, far) in enumerate(self.rows):
            y = i * ROW
            p.fillRect(QRectF(116, y + 6, max((wide - 116 - 104) * degrees / max(most, 10.0), 1.0), 9),
                       theme.colour("hold", 0.55))  # fmt: skip
            p.setFont(theme.font(13))
            p.setPen(theme.colour("ink"))
            p.drawText(QRectF(0, y, 112, ROW), Qt.AlignmentFlag.AlignVCenter, elided(name, theme.font(13), 110))
            p.setPen(theme.colour("ink_soft"))
            p.drawText(QRectF(wide - 100, y, 96, ROW), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight,
                       f"{degrees:.0f}° · {far:.1f} cm")  # fmt: skip


class JoinCard(Card):
    """The frame under the playhead held against another pose."""

    title = "Join"
    other_changed = Signal()

    def __init__(self, document: Document, playhead: Playhead, theme: Theme, parent: QWidget) -> None:
        super().__init__(document, playhead, parent)
        self.other = ""
        self.where = "start"
        self.found: Join | None = None
        self.with_ = ChoiceField("With", self._choose, "The clip whose pose it is held against")
        self.at = ChoiceField("At", self._choose_where, "Which of its poses")
        self.frame = NumberField("Frame", lambda _: self._changed(), unit="f", low=0, tip="Its frame, from its in")
        form = Form()
        form.row("With", self.with_)
        form.row("At", self.at)
        form.row("Frame", self.frame)
        self.box.addWidget(form)
        self.overall = note()
        self.box.addWidget(self.overall)
        self.best = word_button("", "Go to the frame that is nearest to it", strong=True)
        self.best.setAccessibleName("Nearest frame")
        self.best.clicked.connect(self._go_best)
        self.start_there = word_button("start there", "Cut the clip in on that frame")
        self.start_there.clicked.connect(self._start_best)
        self.box.addWidget(buttons(self.best, self.start_there))
        self.pair = word_button("best pair over both", "The two frames that are most alike", strong=True)
        self.pair.clicked.connect(self.find_pair)
        self.cut_there = word_button("cut both there", "This one out on its frame, the other in on its own")
        self.cut_there.clicked.connect(self.cut_both)
        self.box.addWidget(buttons(self.pair, self.cut_there))
        self.found_pair: tuple[int, int, float] | None = None
        self.fade = note()
        self.box.addWidget(self.fade)
        self.box.addWidget(heading("Joints that differ most"))
        self.differences = Differences(theme)
        self.box.addWidget(self.differences)
        self.box.addStretch(1)

    def _choose(self, name: str) -> None:
        self.other, self.found_pair = name, None
        self.pair.setText("best pair over both")
        self._changed()

    def _choose_where(self, where: str) -> None:
        self.where = where
        self._changed()

    def _changed(self) -> None:
        self.renew()
        self.other_changed.emit()

    def pose(self) -> Pose | None:
        """The pose it is held against."""
        clip, assets = self.document.build.clip(self.other), self.document.build.assets
        reading = self.document.derived.reading(self.other)
        if clip is None or reading is None:
            return None
        start, end = ends(assets, clip)
        first, last = (end, start) if clip.reverse else (start, end)
        along = start + self.frame.value() * reading.step
        at = {"start": first, "end": last}.get(self.where, min(along, end))
        return about_body(assets, clip, at, self.document.build.roots)

    def renew(self) -> None:
        project = self.document.project
        names = [c.name for c in project.clips]
        if self.other not in names:
            first = self.document.build.idle_clip
            self.other = first if first in names else (names[0] if names else "")
        self.with_.show_choices([(n, n) for n in names], self.other)
        self.at.show_choices(WHERE, self.where)
        self.frame.setEnabled(self.where == "frame")
        self.moved()

    def moved(self) -> None:
        reading, pose = self.reading, self.pose()
        self.show_fields(reading is not None)
        if reading is None or pose is None:
            return
        frame = self.playhead.frame
        rate = self.document.project.settings.rate
        self.found = found = join(reading, frame, pose, rate)
        bones = reading.skeleton
        if bones.picture >= 0:
            one, two = (forward(bones, p.rotation, p.translation)[0] for p in (reading.about(frame), pose))
            over, far = alike(self.document.build, one, two), apart(self.document.build, one, two)
            feet = f"its feet stand {far * 100:.0f} cm from there"
            self.overall.setText(f"The drawing of frame {frame} lies {over:.0%} over that one; {feet}.")
            self.best.setText(f"nearest: frame {found.best}")
            self.fade.setText("One drawing follows the other: there is nothing between to fade.")
            self.differences.show_rows([])
            return
        self.overall.setText(f"Frame {frame} is {found.overall:.1f} cm from it, joint for joint on average.")
        self.best.setText(f"nearest: frame {found.best}, {found.best_overall:.1f} cm")
        self.fade.setText(f"A crossfade of {found.fade} f would do.")
        self.differences.show_rows(found.worst(8))

    def find_pair(self) -> None:
        """Look for the frames of both clips that are most alike, and go to them."""
        reading, other = self.reading, self.document.derived.reading(self.other)
        if reading is None or other is None:
            return
        used = used_frames(self.document.build.assets, other)
        self.found_pair = best_pair(reading, self.playhead.used(), other, used)
        if self.found_pair is None:
            return
        here, there, far = self.found_pair
        self.where = "frame"
        self.at.show_choices(WHERE, self.where)
        self.frame.setEnabled(True)
        self.frame.show_value(there - used[0])
        self.playhead.step(0)
        self.playhead.move_to(here)
        self._changed()
        self.pair.setText(f"best pair: {here} with {there}, {far * 100:.1f} cm")

    def cut_both(self) -> None:
        """This clip ends on the frame of the best pair, and the other begins on its own, as one step."""
        reading, other, clip = self.reading, self.document.derived.reading(self.other), self.clip
        if reading is None or other is None or clip is None or self.found_pair is None:
            self.document.said.emit("Look for the best pair first.", True)
            return
        here, there, _ = self.found_pair
        if clip.name == self.other:
            self.document.said.emit("Both are the same clip: choose another to hold it against.", True)
            return

        def edit() -> Edit:
            base, assets = self.document.base, self.document.build.assets
            first = prepare_clip(base, assets, clip.name, end=round(float(reading.times[here]), 9))
            both = prepare_clip(first.project, assets, self.other, start=round(float(other.times[there]), 9))
            return Edit(both.project, f"{clip.name} out at {here}, {self.other} in at {there}")

        self.attempt(edit)

    def _go_best(self) -> None:
        if self.found is not None:
            self.playhead.step(0)
            self.playhead.move_to(self.found.best)

    def _start_best(self) -> None:
        reading = self.reading
        if self.found is not None and reading is not None:
            best = self.found.best
            self.change(f"in at {best}", start=round(float(reading.times[best]), 9))
