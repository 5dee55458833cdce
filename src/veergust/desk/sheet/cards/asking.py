"""Rows of the reaction table that ask for more than side, strength and situation."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtWidgets import QVBoxLayout, QWidget

from veergust.core.edit import Edit, add_row, remove_row, set_row
from veergust.core.model import Reaction
from veergust.core.study import HitKind, also
from veergust.desk.document.document import Document
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.conditions import ConditionsField
from veergust.desk.widgets.fields import ChoiceField, Form, NumberField, heading, note
from veergust.desk.widgets.rows import buttons

Attempt = Callable[[Callable[[], Edit]], bool]
ANY = "any part"


class AskingRows(QWidget):
    """Of the hit that is looked at, the rows that go before its plain one because they ask for more."""

    def __init__(self, document: Document, attempt: Attempt, hit: Callable[[], HitKind]) -> None:
        super().__init__()
        self.document, self.attempt, self.hit = document, attempt, hit
        self.index = -1
        self.held: tuple[int, HitKind] | None = None
        self.words = note()
        self.which = ChoiceField("Row", self._choose, "Which of the rows that ask for more")
        self.answers = ChoiceField("Then answers", lambda a: self._set(action=a), "The action, or a pool of them")
        self.begins = ChoiceField("Begun at", lambda s: self._set(section=s), "Where it begins")
        self.region = ChoiceField("Touched on", lambda r: self._set(region=r), "The part of the body that is touched")
        self.near = NumberField("From", lambda v: self._set(near=v), unit="m", low=0, high=100, step=0.1, decimals=2,
                                tip="The attacker is at least so far off")  # fmt: skip
        self.far = NumberField("Up to", self._far, unit="m", low=0, high=100, step=0.1, decimals=2,
                               tip="The attacker is at most so far off")  # fmt: skip
        self.far.setSpecialValueText("however far")
        self.conditions = ConditionsField(lambda c: self._set(conditions=c))
        self.body = QWidget()
        inner, form = QVBoxLayout(self.body), Form(2)
        inner.setContentsMargins(0, 0, 0, 0)
        for label, field in (("Row", self.which), ("Touched on", self.region), ("Then answers", self.answers),
                             ("From", self.near), ("Begun at", self.begins), ("Up to", self.far)):  # fmt: skip
            form.row(label, field)
        inner.addWidget(form)
        inner.addWidget(self.conditions)
        self.new = word_button("+ row that asks for more", "For a part of the body, a distance or a condition",
                               strong=True)  # fmt: skip
        self.new.clicked.connect(self.add)
        self.gone = word_button("take the row away", "The table without this row")
        self.gone.clicked.connect(self.remove)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.addWidget(heading("Before it, where more is asked"))
        box.addWidget(self.words)
        box.addWidget(self.body)
        box.addWidget(buttons(self.new, self.gone))

    def renew(self) -> None:
        """Show the rows of the hit that is looked at."""
        project = self.document.project
        rows = also(project.reactions, self.hit())
        there = [i for i, _ in rows]
        if self.index not in there and self.held == (self.index, self.hit()) and self.index < len(project.reactions):
            # One that asks for nothing more just now is still in hand.
            rows = sorted([*rows, (self.index, project.reactions[self.index])], key=lambda row: row[0])
        elif self.index not in there:
            self.index = there[0] if there else -1
        self.body.setVisible(bool(rows))
        self.gone.setVisible(bool(rows))
        self.new.setEnabled(bool(project.actions))
        self.words.setText("" if rows else "Nothing asks for a part of the body, a distance or a condition.")
        self.words.setVisible(not rows)
        if not rows:
            return
        row = project.reactions[self.index]
        self.which.show_choices([(f"{n + 1}: {asks(r)}", str(i)) for n, (i, r) in enumerate(rows)], str(self.index))
        self.answers.show_choices(answering(self.document), row.action)
        target = next((a for a in project.actions if a.name == row.action), None)
        sections = target.sections if target is not None else ()
        self.begins.show_choices([("its start", ""), *((s.name, s.name) for s in sections)], row.section)
        regions = list(dict.fromkeys([r.name for r in project.rig.regions] + [row.region] * (row.region != "any")))
        self.region.show_choices([(ANY, "any"), *((r, r) for r in regions)], row.region)
        self.near.show_value(row.near)
        self.far.show_value(row.far or 0.0)
        self.conditions.show_value(row.conditions, project)

    def add(self) -> None:
        """One more row, of the action that answers now."""
        document, hit = self.document, self.hit()
        action = document.project.actions[0].name
        compiled = document.compiled
        edit, index = add_row(document.base, hit, compiled.action.name if compiled is not None else action)
        self.index = index
        self.attempt(lambda: edit)

    def remove(self) -> None:
        """The table without the row that is shown."""
        self.held = None
        self.attempt(lambda: remove_row(self.document.base, self.index))

    def _choose(self, index: str) -> None:
        self.index = int(index)
        self.renew()

    def _far(self, far: float) -> None:
        self._set(far=far if far > 0.0 else None)

    def _set(self, **changes: Any) -> None:
        self.held = self.index, self.hit()
        self.attempt(lambda: set_row(self.document.base, self.index, **changes))


def asks(row: Reaction) -> str:
    """What a row asks for beyond side, strength and situation, in a few words."""
    said = [row.region] if row.region != "any" else []
    if row.near > 0.0 or row.far is not None:
        said.append(f"{row.near:g} m on" if row.far is None else f"{row.near:g} to {row.far:g} m")
    if row.conditions:
        said.append("if…")
    return ", ".join(said) or "no more"


def answering(document: Document) -> list[tuple[str, str]]:
    """What may answer: actions, and pools of them."""
    project = document.project
    names = {a.name for a in project.actions}
    pools = [p.name for p in project.pools if any(i.name in names for i in p.items)]
    return [*((a.name, a.name) for a in project.actions), *((f"one of {p}", p) for p in pools)]
