"""Hurtboxes: where the figure can be touched, made in one step, changed one by one, and what each region takes."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QWidget

from veergust.core.edit import (
    Edit,
    add_hurtbox,
    height_of,
    make_hurtboxes,
    mirror_hurtbox,
    remove_hurtbox,
    set_hurtbox,
    set_region,
    shape_hurtbox,
)
from veergust.core.model import Hurtbox, Rig
from veergust.core.play import POSTURES
from veergust.desk.clips.cards.card import Card
from veergust.desk.clips.playhead import Playhead
from veergust.desk.document.document import Document
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.fields import ChoiceField, Form, NumberField, TextField, Triple, heading, note
from veergust.desk.widgets.listed import ListedField
from veergust.desk.widgets.rows import buttons


class HurtboxesCard(Card):
    """The figure's hurtboxes; ``shown`` when another is looked at."""

    title = "Body"
    shown = Signal()

    def __init__(self, document: Document, playhead: Playhead, parent: QWidget) -> None:
        super().__init__(document, playhead, parent)
        self.name = ""
        make = word_button("make from the figure", "All anew, from its skin, or its joints where it has none",
                           strong=True)  # fmt: skip
        make.clicked.connect(self.make)
        self.make_button = make
        self.box.addWidget(buttons(make))
        self.words = note()
        self.box.addWidget(self.words)
        self.which = ChoiceField("Hurtbox", self.choose, "The hurtbox whose fields are shown")
        self.called = TextField("Name", lambda name: self._rename(name), "What it is called; what names it goes along")
        self.joint = ChoiceField(
            "On", lambda j: self._set(joint=j), "The joint it rides on, or the mount, as of a prop"
        )
        self.shape = ChoiceField("Shape", self._reshape, "A capsule, or a box in the frame of what it is on")
        self.radius = NumberField("Radius", lambda v: self._set(radius=v), unit="m", low=0.005, high=5, step=0.01,
                                  decimals=3)  # fmt: skip
        self.region = TextField("Region", lambda r: self._set(region=r.strip()), "The part of the body it belongs to")
        self.factor = NumberField("Takes", self._takes, unit="×", low=0, high=100, step=0.1, decimals=2,
                                  tip="How many times a strike's damage this region takes")  # fmt: skip
        self.postures = ListedField("There when", lambda names: self._set(postures=names),
                                    "Only while the body stands so; none chosen: always")  # fmt: skip
        form = Form()
        for label, field in (("Hurtbox", self.which), ("Name", self.called), ("On", self.joint),
                             ("Shape", self.shape), ("Radius", self.radius), ("Region", self.region),
                             ("Takes", self.factor), ("There when", self.postures)):  # fmt: skip
            form.row(label, field)
        self.box.addWidget(form)
        self.offset = Triple("From", lambda v: self._set(offset=v), "m", 0.01)
        self.to = Triple("To", lambda v: self._set(to=v), "m", 0.01)
        self.half = Triple("Half", lambda v: self._set(size=v), "m", 0.01)
        self.where = heading("From and to, in what it is on")
        self.box.addWidget(self.where)
        self.box.addWidget(self.offset.row())
        self.ends, self.sizes = self.to.row(), self.half.row()
        self.box.addWidget(self.ends)
        self.box.addWidget(self.sizes)
        new = word_button("+ hurtbox", "One more, on the same joint or mount", strong=True)
        new.clicked.connect(self.add)
        self.other = word_button("mirror", "The one on the other side as this one is")
        self.other.clicked.connect(lambda: self._do(lambda: mirror_hurtbox(document.base, self._bones, self.name)))
        self.gone = word_button("remove", "Take the hurtbox away")
        self.gone.clicked.connect(lambda: self._do(lambda: remove_hurtbox(document.base, self.name)))
        self.new_button = new
        self.box.addWidget(buttons(new, self.other, self.gone))
        self.box.addStretch(1)

    @property
    def _bones(self) -> Any:
        return self.document.build.assets.skeleton

    def _do(self, act: Callable[[], Edit]) -> None:
        self.attempt(act)
        self.shown.emit()

    def make(self) -> None:
        """Make all hurtboxes anew."""
        assets = self.document.build.assets
        self._do(lambda: make_hurtboxes(self.document.base, assets, height_of(assets)))

    def add(self) -> None:
        """One more hurtbox on the joint of the one that is shown."""
        bones = self._bones
        if not len(bones):
            return
        found = self._found()
        edit, name = add_hurtbox(self.document.base, found.joint if found is not None else bones.names[0])
        self.name = name
        self._do(lambda: edit)

    def choose(self, name: str) -> None:
        """Show a hurtbox's fields."""
        self.name = name
        self.renew()
        self.shown.emit()

    def _set(self, **changes: Any) -> None:
        self._do(lambda: set_hurtbox(self.document.base, self.name, **changes))

    def _reshape(self, shape: str) -> None:
        self._do(lambda: shape_hurtbox(self.document.base, self.name, box=shape == "box"))

    def _rename(self, name: str) -> None:
        old = self.name
        if self.attempt(lambda: set_hurtbox(self.document.base, old, name=name)):
            self.name = name.strip()
            self.renew()
            self.shown.emit()

    def _takes(self, factor: float) -> None:
        found = self._found()
        if found is not None and found.region:
            self._do(lambda: set_region(self.document.base, found.region, factor))

    def on_stage(self) -> tuple[Rig, str]:
        """Whose hurtboxes the stage shows while the page is looked at, and the one that is chosen."""
        return self.document.project.rig, self.name

    def _found(self) -> Hurtbox | None:
        return next((h for h in self.document.project.rig.hurtboxes if h.name == self.name), None)

    def renew(self) -> None:
        rig, bones = self.document.project.rig, self._bones
        names = [h.name for h in rig.hurtboxes]
        if self.name not in names:
            self.name = names[0] if names else ""
        found = self._found()
        self.make_button.setEnabled(len(bones) > 0)
        self.new_button.setEnabled(len(bones) > 0)
        skin = "its skin" if self.document.build.assets.mesh is not None else "its joints"
        self.words.setText(f"{len(names)} hurtboxes. Made anew they come from {skin} and keep names and regions.")
        self.which.show_choices([(n, n) for n in names] or [("none yet", "")], self.name)
        mounts = [m.name for m in rig.mounts if m.name not in bones.index]
        on = [*((n, n) for n in bones.names), *((f"{n} (mount)", n) for n in mounts)]
        self.joint.show_choices(on, found.joint if found is not None else "")
        box = found is not None and found.size is not None
        self.shape.show_choices([("capsule", "capsule"), ("box", "box")], "box" if box else "capsule")
        self.ends.setVisible(not box)
        self.sizes.setVisible(box)
        self.where.setText("Middle and half its size" if box else "From and to, in what it is on")
        fields = (self.which, self.called, self.joint, self.shape, self.region, *self.offset.fields, *self.to.fields,
                  *self.half.fields, self.other, self.gone)  # fmt: skip
        for field in fields:
            field.setEnabled(found is not None)
        self.radius.setEnabled(found is not None and not box)
        region = found.region if found is not None else ""
        self.factor.setEnabled(bool(region))
        self.factor.show_value(next((r.factor for r in rig.regions if r.name == region), 1.0))
        self.called.show_value(self.name)
        self.region.show_value(region)
        self.postures.show_value(found.postures if found is not None else (), list(POSTURES), again=False)
        if found is not None:
            self.radius.show_value(found.radius)
            self.half.show(found.size or (found.radius,) * 3)
            self.offset.show(found.offset)
            self.to.show(found.to)
