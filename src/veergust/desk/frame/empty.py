"""The page over a bench that has nothing yet: what to do first, with the buttons for it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtWidgets import QApplication, QPushButton, QVBoxLayout, QWidget

from veergust import core
from veergust.desk.keys.table import keys_of
from veergust.desk.widgets.label import PlainLabel


@dataclass(frozen=True)
class Nothing:
    """What is said of a bench that has nothing, and the deeds of the window that help, each with its words."""

    title: str
    says: str
    deeds: tuple[tuple[str, str], ...]


BRING = ("import", "Bring motion in…")
DEMO = ("demo", "Look at the demo")
NO_CLIPS = Nothing(
    "No motion yet",
    f"Drop {core.files.SPOKEN} files anywhere on this window. The first one brings the figure.",
    (BRING, DEMO),
)
"""What most benches say before there is a figure."""


class EmptyPage(QWidget):
    """Lies over a bench as long as ``nothing`` says something; ``does`` does a deed of the window by its name."""

    def __init__(self, bench: QWidget, nothing: Callable[[], Nothing | None], does: Callable[[str], object]) -> None:
        super().__init__(bench)
        self.bench, self.nothing, self.does = bench, nothing, does
        self.shown: Nothing | None = None
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.box = QVBoxLayout(self)
        self.buttons: list[QPushButton] = []
        bench.installEventFilter(self)
        self.hide()

    def renew(self) -> None:
        """Show what there is to say, or go."""
        found = self.nothing()
        if found is not None and found != self.shown:
            self._say(found)
        came = found is not None and not self.isVisible()
        self.setVisible(found is not None)
        if found is not None:
            self.setGeometry(self.bench.rect())
            self.raise_()
            under = QApplication.focusWidget()
            if came and under is not None and self.bench.isAncestorOf(under):
                self.buttons[0].setFocus()

    def _say(self, found: Nothing) -> None:
        self.shown = found
        while (item := self.box.takeAt(0)) is not None:
            if (gone := item.widget()) is not None:
                gone.deleteLater()
        self.box.setSpacing(12)
        self.box.addStretch(2)
        for words, name in ((found.title, "title"), (found.says, "lead")):
            label = PlainLabel(words)
            label.setObjectName(name)
            label.setAlignment(Qt.AlignmentFlag.AlignCenter)
            label.setWordWrap(True)
            self.box.addWidget(label)
        self.box.addSpacing(8)
        self.buttons = []
        for n, (deed, words) in enumerate(found.deeds):
            button = QPushButton(f"{words}   {' '.join(keys_of(deed)[0].split('+'))}")
            button.setObjectName("card_first" if n == 0 else "card")
            button.setAccessibleName(words)
            button.setToolTip(f"{words.rstrip('…')} ({keys_of(deed)[0]})")
            button.setFixedWidth(320)
            button.clicked.connect(partial(self.does, deed))
            self.box.addWidget(button, 0, Qt.AlignmentFlag.AlignHCenter)
            self.buttons.append(button)
        self.box.addStretch(3)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if watched is self.bench and event.type() in (QEvent.Type.Resize, QEvent.Type.Show):
            self.renew()
        return False
