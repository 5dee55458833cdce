"""Fields of a card: a number with its unit, a choice. They show a value and say when the person sets one."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QLocale, Qt
from PySide6.QtGui import QKeyEvent, QPainter, QPaintEvent, QValidator, QWheelEvent
from PySide6.QtWidgets import (
    QAbstractSpinBox,
    QApplication,
    QComboBox,
    QDoubleSpinBox,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QWidget,
)

from veergust.core.typed import may_become_number, typed_number
from veergust.desk.keys.pressing import pressed
from veergust.desk.keys.table import on_key
from veergust.desk.widgets.label import PlainLabel

FIELD_WIDTH = 104
WIDER, NARROW = 20, 12
"""How much wider words are than numbers, in one column and in two."""
LABEL_WIDTH = 66
FIELD_HEIGHT = 24
AXES = ("x", "y", "z")


def gives_up(event: QKeyEvent) -> bool:
    """Whether a key of a field gives up what was typed."""
    return on_key("field", pressed(event)) == "give_up_field"


class NumberField(QDoubleSpinBox):
    """A number that is typed, turned with the wheel or stepped with the arrow keys; sent once it is settled.

    It is typed as ``core.typed`` reads it: with another unit, as a share of the ``whole``, as more than there is.
    """

    rate = 60.0
    """Frames a second of the project that is open."""

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
        self.unit = unit
        self.whole: tuple[float, float] | None = None
        """What a share that is typed is of: from, to."""
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
        self.setFixedSize(FIELD_WIDTH, FIELD_HEIGHT)
        # A comma and a point mean the same, whatever the locale; neither groups thousands.
        self.setLocale(QLocale.c())
        self.valueChanged.connect(self._sent)

    def validate(self, text: str, at: int) -> object:
        bare = self._bare(text)
        if self._read(bare) is not None:
            return QValidator.State.Acceptable, text, at
        fine = may_become_number(bare)
        return (QValidator.State.Intermediate if fine else QValidator.State.Invalid), text, at

    def valueFromText(self, text: str) -> float:
        read = self._read(self._bare(text))
        return min(max(read, self.minimum()), self.maximum()) if read is not None else self.value()

    def fixup(self, text: str) -> str:
        # What is no number gives way to the one that was there.
        return self.prefix() + self.textFromValue(self.value()) + self.suffix()

    def _bare(self, text: str) -> str:
        return text.removeprefix(self.prefix()).removesuffix(self.suffix()).strip()

    def _read(self, text: str) -> float | None:
        signed = self.minimum() < 0.0
        return typed_number(text, unit=self.unit, now=self.value(), rate=self.rate, whole=self.whole, signed=signed)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if gives_up(event) and self._typing():
            self.lineEdit().setText(self.prefix() + self.textFromValue(self.value()) + self.suffix())
            self.lineEdit().setModified(False)
            self.selectAll()
        else:
            super().keyPressEvent(event)

    def show_value(self, value: float) -> None:
        """Show a value without sending it."""
        if abs(self.value() - value) > 10.0 ** -(self.decimals() + 3) and not (self.hasFocus() and self._typing()):
            self.blockSignals(True)
            self.setValue(value)
            self.blockSignals(False)

    def show_most(self, high: float) -> None:
        """Let it go up to ``high``; a value that was above is not sent for that."""
        self.blockSignals(True)
        self.setMaximum(high)
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
        self.setFixedSize(FIELD_WIDTH + WIDER, FIELD_HEIGHT)
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
        p.drawText(self.rect().adjusted(0, 0, -7, 0), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, "▾")


def close_list() -> None:
    """Close the list that has dropped down: what it was made of is otherwise now, or gone."""
    dropped = QApplication.activePopupWidget()
    field = dropped.parentWidget() if dropped is not None else None
    if isinstance(field, QComboBox):
        field.hidePopup()


class Form(QWidget):
    """Labels and fields, in one column or two."""

    def __init__(self, columns: int = 1) -> None:
        super().__init__()
        self.columns = columns
        self.count = 0
        self.grid = QGridLayout(self)
        self.grid.setContentsMargins(0, 0, 0, 0)
        self.grid.setHorizontalSpacing(10 if columns == 1 else 8)
        self.grid.setVerticalSpacing(5)
        self.grid.setColumnStretch(2 * columns, 1)
        # Forms one under another keep their columns in line.
        for column in range(columns):
            self.grid.setColumnMinimumWidth(2 * column, LABEL_WIDTH)
            self.grid.setColumnMinimumWidth(2 * column + 1, FIELD_WIDTH + (WIDER if columns == 1 else NARROW))

    def row(self, label: str, *fields: QWidget) -> None:
        """Add a label with its field, and what stands beside it; the label belongs to the first."""
        words = PlainLabel(label)
        words.setObjectName("field")
        words.setIndent(0)
        words.setBuddy(fields[0])
        row, column = divmod(self.count, self.columns)
        self.grid.addWidget(words, row, 2 * column)
        beside = QHBoxLayout()
        beside.setSpacing(4)
        for field in fields:
            if self.columns > 1 and field.maximumWidth() == FIELD_WIDTH + WIDER:
                # Two columns and a scroll bar fit into the narrowest page.
                field.setFixedWidth(FIELD_WIDTH + NARROW)
            beside.addWidget(field)
        beside.addStretch(1)
        self.grid.addLayout(beside, row, 2 * column + 1)
        self.count += 1

    def wide(self, widget: QWidget) -> None:
        """Add a widget over the whole width."""
        self.count = -(-self.count // self.columns) * self.columns
        self.grid.addWidget(widget, self.count // self.columns, 0, 1, 2 * self.columns + 1)
        self.count += self.columns


def heading(words: str) -> PlainLabel:
    """A small heading inside a card."""
    label = PlainLabel(words)
    label.setObjectName("heading")
    label.setIndent(0)
    return label


def note(words: str = "") -> PlainLabel:
    """A line of plain words that may take several rows."""
    label = PlainLabel(words)
    label.setObjectName("note")
    label.setWordWrap(True)
    label.setIndent(0)
    return label


class TextField(QLineEdit):
    """A line of text, sent when it is settled."""

    def __init__(self, label: str, settled: Callable[[str], None], tip: str = "") -> None:
        super().__init__()
        self.setObjectName("in_form")
        self.setAccessibleName(label)
        self.setToolTip(tip or label)
        self.setFixedSize(FIELD_WIDTH + WIDER, FIELD_HEIGHT)
        self.shown = ""
        self.settled = settled
        self.editingFinished.connect(self._sent)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if gives_up(event) and self.text() != self.shown:
            self.setText(self.shown)
            self.selectAll()
        else:
            super().keyPressEvent(event)

    def show_value(self, text: str) -> None:
        """Show a text without sending it."""
        self.shown = text
        if not (self.hasFocus() and self.isModified()):
            self.setText(text)

    def _sent(self) -> None:
        if self.text() != self.shown:
            self.shown = self.text()
            self.settled(self.text())


class Triple:
    """Three number fields for a vector."""

    def __init__(
        self, label: str, settled: Callable[[tuple[float, float, float]], None], unit: str, step: float
    ) -> None:
        self.settled = settled
        self.fields = [
            NumberField(f"{label} {axis}", lambda _: self._sent(), unit=unit, step=step,
                        decimals=3 if unit == "m" else 1, low=-1000, high=1000)
            for axis in AXES
        ]  # fmt: skip
        for axis, field in zip(AXES, self.fields):
            field.setPrefix(f"{axis} ")
            field.setFixedWidth(92)

    def row(self) -> QWidget:
        """The three beside one another."""
        out = QWidget()
        row = QHBoxLayout(out)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(6)
        for field in self.fields:
            row.addWidget(field)
        row.addStretch(1)
        return out

    def _sent(self) -> None:
        x, y, z = (field.value() for field in self.fields)
        self.settled((x, y, z))

    def show(self, values: tuple[float, float, float]) -> None:
        """Show a vector."""
        for field, value in zip(self.fields, values):
            field.show_value(value)
