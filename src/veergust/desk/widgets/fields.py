"""Fields of a card: a number with its unit, a choice. They show a value and say when the person sets one."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtGui import QPainter, QPaintEvent, QWheelEvent
from PySide6.QtWidgets import QAbstractSpinBox, QComboBox, QDoubleSpinBox, QGridLayout, QLabel, QWidget

FIELD_WIDTH = 128


class NumberField(QDoubleSpinBox):
    """A number that is typed, turned with the wheel or stepped with the arrow keys; sent once it is settled."""

    def __init__(
        self,
        label: str,
        settled: Callable[[float], None],
        *,
        unit: str = "",
        low: float = -1e6,
        high: float = 1e6,
        step: float = 1.0,
        decimals: int = 0,
        tip: str = "",
    ) -> None:
        super().__init__()
        self.settled = settled
        self.setRange(low, high)
        self.setDecimals(decimals)
        self.setSingleStep(step)
        self.setSuffix(f" {unit}" if unit else "")
        self.setButtonSymbols(QAbstractSpinBox.ButtonSymbols.NoButtons)
        self.setKeyboardTracking(False)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(label)
        within = f"{low:g} to {high:g}{f' {unit}' if unit else ''}" if abs(low) < 1e6 and abs(high) < 1e6 else ""
        self.setToolTip(" · ".join(t for t in (tip or label, within) if t))
        self.setFixedWidth(FIELD_WIDTH)
        self.valueChanged.connect(self._sent)

    def show_value(self, value: float) -> None:
        """Show a value without sending it."""
        if abs(self.value() - value) > 10.0 ** -(self.decimals() + 3) and not (self.hasFocus() and self._typing()):
            self.blockSignals(True)
            self.setValue(value)
            self.blockSignals(False)

    def _typing(self) -> bool:
        return self.lineEdit().isModified()

    def _sent(self, value: float) -> None:
        self.lineEdit().setModified(False)
        self.settled(value)

    def wheelEvent(self, event: QWheelEvent) -> None:
        # A card may be scrolled past a field; only the one being worked on is turned.
        if self.hasFocus():
            super().wheelEvent(event)
        else:
            event.ignore()


class ChoiceField(QComboBox):
    """One of several words; ``chosen`` is called with its value."""

    def __init__(self, label: str, chosen: Callable[[str], None], tip: str = "") -> None:
        super().__init__()
        self.chosen = chosen
        self.setAccessibleName(label)
        self.setToolTip(tip or label)
        self.setFixedWidth(FIELD_WIDTH + 40)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.activated.connect(lambda _: self.chosen(str(self.currentData())))

    def show_choices(self, choices: list[tuple[str, str]], value: str) -> None:
        """Show (words, value) pairs with one of them chosen."""
        if [(self.itemText(i), self.itemData(i)) for i in range(self.count())] != choices:
            self.clear()
            for words, data in choices:
                self.addItem(words, data)
        index = self.findData(value)
        if index != self.currentIndex():
            self.setCurrentIndex(index)

    def wheelEvent(self, event: QWheelEvent) -> None:
        event.ignore()

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        p = QPainter(self)
        p.setPen(self.palette().text().color())
        p.drawText(
            self.rect().adjusted(0, 0, -7, 0), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, "▾"
        )


class Form(QWidget):
    """Rows of a label and a field."""

    def __init__(self) -> None:
        super().__init__()
        self.grid = QGridLayout(self)
        self.grid.setContentsMargins(0, 0, 0, 0)
        self.grid.setHorizontalSpacing(10)
        self.grid.setVerticalSpacing(5)
        self.grid.setColumnStretch(1, 1)

    def row(self, label: str, *fields: QWidget) -> None:
        """Add a row; the label belongs to its first field."""
        n = self.grid.rowCount()
        words = QLabel(label)
        words.setObjectName("field")
        words.setIndent(0)
        words.setBuddy(fields[0])
        self.grid.addWidget(words, n, 0)
        for k, field in enumerate(fields):
            self.grid.addWidget(field, n, 1 + k, Qt.AlignmentFlag.AlignLeft)

    def wide(self, widget: QWidget) -> None:
        """Add a widget over the whole width."""
        self.grid.addWidget(widget, self.grid.rowCount(), 0, 1, 4)


def heading(words: str) -> QLabel:
    """A small heading inside a card."""
    label = QLabel(words)
    label.setObjectName("heading")
    label.setIndent(0)
    return label


def note(words: str = "") -> QLabel:
    """A line of plain words that may take several rows."""
    label = QLabel(words)
    label.setObjectName("note")
    label.setWordWrap(True)
    label.setIndent(0)
    return label
