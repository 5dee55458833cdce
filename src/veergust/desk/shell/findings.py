"""The findings as a menu: a line each, leading to where it is."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtWidgets import QMenu, QWidget

from veergust.core.kinds.finding import Finding, Ref

MOST = 24


class FindingsMenu(QMenu):
    """Lists findings; choosing one calls ``go`` with its place."""

    def __init__(self, parent: QWidget, found: list[Finding], go: Callable[[Ref], None]) -> None:
        super().__init__(parent)
        for finding in found[:MOST]:
            words = f"{finding.level}: {finding.where} {finding.says}; {finding.do}"
            self.addAction(words, partial(go, finding.at))
        if len(found) > MOST:
            self.addAction(f"and {len(found) - MOST} more").setEnabled(False)
