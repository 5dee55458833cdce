"""The library with the line that narrows it, what it is sorted by, and the word that brings files in."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from veergust.core.files import SPOKEN
from veergust.desk.clips.library import Library
from veergust.desk.clips.library_model import SORTS
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.fields import ChoiceField


class LibrarySide(QWidget):
    """The left side of Clips."""

    def __init__(self, library: Library) -> None:
        super().__init__()
        self.find_line = QLineEdit()
        self.find_line.setPlaceholderText("find by name or tag, or “unused”")
        self.find_line.setAccessibleName("Find clips")
        self.find_line.textChanged.connect(library.narrow)
        self.find_line.returnPressed.connect(library.open_first)
        self.sort = ChoiceField("Sort", library.order_by, "What the library is sorted by")
        self.sort.setFixedWidth(86)
        self.sort.show_choices([(s, s) for s in SORTS], "project")
        top = QHBoxLayout()
        top.setContentsMargins(10, 8, 10, 8)
        top.setSpacing(8)
        top.addWidget(self.find_line, 1)
        top.addWidget(self.sort)
        self.import_button = word_button("+ Import…", f"Bring {SPOKEN} files in (Ctrl+I)", strong=True)
        foot = QHBoxLayout()
        foot.setContentsMargins(10, 4, 10, 8)
        foot.addWidget(self.import_button)
        foot.addStretch(1)
        self.setObjectName("side")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedWidth(338)
        left = QVBoxLayout(self)
        left.setContentsMargins(0, 0, 0, 0)
        left.setSpacing(0)
        left.addLayout(top)
        left.addWidget(library, 1)
        left.addLayout(foot)
