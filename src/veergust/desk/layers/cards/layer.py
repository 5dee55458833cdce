"""Layer: how it mixes and what it adds to, who wins on it, and the fades of its actions."""

from __future__ import annotations

from typing import Any

from PySide6.QtWidgets import QWidget

from veergust.core.edit import remove_layer, rename_layer, set_layer, users_of
from veergust.desk.document.document import Document
from veergust.desk.frame.page import FieldPage
from veergust.desk.layers.cards.aiming import AimForm
from veergust.desk.layers.selection import LayerSelection
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.fields import ChoiceField, Form, NumberField, TextField, heading, note
from veergust.desk.widgets.rows import buttons

MODES = [("takes the place", "override"), ("adds to it", "additive")]
SPACES = [("joint by joint", "joint"), ("in body space", "body")]
ADDS = [("a clip's pose", "frame"), ("a clip alongside", "alongside"), ("the pose at its start", "start")]
MOVES = [("moves the root", "yes"), ("leaves the root", "no")]
RULES = [("may", "may"), ("fades out", "fades"), ("finishes", "finishes"), ("keeps out", "keeps out")]
PRESSED = [("is remembered", "remembered"), ("is lost", "nothing")]
TAKEN = [("newer waits", "waits"), ("newer is refused", "refused"), ("newer takes over", "takes over")]
UNDER = [("it waits", "waits"), ("both play", "both play"), ("this one ends", "ends this")]
COVERED = [("goes on unseen", "goes on"), ("waits", "waits"), ("ends", "ends")]


class LayerPage(FieldPage):
    """The layer that is chosen."""

    title = "Layer"

    def __init__(self, document: Document, selection: LayerSelection, parent: QWidget) -> None:
        super().__init__(document, parent)
        self.selection = selection
        self.name = TextField("Name", self._rename, "What it is called; its actions follow (F2)")
        self.mode = self._choice("Mode", "mode", "Whether it takes the place of what is under it, or adds to it")
        self.space = self._choice("Mixes", "space", "How rotations are mixed; body space keeps the aim")
        self.root = ChoiceField("Root", self._root,
                                "Whether it moves the body, where its mask has the root")  # fmt: skip
        self.weight = NumberField("Weight", lambda v: self._set(f"weight {v:g}", weight=v), low=0, high=1, step=0.05,
                                  decimals=2, tip="How much it counts")  # fmt: skip
        self.by = ChoiceField("Times", lambda v: self._set(f"weight by {v or 'nothing'}", by=v),
                              "A parameter of locomotion by which its weight goes, between 0 and 1")  # fmt: skip
        self.adds = self._choice("Adds to", "adds", "The pose whose difference to the action's is added")
        self.reference = ChoiceField("Clip", lambda v: self._set(f"from {v or 'no clip'}", reference=v),
                                     "The clip that it is the difference from")  # fmt: skip
        self.at = NumberField("At", lambda v: self._set(f"from {v:g} s", at=v), unit="s", low=0, high=3600, step=0.05,
                              decimals=2, tip="The time in the clip")  # fmt: skip
        form = Form(2)
        for label, field in (("Name", self.name), ("Mode", self.mode), ("Weight", self.weight), ("Times", self.by),
                             ("Mixes", self.space), ("Root", self.root), ("Adds to", self.adds),
                             ("Clip", self.reference), ("At", self.at)):  # fmt: skip
            form.row(label, field)
        self.box.addWidget(form)
        self.box.addWidget(heading("Who wins"))
        self.elsewhere = self._choice("Elsewhere", "elsewhere", "What it does in states of which nothing is said")
        self.pressed = self._choice("A press", "pressed", "What becomes of a press while it starts nothing")
        self.taken = self._choice("Two on it", "taken", "What one does that is pressed while another plays on it")
        self.under = self._choice("One below", "under", "What one does that is pressed on a lower layer meanwhile")
        self.covered = self._choice("Covered", "covered", "What its actions do while one above has all their joints")
        self.acts = NumberField("Acts from", lambda v: self._set(f"acts from {v:g}", acts=v), low=0, high=1, step=0.05,
                                decimals=2, tip="Faded out below this, strikes and events do nothing")  # fmt: skip
        self.blend_in = NumberField("Blend in", lambda v: self._set(f"blend in {v:g} f", blend_in=int(v)), unit="f",
                                    low=0, high=120, tip="Of actions that are put on it")  # fmt: skip
        self.blend_out = NumberField("Blend out", lambda v: self._set(f"blend out {v:g} f", blend_out=int(v)), unit="f",
                                     low=0, high=120, tip="Of actions that are put on it")  # fmt: skip
        form = Form(2)
        for label, field in (("Elsewhere", self.elsewhere), ("A press", self.pressed), ("Two on it", self.taken),
                             ("One below", self.under), ("Covered", self.covered), ("Acts from", self.acts),
                             ("Blend in", self.blend_in), ("Blend out", self.blend_out)):  # fmt: skip
            form.row(label, field)
        self.box.addWidget(form)
        self.aim = AimForm(document, self.attempt)
        self.box.addWidget(self.aim)
        self.users = note()
        self.box.addWidget(self.users)
        self.drawn = note("This figure is drawn: masks and aims need joints. What a layer has of it counts for all.")
        self.box.addWidget(self.drawn)
        self.gone = word_button("remove", "Remove the layer (Delete)")
        self.gone.clicked.connect(lambda: self.remove())
        self.onto = ChoiceField("Its actions go to", lambda _: None, "The layer its actions go to when it is removed")
        self.box.addWidget(buttons(self.gone, self.onto))
        self.box.addStretch(1)
        selection.changed.connect(self.renew)

    def _choice(self, label: str, field: str, tip: str) -> ChoiceField:
        return ChoiceField(label, lambda v: self._set(f"{label.lower()} {v}", **{field: v}), tip)

    def _set(self, words: str, **fields: Any) -> None:
        name = self.selection.name
        self.attempt(lambda: set_layer(self.document.base, name, words, **fields))

    def _root(self, moves: str) -> None:
        self._set("moves the root" if moves == "yes" else "leaves the root", root=moves == "yes")

    def _rename(self, name: str) -> None:
        old = self.selection.name
        if self.attempt(lambda: rename_layer(self.document.base, old, name)):
            self.selection.choose(name.strip())

    def remove(self) -> None:
        """Remove the layer; its actions go to the one that is chosen beside the word."""
        name, onto = self.selection.name, str(self.onto.currentData() or "")
        self.attempt(lambda: remove_layer(self.document.base, name, onto))

    def renew(self) -> None:
        layer, project = self.selection.layer, self.document.project
        self.page.setEnabled(layer is not None)
        drawn = self.document.build.assets.skeleton.picture >= 0
        self.drawn.setVisible(drawn)
        self.aim.setVisible(not drawn)
        if layer is None:
            self.name.show_value("")
            return
        self.name.show_value(layer.name)
        for field, choices, value in (
            (self.mode, MODES, layer.mode), (self.space, SPACES, layer.space), (self.adds, ADDS, layer.adds),
            (self.elsewhere, RULES, layer.elsewhere),
            (self.pressed, PRESSED, layer.pressed), (self.taken, TAKEN, layer.taken),
            (self.under, UNDER, layer.under), (self.covered, COVERED, layer.covered),
        ):  # fmt: skip
            field.show_choices(choices, value)
        self.weight.show_value(layer.weight)
        names = [(p.name, p.name) for p in project.locomotion.parameters if p.kind != "momentary"]
        if layer.by and layer.by not in dict(names):
            names.append((f"{layer.by} (not there)", layer.by))
        self.by.show_choices([("nothing", ""), *names], layer.by)
        clips = [("none", ""), *((c.name, c.name) for c in project.clips)]
        self.reference.show_choices(clips, layer.reference)
        self.at.show_value(layer.at)
        adds = layer.mode == "additive"
        self.adds.setEnabled(adds)
        self.reference.setEnabled(adds and layer.adds != "start")
        self.at.setEnabled(adds and layer.adds == "frame")
        there = self.document.build.layers.get(layer.name)
        reaches = there is not None and len(there.mask) > 0 and float(there.mask[self.document.build.root_joint]) > 0.0
        self.root.setEnabled(not adds and reaches)
        moves = MOVES if self.root.isEnabled() else [("leaves the root", "yes"), ("leaves the root", "no")]
        self.root.show_choices(moves, "yes" if layer.root else "no")
        self.aim.show_layer(layer)
        self.acts.show_value(layer.acts)
        self.blend_in.show_value(layer.blend_in)
        self.blend_out.show_value(layer.blend_out)
        users = users_of(project, layer.name)
        self.users.setText(f"On it: {', '.join(users)}" if users else "No action is on it yet.")
        others = [y.name for y in project.layers if y.name != layer.name]
        self.onto.setVisible(bool(users))
        if users:
            kept = str(self.onto.currentData() or "")
            chosen = kept if kept in others else (others[0] if others else "")
            self.onto.show_choices([(f"its actions to {n}", n) for n in others] or [("no other layer", "")], chosen)
