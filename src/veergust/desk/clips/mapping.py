"""The mapping page: which joint of a foreign skeleton answers to which of the figure's."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from msgspec.structs import replace
from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QHeaderView, QTableWidget, QTableWidgetItem, QVBoxLayout, QWidget

from veergust.core.files import Arrival, fingerprint
from veergust.core.model import SourceRig
from veergust.core.motion import MappingProposal, Skeleton, propose, standing
from veergust.desk.keys.pressing import pressed
from veergust.desk.keys.table import on_key
from veergust.desk.look.theme import Theme
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.fields import ChoiceField, Form, NumberField, note
from veergust.desk.widgets.label import PlainLabel
from veergust.desk.widgets.rig_map import RigMap
from veergust.desk.widgets.rows import buttons, switch

WAYS = [
    ("as it is", "0,0,0"),
    ("z up", "-90,0,0"),
    ("z up, backwards", "-90,0,180"),
    ("lying on its face", "90,0,0"),
    ("x up", "0,0,90"),
    ("backwards", "0,180,0"),
    ("looks left", "0,-90,0"),
    ("looks right", "0,90,0"),
]
REASONS = {"name": "by name", "chain": "by place in its chain", "position": "by where it stands", "hand": "by hand"}


class MappingPage(QWidget):
    """Two rigs side by side and the list of what answers to what; ``taken`` gives the mapping, ``left`` gives up."""

    taken = Signal(object)
    left = Signal()

    def __init__(self, theme: Theme, parent: QWidget) -> None:
        super().__init__(parent)
        self.theme = theme
        self.arrival: Arrival | None = None
        self.figure: Skeleton | None = None
        self.rig = SourceRig(fingerprint="")
        self.pairs: dict[str, str] = {}
        self.reasons: dict[str, str] = {}
        self.head = PlainLabel()
        self.head.setObjectName("stage_title")
        self.words = note()
        self.source_map = RigMap(theme, "Comes in")
        self.figure_map = RigMap(theme, "The figure")
        self.source_map.chosen.connect(self.choose_source)
        self.figure_map.chosen.connect(self.choose_figure)
        self.table = QTableWidget(0, 3)
        self.table.setHorizontalHeaderLabels(["the figure's joint", "is moved by", "matched"])
        self.table.setAccessibleName("Joints that answer to one another")
        self.table.setSelectionBehavior(QTableWidget.SelectionBehavior.SelectRows)
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.table.verticalHeader().setVisible(False)
        self.table.horizontalHeader().setDefaultAlignment(Qt.AlignmentFlag.AlignLeft)
        self.table.verticalHeader().setDefaultSectionSize(23)
        self.table.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        self.table.setShowGrid(False)
        self.table.currentCellChanged.connect(lambda row, *_: self._row_chosen(row))
        self.clear_button = word_button("not this one", "The figure's joint is moved by none (Delete)")
        self.clear_button.clicked.connect(self.unpair)
        self.again = word_button("propose again", "Forget what was mended and match by name, chain and position")
        self.again.clicked.connect(self._propose)
        self.stands = ChoiceField("Stands", self._stand, "How the source is turned to stand up")
        self.scale = NumberField("Scale", self._scaled, low=1e-6, high=1e6, step=0.01, decimals=5,
                                 tip="Metres of the figure for one unit of the source")  # fmt: skip
        self.plant = switch("keep feet planted", "A foot that stands in the source stands on the figure",
                            lambda on: self._set(plant=on))  # fmt: skip
        self.take = word_button(
            "take the clips in", "Carry the motion over with this mapping (Ctrl+Return)", strong=True
        )
        self.take.clicked.connect(self.accept)
        self.cancel = word_button("give up", "Import nothing (Esc)")
        self.cancel.clicked.connect(self.left)
        self._lay_out()

    def _lay_out(self) -> None:
        maps = QHBoxLayout()
        maps.setSpacing(2)
        maps.addWidget(self.source_map, 1)
        maps.addWidget(self.figure_map, 1)
        left = QVBoxLayout()
        left.setSpacing(6)
        left.addWidget(self.head)
        left.addWidget(self.words)
        left.addLayout(maps, 1)
        side = QVBoxLayout()
        side.setContentsMargins(0, 0, 0, 0)
        side.addWidget(self.table, 1)
        side.addWidget(buttons(self.clear_button, self.again))
        form = Form()
        form.row("It stands", self.stands)
        form.row("Scale", self.scale)
        side.addWidget(form)
        side.addWidget(buttons(self.plant))
        side.addWidget(buttons(self.take, self.cancel))
        right = QWidget()
        right.setFixedWidth(430)
        right.setLayout(side)
        box = QHBoxLayout(self)
        box.setContentsMargins(16, 12, 16, 12)
        box.setSpacing(16)
        box.addLayout(left, 1)
        box.addWidget(right)

    def ask(self, arrival: Arrival, figure: Skeleton) -> None:
        """Ask how an arrival's skeleton answers to the figure's."""
        assert arrival.rig is not None
        self.arrival, self.figure, self.rig = arrival, figure, arrival.rig
        self.head.setText(f"{arrival.source.name} has a skeleton of its own")
        self._propose()
        self.take.setFocus()

    def _propose(self) -> None:
        if self.arrival is None or self.figure is None:
            return
        found: MappingProposal = propose(self.arrival.content.skeleton, self.figure)
        self.pairs = {p.figure: p.source for p in found.pairs}
        self.reasons = {p.figure: p.reason for p in found.pairs}
        self.rig = replace(self.rig, turn=found.turn, scale=round(found.scale, 6),
                           fingerprint=fingerprint(self.arrival.content.skeleton))  # fmt: skip
        self.figure_map.show_rig(self.figure, self.figure.rest_world[:, :3, 3])
        self._stood()
        self._show()

    def _stood(self) -> None:
        assert self.arrival is not None
        self.source_map.show_rig(self.arrival.content.skeleton, standing(self.arrival.content.skeleton, self.rig.turn))

    # Mending

    def choose_source(self, joint: int) -> None:
        """Choose a joint that comes in: with one of the figure's chosen they answer to one another from now on."""
        self._choose(joint, self.figure_map.selected, self.source_map)

    def choose_figure(self, joint: int) -> None:
        """Choose one of the figure's joints; what moves it is shown. With a free joint chosen opposite, pair them."""
        self._choose(self.source_map.selected, joint, self.figure_map)

    def _choose(self, source: int, figure: int, clicked: RigMap) -> None:
        if self.arrival is None or self.figure is None:
            return
        theirs = self.arrival.content.skeleton
        if clicked is self.figure_map:
            free = source >= 0 and theirs.names[source] not in self.pairs.values()
            if not free:
                answer = self.pairs.get(self.figure.names[figure], "")
                self._show(theirs.index.get(answer, -1), figure)
                return
        elif figure < 0 or (self.figure.names[figure] in self.pairs and theirs.names[source] in self.pairs.values()):
            back = {s: f for f, s in self.pairs.items()}
            answer = back.get(theirs.names[source], "")
            if figure < 0 or self.pairs.get(self.figure.names[figure]) == theirs.names[source]:
                self._show(source, self.figure.index.get(answer, -1))
                return
        self.pair(theirs.names[source], self.figure.names[figure])
        self._show(source, figure)

    def pair(self, source: str, figure: str) -> None:
        """Let ``source`` move ``figure``, and no other."""
        self.pairs = {f: s for f, s in self.pairs.items() if s != source}
        self.pairs[figure] = source
        self.reasons[figure] = "hand"

    def unpair(self) -> None:
        """Let nothing move the chosen joint of the figure."""
        if self.figure is not None and self.figure_map.selected >= 0:
            self.pairs.pop(self.figure.names[self.figure_map.selected], None)
            self._show(-1, self.figure_map.selected)

    def _row_chosen(self, row: int) -> None:
        if self.figure is not None and 0 <= row < len(self.figure) and row != self.figure_map.selected:
            self.source_map.selected = -1
            self.choose_figure(row)

    def _stand(self, way: str) -> None:
        x, y, z = (float(v) for v in way.split(","))
        self._set(turn=(x, y, z))
        self._stood()
        self._show()

    def _scaled(self, scale: float) -> None:
        self._set(scale=scale)

    def _set(self, **changes: Any) -> None:
        self.rig = replace(self.rig, **changes)

    def _show(self, source: int = -1, figure: int = -1) -> None:
        if self.arrival is None or self.figure is None:
            return
        theirs, ours = self.arrival.content.skeleton, self.figure
        back = set(self.pairs.values())
        self.source_map.show_state({theirs.index[n] for n in back}, source)
        self.figure_map.show_state({ours.index[n] for n in self.pairs}, figure)
        self.table.blockSignals(True)
        self.table.setRowCount(len(ours))
        for row, name in enumerate(ours.names):
            answer = self.pairs.get(name, "")
            why = REASONS.get(self.reasons.get(name, ""), "") if answer else ""
            for column, text in enumerate((name, answer or "—", why)):
                self.table.setItem(row, column, QTableWidgetItem(text))
        if figure >= 0:
            self.table.selectRow(figure)
            self.table.scrollTo(self.table.model().index(figure, 0))
        else:
            self.table.clearSelection()
        self.table.blockSignals(False)
        ways = list(WAYS)
        now = ",".join(f"{v:g}" for v in self.rig.turn)
        if now not in {w for _, w in ways}:
            ways.append((f"turned {now.replace(',', ', ')}°", now))
        self.stands.show_choices(ways, now)
        self.scale.show_value(self.rig.scale)
        self.plant.setChecked(self.rig.plant)
        lost = len(theirs) - len(back)
        moved = f"{len(self.pairs)} of the figure's {len(ours)} joints are moved by it (filled)"
        self.words.setText(
            f"{moved}; {lost} of its {len(theirs)} joints move none. Click a joint of the figure, then the one that "
            "should move it. The mapping is kept for this skeleton."
        )
        self.take.setEnabled(bool(self.pairs))

    def accept(self) -> None:
        """Use the mapping."""
        if not self.pairs or self.figure is None:
            return
        order = sorted(self.pairs, key=lambda n: self.figure.index[n] if self.figure else 0)
        self.taken.emit(replace(self.rig, joints=tuple((self.pairs[f], f) for f in order)))

    def acts(self) -> dict[str, Callable[[], object]]:
        """What each command of the page does."""
        return {"leave_mapping": self.left.emit, "unpair": self.unpair, "use_mapping": self.accept}

    def keyPressEvent(self, event: QKeyEvent) -> None:
        act = self.acts().get(on_key("mapping", pressed(event)))
        if act is None:
            super().keyPressEvent(event)
        else:
            act()
