"""Drawn figures in play: never two drawings at once, boxes where they are drawn, guests of other projects."""

from __future__ import annotations

import shutil
from pathlib import Path

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from msgspec.structs import replace
from tools.made.drawings import ARMS, CELL, FEET, METRE, box, built, drawn_project, said, write_pair

from tests.conftest import OSSA, TARN
from veergust.core.files.assets import load_assets
from veergust.core.files.folder import open_project
from veergust.core.files.importing import import_file
from veergust.core.files.saving import save_project
from veergust.core.model import Condition, Hurtbox, Reaction, State, Transition
from veergust.core.motion.drawn import seen_on
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.contact.contact import Contact
from veergust.core.play.contact.contacts import Contacts
from veergust.core.play.contact.hurts import placed_hurts
from veergust.core.play.pose.posing import body_matrix
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import Input
from veergust.core.study.findings import findings
from veergust.core.study.pops import pops, words
from veergust.core.trouble import Trouble


@pytest.fixture(scope="module")
def paper(tmp_path_factory: pytest.TempPathFactory) -> tuple[Path, CompiledProject]:
    """A drawn figure with a jab and a walk, which walks as a state of its own."""
    tmp = tmp_path_factory.mktemp("drawn")
    folder, project = drawn_project(tmp)
    walk = said([4] * 6, image="walk.png", name="walk")
    for cell in walk["cells"]:
        cell["boxes"] = [b for b in cell["boxes"] if b["kind"] != "hit"]
    done = import_file(project, folder, write_pair(tmp / "walk", walk))
    project = done.project
    ground = project.locomotion
    stand = ground.states[0].name
    states = (*ground.states, State(name="walk", clip="walk", plays="loop"))
    moving, still = (Condition(test="wanted_speed", op=op, value=0.5) for op in (">", "<="))
    transitions = (
        Transition(start=stand, to="walk", ticks=9, conditions=(moving,)),
        Transition(start="walk", to=stand, ticks=6, conditions=(still,)),
    )
    actions = tuple(replace(a, blend_in=5, blend_out=7) for a in project.actions)
    project = replace(project, locomotion=replace(ground, states=states, transitions=transitions), actions=actions)
    project = replace(project, reactions=(Reaction(action="jab"),))
    save_project(project, folder)
    return folder, built(folder)


def test_in_every_fade_one_drawing_is_seen_and_nothing_between_two(paper: tuple[Path, CompiledProject]) -> None:
    """All joints of every tick are those of one cell: of the state that is left, the one that is entered, the action."""
    build = paper[1]
    bones = build.assets.skeleton
    cells = {}
    for file, motion in {(c.file, build.assets.motion(c.file, c.animation)) for c in build.project.clips if c.file}:
        assert motion is not None
        rows = {bones.names[t.joint]: t.values for t in motion.tracks if t.path == "translation"}
        number = build.project.rig.sheets.index(file)
        for n in range(len(ARMS)):
            cells[number, n] = {name: values[n] for name, values in rows.items()}
    simulation = Simulation(build)
    seen = set()
    for tick in range(120):
        given_ = [Input("One", action="jab")] if tick in (13, 60) else []
        given_ += [Input("One", axis="move", value=(0.3 * (tick % 60 < 48), 0.0))] if tick % 5 == 0 else []
        record = simulation.tick(given_)
        for f in record.fighters:
            joints = f.joints_now
            cell = seen_on(bones, joints)
            seen.add(cell)
            for name, place in cells[cell].items():
                assert joints[bones.index[name], :3, 3] == pytest.approx(place, abs=1e-9), (tick, name)
    assert {(0, n) for n in range(6)} <= seen
    assert {(1, n) for n in range(6)} <= seen


@given(weight=st.floats(0, 1), first=st.integers(0, 29), second=st.integers(0, 29))
def test_of_two_drawings_that_are_mixed_the_one_that_shows_more_is_chosen(
    paper: tuple[Path, CompiledProject], weight: float, first: int, second: int
) -> None:
    from veergust.core.motion.layering import over

    part = paper[1].action("jab").sections[0]  # type: ignore[union-attr]
    a, b = part.pose.frame(first), part.pose.frame(second)
    out, _ = over(part.skeleton, a, b, np.full(len(part.skeleton), weight), None)
    assume(abs(weight - 0.5) > 1e-6)
    want = b if weight > 0.5 else a
    assert np.array_equal(out.rotation, want.rotation)
    assert np.array_equal(out.translation, want.translation)


def hurt_rect(build: CompiledProject, name: str, joints: np.ndarray, body: np.ndarray) -> np.ndarray | None:
    """Where a hurtbox is tested, in the world: its lowest and highest corner; None where it is not there."""
    shapes = build.hurt_shapes["standing"]
    n = shapes.names.index(name)
    hurts = placed_hurts([shapes], [(body, joints)], [(body, joints)])
    if not hurts.half[1, n].any():
        assert hurts.ends[2, n, 1] < -1000.0
        return None
    reach = np.abs(hurts.frames[1, n, :3, :3]) @ hurts.half[1, n]
    return np.stack([hurts.ends[2, n] - reach, hurts.ends[2, n] + reach])


@pytest.mark.parametrize("facing", [90.0, -90.0])
@pytest.mark.parametrize("looks", ["right", "left"])
@pytest.mark.parametrize("metre", [40.0, 173.0])
def test_a_box_is_tested_where_it_is_drawn_on_each_cell_and_nowhere_between(
    tmp_path: Path, facing: float, looks: str, metre: float
) -> None:
    """To half a pixel, by plain arithmetic with the rectangles; also where a cell begins and ends."""
    told = said(looks=looks, pixels_per_metre=metre)
    for n, cell in enumerate(told["cells"]):
        cell["boxes"][0]["rect"] = [26 + 3 * n, 4 + n, 14, 16]
    del told["cells"][2]["boxes"][0]
    folder, _ = drawn_project(tmp_path, told)
    build = built(folder)
    compiled = build.action("jab")
    assert compiled is not None
    body = body_matrix(np.array([3.0, 0.5, 0.0]), facing)
    way = (1.0 if looks == "right" else -1.0) * (1.0 if facing > 0 else -1.0)
    tick = 0
    for n, hold in enumerate((5, 5, 5, 3, 4, 8)):
        drawn = {b["name"]: b["rect"] for b in told["cells"][n]["boxes"]}
        for _ in range(hold):
            joints = compiled.world_of(0)[tick]
            found = hurt_rect(build, "head", joints, body)
            assert (found is None) == ("head" not in drawn)
            if found is not None:
                x, y, wide, high = drawn["head"]
                sides = sorted(3.0 + way * (side - FEET[0]) / metre for side in (x, x + wide))
                assert found[:, 0] == pytest.approx(sides, abs=0.5 / metre)
                assert found[:, 1] == pytest.approx(
                    [0.5 + (FEET[1] - y - high) / metre, 0.5 + (FEET[1] - y) / metre], abs=0.5 / metre
                )
            tick += 1


def test_a_drawn_strike_touches_what_its_rectangle_reaches_and_not_what_it_would_sweep(
    paper: tuple[Path, CompiledProject], tmp_path: Path
) -> None:
    """A box that is drawn here on one cell and there on the next was never between the two."""
    told = said()
    told["cells"][3]["boxes"][-1]["rect"] = [60, 29, 4, 8]
    told["cells"][4]["boxes"][-1]["rect"] = [90, 29, 4, 8]
    folder, _ = drawn_project(tmp_path, told)
    build = built(folder)
    one, other = build.project.stage.fighters
    thin = Hurtbox(name="thread", joint="root", offset=(0, 1.0, 0), to=(0, 1.4, 0), radius=0.01)

    def touched(far: float) -> list[int]:
        rig = replace(build.project.rig, hurtboxes=(thin,))
        stage = replace(build.project.stage, posts=())
        ready = build.renew(replace(build.project, rig=rig, stage=stage))
        fighters = (replace(one, position=(0, 0, 0)), replace(other, position=(far, 0, 0), facing=-90.0))
        simulation = Simulation(ready, fighters=fighters)
        simulation.tick([Input("One", action="jab")])
        return [r.tick for r in (simulation.tick() for _ in range(29)) if r.contacts]

    def ahead(pixel: float) -> float:
        return (pixel - FEET[0]) / METRE

    assert touched(ahead(62)) == [15]
    assert touched(ahead(77)) == []
    assert touched(ahead(92)) == [18]
    assert touched(ahead(64.3)) == [15]
    assert touched(ahead(65.0)) == []


def test_a_guest_has_its_own_figure_moves_and_reactions(paper: tuple[Path, CompiledProject], folder: Path) -> None:
    """A drawn figure beside one with a skeleton: either strikes the other, each by its own project's numbers."""
    visiting = paper[0]
    quay = open_project(folder)
    shutil.copytree(visiting, folder.parent / visiting.name)
    ossa, tarn = quay.stage.fighters[:2]
    near = (replace(ossa, position=(-0.45, 0, 0), facing=90.0),
            replace(tarn, position=(0.75, 0, 0), facing=-90.0, project=visiting.name, plays="stands"))  # fmt: skip
    save_project(replace(quay, stage=replace(quay.stage, fighters=near)), folder)
    build = built(folder)
    simulation = Simulation(build)
    guest = build.of(near[1])
    assert guest is not build
    assert len(simulation.fighter(TARN).joints_now) == len(guest.assets.skeleton)
    assert len(simulation.fighter(OSSA).joints_now) == len(build.assets.skeleton)
    found: list[Contact] = []
    for tick in range(150):
        asked = {5: [Input(TARN, action="jab")], 70: [Input(OSSA, action="Low sweep")]}.get(tick, [])
        now = simulation.tick(asked).contacts
        if any(c.victim == TARN for c in now):
            assert simulation.fighter(TARN).playing() == ("jab",)
        found += now
    assert [(c.attacker, c.victim, c.strike.name) for c in found[:2]] == [
        (TARN, OSSA, "fist"), (OSSA, TARN, "Sweep"),
    ]  # fmt: skip
    assert found[1].hurtbox in ("head", "trunk")
    assert (found[0].damage, found[1].damage) == (10.0, 13.0)


def test_a_guest_plays_as_it_does_at_home(paper: tuple[Path, CompiledProject], folder: Path) -> None:
    """The same figure on its own project's stage and as a guest on another's does the same, tick by tick."""
    visiting, home = paper
    quay = open_project(folder)
    shutil.copytree(visiting, folder.parent / visiting.name)
    floor = replace(home.project.stage.floors[0], low=(-10.0, -10.0), high=(10.0, 10.0))
    alone = replace(home.project.stage.fighters[0], position=(1, 0, 0), plays="keys")
    stage = replace(home.project.stage, floors=(floor,), posts=(), fighters=(alone,))
    own = Simulation(home.renew(replace(home.project, stage=stage)))
    away = replace(stage, fighters=(replace(alone, project=visiting.name),))
    save_project(replace(quay, stage=away), folder)
    guest = Simulation(built(folder))
    for tick in range(90):
        given_ = {3: [Input("One", axis="move", value=(0.6, 0.2))], 30: [Input("One", action="jab")]}.get(tick, [])
        a, b = (s.tick(given_).fighters[0] for s in (own, guest))
        assert (a.position.tolist(), a.facing, a.playing()) == (b.position.tolist(), b.facing, b.playing())
        assert np.array_equal(a.joints_now, b.joints_now)


@pytest.mark.parametrize("wide", [0.1, 0.9])
def test_a_guests_own_body_is_in_the_way(paper: tuple[Path, CompiledProject], folder: Path, wide: float) -> None:
    """Walked to head-on and far from the origin, it is met where both bodies end, however wide it is, and stands."""
    visiting, home = paper
    quay = open_project(folder)
    shutil.copytree(visiting, folder.parent / visiting.name)
    body = replace(home.project.rig.capsule, radius=wide)
    save_project(replace(home.project, rig=replace(home.project.rig, capsule=body)), folder.parent / visiting.name)
    ossa, tarn = quay.stage.fighters[:2]
    floor = replace(quay.stage.floors[0], low=(-99, -99), high=(99, 99))
    near = (replace(ossa, position=(40, 0, -25), facing=90.0, plays="keys"),
            replace(tarn, position=(42.5, 0, -25), facing=-90.0, project=visiting.name, plays="stands"))  # fmt: skip
    save_project(replace(quay, stage=replace(quay.stage, fighters=near, floors=(floor,), posts=())), folder)
    simulation = Simulation(built(folder))
    gaps = []
    for tick in range(150):
        simulation.tick([Input(OSSA, axis="move", value=(1.0, 0.0))] if tick == 0 else [])
        one, other = (f.position for f in simulation.fighters)
        assert other.tolist() == [42.5, 0.0, -25.0]
        gaps.append(float(np.hypot(one[0] - other[0], one[2] - other[2])))
    assert min(gaps) == pytest.approx(quay.rig.capsule.radius + wide, abs=0.01)


@pytest.mark.parametrize(("tall", "through"), [(0.5, True), (1.7, False)])
def test_a_guest_goes_under_what_it_is_low_enough_for(
    paper: tuple[Path, CompiledProject], folder: Path, tall: float, through: bool
) -> None:
    visiting, home = paper
    quay = open_project(folder)
    shutil.copytree(visiting, folder.parent / visiting.name)
    body = replace(home.project.rig.capsule, height=tall)
    save_project(replace(home.project, rig=replace(home.project.rig, capsule=body)), folder.parent / visiting.name)
    floor = replace(quay.stage.floors[0], low=(-99, -99), high=(99, 99))
    beam = replace(quay.stage.posts[0], position=(1.5, 1.0, 0.0), radius=0.3)
    guest = replace(quay.stage.fighters[0], position=(0, 0, 0), facing=90.0, project=visiting.name, plays="keys")
    save_project(replace(quay, stage=replace(quay.stage, fighters=(guest,), floors=(floor,), posts=(beam,))), folder)
    simulation = Simulation(built(folder))
    for tick in range(200):
        simulation.tick([Input(OSSA, axis="move", value=(1.0, 0.0))] if tick == 0 else [])
    assert (simulation.fighters[0].position[0] > 2.0) == through


def test_contacts_of_a_drawn_figure_do_not_depend_on_where_it_stands(paper: tuple[Path, CompiledProject]) -> None:
    build = paper[1]
    one, other = build.project.stage.fighters
    results = []
    for x, z, turn in ((0.0, 0.0, 90.0), (40.0, -25.0, 90.0), (3.0, 2.0, -90.0), (-7.0, 5.0, 37.0)):
        ahead = np.radians(turn)
        there = (x + 1.0 * np.sin(ahead), 0.0, z + 1.0 * np.cos(ahead))
        fighters = (replace(one, position=(x, 0, z), facing=turn),
                    replace(other, position=there, facing=turn + 180.0))  # fmt: skip
        stage = replace(build.project.stage, floors=(replace(build.project.stage.floors[0], low=(-99, -99),
                                                             high=(99, 99)),), posts=())  # fmt: skip
        simulation = Simulation(build.renew(replace(build.project, stage=stage)), fighters=fighters)
        records = [simulation.tick([Input("One", action="jab")] if t == 0 else []) for t in range(30)]
        results.append([(r.tick, c.hurtbox) for r in records for c in r.contacts])
    assert results[0]
    assert all(r == results[0] for r in results)
    assert Contacts(build, simulation.fighters).find() == []


def test_what_is_not_on_a_cell_cannot_be_struck_there(tmp_path: Path) -> None:
    told = said()
    for n in (3, 4):
        told["cells"][n]["boxes"] = [box("hit", "fist", 70, 29, 16, 8)]
    folder, _ = drawn_project(tmp_path, told)
    build = built(folder)
    one, other = build.project.stage.fighters
    fighters = (replace(one, position=(0, 0, 0)), replace(other, position=(1.1, 0, 0), facing=-90.0))
    assert CELL == (96, 80)

    def hits(late: int) -> list[tuple[int, str]]:
        simulation = Simulation(build, fighters=fighters)
        both = ((0, Input("One", action="jab")), (late, Input("Other", action="jab")))
        records = [simulation.tick([i for tick, i in both if tick == t]) for t in range(40)]
        return [(r.tick, c.victim) for r in records for c in r.contacts]

    # Both strike on the same cells, on which there is nothing of either to be struck.
    assert hits(0) == []
    assert (15, "Other") in hits(8)


def test_feet_that_are_drawn_elsewhere_jump(tmp_path: Path) -> None:
    """The jab stands 20 pixels (half a metre) ahead of where it is said to stand; the stand does not."""
    told = said()
    folder, project = drawn_project(tmp_path, told)
    assert [p.why for p in pops(built(folder), built(folder).action("jab"))] == []  # type: ignore[arg-type]
    kick = said(image="kick.png", name="kick")
    for cell in kick["cells"]:
        cell["feet"] = [FEET[0] - 20, FEET[1]]
    import_file(project, folder, write_pair(tmp_path / "two", kick))
    build = built(folder)
    found = pops(build, build.action("kick"))  # type: ignore[arg-type]
    assert [(p.joint, p.at) for p in found] == [("feet", 0), ("feet", 30)]
    assert [p.metres for p in found] == pytest.approx([0.5, 0.5], abs=0.01)
    assert "its feet jump by 50 cm" in words(found[0])


def test_a_guest_that_is_gone_is_told_and_plays_as_one_of_here(folder: Path) -> None:
    quay = open_project(folder)
    one, other = quay.stage.fighters
    stage = replace(quay.stage, fighters=(one, replace(other, project="gone.veergust")))
    save_project(replace(quay, stage=stage), folder)
    project = open_project(folder)
    assets, missing = load_assets(project, folder)
    assert len(missing) == 1
    assert "gone.veergust cannot be read" in missing[0]
    build = CompiledProject(project, assets)
    assert [f.code for f in findings(build) if f.level == "error"] == ["guest-gone"]
    assert len(Simulation(build).fighter(TARN).joints_now) == len(assets.skeleton)
    for name in ("../quay.veergust", "/etc", "a/b.veergust", "quay"):
        bad = replace(project.stage, fighters=(one, replace(other, project=name)))
        with pytest.raises(Trouble, match="no project folder beside this one"):
            load_assets(replace(project, stage=bad), folder)


def test_a_guest_of_another_rate_is_not_had(paper: tuple[Path, CompiledProject], folder: Path) -> None:
    quay = open_project(folder)
    shutil.copytree(paper[0], folder.parent / "slow.veergust")
    slow = open_project(folder.parent / "slow.veergust")
    save_project(replace(slow, settings=replace(slow.settings, rate=30)), folder.parent / "slow.veergust")
    one, other = quay.stage.fighters
    stage = replace(quay.stage, fighters=(one, replace(other, project="slow.veergust")))
    assets, missing = load_assets(replace(quay, stage=stage), folder)
    assert assets.guests == {}
    assert missing == ["slow.veergust plays at 30 frames a second, and this project at 60"]
