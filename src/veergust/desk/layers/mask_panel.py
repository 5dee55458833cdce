"""The mask of the layer that is chosen: painted on the figure, or typed joint by joint, and which layers share it."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PySide6.QtWidgets import QHBoxLayout, QInputDialog, QPushButton, QVBoxLayout, QWidget

from veergust.core.edit import Edit, masks, set_layer
from veergust.core.motion import Array, nearest
from veergust.core.study import lost_joints
from veergust.core.trouble import Trouble
from veergust.desk.document.document import Document
from veergust.desk.layers.joint_rows import joint_rows
from veergust.desk.layers.joint_table import JointTable
from veergust.desk.layers.mask_map import MaskMap
from veergust.desk.layers.selection import LayerSelection, role_of
from veergust.desk.look.theme import Theme
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.fields import ChoiceField, NumberField
from veergust.desk.widgets.label import PlainLabel

WHOLE = "the whole figure"


class MaskPanel(QWidget):
    """Map, table and tools of one mask."""

    def __init__(self, document: Document, theme: Theme, selection: LayerSelection) -> None:
        super().__init__()
        self.document, self.theme, self.selection = document, theme, selection
        self.who: list[str] = []
        self.which = ChoiceField("Mask of the layer", self._choose, "Which joints the layer speaks for")
        self.name = word_button("rename", "Another name; layers that have it follow")
        self.name.clicked.connect(self._rename)
        self.new = word_button("+ mask", "A new mask for this layer, like the one it has (Shift+N)", strong=True)
        self.new.clicked.connect(self.add)
        self.gone = word_button("remove", "Remove this mask; the layer speaks for the whole figure then")
        self.gone.clicked.connect(self.remove)
        self.said = PlainLabel()
        self.said.setObjectName("note")
        self.fits = word_button("take the nearest", "Put the nearest joints of this figure in their place", strong=True)
        self.fits.clicked.connect(self._fit)
        self.map, self.table = MaskMap(theme), JointTable(theme)
        self.map.painted.connect(self._paint)
        self.map.chosen.connect(selection.choose_joint)
        self.table.chosen.connect(selection.choose_joint)
        self.table.weighed.connect(self._weigh)
        self.onward = word_button("from here on", "A click takes a joint with all that hangs on it", checkable=True)
        self.onward.setObjectName("switch")
        self.onward.setChecked(True)
        self.feather = NumberField("Feather", lambda _: None, low=0, high=masks.FURTHEST,
                                   tip="Over so many joints it comes in")  # fmt: skip
        self.feather.setPrefix("feather ")
        self.feather.setFixedWidth(84)
        self.tools: list[QPushButton] = []
        self._lay_out()
        selection.changed.connect(self.renew)
        selection.joint_changed.connect(self._show)
        theme.changed.connect(self._show)

    def _lay_out(self) -> None:
        title = PlainLabel("Mask")
        title.setObjectName("big")
        head = QHBoxLayout()
        head.setContentsMargins(14, 4, 12, 2)
        head.setSpacing(6)
        for widget in (title, self.which, self.new, self.name, self.gone):
            head.addWidget(widget)
        head.addWidget(self.said, 1)
        head.addWidget(self.fits)
        tools = QHBoxLayout()
        tools.setContentsMargins(14, 0, 4, 6)
        tools.setSpacing(4)
        tools.addWidget(self.onward)
        tools.addWidget(self.feather)
        for words, tip, act in (
            ("both sides", "What is on one side is on the other, too", self._mirror),
            ("all", "The whole figure", lambda: self._fill(1.0)),
            ("nothing", "No joint, to begin anew", lambda: self._fill(0.0)),
        ):
            button = word_button(words, tip)
            button.clicked.connect(act)
            tools.addWidget(button)
            self.tools.append(button)
        tools.addStretch(1)
        left = QWidget()
        box = QVBoxLayout(left)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addWidget(self.map, 1)
        box.addLayout(tools)
        row = QHBoxLayout()
        row.setContentsMargins(0, 0, 8, 4)
        row.setSpacing(10)
        row.addWidget(left, 10)
        row.addWidget(self.table, 12)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        whole.addLayout(head)
        whole.addLayout(row, 1)

    # Showing

    @property
    def weights(self) -> Array:
        """The weights ``[J]`` of the layer's mask; 1 everywhere where it has none."""
        bones, mask = self.document.build.assets.skeleton, self.selection.mask
        return masks.weights_in(bones, mask) if mask is not None else np.ones(len(bones))

    def show_who(self, who: list[str]) -> None:
        """Who moves each joint on the tick that is looked at."""
        if who != self.who:
            self.who = who
            self._show()

    def renew(self) -> None:
        """Show what there is now."""
        project, mask, layer = self.document.project, self.selection.mask, self.selection.layer
        self.which.setEnabled(layer is not None)
        self.new.setEnabled(layer is not None)
        names = [(WHOLE, ""), *((m.name, m.name) for m in project.masks)]
        self.which.show_choices(names, mask.name if mask is not None else "")
        self.name.setVisible(mask is not None)
        self.gone.setVisible(mask is not None)
        bones = self.document.build.assets.skeleton
        lost = lost_joints(bones, mask) if mask is not None and len(bones) else ()
        self.fits.setVisible(bool(lost))
        self.said.setText(self._words(lost))
        for widget in (self.onward, self.feather, *self.tools):
            widget.setEnabled(mask is not None)
        self._show()

    def _words(self, lost: tuple[str, ...]) -> str:
        mask, bones = self.selection.mask, self.document.build.assets.skeleton
        if lost:
            near = [f"{n} (nearest: {nearest(bones, n) or 'none'})" for n in lost[:2]]
            return f"the figure has no {', '.join(near)}{' …' if len(lost) > 2 else ''}"
        if mask is None:
            return "speaks for every joint alike; “+ mask” to paint one" if self.selection.layer is not None else ""
        users = [y.name for y in self.document.project.layers if y.mask == mask.name]
        from_ = f"from {mask.joint} on" if mask.joint else "whole figure"
        feather = f", feather {mask.feather}" if mask.feather else ""
        own = f", {len(mask.weights)} of their own" if mask.weights else ""
        shared = f" · also {', '.join(n for n in users if n != self.selection.name)}" if len(users) > 1 else ""
        return f"{from_}{feather}{own}{shared}"

    def _show(self) -> None:
        bones = self.document.build.assets.skeleton
        weights, live = self.weights, self.selection.mask is not None
        ink = role_of(self.document, self.selection.name)
        self.map.show_mask(bones, weights, ink, self.selection.joint, live)
        who = self.who if len(self.who) == len(bones) else [""] * len(bones)
        rows = joint_rows(bones, [round(float(w), 3) for w in weights], who)
        self.table.show_rows(rows, ink, self.selection.joint, live)

    # Deeds

    def _do(self, make: Callable[[], Edit]) -> bool:
        try:
            return self.document.apply(make())
        except Trouble as trouble:
            self.document.said.emit(str(trouble), True)
            self.renew()
            return False

    def _choose(self, name: str) -> None:
        layer = self.selection.name
        self._do(lambda: set_layer(self.document.base, layer, f"speaks for {name or 'the whole figure'}", mask=name))

    def _rename(self) -> None:
        mask = self.selection.mask
        if mask is None:
            return
        name, fine = QInputDialog.getText(self, "Rename", f"A new name for {mask.name}", text=mask.name)
        if fine:
            self._do(lambda: masks.rename_mask(self.document.base, mask.name, name))

    def add(self) -> None:
        """A new mask for the layer that is chosen, like the one it has."""
        layer, mask = self.selection.layer, self.selection.mask
        if layer is None:
            return

        def make() -> Edit:
            wish = f"{mask.name if mask is not None else layer.name.lower()}"
            edit, name = masks.add_mask(self.document.base, wish, mask.name if mask is not None else "")
            return Edit(set_layer(edit.project, layer.name, "", mask=name).project, f"{layer.name}: {edit.words}")

        if self._do(make):
            self.map.setFocus()

    def remove(self) -> None:
        """Remove the mask; the layer speaks for the whole figure then."""
        layer, mask = self.selection.layer, self.selection.mask
        if layer is None or mask is None:
            return

        def make() -> Edit:
            free = set_layer(self.document.base, layer.name, "", mask="").project
            return masks.remove_mask(free, mask.name)

        self._do(make)

    def _fit(self) -> None:
        mask, bones = self.selection.mask, self.document.build.assets.skeleton
        if mask is not None:
            self._do(lambda: masks.for_this_figure(self.document.base, bones, mask.name))

    def _paint(self, joint: int, add: bool) -> None:
        mask, bones = self.selection.mask, self.document.build.assets.skeleton
        if mask is None:
            self.document.said.emit("This layer speaks for the whole figure. “+ mask” makes one to paint.", False)
            return
        name, feather = bones.names[joint], int(self.feather.value())
        if self.onward.isChecked():
            much = 1.0 if add else 0.0
            self._do(lambda: masks.from_here_on(self.document.base, bones, mask.name, name, feather, much=much))
        else:
            self._do(lambda: masks.set_weight(self.document.base, bones, mask.name, (name,), 1.0 if add else 0.0))

    def _weigh(self, joints: tuple[int, ...], weight: float, settled: bool) -> None:
        mask, bones = self.selection.mask, self.document.build.assets.skeleton
        if mask is None:
            return
        names = tuple(bones.names[j] for j in joints)
        edit = masks.set_weight(self.document.base, bones, mask.name, names, weight)
        if settled:
            self.document.apply(edit)
        else:
            self.document.preview(edit.project)

    def _mirror(self) -> None:
        mask, bones = self.selection.mask, self.document.build.assets.skeleton
        if mask is not None:
            self._do(lambda: masks.mirrored(self.document.base, bones, mask.name))

    def _fill(self, weight: float) -> None:
        mask, bones = self.selection.mask, self.document.build.assets.skeleton
        if mask is not None:
            self._do(lambda: masks.fill(self.document.base, bones, mask.name, weight))
