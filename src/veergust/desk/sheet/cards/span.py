"""The selected span, or several of a kind: every field with its unit, set on all of them at once."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from veergust.core.edit import WHOLE, SpanRef, choices, set_edges, set_fields, shared, span_of, turn_pin
from veergust.core.kinds import SPANS, Field, title
from veergust.core.model import Event
from veergust.core.scene import THROWN
from veergust.desk.document.document import Document
from veergust.desk.sheet.cards.flying import FlyingForm
from veergust.desk.sheet.cards.hitbox import HitboxForm
from veergust.desk.sheet.cards.page import Page
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.conditions import ConditionsField
from veergust.desk.widgets.fields import ChoiceField, Form, NumberField, TextField, Triple, note
from veergust.desk.widgets.label import PlainLabel
from veergust.desk.widgets.listed import ListedField, PairsField
from veergust.desk.widgets.outcomes import OutcomesField
from veergust.desk.widgets.rows import buttons, switch


class SpanPage(Page):
    """Built anew for each kind of span; shows new values in place."""

    title = "Span"

    def __init__(self, document: Document, parent: QWidget) -> None:
        super().__init__(document, parent)
        self.kind = ""
        self.several = False
        self.widgets: dict[str, Any] = {}
        self.body: QWidget | None = None
        self.head = PlainLabel()
        self.head.setObjectName("stage_title")
        self.box.addWidget(self.head)
        self.none = note("Nothing is selected. Click a span on the sheet, or press N to put one on the playhead.")
        self.box.addWidget(self.none)
        self.box.addStretch(1)

    @property
    def refs(self) -> list[SpanRef]:
        """The selected spans."""
        return self.document.selected

    def _set(self, **values: Any) -> None:
        self.attempt(lambda: set_fields(self.document.base, self.refs, **values))

    def _setter(self, name: str) -> Callable[[Any], None]:
        return lambda value: self._set(**{name: value})

    def renew(self) -> None:
        refs = self.refs
        self.none.setVisible(not refs)
        if not refs:
            self.head.setText("")
            self._build("", False)
            return
        if len({ref.kind for ref in refs}) > 1:
            self.head.setText(f"{len(refs)} spans of several kinds")
            self._build("", False)
            return
        if refs[0].kind != self.kind or (len(refs) > 1) != self.several:
            self._build(refs[0].kind, len(refs) > 1)
        span = span_of(self.document.project, refs[0])
        self.head.setText(title(span) if len(refs) == 1 else f"{len(refs)} {refs[0].kind}")
        self._show_edges(refs[0], span)
        for field in SPANS[self.kind].fields:
            self._show(field, refs)
        if "boxes" in self.widgets:
            self.widgets["boxes"].show_strike(refs[0], span)
        if "flies" in self.widgets:
            self.widgets["flies"].show_event(refs[0], span)

    def _build(self, kind: str, several: bool) -> None:
        self.kind, self.several, self.widgets = kind, several, {}
        if self.body is not None:
            self.body.hide()
            self.box.removeWidget(self.body)
            self.body.deleteLater()
            self.body = None
        if not kind:
            return
        self.body = QWidget()
        inner = QVBoxLayout(self.body)
        inner.setContentsMargins(0, 0, 0, 0)
        inner.setSpacing(5)
        if not several:
            self.edges = edges = Form()
            self._build_edges(edges, kind)
            inner.addWidget(edges)
            self.for_all = note("Stands for the whole action, after those of each section.")
            inner.addWidget(self.for_all)
        form = Form(2)
        for field in SPANS[kind].fields:
            made = self._widget(field)
            if field.widget == "vector":
                inner.addWidget(form)
                inner.addWidget(note(field.label))
                inner.addWidget(made.row())
                form = Form(2)
            elif field.widget in ("conditions", "pairs", "list", "outcomes"):
                inner.addWidget(form)
                inner.addWidget(note(field.label))
                inner.addWidget(made)
                form = Form(2)
            elif field.widget == "flag":
                form.wide(buttons(made))
            else:
                form.row(field.label, made)
            self.widgets[field.name] = made
            if field.more:
                new = TextField("New name", lambda name: self._set(name=name.strip()) if name.strip() else None,
                                "Type a name that is not in the list yet")  # fmt: skip
                form.row("New name", new)
        inner.addWidget(form)
        if SPANS[kind].opens_boxes and not several:
            self.widgets["boxes"] = HitboxForm(self.document, self.attempt)
            inner.addWidget(self.widgets["boxes"])
        if SPANS[kind].struct is Event and not several:
            self.widgets["flies"] = FlyingForm(self.document, self.attempt)
            inner.addWidget(self.widgets["flies"])
        self.box.insertWidget(2, self.body)
        self.body.show()
        self._in_order()

    def _in_order(self) -> None:
        """Tab goes from field to field as they stand."""
        chain: list[QWidget] = []
        for widget in self.widgets.values():
            if isinstance(widget, Triple):
                chain += widget.fields
            elif isinstance(widget, ConditionsField):
                chain.append(widget.add_button)
            elif isinstance(widget, ListedField | PairsField | OutcomesField):
                chain.append(widget.add)
            elif not isinstance(widget, HitboxForm | FlyingForm):
                chain.append(widget)
        for one, two in zip(chain, chain[1:]):
            QWidget.setTabOrder(one, two)

    def _widget(self, field: Field) -> Any:
        settled = self._setter(field.name)
        match field.widget:
            case "number":
                return self._number(field, settled)
            case "choice":
                return ChoiceField(field.label, settled, field.tip)
            case "flag":
                return switch(field.label, field.tip, settled)
            case "vector":
                return Triple(field.label, settled, field.unit, field.step)
            case "conditions":
                return ConditionsField(settled)
            case "list":
                return ListedField(field.label, settled, field.tip)
            case "outcomes":
                return OutcomesField(field.label, settled, field.tip)
            case "pairs":
                return PairsField(field.label, settled, field.tip)
            case _:
                return TextField(field.label, settled, field.tip)

    def _number(self, field: Field, settled: Callable[[Any], None]) -> NumberField:
        """A number; where it may have none of its own, below its least it has none."""
        least = field.low - field.step if field.nothing else field.low

        def set_to(value: float) -> None:
            own = int(value) if field.whole else value
            settled(None if field.nothing and value < field.low else own)

        made = NumberField(field.label, set_to, unit=field.unit, low=least, high=field.high, step=field.step,
                           decimals=0 if field.whole else 2, tip=field.tip)  # fmt: skip
        made.setSpecialValueText(field.nothing)
        return made

    def _show(self, field: Field, refs: list[SpanRef]) -> None:
        value, _ = shared(self.document.project, refs, field)
        widget = self.widgets[field.name]
        match field.widget:
            case "choice":
                offered = choices(self.document.project, refs[0], field)
                if value not in [v for _, v in offered]:
                    offered = [*offered, (f"{value} (gone)", value)]
                widget.show_choices(offered, value)
            case "flag":
                widget.setChecked(value)
            case "vector":
                widget.show(value)
            case "conditions":
                widget.show_value(value, self.document.project)
            case "list":
                names = [v for _, v in choices(self.document.project, refs[0], field) if v]
                widget.show_value(value, names, again=field.of == "commands")
            case "pairs":
                span = span_of(self.document.project, refs[0])
                widget.show_value(value, THROWN if span.kind == "spawn" else ())
            case _:
                widget.show_value(field.low - field.step if value is None else value)

    # Edges and their pins

    def _build_edges(self, form: Form, kind: str) -> None:
        names = [("start", "Fires at" if SPANS[kind].moment else "Opens at")]
        if not SPANS[kind].moment:
            names.append(("end", "Closes at"))
        for edge, label in names:
            number = NumberField(label, self._edge_setter(edge), unit="f", low=0, tip="Counted along the sheet")
            pin = word_button("", "Pinned to the pose: it follows the pose when the cut is retimed. To the frame: it "
                              "keeps its frame. (P)")  # fmt: skip
            pin.setAccessibleName(f"{label}: pin")
            pin.clicked.connect(self._pinner(edge))
            form.row(label, number, pin)
            self.widgets[edge], self.widgets[f"{edge} pin"] = number, pin

    def _pinner(self, edge: str) -> Callable[[], None]:
        return lambda: self.turn_pin(edge)

    def turn_pin(self, edge: str) -> None:
        """Pin an edge of the first selected span to the frame instead of the pose, or back."""
        if self.refs:
            self.attempt(lambda: turn_pin(self.document.base, self.refs[0], edge))

    def _edge_setter(self, edge: str) -> Callable[[float], None]:
        return lambda frame: self._set_edge(edge, int(frame))

    def _set_edge(self, edge: str, frame: int) -> None:
        compiled = self.document.compiled
        if compiled is None or not self.refs:
            return
        ref = self.refs[0]
        span = span_of(self.document.base, ref)
        tick = frame - compiled.start_of(ref.section)
        if isinstance(span, Event):
            start, end = tick, tick + 1
        else:
            start, end = (tick, max(span.end, tick + 1)) if edge == "start" else (min(span.start, tick - 1), tick)
        self.attempt(lambda: set_edges(self.document.base, compiled, ref, start, end))

    def _show_edges(self, ref: SpanRef, span: Any) -> None:
        compiled = self.document.compiled
        if self.several or compiled is None:
            return
        self.edges.setVisible(ref.section != WHOLE)
        self.for_all.setVisible(ref.section == WHOLE)
        if ref.section == WHOLE:
            return
        first = compiled.start_of(ref.section)
        event = isinstance(span, Event)
        for edge in ("start",) if event else ("start", "end"):
            tick = span.tick if event else getattr(span, edge)
            pin = span.pin if event else getattr(span, f"{edge}_pin")
            self.widgets[edge].whole = (first, first + compiled.sections[ref.section].ticks)
            self.widgets[edge].show_value(first + tick)
            button: QPushButton = self.widgets[f"{edge} pin"]
            button.setText("● to the pose" if pin.to == "pose" else "○ to the frame")

    def focus_first(self) -> None:
        """Put the keys into the first field."""
        first = self.widgets.get("start")
        if first is not None:
            first.setFocus()
            first.selectAll()
