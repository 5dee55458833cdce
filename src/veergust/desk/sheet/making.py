"""Actions made, put together and removed: each asks what it has to know."""

from __future__ import annotations

from PySide6.QtWidgets import QWidget

from veergust.core.edit import Edit, leads_to, like, new_action, remove_action, set_start
from veergust.core.files import SPOKEN
from veergust.desk.document.document import Document
from veergust.desk.sheet.new_command import NewCommand
from veergust.desk.sheet.together import Together
from veergust.desk.widgets.asking import accepted
from veergust.desk.widgets.choose import Chooser, choose_clips


def remove(document: Document, parent: QWidget) -> None:
    """Remove the open action; what leads to it is listed, and led elsewhere or taken along."""
    name = document.action
    if document.compiled is None:
        return
    instead = ""
    led = leads_to(document.project, name)
    if led:
        shown = f"{', '.join(led[:3])}{f' and {len(led) - 3} more' if len(led) > 3 else ''}"
        along = f"take along: {shown}"
        others = {f"lead to {a.name} instead": a.name for a in document.project.actions if a.name != name}
        dialog = Chooser(parent, f"{len(led)} lead to {name}", [along, *others], "What becomes of what leads to it")
        dialog.resize(520, 360)
        if not accepted(dialog):
            return
        instead = others.get(dialog.chosen(), "")
    document.apply(remove_action(document.base, name, instead))
    document.said.emit(f"{name} is removed. Ctrl+Z brings it back.", False)


def make_like(document: Document) -> None:
    """A new action like the open one."""
    if document.compiled is not None:
        edit, action = like(document.project, document.action)
        document.apply(edit)
        document.choose_action(action)


def ask_clips(document: Document, parent: QWidget) -> list[str]:
    """Ask which clips new actions are to be of, the open one first; none when none is wanted, or there is none."""
    if not document.project.clips:
        document.said.emit(f"There is no clip yet: drop a {SPOKEN} file on the window first.", True)
        return []
    return choose_clips(parent, [clip.name for clip in document.project.clips], document.clip)


def make_actions(document: Document, clips: list[str]) -> None:
    """Make an action of each clip, as one step, and open the first."""
    project = document.project
    made: list[str] = []
    for clip in clips:
        edit, name = new_action(project, document.build.assets, clip)
        project = edit.project
        made.append(name)
    words = f"New action{'s' if len(made) > 1 else ''} {', '.join(made)}"
    document.apply(Edit(project, words))
    document.choose_action(made[0])
    document.said.emit(f"{words}, of {'the clip ' if len(clips) == 1 else ''}{', '.join(clips)}.", False)


def put_together(document: Document, parent: QWidget) -> None:
    """Ask which actions go together, and how, and put them together."""
    if document.compiled is None:
        document.said.emit("There is no action yet: make one of a clip first.", True)
        return
    if document.refuses():
        return

    def new_command(over: QWidget) -> str:
        name = make_command(document, over)
        dialog.build = document.build
        return name

    dialog = Together(parent, document.build, document.action, new_command)
    if accepted(dialog) and dialog.edit is not None:
        document.apply(dialog.edit)
        document.said.emit(f"Put together, {dialog.edit.words}. Spar plays it; Ctrl+Z takes it apart.", False)


def make_command(document: Document, parent: QWidget) -> str:
    """Ask for a new command, and make it; gives its name, or nothing."""
    if document.refuses():
        return ""
    dialog = NewCommand(parent, document.project)
    if not accepted(dialog) or dialog.edit is None:
        return ""
    return dialog.name if document.apply(dialog.edit) else ""


def choose_start(document: Document, parent: QWidget, command: str) -> bool:
    """Ask which action a command is to start, and have it start that, too; whether one was chosen."""
    if document.refuses():
        return False
    names = [a.name for a in document.project.actions]
    if not names:
        document.said.emit("There is no action yet: make one of a clip first (Ctrl+Shift+N).", True)
        return False
    dialog = Chooser(parent, f"What {command} starts", names, "Type a part of the action's name")
    dialog.go_to(document.action)
    if not accepted(dialog) or not dialog.chosen():
        return False
    action = next(a for a in document.project.actions if a.name == dialog.chosen())
    commands = (*(c for c in action.start.commands if c != command), command)
    document.apply(set_start(document.base, action.name, f"starts on {', '.join(commands)}", commands=commands))
    document.choose_action(action.name)
    return True
