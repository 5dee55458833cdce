"""The Layers bench put together: stack and scope, mask, the mix that is tried, and the pages."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QWidget

from veergust.core.edit import Edit, add_layer, double_layer
from veergust.core.kinds import Ref
from veergust.core.play import FighterState
from veergust.core.study import moved_by
from veergust.core.trouble import Trouble
from veergust.desk.document.document import Document
from veergust.desk.frame.bench import Desk
from veergust.desk.frame.empty import NO_CLIPS, Nothing
from veergust.desk.frame.framed import Framed
from veergust.desk.frame.pages import Makes
from veergust.desk.frame.session import Session
from veergust.desk.layers.cards.hands import HandsPage
from veergust.desk.layers.cards.layer import LayerPage
from veergust.desk.layers.cards.trying import TryPage
from veergust.desk.layers.mask_panel import MaskPanel
from veergust.desk.layers.selection import LayerSelection
from veergust.desk.layers.stack_view import StackView
from veergust.desk.layers.try_stage import TryStage
from veergust.desk.look.theme import Theme


class LayersBench(Framed):
    """Where actions get their place over locomotion."""

    where, name, heading = "layers", "Layers", "Layers over locomotion"

    def __init__(self, document: Document, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.document, self.theme = document, theme
        self.selection = LayerSelection(document, self)
        self.stack = StackView(document, theme, self.selection)
        self.masks = MaskPanel(document, theme, self.selection)
        self.trying = TryStage(document, theme, self.selection)
        makes: Makes = {
            TryPage: lambda at: TryPage(document, self.selection, self.trying, at),
            LayerPage: lambda at: LayerPage(document, self.selection, at),
            HandsPage: lambda at: HandsPage(document, self.selection, at),
        }
        self.lay_out(self.stack, self.masks, self.trying, makes, (
            ("+ layer", "A new layer over the one that is chosen (N)", self.add),
            ("double", "A layer like this one, over it (D)", self.double),
        ))  # fmt: skip
        self.stack.opened.connect(self.to_fields)
        self.trying.shown.connect(self._shown)
        document.changed.connect(self.renew)
        self.selection.settle()
        self.renew()

    @property
    def try_page(self) -> TryPage:
        """What is tried over what."""
        return self.pages.stack.of(TryPage)

    @property
    def layer_page(self) -> LayerPage:
        """The fields of the chosen layer."""
        return self.pages.stack.of(LayerPage)

    @property
    def hands_page(self) -> HandsPage:
        """What the hands keep to."""
        return self.pages.stack.of(HandsPage)

    def attach(self, window: Desk) -> None:
        def take() -> list[FighterState]:
            session: Session = window.bench_of("Spar").session
            return [f for r in session.records for f in r.fighters if f.name == session.fighter]

        self.try_page.takes = take

    def enter(self) -> None:
        self.stack.setFocus()
        self.trying.show_tick()

    def leave(self) -> None:
        self.trying.hold()

    # Showing

    def renew(self) -> None:
        """Show the layers as they are now."""
        self.selection.settle()
        self.stack.renew()
        self.masks.renew()
        for page in self.pages.stack.every():
            page.renew()

    def _shown(self) -> None:
        """Who plays and who moves which joint, on the frame that is looked at."""
        fighter = self.trying.fighter
        if fighter is None:
            self.stack.show_playing({}, "")
            self.masks.show_who([])
            return
        plays = {}
        for voice in fighter.voices:
            name = voice.compiled.action.name
            row = sum(voice.compiled.sections[i].ticks for i in voice.compiled.path)
            told = "waits" if voice.waits else f"{voice.age + 1} of {row}" if voice.live else "fades"
            plays[voice.layer] = f"{name} {told}"
        self.stack.show_playing(plays, fighter.locomotion[-1].state)
        self.masks.show_who(moved_by(self.document.build, fighter))

    def to_fields(self) -> None:
        """Put the keys into the fields of the layer."""
        self.open_page(LayerPage)
        QTimer.singleShot(0, self.layer_page.mode.setFocus)

    def rename(self) -> None:
        """Put the keys into the layer's name."""
        self.open_page(LayerPage)
        QTimer.singleShot(0, self._to_name)

    def _to_name(self) -> None:
        self.layer_page.name.setFocus()
        self.layer_page.name.selectAll()

    def go_to(self, at: Ref) -> None:
        """Show a layer, or a mask with a layer that has it."""
        name = at.name
        if at.part == "mask":
            name = next((y.name for y in self.document.project.layers if y.mask == at.name), self.selection.name)
        self.selection.choose(name)

    # Deeds

    def _do(self, make: Callable[[], tuple[Edit, str]]) -> None:
        try:
            edit, name = make()
        except Trouble as trouble:
            self.document.said.emit(str(trouble), True)
            return
        if self.document.apply(edit):
            self.selection.choose(name)

    def add(self) -> None:
        """A new layer over the one that is chosen."""
        self._do(lambda: add_layer(self.document.base, self.selection.name))

    def double(self) -> None:
        """A layer like the one that is chosen."""
        if self.selection.name:
            self._do(lambda: double_layer(self.document.base, self.selection.name))

    def acts(self) -> dict[str, Callable[[], object]]:
        """What each command of the bench does."""
        return {
            "new_layer": self.add,
            "double_layer": self.double,
            "new_mask": self.masks.add,
            "remove_layer": lambda: self.layer_page.remove(),
            "layer_up": lambda: self.stack.shove(1),
            "layer_down": lambda: self.stack.shove(-1),
            "try_play": self.trying.toggle,
            "try_back": lambda: self.trying.step(-1),
            "try_on": lambda: self.trying.step(1),
            "both_spaces": self.trying.both.click,
        }

    def things(self) -> tuple[list[str], Callable[[str], object]]:
        return [layer.name for layer in self.document.project.layers], self.selection.choose

    def nothing(self) -> Nothing | None:
        return NO_CLIPS if not self.document.project.rig.figure else None
