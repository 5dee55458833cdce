"""What the pages of the Sheet bench share: the open action, and the section under the playhead."""

from __future__ import annotations

from veergust.core.model import Action
from veergust.core.play import CompiledSection
from veergust.desk.frame.page import FieldPage


class Page(FieldPage):
    """A page about the open action; one that ``draws`` is made with the theme as well."""

    draws = False

    @property
    def action(self) -> Action | None:
        """The open action."""
        compiled = self.document.compiled
        return compiled.action if compiled else None

    @property
    def place(self) -> tuple[int, int]:
        """(section, tick in it) under the playhead."""
        compiled = self.document.compiled
        return compiled.locate(self.document.frame) if compiled else (0, 0)

    @property
    def part(self) -> CompiledSection | None:
        """The section under the playhead, compiled."""
        compiled = self.document.compiled
        return compiled.sections[self.place[0]] if compiled and compiled.sections else None
