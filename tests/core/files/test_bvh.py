"""BVH in: joints where the channels say, and a sentence for every damage."""

from __future__ import annotations

import contextlib
from itertools import permutations
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tools.made.foreign import as_bvh, names_in

from veergust.core.files.bvh_read import read_bvh
from veergust.core.motion.figure import Assets
from veergust.core.motion.sampling import sample
from veergust.core.motion.skeleton import forward
from veergust.core.trouble import Trouble

SMALL = """HIERARCHY
ROOT Hips
{
  OFFSET 1.0 2.0 3.0
  CHANNELS 6 Xposition Yposition Zposition Zrotation Xrotation Yrotation
  JOINT Chest
  {
    OFFSET 0.0 10.0 0.5
    CHANNELS 3 Zrotation Xrotation Yrotation
    JOINT Arm
    {
      OFFSET 4.0 1.0 0.0
      CHANNELS 6 Xposition Yposition Zposition Zrotation Xrotation Yrotation
      End Site
      {
        OFFSET 5.0 0.0 0.0
      }
    }
  }
}
MOTION
Frames: 3
Frame Time: 0.0333667
0 40 0 10 20 30 5 6 7 4 1 0 0 0 0
1 41 2 11 21 31 6 7 8 4 1 0 15 25 35
2 42 4 12 22 32 7 8 9 4.5 1 0 16 26 36
"""


def written(tmp_path: Path, text: str | bytes) -> Path:
    path = tmp_path / "walk.bvh"
    path.write_bytes(text if isinstance(text, bytes) else text.encode())
    return path


def turned(axis: str, degrees: float) -> np.ndarray:
    """A 4 × 4 turn from sine and cosine alone."""
    c, s = np.cos(np.radians(degrees)), np.sin(np.radians(degrees))
    out = np.eye(4)
    i, j = {"X": (1, 2), "Y": (2, 0), "Z": (0, 1)}[axis]
    out[i, i], out[i, j], out[j, i], out[j, j] = c, -s, s, c
    return out


def moved(x: float, y: float, z: float) -> np.ndarray:
    out = np.eye(4)
    out[:3, 3] = x, y, z
    return out


@pytest.mark.parametrize("order", ["".join(p) for p in permutations("XYZ")])
def test_joints_stand_where_the_channels_say_for_every_rotation_order(order: str, tmp_path: Path) -> None:
    listed = " ".join(f"{axis}rotation" for axis in order)
    text = SMALL.replace("Zrotation Xrotation Yrotation", listed)
    content = read_bvh(written(tmp_path, text))
    motion = content.motions[0]
    times = np.arange(3.0) * 0.0333667
    pose = sample(content.skeleton, motion, times)
    world = forward(content.skeleton, pose.rotation, pose.translation)
    rows = [[float(v) for v in line.split()] for line in text.splitlines()[-3:]]
    for f, row in enumerate(rows):
        at = moved(1 + row[0], 2 + row[1], 3 + row[2])
        for axis, angle in zip(order, row[3:6]):
            at = at @ turned(axis, angle)
        chest = at @ moved(0, 10, 0.5)
        for axis, angle in zip(order, row[6:9]):
            chest = chest @ turned(axis, angle)
        arm = chest @ moved(*row[9:12])
        for axis, angle in zip(order, row[12:15]):
            arm = arm @ turned(axis, angle)
        for name, want in (("Hips", at), ("Chest", chest), ("Arm", arm), ("Arm end", arm @ moved(5, 0, 0))):
            gap = np.abs(world[f, content.skeleton.index[name]] - want).max()
            assert gap < 1e-5 * 16, (name, f)
    assert motion.fps == pytest.approx(29.97, abs=1e-3)
    assert motion.seconds == pytest.approx(2 * 0.0333667)


def test_windows_line_ends_tabs_and_braces_beside_words_are_read_alike(tmp_path: Path) -> None:
    plain = read_bvh(written(tmp_path, SMALL))
    odd = SMALL.replace("\n", "\r\n").replace("  ", "\t").replace("ROOT Hips\r\n{", "ROOT Hips {")
    other = read_bvh(written(tmp_path, odd))
    assert other.skeleton.names == plain.skeleton.names
    assert all(np.array_equal(a.values, b.values) for a, b in zip(other.motions[0].tracks, plain.motions[0].tracks))


def test_numbers_past_the_promised_frames_are_left_out_and_said_so(tmp_path: Path) -> None:
    content = read_bvh(written(tmp_path, SMALL + "1 2 3\n"))
    assert content.left_out == ("3 numbers past the promised frames",)


DAMAGE = {
    "no header": (SMALL.replace("HIERARCHY", "HIRARCHY"), "does not begin with HIERARCHY"),
    "no motion": (SMALL.split("MOTION")[0], "no MOTION part"),
    "not closed": (SMALL.replace("}\nMOTION", "MOTION"), "a joint is not closed"),
    "closed twice": (SMALL.replace("}\nMOTION", "}\n}\nMOTION"), "closes a joint that was not opened"),
    "two words in one": (SMALL.replace("OFFSET 4.0", "OFFSET four"), "should have a number here and has 'four'"),
    "endless": (SMALL.replace("OFFSET 4.0", "OFFSET inf"), "no length or angle"),
    "unknown channel": (SMALL.replace("Yrotation\n  JOINT", "Wrotation\n  JOINT"), "'Wrotation', which is not known"),
    "seven channels": (SMALL.replace("CHANNELS 3", "CHANNELS 7"), "7 channels; a joint has 0 to 6"),
    "wrong channel count": (SMALL.replace("CHANNELS 3 Zrotation Xrotation", "CHANNELS 2 Zrotation"), "15 numbers"),
    "same name": (SMALL.replace("JOINT Arm", "JOINT Chest"), "'Chest' stands twice"),
    "no time": (SMALL.replace("Frame Time: 0.0333667", "Frame Time: 0"), "says 0 seconds a frame"),
    "time is no number": (SMALL.replace("0.0333667", "soon"), "not followed by a number"),
    "no frames": (SMALL.replace("Frames: 3", "Frames: 0"), "holds no frames"),
    "too few frames": (SMALL.replace("Frames: 3", "Frames: 300"), "promises 300 frames of 15 numbers and holds 3"),
    "far too many": (SMALL.replace("Frames: 3", "Frames: 900000000"), "promises 900000000 frames"),
    "a word among the numbers": (SMALL.replace("2 42 4", "2 ? 4"), "'?' in frame 2"),
    "not a number": (SMALL.replace("2 42 4", "2 nan 4"), "frame 2 holds what is no length"),
    "empty": ("", "does not begin with HIERARCHY"),
}


@pytest.mark.parametrize("kind", DAMAGE)
def test_every_damage_gets_a_sentence_naming_the_file_and_what_to_do(kind: str, tmp_path: Path) -> None:
    text, says = DAMAGE[kind]
    with pytest.raises(Trouble) as caught:
        read_bvh(written(tmp_path, text))
    assert says in str(caught.value)
    assert str(caught.value).startswith("walk.bvh")
    assert caught.value.do


@settings(max_examples=150)
@given(data=st.data())
def test_flipped_and_cut_bytes_raise_nothing_but_trouble(tmp_path: Path, data: st.DataObject) -> None:
    raw = bytearray(SMALL.encode())
    for _ in range(data.draw(st.integers(0, 6))):
        raw[data.draw(st.integers(0, len(raw) - 1))] = data.draw(st.integers(0, 255))
    path = written(tmp_path, bytes(raw[: data.draw(st.integers(0, len(raw)))]))
    try:
        content = read_bvh(path)
    except Trouble:
        return
    assert len(content.skeleton) < 100
    assert all(np.isfinite(track.values).all() for track in content.motions[0].tracks)


@settings(max_examples=100)
@given(words=st.lists(st.sampled_from([*SMALL.split(), "{", "}", "ROOT", "JOINT", "End", "Frames:", "1e400", "-3"])))
def test_any_row_of_its_words_raises_nothing_but_trouble(words: list[str], tmp_path: Path) -> None:
    text = "HIERARCHY\n" + "\n".join(words)
    with contextlib.suppress(Trouble):
        assert len(read_bvh(written(tmp_path, text)).skeleton)


def test_a_clip_written_by_hand_as_bvh_reads_as_the_poses_it_was_made_of(assets: Assets, tmp_path: Path) -> None:
    motion = assets.motion("clips/staff_sweep.glb", "staff_sweep")
    assert motion is not None
    names = {name: name for name in assets.skeleton.names if name != "root"}
    content = read_bvh(written(tmp_path, as_bvh(assets, motion, names, unit=1.0, order="YZX", ends="\r\n")))
    at = np.arange(content.motions[0].tracks[0].times.size) / 30.0
    mine, theirs = sample(assets.skeleton, motion, at), sample(content.skeleton, content.motions[0], at)
    here = forward(assets.skeleton, mine.rotation, mine.translation)
    there = forward(content.skeleton, theirs.rotation, theirs.translation)
    which = [content.skeleton.index[name] for name in names]
    ours = [assets.skeleton.index[name] for name in names]
    assert np.abs(here[:, ours][:, :, :3, 3] - there[:, which][:, :, :3, 3]).max() < 2e-5
    assert names_in("camel")["hips"] == "Hips"
