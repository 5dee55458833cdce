"""What became of a fighter's presses, the newest last: what each began, or that it was lost and why."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from veergust.core.kinds import Ref
from veergust.core.play import HANDS, PRESSED
from veergust.core.play import gestures as made_by_hand
from veergust.core.study import fates, misses
from veergust.desk.document.document import Document
from veergust.desk.frame.session import Session
from veergust.desk.look.theme import Theme
from veergust.desk.spar.reel import WIDTH, Reel

SEEN = 240
"""Presses of so many ticks are told."""
TALL = 126
Told = tuple[int, str, str, str, Ref | None]


class PressList(QListWidget):
    """The presses of one fighter up to the tick looked at, each with what came of it. Return or a double click on one
    that was lost goes to what says so."""

    def __init__(self, document: Document, session: Session, theme: Theme, index: int) -> None:
        super().__init__()
        self.document, self.session, self.theme, self.index = document, session, theme, index
        self.go: Callable[[Ref], None] = lambda ref: None
        self.told: list[Told] = []
        self.setFixedHeight(TALL)
        self.setWordWrap(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName(f"Presses of fighter {index + 1}")
        self.itemActivated.connect(self._go)
        session.moved.connect(self.renew)
        theme.changed.connect(self._show)

    def renew(self) -> None:
        """Tell what has become of the presses up to the tick looked at."""
        records, at = self.session.records, self.session.at
        if not self.isVisible() or not 0 <= at < len(records) or self.index >= len(records[at].fighters):
            told: list[Told] = []
        else:
            told = self._told()
        if told != self.told:
            self.told = told
            self._show()

    def _told(self) -> list[Told]:
        records, at = self.session.records, self.session.at
        name = records[at].fighters[self.index].name
        build = self.document.build.of(records[at].fighters[self.index].setup)
        last = records[at].tick
        first = max(at - SEEN, 0)
        known = all(name in [f.name for f in r.fighters] for r in (records[first], records[-1]))
        out: list[Told] = []
        for n in records.marked(PRESSED | HANDS, first, at + 1) if known and build.ask(made_by_hand) else ():
            for command, says in misses(build, records, name, n):
                out.append((records[n].tick, command, says, "lost", None))
        pressed = records.marked(PRESSED, first, at + 1) if known else []
        for fate in fates(build, records[: at + 60], name, self.session.seed, pressed):
            if fate.tick <= last:
                words = f"→ {fate.began}" if fate.began else f"lost: {fate.why}" if fate.why else "…"
                out.append((fate.tick, fate.command, words, "lost" if fate.why else "used", fate.where))
        return sorted(out, key=lambda row: row[0])

    def _show(self) -> None:
        self.clear()
        for tick, command, words, what, where in self.told:
            item = QListWidgetItem(f"{tick}  {command}  {words}")
            item.setData(Qt.ItemDataRole.UserRole, where)
            item.setForeground(self.theme.colour("strike" if what == "lost" else "ink_soft"))
            item.setToolTip(f"{words}\nReturn goes there" if where is not None else words)
            self.addItem(item)
        self.scrollToBottom()

    def _go(self, item: QListWidgetItem) -> None:
        where = item.data(Qt.ItemDataRole.UserRole)
        if where is not None:
            self.go(where)


class Side(QWidget):
    """One fighter at its side of the stage: the narrow sheet, and its presses under it."""

    def __init__(self, document: Document, session: Session, theme: Theme, index: int) -> None:
        super().__init__()
        self.reel, self.presses = Reel(session, theme, index), PressList(document, session, theme, index)
        self.setFixedWidth(WIDTH)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addWidget(self.reel, 1)
        box.addWidget(self.presses)
