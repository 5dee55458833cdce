"""Going to a place of the project: of a finding, by name, from anywhere or in what is before one; and renaming it."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from PySide6.QtWidgets import QInputDialog

from veergust import core
from veergust.core.trouble import Trouble
from veergust.desk.document.document import Document
from veergust.desk.shell.find import everything
from veergust.desk.widgets.asking import accepted
from veergust.desk.widgets.choose import Chooser
from veergust.desk.widgets.notice import Notice

if TYPE_CHECKING:
    from veergust.core.kinds import Ref

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from veergust.desk.ground.bench import GroundBench
    from veergust.desk.layers.bench import LayersBench

    Base = QWidget
else:
    Base = object


class GoingDoors(Base):
    """The part of the window that goes to places of the project."""

    document: Document
    notice: Notice
    acts: dict[str, Callable[[], object]]

    if TYPE_CHECKING:

        @property
        def bench(self) -> str: ...

        @property
        def is_first(self) -> bool: ...

        @property
        def ground(self) -> GroundBench: ...

        @property
        def layers(self) -> LayersBench: ...

        def bench_of(self, name: str) -> Any: ...

        def show_bench(self, name: str) -> None: ...

    def go_to(self, at: Ref) -> None:
        """Show the place of a finding: a clip on its bench, what is in an action on the sheet."""
        if at.part == "clip":
            self.document.choose_clip(at.name)
            self.show_bench("Clips")
        elif at.part == "locomotion":
            self.show_bench("Ground")
            self.ground.go_to(at)
        elif at.part in ("layer", "mask"):
            self.show_bench("Layers")
            self.layers.go_to(at)
        elif at.part == "action":
            self.show_bench("Sheet")
            self.document.go_to(at)
        elif at.part == "command":
            self.show_bench("Spar")
            self.bench_of("Spar").go_to(at.name)
        else:
            self.notice.say(f"{at} is changed in the files of the project.")

    def show_changed(self) -> None:
        """What was changed since it was saved, or against another project."""
        from veergust.desk.shell.changed import ChangedPage  # what it needs is not needed for anything else

        accepted(ChangedPage(self.document, self.go_to, self))

    def find_anything(self) -> None:
        """Find an action, a clip or a command by name, or what the window can do, and go there or do it."""
        found = {f.says: f for f in everything(self.document.project)}
        dialog = Chooser(self, "Find anything", list(found), "Type a part of a name")
        dialog.resize(460, 420)
        if accepted(dialog) and dialog.chosen() in found:
            chosen = found[dialog.chosen()]
            if chosen.does:
                self.acts[chosen.does]()
            elif chosen.clip:
                self.document.choose_clip(chosen.clip)
                self.show_bench("Clips")
            elif chosen.state:
                self.show_bench("Ground")
                self.ground.selection.choose(chosen.state)
            elif chosen.layer:
                self.show_bench("Layers")
                self.layers.selection.choose(chosen.layer)
            elif chosen.action:
                self.document.choose_action(chosen.action)
                self.show_bench("Sheet")
            else:
                self.notice.say(f"No action uses this yet: {chosen.says}.")

    def find_here(self) -> None:
        """Find in what the bench is about."""
        if self.is_first:
            self.find_anything()
        else:
            self.bench_of(self.bench).find_here()

    def rename(self) -> None:
        """Give the open clip or action another name; what names it follows."""
        if self.bench == "Ground":
            self.ground.to_fields()
            return
        if self.bench == "Layers":
            self.layers.rename()
            return
        clips = self.bench == "Clips"
        old = self.document.clip if clips else self.document.action
        if not old:
            return
        new, fine = QInputDialog.getText(self, "Rename", f"A new name for {old}", text=old)
        if not fine:
            return
        try:
            edit = (core.edit.rename_clip if clips else core.edit.rename_action)(self.document.project, old, new)
        except Trouble as trouble:
            self.notice.say(str(trouble), True)
            return
        if clips:
            self.document.clip = new.strip()
        else:
            self.document.action = new.strip()
        self.document.apply(edit)
