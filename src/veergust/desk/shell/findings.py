"""The findings as a menu: a line each, leading to where it is."""

from __future__ import annotations

from functools import partial

from PySide6.QtWidgets import QMenu, QWidget

from veergust.core.study.finding import Finding
from veergust.desk.shell.document import Document

MOST = 24


class FindingsMenu(QMenu):
    """Lists findings; choosing one opens its action."""

    def __init__(self, parent: QWidget, document: Document, found: list[Finding]) -> None:
        super().__init__(parent)
        self.document = document
        for finding in found[:MOST]:
            words = f"{finding.level}: {finding.where} {finding.says}; {finding.do}"
            self.addAction(words, partial(self._go, finding))
        if len(found) > MOST:
            self.addAction(f"and {len(found) - MOST} more").setEnabled(False)

    def _go(self, finding: Finding) -> None:
        self.document.choose_action(finding.where.split(" › ")[0])
