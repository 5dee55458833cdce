"""What a project needs of the program, imported while a person still looks at the first page and nobody waits."""

from __future__ import annotations

from collections.abc import Iterable
from importlib import import_module

from PySide6.QtCore import QObject, QTimer

CORE = (
    "numpy", "veergust.core.motion.figure", "veergust.core.kinds.spans", "veergust.core.play.compiled.project",
    "veergust.core.play.simulation", "veergust.core.files.opened", "veergust.core.files.importing",
    "veergust.core.study.findings", "veergust.core.changes.replay",
)  # fmt: skip
"""What every project needs of the core, each a tenth of a second at most."""


class Ahead(QObject):
    """Imports one after the other, as long as the window has nothing else to do."""

    def __init__(self, modules: Iterable[str], owner: QObject) -> None:
        super().__init__(owner)
        self._left = list(modules)
        self._timer = QTimer(self)
        self._timer.timeout.connect(self._step)
        self._timer.start()

    def _step(self) -> None:
        if self._left:
            import_module(self._left.pop(0))
        else:
            self._timer.stop()
            self.deleteLater()
