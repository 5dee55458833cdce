"""What was changed: since the project was saved, or against another one; each gone to, or taken back by itself."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtGui import QCloseEvent
from PySide6.QtWidgets import QDialog, QFileDialog, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from veergust.core.changes import ToldChange, can_be_taken_back, changes, numbers, place_of_change, taken_back
from veergust.core.edit import Edit
from veergust.core.files import load_assets, open_project
from veergust.core.kinds import Ref
from veergust.core.play import CompiledProject
from veergust.core.trouble import Trouble
from veergust.desk.document.document import Document
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.fields import ChoiceField, heading, note
from veergust.desk.widgets.rows import buttons, switch

FEW = 6
"""Of so many actions that were changed the numbers are told at once."""


class ChangedPage(QDialog):
    """A list of what was changed, in the animator's words."""

    def __init__(self, document: Document, go: Callable[[Ref], None], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.document, self.go = document, go
        self.against: CompiledProject = document.saved_build
        self.found: list[ToldChange] = []
        self.setWindowTitle("What changed")
        self.resize(620, 520)
        box = QVBoxLayout(self)
        box.setContentsMargins(20, 16, 20, 16)
        box.setSpacing(8)
        self.head = heading("Since it was saved")
        box.addWidget(self.head)
        self.saved_button = switch("since it was saved", "What was changed since", lambda _: self.since_saved())
        self.other_button = switch("against…", "What is otherwise in another project folder", lambda _: self.choose())
        self.version = ChoiceField("Version", self.since_version, "What is otherwise in a version of the open action")
        self.version.setMinimumWidth(190)
        box.addWidget(buttons(self.saved_button, self.other_button, self.version))
        self.words = note()
        self.words.setWordWrap(True)
        box.addWidget(self.words)
        self.list = QListWidget()
        self.list.setAccessibleName("What changed")
        self.list.setWordWrap(True)
        self.list.itemActivated.connect(lambda _: self.open())
        self.list.currentRowChanged.connect(lambda _: self._renew())
        box.addWidget(self.list, 1)
        self.go_button = word_button("go there", "Where it is looked at and changed", strong=True)
        self.go_button.clicked.connect(self.open)
        self.flip_button = switch("as it was", "Shown as it was, for as long as this is on", self.flip)
        self.back_button = word_button("take this back", "As it was, and all else as it is; it can be undone")
        self.back_button.clicked.connect(self.take_back)
        close = word_button("close", "Back to work")
        close.clicked.connect(self.close)
        box.addWidget(buttons(self.go_button, self.flip_button, self.back_button, close))
        self.since_saved()

    def since_saved(self) -> None:
        """Against the project as it was last saved or opened."""
        self.against = self.document.saved_build
        self._tell("Since it was saved")

    def since_version(self, name: str) -> None:
        """Against a version of the open action that is kept beside it."""
        project, action = self.document.project, self.document.action
        found = next((a for a in project.actions if a.name == action), None)
        kept = next((k for k in found.kept if k.name == name), None) if found is not None else None
        if found is None or kept is None:
            return
        # What is kept has no name of its own, and no versions.
        was = replace(kept.action, name=found.name, identity=found.identity, kept=found.kept, version=found.version)
        before = replace(project, actions=tuple(was if a is found else a for a in project.actions))
        self.against = self.document.build.renew(before)
        self._tell(f"{found.name} against its version {name}")

    def flip(self, old: bool) -> None:
        """Show the chosen one as it was, or as it is."""
        one = self.chosen
        if old and one is not None and can_be_taken_back(one):
            self.document.preview(taken_back(self.document.base, one))
        else:
            self.document.cancel_preview()

    def choose(self) -> None:
        """Ask for another project to hold it against."""
        folder = QFileDialog.getExistingDirectory(self, "Against which project")
        if folder:
            self.hold_against(Path(folder))
        self._renew()

    def hold_against(self, folder: Path) -> None:
        """Against another project folder."""
        try:
            other = open_project(folder)
            self.against = CompiledProject(other, load_assets(other, folder)[0])
        except Trouble as trouble:
            self.words.setText(str(trouble))
            return
        self._tell(f"Against {folder.name}")

    def _tell(self, head: str) -> None:
        self.head.setText(head)
        now = self.document.build
        self.found = changes(self.against.project, now.project)
        touched = {one.of for one in self.found}
        if len(touched) <= FEW:
            self.found += numbers(self.against, now, self.found)
        self.list.clear()
        for one in self.found:
            item = QListWidgetItem(one.says)
            item.setToolTip(" › ".join(one.where))
            self.list.addItem(item)
        many = len(self.found)
        self.words.setText(f"{many} thing{'s' if many > 1 else ''} are otherwise." if many > 1 else
                           "One thing is otherwise." if many else "Nothing was changed.")  # fmt: skip
        self.list.setCurrentRow(0)
        self._renew()

    @property
    def chosen(self) -> ToldChange | None:
        """The change that is chosen."""
        row = self.list.currentRow()
        return self.found[row] if 0 <= row < len(self.found) else None

    def open(self) -> None:
        """Go to where the chosen one is."""
        at = place_of_change(self.document.project, self.chosen) if self.chosen is not None else None
        if at is not None:
            self.go(at)
            self.close()

    def take_back(self) -> None:
        """Take the chosen one back."""
        one = self.chosen
        if one is None or not can_be_taken_back(one):
            return
        self.document.cancel_preview()
        row, head = self.list.currentRow(), self.head.text()
        if self.document.apply(Edit(taken_back(self.document.base, one), f"Taken back: {one.says}")):
            self._tell(head)
            self.list.setCurrentRow(min(row, self.list.count() - 1))

    def _renew(self) -> None:
        one = self.chosen
        self.flip_button.setChecked(False)
        self.document.cancel_preview()
        action = next((a for a in self.document.project.actions if a.name == self.document.action), None)
        versions = [(f"the version {k.name}", k.name) for k in action.kept] if action is not None else []
        self.version.show_choices([("against a version…", ""), *versions], "")
        self.version.setEnabled(bool(versions))
        self.flip_button.setEnabled(one is not None and can_be_taken_back(one))
        self.saved_button.setChecked(self.against is self.document.saved_build)
        self.other_button.setChecked(self.against is not self.document.saved_build)
        self.go_button.setEnabled(one is not None and place_of_change(self.document.project, one) is not None)
        self.back_button.setEnabled(one is not None and can_be_taken_back(one))
        self.list.setFocus(Qt.FocusReason.OtherFocusReason)

    def closeEvent(self, event: QCloseEvent) -> None:
        self.document.cancel_preview()
        super().closeEvent(event)
