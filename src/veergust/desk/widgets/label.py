"""Words on the window."""

from __future__ import annotations

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QLabel, QStyle, QStyleOption


class PlainLabel(QLabel):
    """A label that shows its text as it is: names come from files, and none is to be read as markup."""

    def __init__(self, text: str = "") -> None:
        super().__init__()
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setText(text)


class YieldingLabel(PlainLabel):
    """One that gives way where there is little room, and then ends in an ellipsis; all of it is in its tooltip."""

    def minimumSizeHint(self) -> QSize:
        return QSize(0, super().minimumSizeHint().height())

    def setText(self, text: str) -> None:
        super().setText(text)
        self.setToolTip(text)

    def paintEvent(self, event: QPaintEvent) -> None:
        option = QStyleOption()
        option.initFrom(self)
        p = QPainter(self)
        words = self.fontMetrics().elidedText(self.text(), Qt.TextElideMode.ElideRight, self.width())
        style: QStyle = self.style()
        style.drawItemText(p, self.rect(), int(self.alignment().value), option.palette, self.isEnabled(), words,
                           self.foregroundRole())  # fmt: skip
