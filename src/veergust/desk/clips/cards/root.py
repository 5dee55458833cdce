"""Root: which joint travels, what of its travel moves the body, and how much."""

from __future__ import annotations

from functools import partial
from typing import Any

import numpy as np
from msgspec.structs import replace
from PySide6.QtWidgets import QWidget

from veergust.core.study import as_chest_and_hips, as_in_idle, clip_travel
from veergust.desk.clips.cards.card import Card
from veergust.desk.clips.playhead import Playhead
from veergust.desk.document.document import Document
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.fields import ChoiceField, Form, NumberField, heading, note
from veergust.desk.widgets.rows import buttons, switch

PARTS = {
    "forward": "Travel ahead and back moves the body",
    "side": "Travel to the sides moves the body",
    "up": "Travel up and down moves the body",
    "turn": "Turning turns the body",
}


class RootCard(Card):
    """The body's travel."""

    title = "Root"

    def __init__(self, document: Document, playhead: Playhead, parent: QWidget) -> None:
        super().__init__(document, playhead, parent)
        self.joint = ChoiceField("Root from", lambda name: self.change(root_joint=name),
                                 "The joint whose travel moves the body")  # fmt: skip
        self.scale = NumberField("Multiplier", lambda v: self._use(scale=v), unit="×", low=-10, high=10, step=0.05,
                                 decimals=2, tip="How much of the travel the body makes")  # fmt: skip
        self.smooth = NumberField("Smoothed over", self._smooth, unit="s", low=0, high=5, step=0.05, decimals=2,
                                  tip="How much of the hips' sway stays in the pose")  # fmt: skip
        self.forward = NumberField("Ahead is", self._face, unit="°", low=-180, high=180, step=1, decimals=1,
                                   tip="From where the joint looks; or drag the arrow on the stage")  # fmt: skip
        form = Form()
        form.row("From", self.joint)
        form.row("Multiplier", self.scale)
        form.row("Smoothed over", self.smooth)
        self.box.addWidget(form)
        self.stands_in = note()
        self.stands_in.setObjectName("warn")
        self.box.addWidget(self.stands_in)
        self.box.addWidget(heading("Where the body looks"))
        form = Form()
        form.row("Ahead is", self.forward)
        self.box.addWidget(form)
        self.as_chest = word_button("as chest and hips", "Ahead is where chest and hips look for most of the clip")
        self.as_chest.clicked.connect(self._as_chest)
        self.as_idle = word_button("as in idle", "Ahead as in idle, by the pose of the clip's first used frame")
        self.as_idle.clicked.connect(self._as_idle)
        self.box.addWidget(buttons(self.as_chest, self.as_idle))
        self.box.addWidget(heading("Becomes travel of the body"))
        self.parts = {name: switch(name, tip, partial(self._turn_part, name)) for name, tip in PARTS.items()}
        self.box.addWidget(buttons(*self.parts.values()))
        self.in_place = switch("in place", "Take the travel out of the pose and move nobody",
                               lambda on: self.change(in_place=on))  # fmt: skip
        self.box.addWidget(buttons(self.in_place))
        self.box.addWidget(heading("The body goes"))
        self.goes = note()
        self.box.addWidget(self.goes)
        self.box.addWidget(heading("Stays in the pose"))
        self.stays = note()
        self.box.addWidget(self.stays)
        self.box.addStretch(1)

    def _turn_part(self, name: str, on: bool) -> None:
        self._use(**{name: on})

    def _use(self, **fields: Any) -> None:
        clip = self.clip
        if clip is not None:
            name, value = next(iter(fields.items()))
            words = f"travel ×{value:g}" if name == "scale" else f"{name} {'moves the body' if value else 'stays'}"
            self.change(words, root=replace(clip.root, **fields))

    def _smooth(self, seconds: float) -> None:
        self.change(f"smoothed over {seconds:g} s", smooth=seconds)

    def _face(self, degrees: float) -> None:
        self.change(f"ahead is {degrees:+.0f}°", forward=round(float(degrees), 2))

    def turn_by(self, degrees: float) -> None:
        """The body's ahead turned by degrees about +Y, as the dial on the stage says."""
        clip = self.clip
        if clip is not None:
            much = clip.forward + (-degrees if clip.mirror else degrees)
            self._face((much + 180.0) % 360.0 - 180.0)

    def _as_chest(self) -> None:
        build, clip = self.document.build, self.clip
        found = as_chest_and_hips(build.assets, clip, build.roots) if clip is not None else None
        if found is not None:
            self._face(found)

    def _as_idle(self) -> None:
        reading, idle = self.reading, self.document.derived.idle_pose()
        if reading is None or idle is None:
            self.document.said.emit("Locomotion has no pose to compare with yet.", True)
            return
        self._face(as_in_idle(reading, self.playhead.used()[0], idle))

    def renew(self) -> None:
        clip, reading = self.clip, self.reading
        self.show_fields(clip is not None)
        if clip is None or reading is None:
            return
        rig = self.document.project.rig
        own = rig.root or rig.hips or (reading.skeleton.names[0] if len(reading.skeleton) else "")
        choices = [(f"the rig's root ({own})", "")]
        if rig.hips:
            choices.append((f"from the hips ({rig.hips})", rig.hips))
        choices += [(n, n) for n in reading.skeleton.names if n != rig.hips]
        self.joint.show_choices(choices, clip.root_joint)
        self.scale.show_value(clip.root.scale)
        self.smooth.show_value(clip.smooth)
        self.forward.show_value(clip.forward)
        carrier = reading.track.carrier
        self.smooth.setEnabled(carrier.smoothed)
        hips = reading.skeleton.names[carrier.joint] if len(reading.skeleton) else ""
        self.stands_in.setText(f"The chosen joint never moves in this clip: its travel is that of {hips}.")
        self.stands_in.setVisible(carrier.stands_in)
        for name, button in self.parts.items():
            button.setChecked(getattr(clip.root, name))
        self.in_place.setChecked(clip.in_place)
        travel = clip_travel(self.document.build.assets, clip, self.document.build.roots)
        x, y, z = travel.place[-1]
        turn = float(np.degrees(travel.yaw[-1]))
        self.goes.setText(f"ahead {z:+.2f} m · left {x:+.2f} m · up {y:+.2f} m · turns {turn:+.0f}°")
        first, last = self.playhead.used()
        sway = np.ptp(reading.sway(slice(first, last + 1)), axis=0)
        self.stays.setText(f"ahead {sway[2]:.2f} m · side {sway[0]:.2f} m · up {sway[1]:.2f} m, of the hips")
