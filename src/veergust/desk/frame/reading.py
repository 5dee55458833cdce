"""The order in which Tab goes from field to field: as one reads, whenever a field came to be."""

from __future__ import annotations

from collections.abc import Iterator

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QLayout, QScrollArea, QSplitter, QStackedWidget, QWidget


def put_in_order(whole: QWidget) -> None:
    """Have Tab go through what is shown of a widget in the order in which it is laid out."""
    wanted = list(as_read(whole))
    if len(wanted) > 1 and wanted != _as_it_goes(set(wanted), wanted[0]):
        for before, after in zip(wanted, wanted[1:]):
            QWidget.setTabOrder(before, after)


def as_read(widget: QWidget | None) -> Iterator[QWidget]:
    """What Tab comes by in a widget, itself first, as layouts, splitters and stacks have it."""
    if widget is None or widget.isHidden():
        return
    if widget.focusPolicy() & Qt.FocusPolicy.TabFocus and widget.focusProxy() is None:
        yield widget
    if isinstance(widget, QSplitter):
        for index in range(widget.count()):
            yield from as_read(widget.widget(index))
    elif isinstance(widget, QScrollArea | QStackedWidget):
        yield from as_read(widget.widget() if isinstance(widget, QScrollArea) else widget.currentWidget())
    elif (layout := widget.layout()) is not None:
        yield from _laid_out(layout)


def _laid_out(layout: QLayout) -> Iterator[QWidget]:
    for item in (layout.itemAt(index) for index in range(layout.count())):
        if item is not None and (inner := item.layout()) is not None:
            yield from _laid_out(inner)
        elif item is not None:
            yield from as_read(item.widget())


def _as_it_goes(some: set[QWidget], first: QWidget) -> list[QWidget]:
    """Some widgets in the order in which Tab goes through them, from the first one on."""
    out, widget = [first], first.nextInFocusChain()
    while widget is not None and widget is not first:
        if widget in some:
            out.append(widget)
        widget = widget.nextInFocusChain()
    return out
