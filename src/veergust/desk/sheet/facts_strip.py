"""The facts strip along the bottom: the open action's numbers, and each change against the saved version."""

from __future__ import annotations

import time

from PySide6.QtCore import QRectF, Qt, QTimer
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from veergust.core.kinds import written
from veergust.desk.document.document import Document
from veergust.desk.look.theme import Theme, elided, put_words, wide
from veergust.desk.widgets.accessible import ToldRow

HEIGHT = 52
LONG, STILL = 900, 150
"""What is dragged in an action of more frames is measured once it stands still for so long (ms)."""


class FactsStrip(QWidget):
    """Shows the facts, and says them to whoever reads without eyes."""

    def __init__(self, document: Document, theme: Theme) -> None:
        super().__init__()
        self.document = document
        self.theme = theme
        self._texts: dict[str, str] | None = None
        self._labels: list[str] = []
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(STILL)
        self._later.timeout.connect(self.update)
        self.setFixedHeight(HEIGHT)
        self.setAccessibleName("Facts")
        document.changed.connect(self._renew)
        document.saved_changed.connect(self._renew)
        theme.changed.connect(self.update)
        self._renew()

    def _renew(self) -> None:
        self._texts = None
        compiled = self.document.compiled
        if self.document.dragging and compiled is not None and compiled.rows > LONG:
            self._later.start()
        else:
            self._later.stop()
        self.update()

    @property
    def texts(self) -> dict[str, str]:
        """What stands on the strip by label, worked out when it is looked at; while that waits, that it does."""
        if self._later.isActive():
            return dict.fromkeys(self._labels, "…")
        if self._texts is None:
            facts = self.document.derived.facts(self.document.action)
            kept = self.document.derived.kept_facts(self.document.action)
            before = written(kept) if kept else {}
            self._texts = {}
            for label, value in (written(facts) if facts else {}).items():
                old = before.get(label, value)
                self._texts[label] = value if old == value else f"{old} → {value}"
            self._labels = list(self._texts)
            self.setAccessibleDescription(", ".join(f"{k} {v}" for k, v in self._texts.items()))
        return self._texts

    def status(self) -> tuple[str, str]:
        """What stands at the right end: when it was saved, and the step that would be undone."""
        document = self.document
        saved = ""
        if document.saved_at is not None:
            saved = "Saved " + time.strftime("%H:%M", time.localtime(document.saved_at))
        if document.unsaved:
            saved = "Not saved yet" if document.saved_at is None else saved + ", changed since"
        undo = f"Undo: {document.done[-1].words}" if document.done else ""
        return saved, undo

    def told(self) -> list[ToldRow]:
        """The facts, for who hears them."""
        return [ToldRow(label, text) for label, text in self.texts.items()]

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        theme, width = self.theme, self.width()
        p.fillRect(self.rect(), theme.colour("paper"))
        p.setPen(theme.pen("hair_strong", 1.6))
        p.drawLine(0, 0, width, 0)
        x = 20.0
        # Unchanged numbers stand close; a changed one takes the room its old value needs.
        spare = width - 330 - sum(self._wide(t) for t in self.texts.values()) - 20
        gap = min(max(spare / max(len(self.texts), 1), 14.0), 46.0)
        for label, text in self.texts.items():
            x += self._fact(p, label, text, x) + gap
        self._status(p, x, width)

    def _split(self, text: str) -> tuple[str, str]:
        old, arrow, new = text.partition(" → ")
        return (new, f"{old} →") if arrow else (text, "")

    def _wide(self, text: str) -> float:
        return len(self._split(text)[0]) * 11.0 + (len(self._split(text)[1]) * 7.0 + 4 if "→" in text else 0)

    def _fact(self, p: QPainter, label: str, text: str, x: float) -> float:
        theme = self.theme
        new, old = self._split(text)
        small, large, plain = theme.bold(13), theme.bold(20), theme.font(12)
        used = 0.0
        if old:
            p.setPen(theme.colour("accent"))
            put_words(p, QRectF(x, 6, 90, 26), old, small)
            used = round(wide(old, small)) + 4
        p.setPen(theme.colour("ink"))
        put_words(p, QRectF(x + used, 4, 120, 28), new, large)
        p.setPen(theme.colour("ink_soft"))
        put_words(p, QRectF(x, 29, 90, 18), label, plain)
        return max(used + round(wide(new, large)), float(round(wide(label, plain))))

    def _status(self, p: QPainter, x: float, width: int) -> None:
        theme = self.theme
        saved, undo = self.status()
        room = width - x - 16
        for words, y, colour in ((saved, 8, "ink_soft"), (undo, 28, "ink")):
            p.setFont(theme.font(12))
            p.setPen(theme.colour(colour))
            p.drawText(QRectF(x, y, room, 18), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                       elided(words, theme.font(12), room))  # fmt: skip
