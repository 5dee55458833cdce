"""A new command with the key it is bound to: pressed, not typed; one that is taken says by what."""

from __future__ import annotations

from PySide6.QtWidgets import QCheckBox, QDialog, QKeySequenceEdit, QLineEdit, QVBoxLayout, QWidget

from veergust.core.edit import Edit, add_command, who_has
from veergust.core.model import Project
from veergust.core.trouble import Trouble
from veergust.desk.keys.pressing import last_of
from veergust.desk.keys.table import TABLE, on_key
from veergust.desk.widgets.buttons import dialog_end
from veergust.desk.widgets.fields import Form, note

NEW = "a new one…"
"""The entry of a list of commands that asks for one."""


class NewCommand(QDialog):
    """Asks for it; ``edit`` makes it, ``name`` is what it is called."""

    def __init__(self, parent: QWidget, project: Project) -> None:
        super().__init__(parent)
        self.project = project
        self.edit: Edit | None = None
        self.setWindowTitle("A new command")
        self.line = QLineEdit()
        self.line.setAccessibleName("Name")
        self.line.setPlaceholderText("kick, parry, …")
        self.key = QKeySequenceEdit()
        self.key.setAccessibleName("Key")
        self.key.setMaximumSequenceLength(1)
        self.key.setClearButtonEnabled(True)
        self.over = QCheckBox("take it over")
        self.told = note()
        form = Form()
        form.row("Name", self.line)
        form.row("Key", self.key)
        buttons, self.make_button = dialog_end(self, "Make it")
        box = QVBoxLayout(self)
        box.setContentsMargins(18, 16, 18, 14)
        box.setSpacing(10)
        box.addWidget(form)
        box.addWidget(self.told)
        box.addWidget(self.over)
        box.addStretch(1)
        box.addWidget(buttons)
        self.make_button.setDefault(True)
        self.line.textChanged.connect(self.renew)
        self.key.keySequenceChanged.connect(self.renew)
        self.over.toggled.connect(self.renew)
        self.resize(380, 230)
        self.renew()

    @property
    def name(self) -> str:
        """What it is called."""
        return self.line.text().strip()

    def renew(self) -> None:
        """Say whether it can be made so."""
        # What is held with a key does not count in play.
        pressed = self.key.keySequence().toString()
        key = last_of(pressed) if pressed else ""
        has = who_has(self.project, key) if key else ""
        self.over.setVisible(bool(has))
        self.edit, says = None, ""
        try:
            self.edit = add_command(self.project, self.name, key, take_over=self.over.isChecked())
        except Trouble as trouble:
            says = str(trouble) if self.name else "It needs a name; the key may wait."
        own = next((c.does for c in TABLE if key and c.name == on_key("spar", key)), "")
        if self.edit is not None and own:
            says = f"On Spar {key} is also there to {own}; the fighter comes first."
        self.told.setText(says)
        self.make_button.setEnabled(self.edit is not None)
