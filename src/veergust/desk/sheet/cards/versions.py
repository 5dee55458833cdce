"""Versions of the action: kept, flipped to, seen on the same frame, their facts side by side."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHeaderView, QTableWidget, QTableWidgetItem, QWidget

from veergust.core.edit import drop, flip, keep
from veergust.core.kinds import FACTS, written
from veergust.desk.document.document import Document
from veergust.desk.sheet.cards.page import Page
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.fields import TextField, note
from veergust.desk.widgets.rows import buttons, switch


class VersionsPage(Page):
    """The version that plays, the kept ones beside it; ``compared`` when the stage should show another."""

    title = "Versions"
    compared = Signal()

    def __init__(self, document: Document, parent: QWidget) -> None:
        super().__init__(document, parent)
        self.chosen = 0
        self.words = note("Type a name and press Enter: what there is is kept, and you go on under that name.")
        self.box.addWidget(self.words)
        self.table = QTableWidget(len(FACTS), 1)
        self.table.setVerticalHeaderLabels([kind.label for kind in FACTS])
        self.table.setAccessibleName("Versions and their facts")
        self.table.verticalHeader().setDefaultSectionSize(20)
        self.table.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        self.table.horizontalHeader().setDefaultAlignment(Qt.AlignmentFlag.AlignLeft)
        self.table.setSelectionBehavior(QTableWidget.SelectionBehavior.SelectColumns)
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.table.setCornerButtonEnabled(False)
        self.table.setShowGrid(False)
        self.table.setFixedHeight(30 + 20 * len(FACTS))
        self.table.currentCellChanged.connect(lambda _, column, *__: self._choose(column - 1))
        self.label = TextField("Keep as", self.keep, "Keep what there is, and go on under this name (Enter)")
        self.label.setPlaceholderText("a name, Enter")
        flip_button = word_button("flip", "Play the chosen version, and keep this one (F)", strong=True)
        flip_button.clicked.connect(self.flip)
        drop_button = word_button("drop", "Forget the chosen version")
        drop_button.clicked.connect(self.drop)
        self.compare = switch(
            "see both", "A skin of the chosen version on the same frame", lambda _: self.compared.emit()
        )
        row = buttons(flip_button, drop_button, self.compare)
        self.box.addWidget(row)
        layout = row.layout()
        if layout is not None:
            layout.addWidget(self.label)
        self.box.addWidget(self.table)
        self.box.addStretch(1)

    def keep(self, label: str) -> None:
        """Keep the action as it is, and go on under a name."""
        action = self.action
        if action is not None and label.strip():
            self.attempt(lambda: keep(self.document.base, action.name, label))
            self.label.show_value("")
            self.label.clear()

    def flip(self) -> None:
        """Play the chosen version."""
        action = self.action
        if action is not None and self.chosen < len(action.kept):
            self.attempt(lambda: flip(self.document.base, action.name, self.chosen))

    def drop(self) -> None:
        """Forget the chosen version."""
        action = self.action
        if action is not None and self.chosen < len(action.kept):
            self.attempt(lambda: drop(self.document.base, action.name, self.chosen))
            self.chosen = 0

    def _choose(self, index: int) -> None:
        if index >= 0 and index != self.chosen:
            self.chosen = index
            self.compared.emit()

    def renew(self) -> None:
        action = self.action
        self.page.setEnabled(action is not None)
        if action is None:
            return
        self.chosen = min(self.chosen, max(len(action.kept) - 1, 0))
        mine = self.document.derived.facts(action.name)
        rows = [(action.version, written(mine) if mine else {})]
        for i, kept in enumerate(action.kept):
            found = self.document.derived.version(i)
            rows.append((kept.name, written(found[1]) if found else {}))
        self.words.setVisible(not action.kept)
        self.table.blockSignals(True)
        self.table.setColumnCount(len(rows))
        self.table.setHorizontalHeaderLabels([name for name, _ in rows])
        for column, (_, values) in enumerate(rows):
            for row, fact in enumerate(kind.label for kind in FACTS):
                text = values.get(fact, "")
                item = QTableWidgetItem(text)
                font = item.font()
                font.setBold(column > 0 and text != rows[0][1].get(fact, ""))
                item.setFont(font)
                self.table.setItem(row, column, item)
        if action.kept:
            self.table.selectColumn(self.chosen + 1)
        self.table.blockSignals(False)
