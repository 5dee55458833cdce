"""Props: meshes carried on mounts, the mounts themselves, and the weapon's sweep line."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
from PySide6.QtCore import Signal
from PySide6.QtWidgets import QFileDialog, QInputDialog, QWidget

from veergust.core.edit import add_mount, remove_mount, remove_prop, set_mount, set_prop, set_weapon
from veergust.core.files import SPOKEN, bring_prop
from veergust.core.motion import Array
from veergust.core.trouble import Trouble
from veergust.desk.clips.cards.card import Card
from veergust.desk.clips.playhead import Playhead
from veergust.desk.document.document import Document
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.fields import ChoiceField, Form, NumberField, Triple, heading, note
from veergust.desk.widgets.rows import buttons


class PropsCard(Card):
    """What the figure carries."""

    title = "Props"
    mount_chosen = Signal()

    def __init__(self, document: Document, playhead: Playhead, parent: QWidget) -> None:
        super().__init__(document, playhead, parent)
        self.mount_name = ""
        self.prop_name = ""
        self.box.addWidget(heading("Mount"))
        self.mount = ChoiceField("Mount", self.choose_mount, "The mount to place; it can be taken on the stage too")
        self.joint = ChoiceField("Joint", lambda j: self._mount(joint=j), "The joint it rides on")
        self.offset = Triple("Offset", lambda v: self._mount(offset=v), "m", 0.01)
        self.turn = Triple("Turn", lambda v: self._mount(turn=v), "°", 5.0)
        form = Form()
        form.row("Name", self.mount)
        form.row("Joint", self.joint)
        self.box.addWidget(form)
        self.box.addWidget(note("Offset and turn in the joint"))
        self.box.addWidget(self.offset.row())
        self.box.addWidget(self.turn.row())
        new = word_button("+ mount", "A new mount on the same joint", strong=True)
        new.clicked.connect(self.new_mount)
        gone = word_button("remove mount", "Take the mount away")
        gone.clicked.connect(lambda: self.attempt(lambda: remove_mount(self.document.base, self.mount_name)))
        self.box.addWidget(buttons(new, gone))
        self.box.addWidget(heading("Prop"))
        self.prop = ChoiceField("Prop", self._choose_prop, "The prop to place")
        self.on = ChoiceField("On", lambda m: self._prop(mount=m), "The mount it is carried on")
        self.scale = NumberField("Size", lambda v: self._prop(scale=v), unit="×", low=0.001, high=1000, step=0.1,
                                 decimals=3)  # fmt: skip
        self.prop_offset = Triple("Prop offset", lambda v: self._prop(offset=v), "m", 0.01)
        self.prop_turn = Triple("Prop turn", lambda v: self._prop(turn=v), "°", 5.0)
        form = Form()
        form.row("Name", self.prop)
        form.row("On", self.on)
        form.row("Size", self.scale)
        self.box.addWidget(form)
        self.box.addWidget(self.prop_offset.row())
        self.box.addWidget(self.prop_turn.row())
        bring = word_button("+ prop from a file…", "Bring a .glb or .gltf mesh onto the mount", strong=True)
        bring.clicked.connect(self._ask_prop)
        drop = word_button("remove prop", "Take the prop away; its file stays")
        drop.clicked.connect(lambda: self.attempt(lambda: remove_prop(self.document.base, self.prop_name)))
        self.remove_prop_button = drop
        self.box.addWidget(buttons(bring, drop))
        self.box.addWidget(heading("Sweep line"))
        self.base = ChoiceField("Base", lambda m: self._weapon(m, self._weapon_now()[1]), "Where the blade begins")
        self.tip = ChoiceField("Tip", lambda m: self._weapon(self._weapon_now()[0], m), "Where it ends")
        form = Form()
        form.row("Base", self.base)
        form.row("Tip", self.tip)
        self.box.addWidget(form)
        self.box.addStretch(1)

    def choose_mount(self, name: str) -> None:
        """Show a mount's fields."""
        self.mount_name = name
        self.renew()
        self.mount_chosen.emit()

    def _choose_prop(self, name: str) -> None:
        self.prop_name = name
        self.renew()

    def new_mount(self) -> None:
        """A mount on the joint of the one shown, or on the first joint."""
        bones = self.document.build.assets.skeleton
        if not len(bones):
            self.document.said.emit(f"There is no figure yet: drop a {SPOKEN} file on the window.", True)
            return
        mount = next((m for m in self.document.project.rig.mounts if m.name == self.mount_name), None)
        joint = mount.joint if mount else bones.names[0]
        wish, fine = QInputDialog.getText(self, "A new mount", f"What the mount on {joint} is called", text=joint)
        if not fine:
            return
        edit, name = add_mount(self.document.base, joint, wish.strip())
        self.mount_name = name
        self.document.apply(edit)
        self.mount_chosen.emit()

    def _mount(self, **changes: Any) -> None:
        self.attempt(lambda: set_mount(self.document.base, self.mount_name, **changes))

    def _prop(self, **changes: Any) -> None:
        self.attempt(lambda: set_prop(self.document.base, self.prop_name, **changes))

    def _weapon_now(self) -> tuple[str, str]:
        weapon = self.document.project.rig.weapon
        return (weapon.base, weapon.tip) if weapon else ("", "")

    def _weapon(self, base: str, tip: str) -> None:
        self.attempt(lambda: set_weapon(self.document.base, base or tip, tip or base))

    def _ask_prop(self) -> None:
        file, _ = QFileDialog.getOpenFileName(self, "A prop", "", "glTF (*.glb *.gltf)")
        if file:
            self.bring(Path(file))

    def bring(self, file: Path) -> None:
        """Bring a mesh onto the mount that is shown."""
        if not self.mount_name:
            self.document.said.emit("Make a mount first: the prop is carried on it.", True)
            return
        if self.document.refuses() or not self.document.settle():
            return
        folder = self.document.folder
        assert folder is not None
        try:
            edit, name = bring_prop(self.document.base, folder, file, self.mount_name, self.document.lock)
        except Trouble as trouble:
            self.document.said.emit(str(trouble), True)
            return
        self.prop_name = name
        self.document.apply(edit)

    def moved_on_stage(self, name: str, inside: Array, settled: bool) -> None:
        """A mount was dragged to a place in its joint's frame."""
        x, y, z = (round(float(v), 4) for v in inside)
        edit = set_mount(self.document.base, name, offset=(x, y, z))
        if settled:
            self.document.apply(edit)
        else:
            self.document.preview(edit.project)

    def renew(self) -> None:
        rig, bones = self.document.project.rig, self.document.build.assets.skeleton
        names = [m.name for m in rig.mounts]
        if self.mount_name not in names:
            self.mount_name = names[0] if names else ""
        props = [p.name for p in rig.props]
        if self.prop_name not in props:
            self.prop_name = props[-1] if props else ""
        self.mount.show_choices([(n, n) for n in names], self.mount_name)
        mount = next((m for m in rig.mounts if m.name == self.mount_name), None)
        self.joint.show_choices([(n, n) for n in bones.names], mount.joint if mount else "")
        if mount is not None:
            self.offset.show(mount.offset)
            self.turn.show(mount.turn)
        prop = next((p for p in rig.props if p.name == self.prop_name), None)
        self.prop.show_choices([(n, n) for n in props], self.prop_name)
        self.on.show_choices([(n, n) for n in names], prop.mount if prop else "")
        for field in (self.prop, self.on, self.scale, *self.prop_offset.fields, *self.prop_turn.fields,
                      self.remove_prop_button):  # fmt: skip
            field.setEnabled(prop is not None)
        if prop is not None:
            self.scale.show_value(prop.scale)
            self.prop_offset.show(prop.offset)
            self.prop_turn.show(prop.turn)
        else:
            self.scale.show_value(1.0)
        base, tip = self._weapon_now()
        lines = [("none", ""), *((n, n) for n in names)]
        self.base.show_choices(lines, base)
        self.tip.show_choices(lines, tip)


def mount_in_joint(joint: Array, at: Array) -> Array:
    """A world place ``[3]`` in the frame of a joint ``[4, 4]``."""
    return np.asarray((np.linalg.inv(joint) @ np.array([*at, 1.0]))[:3])
