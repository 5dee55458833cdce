"""Damage of any kind costs what it hits: a sentence, soon, and without filling memory."""

from __future__ import annotations

import json
import os
import resource
import shutil
import signal
from collections.abc import Generator, Iterator
from contextlib import contextmanager
from pathlib import Path
from types import FrameType
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tools.made.edits import replace

from veergust.core.files.as_files import project_files
from veergust.core.files.beneath import Beneath
from veergust.core.files.folder import digests, open_project, read_folder
from veergust.core.files.journal import Journal
from veergust.core.files.left import left_behind
from veergust.core.files.opened import OpenFolder
from veergust.core.files.places import journal_folder
from veergust.core.files.plan import SAVING, stage
from veergust.core.files.saving import save_project
from veergust.core.model import Action, Project, Section
from veergust.core.trouble import Trouble

QUAY = replace(
    Project(name="Quay"), actions=tuple(Action(name=f"A{n}", sections=(Section(name="S"),)) for n in range(3))
)
SECONDS, ROOM = 2.0, 300 << 20


@contextmanager
def bounded() -> Generator[None]:
    """Whatever takes longer than two seconds, or another 300 MB, fails."""

    def late(number: int, frame: FrameType | None) -> None:
        raise AssertionError(f"took longer than {SECONDS} s of work")

    with open("/proc/self/statm") as sizes:
        now = int(sizes.read().split()[0]) * resource.getpagesize()
    soft, hard = resource.getrlimit(resource.RLIMIT_AS)
    before = signal.signal(signal.SIGVTALRM, late)
    signal.setitimer(signal.ITIMER_VIRTUAL, SECONDS)
    resource.setrlimit(resource.RLIMIT_AS, (now + ROOM, hard))
    try:
        yield
    finally:
        signal.setitimer(signal.ITIMER_VIRTUAL, 0)
        resource.setrlimit(resource.RLIMIT_AS, (soft, hard))
        signal.signal(signal.SIGVTALRM, before)


@st.composite
def damage(draw: st.DrawFn, data: bytes) -> bytes:
    """Bytes of a file with some of them turned, cut, repeated or replaced."""
    for _ in range(draw(st.integers(1, 4))):
        at = draw(st.integers(0, max(len(data) - 1, 0)))
        kind = draw(st.sampled_from(["flip", "cut", "drop", "twice", "junk", "swap"]))
        if kind == "flip" and data:
            data = data[:at] + bytes([data[at] ^ (1 << draw(st.integers(0, 7)))]) + data[at + 1 :]
        elif kind == "cut":
            data = data[:at]
        elif kind == "drop":
            data = data[:at] + data[at + draw(st.integers(1, 40)) :]
        elif kind == "twice":
            data = data[:at] + data[at : at + draw(st.integers(1, 400))] * 2 + data[at:]
        elif kind == "junk":
            junk = [b"\0", b"\n", b"\x1e", b"1e308", b"-", b"[" * 3000, b"{", b"null", b"\xff", b"9" * 400, b'"']
            data = data[:at] + draw(st.sampled_from(junk)) + data[at:]
        elif kind == "swap":
            other = draw(st.integers(0, max(len(data) - 1, 0)))
            low, high = sorted((at, other))
            data = data[:low] + data[high:] + data[low:high]
    return data


@pytest.fixture(scope="module")
def quay_folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("damage") / "quay.veergust"
    save_project(QUAY, folder)
    return folder


def leave(folder: Path, words: list[str]) -> Journal:
    """The journal of a run that crashed after renaming actions one after the other."""
    journal = Journal(folder, project_files(QUAY))
    actions = list(QUAY.actions)
    for n, word in enumerate(words):
        actions[n % 3] = replace(actions[n % 3], group=word)
        journal.write(word, replace(QUAY, actions=tuple(actions)))
    os.close(journal._fd)
    journal._fd = -1
    return journal


WORDS = [f"step {n}" for n in range(7)]


@pytest.fixture(scope="module")
def journal_bytes(quay_folder: Path) -> tuple[str, bytes]:
    """The name and the content of a journal that was left."""
    journal = leave(quay_folder, WORDS)
    data = journal.path.read_bytes()
    journal.path.unlink()
    return journal.path.name, data


@settings(max_examples=260)
@given(data=st.data())
def test_a_damaged_journal_costs_the_steps_that_were_hit_and_no_more(
    quay_folder: Path, journal_bytes: tuple[str, bytes], data: st.DataObject
) -> None:
    words, (name, whole) = WORDS, journal_bytes
    hurt = data.draw(damage(whole))
    path = journal_folder() / name
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_bytes(hurt)
    lines = [line for line in whole.split(b"\x1e") if line]
    try:
        with bounded():
            found = left_behind(quay_folder)
            got = [s.says for left in found for s in left.steps]
            for left in found:
                try:
                    left.take_back(project_files(QUAY), quay_folder)
                except Trouble as trouble:
                    str(trouble)
        untouched = [w for w, line in zip(words, lines) if line.strip() in hurt]
        assert set(untouched) <= set(got)
        assert set(got) <= set(words)
    finally:
        path.unlink(missing_ok=True)


def test_a_flip_of_any_byte_of_a_journal_costs_one_step_at_most(quay_folder: Path) -> None:
    words = ["one", "two", "three"]
    journal = leave(quay_folder, words)
    whole = bytearray(journal.path.read_bytes())
    for at in range(len(whole)):
        hurt = bytearray(whole)
        hurt[at] ^= 0x55
        journal.path.write_bytes(hurt)
        (left,) = left_behind(quay_folder)
        assert len(left.steps) >= 2, at
        left.take_back(project_files(QUAY), quay_folder)
    journal.path.unlink()


@pytest.fixture(scope="module")
def planned(quay_folder: Path, tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The folder with a save that is certain and not in place."""
    folder = tmp_path_factory.mktemp("plan") / "q.veergust"
    shutil.copytree(quay_folder, folder)
    new = project_files(replace(QUAY, actions=(replace(QUAY.actions[0], group="new"), *QUAY.actions[1:])))
    with Beneath(folder) as place:
        stage(place, {"actions/a0.json": new["actions/a0.json"]}, ["actions/a1.json"], digests(read_folder(folder)))
    return folder


@settings(max_examples=220)
@given(data=st.data())
def test_a_damaged_plan_changes_nothing_or_is_the_one_that_was_made(
    planned: Path, tmp_path: Path, data: st.DataObject
) -> None:
    folder = tmp_path / "q.veergust"
    shutil.rmtree(folder, ignore_errors=True)
    shutil.copytree(planned, folder)
    commit = folder / SAVING / "commit.json"
    commit.write_bytes(data.draw(damage(commit.read_bytes())))
    keep = {p: p.read_bytes() for p in folder.rglob("*.json") if SAVING not in p.parts}
    says = "a1"
    with bounded():
        try:
            project = open_project(folder)
        except Trouble as trouble:  # project.json names what the plan removes
            says, project = str(trouble), None
        assert "a1" in says
        assert {p: p.read_bytes() for p in keep} == keep
        try:
            kept = OpenFolder(folder)
        except Trouble:
            return
        assert project is None or kept.project == project
        kept.close()


@settings(max_examples=220)
@given(data=st.data())
def test_a_damaged_project_is_a_sentence_or_a_project(folder: Path, quay_folder: Path, data: st.DataObject) -> None:
    names = ["project.json", "ground.json", "stage.json", "actions/low_sweep.json", "drills/sweep_into_thrust.json"]
    known = [n for n in names if (folder / n).exists()]
    name = data.draw(st.sampled_from(known))
    path = folder / name
    was = path.read_bytes()
    path.write_bytes(data.draw(damage(was)))
    try:
        with bounded():
            project = open_project(folder)
            assert project_files(project)
    except Trouble as trouble:
        words = str(trouble)
        assert folder.name in words
        assert "\n" not in words
    finally:
        path.write_bytes(was)


def leaves(value: Any, path: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    if isinstance(value, dict):
        for key, inner in value.items():
            yield from leaves(inner, (*path, key))
    elif isinstance(value, list):
        for i, inner in enumerate(value):
            yield from leaves(inner, (*path, i))
    else:
        yield path


def test_any_value_in_any_place_is_a_sentence_or_a_project(folder: Path) -> None:
    values: list[Any] = [None, True, -1, 0, 1e300, 10**30, "", "x" * 300, "../..", "\0", [], {}, [[]], 1.5]
    for name in ("project.json", "actions/low_sweep.json", "ground.json", "stage.json"):
        path = folder / name
        was = path.read_text()
        # Every second: of what stands there many times over there are others.
        for n, place in enumerate(list(leaves(json.loads(was)))[::2]):
            top = json.loads(was)
            at = top
            for step in place[:-1]:
                at = at[step]
            at[place[-1]] = values[n % len(values)]
            path.write_text(json.dumps(top))
            said = "a project"
            try:
                open_project(folder)
            except Trouble as trouble:
                said = str(trouble)
            assert "\n" not in said
        path.write_text(was)
