"""Whatever is mixed (edits, undo, saves, what others write, checkouts, kills) no work is lost and nobody's is taken.

A run is a person at the open project, without the window's paint, and a folder that others write into. What must hold
is worked out in plain pieces (each action, clip, state … by its name) that share nothing with how the program compares.
``VEERGUST_CRASHES=1000`` runs so many.
"""

from __future__ import annotations

import os
import random
import shutil
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtWidgets import QApplication, QDialog
from tools.made.edits import replace

from tests.core.files.disk import Disk, Killed
from tests.desk.test_window import crash
from veergust.core.edit.spans import Edit
from veergust.core.files.as_files import project_files
from veergust.core.files.folder import open_project, read_folder
from veergust.core.files.left import left_behind
from veergust.core.files.saving import save_project
from veergust.core.model import Action, Clip, Command, Project, State
from veergust.core.trouble import Trouble
from veergust.desk.document.document import Document
from veergust.desk.shell import ondisk
from veergust.desk.shell.ondisk import OnDiskDoors

RUNS = int(os.environ.get("VEERGUST_CRASHES", "10"))
AT_ONCE = 20
NAMES = ("Ash", "Birch", "Cedar", "Dogwood", "Elder")
Pieces = dict[tuple[str, str], Any]


def pieces(project: Project) -> Pieces:
    out: Pieces = {("name", ""): project.name}
    for kind, rows in (("action", project.actions), ("clip", project.clips), ("state", project.locomotion.states),
                       ("command", project.commands)):  # fmt: skip
        out |= {(kind, row.name): row for row in rows}
    return out


def differing(a: Project, b: Project) -> set[tuple[str, str]]:
    x, y = pieces(a), pieces(b)
    return {key for key in {**x, **y} if x.get(key) != y.get(key)}


def changed(project: Project, dice: random.Random) -> Project:
    """A project with one thing made, changed or removed, or two."""
    kind, name, number = dice.choice("aaaacckse"), dice.choice(NAMES), dice.randrange(1, 60)
    if kind == "a":
        rows = {a.name: a for a in project.actions}
        if name in rows and dice.random() < 0.25:
            del rows[name]
        else:
            rows[name] = replace(rows.get(name, Action(name=name)), blend_in=number)
        return replace(project, actions=tuple(rows.values()))
    if kind == "c":
        clips = {c.name: c for c in project.clips}
        clips[name] = replace(clips.get(name, Clip(name=name)), rate=1.0 + number / 10)
        return replace(project, clips=tuple(clips.values()))
    if kind == "k":
        return replace(project, commands=(*[c for c in project.commands if c.name != name], Command(name=name)))
    if kind == "s":
        there = project.locomotion
        states = tuple(s for s in there.states if s.name != name)
        return replace(project, locomotion=replace(there, states=(*states, State(name=name, most=number))))
    return replace(changed(project, dice), name=f"Quay {number}")


class Notice:
    """Takes what is said."""

    def say(self, *_: object) -> None: ...

    def hide(self) -> None: ...


class Nobody:
    busy = False


class Person(OnDiskDoors):
    """Somebody at the open project, with what they did since it was saved or taken in, step by step."""

    def __init__(self, folder: Path) -> None:
        self.document = Document()
        self.notice, self.arrivals = Notice(), Nobody()  # type: ignore[assignment]
        assert self.document.open(folder)
        self.steps: list[set[tuple[str, str]]] = []
        self.ever: set[tuple[str, str]] = set()

    def does(self, act: Callable[[], object], new: bool = True) -> None:
        """Do something that changes what is open, and note what it was about; what is not ``new`` is about nothing
        that this person never touched."""
        before = self.document.project
        try:
            act()
        finally:
            about = differing(before, self.document.project)
            assert new or about <= self.ever, "what others made is no step of one's own"
            if about:
                self.steps.append(about)
                self.ever |= about

    def look(self) -> None:
        before = self.document.saved_project
        if self.look_at_disk(ask=True) and self.document.saved_project is not before:
            mine = differing(self.document.saved_project, self.document.project)
            self.steps = [mine] if mine else []

    def save(self) -> None:
        disk = open_project(self.folder)
        self.look()
        if self.document.save():
            self.steps = []
            after = open_project(self.folder)
            assert differing(after, self.document.project) == set()
            assert differing(disk, after) <= self.ever, "what others made is never written over unasked"

    @property
    def folder(self) -> Path:
        assert self.document.folder is not None
        return self.document.folder


def somebody_else(folder: Path, dice: random.Random) -> None:
    """Another program that knows no lock."""
    project = changed(open_project(folder), dice)
    lay(folder, project_files(project))


def lay(folder: Path, files: dict[str, bytes]) -> None:
    there = read_folder(folder)
    for name in there.keys() - files.keys():
        (folder / name).unlink()
    for name, data in files.items():
        if there.get(name) != data:
            (folder / name).parent.mkdir(exist_ok=True)
            (folder / name).write_bytes(data)


def run(seed: int, folder: Path, patch: pytest.MonkeyPatch) -> None:
    dice = random.Random(seed)
    shutil.rmtree(folder, ignore_errors=True)
    save_project(Project(name="Quay", actions=(Action(name="Ash"), Action(name="Birch"))), folder)
    commits = [read_folder(folder)]
    person = Person(folder)
    for _ in range(dice.randrange(6, 22)):
        document = person.document
        before, known = document.project, document.saved_project
        dies = dice.randrange(30) if dice.random() < 0.12 else None
        with patch.context() as inner:
            disk = Disk(dies).install(inner) if dies is not None else None
            try:
                act(person, dice, commits)
                assert differing(document.project, document.saved_project) <= person.ever
            except Killed:
                pass
        if disk is not None or dice.random() < 0.08:
            person = again(person, before, known, disk, dice)
    again(person, person.document.project, person.document.saved_project, None, dice).document.let_go()


def act(person: Person, dice: random.Random, commits: list[dict[str, bytes]]) -> None:
    document, folder = person.document, person.folder
    what = dice.choice(("edit", "edit", "edit", "edit", "undo", "redo", "save", "theirs", "theirs", "checkout", "look"))
    if what == "edit":
        new = changed(document.project, dice)
        person.does(lambda: document.apply(Edit(new, "An edit")))
    elif what == "undo":
        person.does(document.undo, new=False)
    elif what == "redo":
        person.does(document.redo, new=False)
    elif what == "save":
        person.save()
        commits.append(read_folder(folder))
    elif what == "theirs":
        somebody_else(folder, dice)
    elif what == "checkout":
        lay(folder, dice.choice(commits))
    else:
        person.look()


def again(person: Person, before: Project, known: Project, disk: Disk | None, dice: random.Random) -> Person:
    """The person's program is killed, others go on, and they begin again and take back what was left."""
    document = person.document
    if disk is not None:
        disk.held.discard(document.journal._fd)  # which the crash lets go
        disk.bury()
    crash(person)  # type: ignore[arg-type]
    saved, shown, steps, folder = document.saved_project, document.project, person.steps, person.folder
    if dice.random() < 0.4:
        somebody_else(folder, dice)
    new = Person(folder)
    there = new.document.project
    while lefts := left_behind(folder):
        assert len(lefts) == 1
        if lefts[0].holds_nothing(project_files(new.document.project)):
            lefts[0].throw_away()
        else:
            new.does(lambda: new.document.recover(lefts[0]))
            break
    back = pieces(new.document.project)
    theirs = differing(saved, there) | differing(known, there)
    now, was, on_disk = pieces(shown), pieces(before), pieces(there)
    for key in {**now, **was, **on_disk}:
        about = [step for step in steps if key in step]
        if not about:
            # Not even what was being done when it was killed need be there.
            assert back.get(key) in (on_disk.get(key), now.get(key), was.get(key)), key
            if key not in differing(before, shown):
                assert back.get(key) == on_disk.get(key), key
        elif key not in theirs:
            assert back.get(key) in (now.get(key), was.get(key) if disk is not None else now.get(key)), key
    return new


class Settled(QDialog):
    """Answers what both changed as the dice fall."""

    dice = random.Random(0)

    def __init__(self, _: object, differences: Any) -> None:
        super().__init__()
        self.differences = differences

    def exec(self) -> int:
        return int(QDialog.DialogCode.Accepted.value)

    def sides(self) -> dict[Any, str]:
        return {d.key: self.dice.choice(("ours", "theirs")) for d in self.differences}


@pytest.mark.parametrize("first", range(0, RUNS, AT_ONCE))
def test_no_work_is_lost_whatever_is_mixed(
    first: int, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, qapp: QApplication
) -> None:
    monkeypatch.setattr(ondisk, "Settling", Settled)
    for seed in range(first, first + AT_ONCE):
        Settled.dice = random.Random(seed)
        try:
            run(seed, tmp_path / "quay.veergust", monkeypatch)
        except (AssertionError, Trouble) as error:
            raise AssertionError(f"run {seed}: {error}") from error
        for left in left_behind(tmp_path / "quay.veergust"):
            left.throw_away()
