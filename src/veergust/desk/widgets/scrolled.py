"""A list or table that stays where it was scrolled to while it gets other rows."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from PySide6.QtWidgets import QAbstractItemView


@contextmanager
def scrolled_as_it_was(view: QAbstractItemView) -> Iterator[None]:
    """Within it the rows of a view may be taken away and given anew; if they were, it shows the same place of them
    after it."""
    bars, reset = (view.horizontalScrollBar(), view.verticalScrollBar()), list[bool]()
    there = [bar.value() for bar in bars]

    def note() -> None:
        reset.append(True)

    view.model().modelReset.connect(note)
    yield
    view.model().modelReset.disconnect(note)
    if reset:
        view.doItemsLayout()
        for bar, value in zip(bars, there):
            bar.setValue(value)
