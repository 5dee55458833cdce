"""The help pages: every key, by where it holds, and the recipes."""

from __future__ import annotations

import re
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QDialog,
    QFrame,
    QGridLayout,
    QLineEdit,
    QScrollArea,
    QTabWidget,
    QTextBrowser,
    QVBoxLayout,
    QWidget,
)

import veergust
from veergust.desk.keys.table import PLACES, TABLE, DeskCommand
from veergust.desk.widgets.fields import heading
from veergust.desk.widgets.label import PlainLabel


def guide() -> str:
    """The recipes, in Markdown and without their pictures."""
    package = Path(veergust.__file__).resolve().parent
    places = (package / "guide.md", package.parents[1] / "docs" / "guide.md")
    text = next((p.read_text() for p in places if p.is_file()), "The recipes are not in this installation.")
    return re.sub(r"^!\[.*\n", "", text, flags=re.M)


class HelpPage(QDialog):
    """Keys and what they do, with a line to look for one; and the recipes, which may be ``first``."""

    def __init__(self, parent: QWidget, *, recipes: bool = False) -> None:
        super().__init__(parent)
        self.setWindowTitle("Help")
        self.line = QLineEdit()
        self.line.setPlaceholderText("Type a part of what you want to do")
        self.line.setAccessibleName("Find a key")
        self.line.textChanged.connect(self._narrow)
        self.area = QScrollArea()
        self.area.setWidgetResizable(True)
        self.area.setFrameShape(QScrollArea.Shape.NoFrame)
        keys = QWidget()
        box = QVBoxLayout(keys)
        box.setContentsMargins(0, 10, 0, 0)
        box.setSpacing(10)
        box.addWidget(self.line)
        box.addWidget(self.area, 1)
        self.recipes = QTextBrowser()
        self.recipes.setAccessibleName("Recipes")
        self.recipes.setFrameShape(QFrame.Shape.NoFrame)
        self.recipes.setMarkdown(guide())
        self.tabs = QTabWidget()
        self.tabs.setDocumentMode(True)
        self.tabs.addTab(keys, "Keys")
        self.tabs.addTab(self.recipes, "Recipes")
        self.tabs.setCurrentIndex(int(recipes))
        outer = QVBoxLayout(self)
        outer.setContentsMargins(18, 12, 18, 14)
        outer.addWidget(self.tabs)
        self.shown: list[DeskCommand] = []
        self._narrow("")
        self.resize(700, 680)

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
