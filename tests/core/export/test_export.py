"""An export on the disk: whole, owned, the same again, and right by its schemas."""

from __future__ import annotations

import json
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any

import jsonschema
import numpy as np
import pytest
from PIL import Image
from tools.made import DEMO
from tools.made.drawings import ARMS, METRE, built, drawing, drawn_project, said
from tools.made.edits import action, replace, with_action, with_section
from tools.made.rigs import project_of

from veergust.cli.main import main
from veergust.core.edit.actions import rename_action
from veergust.core.edit.clips import rename_clip
from veergust.core.edit.sections import rename_section
from veergust.core.export.axes import Axes
from veergust.core.export.writing import Exported, export
from veergust.core.files.beneath import Beneath
from veergust.core.model import HitboxKey, Project
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.contact.contacts import Contacts
from veergust.core.play.pose.posing import body_matrix
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import Input
from veergust.core.study.facts import facts
from veergust.core.trouble import Trouble


@pytest.fixture(scope="module")
def small(quay: Project) -> Project:
    """Few actions and clips, so that an export takes no time."""
    kept = tuple(a for a in quay.actions if a.name in ("Low sweep", "Thrust", "Reel front"))
    kept = tuple(replace(a, exits=(), sections=tuple(replace(s, exits=()) for s in a.sections)) for a in kept)
    return replace(quay, actions=kept, pools=(), reactions=quay.reactions[:0], thrown=(), drills=(), takes=())


def files(folder: Path) -> dict[str, bytes]:
    return {str(p.relative_to(folder)): p.read_bytes() for p in sorted(folder.rglob("*")) if p.is_file()}


def run(project: Project, assets: Assets, folder: Path, **more: Any) -> Exported:
    return export(CompiledProject(project, assets), folder, **more)


def document(folder: Path, name: str) -> Any:
    return json.loads((folder / f"{name}.json").read_text())


@pytest.mark.parametrize("axes", [Axes(), Axes("z", "left", "cm")], ids=lambda a: f"{a.up} {a.hand} {a.unit}")
def test_every_document_is_as_its_schema_says_and_one_that_is_not_is_refused(
    quay: Project, assets: Assets, tmp_path: Path, axes: Axes
) -> None:
    run(quay, assets, tmp_path, axes=axes, mesh=False)
    schemas = sorted((tmp_path / "schemas").iterdir())
    assert len(schemas) == 9
    for path in schemas:
        schema = json.loads(path.read_text())
        jsonschema.Draft202012Validator.check_schema(schema)
        check = jsonschema.Draft202012Validator(schema)
        made = document(tmp_path, path.name.split(".")[0])
        check.validate(made)
        if "manifest" not in path.name:
            assert list(check.iter_errors(made | {"what": 1})), "what is not known is refused"
    actions = document(tmp_path, "actions")
    del actions["actions"][0]["sections"][0]["ticks"]
    schema = json.loads((tmp_path / "schemas" / "actions.schema.json").read_text())
    assert list(jsonschema.Draft202012Validator(schema).iter_errors(actions))


def test_drawings_are_handed_over_with_what_is_on_them(tmp_path: Path) -> None:
    """Cells packed again pixel by pixel, points and boxes where they are drawn, which drawing each tick shows."""
    told = said()
    del told["cells"][2]["boxes"][0]
    folder, _ = drawn_project(tmp_path, told)
    build = built(folder)
    export(build, tmp_path / "out")
    sheets = document(tmp_path / "out", "sheets")
    jsonschema.validate(sheets, json.loads((tmp_path / "out" / "schemas" / "sheets.schema.json").read_text()))
    (sheet,) = sheets["sheets"]
    picture = np.asarray(Image.open(tmp_path / "out" / sheet["image"]))
    assert (sheet["pixels_per_metre"], sheet["looks"], sheet["edges"]) == (METRE, "right", "crisp")
    for n, (cell, arm) in enumerate(zip(sheet["cells"], ARMS, strict=True)):
        (x, y), (wide, high) = cell["at"], cell["size"]
        assert np.array_equal(picture[y : y + high, x : x + wide], drawing(arm))
        assert cell["points"] == {"fist": pytest.approx([42 + arm, 33])}
        drawn = {b["name"]: b["rect"] for b in told["cells"][n]["boxes"] if b["kind"] == "hurt"}
        assert {b["name"]: b["rect"] for b in cell["boxes"]} == {k: pytest.approx(v) for k, v in drawn.items()}
    (action,) = document(tmp_path / "out", "actions")["actions"]
    (section,) = action["sections"]
    assert section["drawings"] == [[0, n, hold] for n, hold in enumerate((5, 5, 5, 3, 4, 8))]
    assert [row["leaps"] for row in section["strikes"][0]["boxes"][0]["ticks"]] == [False] * 3 + [True] + [False] * 3
    figure = document(tmp_path / "out", "figure")
    assert figure["picture"] == "(picture)"
    assert [(h["shape"], h["deep"]) for h in figure["hurtboxes"]] == [("span", 0.2), ("span", 0.2)]


def test_foreign_rigs_are_handed_over_as_well(tmp_path: Path) -> None:
    project, assets = project_of("a turned node above a root", (3.0, 2.0), 20.0, (("lunge", 0.2, 0.9),))
    run(project, assets, tmp_path)
    figure = document(tmp_path, "figure")
    assert [j["name"] for j in figure["joints"]] == list(assets.skeleton.names)
    assert {c["name"] for c in document(tmp_path, "clips")["clips"]} >= {"walk", "run", "lunge"}


def with_keys(project: Project) -> Project:
    """The sweep's first hitbox growing and going over its strike, and a box and a mirrored cut in the thrust."""
    sweep, thrust = action(project, "Low sweep"), action(project, "Thrust")
    (strike,) = sweep.sections[1].strikes
    box = strike.boxes[0]
    keys = tuple(
        HitboxKey(tick=strike.start + 2 * n, offset=(0.1 * n, 0.0, 0.2), to=box.to, radius=0.05 + 0.02 * n)
        for n in range(3)
    )
    grown = replace(strike, end=strike.start + 5, boxes=(replace(box, keys=keys), *strike.boxes[1:]))
    project = with_section(project, "Low sweep", 1, strikes=(grown,))
    section = thrust.sections[1]
    hit = section.strikes[0]
    cube = replace(hit.boxes[0], shape="box", size=(0.1, 0.2, 0.3), offset=(0.0, 0.4, 0.05))
    cuts = tuple(replace(c, mirror=True) for c in section.cuts)
    return with_section(project, "Thrust", 1, strikes=(replace(hit, boxes=(cube,)),), cuts=cuts)


def test_a_hitbox_is_told_where_play_tests_it(quay: Project, assets: Assets, tmp_path: Path) -> None:
    """On every open tick, about its joint, carried by where that joint is: a capsule with keys and a box among them, in
    a cut that is mirrored too."""
    project = with_keys(quay)
    run(project, assets, tmp_path, mesh=False)
    build = CompiledProject(project, assets)
    names = assets.skeleton.names
    for name in ("Low sweep", "Thrust", "Overhead hook"):
        told = next(a for a in document(tmp_path, "actions")["actions"] if a["name"] == name)
        seen = set()
        simulation = Simulation(build)
        for tick in range(80):
            record = simulation.tick([Input("Ossa Renn", action=name)] if tick == 0 else [])
            fighter = record.fighters[0]
            live = [v for v in fighter.live() if v.compiled.action.name == name]
            if not live or fighter.frozen:
                continue
            section = told["sections"][live[0].section]
            rows = [
                row
                for s in section["strikes"]
                for b in s["boxes"]
                for row in b["ticks"]
                if row["tick"] == live[0].frame
            ]
            found = [v for swing, _, v in Contacts(build, simulation.fighters, simulation.world).volumes()
                     if swing.attacker.name == "Ossa Renn"]  # fmt: skip
            assert len(rows) == len(found), (name, live[0].frame)
            world = body_matrix(fighter.position, fighter.facing) @ fighter.joints_now
            for row, volume in zip(rows, found):
                joint = world[names.index(row["joint"])]
                seen.add(live[0].frame)
                if "half" in row:
                    turn = joint[:3, :3] @ np.array(row["turn"])
                    assert np.abs(turn - volume.box_frame[:3, :3]).max() < 1e-6
                    assert np.abs(joint[:3, :3] @ row["middle"] + joint[:3, 3] - volume.now[0]).max() < 1e-6
                    assert volume.half is not None
                    assert row["half"] == pytest.approx(volume.half.tolist())
                else:
                    for end, there in zip(("from", "to"), volume.now):
                        assert np.abs(joint[:3, :3] @ row[end] + joint[:3, 3] - there).max() < 1e-6
                    assert row["radius"] == pytest.approx(volume.radius)
        assert len(seen) >= 2, name


@pytest.mark.parametrize("name", ["Thrust", "Stagger front"])
def test_travel_by_tick_is_the_way_that_play_goes(quay: Project, assets: Assets, tmp_path: Path, name: str) -> None:
    """Of a strike alone on open floor, while no drive says otherwise: from tick to tick as far as the body went."""
    run(quay, assets, tmp_path, mesh=False)
    build = CompiledProject(quay, assets)
    told = next(a for a in document(tmp_path, "actions")["actions"] if a["name"] == name)
    simulation = Simulation(build, fighters=(replace(quay.stage.fighters[0], position=(-4.0, 0.0, 1.0), facing=0.0),))
    there = []
    for tick in range(30):
        record = simulation.tick([Input("Ossa Renn", action=name)] if tick == 0 else [])
        live = record.fighters[0].live()
        there += [(live[0].section, live[0].frame, record.fighters[0].position.copy())] if live else []
    steps = []
    for (s, f, a), (s2, f2, b) in zip(there[8:], there[9:]):
        driven = any(d["start"] <= f < d["end"] for d in told["sections"][s]["drives"])
        if s == s2 and f2 == f + 1 and not driven:
            way = told["sections"][s]["travel"]["place"]
            steps.append(float(np.linalg.norm(np.subtract(way[f2], way[f]))))
            assert np.linalg.norm(b - a) == pytest.approx(steps[-1], abs=1e-6)
    assert len(steps) > 5
    assert max(steps) > 0.01


def test_the_same_project_is_the_same_bytes_and_nothing_is_written_again(
    small: Project, assets: Assets, tmp_path: Path
) -> None:
    first = run(small, assets, tmp_path / "a")
    again = run(small, assets, tmp_path / "a")
    run(small, assets, tmp_path / "b")
    assert files(tmp_path / "a") == files(tmp_path / "b")
    assert (again.written, again.removed, again.left_alone) == ([], [], [])
    assert sorted(again.unchanged) == sorted(first.written)
    assert {f["path"] for f in document(tmp_path / "a", "manifest")["files"]} == set(first.written)


def test_renamed_it_is_the_same_thing_under_another_name(small: Project, assets: Assets, tmp_path: Path) -> None:
    run(small, assets, tmp_path)
    before = document(tmp_path, "manifest")
    renamed = rename_action(small, "Thrust", "Long point").project
    renamed = rename_section(renamed, "Low sweep", 1, "Round").project
    renamed = rename_clip(renamed, "staff_thrust", "point").project
    out = run(renamed, assets, tmp_path)
    after = document(tmp_path, "manifest")
    assert out.removed == []
    assert "clips/staff_thrust.glb" in out.written
    for kind in ("actions", "sections", "clips"):
        old, new = ({(i["of"], i["identity"]) for i in m["identities"][kind]} for m in (before, after))
        assert old == new, kind
    names = {i["identity"]: i["name"] for kind in ("actions", "clips") for i in after["identities"][kind]}
    assert (names["Thrust"], names["staff_thrust"]) == ("Long point", "point")
    actions = {a["identity"]: a for a in document(tmp_path, "actions")["actions"]}
    assert actions["Thrust"]["name"] == "Long point"
    cuts = [c["clip"] for s in actions["Thrust"]["sections"] for c in s["cuts"]]
    assert set(cuts) <= {c["identity"] for c in document(tmp_path, "clips")["clips"]}


def test_what_vanished_is_removed_and_what_is_not_the_exports_stays(
    small: Project, assets: Assets, tmp_path: Path
) -> None:
    run(small, assets, tmp_path)
    (tmp_path / "notes.txt").write_text("mine")
    (tmp_path / "clips" / "mine.glb").write_bytes(b"glTF")
    fewer = replace(small, actions=tuple(a for a in small.actions if a.name != "Thrust"))
    out = run(fewer, assets, tmp_path)
    assert out.removed == ["actions/thrust.glb", "clips/staff_thrust.glb"]
    assert not (tmp_path / "clips" / "staff_thrust.glb").exists()
    assert (tmp_path / "notes.txt").read_text() == "mine"
    assert (tmp_path / "clips" / "mine.glb").read_bytes() == b"glTF"


def test_what_somebody_changed_by_hand_is_kept_beside_or_left(small: Project, assets: Assets, tmp_path: Path) -> None:
    run(small, assets, tmp_path)
    (tmp_path / "actions.json").write_text("{}")
    (tmp_path / "clips" / "staff_thrust.glb").write_bytes(b"by hand")
    fewer = replace(small, actions=tuple(a for a in small.actions if a.name != "Thrust"))
    out = run(fewer, assets, tmp_path)
    assert sorted(out.left_alone) == ["actions.json.changed", "clips/staff_thrust.glb"]
    assert (tmp_path / "actions.json.changed").read_text() == "{}"
    assert (tmp_path / "clips" / "staff_thrust.glb").read_bytes() == b"by hand"
    assert document(tmp_path, "actions")["actions"]
    (tmp_path / "actions.json").write_text("[]")
    assert run(fewer, assets, tmp_path).left_alone == ["actions.json.changed_2"]


def test_a_file_in_the_way_that_is_no_exports_is_never_written_over(
    small: Project, assets: Assets, tmp_path: Path
) -> None:
    (tmp_path / "clips").mkdir()
    (tmp_path / "clips" / "idle.glb").write_bytes(b"mine")
    with pytest.raises(Trouble, match=r"clips/idle\.glb: is there, and no export's"):
        run(small, assets, tmp_path)
    assert files(tmp_path) == {"clips/idle.glb": b"mine"}


@pytest.mark.parametrize("stop", [0, 2, 5])
def test_killed_in_the_middle_the_next_one_ends_it(
    small: Project, assets: Assets, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, stop: int
) -> None:
    """After so many files are in their places; whoever exports next brings the rest, then its own."""
    run(small, assets, tmp_path / "a")
    old = files(tmp_path / "a")
    changed = with_action(small, "Thrust", blend_in=9)
    changed = rename_clip(changed, "idle", "stand").project
    moves, move = iter(range(10**6)), Beneath.move

    def dies(place: Beneath, source: str, target: str) -> None:
        if "commit" not in target and next(moves) >= stop:
            raise KeyboardInterrupt
        move(place, source, target)

    with monkeypatch.context() as patch:
        patch.setattr(Beneath, "move", dies)
        with pytest.raises(KeyboardInterrupt):
            run(changed, assets, tmp_path / "a")
    third = with_action(changed, "Low sweep", blend_in=7)  # what is half there is of neither, and nobody's hand
    run(third, assets, tmp_path / "b")
    out = run(third, assets, tmp_path / "a")
    assert files(tmp_path / "a") == files(tmp_path / "b")
    assert out.left_alone == []
    assert old != files(tmp_path / "a")


@pytest.mark.parametrize(
    ("spoil", "says"),
    [
        (lambda d: (d / "manifest.json").write_text("{}"), "is no manifest of an export"),
        (lambda d: (d / "manifest.json").write_text("not"), "is no manifest of an export"),
        (
            lambda d: (d / "manifest.json").write_text(
                (d / "manifest.json").read_text().replace('"clips/idle.glb"', '"../idle.glb"')
            ),
            "which no export owns",
        ),
        (
            lambda d: (d / "manifest.json").write_text(
                (d / "manifest.json").read_text().replace('"format": 1', '"format": 7')
            ),
            "is of format 7",
        ),
        (lambda d: (d / "project.json").write_text("{}"), "is a project"),
    ],
)
def test_a_folder_that_is_none_of_its_own_is_left_with_a_sentence(
    small: Project, assets: Assets, tmp_path: Path, spoil: Callable[[Path], object], says: str
) -> None:
    run(small, assets, tmp_path)
    spoil(tmp_path)
    before = files(tmp_path)
    with pytest.raises(Trouble, match=says):
        run(small, assets, tmp_path)
    assert files(tmp_path) == before


def test_single_actions_are_put_into_what_is_there(small: Project, assets: Assets, tmp_path: Path) -> None:
    with pytest.raises(Trouble, match="no export yet"):
        run(small, assets, tmp_path, only=["Thrust"])
    run(small, assets, tmp_path)
    changed = with_action(with_action(small, "Thrust", blend_in=9), "Low sweep", blend_in=9)
    out = run(changed, assets, tmp_path, only=["Thrust"])
    assert out.written == ["actions.json"]
    blends = {a["name"]: a["blend_in"] for a in document(tmp_path, "actions")["actions"]}
    assert blends["Thrust"] == 9
    assert blends["Low sweep"] == action(small, "Low sweep").blend_in
    with pytest.raises(Trouble, match="in other axes"):
        run(small, assets, tmp_path, only=["Thrust"], axes=Axes("z"))
    with pytest.raises(Trouble, match="there is no action 'Nothing'"):
        run(small, assets, tmp_path, only=["Nothing"])


def test_axes_stay_as_they_were_asked_for_once(small: Project, assets: Assets, tmp_path: Path) -> None:
    run(small, assets, tmp_path, axes=Axes("z", "left", "cm"))
    before = files(tmp_path)
    run(small, assets, tmp_path)
    assert files(tmp_path) == before
    axes = document(tmp_path, "manifest")["axes"]
    assert (axes["up"], axes["hand"], axes["unit"]) == ("z", "left", "cm")
    assert (axes["ahead"], axes["left"], axes["upward"]) == ([0, -1, 0], [-1, 0, 0], [0, 0, 1])
    ground = document(tmp_path, "ground")
    assert ground["walk_speed"] == pytest.approx(small.locomotion.walk_speed * 100)
    assert ground["turn_rate"] == small.locomotion.turn_rate


def words(*given: object) -> int:
    with pytest.raises(SystemExit) as end:
        main(list(map(str, given)))
    return int(end.value.code or 0)


def test_the_command_tells_what_it_did_and_an_error_stops_it(
    quay: Project, tmp_path: Path, folder: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    out = tmp_path / "out"
    assert words("export", DEMO, "--to", out, "--json", "--no-mesh") == 0
    told = json.loads(capsys.readouterr().out)
    assert set(told) == {"written", "unchanged", "removed", "left_alone"}
    assert "manifest.json" not in told["written"]
    assert set(told["written"]) | {"manifest.json"} == set(files(out))
    path = folder / "actions" / "thrust.json"
    path.write_text(path.read_text().replace('"command": "light"', '"command": "nothing"'))
    before = files(out)
    assert words("export", folder, "--to", out) == 1
    assert "Nothing was written" in capsys.readouterr().err
    assert files(out) == before
    assert words("export", DEMO, "--to", DEMO) == 2
    assert "is a project" in capsys.readouterr().err


def test_the_twenty_lines_of_the_page_say_on_which_ticks_a_hitbox_is_open(
    quay: Project, assets: Assets, tmp_path: Path
) -> None:
    """The page's own script, run as it stands: its ticks are those on which play has the strike open."""
    page = (DEMO.parents[1] / "docs" / "handing-over.md").read_text()
    script = tmp_path / "open.py"
    script.write_text(page.split("```python\n")[1].split("```")[0])
    assert len(script.read_text().splitlines()) <= 20
    run(quay, assets, tmp_path / "out", mesh=False)
    for name in ("Low sweep", "Thrust"):
        done = subprocess.run(
            [sys.executable, "-I", str(script), str(tmp_path / "out"), name], capture_output=True, text=True, check=True
        )
        told = {int(line.split()[0]) for line in done.stdout.splitlines()}
        found = facts(CompiledProject(quay, assets), name)
        assert found is not None
        assert (min(told), len(told)) == (found.startup, found.active)
