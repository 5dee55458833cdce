"""A side of a bench that folds away: by hand, and by itself where the window is too narrow for all."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QSizePolicy, QWidget

from veergust.desk.keys.table import keys_of


class FoldingSide:
    """The ``side`` of a bench in a ``row``, beside a ``strip`` which is there while it is folded.

    In a bench narrower than ``full`` (px) it is folded, what is ``beside`` it is left out, and it lies over the rest
    when it is wanted.
    """

    def __init__(self, bench: QWidget, side: QWidget, words: str, beside: Sequence[QWidget], full: int) -> None:
        self.bench, self.side, self.beside, self.full = bench, side, tuple(beside), full
        self.narrow = False
        self.folded = False
        self.strip = QPushButton("▸", bench)
        self.strip.setObjectName("strip")
        self.strip.setToolTip(f"The {words} ({keys_of('fold_side')[0]})")
        self.strip.setAccessibleName(f"Show the {words}")
        self.strip.setFixedWidth(18)
        self.strip.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Expanding)
        self.strip.setCursor(Qt.CursorShape.PointingHandCursor)
        self.strip.clicked.connect(self.turn)
        self.strip.hide()
        self.row = QHBoxLayout()
        self.row.setSpacing(0)
        self.row.addWidget(self.strip)
        self.row.addWidget(self.side)

    @property
    def is_shown(self) -> bool:
        """Whether it is there, beside the rest or over it."""
        return self.side.isVisibleTo(self.bench)

    def fit(self) -> None:
        """Fold or unfold by how wide the bench is now."""
        narrow = self.bench.width() < self.full
        if narrow == self.narrow:
            if narrow and self.is_shown:
                self._lay_over()
            return
        self.narrow = narrow
        if narrow:
            self.row.removeWidget(self.side)
        else:
            self.row.insertWidget(self.row.indexOf(self.strip) + 1, self.side)
        self._show(not narrow and not self.folded)

    def turn(self) -> None:
        """Away, or back."""
        shown = not self.is_shown
        self.folded = not shown if not self.narrow else self.folded
        self._show(shown)

    def put_away(self) -> None:
        """Fold it where it lies over the rest."""
        if self.narrow and self.is_shown:
            self._show(False)

    def _show(self, shown: bool) -> None:
        self.side.setVisible(shown)
        self.strip.setVisible(self.narrow or not shown)
        for widget in self.beside:
            widget.setVisible(not self.narrow)
        if shown and self.narrow:
            self._lay_over()

    def _lay_over(self) -> None:
        self.side.setGeometry(self.strip.width(), 0, self.side.maximumWidth(), self.strip.height())
        self.side.raise_()
