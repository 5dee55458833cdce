"""Joints from a table: every joint stands where the table has it, and what is wrong is told by row."""

from __future__ import annotations

import re
from pathlib import Path

import numpy as np
import pytest
from scipy.spatial.transform import Rotation
from tools.made.captures import BONES, NAMES, Capture
from tools.made.rigs import shot_from, shots

from veergust.core.files.csv_read import read_csv
from veergust.core.files.importing import import_file
from veergust.core.files.motion_file import MotionFile
from veergust.core.files.saving import save_project
from veergust.core.model import Project
from veergust.core.motion.sampling import sample
from veergust.core.motion.skeleton import forward
from veergust.core.trouble import Trouble

SMALL = "time,a.x,a.y,a.z,b.x,b.y,b.z\nparent,,,,a,,\n0,0,1,0,0,2,0\n0.1,0,1,0,1,1,0\n"


def written(folder: Path, names: tuple[str, ...], parents: tuple[int, ...], times: np.ndarray, at: np.ndarray) -> Path:
    """The table of joints that are at ``at`` ``[T, J, 3]``."""
    columns = [f"{n}.{axis}" for n in names for axis in "xyz"]
    hung = [w for p in parents for w in (names[p] if p >= 0 else "", "", "")]
    rows = [",".join(["time", *columns]), ",".join(["parent", *hung])]
    rows += [",".join(map(repr, [float(t), *row.ravel().tolist()])) for t, row in zip(times, at)]
    path = folder / "table.csv"
    path.write_text("\n".join(rows) + "\n")
    return path


def table(taken: Capture, family: str) -> tuple[list[str], list[int], np.ndarray]:
    """A capture's joints ``[T, J, 3]`` under none, under a root that goes below its hips, or a stand that is moved."""
    at = taken.world()
    parents = [NAMES.index(p) if p else -1 for _, p, _ in BONES]
    if family == "hips on top":
        return list(NAMES), parents, at
    over = at[:, :1] * [1.0, 0.0, 1.0] if family == "a root above them" else np.full((len(at), 1, 3), (0.7, 0.4, -1.1))
    return ["Top", *NAMES], [-1, *(p + 1 for p in parents)], np.concatenate([over, at], axis=1)


def places(content: MotionFile, times: np.ndarray) -> np.ndarray:
    """Where the joints are in the world ``[T, J, 3]``."""
    pose = sample(content.skeleton, content.motions[0], times)
    return forward(content.skeleton, pose.rotation, pose.translation)[..., :3, 3]


@pytest.mark.parametrize("family", ["hips on top", "a root above them", "a node above all"])
@pytest.mark.parametrize("kind", ["lunge", "run"])
def test_every_joint_is_where_the_table_has_it_on_every_frame(family: str, kind: str, tmp_path: Path) -> None:
    taken = shot_from(shots()[kind], (30.0, -12.0), 115.0)
    names, parents, at = table(taken, family)
    times = np.arange(len(at)) / taken.fps
    content = read_csv(written(tmp_path, tuple(names), tuple(parents), times, at))
    assert set(content.skeleton.names) == set(names)
    order, hips = [names.index(n) for n in content.skeleton.names], content.skeleton.index["Hip"]
    assert [content.skeleton.names[p] if p >= 0 else "" for p in content.skeleton.parents] == [
        names[parents[j]] if parents[j] >= 0 else "" for j in order
    ]
    assert places(content, times) == pytest.approx(at[:, order], abs=1e-6)
    assert content.motions[0].fps == pytest.approx(taken.fps, rel=1e-3)
    assert content.left_out == ()
    # A joint turns with what hangs on it: seen from it, bones that keep their length stand still.
    for track in content.motions[0].tracks:
        if track.path == "translation" and content.skeleton.parents[track.joint] >= 0 and track.joint != hips:
            rest = content.skeleton.rest_translation[track.joint]
            assert track.values == pytest.approx(np.tile(rest, (len(at), 1)), abs=1e-6)
    # No joint turns on a frame by more than a capture of a body does.
    turns = np.array([t.values for t in content.motions[0].tracks if t.path == "rotation"])
    steps = Rotation.from_quat(turns[:, 1:].reshape(-1, 4)) * Rotation.from_quat(turns[:, :-1].reshape(-1, 4)).inv()
    assert np.degrees(steps.magnitude()).max() < 45.0


def test_what_was_not_seen_is_filled_in_between_and_said(tmp_path: Path) -> None:
    taken = shots(quiet=True)["walk"]
    names, parents, at = table(taken, "hips on top")
    times = np.arange(len(at)) / taken.fps
    path = written(tmp_path, tuple(names), tuple(parents), times, at)
    lines = path.read_text().splitlines()
    for row in (5, 6, 20):
        fields = lines[row].split(",")
        fields[1 + 3 * names.index("RWrist")] = " "
        lines[row] = ",".join(fields)
    path.write_text("\n".join(lines))
    content = read_csv(path)
    assert content.left_out == ("RWrist is not seen on 3 frames; it is filled in between",)
    wrist = content.skeleton.index["RWrist"]
    assert np.abs(places(content, times)[:, wrist] - at[:, names.index("RWrist")]).max() < 0.05


def test_a_table_comes_into_a_project_like_any_other_take(tmp_path: Path) -> None:
    taken = shot_from(shots()["lunge"], (12.0, 5.0), 70.0)
    names, parents, at = table(taken, "hips on top")
    path = written(tmp_path, tuple(names), tuple(parents), np.arange(len(at)) / taken.fps, at * 100.0)
    folder = tmp_path / "mine.veergust"
    save_project(Project(name="mine"), folder)
    done = import_file(Project(name="mine"), folder, path)
    assert done.project.clips[0].name == "table"
    assert done.project.rig.unit == pytest.approx(0.01)


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "row 1"),
        ("frame,a.x,a.y,a.z\nparent,,,\n0,0,0,0\n", "begin with time"),
        ("time,a.x,a.y\nparent,,\n0,0,0\n", "has no column a.z"),
        ("time,b\nparent,\n0,0\n", "names no joint"),
        ("time,a.x,a.y,a.z,a.x\nparent,,,,\n0,0,0,0,0\n", "twice"),
        (SMALL.replace("parent", "above"), "begin with parent"),
        (SMALL.replace("a,,", "c,,"), "hangs 'b' on 'c'"),
        (SMALL.replace("parent,,,,a,,", "parent,b,,,a,,"), "circle"),
        (SMALL.replace("0.1,0,1,0,1,1,0\n", "0.1,0,1,0\n"), "row 4: has 4 fields"),
        (SMALL.replace("1,1,0\n", "1,x,0\n"), "is no number"),
        (SMALL.replace("1,1,0\n", "1,1e9,0\n"), "no time or no length"),
        (SMALL.replace("0.1,", "0.0,"), "row 4: goes back in time"),
        (SMALL.replace("0.1,", "99999,"), "lasts longer"),
        ("\n".join(SMALL.splitlines()[:2]), "holds no frames"),
        (SMALL.replace("0,2,0", ",,").replace("1,1,0", ",,"), "seen on no frame"),
    ],
)
def test_what_is_wrong_is_told_by_its_row(text: str, says: str, tmp_path: Path) -> None:
    path = tmp_path / "bad.csv"
    path.write_text(text)
    with pytest.raises(Trouble, match=f"bad.csv, .*{re.escape(says)}"):
        read_csv(path)
