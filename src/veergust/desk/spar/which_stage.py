"""Which of the project's stages is shown: chosen, named, made and removed."""

from __future__ import annotations

from PySide6.QtWidgets import QVBoxLayout, QWidget

from veergust.core.edit import Edit, add_stage, remove_stage, rename_stage, use_stage
from veergust.desk.document.document import Document
from veergust.desk.frame.page import Attempt
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.fields import ChoiceField, Form, TextField
from veergust.desk.widgets.rows import buttons


class WhichStage(QWidget):
    """The stages of the project, and what is done with them as a whole."""

    def __init__(self, document: Document, attempt: Attempt) -> None:
        super().__init__()
        self.document, self.attempt = document, attempt
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(6)
        self.which = ChoiceField("Stage", self._use, "The stage that is shown, and played on")
        self.name = TextField("Name of the stage", self._rename, "What it is called; drills and takes follow")
        for field in (self.which, self.name):
            field.setMinimumWidth(150)
        form = Form()
        form.row("Stage", self.which)
        form.row("Called", self.name)
        box.addWidget(form)
        self.new_button = word_button("+ stage", "A stage more, like this one", strong=True)
        self.new_button.clicked.connect(self.add)
        self.gone_button = word_button("remove stage", "Take this stage out of the project")
        self.gone_button.clicked.connect(lambda: self.attempt(lambda: remove_stage(self.document.base)))
        box.addWidget(buttons(self.new_button, self.gone_button))

    def renew(self) -> None:
        """Show what stages there are."""
        project = self.document.project
        names = sorted(s.name for s in (project.stage, *project.stages))
        self.which.show_choices([(name, name) for name in names], project.stage.name)
        self.name.show_value(project.stage.name)
        self.gone_button.setEnabled(bool(project.stages))

    def _use(self, name: str) -> None:
        if name != self.document.base.stage.name:
            self.attempt(lambda: use_stage(self.document.base, name))

    def _rename(self, name: str) -> None:
        if name.strip() != self.document.base.stage.name:
            self.attempt(lambda: rename_stage(self.document.base, name))

    def add(self) -> None:
        """A stage more, whose name can be typed at once."""

        def made() -> Edit:
            return add_stage(self.document.base)[0]

        if self.attempt(made):
            self.name.setFocus()
            self.name.selectAll()
