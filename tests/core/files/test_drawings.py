"""Sheets of drawings on their way in: what is said beside them, how bare ones are cut, what is refused."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image
from tools.made.drawings import ARMS, CELL, FEET, METRE, built, drawing, drawn_project, folder_of, said, write_pair

from veergust.core.export.writing import export
from veergust.core.files.drawings import cutting
from veergust.core.files.drawings.packing import How, drafted, picked
from veergust.core.files.drawings.read import read_flipbook
from veergust.core.files.folder import open_project
from veergust.core.files.importing import import_file
from veergust.core.files.saving import save_project
from veergust.core.model import Project
from veergust.core.motion.drawn import MOST_CELLS, MOST_SHEETS, on_sheet, shown_on, turns_of
from veergust.core.motion.figure import Assets
from veergust.core.motion.quat import to_matrix
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.pose.posing import body_matrix
from veergust.core.study.facts import facts
from veergust.core.trouble import Trouble
from veergust.report.flipbook import flipbook


@given(
    cell=st.integers(0, MOST_CELLS - 1),
    sheet=st.integers(0, MOST_SHEETS - 1),
    place=st.tuples(*[st.floats(-900, 900)] * 3),
    facing=st.floats(-180, 180),
)
def test_a_pose_says_which_drawing_it_shows_wherever_it_stands(
    cell: int, sheet: int, place: tuple[float, float, float], facing: float
) -> None:
    joints = np.tile(np.eye(4), (2, 1, 1))
    joints[1, :3, :3] = to_matrix(turns_of([cell], sheet))[0]
    rounded = (body_matrix(np.array(place), facing) @ joints).astype(np.float32).astype(float)
    assert shown_on(rounded, 0, 1) == (sheet, cell)
    joints[1, :3, :3] = to_matrix(on_sheet(turns_of([cell]), sheet))[0]
    assert shown_on(joints, 0, 1) == (sheet, cell)


# What is said beside a sheet


def test_a_pair_comes_in_by_itself_with_its_cells_held_as_it_says(tmp_path: Path) -> None:
    folder, project = drawn_project(tmp_path)
    build = built(folder)
    clip = build.clip("jab")
    assert clip is not None
    motion = build.assets.motion(clip.file, clip.animation)
    assert motion is not None
    assert (motion.seconds, motion.fps) == (0.5, 60.0)
    compiled = build.action("jab")
    assert compiled is not None
    shown = [shown_on(compiled.world_of(0)[t], 0, build.assets.skeleton.picture) for t in range(30)]
    assert shown == [(0, n) for n, hold in enumerate((5, 5, 5, 3, 4, 8)) for _ in range(hold)]
    assert project.rig.capsule.height == pytest.approx(76 / METRE)
    assert [m.name for m in project.rig.mounts] == ["feet", "fist"]
    assert [h.name for h in project.rig.hurtboxes] == ["head", "trunk"]


def test_its_points_are_where_they_are_drawn_ahead_of_where_it_stands(tmp_path: Path) -> None:
    """By plain arithmetic, for one that looks to the right and for one that looks to the left."""
    for looks, sign in (("right", 1.0), ("left", -1.0)):
        content = read_flipbook(write_pair(tmp_path / looks, said(looks=looks)).with_suffix(".json"))
        track = next(t for t in content.motions[0].tracks if content.skeleton.names[t.joint] == "fist")
        for at, arm in zip(track.values, ARMS):
            want = (0.0, (FEET[1] - 33) / METRE, sign * (42 + arm - FEET[0]) / METRE)
            assert tuple(at) == pytest.approx(want)


def test_what_strikes_on_its_cells_is_an_action_with_the_same_numbers(tmp_path: Path) -> None:
    folder, _ = drawn_project(tmp_path)
    build = built(folder)
    compiled = build.action("jab")
    assert compiled is not None
    found = facts(build, "jab")
    assert found is not None
    # It is out on the fourth and the fifth cell.
    assert (found.startup, found.active, found.total) == (15, 7, 30)
    strike = compiled.action.sections[0].strikes[0]
    assert [(k.tick, k.ease) for k in strike.boxes[0].keys] == [(15, "hold"), (18, "hold")]


def test_a_body_goes_as_the_cells_say_or_as_it_stands_in_them(tmp_path: Path) -> None:
    told = said()
    for n, cell in enumerate(told["cells"]):
        cell["travel"] = [0.0, 0.0, 0.1 * n]
    folder, _ = drawn_project(tmp_path, told)
    compiled = built(folder).action("jab")
    assert compiled is not None
    starts = np.cumsum([0, 5, 5, 5, 3, 4])
    assert compiled.way[0][starts, 2] == pytest.approx(0.1 * np.arange(6), abs=1e-6)
    walks = said(walks=True, looks="left")
    for n, cell in enumerate(walks["cells"]):
        cell["feet"] = [50 - 4 * n, 80]
    folder, _ = drawn_project(tmp_path / "walks", walks)
    compiled = built(folder).action("jab")
    assert compiled is not None
    assert compiled.way[0][starts, 2] == pytest.approx(4 / METRE * np.arange(6), abs=1e-6)


def test_several_sheets_make_one_figure(tmp_path: Path) -> None:
    folder, project = drawn_project(tmp_path)
    second = said(image="kick.png", name="kick")
    for cell in second["cells"]:
        cell["points"] = {"toe": [60, 70]}
    done = import_file(project, folder, write_pair(tmp_path / "two", second))
    assert done.project.rig.sheets == ("clips/jab.json", "clips/kick.json")
    build = built(folder)
    assert {"fist", "toe"} <= set(build.assets.skeleton.names)
    assert {"fist", "toe"} <= {m.name for m in build.project.rig.mounts}
    for name, sheet in (("jab", 0), ("kick", 1)):
        compiled = build.action(name)
        assert compiled is not None
        shown = {shown_on(j, 0, build.assets.skeleton.picture) for j in compiled.world_of(0)[:30]}
        assert shown == {(sheet, n) for n in range(6)}


def test_drawings_and_joints_are_figures_of_their_own(tmp_path: Path, folder: Path, quay: Project) -> None:
    with pytest.raises(Trouble, match="a sheet of drawings, and the figure of this project has a skeleton"):
        import_file(quay, folder, write_pair(tmp_path))
    paper, project = drawn_project(tmp_path / "other")
    with pytest.raises(Trouble, match="holds joints, and the figure of this project is drawn"):
        import_file(project, paper, folder / quay.rig.figure)


@pytest.mark.parametrize("name", ["Low sweep", "Thrust", "Overhead hook"])
def test_a_flipbook_of_a_posed_action_has_its_facts_within_a_cell(
    quay: Project, assets: Assets, tmp_path: Path, name: str
) -> None:
    """Drawn from the side, brought in and struck with: every number is that of the figure it was drawn from, but for
    the frames of a cell."""
    every = 2
    posed = CompiledProject(quay, assets)
    flipbook(posed, name, tmp_path / "a.png", every=every, side="right", height=120)
    folder = folder_of(tmp_path / "flat.veergust")
    import_file(Project(), folder, tmp_path / "a.png")
    build = built(folder)
    flat, own = facts(build, name), facts(posed, name)
    assert flat is not None
    assert own is not None
    assert flat.startup is not None
    assert own.startup is not None
    assert 0 <= own.startup - flat.startup < every
    assert abs((own.startup + own.active) - (flat.startup + flat.active)) < every
    assert flat.total == own.total
    assert flat.travel[2] == pytest.approx(own.travel[2], abs=0.03)
    assert flat.reach == pytest.approx(own.reach, abs=0.35)


def test_what_is_said_of_a_sheet_stays_as_it_was_said(tmp_path: Path) -> None:
    """Order, holds and boxes survive that the project is saved, opened and handed over; the picture is as it came."""
    told = said([3, 3, 2, 6, 1, 9])
    told["cells"] = [told["cells"][n] for n in (2, 0, 1, 5, 3, 4)]
    path = write_pair(tmp_path / "in", told)
    folder, _ = drawn_project(tmp_path, told)
    save_project(open_project(folder), folder)
    assert (folder / "clips" / "jab.png").read_bytes() == path.read_bytes()
    assert json.loads((folder / "clips" / "jab.json").read_text()) == told
    build = built(folder)
    export(build, tmp_path / "out")
    section = json.loads((tmp_path / "out" / "actions.json").read_text())["actions"][0]["sections"][0]
    assert section["drawings"] == [[0, n, cell["hold"]] for n, cell in enumerate(told["cells"])]


# Bare sheets


def test_a_hundred_sheets_cut_by_their_gutters_give_back_the_cells_they_were_made_from() -> None:
    """Each cell is drawn on at random, but all sides of a cell are reached on some cell of its row or column."""
    for seed in range(100):
        draw = np.random.default_rng(seed)
        wide, high = (int(v) for v in draw.integers(8, 40, 2))
        across, down = (int(v) for v in draw.integers(1, 9, 2))
        margin, spacing = int(draw.integers(0, 5)), int(draw.integers(1, 7))
        ink = np.zeros((2 * margin + down * (high + spacing) - spacing,
                        2 * margin + across * (wide + spacing) - spacing), bool)  # fmt: skip
        places = []
        for m in range(down):
            for n in range(across):
                x, y = margin + n * (wide + spacing), margin + m * (high + spacing)
                places.append((x, y))
                a, b = draw.integers(0, wide // 3, 2)
                c, d = draw.integers(0, high // 3, 2)
                # Some drawing of each row and column reaches its cells' sides.
                a, b = (0, 0) if m == n % down else (a, b)
                c, d = (0, 0) if n == m % across else (c, d)
                ink[y + c : y + high - d, x + a : x + wide - b] = True
        grid = cutting.found(ink)
        assert (grid.places, grid.size) == (places, (wide, high)), seed


def bare(path: Path, cells: list[np.ndarray], gap: int = 4) -> Path:
    high, wide = cells[0].shape[:2]
    sheet = np.zeros((high, len(cells) * (wide + gap) - gap, 4), np.uint8)
    for n, cell in enumerate(cells):
        sheet[:, n * (wide + gap) : n * (wide + gap) + wide] = cell
    Image.fromarray(sheet, "RGBA").save(path)
    return path


def test_a_bare_sheet_is_proposed_with_feet_size_and_what_can_be_struck(tmp_path: Path) -> None:
    draft = drafted(bare(tmp_path / "jab.png", [drawing(arm) for arm in ARMS]), How(strikes=True))
    boxes = [c.boxes for c in draft.said.cells]
    # Cells are as large as what is drawn on any of them: from the legs' left to the longest arm, from head to sole.
    assert (draft.said.cell, draft.said.cells[0].feet) == ((64, 76), (9.0, 76.0))
    assert draft.said.pixels_per_metre == pytest.approx(76 / 1.75, abs=0.01)
    assert {b.rect for row in boxes for b in row if b.kind == "hurt"} == {(0.0, 0.0, 18.0, 76.0)}
    # The arm is new on the fourth cell alone: what was out before is no more of a blow.
    hits = {n: [b.rect for b in row if b.kind == "hit"] for n, row in enumerate(boxes)}
    assert {n for n, rects in hits.items() if rects} == {3}
    x, y, wide, high = hits[3][0]
    assert (x + wide, y, high) == (62.0, 26.0, 6.0)


def test_cells_by_size_or_number_and_those_with_nothing_on_them_left_out(tmp_path: Path) -> None:
    blank = np.zeros_like(drawing(0))
    path = bare(tmp_path / "a.png", [drawing(4), blank, drawing(44)])
    for how in (How(size=CELL, spacing=4), How(grid=(3, 1), spacing=4)):
        draft = drafted(path, how)
        assert [c.at for c in draft.said.cells] == [(0, 0), (200, 0)]
        assert draft.notes == ("an empty cell is left out",)
    assert [c.at for c in picked(draft.said, [1, 0]).cells] == [(200, 0), (0, 0)]


def test_a_sheet_without_anything_clear_takes_its_corners_for_nothing(tmp_path: Path) -> None:
    cells = np.concatenate([drawing(4), np.zeros((80, 4, 4), np.uint8), drawing(44)], axis=1)
    flat = np.where(cells[..., 3:] > 0, cells[..., :3], np.uint8(250))
    Image.fromarray(flat, "RGB").quantize(16).save(tmp_path / "flat.png")
    draft = drafted(tmp_path / "flat.png")
    assert len(draft.said.cells) == 2
    assert draft.said.clear == (250, 250, 250)
    content = read_flipbook(draft.written())
    assert content.sheet is not None
    assert not content.sheet.cell(0)[0, -1, 3]


def test_a_folder_and_moving_pictures_are_put_together_in_order_and_held(tmp_path: Path) -> None:
    pictures = [Image.fromarray(drawing(arm), "RGBA") for arm in ARMS]
    (tmp_path / "jab").mkdir()
    for n, picture in enumerate(pictures):
        picture.save(tmp_path / "jab" / f"jab {n + 8}.png")
    pictures[0].save(tmp_path / "jab.apng", format="PNG", save_all=True, append_images=pictures[1:],
                     duration=[50, 100, 50, 200, 50, 50])  # fmt: skip
    pictures[0].save(tmp_path / "jab.gif", save_all=True, append_images=pictures[1:], duration=100, disposal=2)
    for path, holds in (("jab", [5] * 6), ("jab.apng", [3, 6, 3, 12, 3, 3]), ("jab.gif", [6] * 6)):
        draft = drafted(tmp_path / path)
        assert [c.hold for c in draft.said.cells] == holds
        content = read_flipbook(draft.written())
        assert content.sheet is not None
        for n, arm in enumerate(ARMS):
            clear = content.sheet.cell(n)[..., 3] > 128
            assert np.array_equal(clear, drawing(arm)[..., 3] > 128), (path, n)


# What is refused


def refusal(tmp_path: Path, **changes: Any) -> str:
    told = said()
    cell = changes.pop("cell_", {})
    told["cells"][2] |= cell
    path = write_pair(tmp_path, {**told, **changes})
    with pytest.raises(Trouble) as raised:
        import_file(Project(), folder_of(tmp_path / "new.veergust"), path)
    assert not (tmp_path / "new.veergust" / "clips").exists()
    return str(raised.value)


@pytest.mark.parametrize(
    ("changes", "words"),
    [
        ({"cell_": {"at": [600, 0]}}, "jab.json, cells[2]: lies at 600, 0 and is 96 × 80 pixels large"),
        ({"cell_": {"hold": 0}}, "cells[2].hold"),
        ({"cell_": {"boxes": [{"kind": "hit", "rect": [0, 0, -4, 2]}]}}, "cells[2].boxes[0].rect: is no rectangle"),
        ({"cell_": {"points": {"root": [1, 2]}}}, "cells[2].points: calls a point 'root'"),
        ({"cell": [0, 80]}, "cell[0]"),
        ({"pixels_per_metre": 0}, "pixels_per_metre"),
        ({"cells": []}, "cells"),
        ({"clips": [{"name": "a", "from": 2, "to": 9}]}, "clips[0]: goes from cell 2 to 9, and there are 6"),
        ({"rate": 0}, "rate"),
    ],
)
def test_what_cannot_be_is_refused_with_file_and_field(tmp_path: Path, changes: dict[str, Any], words: str) -> None:
    assert words in refusal(tmp_path, **changes)


def test_pictures_that_are_no_pictures_or_too_large_are_refused_and_nothing_is_written(tmp_path: Path) -> None:
    folder = folder_of(tmp_path / "new.veergust")
    whole = bare(tmp_path / "whole.png", [drawing(arm) for arm in ARMS]).read_bytes()
    big = Image.new("1", (10_000, 10_000))
    big.save(tmp_path / "big.png")
    (tmp_path / "short.png").write_bytes(whole[: len(whole) // 2])
    (tmp_path / "none.png").write_bytes(b"no picture at all")
    Image.new("RGBA", (40, 40)).save(tmp_path / "clear.png")
    (tmp_path / "empty").mkdir()
    for name, words in (
        ("big.png", "has 10000 × 10000 pixels"),
        ("short.png", "is cut short"),
        ("none.png", "is no picture"),
        ("clear.png", "has nothing drawn on it"),
        ("empty", "holds no picture"),
    ):
        with pytest.raises(Trouble) as raised:
            import_file(Project(), folder, tmp_path / name)
        assert name in str(raised.value)
        assert words in str(raised.value)
    with pytest.raises(Trouble, match="a cell would have no pixel"):
        drafted(bare(tmp_path / "a.png", [drawing(4)]), How(grid=(9999, 1)))
    with pytest.raises(Trouble, match="more than the 5000"):
        drafted(bare(tmp_path / "a.png", [drawing(arm) for arm in ARMS]), How(size=(2, 2)))
    assert not (folder / "clips").exists()


def test_its_picture_lies_beside_it_and_nowhere_else(tmp_path: Path) -> None:
    path = write_pair(tmp_path / "in")
    document = json.loads(path.with_suffix(".json").read_text())
    for name in ("../jab.png", "/etc/passwd", "gone.png"):
        path.with_suffix(".json").write_text(json.dumps({**document, "image": name}))
        with pytest.raises(Trouble):
            import_file(Project(), folder_of(tmp_path / "new.veergust"), path)
