"""The hitboxes of a strike: which, what each rides on, its shape and size, and its keys over the span."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, cast

import numpy as np
from PySide6.QtWidgets import QVBoxLayout, QWidget

from veergust.core.edit import (
    Edit,
    SpanRef,
    add_box,
    change_box,
    ease_key,
    mirror_box,
    other_side,
    remove_box,
    remove_key,
    set_key,
)
from veergust.core.kinds import new_box
from veergust.core.model import KeyEase, Strike
from veergust.core.motion import Skeleton
from veergust.core.play import between_keys, shape_at
from veergust.core.study import SHARE, striking_mount
from veergust.desk.document.document import Document
from veergust.desk.keys.table import keys_of
from veergust.desk.sheet.deeds import fit_here
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.fields import ChoiceField, Form, NumberField, TextField, Triple, heading, note
from veergust.desk.widgets.label import PlainLabel
from veergust.desk.widgets.rows import buttons


class HitboxForm(QWidget):
    """One hitbox at a time. One with keys is changed on the frame under the playhead."""

    def __init__(self, document: Document, attempt: Callable[[Callable[[], Edit]], bool]) -> None:
        super().__init__()
        self.document, self.attempt = document, attempt
        self.ref: SpanRef | None = None
        self.at = 0
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(5)
        box.addWidget(heading("Hitboxes"))
        self.which = ChoiceField("Hitbox", self._choose, "The hitbox whose fields are shown")
        self.mount = ChoiceField("Hitbox mount", lambda m: self._change(mount=m), "What it rides on")
        self.shape = ChoiceField("Hitbox shape", lambda s: self._change(shape=s), "Sphere, capsule or box")
        self.radius = NumberField("Hitbox radius", lambda v: self._change(radius=v), unit="m", low=0.005, high=5,
                                  step=0.01, decimals=3)  # fmt: skip
        self.called = TextField("Hitbox name", lambda name: self._change(name=name.strip()), "What it is called")
        self.share = NumberField("Hitbox share", lambda v: self._change(share=v), unit="×", low=0, high=100, step=0.1,
                                 decimals=2, tip="What it touches first takes so much of the damage")  # fmt: skip
        form = Form(2)
        for label, field in (("Hitbox", self.which), ("Mount", self.mount), ("Shape", self.shape),
                             ("Radius", self.radius), ("Name", self.called), ("Damage", self.share)):  # fmt: skip
            form.row(label, field)
        box.addWidget(form)
        self.more = word_button("+ hitbox", "One more, like this one, that opens with the strike", strong=True)
        self.twin = word_button("+ mirrored", "One more on the other side, as this one is")
        self.twin.clicked.connect(lambda: self._do(lambda ref: mirror_box(document.base, self._bones, ref, self.at)))
        self.less = word_button("remove hitbox", "Take this hitbox away")
        self.more.clicked.connect(lambda: self._do(self._add))
        self.less.clicked.connect(lambda: self._do(lambda ref: remove_box(document.base, ref, self.at)))
        box.addWidget(buttons(self.more, self.twin, self.less))
        self.fit = word_button("fit", f"Fit hitboxes to what it sweeps ({keys_of('fit')[0]})", strong=True)
        self.fit.clicked.connect(self.fit_here)
        self.cover = NumberField("Cover", lambda _: None, unit="%", low=5, high=100, step=5,
                                 tip="How much of what strikes the fitted hitboxes cover at least")  # fmt: skip
        self.cover.show_value(100 * SHARE)
        box.addWidget(buttons(self.fit, PlainLabel("to cover"), self.cover))
        self.offset = Triple("From", lambda v: self._change(offset=v), "m", 0.05)
        self.to = Triple("To", lambda v: self._change(to=v), "m", 0.05)
        self.half = Triple("Half size", lambda v: self._change(size=v), "m", 0.05)
        self.lines: dict[str, tuple[PlainLabel, QWidget]] = {}
        for name, words, triple in (("offset", "From, in the mount", self.offset),
                                    ("to", "To, in the mount", self.to),
                                    ("size", "Half its size", self.half)):  # fmt: skip
            self.lines[name] = note(words), triple.row()
            box.addWidget(self.lines[name][0])
            box.addWidget(self.lines[name][1])
        self.key_words = note()
        box.addWidget(self.key_words)
        self.key_here = word_button("+ key here", "Hold its place and size on this frame", strong=True)
        self.key_gone = word_button("remove key", "Take the key on this frame away")
        self.key_here.clicked.connect(lambda: self._do(lambda r: set_key(document.base, r, self.at, self._tick())))
        self.key_gone.clicked.connect(lambda: self._do(lambda r: remove_key(document.base, r, self.at, self._tick())))
        self.ease = ChoiceField("Goes on", self._ease, "How it goes on from this key, or the one before")
        box.addWidget(buttons(self.key_here, self.key_gone, self.ease))

    @property
    def _bones(self) -> Skeleton:
        return self.document.build.assets.skeleton

    def _do(self, make: Callable[[SpanRef], Edit]) -> None:
        ref = self.ref
        if ref is not None:
            self.attempt(lambda: make(ref))

    def _change(self, **values: Any) -> None:
        self._do(lambda ref: change_box(self.document.base, ref, self.at, self._tick(), **values))

    def _ease(self, ease: str) -> None:
        self._do(lambda ref: ease_key(self.document.base, ref, self.at, self._tick(), cast(KeyEase, ease)))

    def _add(self, ref: SpanRef) -> Edit:
        return add_box(self.document.base, ref, self.at, self._striking(ref))

    def _striking(self, ref: SpanRef) -> str:
        """The mount of what strikes in a strike."""
        compiled = self.document.compiled
        if compiled is None:
            return ""
        strike, first = compiled.sections[ref.section].section.strikes[ref.index], compiled.start_of(ref.section)
        return striking_mount(self.document.build, compiled, first + strike.start, first + strike.end)

    def fit_here(self) -> None:
        """Fit hitboxes to what strikes, on the mount of the hitbox that is shown."""
        if self.ref is not None:
            fit_here(self.document, self.cover.value() / 100, self.mount.currentData() or "")

    def _choose(self, which: str) -> None:
        self.choose(int(which))

    def choose(self, at: int) -> None:
        """Show another hitbox's fields."""
        self.at = at
        self.document.selection_changed.emit()

    def _tick(self) -> int:
        """The playhead's tick, kept within the strike."""
        compiled, ref = self.document.compiled, self.ref
        if compiled is None or ref is None:
            return 0
        strike = compiled.sections[ref.section].section.strikes[ref.index]
        tick = self.document.frame - compiled.start_of(ref.section)
        return min(max(tick, strike.start), strike.end - 1)

    def show_strike(self, ref: SpanRef, strike: Strike) -> None:
        """Show a strike's hitboxes, the one that was shown if it is still there."""
        if ref != self.ref:
            self.ref, self.at = ref, 0
        boxes = strike.boxes
        self.at = min(self.at, max(len(boxes) - 1, 0))
        box = boxes[self.at] if boxes else new_box(self.document.project.rig, self._striking(ref))
        tick = self._tick()
        first = self.document.compiled.start_of(ref.section) if self.document.compiled else 0
        names = [(f"{i + 1} {b.name or b.mount or 'nowhere'}", str(i)) for i, b in enumerate(boxes)] or [
            ("none yet", "0")
        ]
        self.which.show_choices(names, str(self.at))
        mounts = [m.name for m in self.document.project.rig.mounts]
        self.mount.show_choices([*((m, m) for m in mounts), ("nowhere", "")], box.mount)
        self.shape.show_choices([(s, s) for s in ("sphere", "capsule", "box")], box.shape)
        shape = shape_at(box, tick)
        a, b, radius = shape.a, shape.b, shape.radius
        self.radius.show_value(radius)
        self.called.show_value(box.name)
        self.share.show_value(box.share)
        self.offset.show((float(a[0]), float(a[1]), float(a[2])))
        self.to.show((float(b[0]), float(b[1]), float(b[2])))
        half = shape.half if shape.half is not None else np.array(box.size)
        self.half.show((float(half[0]), float(half[1]), float(half[2])))
        for name, there in (("to", box.shape == "capsule"), ("size", box.shape == "box")):
            for widget in self.lines[name]:
                widget.setVisible(there)
        keyed = [k.tick for k in box.keys]
        words = ", ".join(str(first + t) for t in keyed)
        said = f"Keys on {words}. What is set now holds on {first + tick}."
        self.key_words.setText(said if keyed else "No keys: the same over the whole span.")
        self.key_gone.setVisible(tick in keyed)
        self.ease.setVisible(bool(keyed))
        if keyed:
            going = between_keys(box, tick)[0].ease
            self.ease.show_choices([("goes on evenly", "even"), ("eased", "eased"), ("holds", "hold")], going)
        self.less.setVisible(bool(boxes))
        self.twin.setVisible(bool(boxes) and other_side(self.document.project.rig, self._bones, box.mount) != "")
