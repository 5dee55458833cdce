"""Motion carried onto the demo's figure, held against joints that are worked out here: three rigs, in two conventions."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import numpy as np
import pytest
from msgspec.structs import replace
from scipy.spatial.transform import Rotation
from tools.made.captures import BONES, NAMES, ORDER, Capture, blow, capture
from tools.made.foreign import as_bvh, names_in, t_pose

from veergust.core.files.bvh_read import read_bvh
from veergust.core.files.fitting import unit_of
from veergust.core.files.gltf_read import read_gltf
from veergust.core.files.gltf_write import write_glb
from veergust.core.files.motion_file import MotionFile
from veergust.core.files.reading import bind, source_rig
from veergust.core.model import Rig
from veergust.core.motion import quat
from veergust.core.motion.feet import contacts, feet_of
from veergust.core.motion.figure import Assets
from veergust.core.motion.mapping import leg_length, propose, shares_nothing
from veergust.core.motion.naming import parts_of
from veergust.core.motion.sampling import Motion, Track, sample
from veergust.core.motion.skeleton import Skeleton, forward
from veergust.core.motion.transfer import carried_rate, transfer
from veergust.core.trouble import Trouble

OURS = {"Hip": "hips", "LThigh": "thigh_left", "LKnee": "shin_left", "LAnkle": "foot_left", "LShoulder": "upper_arm_left",
        "LElbow": "forearm_left", "LWrist": "hand_left", "RThigh": "thigh_right", "RKnee": "shin_right",
        "RAnkle": "foot_right", "RShoulder": "upper_arm_right", "RElbow": "forearm_right", "RWrist": "hand_right"}  # fmt: skip
LIMBS = [("LThigh", "LKnee"), ("LKnee", "LAnkle"), ("RThigh", "RKnee"), ("RKnee", "RAnkle"), ("LShoulder", "LElbow"),
         ("LElbow", "LWrist"), ("RShoulder", "RElbow"), ("RElbow", "RWrist")]  # fmt: skip
LONG = {"Hip": "root", "Waist": "lower_back", "Ribs": "upper_back", "Neck": "neck", "Skull": "head",
        "LShoulder": "left_arm", "LElbow": "left_forearm", "LWrist": "left_hand", "RShoulder": "right_arm",
        "RElbow": "right_forearm", "RWrist": "right_hand", "LThigh": "left_upleg", "LKnee": "left_leg",
        "LAnkle": "left_foot", "LToe": "left_toebase", "RThigh": "right_upleg", "RKnee": "right_leg",
        "RAnkle": "right_foot", "RToe": "right_toebase"}  # fmt: skip
"""A rig whose hips are called root, and whose legs are held out by joints of their own."""


UPRIGHT = Rotation.identity()


@dataclass(frozen=True)
class Manner:
    """How a capture is written down: names, units a metre, which way up, held-out legs, the offset said twice."""

    names: dict[str, str] | None = None
    unit: float = 100.0
    lie: Rotation = UPRIGHT
    held: bool = False
    twice: bool = False


Z_UP = Rotation.from_euler("x", 90, degrees=True)
SIDEWAYS = Rotation.from_euler("y", 90, degrees=True)
RIGS = {
    "short names, cm": Manner(),
    "short names, inches, z up": Manner(unit=39.37, lie=Z_UP),
    "held legs, root as hips, metres": Manner(LONG, 1.0, held=True),
    "held legs, mm, turned": Manner(LONG, 1000.0, SIDEWAYS, held=True, twice=True),
}


def text_of(taken: Capture, manner: Manner) -> str:
    """BVH of a capture. Its turns and places are laid over by ``lie``, which the program has to find out."""
    name = {n: (manner.names or {}).get(n, n) for n in NAMES}
    local = [Rotation.from_euler(ORDER, taken.turns[:, j, [2, 1, 0]], degrees=True) for j in range(len(NAMES))]
    lines, columns = ["HIERARCHY"], []

    def put(joint: str, depth: int) -> None:
        j = NAMES.index(joint)
        parent, offset = next((p, np.array(o) / 100.0) for n, p, o in BONES if n == joint)
        own = manner.lie.apply(offset) * manner.unit
        deep = depth
        if manner.held and joint in ("LThigh", "RThigh"):
            side = "l" if joint[0] == "L" else "r"
            lines.extend(["  " * depth + f"JOINT {side}hip_joint", "  " * depth + "{"])
            lines.append("  " * depth + "  OFFSET " + " ".join(f"{v:.6f}" for v in own * 0.8))
            lines.append("  " * depth + "  CHANNELS 3 Zrotation Xrotation Yrotation")
            columns.append(np.zeros((len(taken.hips), 3)))
            own, deep = own * 0.2, depth + 1
        lines.extend(["  " * deep + f"{'JOINT' if parent else 'ROOT'} {name[joint]}", "  " * deep + "{"])
        shown = own if parent or manner.twice else np.zeros(3)
        lines.append("  " * deep + "  OFFSET " + " ".join(f"{v:.6f}" for v in shown))
        six = "6 Xposition Yposition Zposition" if not parent else "3"
        lines.append("  " * deep + f"  CHANNELS {six} Zrotation Xrotation Yrotation")
        if not parent:
            columns.append(manner.lie.apply(taken.hips) * manner.unit)
        laid = manner.lie * local[j] * manner.lie.inv()
        columns.append(laid.as_euler("ZXY", degrees=True))
        below = [n for n, p, _ in BONES if p == joint]
        for n in below:
            put(n, deep + 1)
        if not below:
            end = " ".join(f"{v:.6f}" for v in manner.lie.apply([0, 0.05, 0.0]) * manner.unit)
            lines.extend(["  " * deep + "  End Site", "  " * deep + "  {", "  " * deep + f"    OFFSET {end}",
                          "  " * deep + "  }"])  # fmt: skip
        lines.append("  " * deep + "}")
        if deep != depth:
            lines.append("  " * depth + "}")

    put(NAMES[0], 0)
    rows = np.concatenate(columns, axis=1)
    lines += ["MOTION", f"Frames: {len(rows)}", f"Frame Time: {1 / taken.fps:.9f}"]
    return "\n".join([*lines, *(" ".join(f"{v:.7f}" for v in row) for row in rows)]) + "\n"


def read(tmp_path: Path, taken: Capture, manner: Manner) -> MotionFile:
    path = tmp_path / "take.bvh"
    path.write_text(text_of(taken, manner), encoding="utf-8")
    return read_bvh(path)


def joints(bones: Skeleton, motion: Motion, at: np.ndarray) -> np.ndarray:
    pose = sample(bones, motion, at)
    return forward(bones, pose.rotation, pose.translation)[:, :, :3, 3]


def degrees(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    a, b = (v / np.linalg.norm(v, axis=-1, keepdims=True) for v in (a, b))
    return np.degrees(np.arccos(np.clip((a * b).sum(-1), -1.0, 1.0)))


@pytest.mark.parametrize("manner", list(RIGS.values()), ids=list(RIGS))
def test_limbs_point_where_the_captures_do_and_the_hips_go_as_far(
    manner: Manner, assets: Assets, tmp_path: Path
) -> None:
    taken = capture(seconds=3.0)
    content = read(tmp_path, taken, manner)
    bones = assets.skeleton
    rig = source_rig(content.skeleton, bones, ())
    named = {f: s for s, f in rig.joints}
    wanted = {ours: (manner.names or {}).get(own, own) for own, ours in OURS.items()}
    assert {f: named.get(f) for f in wanted} == wanted
    out = transfer(content.skeleton, content.motions[0], bones, replace(rig, plant=False))
    at = np.arange(len(taken.hips)) / taken.fps
    here, there = joints(bones, out, at), taken.world()
    for a, b in LIMBS:
        ours = here[:, bones.index[OURS[b]]] - here[:, bones.index[OURS[a]]]
        theirs = there[:, NAMES.index(b)] - there[:, NAMES.index(a)]
        assert np.percentile(degrees(ours, theirs), 95) < 1.0, (a, b)
    ratio = leg_length(bones) / sum(np.linalg.norm(o) / 100 for n, _, o in BONES if n in ("LKnee", "LAnkle"))
    way = np.diff(here[:, bones.index["hips"]][:, [0, 2]], axis=0)
    own = np.diff(there[:, 0][:, [0, 2]], axis=0) * ratio
    # Which way it looks is found out to right angles: the way is compared by its length.
    assert np.linalg.norm(way, axis=-1).sum() == pytest.approx(np.linalg.norm(own, axis=-1).sum(), rel=0.01)


@pytest.mark.parametrize("manner", list(RIGS.values()), ids=list(RIGS))
def test_planted_feet_slide_no_more_than_the_captures_and_stand_at_their_rest_height(
    manner: Manner, assets: Assets, tmp_path: Path
) -> None:
    taken = blow()
    content = read(tmp_path, taken, manner)
    bones = assets.skeleton
    rig = source_rig(content.skeleton, bones, ())
    out = transfer(content.skeleton, content.motions[0], bones, rig)
    at = np.arange(len(taken.hips)) / taken.fps
    here, there = joints(bones, out, at), taken.world()
    legs = sum(np.linalg.norm(o) / 100 for n, _, o in BONES if n in ("LKnee", "LAnkle"))
    ratio = leg_length(bones) / legs
    seen = 0
    for own, ours in (("LAnkle", "foot_left"), ("RAnkle", "foot_right")):
        way, mine = there[:, NAMES.index(own)] * ratio, here[:, bones.index[ours]]
        calm = np.stack([np.convolve(way[:, k], np.ones(15) / 15, mode="same") for k in range(3)], axis=-1)
        speed = np.linalg.norm(np.gradient(calm, 1 / taken.fps, axis=0), axis=-1)
        still = speed < 0.15
        still[:10] = still[-10:] = False
        runs = np.flatnonzero(np.diff(np.concatenate([[0], still.astype(int), [0]])))
        for low, high in zip(runs[::2], runs[1::2]):
            if high - low < 15:
                continue
            seen += high - low
            slide = np.ptp(mine[low:high][:, [0, 2]], axis=0).max()
            assert slide < np.ptp(way[low:high][:, [0, 2]], axis=0).max() + 0.002
            floor = np.percentile(way[:, 1], 5)
            high_over = np.median(way[low:high, 1]) - floor
            stands = np.median(mine[low:high, 1]) - high_over
            assert stands == pytest.approx(bones.rest_world[bones.index[ours], 1, 3], abs=0.005)
    assert seen > 60


def test_a_manner_of_the_demos_own_rig_is_carried_as_well(assets: Assets, tmp_path: Path) -> None:
    """Walking, in another's names, T pose and unit, at 30 frames a second, against the clip it was written from."""
    motion = assets.motion("clips/walk.glb", "walk")
    assert motion is not None
    path = tmp_path / "walk.bvh"
    bones = assets.skeleton
    path.write_text(as_bvh(assets, motion, names_in("prefixed"), bind=t_pose(bones), fps=30.0))
    content = read_bvh(path)
    rig = source_rig(content.skeleton, bones, ())
    out = transfer(content.skeleton, content.motions[0], bones, rig)
    at = np.arange(round(motion.seconds * 30) + 1) / 30
    gap = np.linalg.norm(joints(bones, motion, at) - joints(bones, out, at), axis=-1)
    assert np.percentile(gap[:, [bones.index[n] for n in names_in("prefixed")]], 95) < 0.006


def test_keys_far_apart_are_carried_between_them_too(assets: Assets, tmp_path: Path) -> None:
    """A forearm keyed by hand half a turn apart twice a second: in between it goes where it went."""
    bones = assets.skeleton
    names = {n: n.upper() for n in bones.names}
    other = Skeleton(tuple(names.values()), bones.parents, bones.rest_rotation, bones.rest_translation * 1.3)
    arm = bones.index["forearm_right"]
    times = np.array([0.0, 0.37, 1.0, 1.41])
    turns = quat.from_axis_angle(np.array([1.0, 0.0, 0.0]), np.array([0.0, 150.0, -20.0, 130.0]))
    motion = Motion("swing", 1.41, 2.0, (Track(arm, "rotation", "LINEAR", times, turns),))
    path = tmp_path / "swing.glb"
    path.write_bytes(write_glb(other, None, (motion,)))
    content = read_gltf(path)
    assert content.motions[0].fps >= 24.0
    bound = bind(content, bones, Rig(), ())
    assert bound.foreign
    [out] = bound.motions
    assert carried_rate(content.motions[0]) >= 60.0
    at = np.linspace(0, 1.41, 200)
    ours, theirs = (joints(b, m, at) for b, m in ((bones, out), (other, motion)))
    hand = bones.index["hand_right"]
    worst = degrees(ours[:, hand] - ours[:, arm], theirs[:, hand] - theirs[:, arm])
    assert worst.max() < 1.5


def test_hips_called_root_are_hips_and_what_holds_a_leg_out_is_no_thigh(tmp_path: Path) -> None:
    content = read(tmp_path, capture(seconds=0.5), RIGS["held legs, root as hips, metres"])
    parts = dict(zip(content.skeleton.names, parts_of(content.skeleton)))
    assert parts["root"].kind == "hips"
    assert parts["lhip_joint"].kind == ""
    assert (parts["left_upleg"].kind, parts["left_leg"].kind) == ("thigh", "shin")


def test_no_limb_is_answered_by_a_bone_of_quite_another_length(assets: Assets) -> None:
    """Two joints of one chain are called thigh; the one that is no longer than a hand is not the figure's."""
    bones = assets.skeleton
    names, parents = list(bones.names), list(bones.parents)
    turn, place = bones.rest_rotation.copy(), bones.rest_translation.copy()
    leg = names.index("thigh_left")
    names[leg] = "l_leg_upper"
    # A joint of the same name in another spelling hangs just above the knee.
    knee = names.index("shin_left")
    names.insert(knee, "thigh_left")
    parents = [p + 1 if p >= knee else p for p in parents]
    parents.insert(knee, leg)
    parents[knee + 1] = knee
    turn = np.insert(turn, knee, quat.IDENTITY, axis=0)
    place = np.insert(place, knee, place[knee] * 0.9, axis=0)
    place[knee + 1] *= 0.1
    source = Skeleton(tuple(names), tuple(parents), turn, place)
    found = {p.figure: p.source for p in propose(source, bones).pairs}
    assert found["thigh_left"] == "l_leg_upper"


def test_a_rig_that_shares_nothing_is_refused_in_a_sentence(assets: Assets, tmp_path: Path) -> None:
    names = tuple(f"n{i}" for i in range(6))
    chain = Skeleton(names, (-1, 0, 1, 2, 3, 4), np.tile(quat.IDENTITY, (6, 1)), np.eye(3)[[0, 1, 2, 0, 1, 2]] * 1e-4)
    motion = Motion("twist", 1.0, 30.0, (Track(0, "rotation", "LINEAR", np.array([0.0, 1.0]), np.tile(quat.IDENTITY, (2, 1))),))  # fmt: skip
    content = MotionFile(chain, None, (motion,))
    with pytest.raises(Trouble) as caught:
        bind(content, assets.skeleton, Rig(), ())
    assert "shares too little" in str(caught.value)
    assert len(str(caught.value)) < 200
    assert shares_nothing(chain, assets.skeleton, [("n0", "hips")])


@pytest.mark.parametrize(
    ("unit", "says"),
    [(1.0, ""), (100.0, "centimetres"), (1000.0, "millimetres"), (39.37, "inches"), (3.2808, "feet"), (0.37, "×2.")],
)
def test_a_persons_height_decides_the_unit(unit: float, says: str, tmp_path: Path) -> None:
    content = read(tmp_path, capture(seconds=0.2), Manner(unit=unit))
    found, words = unit_of(content.skeleton)
    assert says in words if says else words == ""
    tall = float(np.ptp(content.skeleton.rest_world[:, 1, 3])) * found
    assert 1.5 < tall < 1.9


def test_a_place_said_twice_is_not_doubled(tmp_path: Path) -> None:
    taken = capture(seconds=0.5)
    for manner in (Manner(), Manner(twice=True)):
        content = read(tmp_path, taken, manner)
        at = np.arange(len(taken.hips)) / taken.fps
        shown = joints(content.skeleton, content.motions[0], at)[:, 0] / 100.0
        assert np.allclose(shown, taken.hips, atol=1e-4)


def test_contacts_by_joint_are_those_of_whole_frames(assets: Assets) -> None:
    motion = assets.motion("clips/walk.glb", "walk")
    assert motion is not None
    bones = assets.skeleton
    places = joints(bones, motion, np.linspace(0, motion.seconds, 60))
    whole = contacts(bones, places, motion.seconds / 59, leg_length(bones), feet_of(bones))
    assert whole
    assert contacts(bones, {j: places[:, j] for j in range(len(bones))}, motion.seconds / 59, leg_length(bones),
                    feet_of(bones)) == whole  # fmt: skip
