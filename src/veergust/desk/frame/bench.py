"""What a bench does to be one, and what it may ask of the window around it."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Any, Protocol

from PySide6.QtCore import Signal, SignalInstance
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QSplitter, QWidget

from veergust.desk.frame.empty import Nothing
from veergust.desk.frame.reading import put_in_order
from veergust.desk.widgets.asking import accepted
from veergust.desk.widgets.choose import Chooser

if TYPE_CHECKING:
    from veergust.core.files import Draft
    from veergust.core.kinds import Ref
    from veergust.core.model import SourceRig


class Incoming(Protocol):
    """Files that are on their way in."""

    @property
    def ended(self) -> SignalInstance:
        """Sent when no more come."""

    def give_up(self) -> None:
        """Let what is left of them be."""


class Desk(Protocol):
    """The window, as its benches see it."""

    @property
    def arrivals(self) -> Incoming:
        """Files that are on their way in."""

    def bench_of(self, name: str) -> Any:
        """Another bench, by name."""

    def cells_cut(self, draft: Draft) -> None:
        """Take a sheet of drawings in as it was cut."""

    def mapped(self, rig: SourceRig) -> None:
        """A mapping was answered."""

    def make_action(self, clip: str) -> None:
        """A new action of a clip, on the Sheet."""

    def make_actions(self, clips: list[str]) -> None:
        """A new action of each clip, the first on the Sheet."""

    def tell(self, words: str, *choices: tuple[str, Callable[[], object]]) -> None:
        """Say something, and what can be done about it."""

    def choose_start(self, command: str) -> None:
        """Have an action chosen that a command starts."""

    def go_to(self, at: Ref) -> None:
        """Show a place in the project."""

    def rename(self) -> None:
        """Give what is open another name."""

    def ask_import(self) -> None:
        """Ask which files come in."""


class Bench(QWidget):
    """A working place of the window. What is said here is what the window asks of every bench.

    A bench is laid out from the outside in: everything moved to another parent has all that is in it styled anew.
    """

    nothing_changed = Signal()
    """What ``nothing`` says may be otherwise, though the project is not."""

    def attach(self, window: Desk) -> None:
        """Join up with the rest of the window, once, after it was made."""

    def enter(self) -> None:
        """It is shown now; it takes the keys."""
        self.setFocus()

    def leave(self) -> None:
        """Another is shown now."""

    def focusNextPrevChild(self, forward: bool) -> bool:
        put_in_order(self)
        return super().focusNextPrevChild(forward)

    def key(self, event: QKeyEvent) -> bool:
        """Answer a key that nothing in it took; whether it was one of its own."""
        return False

    def nothing(self) -> Nothing | None:
        """What it says while it has nothing yet."""
        return None

    def find_here(self) -> None:
        """Find one of what it is about, and go there."""
        names, choose = self.things()
        if not names:
            return
        dialog = Chooser(self, "Find here", names, "Type a part of a name")
        if accepted(dialog) and dialog.chosen():
            choose(dialog.chosen())

    def things(self) -> tuple[list[str], Callable[[str], object]]:
        """The names of what it is about, and how one is gone to."""
        return [], str

    def fold_side(self) -> None:
        """The list at its left away, or back, where it has one that folds."""

    def splitters(self) -> dict[str, QSplitter]:
        """What keeps its sizes from run to run, by the name they are kept under."""
        return {}
