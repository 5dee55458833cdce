"""The commands as outside programs rely on them: shapes, exit codes, and one sentence when something is wrong."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QApplication
from tools.made import DEMO

from tests.conftest import OSSA, TARN
from veergust.core.files.folder import open_project


def test_clips(run: Any, folder: Path) -> None:
    rows = {r["name"]: r for r in run("clips", folder, "--json").json["clips"]}
    roll = rows["dodge_roll"]
    assert set(roll) >= {
        "name",
        "source",
        "seconds",
        "source_fps",
        "frames",
        "joints",
        "loop",
        "mirror",
        "rate",
        "in",
        "out",
        "travel",
    }
    assert (roll["seconds"], roll["source_fps"], roll["frames"], roll["joints"]) == (0.9, 60.0, 55, 30)
    assert roll["travel"] == pytest.approx([0, 0, 2.4], abs=1e-3)
    assert rows["idle"]["loop"] is True
    assert "dodge_roll" in run("clips", folder).out


def test_facts(run: Any, folder: Path) -> None:
    rows = {r["name"]: r for r in run("facts", folder, "--json").json["actions"]}
    sweep = rows["Low sweep"]
    assert (sweep["startup"], sweep["active"], sweep["recovery"], sweep["total"]) == (9, 4, 33, 46)
    assert [type(sweep[k]) for k in ("on_hit", "on_guard", "reach")] == [int, int, float]
    assert sweep["sections"][0] == {"name": "Wind-up", "ticks": 8, "then": "Swing"}
    assert rows["Duck roll"]["startup"] is None
    assert [r["name"] for r in run("facts", folder, "Thrust", "--json").json["actions"]] == ["Thrust"]


def test_a_floor_map_is_printed_and_written(qapp: QApplication, run: Any, folder: Path, tmp_path: Path) -> None:
    found = run("map", folder, "Low sweep", "--json").json
    assert set(found) >= {"action", "step", "origin", "first_touch", "reach", "width"}
    facts = run("facts", folder, "Low sweep", "--json").json["actions"][0]
    assert (found["reach"], found["width"]) == (facts["reach"], facts["width"])
    assert 0.85 < facts["coverage"] < 1.0
    assert len({len(row) for row in found["first_touch"]}) == 1
    ticks = {tick for row in found["first_touch"] for tick in row} - {None}
    assert ticks == set(range(9, 13)), "the open frames of the strike"
    picture, table = tmp_path / "map.png", tmp_path / "map.csv"
    ran = run("map", folder, "Low sweep", "-o", picture, "--csv", table, "--step", "0.2", "--speed", "1.5")
    assert ran.out.split() == [str(picture), str(table)]
    image = QImage(str(picture))
    colours = {image.pixel(x, y) for x in range(0, image.width(), 5) for y in range(0, image.height(), 5)}
    assert len(colours) > 6
    rows = [line.split(",") for line in table.read_text().splitlines()]
    assert rows[0] == ["x", "z", "first_touch"]
    asked = run("map", folder, "Low sweep", "--json", "--step", "0.2", "--speed", "1.5").json
    cells = [("" if t is None else str(t)) for row in asked["first_touch"] for t in row]
    assert [r[2] for r in rows[1:]] == cells
    assert [float(v) for v in rows[1][:2]] == asked["origin"]
    assert "2.28 m reach" in run("map", folder, "Low sweep").out
    assert "Nobody" in run("map", folder, "Duck roll").out


def test_check_gives_findings_and_exit_one_for_an_error(run: Any, folder: Path) -> None:
    assert run("check", folder, "--json").json == {"findings": [], "pops": []}
    path = folder / "actions" / "low_sweep.json"
    path.write_text(path.read_text().replace('"clip": "staff_sweep"', '"clip": "gone"'))
    ran = run("check", folder, "--json")
    assert ran.code == 1
    assert set(ran.json["findings"][0]) == {"code", "level", "where", "says", "do"}
    assert {f["code"] for f in ran.json["findings"]} == {"clip-missing"}
    (folder / "clips" / "overhead.glb").unlink()
    assert "overhead" in run("check", folder).out


def test_play_writes_the_same_take_every_time(run: Any, folder: Path, tmp_path: Path) -> None:
    script = tmp_path / "in.json"
    script.write_text(json.dumps([
        {"tick": 5, "fighter": OSSA, "command": "light", "press": True},
        {"tick": 0, "fighter": TARN, "axis": "move", "value": [0, 0]},
    ]))  # fmt: skip
    takes = []
    for n in (1, 2):
        take = tmp_path / f"{n}.take"
        ran = run("play", folder, "--input", script, "--ticks", 60, "--seed", 3, "--take", take, "--json")
        assert ran.code == 0
        assert ran.json["contacts"][0]["strike"] == "Sweep"
        takes.append(take.read_bytes())
    assert takes[0] == takes[1]
    lines = [json.loads(x) for x in takes[0].splitlines()]
    assert len(lines) == 60
    assert set(lines[0]) == {"tick", "fighters", "events", "contacts", "things"}
    assert set(lines[9]["fighters"][0]) == {
        "name", "ground", "actions", "position", "facing", "grounded", "health", "holds", "frozen", "stick",
            "blocked", "layers", "stun", "poise",
    }  # fmt: skip
    assert lines[9]["fighters"][0]["actions"] == [
        {"layer": "Body", "action": "Low sweep", "section": "Wind-up", "frame": 4}
    ]
    contact = next(c for x in lines for c in x["contacts"])
    assert set(contact) == {"strike", "attacker", "victim", "hurtbox", "result", "position", "damage", "region"}
    event = next(e for x in lines for e in x["events"])
    assert set(event) == {"fighter", "name", "kind", "mount", "position", "facing", "payload"}


def test_drills_are_told_in_the_xml_that_build_machines_read(run: Any, folder: Path, tmp_path: Path) -> None:
    """Read back with another parser; names with marks and control characters in them too."""
    from defusedxml.ElementTree import parse

    path = folder / "drills" / "sweep_touches.json"
    said = json.loads(path.read_text())
    said["expect"][1]["contact"] = "guarded"
    said["name"] = 'Sweep <"&\u0001> é'
    path.write_text(json.dumps(said))
    report = tmp_path / "drills.xml"
    ran = run("drill", folder, "--junit", report, "--json")
    assert ran.code == 1
    results = {d["name"]: d for d in ran.json["drills"]}
    top: Any = parse(report).getroot()
    [suite] = top
    for counts in (top, suite):
        assert (counts.get("tests"), counts.get("failures"), counts.get("errors")) == ("12", "1", "0")
    assert float(suite.get("time")) == pytest.approx(sum(d["ticks"] for d in results.values()) / 60.0, abs=1e-3)
    cases = {case.get("name"): case for case in suite}
    assert set(cases) == {name.replace("\u0001", "") for name in results}
    for name, told in results.items():
        failed = [str(f.text) for f in cases[name.replace("\u0001", "")]]
        assert len(failed) == (not told["passed"])
        assert all(words in failed[0] for words in told["failed"])
    ran = run("drill", folder, "Mash does not restart", "--junit", tmp_path)
    assert ran.code == 2
    assert "is a folder" in ran.err


def test_drills_pass_and_one_that_fails_is_exit_one(run: Any, folder: Path) -> None:
    ran = run("drill", folder, "--json")
    assert ran.code == 0
    assert [d["passed"] for d in ran.json["drills"]] == [True] * 12
    assert set(ran.json["drills"][0]) == {"name", "passed", "ticks", "expected", "failed", "came"}
    path = folder / "drills" / "sweep_touches.json"
    path.write_text(path.read_text().replace('"contact": "hit"', '"contact": "guarded"'))
    ran = run("drill", folder, "Sweep touches", "--json")
    assert ran.code == 1
    assert "guarded Tarn" in ran.json["drills"][0]["failed"][0]


def test_render_draws_an_action_and_a_clip(run: Any, folder: Path, tmp_path: Path) -> None:
    for words in (("--action", "Low sweep", "--frame", 11), ("--clip", "run", "--frame", 5, "--theme", "night")):
        out = tmp_path / "out.png"
        assert run("render", folder, *words, "-o", out, "--size", "320x200").code == 0
        data = out.read_bytes()
        assert data[:8] == b"\x89PNG\r\n\x1a\n"
        assert (int.from_bytes(data[16:20], "big"), int.from_bytes(data[20:24], "big")) == (320, 200)
        assert len(data) > 4000


def test_new_import_and_demo(run: Any, tmp_path: Path) -> None:
    made = tmp_path / "made.veergust"
    assert run("new", made).code == 0
    ran = run("import", made, DEMO / "clips" / "figure.glb", DEMO / "clips" / "idle.glb", "--json")
    assert ran.json["clips"] == ["idle"]
    assert open_project(made).clips[0].name == "idle"
    copy = tmp_path / "demo.veergust"
    assert run("demo", "--to", copy).code == 0
    assert open_project(copy) == open_project(DEMO)


def test_wrong_use_and_wrong_input_are_exit_two_and_one_sentence(run: Any, folder: Path, tmp_path: Path) -> None:
    bad_json = tmp_path / "bad.json"
    bad_json.write_text('[{"tick": "five", "fighter": "Ossa Renn", "command": "light"}]')
    nobody = tmp_path / "nobody.json"
    nobody.write_text('[{"tick": 5, "fighter": "Nobody", "command": "light"}]')
    cut = tmp_path / "cut.glb"
    cut.write_bytes((DEMO / "clips" / "idle.glb").read_bytes()[:4000])
    greedy = tmp_path / "greedy.glb"
    data = (DEMO / "clips" / "idle.glb").read_bytes()
    at = data.index(b'"byteLength":', data.index(b'"buffers":')) + len(b'"byteLength":')
    end = at + len(data[at : at + 20].split(b"}")[0].split(b",")[0])
    greedy.write_bytes(data[:at] + b"9" * (end - at) + data[end:])
    secret = tmp_path / "out.gltf"
    secret.write_text(
        json.dumps({"asset": {"version": "2.0"}, "buffers": [{"byteLength": 4, "uri": "../../secret.bin"}]})
    )
    for words, named in (
        (("facts", tmp_path / "nothing"), "nothing"),
        (("facts", folder, "No such"), "No such"),
        (("map", folder, "No such"), "No such"),
        (("map", folder, "Low sweep", "--stance", "sitting"), "sitting"),
        (("map", folder, "Low sweep", "--step", "nan"), "step"),
        (("map", folder, "Low sweep", "-o", tmp_path / "map.jpeg"), "map.jpeg"),
        (("play", folder, "--ticks", 5, "--input", bad_json), "tick"),
        (("play", folder, "--ticks", 5, "--input", nobody), "Nobody"),
        (("play", folder), "ticks"),
        (("import", folder, cut), "cut.glb"),
        (("import", folder, greedy), "buffers[0].byteLength"),
        (("import", folder, secret), "../../secret.bin"),
        (("import", folder, tmp_path / "x.fbx"), "x.fbx"),
        (("render", folder, "--action", "Low sweep", "--frame", 99, "-o", tmp_path / "o.png"), "99"),
        (("render", folder, "-o", tmp_path / "o.png"), "--action"),
        (("render", folder, "--clip", "idle", "--size", "0x9", "-o", tmp_path / "o.png"), "0x9"),
        (("new", folder), "is there already"),
        (("drill", folder, "none such"), "none such"),
        (("facts", folder, "--jsn"), "--jsn"),
        (("nothing", "--json"), "there is no command 'nothing'"),
        (("chek", folder), "there is no command 'chek'; use check"),
        (("chek",), "there is no command 'chek'; use check"),
        (("nothing.veergust",), "is not a project folder"),
    ):
        before = {p: p.read_bytes() for p in folder.rglob("*.json")}
        ran = run(*words)
        assert ran.code == 2, words
        assert ran.out == ""
        assert named in ran.err, (words, ran.err)
        assert len(ran.err.strip().splitlines()) == 1
        assert "Traceback" not in ran.err
        assert {p: p.read_bytes() for p in folder.rglob("*.json")} == before


def test_an_action_that_names_a_clip_that_is_gone_is_not_played(run: Any, folder: Path, tmp_path: Path) -> None:
    path = folder / "actions" / "thrust.json"
    path.write_text(path.read_text().replace('"clip": "staff_thrust"', '"clip": "gone"', 1))
    script = tmp_path / "in.json"
    script.write_text("[]")
    for words in (("facts", folder), ("facts", folder, "Thrust"), ("play", folder, "--ticks", 3), ("drill", folder),
                  ("render", folder, "--action", "Thrust", "-o", tmp_path / "o.png")):  # fmt: skip
        ran = run(*words)
        assert ran.code == 2
        assert "actions/thrust.json, sections[0].cuts[0].clip" in ran.err
        assert "'gone'" in ran.err
    assert run("facts", folder, "Low sweep").code == 0
    assert run("check", folder).code == 1


def test_the_installed_entry_answers(folder: Path) -> None:
    ran = subprocess.run(
        [sys.executable, "-m", "veergust", "facts", str(folder), "--json"], capture_output=True, text=True
    )
    assert ran.returncode == 0
    assert ran.stderr == ""
    assert json.loads(ran.stdout)["actions"][0]["name"] == "Low sweep"
    missing = subprocess.run([sys.executable, "-m", "veergust", str(folder / "no")], capture_output=True, text=True)
    assert (missing.returncode, missing.stdout) == (2, "")
    assert "is not a project folder" in missing.stderr


def test_a_bvh_of_another_rig_is_imported_and_listed(run: Any, folder: Path) -> None:
    guard = DEMO.parent / "to_import" / "harbour_guard.bvh"
    done = run("import", folder, guard, "--json")
    assert done.code == 0
    assert done.json["clips"] == ["harbour_guard"]
    rows = {r["name"]: r for r in run("clips", folder, "--json").json["clips"]}
    row = rows["harbour_guard"]
    assert (row["source"], row["source_fps"], row["frames"]) == ("clips/harbour_guard.bvh", 30.0, 83)
    assert row["seconds"] == pytest.approx(82 / 30, abs=1e-4)
    assert row["joints"] == 22
    assert row["uses"] == []
    assert rows["walk"]["uses"] == ["ground walk", "ground run"]
    assert run("render", folder, "--clip", "harbour_guard", "--frame", 50, "-o", folder.parent / "g.png").code == 0
    bad = folder.parent / "bad.bvh"
    bad.write_text(guard.read_text().replace("Frames: 83", "Frames: 830"))
    refused = run("import", folder, bad)
    assert refused.code == 2
    assert "bad.bvh, MOTION: is cut short: it promises 830 frames" in refused.err
    assert not (folder / "clips" / "bad.bvh").exists()


def test_what_is_done_is_said_on_standard_error_when_asked(folder: Path) -> None:
    """``--verbose`` says what is read and compiled; what is printed stays what it is."""
    words = [sys.executable, "-m", "veergust", "--verbose", "facts", str(folder), "Low sweep", "--json"]
    done = subprocess.run(words, capture_output=True, text=True, check=True)
    plain = subprocess.run([w for w in words if w != "--verbose"], capture_output=True, text=True, check=True)
    assert done.stdout == plain.stdout
    assert plain.stderr == ""
    assert f"reads {folder.name}/project.json" in done.stderr
    assert "compiles Low sweep" in done.stderr


# Locomotion


def test_ground_is_told_as_the_contract_says(run: Any, folder: Path) -> None:
    made = run("ground", folder, "--json").json
    assert set(made) == {"entry", "states", "groups", "transitions", "parameters", "findings"}
    states = {s["name"]: s for s in made["states"]}
    assert {"name", "group", "clip", "blend", "loop"} <= set(states["idle"])
    assert states["idle"]["clip"] == "idle"
    assert states["slide"]["group"] is None
    assert [p["clip"] for p in states["walk"]["blend"]] == ["idle", "walk"]
    first = made["transitions"][0]
    assert {"start", "to", "conditions", "ticks", "says"} <= set(first)
    assert (first["start"], first["to"]) == ("*", "rise")
    assert made["findings"] == []
    said = run("ground", folder)
    assert said.code == 0
    assert "walk → run" in said.out
    assert "speed > 2.2 m/s" in said.out


def test_a_chart_goes_out_and_comes_back(run: Any, folder: Path, tmp_path: Path) -> None:
    before = open_project(folder).locomotion
    chart = tmp_path / "quay.scxml"
    assert run("ground", folder, "--to", chart).code == 0
    assert chart.read_bytes().startswith(b"<?xml")
    assert run("ground", folder, "--from", chart).code == 0
    after = open_project(folder).locomotion
    assert {s.name: s for s in after.states} == {s.name: s for s in before.states}
    assert after.transitions == before.transitions
    assert after.jump == before.jump


def test_a_chart_of_somebody_elses_is_taken_in_and_says_what_was_left_out(
    run: Any, folder: Path, tmp_path: Path
) -> None:
    chart = tmp_path / "theirs.scxml"
    chart.write_text(
        '<scxml xmlns="http://www.w3.org/2005/07/scxml" version="1.0" initial="calm">'
        '<state id="calm"><onentry><log expr="1"/></onentry><transition event="alarm" target="alert"/></state>'
        '<state id="alert"><transition cond="Math.sin(x) > 0" target="calm"/></state></scxml>'
    )
    made = run("ground", folder, "--from", chart, "--json").json
    assert [s["name"] for s in made["states"]] == ["calm", "alert"]
    assert any("Math.sin" in words for words in made["left_out"])
    assert {p["name"] for p in made["parameters"]} >= {"alarm"}
    assert open_project(folder).locomotion.entry == "calm"


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("<scxml", "no XML"),
        ("<svg/>", "no state chart"),
        ('<!DOCTYPE a [<!ENTITY b "c">]><scxml xmlns="http://www.w3.org/2005/07/scxml"/>', "entities"),
        (
            '<scxml xmlns="http://www.w3.org/2005/07/scxml"><state id="a"><transition target="b"/></state></scxml>',
            "'b'",
        ),
    ],
)
def test_a_chart_that_cannot_be_read_changes_nothing(
    run: Any, folder: Path, tmp_path: Path, text: str, says: str
) -> None:
    before = (folder / "ground.json").read_bytes()
    chart = tmp_path / "bad.scxml"
    chart.write_text(text)
    ran = run("ground", folder, "--from", chart)
    assert ran.code == 2
    assert says in ran.err
    assert "bad.scxml" in ran.err
    assert len(ran.err.strip().splitlines()) == 1
    assert (folder / "ground.json").read_bytes() == before


def test_an_input_file_sets_parameters(run: Any, folder: Path, tmp_path: Path) -> None:
    there = json.loads((folder / "ground.json").read_text())
    there["parameters"] = [{"name": "alarm"}]
    asks = [{"test": "parameter", "name": "alarm", "op": ">", "value": 0.5}]
    there["transitions"].append({"start": "idle", "to": "land", "conditions": asks})
    (folder / "ground.json").write_text(json.dumps(there))
    script = tmp_path / "in.json"
    script.write_text(json.dumps([{"tick": 5, "fighter": OSSA, "parameter": "alarm", "number": 0.8}]))
    take = tmp_path / "take.jsonl"
    assert run("play", folder, "--ticks", 12, "--input", script, "--take", take).code == 0
    grounds = [json.loads(line)["fighters"][0]["ground"] for line in take.read_text().splitlines()]
    assert grounds[4] == "idle"
    assert grounds[5] == "land"
    script.write_text(json.dumps([{"tick": 5, "fighter": OSSA, "parameter": "alarum"}]))
    ran = run("play", folder, "--ticks", 12, "--input", script)
    assert ran.code == 2
    assert "alarum" in ran.err
    assert "[0].parameter" in ran.err


# Layers


def test_layers_are_told_as_the_contract_says(run: Any, folder: Path) -> None:
    top = json.loads((folder / "project.json").read_text())
    top["schema"] = 2
    top["layers"] = [
        {"name": "Body", "scope": ["on guard", "idle"], "outside": "finish"},
        {"name": "Arms", "mask": "upper body", "scope": ["in the air"], "outside": "refuse"},
        {"name": "Flinch", "mode": "additive", "reference": "idle"},
    ]
    (folder / "project.json").write_text(json.dumps(top))
    made = run("layers", folder, "--json").json
    there = {y["name"]: y for y in made["layers"]}
    assert list(there) == ["Body", "Arms", "Flinch"]
    assert {"name", "mode", "mask", "weight", "scope"} <= set(there["Body"])
    # A group stands for what is in it.
    assert [s for s, does in there["Body"]["scope"].items() if does == "may"] == ["idle", "guard", "guard walk"]
    assert there["Body"]["scope"]["run"] == "finishes"
    assert [s for s, does in there["Arms"]["scope"].items() if does == "may"] == ["rise", "drop"]
    assert there["Arms"]["scope"]["idle"] == "keeps out"
    assert set(there["Flinch"]["scope"].values()) == {"may"}
    assert (there["Body"]["root"], there["Arms"]["root"]) == (1.0, 0.0)
    masks = {m["name"]: m["joints"] for m in made["masks"]}
    upper = masks["upper body"]
    assert (upper["hips"], upper["waist"], upper["head"], upper["foot_left"]) == (0.0, 0.5, 1.0, 0.0)
    said = run("layers", folder)
    assert said.code == 0
    assert "keeps out" in said.out
