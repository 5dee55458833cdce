"""What the checks find: how much on a button, each on a page, leading to where it is."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtWidgets import QPushButton, QWidget

from veergust.desk.document.document import Document
from veergust.desk.keys.table import keys_of
from veergust.desk.widgets.asking import accepted
from veergust.desk.widgets.choose import Chooser
from veergust.desk.widgets.slices import Slices

if TYPE_CHECKING:
    from veergust.core.kinds import Finding, Ref
    from veergust.core.play import CompiledProject

AT_ONCE = 60
"""So many actions are checked before a change is through; of more, the rest between what else there is to do."""
STILL = 150
"""Milliseconds for which a drag stands still before what it made is checked."""


class FindingsButton(QPushButton):
    """Says how much the checks find; while they look it says so, and nothing of what they found before."""

    said = Signal(str)

    def __init__(self, document: Document, go: Callable[[Ref], None]) -> None:
        super().__init__()
        self.document, self.go = document, go
        self.found: list[Finding] | None = None
        self._of: CompiledProject | None = None
        self._share = 0.0
        self._wanted = False
        self._slices = Slices(self, AT_ONCE)
        self._still = QTimer(self)
        self._still.setSingleShot(True)
        self._still.setInterval(STILL)
        self._still.timeout.connect(self.check)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setObjectName("warn")
        self.setAccessibleName("Findings")
        self.setToolTip(f"What the checks found ({keys_of('findings')[0]})")
        self.clicked.connect(self.show_page)

    def check_soon(self) -> None:
        """Check once nothing has changed for a moment."""
        self._still.start()

    def check(self) -> None:
        """Check the project as it is now, unless that is known or being found out."""
        self._still.stop()
        if self._of is self.document.build:
            return
        self._of = self.document.build
        self.found = None
        self._slices.begin(self._checked())
        self._say()

    def _checked(self) -> Iterator[None]:
        for found in self.document.derived.finding_steps():
            if isinstance(found, float):
                self._share = found
            else:
                self.found = found
            yield
        self._say()
        if self._wanted:
            self._wanted = False
            QTimer.singleShot(0, self.show_page)

    def _say(self) -> None:
        if self.found is None:
            self.setText("checking …")
        else:
            count = len(self.found)
            self.setText(f"{count} finding{'s' if count != 1 else ''}" if count else "")
        self.setVisible(self.found is None or bool(self.found))

    def show_page(self) -> None:
        """List what was found; choosing a line leads there. While it is looked for, says how far that is."""
        if self._still.isActive():
            self.check()
        if self.found is None:
            self._wanted = True
            self.said.emit(f"Checking …  {self._share * 100:.0f} %; what is found is shown when that is done.")
        elif self.found:
            page = FindingsPage(self.window(), self.found)
            if accepted(page) and page.chosen_at() >= 0:
                self.go(self.found[page.chosen_at()].at)


class FindingsPage(Chooser):
    """All findings, a line each, the gravest first; a part of a name or ``error`` narrows them."""

    def __init__(self, parent: QWidget, found: list[Finding]) -> None:
        lines = [f"{f.level}: {f.where} {f.says}; {f.do}" for f in found]
        count = len(found)
        super().__init__(
            parent, f"{count} finding{'s' if count != 1 else ''}", lines, "Type a part of a name, or error"
        )
        self.list.setUniformItemSizes(False)
        self.list.setWordWrap(True)
        self.resize(720, min(140 + 44 * count, 520))
