"""What the window does about the folder it shows: other writers, work a crash left, and saves that were cut off."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QPushButton

from veergust import core
from veergust.core.trouble import Trouble
from veergust.core.wording import listed
from veergust.desk.document.document import Document
from veergust.desk.shell.arrivals import Arrivals
from veergust.desk.shell.leftwork import LeftWork
from veergust.desk.shell.settling import Settling
from veergust.desk.widgets.asking import accepted
from veergust.desk.widgets.notice import Notice

if TYPE_CHECKING:
    from veergust.core.files import Left

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget as Base
else:
    Base = object


class OnDiskDoors(Base):
    """The part of the window that looks after the folder; it needs the window's document and notice."""

    document: Document
    notice: Notice
    arrivals: Arrivals
    look_button: QPushButton

    if TYPE_CHECKING:

        def save_as(self) -> bool: ...

    # What was there when it was opened

    def say_what_was_found(self) -> None:
        """Say what is out of the ordinary with a project that was just opened, one thing after the other."""
        kept = self.document.kept
        if kept is None:
            self.offer_left_work()
        elif kept.unfinished.says:
            finish = [("finish it", self.finish_unfinished)] if kept.unfinished.fits else []
            self.notice.say(kept.unfinished.says, True, *finish, ("throw it away", self.throw_away_unfinished))
        elif self.document.to_look:
            self.notice.say(
                f"Open only to look: {self.document.to_look}.",
                False,
                ("save as…", self.save_as),
                ("take over", self.take_over),
            )
        else:
            self.offer_left_work()

    def finish_unfinished(self) -> None:
        """Finish a save that came with the folder."""
        if self.document.kept is not None:
            self._answer_unfinished(self.document.kept.finish_unfinished)

    def throw_away_unfinished(self) -> None:
        """Remove what a save that was cut off left."""
        if self.document.kept is not None:
            self._answer_unfinished(self.document.kept.throw_away_unfinished)

    def _answer_unfinished(self, answer: Callable[[], None]) -> None:
        try:
            answer()
        except Trouble as trouble:
            self.notice.say(str(trouble), True)
            return
        if self.look_at_disk():
            self.say_what_was_found()

    def offer_left_work(self) -> None:
        """Offer the work that crashes left, the newest first, until each is answered."""
        files = core.files.project_files(self.document.project)
        for left in core.files.left_behind(self.document.folder):
            if left.holds_nothing(files):
                left.throw_away()
                continue
            look = ("look at them…", partial(self.show_left_work, left))
            fits = bool(left.steps) and not left.damaged and not any(step.why_not for step in left.onto(files))
            many = f"{len(left.steps)} change{'s' if len(left.steps) != 1 else ''}"
            last = f"; the last was “{left.steps[-1].says}”" if left.steps else ""
            self.notice.say(
                f"{many} from {left.since} were never saved{last}.",
                False,
                *([("bring them back", partial(self.bring_back, left)), look] if fits else [look]),
            )
            return

    def bring_back(self, left: Left) -> None:
        """Bring back what fits of the work that was left."""
        if self.document.recover(left):
            self.offer_left_work()

    def show_left_work(self, left: Left) -> None:
        """The page with its steps."""
        page = LeftWork(self, left, left.onto(core.files.project_files(self.document.project)))
        accepted(page)
        if page.answer == "bring":
            self.bring_back(left)
        elif page.answer == "throw":
            left.throw_away()
            self.offer_left_work()

    # While it is open

    def take_over(self) -> None:
        """Take the right to write if the window that had it has gone."""
        kept = self.document.kept
        if kept is None or not self.document.to_look:
            return
        if not kept.take_over():
            self.notice.say(f"Still open only to look: {kept.why_not}.", False)
            return
        self.look_at_disk()
        self.notice.say("The project can be changed here now.", False)
        self.document.saved_changed.emit()
        if kept.unfinished.says:
            self.say_what_was_found()

    def look_at_disk(self, ask: bool = False) -> bool:
        """Take in what somebody else changed in the folder; false when that waits for an answer.

        What was changed here as well is asked about at once with ``ask``, else when the person wants.
        """
        document = self.document
        kept = document.kept
        if kept is None or self.arrivals.busy or document.dragging or document.opening:
            return True
        if kept.to_look and not kept.is_held and kept.take_over():
            # What was in the way, such as a full disk, is no more.
            self.notice.say("The project can be changed here now.", False)
            document.saved_changed.emit()
        try:
            found = kept.look(document.project)
        except core.files.Gone as gone:
            self.notice.say(str(gone), True, ("save as…", self.save_as))
            return False
        except Trouble as trouble:
            self.notice.say(
                f"The project was changed on disk and cannot be read now. {trouble}", True, ("save as…", self.save_as)
            )
            return False
        if found is None:
            return True
        if found.project is None:
            kept.seen(found)
            if found.changed:
                document.load_again(found.changed)
                self.notice.say(f"Read again, for it changed on disk: {listed(sorted(found.changed))}.", False)
            self._tell_gone(found.gone)
            return True
        merged = core.changes.merge(document.saved_project, document.project, found.project)
        project = merged.project
        if merged.differences and not ask:
            parts = listed([d.says for d in merged.differences], 2)
            self.notice.say(f"Changed here and on disk: {parts}.", True, ("choose…", partial(self.look_at_disk, True)))
            return False
        if merged.differences:
            page = Settling(self, merged.differences)
            if not accepted(page):
                return False
            project = core.changes.settle(merged, page.sides(), found.project)
        document.take_in(project, "What changed on disk", found)
        document.load_again(found.changed)
        if merged.taken:
            self.notice.say(f"Taken in from disk: {listed(list(merged.taken))}.", False)
        named = {name for _, name in core.files.named_files(document.project)}
        self._tell_gone({old: new for old, new in found.gone.items() if old in named})
        return True

    def _tell_gone(self, gone: Mapping[str, str]) -> None:
        """Say which files went; what was read of them plays on until the project is opened again."""
        if not gone:
            return
        moved = {old: new for old, new in gone.items() if new}
        rows = [f"{old} is called {moved[old]} now" if old in moved else f"{old} is no longer there" for old in gone]
        follow = [("follow", partial(self._follow, moved))] if moved else []
        self.notice.say(f"Changed on disk: {listed(rows)}.", True, *follow)

    def _follow(self, moved: Mapping[str, str]) -> None:
        self.document.apply(core.edit.follow_files(self.document.project, moved))
