"""The take played anew as the project is now, and what came out differently."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QListWidget, QListWidgetItem

from veergust.core.study.takes import compared
from veergust.desk.document.document import Document
from veergust.desk.frame.page import FieldPage
from veergust.desk.frame.session import Session
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.fields import heading, note
from veergust.desk.widgets.rows import buttons


class ReplayPage(FieldPage):
    """What the last replay gave; a difference that is chosen is looked at."""

    title = "Replay"

    def __init__(self, document: Document, session: Session) -> None:
        super().__init__(document)
        self.session = session
        self.setFixedWidth(312)
        self.box.addWidget(heading("The take with what was changed"))
        self.replay_button = word_button("replay", "Play all that was pressed anew, as the project is now", strong=True)
        self.replay_button.clicked.connect(self.replay)
        self.box.addWidget(buttons(self.replay_button))
        self.words = note()
        self.box.addWidget(self.words)
        self.list = QListWidget()
        self.list.setAccessibleName("What came out differently")
        self.list.setWordWrap(True)
        self.list.setMinimumHeight(320)
        self.list.currentItemChanged.connect(lambda item, _: self._look(item))
        self.box.addWidget(self.list)
        self.box.addStretch(1)
        self.said_of: object = None

    def replay(self) -> None:
        """Play the take anew, and tell what is otherwise."""
        both = self.session.replay()
        self.list.clear()
        self.said_of = self.document.build
        if both is None:
            self.words.setText("The take has lost its beginning: start over, and play it again.")
            return
        found = compared(*both)
        if found.first is None:
            self.words.setText(f"All {len(both[1])} frames came out as they were.")
            return
        self.words.setText(f"It differs from frame {found.first} on.")
        for one in found.differences:
            item = QListWidgetItem(one.says)
            item.setData(Qt.ItemDataRole.UserRole, one.now if one.now is not None else one.was)
            self.list.addItem(item)
        self.session.look_at(found.first)

    def _look(self, item: QListWidgetItem | None) -> None:
        if item is not None:
            self.session.look_at(item.data(Qt.ItemDataRole.UserRole))

    def renew(self) -> None:
        if self.said_of is not self.document.build:
            self.said_of = self.document.build
            self.list.clear()
            self.words.setText("Change anything, then replay: the same is pressed, and what came of it is compared.")
