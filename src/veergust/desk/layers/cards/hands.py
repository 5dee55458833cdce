"""Hands: which are kept on a mount over any mix, and while which layer shows."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any

from PySide6.QtWidgets import QWidget

from veergust.core.edit import add_grip, hands_of, remove_grip, set_grip
from veergust.desk.document.document import Document
from veergust.desk.frame.page import FieldPage
from veergust.desk.layers.selection import LayerSelection
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.fields import ChoiceField, Form, NumberField, note
from veergust.desk.widgets.rows import buttons

WORDS = (
    "A hand that is kept on a mount, such as the other hand on a weapon, stays there whatever is mixed. "
    "A hold of “grip” in an action lets go."
)
ALWAYS = ("always", "")


class HandsPage(FieldPage):
    """A row of fields for each hand that is kept."""

    title = "Hands"

    def __init__(self, document: Document, selection: LayerSelection, parent: QWidget) -> None:
        super().__init__(document, parent)
        self.selection = selection
        self.box.addWidget(note(WORDS))
        self.rows: list[dict[str, Any]] = []
        self.forms: list[QWidget] = []
        add = word_button("+ hand", "One hand more that is kept, while the chosen layer shows", strong=True)
        add.clicked.connect(self.add)
        self.adding = buttons(add)
        self.box.addWidget(self.adding)
        self.box.addStretch(1)

    def add(self) -> None:
        """One hand more."""
        bones = self.document.build.assets.skeleton
        self.attempt(lambda: add_grip(self.document.base, bones, self.selection.name))

    def _set(self, index: int, words: Callable[[Any], str], field: str, value: Any) -> None:
        self.attempt(lambda: set_grip(self.document.base, index, words(value), **{field: value}))

    def _row(self, index: int) -> None:
        form = Form(2)
        n = index + 1
        hand = ChoiceField(f"Hand {n}", lambda v: self._set(index, str, "hand", v), "A palm or a hand")
        mount = ChoiceField(f"Kept on {n}", lambda v: self._set(index, lambda w: f"kept on {w}", "mount", v),
                            "The mount it is kept on")  # fmt: skip
        weight = NumberField(f"How much {n}", lambda v: self._set(index, lambda w: f"by {w:g}", "weight", v),
                             low=0, high=1, step=0.1, decimals=2, tip="How much of the way it is brought")  # fmt: skip
        ticks = NumberField(f"Comes over {n}", lambda v: self._set(index, lambda w: f"over {w} f", "ticks", int(v)),
                            unit="f", low=0, high=120, tip="Over so many frames it comes and goes")  # fmt: skip
        while_ = ChoiceField(f"While {n}", partial(self._while, index), "It is kept while this layer shows")
        gone = word_button("let go", "This hand is free again")
        gone.clicked.connect(lambda: self.attempt(lambda: remove_grip(self.document.base, index)))
        for label, field in (("Hand", hand), ("Kept on", mount), ("While", while_), ("Over", ticks), ("By", weight)):
            form.row(label, field)
        form.row("", gone)
        self.rows.append({"hand": hand, "mount": mount, "weight": weight, "ticks": ticks, "while": while_})
        self.forms.append(form)
        self.box.insertWidget(1 + index, form)

    def _while(self, index: int, layer: str) -> None:
        layers = (layer,) if layer else ()
        says = f"while {layer} shows" if layer else "always"
        self.attempt(lambda: set_grip(self.document.base, index, says, layers=layers))

    def renew(self) -> None:
        project, bones = self.document.project, self.document.build.assets.skeleton
        while len(self.forms) > len(project.grips):
            form = self.forms.pop()
            self.rows.pop()
            form.hide()
            self.box.removeWidget(form)
            form.deleteLater()
        while len(self.forms) < len(project.grips):
            self._row(len(self.forms))
        hands = [(h, h) for h in hands_of(project, bones)]
        mounts = [(m.name, m.name) for m in project.rig.mounts]
        layers = [ALWAYS, *((y.name, y.name) for y in reversed(project.layers))]
        for grip, row in zip(project.grips, self.rows):
            row["hand"].show_choices(_with(hands, grip.hand), grip.hand)
            row["mount"].show_choices(_with(mounts, grip.mount), grip.mount)
            row["while"].show_choices(_with(layers, grip.layers[0] if grip.layers else ""),
                                      grip.layers[0] if grip.layers else "")  # fmt: skip
            row["weight"].show_value(grip.weight)
            row["ticks"].show_value(grip.ticks)


def _with(choices: list[tuple[str, str]], value: str) -> list[tuple[str, str]]:
    """Choices with the present one among them, also where it is not there any more."""
    return choices if value in dict(choices).values() else [*choices, (f"{value} (not there)", value)]
