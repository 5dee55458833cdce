"""The project folder: the same bytes, whole or not at all, nothing lost."""

from __future__ import annotations

import json
import random
import signal
import subprocess
import sys
import time
from pathlib import Path

import msgspec
import numpy as np
import pytest
from tools.made import DEMO
from tools.made.captures import blow, write_bvh
from tools.made.edits import replace, with_action

from veergust.core.files.as_files import project_files
from veergust.core.files.assets import load_assets
from veergust.core.files.demo import copy_demo, fresh_demo
from veergust.core.files.folder import open_project
from veergust.core.files.importing import import_file
from veergust.core.files.journal import Journal
from veergust.core.files.saving import save_project
from veergust.core.files.text import to_text
from veergust.core.model import SCHEMA, Action, Clip, Project
from veergust.core.trouble import Trouble


def tree(folder: Path) -> dict[str, bytes]:
    return {p.relative_to(folder).as_posix(): p.read_bytes() for p in folder.rglob("*") if p.is_file()}


def test_saving_what_was_opened_changes_no_byte(folder: Path) -> None:
    before = tree(folder)
    save_project(open_project(folder), folder)
    assert tree(folder) == before


def test_a_project_comes_back_equal(quay: Project, tmp_path: Path) -> None:
    target = tmp_path / "copy.veergust"
    save_project(quay, target, clips_from=DEMO)
    assert open_project(target) == quay
    assert tree(target) == tree(DEMO)


def test_what_a_clip_has_beside_it_goes_along(folder: Path, tmp_path: Path) -> None:
    """A clip with its buffer and its picture in files of their own, and a capture, saved as another project."""
    data = (folder / "clips" / "walk.glb").read_bytes()
    length = int.from_bytes(data[12:16], "little")
    content, binary = json.loads(data[20 : 20 + length]), data[28 + length :]
    content["buffers"][0] |= {"uri": "parts/walk%20one.bin"}
    content["images"] = [{"uri": "skin.png"}, {"uri": "not there.png"}, {"uri": "../../outside.png"}]
    (folder / "clips" / "parts").mkdir()
    (folder / "clips" / "parts" / "walk one.bin").write_bytes(binary)
    (folder / "clips" / "skin.png").write_bytes(b"a picture")
    (folder.parent / "outside.png").write_bytes(b"not for you")
    (folder / "clips" / "walk.gltf").write_text(json.dumps(content))
    write_bvh(folder / "clips", blow(), "night_blow.bvh")
    project = open_project(folder)
    clips = [replace(c, file="clips/walk.gltf") if c.name == "walk" else c for c in project.clips]
    project = replace(project, clips=(*clips, Clip(name="blow", file="clips/night_blow.bvh")))
    target = tmp_path / "elsewhere" / "copy.veergust"
    save_project(project, target, clips_from=folder)
    for name in ("walk.gltf", "parts/walk one.bin", "skin.png", "night_blow.bvh"):
        assert (target / "clips" / name).read_bytes() == (folder / "clips" / name).read_bytes()
    assert not list(target.parent.rglob("outside.png"))
    assert open_project(target) == project
    found, missing = load_assets(project, target)
    assert not missing
    before = load_assets(project, folder)[0]
    assert found.motions.keys() == before.motions.keys()
    for key, motion in before.motions.items():
        for mine, theirs in zip(found.motions[key].tracks, motion.tracks, strict=True):
            np.testing.assert_array_equal(mine.values, theirs.values)


def test_an_edit_touches_one_file(quay: Project) -> None:
    before, after = project_files(quay), project_files(with_action(quay, "Thrust", blend_in=9))
    assert [p for p in after if before[p] != after[p]] == ["actions/thrust.json"]


LONG = (Action(name="long " * 100), Action(name="long " * 100 + "er"))


def test_names_that_make_the_same_file_name_get_two_files(quay: Project, tmp_path: Path) -> None:
    twins = replace(Project(name="T"), actions=(Action(name="A b"), Action(name="a-B"), Action(name="Ünd"), *LONG))
    save_project(twins, tmp_path / "t.veergust")
    assert open_project(tmp_path / "t.veergust") == twins


def test_removed_actions_go_and_foreign_files_stay(folder: Path, quay: Project) -> None:
    (folder / "notes.txt").write_text("mine")
    save_project(replace(quay, actions=quay.actions[1:]), folder)
    assert not (folder / "actions" / "low_sweep.json").exists()
    assert (folder / "notes.txt").read_text() == "mine"
    assert open_project(folder).actions == quay.actions[1:]


@pytest.mark.parametrize(
    ("file", "old", "new", "words"),
    [
        ("actions/low_sweep.json", '"blend_in": 3', '"blend_in": "three"', ("low_sweep.json", "blend_in", "whole number")),
        ("actions/low_sweep.json", '"hit_stop": 5', '"hit_stop": 5.5', ("sections[1].strikes[0].hit_stop",)),
        ("actions/low_sweep.json", '"damage": 13', '"damage": NaN', ("low_sweep.json", "JSON")),
        ("actions/low_sweep.json", '"then": "Swing"', '"then": "Swing", "colour": 3', ("colour", "not known")),
        ("project.json", '"schema": 3', '"schema": 99', ("schema", "99")),
        ("project.json", '"low_sweep"', '"no_such_file"', ("no_such_file",)),
        ("project.json", '"file": "clips/idle.glb"', '"file": "../../secret.glb"', ("clips[0].file", "outside")),
        ("project.json", '"figure": "clips/figure.glb"', '"figure": "/etc/passwd"', ("rig.figure", "outside")),
        ("ground.json", '"run_speed"', '"run_sped"', ("ground.json", "run_sped")),
        ("stage.json", "{", "[", ("stage.json",)),
    ],
)  # fmt: skip
def test_a_wrong_field_is_named(folder: Path, file: str, old: str, new: str, words: tuple[str, ...]) -> None:
    path = folder / file
    text = path.read_text()
    assert old in text
    path.write_text(text.replace(old, new, 1))
    with pytest.raises(Trouble) as caught:
        open_project(folder)
    for word in words:
        assert word in str(caught.value)
    assert "\n" not in str(caught.value)


def test_older_projects_are_migrated(folder: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    import veergust.core.files.as_files as module
    from veergust.core.files import migrate

    def step(files: migrate.Files) -> migrate.Files:
        files["ground.json"]["run_speed"] = 9.0
        return files

    for where in (module, migrate):
        monkeypatch.setattr(where, "SCHEMA", SCHEMA + 1)
    monkeypatch.setitem(migrate.STEPS, SCHEMA, step)
    assert open_project(folder).locomotion.run_speed == 9.0


def test_blends_of_the_first_schema_lie_by_their_speed(folder: Path) -> None:
    top, ground = folder / "project.json", folder / "ground.json"
    words = json.loads(ground.read_text())
    for state in words["states"]:
        state["blend"] = [{"clip": p["clip"], "speed": p.get("at", [0.0])[-1]} for p in state.get("blend", [])]
        state.pop("over", None)
    ground.write_text(json.dumps(words))
    top.write_text(json.dumps({**json.loads(top.read_text()), "schema": 1}))
    there = {s.name: s for s in open_project(folder).locomotion.states}
    assert [p.at for p in there["walk"].blend] == [(0.0,), (1.2,)]
    assert there["walk"].over == ("speed",)


def test_a_layer_of_the_second_schema_had_one_rule_outside_its_states(folder: Path) -> None:
    top = folder / "project.json"
    words = json.loads(top.read_text())
    words["layers"] = [
        {"name": "Body", "scope": ["idle", "walk"], "outside": "refuse"},
        {"name": "Arms", "scope": ["idle"]},
        {"name": "All", "outside": "finish"},
    ]
    top.write_text(json.dumps({**words, "schema": 2}))
    body, arms, all_ = open_project(folder).layers
    assert ([(s.state, s.rule) for s in body.scope], body.elsewhere) == (
        [("idle", "may"), ("walk", "may")],
        "keeps out",
    )
    assert (arms.elsewhere, all_.elsewhere, all_.scope) == ("fades", "may", ())


SAVER = """
import sys, itertools, msgspec
from pathlib import Path
from veergust.core.files.folder import open_project
from veergust.core.files.saving import save_project
from veergust.core.files.text import to_text
folder = Path(sys.argv[1])
project = open_project(folder)
print("ready", flush=True)
for n in itertools.count():
    actions = tuple(msgspec.structs.replace(a, blend_in=n % 2) for a in project.actions)
    save_project(msgspec.structs.replace(project, actions=actions), folder)
"""


def test_killed_while_saving_it_opens_as_it_was_before_or_after(folder: Path) -> None:
    rng = random.Random(4)
    for _ in range(8):
        process = subprocess.Popen([sys.executable, "-c", SAVER, str(folder)], stdout=subprocess.PIPE)
        assert process.stdout is not None
        process.stdout.readline()
        time.sleep(rng.uniform(0.005, 0.12))
        process.send_signal(signal.SIGKILL)
        process.wait()
        blends = {a.blend_in for a in open_project(folder).actions}
        assert blends in ({0}, {1}) or (len(blends) > 1 and blends == {a.blend_in for a in open_project(DEMO).actions})


def test_a_save_that_fails_keeps_the_old(folder: Path, quay: Project) -> None:
    target = folder / "actions" / "thrust.json" / "deeper"
    with pytest.raises(Trouble, match="cannot be written"):
        save_project(quay, target)
    assert open_project(folder) == quay


def test_importing_adds_clips_and_never_half_of_them(tmp_path: Path) -> None:
    folder = tmp_path / "new.veergust"
    save_project(Project(name="New"), folder)
    done = import_file(open_project(folder), folder, DEMO / "clips" / "figure.glb")
    assert (done.clips, done.project.rig.figure, done.project.rig.root) == ((), "clips/figure.glb", "root")
    done = import_file(done.project, folder, DEMO / "clips" / "idle.glb")
    assert done.clips == ("idle",)
    done = import_file(done.project, folder, DEMO / "clips" / "idle.glb")
    assert done.clips == ("idle_2",)
    project = done.project
    assert open_project(folder) == project
    before = tree(folder)
    bad = tmp_path / "walk.glb"
    bad.write_bytes((DEMO / "clips" / "walk.glb").read_bytes()[:5000])
    with pytest.raises(Trouble, match="cut short"):
        import_file(project, folder, bad)
    (tmp_path / "idle.glb").write_bytes((DEMO / "clips" / "run.glb").read_bytes())
    with pytest.raises(Trouble, match="different file of that name"):
        import_file(project, folder, tmp_path / "idle.glb")
    assert tree(folder) == before


def test_the_demo_is_copied_fresh_and_a_changed_copy_is_left_alone(tmp_path: Path) -> None:
    first = fresh_demo()
    assert fresh_demo() == first
    (first / "stage.json").write_text("{}")
    assert fresh_demo() != first
    with pytest.raises(Trouble, match="is there already"):
        copy_demo(first)
    assert msgspec.json.decode((first / "stage.json").read_bytes()) == {}


def of_many(quay: Project, count: int) -> Project:
    """The demo's actions over and over, each an object of its own, longer in all than what is kept in any case."""
    actions = [
        msgspec.structs.replace(quay.actions[n % len(quay.actions)], name=f"Move {n}", group=f"group {n}")
        for n in range(count)
    ]
    return msgspec.structs.replace(quay, actions=tuple(actions))


def test_an_edit_of_a_large_project_writes_the_text_of_what_it_changed_and_of_nothing_else(
    quay: Project, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    from veergust.core.files import as_files

    before = of_many(quay, 1400)
    files = project_files(before)
    assert sum(map(len, files.values())) > as_files.LEAST_KEPT
    journal = Journal(tmp_path, files)
    texts: list[object] = []

    def counted(part: object) -> bytes:
        texts.append(part)
        return to_text(part)

    monkeypatch.setattr(as_files, "to_text", counted)
    for n in (3, 600, 3):
        action = msgspec.structs.replace(before.actions[n], speed=1.0 + 0.01 * len(texts) + 0.01)
        after = msgspec.structs.replace(before, actions=(*before.actions[:n], action, *before.actions[n + 1 :]))
        texts.clear()
        as_files.check_change(before, after)
        journal.write("a step", after)
        assert texts == [action]
        before = after
    journal.close()


def test_what_an_edit_changes_is_held_against_the_bounds_and_what_it_leaves_is_not(quay: Project) -> None:
    from veergust.core.files.as_files import check_change

    long = msgspec.structs.replace(quay.actions[0].sections[0].cuts[0], start=0.0, end=9.0, rate=0.01)
    section = msgspec.structs.replace(quay.actions[0].sections[0], cuts=(long,) * 11)
    first = msgspec.structs.replace(quay.actions[0], sections=(section, *quay.actions[0].sections[1:]))
    slow = msgspec.structs.replace(quay, settings=msgspec.structs.replace(quay.settings, rate=10))
    fits = msgspec.structs.replace(slow, actions=(first, *slow.actions[1:]))
    check_change(slow, fits)
    with pytest.raises(Trouble, match="longer than"):
        check_change(quay, msgspec.structs.replace(quay, actions=fits.actions))
    # More frames a second make more frames of the same seconds, in actions that are the same.
    with pytest.raises(Trouble, match="longer than"):
        check_change(fits, msgspec.structs.replace(fits, settings=quay.settings))


def test_texts_are_kept_for_one_project_and_not_for_all_that_ever_were(quay: Project) -> None:
    from veergust.core.files.as_files import _TEXTS, LEAST_KEPT

    total = sum(map(len, project_files(quay).values()))
    for n in range(160):
        project_files(with_action(quay, "Low sweep", group=f"group {n}"))
    assert _TEXTS.size <= max(LEAST_KEPT, 2 * total) + total
    again = project_files(quay)
    assert again == project_files(msgspec.structs.replace(quay))
