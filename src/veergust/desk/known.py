"""What is worked out of the open project, kept for as long as it holds: facts, findings, proposals, readings."""

from __future__ import annotations

from typing import TYPE_CHECKING

from veergust.core.edit.alternates import flip
from veergust.core.model import Action, Clip
from veergust.core.motion.figure import Cast
from veergust.core.motion.prepared import about_body, ends, motion_of
from veergust.core.motion.skeleton import Pose
from veergust.core.play.compiled import CompiledAction
from veergust.core.study.clip_reading import Reading, read_clip
from veergust.core.study.coverage import SwingShelf
from veergust.core.study.facts import Facts, FactsShelf, facts
from veergust.core.study.finding import Finding
from veergust.core.study.findings import FindingsShelf, findings
from veergust.core.study.timing import Hint, hints

if TYPE_CHECKING:
    from veergust.desk.document import Document


class Known:
    """What is known of a document's project as it is now."""

    def __init__(self, document: Document) -> None:
        self.document = document
        self.swing = SwingShelf()
        self._shelf, self._kept_shelf = FactsShelf(), FactsShelf()
        self._found = FindingsShelf()
        self._hints: tuple[CompiledAction, list[Hint]] | None = None
        self._versions: dict[Action, tuple[Cast, CompiledAction, Facts]] = {}
        self._readings: dict[str, tuple[Clip, Cast, Reading | None]] = {}

    def reading(self, name: str) -> Reading | None:
        """A clip read over its whole source; kept until the clip or its file changes."""
        book = self.document.book
        clip = book.clip(name)
        if clip is None:
            return None
        kept = self._readings.get(name)
        if kept is None or kept[0] != clip or kept[1] is not book.cast:
            kept = self._readings[name] = (clip, book.cast, read_clip(book.cast, clip, book.roots))
        return kept[2]

    def idle_pose(self) -> Pose | None:
        """The pose actions come from, about its body: the first frame of idle; None without locomotion."""
        book = self.document.book
        name = book.idle_clip
        clip, cast = book.clip(name), book.cast
        if clip is None or motion_of(cast, clip) is None:
            return None
        start, end = ends(cast, clip)
        return about_body(cast, clip, end if clip.reverse else start, book.roots)

    def facts(self, name: str) -> Facts | None:
        """The facts of an action as it is now."""
        return self._shelf.facts(self.document.book, name)

    def kept_facts(self, name: str) -> Facts | None:
        """The facts of an action as it was last saved."""
        return self._kept_shelf.facts(self.document.saved_book, name)

    def hints(self) -> list[Hint]:
        """What the numbers of the open action propose; kept until it changes."""
        compiled = self.document.compiled
        if compiled is None:
            return []
        if self._hints is None or self._hints[0] is not compiled:
            self._hints = (compiled, hints(self.document.book, compiled, self.swing))
        return self._hints[1]

    def version(self, index: int) -> tuple[CompiledAction, Facts] | None:
        """A kept version of the open action, compiled, with its facts; None when there is none."""
        compiled = self.document.compiled
        if compiled is None or not 0 <= index < len(compiled.action.kept):
            return None
        kept = compiled.action.kept[index]
        known = self._versions.get(kept.action)
        if known is None or known[0] is not self.document.book.cast:
            other = flip(self.document.project, self.document.action, index).project
            book = self.document.book.renew(other)
            made, numbers = book.action(self.document.action), facts(book, self.document.action)
            assert made is not None
            assert numbers is not None
            known = self._versions[kept.action] = (self.document.book.cast, made, numbers)
        return known[1], known[2]

    def findings(self) -> list[Finding]:
        """What the checks find."""
        return findings(self.document.book, self._found)
