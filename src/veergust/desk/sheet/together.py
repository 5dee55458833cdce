"""Putting actions together: which, in which order, on which commands, and how; what comes of it is shown before."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QVBoxLayout,
    QWidget,
)

from veergust.core.edit import HOWS, MEMORY, MOST, Edit, in_words, links, make_string, with_twins
from veergust.core.kinds import listed_commands
from veergust.core.play import CompiledProject
from veergust.core.trouble import Trouble
from veergust.desk.keys.pressing import pressed
from veergust.desk.keys.table import on_key
from veergust.desk.sheet.new_command import NEW
from veergust.desk.widgets.buttons import dialog_end, word_button
from veergust.desk.widgets.fields import ChoiceField, Form, NumberField, note
from veergust.desk.widgets.label import PlainLabel
from veergust.desk.widgets.listed import ListedField

LAST = Qt.ItemDataRole.UserRole


class Actions(QListWidget):
    """The list of actions: a click or Space takes one in or out, Return goes on to the dialog."""

    turned = Signal(QListWidgetItem)

    def __init__(self) -> None:
        super().__init__()
        self.itemClicked.connect(self.turned)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        name = on_key("together", pressed(event))
        if name == "take_in" and self.currentItem() is not None:
            self.turned.emit(self.currentItem())
        elif name == "make_it":
            event.ignore()  # it is the dialog's
        else:
            super().keyPressEvent(event)


class Together(QDialog):
    """Asks for it; ``edit`` is what was asked for. ``new_command`` makes a command in place and gives its name."""

    def __init__(
        self, parent: QWidget, build: CompiledProject, action: str, new_command: Callable[[QWidget], str]
    ) -> None:
        super().__init__(parent)
        self.build, self.new_command = build, new_command
        self.setWindowTitle("Put together")
        project = build.project
        self.names = _proposed(build, action)
        first = next((a for a in project.actions if a.name == action), None)
        own = first.start.commands[:1] if first is not None else ()
        self.commands = list(own or listed_commands(project)[:1])
        self.edit: Edit | None = None
        self.list = Actions()
        self.list.setAccessibleName("Actions; Space or a click takes one in or out")
        for each in project.actions:
            item = QListWidgetItem(each.name)
            item.setData(LAST, each.name)
            self.list.addItem(item)
        self.list.turned.connect(self._turn)
        self.how = ChoiceField("How", lambda _: self.renew(), "What the command does with them")
        self.how.show_choices([(words, how) for how, words in HOWS.items()], "string")
        self.how.setFixedWidth(190)
        self.command = ListedField(
            "Commands", self._command, "The first starts it, each next one goes on with the next"
        )
        self.memory = NumberField("Remembered", lambda _: self.renew(), unit="f", low=0, high=3600,
                                  tip="For how long after one has ended a press still goes on")  # fmt: skip
        self.memory.show_value(MEMORY)
        self.twins = word_button("each with its mirrored twin", "Left and right in turn", checkable=True)
        self.twins.setObjectName("switch")
        self.twins.toggled.connect(lambda _: self.renew())
        self.told = note()
        self.told.setMinimumHeight(140)
        self.told.setAlignment(Qt.AlignmentFlag.AlignTop)
        self._lay_out()
        self.renew()
        self.list.setCurrentRow(next((i for i, a in enumerate(project.actions) if a.name == action), 0))
        self.list.setFocus()

    def _lay_out(self) -> None:
        form = Form()
        form.row("How", self.how)
        form.row("Commands", self.command)
        form.row("Remembered", self.memory)
        form.row("Twins", self.twins)
        right = QVBoxLayout()
        right.addWidget(form)
        right.addWidget(self.told, 1)
        left = QVBoxLayout()
        left.addWidget(PlainLabel(f"Actions, in turn (2 to {MOST})"))
        left.addWidget(self.list, 1)
        middle = QHBoxLayout()
        middle.setSpacing(18)
        middle.addLayout(left, 2)
        middle.addLayout(right, 3)
        buttons, self.make_button = dialog_end(self, "Make it")
        box = QVBoxLayout(self)
        box.setContentsMargins(18, 16, 18, 14)
        box.setSpacing(12)
        box.addLayout(middle, 1)
        box.addWidget(buttons)
        self.make_button.setDefault(True)
        self.resize(660, 440)

    def _turn(self, item: QListWidgetItem) -> None:
        """Take an action in behind the others, or out."""
        name = str(item.data(LAST))
        if name in self.names:
            self.names.remove(name)
        else:
            self.names.append(name)
        self.renew()

    def _command(self, commands: tuple[str, ...]) -> None:
        self.commands = list(commands)
        if NEW in commands:
            made = self.new_command(self)
            self.commands = [c for c in commands if c != NEW] + ([made] if made else [])
        self.renew()

    def renew(self) -> None:
        """Show who is in, and what comes of it."""
        for i in range(self.list.count()):
            item = self.list.item(i)
            name = str(item.data(LAST))
            at = self.names.index(name) + 1 if name in self.names else 0
            item.setText(f"{at}  {name}" if at else f"    {name}")
            font = item.font()
            font.setBold(bool(at))
            item.setFont(font)
        names = listed_commands(self.build.project)
        self.command.show_value(tuple(self.commands), [*names, NEW], again=True)
        how = str(self.how.currentData())
        self.memory.setEnabled(how != "chance")
        self.edit = None
        try:
            self.edit = self._made()
        except Trouble as trouble:
            self.told.setText(str(trouble).capitalize())
        else:
            self.told.setText("\n".join(self._words(how)))
        self.make_button.setEnabled(self.edit is not None)

    def _made(self) -> Edit:
        how = next(key for key in HOWS if key == self.how.currentData())
        build, names = self._all()
        return make_string(build.project, build, names, self.commands, how, int(self.memory.value()))

    def _all(self) -> tuple[CompiledProject, list[str]]:
        """The project with the twins that are wanted, and all names in turn."""
        if not self.twins.isChecked():
            return self.build, self.names
        project, names = with_twins(self.build.project, self.names[:MOST])
        return self.build.renew(project), names

    def _words(self, how: str) -> list[str]:
        if how == "chance":
            rows = [f"{' or '.join(self.commands)} starts one of them, and never the same twice running."]
        else:
            chosen = next(key for key in HOWS if key == how)
            build, names = self._all()
            rows = [f"{self.commands[0]} starts {names[0]}"]
            rows += in_words(links(build, names, self.commands, chosen))
            rows.append("A press that is a little early counts.")
        return rows + list(self.edit.notes if self.edit is not None else ())


def _proposed(build: CompiledProject, action: str) -> list[str]:
    """The open action and those after it in its group that strike, three at most."""
    actions = build.project.actions
    own = next((a for a in actions if a.name == action), None)
    if own is None:
        return []
    rest = actions[actions.index(own) :]
    return [a.name for a in rest if (a.group, a.layer) == (own.group, own.layer)][:3]
