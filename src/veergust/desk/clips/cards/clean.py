"""Clean: what is laid over a capture, limb by limb, feet, floor and hands; the source stays as it is."""

from __future__ import annotations

from typing import Any

import numpy as np
from msgspec.structs import replace
from PySide6.QtCore import Signal
from PySide6.QtWidgets import QWidget

from veergust.core.model import Clean
from veergust.core.motion import parts_of
from veergust.core.study import floor_off
from veergust.desk.clips.cards.card import Card
from veergust.desk.clips.playhead import Playhead
from veergust.desk.document.document import Document
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.fields import Form, NumberField, heading, note
from veergust.desk.widgets.rows import buttons, switch

USUAL = {"trunk": 8.0, "arms": 10.0, "legs": 8.0}
"""What is taken out to begin with (Hz): strikes are slower, trembling and noise are not."""


class CleanCard(Card):
    """How the open clip is cleaned; ``before_changed`` when it is shown as it was, too, or no longer."""

    title = "Clean"
    needs_joints = "Cleaning smooths joints and locks feet. This figure is drawn, and has none: draw it clean."
    before_changed = Signal()

    def __init__(self, document: Document, playhead: Playhead, parent: QWidget) -> None:
        super().__init__(document, playhead, parent)
        self.words = note("Laid over the source, which stays as it is.")
        self.box.addWidget(self.words)
        self.box.addWidget(heading("Smooth away what is faster than"))
        form = Form()
        self.limbs: dict[str, NumberField] = {}
        for limb in USUAL:
            field = NumberField(limb.capitalize(), self._setter(limb), unit="Hz", low=0, high=240, step=1.0, decimals=1,
                                tip=f"A cut-off for the {limb}; 0 leaves it as it is")  # fmt: skip
            self.limbs[limb] = field
            form.row(limb.capitalize(), field)
        self.box.addWidget(form)
        self.usual = word_button("usual", "8 Hz for trunk and legs, 10 for the arms", strong=True)
        self.usual.clicked.connect(lambda: self.set(**USUAL))
        self.none = word_button("as it is", "Take all cleaning away")
        self.none.clicked.connect(lambda: self.change("as it is", clean=Clean()))
        self.before = switch(
            "show before", "The source as a skin, and its curves", lambda _: self.before_changed.emit()
        )
        self.before.setChecked(True)
        self.box.addWidget(buttons(self.usual, self.none, self.before))
        self.box.addWidget(heading("Feet and floor"))
        self.feet = switch("lock standing feet", "A foot that stands does not slide", lambda on: self.set(feet=on))
        self.blend = NumberField("Blend", self._setter("feet_blend"), unit="s", low=0, high=2, step=0.02, decimals=2,
                                 tip="How long a foot takes into its lock and out of it")  # fmt: skip
        self.floor = NumberField("Lift", self._setter("floor"), unit="m", low=-1000, high=1000, step=0.005, decimals=3,
                                 tip="How far the figure is lifted")  # fmt: skip
        feet_form = Form()
        feet_form.row("Blend", self.blend)
        feet_form.row("Lift", self.floor)
        self.box.addWidget(buttons(self.feet))
        self.box.addWidget(feet_form)
        self.stand = word_button("", "Lift it so that standing feet are at the figure's own height", strong=True)
        self.stand.setAccessibleName("Set on the floor")
        self.stand.clicked.connect(self._set_on_floor)
        self.box.addWidget(buttons(self.stand))
        self.box.addWidget(heading("Hands"))
        self.hand = switch("keep the other hand to the weapon", "It stays where it mostly is", self._keep_hand)
        self.box.addWidget(buttons(self.hand))
        self.result = note()
        self.box.addWidget(self.result)
        self.box.addStretch(1)

    def _setter(self, field: str) -> Any:
        return lambda value: self.set(**{field: value})

    def set(self, **fields: Any) -> None:
        """Clean the open clip otherwise."""
        clip = self.clip
        if clip is None:
            return
        made = replace(clip.clean, **fields)
        if made != clip.clean:
            said = ", ".join(f"{name.replace('_', ' ')} {value:g}" for name, value in fields.items()
                             if isinstance(value, int | float))  # fmt: skip
            self.change(f"cleaned: {said or 'hand'}", clean=made)

    def _set_on_floor(self) -> None:
        clip, reading = self.clip, self.reading
        if clip is not None and reading is not None:
            self.set(floor=round(clip.clean.floor + floor_off(reading), 4))

    def _hands(self) -> tuple[str, str] | None:
        """The hand that holds the weapon's joint, and the other one; None without a weapon or two hands."""
        rig, bones = self.document.project.rig, self.document.build.assets.skeleton
        mount = next((m for m in rig.mounts if rig.weapon is not None and m.name == rig.weapon.base), None)
        hands = {p.side: n for n, p in zip(bones.names, parts_of(bones)) if p.kind == "hand" and not p.end}
        if mount is None or mount.joint not in bones.index or not {"left", "right"} <= set(hands):
            return None
        at = bones.rest_world[:, :3, 3]
        far = {n: float(np.linalg.norm(at[bones.index[n]] - at[bones.index[mount.joint]])) for n in hands.values()}
        return mount.joint, max(far, key=lambda n: far[n])

    def _keep_hand(self, on: bool) -> None:
        found = self._hands()
        if on and found is None:
            self.document.said.emit("The figure has no weapon on a mount yet, or not two hands.", True)
            self.hand.setChecked(False)
        elif found is not None:
            to, hand = found
            self.set(hand=hand if on else "", to=to if on else "")

    def renew(self) -> None:
        clip, reading = self.clip, self.reading
        self.show_fields(clip is not None)
        if clip is None or reading is None:
            return
        clean = clip.clean
        for limb, field in self.limbs.items():
            field.show_value(getattr(clean, limb))
        self.blend.show_value(clean.feet_blend)
        self.floor.show_value(clean.floor)
        self.feet.setChecked(clean.feet)
        self.hand.setChecked(bool(clean.hand))
        off = floor_off(reading)
        self.stand.setText(f"set on the floor: {off * 100:+.1f} cm")
        self.stand.setVisible(abs(off) >= 0.002)
        raw = self.document.derived.uncleaned(clip.name)
        if raw is None:
            self.result.setText("Nothing is changed.")
        else:
            moved = np.linalg.norm(reading.joints - raw.joints, axis=-1)
            self.result.setText(
                f"Joints go {moved.mean() * 100:.1f} cm from the source in the mean, {moved.max() * 100:.1f} at most; "
                f"feet slide {self._slide(reading):.1f} cm where they slid {self._slide(raw):.1f}."
            )

    def _slide(self, reading: Any) -> float:
        return max((reading.slide(c) for c in reading.contacts), default=0.0)
