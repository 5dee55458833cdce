"""Takes that are kept, and the take played anew as the project is now: what came out differently."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QListWidget, QListWidgetItem, QWidget

from veergust.core.edit import Edit, keep_take, remove_take, rename_take, renew_take
from veergust.core.model import KeptTake
from veergust.core.play import came_of
from veergust.core.study import TakeChange, came_otherwise, compared
from veergust.desk.document.document import Document
from veergust.desk.frame.page import FieldPage
from veergust.desk.frame.session import Session
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.fields import Form, TextField, heading, note
from veergust.desk.widgets.rows import buttons


class ReplayPage(FieldPage):
    """The kept takes, and what a replay gave; a difference that is chosen is looked at."""

    title = "Replay"

    def __init__(self, document: Document, session: Session, parent: QWidget) -> None:
        super().__init__(document, parent)
        self.session = session
        self.setFixedWidth(312)
        self.box.addWidget(heading("Kept takes"))
        self.takes = QListWidget()
        self.takes.setAccessibleName("Kept takes")
        self.takes.setMinimumHeight(110)
        self.takes.setMaximumHeight(150)
        self.takes.currentRowChanged.connect(lambda _: self._show_chosen())
        self.takes.itemActivated.connect(lambda _: self.play())
        self.box.addWidget(self.takes)
        self.keep_button = word_button("keep this take", "All that was given up to the frame looked at", strong=True)
        self.keep_button.clicked.connect(self.keep)
        self.play_button = word_button("play it", "Played anew, and compared with what it came to when it was kept")
        self.play_button.clicked.connect(self.play)
        self.gone_button = word_button("remove", "Take it out of the project")
        self.gone_button.clicked.connect(self.remove)
        self.box.addWidget(buttons(self.keep_button, self.play_button, self.gone_button))
        self.name = TextField("Name of the take", self._rename, "What it is called")
        form = Form()
        self.name.setMinimumWidth(190)
        form.row("Name", self.name)
        self.box.addWidget(form)
        self.against_button = word_button("hold this against it", "What came of the take on the stage, and of that one")
        self.against_button.clicked.connect(self.hold_against)
        self.renew_button = word_button("keep as now", "What it came to now is what it is compared with from now on")
        self.renew_button.clicked.connect(self.keep_as_now)
        self.box.addWidget(buttons(self.against_button, self.renew_button))
        self.box.addWidget(heading("The take with what was changed"))
        self.replay_button = word_button("replay", "Play all that was pressed anew, as the project is now", strong=True)
        self.replay_button.clicked.connect(self.replay)
        self.box.addWidget(buttons(self.replay_button))
        self.words = note()
        self.words.setWordWrap(True)
        self.box.addWidget(self.words)
        self.list = QListWidget()
        self.list.setAccessibleName("What came out differently")
        self.list.setWordWrap(True)
        self.list.setMinimumHeight(180)
        self.list.currentItemChanged.connect(lambda item, _: self._look(item))
        self.box.addWidget(self.list, 1)
        self.said_of: object = None
        self.played = ""

    @property
    def take(self) -> KeptTake | None:
        """The chosen one of those that are kept."""
        takes, row = self.document.project.takes, self.takes.currentRow()
        return takes[row] if 0 <= row < len(takes) else None

    # What is kept

    def keep(self) -> None:
        """Keep the take up to the tick looked at."""
        session, made = self.session, ""

        def make() -> Edit:
            nonlocal made
            till = session.at + 1
            played = session.records[:till], session.inputs[:till]
            edit, made = keep_take(self.document.base, *played, session.seed, session.stage)
            return edit

        if self.attempt(make):
            self.takes.setCurrentRow([t.name for t in self.document.project.takes].index(made))
            self.played = made
            self._show_chosen()
            self.name.setFocus()
            self.name.selectAll()

    def play(self) -> None:
        """Play the chosen one, and tell what of it is otherwise than it was kept."""
        take = self.take
        if take is None:
            return
        self.session.play_steps(take.steps, take.ticks, take.seed, take.stage)
        self.played = take.name
        self._tell(came_otherwise(take.came, came_of(self.session.records)), f"{take.name} came out as it was kept.")
        self._show_chosen()

    def hold_against(self) -> None:
        """Tell what of the take on the stage is otherwise than what came of the chosen one."""
        take = self.take
        if take is not None:
            came = came_of(self.session.records)
            self._tell(came_otherwise(take.came, came), f"This take came to the same as {take.name}.")

    def keep_as_now(self) -> None:
        """What came of the chosen one, as it is on the stage, is what it is compared with."""
        take = self.take
        if take is not None and self.attempt(lambda: renew_take(self.document.base, take.name, self.session.records)):
            self.words.setText(f"{take.name} is kept as it came out now.")
            self.list.clear()

    def remove(self) -> None:
        """Take the chosen one out of the project."""
        take = self.take
        if take is not None:
            self.attempt(lambda: remove_take(self.document.base, take.name))

    def _rename(self, name: str) -> None:
        take = self.take
        if take is not None and name.strip() != take.name:
            if self.played == take.name:
                self.played = name.strip()
            self.attempt(lambda: rename_take(self.document.base, take.name, name))

    # What came out differently

    def replay(self) -> None:
        """Play the take anew, and tell what is otherwise."""
        both = self.session.replay()
        self.said_of = self.document.build
        if both is None:
            self._tell((), "The take has lost its beginning: start over, and play it again.")
            return
        found = compared(*both)
        self._tell(found.differences, f"All {len(both[1])} frames came out as they were.", found.first)
        if found.first is not None:
            self.session.look_at(found.first)

    def _tell(self, found: Sequence[TakeChange], same: str, first: int | None = None) -> None:
        self.list.clear()
        first = min((one.tick for one in found), default=None) if first is None else first
        self.words.setText(same if first is None else f"It differs from frame {first} on.")
        for one in found:
            item = QListWidgetItem(one.says)
            item.setData(Qt.ItemDataRole.UserRole, one.now if one.now is not None else one.was)
            self.list.addItem(item)

    def _look(self, item: QListWidgetItem | None) -> None:
        if item is not None:
            self.session.look_at(item.data(Qt.ItemDataRole.UserRole))

    def forget(self) -> None:
        self.said_of = None

    def renew(self) -> None:
        rate, row = self.document.project.settings.rate, self.takes.currentRow()
        takes = self.document.project.takes
        rows = [f"{take.name}  {take.ticks / rate:.1f} s" for take in takes]
        if rows != [self.takes.item(n).text() for n in range(self.takes.count())]:
            self.takes.clear()
            self.takes.addItems(rows)
            self.takes.setCurrentRow(min(max(row, 0), len(rows) - 1))
        if self.said_of is not self.document.build:
            self.said_of = self.document.build
            self.list.clear()
            self.words.setText("Change anything, then replay: the same is pressed, and what came of it is compared.")
        self._show_chosen()

    def _show_chosen(self) -> None:
        take = self.take
        for widget in (self.name, self.play_button, self.gone_button, self.against_button):
            widget.setEnabled(take is not None)
        self.renew_button.setEnabled(take is not None and take.name == self.played)
        self.name.show_value(take.name if take is not None else "")
