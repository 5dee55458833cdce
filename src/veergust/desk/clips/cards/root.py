"""Root: which joint travels, what of its travel moves the body, and how much."""

from __future__ import annotations

from functools import partial
from typing import Any

import numpy as np
from msgspec.structs import replace

from veergust.core.study.lengths import clip_travel
from veergust.desk.clips.cards.card import Card
from veergust.desk.clips.playhead import Playhead
from veergust.desk.document import Document
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

    def __init__(self, document: Document, playhead: Playhead) -> None:
        super().__init__(document, playhead)
        self.joint = ChoiceField("Root from", lambda name: self.change(root_joint=name),
                                 "The joint whose travel moves the body")  # fmt: skip
        self.scale = NumberField("Multiplier", lambda v: self._use(scale=v), unit="×", low=-10, high=10, step=0.05,
                                 decimals=2, tip="How much of the travel the body makes")  # fmt: skip
        form = Form()
        form.row("From", self.joint)
        form.row("Multiplier", self.scale)
        self.box.addWidget(form)
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

    def renew(self) -> None:
        clip, reading = self.clip, self.reading
        self.page.setEnabled(clip is not None)
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
        for name, button in self.parts.items():
            button.setChecked(getattr(clip.root, name))
        self.in_place.setChecked(clip.in_place)
        travel = clip_travel(self.document.book.cast, clip, self.document.book.roots)
        x, y, z = travel.place[-1]
        turn = float(np.degrees(travel.yaw[-1]))
        self.goes.setText(f"ahead {z:+.2f} m · left {x:+.2f} m · up {y:+.2f} m · turns {turn:+.0f}°")
        first, last = self.playhead.used()
        left = reading.left.place[first : last + 1, 0] if len(reading.left.place) else np.zeros((1, 3))
        sway = np.ptp(left, axis=0)
        self.stays.setText(f"ahead {sway[2]:.2f} m · side {sway[0]:.2f} m · up {sway[1]:.2f} m, of the top joint")
