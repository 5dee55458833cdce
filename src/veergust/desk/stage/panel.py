"""A stage with its heading and its row of switches, as both benches use it."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from veergust.core.scene import Shown
from veergust.desk.look.theme import Theme
from veergust.desk.stage.view import VIEWS, StageView
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.label import PlainLabel

SWITCHES = {
    "skins": "Onion skins of the nearest key frames",
    "sweep": "What the weapon sweeps while a strike is open",
    "path": "The way of the root, with a mark a frame",
    "body": "The body capsule",
    "beside": "What is left in the pose when the body's travel is taken out, beside the figure",
    "hitboxes": "Hitboxes that are open",
    "hurtboxes": "Hurtboxes",
    "events": "Stand-ins for effects, sounds and thrown things",
}


class StagePanel(QWidget):
    """The stage, which sides to see it from, and what it shows."""

    def __init__(
        self, theme: Theme, title: str, switches: tuple[str, ...], on: tuple[str, ...], *, follow: bool = False
    ) -> None:
        super().__init__()
        self.theme = theme
        self.view = StageView(theme)
        self.title = PlainLabel(title)
        self.title.setObjectName("stage_title")
        self.follow_button = word_button("follow", "Keep the figure in the middle", checkable=True)
        self.follow_button.setChecked(follow)
        head = QHBoxLayout()
        head.setContentsMargins(14, 6, 12, 6)
        head.addWidget(self.title)
        head.addStretch(1)
        for name in VIEWS:
            button = word_button(name, f"Look from the {name}")
            button.clicked.connect(lambda _=False, n=name: self.view.look_from(n))
            head.addWidget(button)
        head.addWidget(self.follow_button)
        self.foot = QHBoxLayout()
        self.foot.setContentsMargins(12, 4, 8, 4)
        self.foot.setSpacing(0)
        self.switches: dict[str, QPushButton] = {}
        for name in switches:
            button = word_button(name, SWITCHES[name], checkable=True)
            button.setChecked(name in on)
            self.foot.addWidget(button)
            self.switches[name] = button
        self.foot.addStretch(1)
        self._box = box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addLayout(head)
        self.stack = QVBoxLayout()
        """The picture, and what is put over and under it."""
        self.stack.setSpacing(0)
        self.stack.addWidget(self.view, 1)
        box.addLayout(self.stack, 1)
        box.addLayout(self.foot)

    def add_row(self, row: QWidget) -> None:
        """Put one more row under the stage."""
        self._box.addWidget(row)

    def shown(self) -> Shown:
        """What is switched on."""
        on = {name: button.isChecked() for name, button in self.switches.items()}
        return Shown(
            skins=on.get("skins", False),
            sweep=on.get("sweep", False),
            path=on.get("path", False),
            body=on.get("body", False),
            hurtboxes=on.get("hurtboxes", False),
            hitboxes=on.get("hitboxes", True),
            events=on.get("events", False),
        )
