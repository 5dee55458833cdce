"""Python's search for cycles of objects that nobody needs any more, on the windows' thread and at moments of our own.

Left to itself it runs wherever the next object is made. On a thread beside it would take widgets down that only the
windows' thread may touch, and the program with them; and a search of all there is holds up what plays for a tenth of a
second. Here the young are searched often, all that came since the last whole search now and then, and everything only
while nothing plays, and nobody edits.
"""

from __future__ import annotations

import gc
import math
import time

from PySide6.QtCore import QObject, Qt, QTimer
from PySide6.QtWidgets import QApplication

from veergust.desk.running.frame_timer import FrameTimer

LOOKS = 100
"""So often (ms) it is looked whether there is anything to search."""
YOUNG, MIDDLE, OLD = 2000, 10, 10
"""So many new objects are searched; so many searches of the young, of the middle ones, bring one of what is older."""
WHOLE = 300.0
"""So long (s) after a search of everything the next is due."""
SOON = 3.0
"""So long (s) after much was let go everything is searched."""
CALM = 0.2
"""So long (s) nothing was edited, unless it has been due for ``WHOLE``: who edits is not held up, nor is a game that
edits are sent to."""


class Tidying(QObject):
    """Searches as long as the program runs; Python's own is turned off."""

    def __init__(self, owner: QObject) -> None:
        super().__init__(owner)
        gc.disable()
        self.due = time.monotonic() + SOON
        self.edited = -math.inf
        """When something was edited last."""
        self._timer = QTimer(self)
        self._timer.setInterval(LOOKS)
        self._timer.timeout.connect(self.look)
        self._timer.start()

    def soon(self) -> None:
        """Much was let go: search everything before long."""
        self.due = min(self.due, time.monotonic() + SOON)

    def note_edit(self) -> None:
        """Something was edited just now."""
        self.edited = time.monotonic()

    def look(self) -> None:
        """Search what is due."""
        now = time.monotonic()
        calm = now >= self.edited + CALM or now >= self.due + WHOLE
        if now >= self.due and calm and not in_the_middle():
            self.whole()
            return
        young, middle, old = gc.get_count()
        if old >= OLD:
            # What was searched and is still there is left alone until everything is searched.
            gc.collect()
            gc.freeze()
        elif middle >= MIDDLE:
            gc.collect(1)
        elif young >= YOUNG:
            gc.collect(0)

    def whole(self) -> None:
        """Search everything."""
        self.due = time.monotonic() + WHOLE
        gc.unfreeze()
        gc.collect()
        gc.freeze()


def in_the_middle() -> bool:
    """Whether somebody would see the program stop for a moment: something plays, or is dragged."""
    return bool(FrameTimer.beating) or QApplication.mouseButtons() != Qt.MouseButton.NoButton
