"""No work is lost: a save is the old or the new whatever happens, one writes at a time, and nobody is overwritten."""

from __future__ import annotations

import errno
import json
import os
import shutil
import stat
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path
from threading import Thread
from typing import Any

import pytest
from tools.made.edits import replace, with_action

from tests.core.files.disk import Disk, Killed, Platter, lay
from veergust.core.changes.merge import merge, settle
from veergust.core.files.as_files import project_files
from veergust.core.files.beneath import Beneath
from veergust.core.files.folder import digests, open_project, read_folder
from veergust.core.files.journal import Journal
from veergust.core.files.left import left_behind
from veergust.core.files.lock import LOCK, CannotWrite, Held, Lock
from veergust.core.files.opened import Gone, OpenFolder
from veergust.core.files.own import mark
from veergust.core.files.places import journal_folder
from veergust.core.files.plan import SAVING, Unfinished, digest, finish, stage, throw_away
from veergust.core.files.saving import Changed, add_files, save_project
from veergust.core.model import Action, Clip, Command, Post, Project
from veergust.core.trouble import Trouble

OLD = replace(Project(name="Quay"), actions=(Action(name="Sweep"), Action(name="Hook"), Action(name="Old")))
NEW = replace(
    OLD,
    actions=(Action(name="Sweep", blend_in=9), Action(name="Hook", blend_in=7), Action(name="Fresh")),
    name="Quay 2",
)


@pytest.fixture
def small(tmp_path: Path) -> Path:
    folder = tmp_path / "small.veergust"
    save_project(OLD, folder)
    (folder / "notes.txt").write_text("mine")
    return folder


def tree(folder: Path) -> dict[str, bytes]:
    return {p.relative_to(folder).as_posix(): p.read_bytes() for p in folder.rglob("*") if p.is_file()}


def calls_of(patch: pytest.MonkeyPatch, act: Callable[[], object]) -> int:
    """How many calls that reach the disk something takes."""
    with patch.context() as inner:
        disk = Disk().install(inner)
        act()
    return disk.count


def calls(folder: Path, patch: pytest.MonkeyPatch) -> Disk:
    with patch.context() as inner:
        disk = Disk().install(inner)
        save_project(NEW, folder)
    return disk


# Saving


def test_killed_at_any_call_a_save_is_the_old_or_the_new(
    small: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    seen = set()
    probe = tmp_path / "probe.veergust"
    shutil.copytree(small, probe)
    many = calls(probe, monkeypatch).count
    for dies in range(many):
        folder = tmp_path / f"k{dies}.veergust"
        shutil.copytree(small, folder)
        with monkeypatch.context() as patch:
            disk = Disk(dies).install(patch)
            with pytest.raises(Killed):
                save_project(NEW, folder)
        disk.bury()
        before = tree(folder)
        read = open_project(folder)
        assert tree(folder) == before, "reading changes nothing"
        assert read in (OLD, NEW)
        seen.add(read.name)
        # Whoever writes next finds the same, and a folder that is clean again.
        kept = OpenFolder(folder)
        assert kept.project == read
        assert not kept.unfinished.says
        kept.save(NEW)
        kept.close()
        assert tree(folder) == tree(probe)
    assert seen == {"Quay", "Quay 2"}


def test_power_lost_at_any_call_leaves_the_old_or_the_new(
    small: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    platter = Platter.of(small)
    record = calls(small, monkeypatch).record
    seen, states = set(), set()
    for row in record:
        platter.play(row)
        for state in platter.cuts():
            mark = tuple(sorted((p, d) for p, d in state.items() if LOCK not in p))
            if mark in states:
                continue
            states.add(mark)
            folder = tmp_path / f"cut{len(states)}"
            lay(state, small, folder)
            found = open_project(folder)
            assert found in (OLD, NEW), row
            seen.add(found.name)
            shutil.rmtree(folder)
    assert seen == {"Quay", "Quay 2"}
    assert len(states) > 20
    # At the end nothing waits: the new is certain.
    for n, state in enumerate(platter.cuts()):
        lay(state, small, tmp_path / f"end{n}")
        assert open_project(tmp_path / f"end{n}") == NEW


def test_a_full_disk_at_any_call_loses_nothing_and_is_told_as_what_it_is(
    small: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    probe = tmp_path / "probe.veergust"
    shutil.copytree(small, probe)
    told = set()
    for dies in range(calls(probe, monkeypatch).count):
        folder = tmp_path / f"f{dies}.veergust"
        shutil.copytree(small, folder)
        with monkeypatch.context() as patch:
            Disk(dies, full=True).install(patch)
            try:
                save_project(NEW, folder)
                told.add("fine")
            except Trouble as trouble:
                word, state = ("finishes the save", NEW) if isinstance(trouble, Unfinished) else ("No space left", OLD)
                told.add(word if word in str(trouble) and open_project(folder) == state else "something else")
        save_project(NEW, folder)
        assert tree(folder) == tree(probe)
    assert told == {"finishes the save", "No space left", "fine"}


def test_a_new_project_that_cannot_be_written_leaves_nothing(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    many = 0
    with monkeypatch.context() as patch:
        disk = Disk().install(patch)
        save_project(NEW, tmp_path / "probe" / "x.veergust")
        many = disk.count
    for dies in range(many):
        with monkeypatch.context() as patch:
            Disk(dies, full=True).install(patch)
            try:
                save_project(NEW, tmp_path / "deep" / "x.veergust")
            except Unfinished:
                assert open_project(tmp_path / "deep" / "x.veergust") == NEW
            except Trouble:
                assert not (tmp_path / "deep").exists()
        shutil.rmtree(tmp_path / "deep", ignore_errors=True)


def test_rights_and_a_linked_folder_are_kept(small: Path, tmp_path: Path) -> None:
    os.chmod(small / "project.json", 0o640)
    os.chmod(small / "ground.json", 0o755)
    os.chmod(small / "stage.json", 0o755)
    linked = tmp_path / "linked.veergust"
    linked.symlink_to(small)
    save_project(replace(NEW, stage=replace(NEW.stage, posts=(Post(name="p"),))), linked)
    assert linked.is_symlink()
    assert stat.S_IMODE((small / "project.json").stat().st_mode) == 0o640
    assert stat.S_IMODE((small / "ground.json").stat().st_mode) == 0o755  # not touched
    assert stat.S_IMODE((small / "stage.json").stat().st_mode) == 0o644  # nothing executable is made
    assert open_project(small).name == NEW.name


def test_a_link_that_is_read_stays_until_it_would_be_written(small: Path) -> None:
    (small / "shared").mkdir()
    os.replace(small / "actions" / "sweep.json", small / "shared" / "sweep.json")
    (small / "actions" / "sweep.json").symlink_to("../shared/sweep.json")
    assert open_project(small) == OLD
    save_project(replace(OLD, name="Quay 3"), small)  # the action is as it was
    assert (small / "actions" / "sweep.json").is_symlink()
    before = tree(small)
    with pytest.raises(Trouble, match=r"actions/sweep\.json: is a link"):
        save_project(NEW, small)
    assert tree(small) == before


@pytest.mark.parametrize("name", ["take 12:30.glb", "a\\b.glb", "a\nb.glb", "x" * 220 + ".glb", ".hidden.glb"])
def test_a_name_the_project_cannot_hold_is_refused_before_anything_is_written(small: Path, name: str) -> None:
    before = tree(small)
    with Beneath(small) as place, pytest.raises(Trouble):
        stage(place, {f"clips/{name}": b"1"}, (), {})
    assert tree(small) == before
    assert open_project(small) == OLD


@pytest.mark.parametrize("name", ["project.json", "actions/fresh.json", "actions"])
def test_something_else_in_a_files_place_is_said_and_bricks_nothing(tmp_path: Path, name: str) -> None:
    folder = tmp_path / "x.veergust"
    (folder / name).parent.mkdir(parents=True)
    if name == "actions":
        (folder / name).write_text("a file")
    else:
        (folder / name).mkdir()
    before = sorted(folder.rglob("*"))
    with pytest.raises(Trouble, match="move it away"):
        save_project(NEW, folder)
    assert sorted(folder.rglob("*")) == before


# Unfinished saves of a stranger


def plan(ours: bool = True, /, **files: Any) -> str:
    """A list as this program writes it, but for what it lists, with the person's own mark or none."""
    files = {n: {"replaces": None, "brings": None, **c} for n, c in files.items()}
    made = digest(json.dumps(files, separators=(",", ":")).encode())
    return json.dumps({"version": 3, "files": files, "sum": made, "mark": mark(made.encode()) if ours else ""})


HOSTILE = {
    "outside": plan(**{"../evil.json": {"brings": "0" * 64}}),
    "absolute": plan(**{"/tmp/evil.json": {"brings": "0" * 64}}),
    "git": plan(**{".git/config": {"replaces": "0" * 64}}),
    "hook": plan(**{".git/hooks/post-checkout": {"brings": "0" * 64}}),
    "notes": plan(**{"notes.txt": {"replaces": "0" * 64}}),
    "other digest": plan(**{"project.json": {"replaces": "0" * 64}}),
    "nothing staged": plan(**{"project.json": {"replaces": "0" * 64, "brings": "1" * 64}}),
    "says nothing": plan(**{"project.json": {}}),
    "old": json.dumps({"write": ["project.json"], "remove": ["actions/hook.json"]}),
    "a list": "[]",
    "no json": "{",
    "deep": "[" * 100_000,
    "bytes": "\udcff",
    "numbers": json.dumps({"version": 2, "files": {"project.json": 5}}),
    "version": json.dumps({"version": 99, "files": {}}),
}


@pytest.mark.parametrize("kind", HOSTILE)
def test_an_unfinished_save_of_a_stranger_is_left_said_and_can_be_thrown_away(small: Path, kind: str) -> None:
    (small / ".git").mkdir()
    (small / ".git" / "config").write_text("[core]")
    (small / SAVING).mkdir()
    (small / SAVING / "commit.json").write_bytes(os.fsencode(HOSTILE[kind]))
    (small / SAVING / "project.json").write_text("{}")
    before = tree(small)
    assert open_project(small) == OLD
    kept = OpenFolder(small)
    assert SAVING in kept.unfinished.says
    with pytest.raises(Trouble, match="unfinished"):
        kept.save(NEW)
    assert {p: d for p, d in tree(small).items() if p != LOCK} == before
    kept.throw_away_unfinished()
    kept.save(NEW)
    kept.close()
    assert open_project(small) == NEW
    assert (small / ".git" / "config").read_text() == "[core]"


@pytest.mark.parametrize("name", [".git/config", "notes.txt", "clips/.hidden", "actions/sub/a.json", "project.json"])
@pytest.mark.parametrize("right", [True, False])
def test_a_list_that_fits_in_everything_else_is_finished_only_for_files_of_a_project(
    small: Path, name: str, right: bool
) -> None:
    """Each digest holds, what is brought lies ready; it is the name, or the sum of the list, that is not right."""
    now, new = small / name, small / SAVING / name
    for path, data in ((now, b"{}"), (new, project_files(OLD).get(name, b"[evil]") + b"\n")):
        path.parent.mkdir(parents=True, exist_ok=True)
        if path is new or name != "project.json":
            path.write_bytes(data)
    was = now.read_bytes()
    made = json.loads(plan(**{name: {"replaces": digest(was), "brings": digest(new.read_bytes())}}))
    (small / SAVING / "commit.json").write_text(json.dumps(made if right else {**made, "sum": "0" * 64}))
    kept = OpenFolder(small)
    kept.close()
    if right and name == "project.json":
        assert not kept.unfinished.says
        assert now.read_bytes() == project_files(OLD)[name] + b"\n"
    else:
        assert ("damaged" if not right else "no file of a project") in kept.unfinished.says
        assert now.read_bytes() == was


@pytest.mark.parametrize("kind", ["link", "file", "linked plan", "linked content"])
def test_a_saving_folder_that_is_a_link_or_a_file_leads_nowhere(small: Path, tmp_path: Path, kind: str) -> None:
    outside = tmp_path / "outside"
    outside.mkdir()
    (outside / "commit.json").write_text(HOSTILE["git"])
    (outside / "keep").write_text("keep")
    if kind == "link":
        (small / SAVING).symlink_to(outside)
    elif kind == "file":
        (small / SAVING).write_text("x")
    else:
        (small / SAVING).mkdir()
        name = "commit.json" if kind == "linked plan" else "actions"
        (small / SAVING / name).symlink_to(outside / name if kind == "linked plan" else outside)
    assert open_project(small) == OLD
    if kind == "linked content":
        save_project(NEW, small)
    else:
        with pytest.raises(Trouble, match="left as it is"):
            save_project(NEW, small)
        with Beneath(small) as place:
            throw_away(place)
    assert sorted(p.name for p in outside.iterdir()) == ["commit.json", "keep"]


def test_a_save_that_fits_is_finished_by_a_writer_and_seen_by_a_reader(small: Path) -> None:
    files = project_files(NEW)
    write = {n: d for n, d in files.items() if read_folder(small).get(n) != d}
    with Beneath(small) as place:
        stage(place, write, ["actions/old.json"], digests(read_folder(small)))
        before = tree(small)
        assert open_project(small) == NEW
        assert tree(small) == before
        os.replace(small / SAVING / "actions" / "sweep.json", small / "actions" / "sweep.json")
        assert open_project(small) == NEW
        finish(place)
    assert open_project(small) == NEW
    assert not (small / SAVING).exists()


# One writer, many readers


def test_a_save_that_is_half_in_place_is_finished_in_what_nobody_changed_since(small: Path) -> None:
    """A kill in the midst of bringing it into place, and another program that writes one of its files after that."""
    files = project_files(NEW)
    write = {n: d for n, d in files.items() if read_folder(small).get(n) != d}
    theirs = project_files(with_action(OLD, "Sweep", blend_in=2))["actions/sweep.json"]
    with Beneath(small) as place:
        stage(place, write, ["actions/old.json"], digests(read_folder(small)))
        os.replace(small / SAVING / "project.json", small / "project.json")
    (small / "actions" / "sweep.json").write_bytes(theirs)
    seen = open_project(small)
    assert {a.name: a.blend_in for a in seen.actions} == {"Sweep": 2, "Hook": 7, "Fresh": 4}
    kept = OpenFolder(small)
    assert not kept.unfinished.says
    assert kept.project == seen
    kept.close()
    assert not (small / SAVING).exists()
    assert open_project(small) == seen
    assert (small / "actions" / "sweep.json").read_bytes() == theirs


def test_a_save_whose_only_file_in_place_was_overtaken_is_finished(small: Path) -> None:
    """What names the new action was moved, and somebody changed it then: the action itself still lies ready."""
    new = replace(OLD, actions=(*OLD.actions, Action(name="Fresh", blend_in=6)))
    write = {n: d for n, d in project_files(new).items() if read_folder(small).get(n) != d}
    assert write.keys() == {"project.json", "actions/fresh.json"}
    with Beneath(small) as place:
        stage(place, write, [], digests(read_folder(small)))
        os.replace(small / SAVING / "project.json", small / "project.json")
    (small / "project.json").write_bytes(project_files(replace(new, name="Theirs"))["project.json"])
    assert open_project(small) == replace(new, name="Theirs")
    kept = OpenFolder(small)
    kept.close()
    assert not kept.unfinished.says
    assert (small / "actions" / "fresh.json").exists()
    assert not (small / SAVING).exists()


def test_a_save_that_is_not_begun_to_be_in_place_and_does_not_fit_is_left(small: Path) -> None:
    files = project_files(NEW)
    write = {n: d for n, d in files.items() if read_folder(small).get(n) != d}
    with Beneath(small) as place:
        stage(place, write, [], digests(read_folder(small)))
    theirs = with_action(OLD, "Sweep", blend_in=2)
    (small / "actions" / "sweep.json").write_bytes(project_files(theirs)["actions/sweep.json"])
    before = tree(small)
    assert open_project(small) == theirs
    kept = OpenFolder(small)
    kept.close()
    assert "actions/sweep.json is another than the one it was made for" in kept.unfinished.says
    assert tree(small) == before


def test_one_writes_at_a_time_and_the_holder_is_named(small: Path) -> None:
    with Lock(small) as first:
        with pytest.raises(Held, match=r"open in another window since \d\d:\d\d"):
            Lock(small)
        second = OpenFolder(small)
        assert second.to_look
        assert "open in another window" in second.why_not
        with pytest.raises(Trouble, match="only to look"):
            second.save(NEW)
        assert first.held
        assert not second.take_over()
    assert second.take_over()
    second.save(NEW)
    second.close()
    assert not (small / LOCK).exists()


HOLDER = """
import sys, time
from pathlib import Path
from veergust.core.files.lock import Lock
lock = Lock(Path(sys.argv[1]), sys.argv[2])
print("held", flush=True)
time.sleep(60)
"""


def test_a_lock_that_a_crash_left_is_taken_over(small: Path) -> None:
    process = subprocess.Popen([sys.executable, "-c", HOLDER, str(small), "window"], stdout=subprocess.PIPE)
    assert process.stdout is not None
    process.stdout.readline()
    with pytest.raises(Held):
        Lock(small, wait=30.0)
    process.kill()
    process.wait()
    assert (small / LOCK).exists()
    with Lock(small) as lock:
        assert lock.held


def test_where_the_file_system_has_no_locks_work_goes_on(small: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    def none(fd: int, how: int) -> None:
        raise OSError(errno.ENOLCK, os.strerror(errno.ENOLCK))

    monkeypatch.setattr("veergust.core.files.lock.fcntl.flock", none)
    kept = OpenFolder(small)
    kept.journal.write("one", NEW)
    kept.save(NEW)
    kept.close()
    assert open_project(small) == NEW


@pytest.mark.parametrize("kind", ["link", "pipe", "folder", "foreign", "hard link", "deep", "bytes"])
def test_a_lock_file_that_is_not_ours_is_never_written(small: Path, tmp_path: Path, kind: str) -> None:
    outside = tmp_path / "outside.txt"
    outside.write_text('{"kind":"window","process":1,"machine":"m","since":""}' if kind == "hard link" else "precious")
    was = outside.read_bytes()
    lock = small / LOCK
    if kind == "link":
        lock.symlink_to(outside)
    elif kind == "pipe":
        os.mkfifo(lock)
    elif kind == "folder":
        lock.mkdir()
    elif kind in ("foreign", "deep", "bytes"):
        lock.write_bytes({"foreign": b"precious", "deep": b"[" * 100_000, "bytes": b"\xff\xfe{}"}[kind])
    else:
        os.link(outside, lock)
    with pytest.raises(CannotWrite, match="no file of this program"):
        Lock(small)
    assert outside.read_bytes() == was
    kept = OpenFolder(small)
    assert kept.to_look
    assert kept.why_not == ".lock in it is no file of this program; move it away"
    shutil.rmtree(lock) if kind == "folder" else lock.unlink()
    assert kept.take_over()
    kept.close()


def test_after_a_save_that_failed_the_next_one_finds_no_change_but_its_own(
    small: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Wherever the disk gives out, and wherever it gives out again."""
    probe = tmp_path / "probe.veergust"
    shutil.copytree(small, probe)
    for dies in range(calls(probe, monkeypatch).count):
        for again in (None, (0, 7)[dies % 2]):
            folder = tmp_path / f"n{dies}-{again}.veergust"
            shutil.copytree(small, folder)
            kept, saved = OpenFolder(folder), OLD
            for fails, project in ((dies, NEW), (again, replace(NEW, name="Quay 3"))):
                with monkeypatch.context() as patch:
                    if fails is not None:
                        Disk(fails, full=True).install(patch)
                    try:
                        kept.save(project)
                    except Changed as changed:
                        raise AssertionError(f"{dies}, {again}: {changed}") from changed
                    except Unfinished:
                        saved = project
                    except Trouble:
                        if fails is None:
                            raise
                    else:
                        saved = project
                assert kept.files == project_files(saved), "what counts as saved is what was said to be"
            assert kept.look(NEW) is None
            kept.save(OLD)
            kept.close()
            assert open_project(folder) == OLD


def test_a_full_disk_at_opening_is_said_and_gone_when_there_is_room(
    small: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    many = calls_of(monkeypatch, lambda: OpenFolder(small).close())
    for fails in range(many):
        with monkeypatch.context() as patch:
            Disk(fails, full=True).install(patch)
            kept = OpenFolder(small)
            if kept.to_look:
                assert "No space left" in kept.why_not
                assert not kept.is_held
        assert kept.lock is not None or kept.take_over()
        kept.save(NEW if fails % 2 else OLD)
        kept.close()
    assert many > 2


SAVER = """
import sys
from pathlib import Path
from msgspec.structs import replace
from veergust.core.files.folder import open_project
from veergust.core.files.saving import save_project
folder, word = Path(sys.argv[1]), sys.argv[2]
project = open_project(folder)
print("ready", flush=True)
for n in range(int(sys.argv[3])):
    actions = tuple(replace(a, blend_in=n % 50) for a in project.actions)
    save_project(replace(project, name=f"{word} {n % 50}", actions=actions), folder)
"""


def test_what_is_read_while_two_save_is_always_one_whole_state(folder: Path) -> None:
    savers = [
        subprocess.Popen([sys.executable, "-c", SAVER, str(folder), word, "25"], stdout=subprocess.PIPE)
        for word in "ab"
    ]
    for saver in savers:
        assert saver.stdout is not None
        saver.stdout.readline()
    seen = set()
    while any(saver.poll() is None for saver in savers):
        project = open_project(folder)
        if project.name[:2] in ("a ", "b "):
            assert {a.blend_in for a in project.actions} == {int(project.name[2:])}
            seen.add(project.name)
    assert [saver.returncode for saver in savers] == [0, 0]
    assert seen


def test_threads_of_one_program_take_turns(small: Path) -> None:
    """A save while files are on their way in: both are there, and nothing is left over."""
    trouble: list[BaseException] = []
    with Lock(small) as lock:

        def work(act: Callable[[int], object]) -> Thread:
            def run() -> None:
                try:
                    for n in range(15):
                        act(n)
                except BaseException as error:  # noqa: BLE001 – told by the test
                    trouble.append(error)

            return Thread(target=run)

        threads = [
            work(lambda n: add_files(small, {f"clips/a{n}.glb": bytes([n])}, lock=lock)),
            work(lambda n: add_files(small, {f"clips/b{n}.glb": bytes([n])}, lock=lock)),
            work(lambda n: save_project(replace(NEW, name=f"N{n}"), small, lock=lock)),
        ]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
    assert trouble == []
    assert len(list((small / "clips").iterdir())) == 30
    assert open_project(small).name == "N14"
    assert not (small / SAVING).exists()


IMPORTER = """
import sys
from veergust.cli.main import main
main(["import", sys.argv[1], sys.argv[2]])
"""


def test_no_import_is_lost_among_others_and_readers(folder: Path, tmp_path: Path) -> None:
    source = (folder / "clips" / "idle.glb").read_bytes()
    jobs = []
    for n in range(4):
        extra = tmp_path / f"extra_{n}.glb"
        extra.write_bytes(source)
        jobs.append(
            subprocess.Popen(
                [sys.executable, "-c", IMPORTER, str(folder), str(extra)], stderr=subprocess.PIPE, stdout=-1
            )
        )
    while any(job.poll() is None for job in jobs):
        open_project(folder)
    assert [job.returncode for job in jobs] == [0] * 4
    names = {clip.file for clip in open_project(folder).clips}
    assert {f"clips/extra_{n}.glb" for n in range(4)} <= names
    assert not (folder / SAVING).exists()


# What others changed


def test_what_somebody_else_wrote_is_neither_overwritten_nor_removed(small: Path) -> None:
    kept = OpenFolder(small)
    theirs = small / "actions" / "sweep.json"
    theirs.write_bytes(theirs.read_bytes().replace(b'"Sweep"', b'"Sweep", "blend_in": 3'))
    extra = small / "actions" / "guest.json"
    extra.write_text('{"name": "Guest"}')
    with pytest.raises(Changed, match=r"actions/sweep.json changed on disk"):
        kept.save(NEW)
    found = kept.look(kept.project)
    assert found is not None
    assert found.project is not None
    merged = merge(OLD, replace(OLD, actions=OLD.actions[:2]), found.project)
    assert not merged.differences
    assert merged.taken == ("the action Sweep", "the action Guest")
    kept.seen(found)
    kept.save(merged.project)
    assert [(a.name, a.blend_in) for a in open_project(small).actions] == [("Sweep", 3), ("Hook", 4), ("Guest", 4)]
    assert extra.exists()
    assert not (small / "actions" / "old.json").exists()
    assert kept.look(merged.project) is None
    kept.close()


def test_a_checkout_while_it_is_open_comes_in_part_by_part(folder: Path, quay: Project) -> None:
    kept = OpenFolder(folder)
    theirs = with_action(with_action(quay, "Thrust", blend_in=9), "Low sweep", blend_in=8)
    theirs = replace(theirs, locomotion=replace(quay.locomotion, gravity=5.0), actions=theirs.actions[:-1])
    for name, data in project_files(theirs).items():
        (folder / name).write_bytes(data)  # as a checkout does: in place, and not all at once
    ours = with_action(quay, "Low sweep", blend_in=7)
    found = kept.look(ours)
    assert found is not None
    assert found.project is not None
    merged = merge(quay, ours, found.project)
    assert [d.says for d in merged.differences] == ["the action Low sweep (blend in)"]
    assert "gravity of the ground" in merged.taken
    chosen = settle(merged, {merged.differences[0].key: "theirs"}, found.project)
    assert {a.name: a.blend_in for a in chosen.actions}["Low sweep"] == 8
    assert {a.name: a.blend_in for a in merged.project.actions}["Low sweep"] == 7
    assert chosen.locomotion.gravity == 5.0
    kept.seen(found)
    kept.save(chosen)
    kept.close()
    assert open_project(folder) == chosen


def test_a_folder_that_went_is_said(small: Path, tmp_path: Path) -> None:
    kept = OpenFolder(small)
    os.replace(small, tmp_path / "elsewhere")
    with pytest.raises(Gone, match="no longer there"):
        kept.look(OLD)
    with pytest.raises(Gone):
        kept.save(NEW)
    assert not small.exists()
    kept.close()


# The journal


def test_a_journal_gives_back_what_was_not_saved_and_belongs_to_its_run(small: Path) -> None:
    crashed, other = Journal(small, read_folder(small)), Journal(small, read_folder(small))
    crashed.write("one", replace(OLD, name="one"))
    crashed.write("two", NEW)
    other.write("three", replace(OLD, name="three"))
    assert left_behind(small) == [], "both are still at work"
    crashed._fd = _lose(crashed._fd)
    left = left_behind(small)
    assert [[s.says for s in one.steps] for one in left] == [["one", "two"]]
    assert left[0].take_back(project_files(OLD), small) == NEW
    other.saved(project_files(OLD))
    save_project(OLD, small)
    assert len(left_behind(small)) == 1, "neither a save nor another run's end takes it away"
    left[0].throw_away()
    assert left_behind(small) == []


def _lose(fd: int) -> int:
    os.close(fd)
    return -1


def test_steps_that_do_not_fit_a_project_that_went_on_are_told(small: Path) -> None:
    crashed = Journal(small, read_folder(small))
    crashed.write("sweep", with_action(OLD, "Sweep", blend_in=9))
    crashed.write("hook", with_action(with_action(OLD, "Sweep", blend_in=9), "Hook", blend_in=7))
    crashed._fd = _lose(crashed._fd)
    went_on = with_action(OLD, "Sweep", blend_in=1)
    (left,) = left_behind(small)
    steps = left.onto(project_files(went_on))
    assert [(s.step.says, s.why_not) for s in steps] == [("sweep", "the action Sweep changed since"), ("hook", "")]
    back = left.take_back(project_files(went_on), small)
    assert {a.name: a.blend_in for a in back.actions} == {"Sweep": 1, "Hook": 7, "Old": 4}


def test_a_step_fits_although_others_changed_something_else_in_the_same_file(small: Path) -> None:
    """Five new actions, and a batch import of clips: both stand in project.json."""
    crashed = Journal(small, read_folder(small))
    project = OLD
    for n in range(5):
        project = replace(project, actions=(*project.actions, Action(name=f"New {n}")))
        crashed.write(f"new {n}", project)
    crashed.write("clip", replace(project, clips=(Clip(name="mine"),)))
    crashed.write("gone", replace(project, clips=(Clip(name="mine"),), actions=project.actions[1:]))
    crashed.write("name", replace(project, clips=(Clip(name="mine"),), actions=project.actions[1:], name="Ours"))
    crashed._fd = _lose(crashed._fd)
    theirs = replace(
        OLD, clips=(Clip(name="idle"), Clip(name="walk")), commands=(Command(name="light"),), name="Theirs",
        actions=(*OLD.actions[:2], replace(OLD.actions[2], blend_in=33), Action(name="Also theirs")),
    )  # fmt: skip
    (left,) = left_behind(small)
    files = project_files(theirs)
    assert not left.holds_nothing(files)
    why = {s.step.says: s.why_not for s in left.onto(files)}
    assert why == {
        **dict.fromkeys([*(f"new {n}" for n in range(5)), "clip", "gone"], ""),
        "name": "the name changed since",
    }
    back = left.take_back(files, small)
    assert {c.name for c in back.clips} == {"idle", "walk", "mine"}
    assert back.commands == theirs.commands
    assert back.name == "Theirs"
    made = {a.name: a for a in back.actions}
    assert made.keys() == {"Hook", "Old", "Also theirs", *(f"New {n}" for n in range(5))}
    assert made["Old"].blend_in == 33
    assert left.holds_nothing(project_files(replace(back, name="Ours")))
    assert left.onto(project_files(replace(back, name="Ours")))[-1].why_not == ""


def test_of_a_step_that_fits_in_part_that_part_is_taken(small: Path) -> None:
    crashed = Journal(small, read_folder(small))
    both = with_action(with_action(OLD, "Sweep", blend_in=9), "Hook", blend_in=7)
    crashed.write("both", both)
    crashed.write("hook again", with_action(both, "Hook", blend_in=8))
    crashed._fd = _lose(crashed._fd)
    files = project_files(with_action(OLD, "Sweep", blend_in=1))
    (left,) = left_behind(small)
    assert [(s.why_not, s.partly) for s in left.onto(files)] == [("the action Sweep changed since", True), ("", False)]
    back = left.take_back(files, small)
    assert {a.name: a.blend_in for a in back.actions} == {"Sweep": 1, "Hook": 8, "Old": 4}
    assert not left.holds_nothing(files)


def test_a_journal_grows_by_what_an_edit_changed(folder: Path, quay: Project) -> None:
    journal = Journal(folder, read_folder(folder))
    sizes = []
    for n in range(20):
        journal.write(f"step {n}", with_action(quay, "Thrust", blend_in=n))
        sizes.append(journal.path.stat().st_size)
    thrust = len((folder / "actions" / "thrust.json").read_bytes())
    assert sizes[-1] - sizes[9] < 10 * thrust
    journal.close()
    assert list(journal_folder().iterdir()) == []


def test_a_journal_that_grew_long_starts_anew_with_all_that_changed(
    small: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    crashed, project = Journal(small, read_folder(small)), OLD
    crashed.write("hook", project := with_action(project, "Hook", blend_in=7))
    for n in range(12):
        crashed.write(f"sweep {n}", project := with_action(project, "Sweep", blend_in=n))
    long = crashed.path.stat().st_size
    monkeypatch.setattr("veergust.core.files.journal.LONGEST", long)
    crashed.write("old", project := with_action(project, "Old", blend_in=3))
    assert crashed.path.stat().st_size < long // 2
    crashed._fd = _lose(crashed._fd)
    (left,) = left_behind(small)
    assert [s.says for s in left.steps] == ["old"]
    assert left.take_back(project_files(OLD), small) == project


def test_a_journal_that_cannot_be_written_says_so_and_goes_on_when_it_can(
    small: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    journal = Journal(small, read_folder(small))
    journal.write("one", replace(OLD, name="one"))
    with monkeypatch.context() as patch:
        Disk(0, full=True).install(patch)
        with pytest.raises(Trouble, match=r"journal cannot be written .*a crash would lose"):
            journal.write("two", replace(OLD, name="two"))
    journal.write("three", replace(NEW, name="three"))
    journal._fd = _lose(journal._fd)
    (left,) = left_behind(small)
    assert left.take_back(project_files(OLD), small) == replace(NEW, name="three")


def test_killed_at_any_call_of_taking_it_back_the_work_is_still_there(
    small: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    crashed = Journal(small, read_folder(small))
    crashed.write("all", NEW)
    crashed._fd = _lose(crashed._fd)
    data, many = crashed.path.read_bytes(), 1
    dies = 0
    while dies < many:
        for path in journal_folder().iterdir():
            path.unlink()
        crashed.path.write_bytes(data)
        (left,) = left_behind(small)
        own = Journal(small, read_folder(small))
        with monkeypatch.context() as patch:
            disk = Disk(dies).install(patch)
            try:
                own.write("back", left.take_back(project_files(OLD), small))
                left.throw_away()
            except Killed:
                many += 1
        disk.bury()
        assert any(one.take_back(project_files(OLD), small) == NEW for one in left_behind(small)), dies
        dies += 1
    assert many > 5
