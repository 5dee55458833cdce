"""What is chosen on the Layers bench, for stack, map, table and pages alike: a layer, and joints of its mask."""

from __future__ import annotations

from PySide6.QtCore import QObject, Signal

from veergust.core.model import Layer, Mask
from veergust.desk.document.document import Document
from veergust.look import LAYERS


def role_of(document: Document, layer: str) -> str:
    """The role whose ink and hatch a layer has: by its place, so that neighbours differ."""
    there = document.build.layers.get(layer)
    return LAYERS[(there.place if there is not None else 0) % len(LAYERS)]


class LayerSelection(QObject):
    """A layer by name, and a joint by its place (−1: none)."""

    changed = Signal()
    joint_changed = Signal()
    opened = Signal()

    def __init__(self, document: Document, owner: QObject | None = None) -> None:
        super().__init__(owner)
        self.document = document
        self.name = ""
        self.joint = -1

    def choose(self, name: str) -> None:
        """Choose a layer."""
        if name != self.name:
            self.name = name
            self.changed.emit()

    def choose_joint(self, joint: int) -> None:
        """Choose a joint."""
        if joint != self.joint:
            self.joint = joint
            self.joint_changed.emit()

    def settle(self) -> None:
        """Let go of what is not there any more; a layer is chosen as long as there is one."""
        names = [y.name for y in self.document.project.layers]
        if self.name not in names:
            self.choose(names[-1] if names else "")
        if self.joint >= len(self.document.build.assets.skeleton):
            self.choose_joint(-1)

    @property
    def layer(self) -> Layer | None:
        """The layer that is chosen."""
        return next((y for y in self.document.project.layers if y.name == self.name), None)

    @property
    def mask(self) -> Mask | None:
        """The mask of the layer that is chosen; None where it speaks for the whole figure."""
        layer = self.layer
        wanted = layer.mask if layer is not None else ""
        return next((m for m in self.document.project.masks if m.name == wanted), None)
