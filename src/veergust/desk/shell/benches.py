"""The benches: which there are, and the part of the window that shows them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from importlib import import_module
from pathlib import Path
from typing import TYPE_CHECKING, cast

from PySide6.QtCore import QByteArray, QSettings
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QPushButton, QStackedWidget, QWidget

from veergust.desk.document.document import Document
from veergust.desk.frame.bench import Bench, Desk
from veergust.desk.frame.empty import EmptyPage
from veergust.desk.frame.reading import put_in_order
from veergust.desk.look.theme import Theme
from veergust.desk.shell.first import FirstPage
from veergust.desk.shell.lately import lately
from veergust.desk.widgets.sides import keep_words

if TYPE_CHECKING:
    from veergust.desk.clips.bench import ClipsBench
    from veergust.desk.ground.bench import GroundBench
    from veergust.desk.layers.bench import LayersBench
    from veergust.desk.sheet.bench import SheetBench
    from veergust.desk.spar.bench import SparBench

    Base = QWidget
else:
    Base = object


@dataclass(frozen=True)
class BenchKind:
    """A bench: its name, the command that leads to it, and where its class is, which is loaded when it is shown."""

    name: str
    command: str
    module: str
    made: str

    def make(self, document: Document, theme: Theme, parent: QWidget) -> Bench:
        """A new one."""
        return cast(Bench, getattr(import_module(self.module), self.made)(document, theme, parent))


BENCHES = {
    kind.name: kind
    for kind in (
        BenchKind("Clips", "show_clips", "veergust.desk.clips.bench", "ClipsBench"),
        BenchKind("Ground", "show_ground", "veergust.desk.ground.bench", "GroundBench"),
        BenchKind("Sheet", "show_sheet", "veergust.desk.sheet.bench", "SheetBench"),
        BenchKind("Layers", "show_layers", "veergust.desk.layers.bench", "LayersBench"),
        BenchKind("Spar", "show_spar", "veergust.desk.spar.bench", "SparBench"),
    )
}
"""By name, in the order they stand in."""
FIRST = "Sheet"


class BenchDoors(Base):
    """The part of the window that holds the benches; each is made when it is first shown, and an empty page keeps its
    place until then."""

    document: Document
    theme: Theme
    settings: QSettings
    benches: QStackedWidget
    bench_buttons: list[QPushButton]
    places: QStackedWidget
    acts: dict[str, Callable[[], object]]
    _first: FirstPage | None
    _made: dict[str, Bench]

    if TYPE_CHECKING:

        def recent(self) -> list[str]: ...

        def open_late(self, folder: Path, bring_back: bool) -> None: ...

    @property
    def first(self) -> FirstPage:
        """The first page, which is made when it is first to be seen."""
        if self._first is None:
            page = self._first = FirstPage(self.theme)
            self.places.addWidget(page)
            page.wanted.connect(lambda name: self.acts[name]())
            page.bench_wanted.connect(self.show_bench)
            page.project_wanted.connect(self.open_late)
        return self._first

    def _keep_places(self) -> None:
        self._made = {}
        self._first = None
        for _ in BENCHES:
            self.benches.addWidget(QWidget())
        self.benches.setCurrentIndex(list(BENCHES).index(FIRST))

    def bench_of(self, name: str) -> Bench:
        """A bench by name."""
        if name not in self._made:
            made = self._made[name] = BENCHES[name].make(self.document, self.theme, self.benches)
            place, here = list(BENCHES).index(name), self.benches.currentIndex()
            empty = self.benches.widget(place)
            self.benches.insertWidget(place, made)
            if empty is not None:
                self.benches.removeWidget(empty)
            self.benches.setCurrentIndex(here)
            made.attach(cast(Desk, self))
            page = EmptyPage(made, made.nothing, lambda deed: self.acts[deed]())
            self.document.changed.connect(page.renew)
            made.nothing_changed.connect(page.renew)
            keep_words(made)
            for kept, splitter in made.splitters().items():
                state = self.settings.value(f"split/{kept}")
                if isinstance(state, QByteArray):
                    splitter.restoreState(state)
        return self._made[name]

    @property
    def clips(self) -> ClipsBench:
        """The Clips bench."""
        return cast("ClipsBench", self.bench_of("Clips"))

    @property
    def ground(self) -> GroundBench:
        """The Ground bench."""
        return cast("GroundBench", self.bench_of("Ground"))

    @property
    def sheet(self) -> SheetBench:
        """The Sheet bench."""
        return cast("SheetBench", self.bench_of("Sheet"))

    @property
    def layers(self) -> LayersBench:
        """The Layers bench."""
        return cast("LayersBench", self.bench_of("Layers"))

    @property
    def spar(self) -> SparBench:
        """The Spar bench."""
        return cast("SparBench", self.bench_of("Spar"))

    @property
    def bench(self) -> str:
        """The bench that is shown, by name."""
        return list(BENCHES)[self.benches.currentIndex()]

    def show_bench(self, name: str) -> None:
        """Show a bench by name."""
        shown = self.bench_of(name)
        self.benches.setCurrentWidget(shown)
        self._show_place(self.benches)
        for button, other in zip(self.bench_buttons, BENCHES):
            button.setChecked(other == name)
        for other, made in self._made.items():
            if other != name:
                made.leave()
        shown.enter()
        put_in_order(shown)

    def show_first(self) -> None:
        """Show the first page."""
        for made in self._made.values():
            made.leave()
        self.first.show_lately(lately(self.recent()))
        self._show_place(self.first)
        self.first.setFocus()

    @property
    def is_first(self) -> bool:
        """Whether the first page is shown."""
        return self._first is not None and self.places.currentWidget() is self._first

    def _show_place(self, place: QWidget) -> None:
        self.places.setCurrentWidget(place)
        for button in self.bench_buttons:
            button.setVisible(place is self.benches)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if self.is_first or not self.bench_of(self.bench).key(event):
            super().keyPressEvent(event)

    def keep_sizes(self) -> None:
        """Keep how the benches are divided for the next run."""
        for made in self._made.values():
            for name, splitter in made.splitters().items():
                self.settings.setValue(f"split/{name}", splitter.saveState())
