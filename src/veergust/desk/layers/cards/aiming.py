"""A layer's aim: which poses point where, at what, how far and how fast."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import QVBoxLayout, QWidget

from veergust.core.edit import Edit, add_points, remove_point, set_aim, set_point
from veergust.core.model import AimPoint, Layer
from veergust.desk.document.document import Document
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.choose import choose_clips
from veergust.desk.widgets.fields import ChoiceField, Form, NumberField, heading, note
from veergust.desk.widgets.rows import buttons

TOWARDS = [("the nearest other", "target"), ("where the stick points", "stick")]


class AimForm(QWidget):
    """The aim of the layer that is shown."""

    def __init__(self, document: Document, attempt: Callable[[Callable[[], Edit]], bool]) -> None:
        super().__init__()
        self.document, self.attempt = document, attempt
        self.layer = ""
        self.shown: tuple[AimPoint, ...] = ()
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(5)
        box.addWidget(heading("Aims"))
        self.words = note("It points at nothing. Poses that point ahead, to the sides, up and down make it aim.")
        box.addWidget(self.words)
        self.add = word_button("+ poses from clips…", "Clips whose first pose points ahead, to a side, up or down",
                               strong=True)  # fmt: skip
        self.add.clicked.connect(self.choose)
        box.addWidget(buttons(self.add))
        self.body = QWidget()
        inner = QVBoxLayout(self.body)
        inner.setContentsMargins(0, 0, 0, 0)
        form = Form(2)
        self.towards = ChoiceField("Aims at", lambda v: self._set(towards=v), "At what it points")
        self.weight = self._number("Aim weight", "weight", "", 1, 0.05, "How much of the difference is added")
        self.side = self._number("Aim to a side", "side", "°", 180, 5, "No farther to a side than this")
        self.up = self._number("Aim up", "up", "°", 90, 5, "No farther up or down than this")
        self.rate = self._number("Aim turns", "rate", "°/s", 3600, 15, "No faster than this")
        self.ticks = self._number("Aim fades", "ticks", "f", 600, 1, "It comes and goes over so long", whole=True)
        for label, field in (("At", self.towards), ("Weight", self.weight), ("To a side", self.side),
                             ("Up, down", self.up), ("Turns", self.rate), ("Fades", self.ticks)):  # fmt: skip
            form.row(label, field)
        inner.addWidget(form)
        self.points: Form | None = None
        inner.addWidget(note("Each pose: how far to the left and up it points, and its time in the clip"))
        self.list = QVBoxLayout()
        inner.addLayout(self.list)
        box.addWidget(self.body)

    def _number(
        self, name: str, field: str, unit: str, high: float, step: float, tip: str, *, whole: bool = False
    ) -> NumberField:
        def settled(value: float) -> None:
            self._set(**{field: int(value) if whole else value})

        return NumberField(name, settled, unit=unit, low=0, high=high, step=step, decimals=0 if whole else 2, tip=tip)

    def show_layer(self, layer: Layer) -> None:
        """Show a layer's aim."""
        aim = layer.aim
        self.body.setVisible(aim is not None)
        self.words.setVisible(aim is None)
        if aim is None:
            self.layer, self.shown = layer.name, ()
            return
        self.towards.show_choices(TOWARDS, aim.towards)
        for field, value in ((self.weight, aim.weight), (self.side, aim.side), (self.up, aim.up), (self.rate, aim.rate),
                             (self.ticks, aim.ticks)):  # fmt: skip
            field.show_value(value)
        if (self.layer, self.shown) != (layer.name, aim.points) or self.points is None:
            self.layer, self.shown = layer.name, aim.points
            self._show_points()

    def _show_points(self) -> None:
        if self.points is not None:
            self.points.hide()
            self.list.removeWidget(self.points)
            self.points.deleteLater()
        self.points = form = Form()
        for i, point in enumerate(self.shown):
            side = self._of_point(f"Pose {i + 1} to the left", i, "side", "°", -180, 180, 5)
            up = self._of_point(f"Pose {i + 1} up", i, "up", "°", -90, 90, 5)
            time = self._of_point(f"Pose {i + 1} at", i, "time", "s", 0, 3600, 0.05)
            for field, value in ((side, point.side), (up, point.up), (time, point.time)):
                field.show_value(value)
                field.setFixedWidth(74)
            gone = word_button("×", f"Take {point.clip} out of the aim")
            gone.setAccessibleName(f"Remove pose {i + 1}")
            gone.clicked.connect(self._remover(i))
            form.row(point.clip, side, up, time, gone)
        self.list.addWidget(form)
        form.show()

    def _of_point(
        self, name: str, index: int, field: str, unit: str, low: float, high: float, step: float
    ) -> NumberField:
        def settled(value: float) -> None:
            self.attempt(lambda: set_point(self.document.base, self.layer, index, **{field: value}))

        tip = {"side": "How far to the left it points", "up": "How far up it points", "time": "The time in its clip"}
        decimals = 2 if field == "time" else 0
        return NumberField(name, settled, unit=unit, low=low, high=high, step=step, decimals=decimals, tip=tip[field])

    def _remover(self, index: int) -> Callable[[], None]:
        return lambda: (self.attempt(lambda: remove_point(self.document.base, self.layer, index)), None)[1]

    def choose(self) -> None:
        """More poses, from the clips that the person chooses."""
        chosen = choose_clips(self, [c.name for c in self.document.project.clips])
        if chosen:
            self.attempt(lambda: add_points(self.document.base, self.layer, list(chosen)))

    def _set(self, **changes: object) -> None:
        self.attempt(lambda: set_aim(self.document.base, self.layer, **changes))
