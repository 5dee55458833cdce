"""A clip or an action as a flipbook: cells shared out whole, with what is on them where it is drawn."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image
from tools.made import DEMO

from veergust.cli.main import main
from veergust.core.model import Project
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.scene.cells import shared_out, ticks_of_action
from veergust.core.study.facts import facts
from veergust.report.flipbook import flipbook


@given(ticks=st.integers(1, 400), cells=st.integers(1, 500), every=st.integers(1, 60))
def test_holds_share_out_the_frames_whole(ticks: int, cells: int, every: int) -> None:
    even, steps = shared_out(ticks, cells, every), shared_out(ticks, None, every)
    for holds in (even, steps):
        assert sum(holds) == ticks
        assert min(holds) >= 1
    assert len(even) == min(cells, ticks)
    assert max(even) - min(even) <= 1
    assert set(steps[:-1]) <= {every}


@pytest.fixture(scope="module")
def sweep(quay: Project, assets: Assets, tmp_path_factory: pytest.TempPathFactory) -> tuple[dict[str, Any], np.ndarray]:
    """The sheet of a sweep that is seen from its right, and what is said of it."""
    out = tmp_path_factory.mktemp("flip") / "sweep.png"
    flipbook(CompiledProject(quay, assets), "Low sweep", out, every=4, side="right", height=180)
    return json.loads(out.with_suffix(".json").read_text()), np.asarray(Image.open(out))


def cell(sheet: np.ndarray, said: dict[str, Any], n: int) -> np.ndarray:
    (x, y), (wide, high) = said["cells"][n]["at"], said["cell"]
    return sheet[y : y + high, x : x + wide]


def test_the_figure_is_drawn_where_its_joints_are_over_its_feet(
    sweep: tuple[dict[str, Any], np.ndarray], quay: Project, assets: Assets
) -> None:
    """By plain arithmetic: seen from the right a body that looks ahead looks to the right of the picture."""
    said, sheet = sweep
    compiled = CompiledProject(quay, assets).action("Low sweep")
    assert compiled is not None
    shown, first, metre = ticks_of_action(compiled), 0, said["pixels_per_metre"]
    for n, row in enumerate(said["cells"]):
        alpha = cell(sheet, said, n)[..., 3]
        fx, fy = row["feet"]
        for name in ("head", "chest", "hips", "foot_left", "forearm_right"):
            _, y, z = shown.joints[first, assets.skeleton.index[name], :3, 3]
            assert alpha[round(fy - y * metre), round(fx + z * metre)] > 200, (n, name)
        assert np.abs(np.subtract(row["travel"], shown.travel[first])).max() < 1e-5
        assert alpha[:, 0].max() == alpha[0].max() == 0, "all of it is in the cell"
        first += row["hold"]
    assert first == compiled.total


def test_mounts_and_boxes_are_about_what_is_drawn(sweep: tuple[dict[str, Any], np.ndarray]) -> None:
    said, sheet = sweep
    for n, row in enumerate(said["cells"]):
        ys, xs = np.nonzero(cell(sheet, said, n)[..., 3] > 128)
        hurt = [box["rect"] for box in row["boxes"] if box["kind"] == "hurt"]
        inside = np.zeros(len(xs), bool)
        for x, y, wide, high in hurt:
            inside |= (xs >= x) & (xs <= x + wide) & (ys >= y) & (ys <= y + high)
        assert inside.mean() > 0.7, "most of the figure can be touched; its staff and hat cannot"
        tip = np.array(row["points"]["tip"])
        assert np.hypot(xs - tip[0], ys - tip[1]).min() < 4
        (body,) = (box["rect"] for box in row["boxes"] if box["kind"] == "body")
        assert body[0] + body[2] / 2 == pytest.approx(row["feet"][0], abs=0.01)
        assert body[1] + body[3] == pytest.approx(row["feet"][1], abs=0.01)


def test_it_strikes_on_the_cells_that_are_held_while_it_does(
    sweep: tuple[dict[str, Any], np.ndarray], quay: Project, assets: Assets
) -> None:
    said, _ = sweep
    numbers = facts(CompiledProject(quay, assets), "Low sweep")
    assert numbers is not None
    assert numbers.startup is not None
    open_, first = set(range(numbers.startup, numbers.startup + numbers.active)), 0
    for row in said["cells"]:
        held = set(range(first, first + row["hold"]))
        strikes = [box for box in row["boxes"] if box["kind"] == "hit"]
        assert bool(strikes) == bool(held & open_)
        for box in strikes:
            x, y, wide, high = box["rect"]
            tip = row["points"]["tip"]
            if first in open_:
                assert x - 1 <= tip[0] <= x + wide + 1
                assert y - 1 <= tip[1] <= y + high + 1
        first += row["hold"]


def words(*given_: object) -> int:
    with pytest.raises(SystemExit) as end:
        main(list(map(str, given_)))
    return int(end.value.code or 0)


def test_the_command_writes_a_pair_and_says_what_it_cannot(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    out = tmp_path / "run.png"
    assert words("flipbook", DEMO, "run", "--to", out, "--cells", 6, "--side", "front", "--height", 64) == 0
    assert "6 cells of" in capsys.readouterr().out
    said = json.loads((tmp_path / "run.json").read_text())
    assert (said["image"], len(said["cells"]), sum(c["hold"] for c in said["cells"])) == ("run.png", 6, 38)
    once = out.read_bytes()
    assert words("flipbook", DEMO, "run", "--to", out, "--cells", 6, "--side", "front", "--height", 64) == 0
    assert out.read_bytes() == once
    capsys.readouterr()
    for given_, says in (
        (("nothing", "--to", out), "there is no action or clip 'nothing'"),
        (("run", "--to", tmp_path / "run.jpg"), "is no PNG by its name"),
        (("run", "--to", out, "--cells", 3, "--every", 2), "say the same thing twice"),
        (("idle", "--to", out, "--every", 1, "--height", 4000), "would be a sheet of"),
    ):
        assert words("flipbook", DEMO, *given_) == 2
        assert says in capsys.readouterr().err
    assert out.read_bytes() == once
