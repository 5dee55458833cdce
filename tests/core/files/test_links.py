"""No link is followed in anything that is written: every kind of link, in every folder, for every way to write."""

from __future__ import annotations

import json
import os
import shutil
import stat
from collections.abc import Callable
from pathlib import Path
from typing import Any

import platformdirs
import pytest
from tools.made import DEMO
from tools.made.edits import replace

from tests.core.files.test_safe import NEW, OLD, plan, tree
from tests.core.files.test_units import creature
from veergust.core.edit.actions import rename_action
from veergust.core.files import own
from veergust.core.files.as_files import project_files
from veergust.core.files.beneath import Beneath, Missing
from veergust.core.files.folder import open_project, read_folder, unfinished
from veergust.core.files.importing import bring_sounds, import_file
from veergust.core.files.opened import OpenFolder, open_to_write
from veergust.core.files.plan import SAVING, digest, finish, stage, throw_away
from veergust.core.files.saving import add_files, save_project
from veergust.core.model import Project
from veergust.core.trouble import Trouble

INSIDE, HOOK = "shared/it", ".git/hooks/pre-commit"
PLACES = (
    "project.json", "ground.json", "stage.json", "actions", "actions/sweep.json", "actions/fresh.json", "drills",
    "clips", "clips/h.glb", "clips/sub", "clips/figure.bvh", "sounds", "sounds/breath.wav",
    ".saving", ".saving/commit.json", ".lock",
)  # fmt: skip


def _far(folder: Path) -> Path:
    return folder.parent / "far"


def _loop(folder: Path, place: Path) -> str:
    place.with_name("other").symlink_to(place.name)
    return "other"


def _chain(folder: Path, place: Path) -> str:
    (folder / "chain").symlink_to(".git/hooks/pre-commit")
    return str(folder / "chain")


KINDS: dict[str, Callable[[Path, Path], str]] = {
    "a file inside": lambda folder, place: os.path.relpath(folder / INSIDE, place.parent),
    "a file inside, by its full path": lambda folder, place: str(folder / INSIDE),
    "a folder inside": lambda folder, place: os.path.relpath(folder / "shared", place.parent),
    "a hook": lambda folder, place: os.path.relpath(folder / HOOK, place.parent),
    "the hooks": lambda folder, place: os.path.relpath(folder / ".git" / "hooks", place.parent),
    "a file outside": lambda folder, place: str(_far(folder) / "it"),
    "a folder outside": lambda folder, place: os.path.relpath(_far(folder), place.parent),
    "nothing yet, inside": lambda folder, place: os.path.relpath(folder / ".git" / "hooks" / "new", place.parent),
    "nothing yet, outside": lambda folder, place: str(_far(folder) / "new"),
    "itself": lambda folder, place: place.name,
    "a ring of two": _loop,
    "a link to a hook": _chain,
}


def hostile(top: Path, place: str, kind: str) -> Path:
    """A project with a link of a kind in a place, something in every place a link could lead to, and a hook."""
    folder = top / "x.veergust"
    for name, data in project_files(OLD).items():
        (folder / name).parent.mkdir(parents=True, exist_ok=True)
        (folder / name).write_bytes(data)
    for name in (INSIDE, HOOK, "clips/keep.glb", "clips/sub/keep.glb", "sounds/keep.wav", ".saving/keep", "drills/_"):
        (folder / name).parent.mkdir(parents=True, exist_ok=True)
        (folder / name).write_text("{}")
    os.chmod(folder / HOOK, 0o755)
    _far(folder).mkdir()
    (_far(folder) / "it").write_text("{}")
    path = folder / place
    if path.is_dir():
        shutil.rmtree(path)
    path.unlink(missing_ok=True)
    path.symlink_to(KINDS[kind](folder, path))
    return folder


def _save(folder: Path) -> None:
    save_project(NEW, folder)


def _window(folder: Path) -> None:
    kept = OpenFolder(folder)
    try:
        kept.save(rename_action(kept.project, "Sweep", "Reap").project)
    finally:
        kept.close()


def _files(folder: Path) -> None:
    add_files(folder, {"clips/h.glb": b"1", "clips/sub/h.glb": b"2", "sounds/breath.wav": b"3"})


def _import(folder: Path) -> None:
    with open_to_write(folder) as (project, known, lock):
        source = folder.parent / "figure.bvh"
        source.write_text(creature(1.0))
        import_file(project, folder, source, lock=lock, known=known)


def _sounds(folder: Path) -> None:
    bring_sounds(OLD, folder, [DEMO / "sounds" / "breath.wav"])


def _finish(folder: Path) -> None:
    """A plan that is the person's own, and fits what is there as far as a link lets it."""
    with Beneath(folder) as place:
        stage(place, {"clips/h.glb": b"1", "clips/sub/h.glb": b"2", "actions/sweep.json": b"{}\n"}, (), {})
        finish(place)


def _throw(folder: Path) -> None:
    with Beneath(folder) as place:
        throw_away(place)


WAYS = (_save, _window, _files, _import, _sounds, _finish, _throw)


@pytest.mark.parametrize("place", PLACES)
@pytest.mark.parametrize("kind", KINDS)
def test_nothing_is_written_through_a_link(tmp_path: Path, place: str, kind: str) -> None:
    refused = 0
    for way in WAYS:
        top = tmp_path / way.__name__
        folder = hostile(top, place, kind)
        link = os.readlink(folder / place)
        keep = [tree(_far(folder)), tree(folder / ".git"), tree(folder / "shared")]
        executable = _executable(folder)
        try:
            way(folder)
        except Trouble as trouble:
            refused += "is a link" in str(trouble) and place.split("/")[-1] in str(trouble)
        assert [tree(_far(folder)), tree(folder / ".git"), tree(folder / "shared")] == keep
        assert _executable(folder) == executable
        if not place.startswith(".saving"):  # which is ours to throw away
            assert os.readlink(folder / place) == link
    # Where somebody writes and reading goes through it, the link is named as what is in the way.
    if place in ("clips/h.glb", "clips/sub", "actions/sweep.json") and kind in ("a file inside", "a link to a hook"):
        assert refused, place


def _executable(folder: Path) -> list[str]:
    return sorted(
        str(p) for p in folder.parent.rglob("*") if p.is_file() and not p.is_symlink() and p.stat().st_mode & 0o111
    )


@pytest.mark.parametrize("place", ["ground.json", "stage.json", "actions/sweep.json", "actions/fresh.json"])
def test_a_link_that_leads_to_nothing_is_said_at_once(
    tmp_path: Path, place: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    folder = hostile(tmp_path, place, "nothing yet, inside")
    asked: list[float] = []
    monkeypatch.setattr("veergust.core.files.folder.time.sleep", asked.append)
    with pytest.raises(Missing, match=place.replace(".", r"\.")):
        read_folder(folder)
    assert not asked


def test_a_plan_in_a_clone_moves_nothing_through_a_link_and_makes_nothing_executable(tmp_path: Path) -> None:
    """The folder of a stranger: a finished list, what it brings lies ready and executable, and a link leads on."""
    for name, link in (("clips/h", "../.git/hooks/pre-commit"), ("clips/h/pre-commit", "../.git/hooks")):
        folder = tmp_path / name.replace("/", "-") / "x.veergust"
        save_project(OLD, folder)
        (folder / ".git" / "hooks").mkdir(parents=True)
        staged = folder / SAVING / name
        staged.parent.mkdir(parents=True)
        staged.write_text("#!/bin/sh\nexit 1\n")
        staged.chmod(0o755)
        place = folder / "clips" / "h"
        place.parent.mkdir()
        place.symlink_to(link)
        change = {name: {"brings": digest(staged.read_bytes())}}
        for own_mark in (False, True):  # even one that could be the person's own
            (folder / SAVING / "commit.json").write_text(plan(own_mark, **change))
            kept = OpenFolder(folder)
            assert "is a link" in kept.unfinished.says
            assert not kept.unfinished.fits
            with pytest.raises(Trouble, match="is a link"):
                kept.finish_unfinished()
            kept.close()
            with pytest.raises(Trouble, match="is a link"), open_to_write(folder):
                pass
        assert not any((folder / ".git" / "hooks").iterdir())


def test_what_a_stranger_left_unfinished_is_shown_and_finished_only_by_name(tmp_path: Path) -> None:
    folder = tmp_path / "x.veergust"
    save_project(OLD, folder)
    new = project_files(replace(OLD, name="Theirs"))["project.json"]
    was = (folder / "project.json").read_bytes()
    (folder / SAVING).mkdir()
    (folder / SAVING / "project.json").write_bytes(new)
    (folder / SAVING / "project.json").chmod(0o755)
    change = {"project.json": {"replaces": digest(was), "brings": digest(new)}}
    (folder / SAVING / "commit.json").write_text(plan(False, **change))
    before = tree(folder)
    assert open_project(folder).name == "Theirs"  # what is certain is seen
    left = unfinished(folder)
    assert left.fits
    assert "not made here" in left.says
    assert "would write project.json" in left.says
    with pytest.raises(Trouble, match="not made here"), open_to_write(folder):
        pass
    with pytest.raises(Trouble, match="not made here"):
        add_files(folder, {"clips/a.glb": b"1"})
    kept = OpenFolder(folder)
    with pytest.raises(Trouble, match="not made here"):
        kept.save(NEW)
    assert {n: d for n, d in tree(folder).items() if n != ".lock"} == before
    kept.finish_unfinished()
    assert not kept.unfinished.says
    assert (folder / "project.json").read_bytes() == new
    assert not stat.S_IMODE((folder / "project.json").stat().st_mode) & 0o111
    kept.save(NEW)
    kept.close()
    assert open_project(folder) == NEW


@pytest.mark.parametrize("harm", ["short", "open to others", "a link", "a folder", "gone"])
def test_a_secret_that_others_could_have_made_is_none(tmp_path: Path, harm: str) -> None:
    made = own.mark(b"plan")
    path = platformdirs.user_state_path("veergust") / "secret"
    assert stat.S_IMODE(path.stat().st_mode) == 0o600
    theirs = path.read_bytes()
    assert own.is_own(b"plan", made)
    assert not own.is_own(b"plan ", made)
    assert not own.is_own(b"plan", "")
    if harm == "open to others":
        path.chmod(0o644)
    else:
        path.unlink()
    if harm == "short":
        path.write_bytes(theirs[:5])
        path.chmod(0o600)
    elif harm == "a link":
        (tmp_path / "elsewhere").write_bytes(theirs)
        (tmp_path / "elsewhere").chmod(0o600)
        path.symlink_to(tmp_path / "elsewhere")
    elif harm == "a folder":
        path.mkdir()
    own._secret.cache_clear()
    assert not own.is_own(b"plan", made)
    assert own.is_own(b"plan", own.mark(b"plan"))
    if harm != "a folder":  # there none can be kept, and there is one for the run
        again = own.mark(b"plan")
        own._secret.cache_clear()
        assert own.mark(b"plan") == again
    own._secret.cache_clear()


def test_a_long_list_of_a_stranger_is_not_looked_through(tmp_path: Path) -> None:
    """Many names of one large file: its length is asked, and it is not read."""
    folder = tmp_path / "x.veergust"
    save_project(Project(name="x"), folder)
    staged = folder / SAVING / "clips"
    staged.mkdir(parents=True)
    with (staged / "big.glb").open("wb") as out:
        out.truncate(400 << 20)
    for i in range(200):
        os.link(staged / "big.glb", staged / f"{i}.glb")
    change = {f"clips/{i}.glb": {"brings": "0" * 64} for i in range(200)}
    (folder / SAVING / "commit.json").write_text(plan(False, **change))
    read: list[str] = []
    real = Beneath.read

    def watched(self: Beneath, name: str, **more: Any) -> bytes:
        read.append(name)
        return real(self, name, **more)

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(Beneath, "read", watched)
        assert "80000 MB" in unfinished(folder).says
        assert read_folder(folder)
    assert not [name for name in read if name.endswith(".glb")]


def test_a_plan_says_what_it_does(tmp_path: Path) -> None:
    folder = tmp_path / "x.veergust"
    save_project(OLD, folder)
    was = digest((folder / "actions" / "old.json").read_bytes())
    (folder / SAVING).mkdir()
    text = plan(False, **{"actions/old.json": {"replaces": was}})
    assert json.loads(text)["mark"] == ""
    (folder / SAVING / "commit.json").write_text(text)
    assert "it would remove actions/old.json" in unfinished(folder).says
