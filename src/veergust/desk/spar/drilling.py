"""The drills: made from the take, run one after the other, and shown where they break."""

from __future__ import annotations

from collections.abc import Callable, Generator

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QAbstractItemView, QListWidget, QListWidgetItem, QTableWidget, QTableWidgetItem, QWidget

from veergust.core.edit import Edit, drill_of_take, hold_over, keep_results, remove_drill, set_drill
from veergust.core.model import Drill
from veergust.core.play import (
    WRITTEN,
    Cell,
    CompiledProject,
    DrillResult,
    drill_steps,
    expectation_words,
    pressed_later,
)
from veergust.core.study import TakeChange, came_otherwise
from veergust.desk.document.document import Document
from veergust.desk.frame.page import FieldPage
from veergust.desk.frame.session import Session
from veergust.desk.look.theme import Theme
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.fields import Form, NumberField, TextField, heading, note
from veergust.desk.widgets.rows import buttons

RANGES = (("distance", "Distance", "m", 0.0, 50.0, 0.1, 2), ("press", "Last press", "f", -60.0, 60.0, 1.0, 0))


class DrillsPage(FieldPage):
    """All drills with how they went, and the chosen one."""

    title = "Drills"

    def __init__(self, document: Document, session: Session, theme: Theme, parent: QWidget) -> None:
        super().__init__(document, parent)
        self.session, self.theme = session, theme
        self.setFixedWidth(312)
        self.results: dict[Drill, DrillResult] = {}
        self.played: CompiledProject | None = None
        self.left: list[Drill] = []
        self.work: Generator[tuple[int, int], None, DrillResult] | None = None
        self.box.addWidget(heading("Drills"))
        self.list = QListWidget()
        self.list.setAccessibleName("Drills")
        self.list.setMinimumHeight(190)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.currentRowChanged.connect(lambda _: self._show())
        self.list.itemActivated.connect(lambda _: self.play())
        self.box.addWidget(self.list)
        self.run_button = word_button("run all", "Play every drill, and hold each against what it expects", strong=True)
        self.run_button.clicked.connect(self.run_all)
        self.keep_button = word_button("keep this take", "A drill of what was pressed, which expects what came of it",
                                       strong=True)  # fmt: skip
        self.keep_button.clicked.connect(self.keep)
        self.box.addWidget(buttons(self.run_button, self.keep_button))
        self.as_now_button = word_button("keep how they went", "Later runs tell what came otherwise than it does now")
        self.as_now_button.clicked.connect(self.keep_results)
        self.box.addWidget(buttons(self.as_now_button))
        self.words = note()
        self.box.addWidget(self.words)
        form = Form()
        self.name = TextField("Name of the drill", self._rename, "What it is called")
        self.name.setMinimumWidth(190)
        form.row("Name", self.name)
        self.ends: dict[str, tuple[NumberField, NumberField]] = {}
        for what, label, unit, low, high, step, decimals in RANGES:
            first, last = (
                NumberField(f"{label} {end}", self._over(what), unit=unit, low=low, high=high, step=step,
                            decimals=decimals, tip="It must hold from here to there; one value: no range")
                for end in ("from", "to")
            )  # fmt: skip
            for field in (first, last):
                field.setFixedWidth(84)
            self.ends[what] = first, last
            form.row(label, first, last)
        self.box.addWidget(form)
        self.play_button = word_button("show it", "Its take on the stage, from its first frame", strong=True)
        self.play_button.clicked.connect(lambda: self.play())
        self.gone_button = word_button("remove", "Take the drill away")
        self.gone_button.clicked.connect(self.remove)
        self.box.addWidget(buttons(self.play_button, self.gone_button))
        self.map = QTableWidget()
        self.map.setAccessibleName("Where it holds")
        self.map.setToolTip("Each distance, and each press; Return or a double click shows that one")
        self.map.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.map.horizontalHeader().setDefaultSectionSize(46)
        self.map.verticalHeader().setDefaultSectionSize(24)
        self.map.itemActivated.connect(lambda item: self.play(item.data(Qt.ItemDataRole.UserRole)))
        self.box.addWidget(self.map)
        self.told = note()
        self.told.setWordWrap(True)
        self.box.addWidget(self.told)
        self.box.addStretch(1)
        self.timer = QTimer(self)
        self.timer.setSingleShot(True)
        self.timer.timeout.connect(self._next)

    @property
    def drill(self) -> Drill | None:
        """The chosen one."""
        drills, row = self.document.project.drills, self.list.currentRow()
        return drills[row] if 0 <= row < len(drills) else None

    # Running

    def run_all(self) -> None:
        """Run every drill, one after the other, or give up what is left of them."""
        self.left, self.work = [] if self.left else list(self.document.project.drills), None
        self.results = {d: r for d, r in self.results.items() if d not in self.left}
        self._tell()
        if self.left:
            self.timer.start(0)

    def _next(self) -> None:
        """Play one take more; the window answers between them."""
        if not self.left:
            return
        drill = self.left[0]
        if self.work is None:
            self.work = drill_steps(self.document.build, drill)
        try:
            done, every = next(self.work)
            if every > 1:
                self.words.setText(f"{drill.name}: {done} of {every} …")
        except StopIteration as end:
            self.results[drill], self.work = end.value, None
            self.left.pop(0)
            self._tell()
        if self.left:
            self.timer.start(0)

    def _tell(self) -> None:
        """Say how each went so far."""
        drills = self.document.project.drills
        for row, drill in enumerate(drills):
            item = self.list.item(row)
            result = self.results.get(drill)
            mark = "" if result is None else "passed" if result.passed else "FAILED"
            mark += ", otherwise" if result is not None and _otherwise(drill, result) else ""
            item.setText(f"{mark}  {drill.name}" if mark else drill.name)
            failed = result is not None and not result.passed
            item.setForeground(self.theme.colour("strike" if failed else "ink"))
        went = [r for d in drills if (r := self.results.get(d)) is not None]
        passed = sum(r.passed for r in went)
        self.words.setText(f"{passed} of {len(went)} passed" if went else "Not run since the last change.")
        self.run_button.setText("give up" if self.left else "run all")
        self.as_now_button.setEnabled(bool(went) and not self.left)
        self._show()

    # What is done with the chosen one

    def keep(self) -> None:
        """Make a drill of the take up to the tick looked at."""
        session, made = self.session, ""

        def make() -> Edit:
            nonlocal made
            till = session.at + 1
            played = session.records[:till], session.inputs[:till]
            edit, made = drill_of_take(self.document.base, *played, session.seed, session.stage)
            return edit

        if self.attempt(make):
            self.list.setCurrentRow([d.name for d in self.document.project.drills].index(made))
            self.name.setFocus()
            self.name.selectAll()

    def keep_results(self) -> None:
        """Keep what every drill came to when it was last run."""
        went = {drill.name: result.came for drill, result in self.results.items()}
        if self.attempt(lambda: keep_results(self.document.base, went)):
            self.words.setText(f"{len(went)} kept as they went.")

    def play(self, cell: Cell = WRITTEN) -> None:
        """Play the chosen drill into the take that is looked at, as it is written or in one place of its range."""
        drill, session = self.drill, self.session
        if drill is None:
            return
        steps = pressed_later(drill.steps, cell.offset)
        session.play_steps(steps, drill.ticks, drill.seed, drill.stage, cell.distance)

    def remove(self) -> None:
        """Take the chosen drill away."""
        drill = self.drill
        if drill is not None:
            self.attempt(lambda: remove_drill(self.document.base, drill.name))

    def _rename(self, name: str) -> None:
        drill = self.drill
        if drill is not None:
            self.attempt(lambda: set_drill(self.document.base, drill.name, "named", name=name))

    def _over(self, what: str) -> Callable[[float], None]:
        def settled(_: float) -> None:
            drill = self.drill
            low, high = (field.value() for field in self.ends[what])
            if drill is not None:
                over = (low, high) if high > low else (1.0, 0.0)
                self.attempt(lambda: hold_over(self.document.base, drill.name, what, *over))

        return settled

    # Showing

    def forget(self) -> None:
        self.results, self.left, self.work, self.played = {}, [], None, None

    def renew(self) -> None:
        drills, row = self.document.project.drills, self.list.currentRow()
        if self.played is not self.document.build:
            # What was told of drills is of the project as it was.
            self.forget()
            self.played = self.document.build
        there = [self.list.item(n).data(Qt.ItemDataRole.UserRole) for n in range(self.list.count())]
        if there != [d.name for d in drills]:
            self.list.clear()
            for drill in drills:
                item = QListWidgetItem(drill.name)
                item.setData(Qt.ItemDataRole.UserRole, drill.name)
                self.list.addItem(item)
            self.list.setCurrentRow(min(max(row, 0), len(drills) - 1))
        self._tell()

    def _show_map(self, result: DrillResult | None) -> None:
        """Where it holds, where it was played with more than one place or press."""
        went = result.cells if result is not None else ()
        self.map.setVisible(len(went) > 1)
        far, offsets = (list(dict.fromkeys(cell[n] for cell, _ in went)) for n in (0, 1))
        self.map.setColumnCount(len(far))
        self.map.setRowCount(len(offsets))
        self.map.setHorizontalHeaderLabels(["" if d is None else f"{d:g} m" for d in far])
        self.map.setFixedHeight(min(30 + 24 * len(offsets) + 16, 230))
        self.map.verticalHeader().setVisible(len(offsets) > 1)
        self.map.setVerticalHeaderLabels([f"{o:+d} f" if len(offsets) > 1 else "" for o in offsets])
        for cell, missed in went:
            item = QTableWidgetItem("no" if missed else "yes")
            item.setTextAlignment(Qt.AlignmentFlag.AlignCenter)
            item.setForeground(self.theme.colour("strike" if missed else "ink"))
            item.setToolTip("\n".join(f"not so: {words}" for words in missed) or "all came")
            item.setData(Qt.ItemDataRole.UserRole, cell)
            self.map.setItem(offsets.index(cell.offset), far.index(cell.distance), item)

    def _show(self) -> None:
        drill, fields = self.drill, [field for pair in self.ends.values() for field in pair]
        for widget in (self.name, self.play_button, self.gone_button, *fields):
            widget.setEnabled(drill is not None)
        self.told.setText("")
        self._show_map(self.results.get(drill) if drill is not None else None)
        self.name.show_value(drill.name if drill is not None else "")
        for what, pair in self.ends.items():
            over = next((r for r in drill.over if r.what == what), None) if drill is not None else None
            for field, value in zip(pair, (over.low, over.high) if over is not None else (0.0, 0.0)):
                field.show_value(value)
        if drill is not None:
            result = self.results.get(drill)
            failed = result.failed if result is not None else ()
            expected = [expectation_words(e) for e in drill.expect]
            rest = [words for words in expected if not any(f.startswith(words) for f in failed)]
            otherwise = _otherwise(drill, result) if result is not None else ()
            since = ["", "Otherwise than it was kept:", *(one.says for one in otherwise)] if otherwise else []
            self.told.setText("\n".join([*(f"not so: {words}" for words in failed), *rest, *since]))


def _otherwise(drill: Drill, result: DrillResult) -> tuple[TakeChange, ...]:
    """What came of a drill that is otherwise than what was kept of it."""
    return came_otherwise(drill.came, result.came) if drill.came else ()
