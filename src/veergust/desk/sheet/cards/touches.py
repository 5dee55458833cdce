"""Where on the floor the open action touches somebody who stands there, or walks."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QVBoxLayout, QWidget

from veergust.core.motion import Array
from veergust.core.study import NEVER, FloorMap, MapTarget, placed, posture_in, stances
from veergust.core.trouble import Trouble
from veergust.desk.document.document import Document
from veergust.desk.look.theme import Theme
from veergust.desk.sheet.cards.page import Page
from veergust.desk.sheet.floor_ink import draw_legend, draw_sentences, sentences
from veergust.desk.sheet.floor_picture import write_map
from veergust.desk.sheet.floor_view import FloorView
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.fields import ChoiceField, Form, NumberField
from veergust.desk.widgets.label import PlainLabel

TOLD, LINE = 164, 19
STILL = 120
"""While something is dragged, the map follows once it stands still for so long (ms)."""


class _Told(QWidget):
    """The tints of the map, from the first frame to the last, and what it says."""

    def __init__(self, view: FloorView) -> None:
        super().__init__()
        self.view = view
        self.heads: list[str] = []
        self.setFixedWidth(TOLD)

    def paintEvent(self, event: QPaintEvent) -> None:
        p, theme = QPainter(self), self.view.theme
        if self.view.maps:
            draw_legend(p, theme, self.view.maps[0], QRectF(0, 0, TOLD, LINE))
        rows = [
            row for head, m in zip(self.heads, self.view.maps) for row in (*([(head, "")] * bool(head)), *sentences(m))
        ]
        draw_sentences(p, theme, rows, QRectF(0, LINE + 4, TOLD, self.height()), 13, LINE)


class TouchesPage(Page):
    """The floor map of the open action; ``stood`` when the target stands elsewhere on the stage."""

    title = "Touches"
    draws = True
    stood = Signal()

    def __init__(self, document: Document, theme: Theme, parent: QWidget) -> None:
        super().__init__(document, parent)
        self.theme = theme
        self.target, self.beside = MapTarget(), -1
        self.view = FloorView(theme, lambda: document.frame)
        self.view.pointed.connect(self._point)
        self.stance = ChoiceField("Target", self._stance, "How it stands: a ground state, or the middle of an action")
        self.speed = NumberField("Walks up at", self._speed, unit="m/s", low=-20, high=20, step=0.5, decimals=2,
                                 tip="Towards where the action began; below 0 away from it")  # fmt: skip
        self.version = ChoiceField("Beside it", self._beside, "The map of a kept version beside this one")
        self.told = _Told(self.view)
        self.write = word_button("as PNG, as CSV…", "Write the map as a picture, or as a table of places and frames",
                                 strong=True)  # fmt: skip
        self.write.clicked.connect(self.ask_write)
        form = Form(2)
        form.row("Target", self.stance)
        form.row("Walks up", self.speed)
        self.box.addWidget(form)
        row, told = QHBoxLayout(), QVBoxLayout()
        row.setSpacing(10)
        told.setSpacing(4)
        told.addWidget(self.told, 1)
        told.addWidget(PlainLabel("Beside it"))
        told.addWidget(self.version)
        told.addWidget(self.write, 0, Qt.AlignmentFlag.AlignLeft)
        row.addWidget(self.view, 1)
        row.addLayout(told)
        self.box.addLayout(row, 1)
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(STILL)
        self._later.timeout.connect(self.renew)

    def renew(self) -> None:
        document = self.document
        if document.dragging and self.view.maps:
            self._later.start()
            return
        names = [("as it stands", ""), *((name, name) for name in stances(document.build))]
        if self.target.stance not in dict(names).values():
            self.target = MapTarget("", self.target.speed)
        self.stance.show_choices(names, self.target.stance)
        self.speed.show_value(self.target.speed)
        kept = self.action.kept if self.action is not None else ()
        self.beside = self.beside if self.beside < len(kept) else -1
        self.version.show_choices([("nothing", "-1"), *((k.name, str(n)) for n, k in enumerate(kept))],
                                  str(self.beside))  # fmt: skip
        self.version.setEnabled(bool(kept))
        self.view.show_maps(self._maps())
        self.told.heads = ["as it is", kept[self.beside].name] if len(self.view.maps) > 1 else [""]
        self.told.update()
        self.write.setEnabled(bool(self.view.maps))

    def _maps(self) -> list[FloorMap]:
        derived, action = self.document.derived, self.action
        if action is None:
            return []
        first = derived.floor_map(action.name, self.target)
        other = derived.version_map(self.beside, self.target) if self.beside >= 0 else None
        return [found for found in (first, other) if found is not None]

    def _stance(self, name: str) -> None:
        self.target = MapTarget(name, self.target.speed)
        self._changed()

    def _speed(self, value: float) -> None:
        self.target = MapTarget(self.target.stance, value)
        self._changed()

    def _beside(self, index: str) -> None:
        self.beside = int(index)
        self._changed()

    def _changed(self) -> None:
        self.renew()
        self.stood.emit()

    def _point(self, cell: tuple[int, int] | None) -> None:
        """Put the target on a place, and go to the frame on which it is touched there."""
        if cell is not None and self.view.maps:
            tick = int(self.view.maps[0].first[cell])
            if tick != NEVER:
                self.document.move_to(tick)
        self.stood.emit()

    def standing(self) -> tuple[Array, str] | None:
        """Joints ``[J, 4, 4]`` of the target where it was put, about where the action began, and its posture; None
        while it is not."""
        cell, maps = self.view.chosen, self.view.maps
        if cell is None or not maps or not self.isVisible():
            return None
        x, z = maps[0].origin[0] + cell[1] * maps[0].step, maps[0].origin[1] + cell[0] * maps[0].step
        build, target = self.document.build, self.target
        return placed(build, target, (x, z), self.document.frame + 1), posture_in(build, target.stance)

    def ask_write(self) -> None:
        """Ask where the map is to be written, and write it."""
        start = str(Path.home() / f"{self.action.name if self.action else 'map'}.png")
        chosen, _ = QFileDialog.getSaveFileName(self, "Write the map as", start, "Picture (*.png);;Table (*.csv)")
        if not chosen or not self.view.maps:
            return
        try:
            write_map(self.view.maps[0], Path(chosen), self.theme)
        except Trouble as trouble:
            self.document.said.emit(str(trouble), True)
        else:
            self.document.said.emit(f"Written: {chosen}", False)
