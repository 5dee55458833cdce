"""A stranger's folder can do no harm: nothing outside it is opened, nothing in it is changed, nothing hangs, and
whatever is wrong is one sentence."""

from __future__ import annotations

import json
import os
import resource
import shutil
import socket
import stat
import subprocess
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from msgspec.structs import replace
from tools.made import DEMO

from veergust.core.edit.actions import new_action
from veergust.core.files.assets import load_assets
from veergust.core.files.folder import open_project
from veergust.core.files.importing import import_file
from veergust.core.files.plan import digest
from veergust.core.files.saving import save_project
from veergust.core.model import Drill, Locomotion, Project, State

ACTION = "actions/overhead.json"


@pytest.fixture(scope="module")
def tiny(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A whole small project: a figure, two clips, one action, a drill, and locomotion."""
    folder = tmp_path_factory.mktemp("tiny") / "tiny.veergust"
    save_project(Project(name="tiny"), folder)
    project = open_project(folder)
    for name in ("figure", "idle", "overhead"):
        project = import_file(project, folder, DEMO / "clips" / f"{name}.glb").project
    edit, _ = new_action(project, load_assets(project, folder)[0], "overhead")
    locomotion = Locomotion(entry="idle", states=(State(name="idle", clip="idle"),))
    save_project(replace(edit.project, drills=(Drill(name="stand", ticks=5),), locomotion=locomotion), folder)
    return folder


def commands(folder: Path, into: Path) -> list[list[str]]:
    name = str(folder)
    inputs = into / "inputs.json"
    inputs.write_text("[]")
    return [
        ["clips", name, "--json"],
        ["clips", name],
        ["moves", name, "overhead", "--json"],
        ["facts", name, "--json"],
        ["facts", name],
        ["check", name],
        ["play", name, "--ticks", "5", "--input", str(inputs), "--take", str(into / "take.jsonl")],
        ["drill", name],
        ["render", name, "--clip", "overhead", "--frame", "3", "--size", "64x48", "-o", str(into / "out.png")],
        ["flipbook", name, "overhead", "--cells", "2", "--height", "32", "--to", str(into / "cells.png")],
    ]


def run_all(rows: list[tuple[list[str], Path]]) -> list[dict[str, Any]]:
    given = json.dumps([[words, str(outside)] for words, outside in rows])
    done = subprocess.run(
        [sys.executable, "-m", "tests.cli.under_watch"], input=given, capture_output=True, text=True, check=False,
        cwd=Path(__file__).parents[2],
    )  # fmt: skip
    assert done.returncode == 0, done.stderr[-2000:]
    return list(json.loads(done.stdout))


def link(folder: Path, name: str, target: Path) -> None:
    path = folder / name
    if path.is_dir():
        shutil.rmtree(path)
    else:
        path.unlink(missing_ok=True)
    path.parent.mkdir(exist_ok=True)
    path.symlink_to(target)


def put(folder: Path, file: str, change: Callable[[Any], Any]) -> None:
    path = folder / file
    path.write_text(json.dumps(change(json.loads(path.read_text()))))


def clip_file(name: str) -> Callable[[Path, Path], None]:
    def make(folder: Path, outside: Path) -> None:
        def change(top: Any) -> Any:
            top["clips"][0]["file"] = name.replace("OUT", str(outside))
            return top

        put(folder, "project.json", change)

    return make


def buffer(uri: str) -> Callable[[Path, Path], None]:
    """A clip whose buffer is named by a uri that leads out."""

    def make(folder: Path, outside: Path) -> None:
        text = {"asset": {"version": "2.0"}, "buffers": [{"byteLength": 4, "uri": uri.replace("OUT", str(outside))}]}
        (folder / "clips" / "far.gltf").write_text(json.dumps(text))
        clip_file("clips/far.gltf")(folder, outside)

    return make


def instead(name: str, make: Callable[[Path], object]) -> Callable[[Path, Path], None]:
    def build(folder: Path, outside: Path) -> None:
        path = folder / name
        path.unlink(missing_ok=True)
        path.parent.mkdir(exist_ok=True)
        make(path)

    return build


def a_socket(path: Path) -> None:
    here = os.getcwd()
    os.chdir(path.parent)  # a socket's path may not be long
    try:
        socket.socket(socket.AF_UNIX).bind(path.name)
    finally:
        os.chdir(here)


def plan(folder: Path, outside: Path) -> None:
    (folder / ".saving").mkdir()
    (folder / ".git").mkdir()
    (folder / ".git" / "config").write_text("[core]")
    files = {".git/config": {"replaces": "0" * 64, "brings": None}, "../x": {"replaces": None, "brings": "0" * 64}}
    mark = digest(json.dumps(files, separators=(",", ":")).encode())
    (folder / ".saving" / "commit.json").write_text(json.dumps({"version": 2, "files": files, "sum": mark}))


def linked_plan(folder: Path, outside: Path) -> None:
    (outside / "commit.json").write_text(json.dumps({"version": 2, "files": {}}))
    (folder / ".saving").symlink_to(outside)


def in_action(key: str, value: Any) -> Callable[[Path, Path], None]:
    return lambda folder, outside: put(folder, ACTION, lambda action: {**action, key: value})


def in_top(key: str, value: Any) -> Callable[[Path, Path], None]:
    return lambda folder, outside: put(folder, "project.json", lambda top: {**top, key: value})


def pools(folder: Path, outside: Path) -> None:
    pool = {"name": "round", "items": [{"name": "round"}, {"name": "again"}]}
    again = {"name": "again", "items": [{"name": "round"}]}
    in_top("pools", [pool, again])(folder, outside)

    def lead(action: Any) -> Any:
        action["sections"][0]["then"] = "round"
        return action

    put(folder, ACTION, lead)


def alternates(folder: Path, outside: Path) -> None:
    def nest(action: Any) -> Any:
        inner: dict[str, Any] = json.loads(json.dumps(action))
        for _ in range(60):
            inner = {**json.loads(json.dumps(action)), "kept": [{"name": "k", "action": inner}]}
        return inner

    put(folder, ACTION, nest)


def newer(folder: Path, outside: Path) -> None:
    in_top("schema", 99)(folder, outside)
    (folder / ACTION).write_text("{")


def clip_row(**fields: Any) -> Callable[[Path, Path], None]:
    return lambda folder, outside: put(
        folder, "project.json", lambda top: {**top, "clips": [{**top["clips"][0], **fields}, *top["clips"][1:]]}
    )


def twice(folder: Path, outside: Path) -> None:
    shutil.copy(folder / ACTION, folder / "actions" / "same.json")


# What is done to the folder, and what is to come of it: refused (2), or as it is for each command.
HOSTILE: dict[str, tuple[Callable[[Path, Path], None], bool]] = {
    "a clip behind a link": (lambda f, o: link(f, "clips/idle.glb", o / "secret.glb"), True),
    "an action behind a link": (lambda f, o: link(f, ACTION, o / "secret.json"), True),
    "the project behind a link": (lambda f, o: link(f, "project.json", o / "secret.json"), True),
    "a folder of clips behind a link": (lambda f, o: link(f, "clips", o), True),
    "a folder of actions behind a link": (lambda f, o: link(f, "actions", o), True),
    "a clip up and out": (clip_file("../outside/secret.glb"), True),
    "a clip out by backslashes": (clip_file("clips\\..\\..\\outside\\secret.glb"), True),
    "a clip by its full path": (clip_file("OUT/secret.glb"), True),
    "a clip by a uri": (clip_file("file://OUT/secret.glb"), True),
    "a buffer up and out": (buffer("../../outside/secret.bin"), True),
    "a buffer escaped": (buffer("%2e%2e/%2e%2e/outside/secret.bin"), True),
    "a buffer by its full path": (buffer("OUT/secret.bin"), True),
    "a pipe for the project": (instead("project.json", os.mkfifo), True),
    "a pipe for an action": (instead("actions/pipe.json", os.mkfifo), True),
    "a pipe for a clip": (instead("clips/idle.glb", os.mkfifo), True),
    "a socket for an action": (instead("actions/socket.json", a_socket), True),
    "a folder for an action": (instead(ACTION, lambda p: p.mkdir()), True),
    "a folder for a clip": (instead("clips/idle.glb", lambda p: p.mkdir()), True),
    "a plan of a stranger": (plan, False),
    "a plan behind a link": (linked_plan, False),
    "a file called as the plan's folder": (lambda f, o: (f / ".saving").write_text("x") and None, False),  # type: ignore[dict-item]
    "a newer schema, broken": (newer, True),
    "a schema that is no number": (in_top("schema", "one"), True),
    "an enormous number": (in_action("blend_in", 10**400), True),
    "a speed of nothing": (in_action("speed", 0), True),
    "a rate that would fill memory": (clip_row(rate=1e-300), True),
    "a name twice": (twice, True),
    "a list without end": (in_top("tags", "x" * 3_000_000), True),
    "nested deep": (lambda f, o: (f / ACTION).write_text("[" * 200_000) and None, True),  # type: ignore[dict-item]
    "pools that lead to each other": (pools, False),
    "alternates in alternates": (alternates, True),
    "names a terminal would obey": (in_action("name", "\x1b[31mred\x07\x9b2J\u202e"), False),
    "locomotion without its clip": (lambda f, o: (f / "clips" / "idle.glb").unlink(), False),
}


def tree(folder: Path) -> dict[str, object]:
    out: dict[str, object] = {}
    for path in sorted(folder.rglob("*")):
        mode = path.lstat().st_mode
        out[str(path.relative_to(folder))] = path.read_bytes() if stat.S_ISREG(mode) else mode
    return out


@pytest.fixture(scope="module")
def ran(tiny: Path, tmp_path_factory: pytest.TempPathFactory) -> dict[str, tuple[list[dict[str, Any]], bool]]:
    """What every command did with every folder, and whether the folders are as they were."""
    rows: list[tuple[list[str], Path]] = []
    wheres: dict[str, tuple[Any, ...]] = {}
    for kind, (make, _) in HOSTILE.items():
        top = tmp_path_factory.mktemp("hostile")
        folder, outside, into = top / "x.veergust", top / "outside", top / "into"
        shutil.copytree(tiny, folder)
        outside.mkdir()
        into.mkdir()
        for name in ("secret.glb", "secret.json", "secret.bin", "idle.glb"):
            (outside / name).write_bytes((DEMO / "clips" / "idle.glb").read_bytes())
        make(folder, outside)
        words = commands(folder, into)
        wheres[kind] = (folder, outside, len(rows), len(words), tree(folder), tree(outside))
        rows += [(w, outside) for w in words]
    results = run_all(rows)
    return {
        kind: (results[first : first + many], tree(folder) == was and tree(outside) == far)
        for kind, (folder, outside, first, many, was, far) in wheres.items()
    }


@pytest.mark.parametrize("kind", HOSTILE)
def test_no_command_opens_changes_or_is_hung_by_anything(
    ran: dict[str, tuple[list[dict[str, Any]], bool]], kind: str
) -> None:
    results, unchanged = ran[kind]
    refused = HOSTILE[kind][1]
    for result in results:
        assert result["outside"] == [], kind
        assert "Traceback" not in result["err"] + result["out"]
        assert "should not" not in result["err"], result["err"]
        assert result["code"] in ((2,) if refused else (0, 1, 2)), result
        if result["code"] == 2:
            assert len(result["err"].splitlines()) in (1, 2)
            assert result["err"].endswith(".\n")
        assert not any(c in result["out"] + result["err"] for c in "\x1b\x07\x9b\u202e\x7f")
    assert unchanged


def test_what_is_missing_is_never_left_out_in_silence(ran: dict[str, tuple[list[dict[str, Any]], bool]]) -> None:
    results, _ = ran["locomotion without its clip"]
    codes = [r["code"] for r in results]
    assert codes == [0, 0, 0, 2, 2, 1, 2, 2, 0, 0]
    for result in (results[3], results[6], results[7]):
        assert "ground.json, states[0].clip: names the clip 'idle', whose file clips/idle.glb is gone" in result["err"]


def test_a_plan_of_a_stranger_is_said_beside_the_answer(ran: dict[str, tuple[list[dict[str, Any]], bool]]) -> None:
    results, _ = ran["a plan of a stranger"]
    assert {r["code"] for r in results} == {0}
    assert all("unfinished save" in r["err"] for r in results)
    assert json.loads(results[0]["out"])["clips"]


# Odd places and full disks


def test_odd_places_get_a_sentence_and_nothing_half(tiny: Path, tmp_path: Path) -> None:
    outside = tmp_path / "outside"
    bytes_name = os.fsdecode(os.fsencode(str(tmp_path)) + b"/n\xff\xfe.veergust")
    shutil.copytree(tiny, bytes_name)
    surrogate = os.fsencode(bytes_name).decode("utf-8", "surrogateescape")
    long_name = str(tmp_path / ("x" * 300))
    os.mkfifo(tmp_path / "pipe")
    clip = tiny / "clips" / "idle.glb"
    rows: list[tuple[list[str], int]] = [
        (["check", surrogate], 0),
        (["facts", surrogate, "--json"], 0),
        (["new", surrogate], 2),
        (["new", surrogate + "2"], 0),
        (["new", long_name], 2),
        (["facts", long_name], 2),
        (["import", str(tiny), long_name + ".glb"], 2),
        (["demo", "--to", str(tiny / "project.json" / "x")], 2),
        (["demo", "--to", str(tmp_path / "demo")], 0),
        (["new", str(tmp_path / "demo")], 2),
        (["play", str(tiny), "--ticks", "5", "--take", "/dev/full"], 2),
        (["play", str(tiny), "--ticks", "5", "--take", str(tmp_path)], 2),
        (["play", str(tiny), "--ticks", "5", "--take", long_name], 2),
        (["play", str(tiny), "--ticks", "5", "--take", str(tmp_path / "pipe")], 2),
        (["play", str(tiny), "--ticks", "5", "--input", str(tmp_path / "pipe")], 2),
        (["import", str(tiny), str(tmp_path / "pipe")], 2),
        (["play", str(tiny), "--ticks", "5", "--seed", str(10**30)], 0),
        (["render", str(tiny), "--clip", "idle", "-o", str(tmp_path / "no" / "x.png")], 2),
        (["facts", str(clip)], 2),
    ]
    results = run_all([(words, outside) for words, _ in rows])
    for (words, code), result in zip(rows, results):
        assert (words[0], result["code"], result["err"][-300:] if result["code"] != code else "") == (
            words[0],
            code,
            "",
        )
        assert "should not" not in result["err"]
        assert len(result["err"].splitlines()) == (1 if code else 0), result
    assert not [p.name for p in tmp_path.iterdir() if p.name.startswith(".")]


SMALL = """
import resource, sys
resource.setrlimit(resource.RLIMIT_FSIZE, (20000, 20000))
from veergust.cli.main import main
main(sys.argv[1:])
"""


def test_a_file_that_may_not_grow_leaves_nothing_half(tiny: Path, tmp_path: Path) -> None:
    folder = tmp_path / "t.veergust"
    shutil.copytree(tiny, folder)
    before = tree(folder)
    source = tmp_path / "more.glb"
    shutil.copy(DEMO / "clips" / "overhead.glb", source)
    for words in (
        ["import", folder, source],
        ["play", folder, "--ticks", "200", "--take", tmp_path / "take.jsonl"],
        ["demo", "--to", tmp_path / "demo"],
    ):
        ran = subprocess.run(
            [sys.executable, "-c", SMALL, *map(str, words)], capture_output=True, text=True, check=False
        )
        assert ran.returncode == 2, ran
        assert ran.stderr.count("\n") == 1, ran.stderr
    assert tree(folder) == before
    assert sorted(p.name for p in tmp_path.iterdir()) == ["more.glb", "t.veergust"]
    assert resource.getrlimit(resource.RLIMIT_FSIZE)[0] != 20000


@pytest.mark.parametrize("words", [["clips"], ["facts", "--json"]])
def test_output_that_cannot_be_written_is_said(tiny: Path, words: list[str]) -> None:
    command = [sys.executable, "-m", "veergust", words[0], str(tiny), *words[1:]]
    with open("/dev/full", "w") as full:
        ran = subprocess.run(command, stdout=full, stderr=subprocess.PIPE, text=True, check=False)
    assert (ran.returncode, ran.stderr.count("\n")) == (2, 1), ran.stderr
    assert "No space left" in ran.stderr
    latin = {**os.environ, "LC_ALL": "C", "PYTHONIOENCODING": "iso-8859-1", "PYTHONUTF8": "0"}
    ran2 = subprocess.run(command, capture_output=True, env=latin, check=False)
    assert (ran2.returncode, ran2.stderr) == (0, b"")


GUEST = """
import os, sys
from veergust.cli.main import main

def run(*words):
    try:
        main([str(w) for w in words])
    except SystemExit as stop:
        print("exit", stop.code, file=sys.stderr)

folder, source = sys.argv[1:]
rows = [("facts", folder), ("check", folder), ("clips", folder), ("play", folder, "--ticks", "5"), ("drill", folder)]
for row in rows:
    run(*row)  # so that all is loaded that a guest may not read
if os.geteuid() == 0:
    os.setresuid(65534, 65534, 65534)
print("as a guest", file=sys.stderr)
for row in [*rows, ("import", folder, source), ("new", folder + "/x"), ("demo", "--to", folder + "/y")]:
    run(*row)
"""


def test_a_folder_that_can_only_be_read_is_read(tiny: Path) -> None:
    with tempfile.TemporaryDirectory() as top:
        os.chmod(top, 0o755)
        folder, source = Path(top, "t.veergust"), Path(top, "run.glb")
        shutil.copytree(tiny, folder)
        shutil.copy(DEMO / "clips" / "run.glb", source)
        for path in (folder, *folder.rglob("*")):
            path.chmod(0o555 if path.is_dir() else 0o444)
        before = tree(folder)
        ran = subprocess.run(
            [sys.executable, "-c", GUEST, str(folder), str(source)], capture_output=True, text=True, check=False
        )
        said = ran.stderr.partition("as a guest\n")[2].splitlines()
        assert [line for line in said if line.startswith("exit")] == ["exit 0"] * 5 + ["exit 2"] * 3, ran.stderr
        assert len(said) == 8 + 3, said
        assert tree(folder) == before
        for path in (folder, *folder.rglob("*")):
            path.chmod(0o755)


def test_an_escaped_uri_a_mark_before_the_text_and_odd_names_come_in(tiny: Path, tmp_path: Path) -> None:
    folder = tmp_path / "t.veergust"
    shutil.copytree(tiny, folder)
    glb = (DEMO / "clips" / "idle.glb").read_bytes()
    size = int.from_bytes(glb[12:16], "little")
    head = json.loads(glb[20 : 20 + size])
    binary = glb[28 + size :]
    head["buffers"][0]["uri"] = "my%20idle.bin"
    source = tmp_path / "my idle.gltf"
    source.write_bytes(b"\xef\xbb\xbf" + json.dumps(head).encode())
    (tmp_path / "my idle.bin").write_bytes(binary)
    odd = tmp_path / "take 12:30.glb"
    odd.write_bytes(glb)
    slash = tmp_path / "a\\b.glb"
    slash.write_bytes(glb)
    top = folder / "project.json"
    top.write_bytes(b"\xef\xbb\xbf" + top.read_bytes())
    rows = [(["import", str(folder), str(source), str(odd), str(slash), "--json"], tmp_path / "outside")]
    rows += [(["clips", str(folder), "--json"], tmp_path / "outside")]
    done, listed = run_all(rows)
    assert done["code"] == 0, done["err"]
    assert "take 12:30.glb: it is called take 12-30.glb in the project" in json.loads(done["out"])["left_out"]
    sources = {c["source"]: c["seconds"] for c in json.loads(listed["out"])["clips"]}
    assert {"clips/my idle.gltf", "clips/take 12-30.glb", "clips/a-b.glb"} <= sources.keys()
    assert (folder / "clips" / "my idle.bin").read_bytes() == binary
    assert len({round(sources[n], 6) for n in ("clips/my idle.gltf", "clips/a-b.glb")}) == 1
