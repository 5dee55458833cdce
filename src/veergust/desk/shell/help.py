"""The help page: every key, by where it holds."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QGridLayout, QLineEdit, QScrollArea, QVBoxLayout, QWidget

from veergust.desk.keys.table import PLACES, TABLE, DeskCommand
from veergust.desk.widgets.fields import heading
from veergust.desk.widgets.label import PlainLabel


class HelpPage(QDialog):
    """Keys and what they do; a line to look for one."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Keys")
        self.line = QLineEdit()
        self.line.setPlaceholderText("Type a part of what you want to do")
        self.line.setAccessibleName("Find a key")
        self.line.textChanged.connect(self._narrow)
        self.area = QScrollArea()
        self.area.setWidgetResizable(True)
        self.area.setFrameShape(QScrollArea.Shape.NoFrame)
        box = QVBoxLayout(self)
        box.setContentsMargins(18, 16, 18, 14)
        box.setSpacing(10)
        box.addWidget(self.line)
        box.addWidget(self.area, 1)
        self.shown: list[DeskCommand] = []
        self._narrow("")
        self.resize(620, 640)

    def _narrow(self, text: str) -> None:
        """Show the keys whose words hold what was typed."""
        wanted = text.lower().strip()
        self.shown = [c for c in TABLE if wanted in f"{c.does} {c.words}".lower()]
        page = QWidget()
        grid = QGridLayout(page)
        grid.setContentsMargins(12, 8, 12, 8)
        grid.setHorizontalSpacing(18)
        grid.setVerticalSpacing(4)
        grid.setColumnStretch(1, 1)
        row = 0
        for where, words in PLACES.items():
            rows = [c for c in self.shown if c.where == where]
            if rows:
                title = words.replace("*", "")
                grid.addWidget(heading(title[0].upper() + title[1:]), row, 0, 1, 2)
            for command in rows:
                row += 1
                keys = PlainLabel(command.words)
                keys.setAlignment(Qt.AlignmentFlag.AlignTop)
                does = PlainLabel(command.does)
                does.setWordWrap(True)
                grid.addWidget(keys, row, 0)
                grid.addWidget(does, row, 1)
            row += 1
        grid.setRowStretch(row + 1, 1)
        self.area.setWidget(page)
