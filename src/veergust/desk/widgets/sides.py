"""Panels that change sides where the system's language goes from right to left."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QSplitter, QStackedWidget, QWidget

SIDES = "sides"
"""What a widget is called whose parts change sides with it."""


def keep_words(whole: QWidget) -> None:
    """Have the panels of a widget change sides, and nothing in them: the words are English, and numbers and frames go
    from left to right everywhere."""
    containers = [whole]
    for container in containers:
        for part in container.findChildren(QWidget, options=Qt.FindChildOption.FindDirectChildrenOnly):
            if isinstance(part, (QSplitter, QStackedWidget)) or part.objectName() == SIDES:
                containers.append(part)
            else:
                part.setLayoutDirection(Qt.LayoutDirection.LeftToRight)
