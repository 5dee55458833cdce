"""A file of any size comes in so that the project can be opened again, or is refused before anything is written."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from tools.made.captures import capture

from tests.core.files.test_safe import tree
from tests.core.motion.test_carried import Manner, text_of
from veergust.core.files.assets import load_assets
from veergust.core.files.fitting import standing_height
from veergust.core.files.folder import open_project
from veergust.core.files.importing import import_file
from veergust.core.files.reading import read_motion
from veergust.core.files.saving import save_project
from veergust.core.model import Project
from veergust.core.trouble import Trouble

HEIGHTS = tuple(float(f"{h:g}") for h in 10.0 ** np.arange(-10, 10, 2)) + (
    4.0,
    400.0,
    4000.0,
    0.004,
    12.0,
    25_000.0,
    0.1,
)


def creature(height: float) -> str:
    """A neck on four legs, ``height`` units to the shoulder, that bends twice."""
    legs = []
    for side in ("fore_l", "fore_r", "rear_l", "rear_r"):
        at = f"{0.3 * height * (1 if 'l' in side[-1:] else -1):.9g} 0 {height * (0.6 if 'fore' in side else -0.6):.9g}"
        legs += [f"JOINT {side} {{ OFFSET {at} CHANNELS 3 Zrotation Xrotation Yrotation",
                 f"End Site {{ OFFSET 0 {-height:.9g} 0 }} }}"]  # fmt: skip
    rows = "\n".join(f"0 {height:.9g} 0 0 {turn} 0 " + "0 0 0 " * 4 for turn in (0, 5, 0, 5, 0))
    return "\n".join(
        ["HIERARCHY", "ROOT barrel { OFFSET 0 0 0",
         "CHANNELS 6 Xposition Yposition Zposition Zrotation Xrotation Yrotation", *legs, "}",
         "MOTION", "Frames: 5", "Frame Time: 0.033333", rows]
    ) + "\n"  # fmt: skip


def person(height: float) -> str:
    return text_of(capture(seconds=0.2), Manner(unit=height / 1.75))


@pytest.mark.parametrize("height", HEIGHTS)
@pytest.mark.parametrize("body", [creature, person])
def test_a_figure_of_any_size_opens_again_or_nothing_is_written(tmp_path: Path, body: object, height: float) -> None:
    folder, file = tmp_path / "x.veergust", tmp_path / "walker.bvh"
    file.write_text(body(height))  # type: ignore[operator]
    save_project(Project(name="x"), folder)
    before = tree(folder)
    try:
        done = import_file(open_project(folder), folder, file)
    except Trouble as trouble:
        said = str(trouble)
    else:
        said = ""
    if said:
        assert tree(folder) == before
        assert "walker.bvh" in said
        assert not 1e-4 < height < 1e5, said  # which nobody would call out of the way
        return
    found = open_project(folder)
    assert found == done.project
    assets, missing = load_assets(found, folder)
    assert not missing
    tall, _ = standing_height(assets.skeleton)
    assert 0.3 <= tall <= 6.0 or standing_height(read_motion(file).skeleton)[0] == 0.0


@pytest.mark.parametrize("height", HEIGHTS)
def test_a_clip_of_any_size_opens_again_or_nothing_is_written(tmp_path: Path, folder: Path, height: float) -> None:
    file = tmp_path / "walker.bvh"
    file.write_text(person(height))
    project = open_project(folder)
    before = tree(folder)
    try:
        done = import_file(project, folder, file)
    except Trouble:
        done = None
    if done is None:
        assert tree(folder) == before
        assert not 1e-3 < height < 1e5
    else:
        assert open_project(folder) == done.project
