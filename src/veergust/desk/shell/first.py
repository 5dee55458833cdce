"""The first page: how to begin, what was worked on lately, and the way an attack is made here."""

from __future__ import annotations

from functools import partial
from importlib.resources import files

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QPainter, QPaintEvent, QPixmap
from PySide6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from veergust import core
from veergust.desk.keys.pressing import BACK, pressed
from veergust.desk.keys.table import keys_of, on_key
from veergust.desk.look.theme import Theme
from veergust.desk.shell.lately import POSE_HEIGHT, POSE_WIDTH, POSES, Late
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.label import PlainLabel
from veergust.desk.widgets.sides import keep_words

BEGINNINGS = (
    ("import", "import", "Bring motion in…", "from files; the project gets its place when you save"),
    ("open_project", "open_project", "Open a project…", "a .veergust folder, or drop it here"),
    ("demo", "demo_here", "Look at the demo", "Lantern Quay, a copy of your own"),
)
"""Each deed, the command whose keys are told, its words, and what more is said of it."""
WAY = {
    "Clips": "cut, clean and name what was captured",
    "Ground": "who stands, walks, runs: “usual set” makes it",
    "Sheet": "frames down the page: sections, strikes, exits",
    "Layers": "what plays over what, and on which joints",
    "Spar": "try it at once; frame by frame, back and forth",
}
"""Each bench, and what is done on it."""
PICTURE = QSize(130, 102)
LATELY = 6


class FirstPage(QWidget):
    """What the window shows while nothing is open. ``wanted`` names a deed of the window, ``bench_wanted`` a bench;
    ``project_wanted`` is a project of the list, and whether its unsaved work is brought back with it."""

    wanted = Signal(str)
    bench_wanted = Signal(str)
    project_wanted = Signal(object, bool)

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme = theme
        self.cards: list[QPushButton] = []
        self.lately = QVBoxLayout()
        self.lately.setSpacing(12)
        self.lately_title = PlainLabel("Lately")
        self.lately_title.setObjectName("subtitle")
        self.ways: dict[str, QPushButton] = {}
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(_scrolled(self._beginning()), 5)
        line = QFrame()
        line.setObjectName("thread")
        line.setFixedWidth(2)
        row.addWidget(line)
        row.addWidget(_scrolled(self._way()), 3)
        keep_words(self)
        theme.changed.connect(self._dress)
        self._dress()

    def _beginning(self) -> QWidget:
        page = QWidget()
        box = QVBoxLayout(page)
        box.setContentsMargins(64, 48, 32, 32)
        box.setSpacing(12)
        title = PlainLabel("Motion in, an attack out.")
        title.setObjectName("title")
        box.addWidget(title)
        says = PlainLabel(f"Drop {core.files.SPOKEN} files anywhere on this window. The first one brings the figure.")
        says.setObjectName("lead")
        says.setWordWrap(True)
        box.addWidget(says)
        box.addSpacing(18)
        for name, command, words, more in BEGINNINGS:
            card = QPushButton()
            card.setObjectName("card_strong" if name == "import" else "card")
            card.setAccessibleName(words)
            card.setAccessibleDescription(more)
            card.setFixedWidth(440)
            card.setToolTip(f"{words.rstrip('…')} ({keys_of(command)[0]})")
            card.clicked.connect(partial(self.wanted.emit, name))
            inner = QHBoxLayout(card)
            inner.setContentsMargins(18, 4, 18, 6)
            told = QVBoxLayout()
            told.setSpacing(0)
            told.addWidget(_label(words, "card_name"))
            told.addWidget(_label(more, "card_more"))
            inner.addLayout(told, 1)
            inner.addWidget(_label(" ".join(keys_of(command)[0].split("+")), "card_more"))
            box.addWidget(card)
            self.cards.append(card)
        box.addSpacing(26)
        box.addWidget(self.lately_title)
        box.addLayout(self.lately)
        box.addStretch(1)
        return page

    def _way(self) -> QWidget:
        page = QWidget()
        box = QVBoxLayout(page)
        box.setContentsMargins(32, 48, 24, 24)
        box.setSpacing(0)
        title = _label("The way an attack is made here", "subtitle")
        box.addWidget(title)
        box.addSpacing(12)
        for n, (bench, says) in enumerate(WAY.items()):
            if n:
                line = QFrame()
                line.setObjectName("thread")
                line.setFixedSize(2, 14)
                held = QHBoxLayout()
                held.setContentsMargins(PICTURE.width() // 2, 0, 0, 0)
                held.addWidget(line)
                held.addStretch(1)
                box.addLayout(held)
            way = QPushButton()
            way.setObjectName("way")
            way.setAccessibleName(f"Go to {bench}")
            way.setAccessibleDescription(says)
            way.setToolTip(f"The {bench} bench ({keys_of(f'show_{bench.lower()}')[0]})")
            way.setIconSize(PICTURE)
            way.clicked.connect(partial(self.bench_wanted.emit, bench))
            inner = QVBoxLayout(way)
            inner.setContentsMargins(PICTURE.width() + 20, 0, 0, 0)
            inner.setSpacing(2)
            inner.addStretch(1)
            name = QHBoxLayout()
            name.setSpacing(6)
            name.addWidget(_label(bench, "card_title"))
            name.addWidget(_label(" ".join(keys_of(f"show_{bench.lower()}")[0].split("+")), "card_more"), 1)
            inner.addLayout(name)
            told = _label(says, "card_more")
            told.setWordWrap(True)
            inner.addWidget(told)
            inner.addStretch(1)
            box.addWidget(way)
            self.ways[bench] = way
        box.addSpacing(16)
        foot = QHBoxLayout()
        foot.setContentsMargins(-4, 0, 0, 0)
        foot.setSpacing(28)
        for deed, words in (
            ("recipes", "twenty-five recipes, step by step"),
            ("help", f"all keys  {keys_of('help')[0]}"),
        ):
            button = word_button(words, words, strong=True)
            button.clicked.connect(partial(self.wanted.emit, deed))
            foot.addWidget(button)
        foot.addStretch(1)
        box.addLayout(foot)
        box.addStretch(1)
        return page

    def _dress(self) -> None:
        """The pictures of the benches, by day or by night."""
        for bench, way in self.ways.items():
            path = files("veergust.desk") / "pictures" / f"{bench.lower()}_{self.theme.look.name}.png"
            pixmap = QPixmap()
            pixmap.loadFromData(path.read_bytes())
            pixmap.setDevicePixelRatio(2.0)
            way.setIcon(pixmap)

    def show_lately(self, rows: list[Late]) -> None:
        """List projects, at most so many."""
        while (item := self.lately.takeAt(0)) is not None:
            if (gone := item.widget()) is not None:
                gone.hide()
                gone.deleteLater()
        self.lately_title.setVisible(bool(rows))
        for late in rows[:LATELY]:
            card = LateCard(self.theme, late)
            card.clicked.connect(partial(self.project_wanted.emit, late.folder, False))
            if card.back_button is not None:
                card.back_button.clicked.connect(partial(self.project_wanted.emit, late.folder, True))
            self.lately.addWidget(card)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        name = on_key("first", pressed(event))
        if name == "other_card":
            self.focusNextPrevChild(pressed(event) not in BACK)
        elif name == "demo_here":
            self.wanted.emit("demo")
        else:
            super().keyPressEvent(event)


class LateCard(QPushButton):
    """A project of the list: its poses, what it is called, what is told of it, and its work that was never saved."""

    def __init__(self, theme: Theme, late: Late) -> None:
        super().__init__()
        self.theme, self.late = theme, late
        self.back_button: QPushButton | None = None
        self.setObjectName("late" if late.poses is not None else "late_plain")
        self.setAccessibleName(f"Open {late.name}")
        self.setAccessibleDescription(f"{late.says} {late.never_saved}".strip())
        self.setToolTip(str(late.folder) if not late.never_saved else f"{late.folder}\n{late.never_saved}")
        self.setMaximumWidth(672)
        row = QHBoxLayout(self)
        row.setContentsMargins(POSES * POSE_WIDTH + 18 if late.poses is not None else 18, 6, 14, 6)
        told = QVBoxLayout()
        told.setSpacing(2)
        told.addStretch(1)
        name = _label(late.name, "card_title")
        name.setMinimumWidth(40)
        told.addWidget(name)
        says = _label(late.says, "card_more")
        says.setWordWrap(True)
        told.addWidget(says)
        if late.never_saved:
            told.addWidget(_label(late.never_saved, "card_more"))
            tip = f"Open {late.name} with the work that was never saved"
            self.back_button = word_button(
                "bring it back" if late.left is None else "bring them back", tip, strong=True
            )
            told.addWidget(self.back_button, 0, Qt.AlignmentFlag.AlignLeft)
        told.addStretch(1)
        row.addLayout(told, 1)

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        poses = self.late.poses
        if poses is None:
            return
        inked = poses.copy()
        p = QPainter(inked)
        p.setCompositionMode(QPainter.CompositionMode.CompositionMode_SourceIn)
        p.fillRect(inked.rect(), self.theme.colour("body"))
        p.end()
        p.begin(self)
        for n in range(POSES):
            p.fillRect(2 + n * POSE_WIDTH, 2, POSE_WIDTH - 2, self.height() - 4, self.theme.colour("sky"))
        p.drawImage(2, (self.height() - POSE_HEIGHT) // 2, inked)
        p.end()


def _label(words: str, name: str) -> PlainLabel:
    """Words on a card, which the mouse goes through."""
    label = PlainLabel(words)
    label.setObjectName(name)
    label.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
    return label


def _scrolled(page: QWidget) -> QScrollArea:
    area = QScrollArea()
    area.setWidget(page)
    area.setWidgetResizable(True)
    area.setFrameShape(QFrame.Shape.NoFrame)
    area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    return area
