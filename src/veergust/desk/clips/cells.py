"""The page on which a sheet of drawings is cut: where its cells are, how long each is held, how large the figure is."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

from PySide6.QtCore import Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from veergust.core.files import Draft, drafted, picked, standing_at
from veergust.core.trouble import Trouble
from veergust.desk.clips.cell_map import CellMap
from veergust.desk.keys.pressing import pressed
from veergust.desk.keys.table import on_key
from veergust.desk.look.theme import Theme
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.fields import ChoiceField, Form, NumberField, note
from veergust.desk.widgets.label import PlainLabel
from veergust.desk.widgets.rows import buttons, switch

CUTS = [("its gutters", "gutters"), ("the size of a cell", "size"), ("columns and rows", "grid")]
LOOKS = [("to the right", "right"), ("to the left", "left")]
EDGES = [("crisp", "crisp"), ("smooth", "smooth")]


class CellsPage(QWidget):
    """A sheet on its way in, and how it is cut; ``taken`` gives the draft as it is said to be, ``left`` gives up."""

    taken = Signal(object)
    left = Signal()

    def __init__(self, theme: Theme, parent: QWidget) -> None:
        super().__init__(parent)
        self.draft: Draft | None = None
        self.order: list[int] = []
        self.at = 0
        self.cut = "gutters"
        self.head = PlainLabel()
        self.head.setObjectName("stage_title")
        self.words = note()
        self.map = CellMap(theme)
        self.map.chosen.connect(self.choose)
        self.map.dropped.connect(self.drop)
        self.map.moved.connect(self.move_on)
        self.map.stood.connect(lambda x, y: self._stand((x, y)))
        self.by = ChoiceField("Cells by", self._cut_by, "How the cells are found")
        self.wide = self._number("Width of a cell", lambda v: self._size(0, v), "px", 1, 16384)
        self.high = self._number("Height of a cell", lambda v: self._size(1, v), "px", 1, 16384)
        self.columns = self._number("Columns", lambda v: self._grid(0, v), "", 1, 5000)
        self.rows_ = self._number("Rows", lambda v: self._grid(1, v), "", 1, 5000)
        self.margin = self._number("Margin", lambda v: self._how(margin=int(v)), "px", 0, 4096)
        self.spacing = self._number("Between cells", lambda v: self._how(spacing=int(v)), "px", 0, 4096)
        self.hold = self._number("Held for", lambda v: self._how(hold=int(v)), "f", 1, 10_000)
        self.metre = NumberField("Pixels a metre", lambda v: self._how(metre=v), unit="px", low=0.01, high=65535.0,
                                 step=1.0, decimals=2, tip="How many pixels of a drawing are a metre")  # fmt: skip
        self.across = self._number(
            "Stands at, across", lambda v: self._stand((v, self._feet()[1])), "px", -4096, 16384, 1
        )
        self.down = self._number("Stands at, down", lambda v: self._stand((self._feet()[0], v)), "px", -4096, 16384, 1)
        self.looks = ChoiceField("It looks", lambda v: self._how(looks=v), "Which way the figure is drawn")
        self.edges = ChoiceField("Edges", lambda v: self._how(edges=v), "How pixels are enlarged")
        self.rows_switch = switch("a clip a row", "Each row of cells is a clip of its own",
                                  lambda on: self._how(rows=on))  # fmt: skip
        self.strikes = switch("propose hitboxes", "Where something new reaches out ahead, it strikes",
                              lambda on: self._how(strikes=on))  # fmt: skip
        self.take = word_button("take the drawings in", "As they are cut now (Ctrl+Return)", strong=True)
        self.take.clicked.connect(self.accept)
        self.cancel = word_button("give up", "Import nothing (Esc)")
        self.cancel.clicked.connect(self.left)
        self._lay_out()

    @staticmethod
    def _number(
        label: str, act: Callable[[float], None], unit: str, low: float, high: float, decimals: int = 0
    ) -> NumberField:
        return NumberField(label, act, unit=unit, low=low, high=high, decimals=decimals)

    def _lay_out(self) -> None:
        left = QVBoxLayout()
        left.setSpacing(6)
        left.addWidget(self.head)
        left.addWidget(self.words)
        left.addWidget(self.map, 1)
        form = Form()
        for label, field in (
            ("Cells by", self.by), ("Width", self.wide), ("Height", self.high), ("Columns", self.columns),
            ("Rows", self.rows_), ("Margin", self.margin), ("Between", self.spacing), ("Held for", self.hold),
            ("Pixels a metre", self.metre), ("Stands across", self.across), ("Stands down", self.down),
            ("It looks", self.looks), ("Edges", self.edges),
        ):  # fmt: skip
            form.row(label, field)
        side = QVBoxLayout()
        side.setContentsMargins(0, 0, 0, 0)
        side.addWidget(form)
        side.addWidget(buttons(self.rows_switch, self.strikes))
        side.addStretch(1)
        side.addWidget(buttons(self.take, self.cancel))
        right = QWidget()
        right.setFixedWidth(330)
        right.setLayout(side)
        box = QHBoxLayout(self)
        box.setContentsMargins(16, 12, 16, 12)
        box.setSpacing(16)
        box.addLayout(left, 1)
        box.addWidget(right)

    # What is asked

    def ask(self, draft: Draft) -> None:
        """Show a sheet as it is proposed to be cut."""
        self.draft, self.cut, self.at = draft, "gutters", 0
        self.order = list(range(len(draft.said.cells)))
        self.head.setText(f"{draft.path.name} is a {'series' if draft.many else 'sheet'} of drawings")
        self._show()
        self.take.setFocus()

    @property
    def sheet_only(self) -> bool:
        """Whether it is one picture, whose cells may be elsewhere."""
        return self.draft is not None and not self.draft.many

    def _how(self, **changes: Any) -> None:
        """Cut it another way; the person is told where that cannot be."""
        if self.draft is None:
            return
        before = self.draft
        try:
            new = drafted(before.path, replace(before.how, **changes))
        except Trouble as trouble:
            self.words.setText(str(trouble))
            return
        alike = [c.at for c in new.said.cells] == [c.at for c in before.said.cells]
        if not alike:
            self.order, self.at = list(range(len(new.said.cells))), 0
        elif before.feet is not None:
            new = new.saying(standing_at(new.said, before.feet), feet=before.feet)
        self.draft = new
        self._show()

    def _cut_by(self, way: str) -> None:
        self.cut = way
        assert self.draft is not None
        said = self.draft.said
        across = len({c.at[0] for c in said.cells})
        size = said.cell if way == "size" else None
        grid = (across, max(len({c.at[1] for c in said.cells}), 1)) if way == "grid" else None
        self._how(size=size, grid=grid)

    def _size(self, side: int, value: float) -> None:
        if self.draft is not None:
            now = list(self.draft.how.size or self.draft.said.cell)
            now[side] = int(value)
            self.cut = "size"
            self._how(size=(now[0], now[1]), grid=None)

    def _grid(self, side: int, value: float) -> None:
        if self.draft is not None:
            said = self.draft.said
            now = list(self.draft.how.grid or (len({c.at[0] for c in said.cells}), len({c.at[1] for c in said.cells})))
            now[side] = int(value)
            self.cut = "grid"
            self._how(grid=(now[0], now[1]), size=None)

    def _feet(self) -> tuple[float, float]:
        assert self.draft is not None
        return self.draft.said.feet_of(self.draft.said.cells[self.at])

    def _stand(self, feet: tuple[float, float]) -> None:
        if self.draft is not None:
            self.draft = self.draft.saying(standing_at(self.draft.said, feet), feet=feet)
            self._show()

    # Cells

    def choose(self, cell: int) -> None:
        """Choose a cell."""
        self.at = cell
        self._show()

    def drop(self, cell: int) -> None:
        """Leave a cell out, or take it in again, in its place; one at least stays."""
        if cell in self.order:
            self.order = [n for n in self.order if n != cell] or self.order
        else:
            place = sum(n < cell for n in self.order)
            self.order.insert(place, cell)
        self._show()

    def move_on(self, step: int) -> None:
        """Move the chosen cell by places in the order."""
        if self.at in self.order:
            place = self.order.index(self.at)
            self.order.insert(min(max(place + step, 0), len(self.order) - 1), self.order.pop(place))
            self._show()

    def _show(self) -> None:
        draft = self.draft
        if draft is None:
            return
        said, how = draft.said, draft.how
        self.map.show_draft(draft, self.order, self.at)
        one = self.sheet_only
        self.by.show_choices(CUTS, self.cut)
        self.wide.show_value(said.cell[0])
        self.high.show_value(said.cell[1])
        self.columns.show_value(len({c.at[0] for c in said.cells}))
        self.rows_.show_value(len({c.at[1] for c in said.cells}))
        self.margin.show_value(how.margin)
        self.spacing.show_value(how.spacing)
        for field in (self.by, self.wide, self.high, self.columns, self.rows_, self.rows_switch):
            field.setEnabled(one)
        for field in (self.margin, self.spacing):
            field.setEnabled(one and self.cut != "gutters")
        self.hold.show_value(said.cells[self.at].hold)
        self.metre.show_value(said.pixels_per_metre)
        x, y = self._feet()
        self.across.show_value(x)
        self.down.show_value(y)
        self.looks.show_choices(LOOKS, said.looks or "right")
        self.edges.show_choices(EDGES, said.edges)
        self.rows_switch.setChecked(how.rows)
        self.strikes.setChecked(how.strikes)
        frames = sum(said.cells[n].hold for n in self.order)
        left_out = len(said.cells) - len(self.order)
        count = f"{len(self.order)} cells of {said.cell[0]} × {said.cell[1]} px, {frames} frames"
        rest = f", {left_out} left out" if left_out else ""
        notes = f" {'; '.join(draft.notes)}." if draft.notes else ""
        self.words.setText(f"{count}{rest}.{notes} The cross is where the body stands.")

    # The end

    def accept(self) -> None:
        """Take the drawings in as they are cut now."""
        if self.draft is not None:
            self.taken.emit(self.draft.saying(picked(self.draft.said, self.order)))

    def acts(self) -> dict[str, Callable[[], object]]:
        """What each command of the page does."""
        return {"use_cells": self.accept, "leave_cells": self.left.emit}

    def keyPressEvent(self, event: QKeyEvent) -> None:
        act = self.acts().get(on_key("cells", pressed(event)))
        if act is None:
            super().keyPressEvent(event)
        else:
            act()
