"""A made-up capture, as studios shoot them: another rig, in centimetres, at 120 frames a second, begun away from the
origin and turned, long and a little noisy. Its joints in the world are worked out here, not by the program."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import numpy as np
from scipy.spatial.transform import Rotation

BONES = [  # name, parent, offset in centimetres: a creature of somebody else's, without a root joint
    ("Hip", "", (0, 96, 0)),
    ("Waist", "Hip", (0, 12, 0)),
    ("Ribs", "Waist", (0, 18, 0)),
    ("Neck", "Ribs", (0, 24, 0)),
    ("Skull", "Neck", (0, 10, 2)),
    ("LShoulder", "Ribs", (16, 20, 0)),
    ("LElbow", "LShoulder", (27, 0, 0)),
    ("LWrist", "LElbow", (25, 0, 0)),
    ("RShoulder", "Ribs", (-16, 20, 0)),
    ("RElbow", "RShoulder", (-27, 0, 0)),
    ("RWrist", "RElbow", (-25, 0, 0)),
    ("LThigh", "Hip", (10, -4, 0)),
    ("LKnee", "LThigh", (0, -43, 1)),
    ("LAnkle", "LKnee", (0, -42, -2)),
    ("LToe", "LAnkle", (0, -6, 14)),
    ("RThigh", "Hip", (-10, -4, 0)),
    ("RKnee", "RThigh", (0, -43, 1)),
    ("RAnkle", "RKnee", (0, -42, -2)),
    ("RToe", "RAnkle", (0, -6, 14)),
]
NAMES = [name for name, _, _ in BONES]
ORDER = "YXZ"


@dataclass(frozen=True, eq=False, repr=False)
class Capture:
    """Frames ``F``: hips ``[F, 3]`` in metres, local turns ``[F, J, 3]`` in degrees (Z, X, Y;
    Y is applied last), and ``fps``."""

    hips: np.ndarray
    turns: np.ndarray
    fps: float

    @property
    def seconds(self) -> float:
        return (len(self.hips) - 1) / self.fps

    def world(self) -> np.ndarray:
        """Places ``[F, J, 3]`` of joints in the world (m)."""
        spins: dict[str, Rotation] = {}
        places = np.zeros((len(self.hips), len(BONES), 3))
        for j, (name, parent, offset) in enumerate(BONES):
            own = Rotation.from_euler(ORDER, self.turns[:, j, [2, 1, 0]], degrees=True)
            if not parent:
                spins[name], places[:, j] = own, self.hips
                continue
            spins[name] = spins[parent] * own
            places[:, j] = places[:, NAMES.index(parent)] + spins[parent].apply(np.array(offset) / 100.0)
        return places

    def at(self, seconds: np.ndarray) -> np.ndarray:
        """Places ``[N, J, 3]`` at any time, straight between frames."""
        places = self.world()
        where = np.clip(seconds * self.fps, 0, len(places) - 1)
        low = np.minimum(where.astype(int), len(places) - 2)
        return places[low] + (places[low + 1] - places[low]) * (where - low)[:, None, None]

    def bvh(self) -> str:
        out = ["HIERARCHY"]

        def joint(name: str, depth: int) -> None:
            pad = "  " * depth
            parent, offset = next((p, o) for n, p, o in BONES if n == name)
            below = [n for n, p, _ in BONES if p == name]
            out.append(f"{pad}{'JOINT' if parent else 'ROOT'} {name}")
            out.append(pad + "{")
            # The channels of the first joint say where it is, whole.
            out.append(f"{pad}  OFFSET " + " ".join(f"{v:.4f}" for v in (offset if parent else (0.0, 0.0, 0.0))))
            places = "6 Xposition Yposition Zposition " if not parent else "3 "
            out.append(f"{pad}  CHANNELS {places}Yrotation Xrotation Zrotation")
            for n in below:
                joint(n, depth + 1)
            if not below:
                out.extend([f"{pad}  End Site", f"{pad}  {{", f"{pad}    OFFSET 0 5 0", f"{pad}  }}"])
            out.append(pad + "}")

        joint(NAMES[0], 0)
        order = list(dict.fromkeys(_walk("Hip")))
        out += ["MOTION", f"Frames: {len(self.hips)}", f"Frame Time: {1 / self.fps:.9f}"]
        turns = self.turns[:, [NAMES.index(name) for name in order]][:, :, [2, 1, 0]].reshape(len(self.hips), -1)
        rows = np.concatenate([self.hips * 100.0, turns], axis=1)
        line = " ".join(["%.6f"] * rows.shape[1])
        out += [line % tuple(row) for row in rows.tolist()]
        return "\n".join(out) + "\n"


def _walk(name: str) -> list[str]:
    return [name, *(n for child, parent, _ in BONES if parent == name for n in _walk(child))]


def capture(
    seconds: float = 6.0,
    fps: float = 120.0,
    start: tuple[float, float] = (2.4, -1.8),
    turned: float = 130.0,
    noise: float = 1.0,
    seed: int = 1,
) -> Capture:
    """Somebody walks, lunges and turns by half, about 3 m from the origin, looking ``turned`` degrees off +Z."""
    rng = np.random.default_rng(seed)
    t = np.arange(round(seconds * fps) + 1) / fps
    pace = 1.2 + 1.6 * np.exp(-(((t - 0.5 * seconds) / 0.25) ** 2))
    stride = 2 * np.pi * np.cumsum(pace) / fps / 1.3
    heading = np.radians(turned) + np.radians(100.0) / (1 + np.exp(-(t - 0.7 * seconds) * 3.0))
    step = np.stack([np.sin(heading), np.zeros_like(t), np.cos(heading)], -1) * (pace / fps)[:, None]
    hips = np.cumsum(step, axis=0) + np.array([start[0], 0.0, start[1]]) - step[0]
    sway = 0.025 * np.sin(stride)
    hips += np.stack([np.cos(heading) * sway, 0.92 + 0.02 * np.cos(2 * stride), -np.sin(heading) * sway], -1)
    turns = np.zeros((len(t), len(BONES), 3))  # Z, X, Y
    turns[:, 0] = np.stack([3 * np.sin(stride), 4 + 0 * t, np.degrees(heading) + 7 * np.sin(stride)], -1)
    for name, z, x, y in (
        ("Ribs", 0 * t, 3 * np.sin(2 * stride), -9 * np.sin(stride)),
        ("Skull", 0 * t, -4 + 0 * t, -5 * np.sin(stride)),
        ("LShoulder", -70 + 0 * t, 25 * np.sin(stride), 0 * t),
        ("RShoulder", 70 + 0 * t, -25 * np.sin(stride), 0 * t),
        ("LElbow", 0 * t, 0 * t, -30 - 15 * np.sin(stride)),
        ("RElbow", 0 * t, 0 * t, 30 - 15 * np.sin(stride)),
        ("LThigh", 0 * t, -28 * np.sin(stride), 0 * t),
        ("RThigh", 0 * t, 28 * np.sin(stride), 0 * t),
        ("LKnee", 0 * t, 28 + 26 * np.sin(stride + 0.9), 0 * t),
        ("RKnee", 0 * t, 28 - 26 * np.sin(stride + 0.9), 0 * t),
    ):
        turns[:, NAMES.index(name)] = np.stack([z, x, y], -1)
    turns += rng.normal(0, 0.15 * noise, turns.shape)
    hips += rng.normal(0, 0.0006 * noise, hips.shape)
    return Capture(hips, turns, fps)


def blow(
    seconds: float = 1.4, fps: float = 120.0, start: tuple[float, float] = (2.4, -1.8), turned: float = 130.0
) -> Capture:
    """Somebody stands, steps ahead with a blow of the right hand, and stands again."""
    out = 1.0 / (1.0 + np.exp(-(_time(seconds, fps) - 0.5) / 0.025))
    back = 1.0 / (1.0 + np.exp(-(_time(seconds, fps) - 0.85) / 0.05))
    return _standing(seconds, fps, start, turned, 0.3 * out, out - back, 0.0)


def stagger(
    seconds: float = 1.0, fps: float = 120.0, start: tuple[float, float] = (-1.1, 2.9), turned: float = -40.0
) -> Capture:
    """Somebody is driven back and bends."""
    t = _time(seconds, fps)
    hit = np.exp(-(((t - 0.2) / 0.12) ** 2))
    return _standing(seconds, fps, start, turned, -0.35 / (1.0 + np.exp(-(t - 0.25) / 0.06)), 0.0 * t, -26.0 * hit)


def _time(seconds: float, fps: float) -> np.ndarray:
    return np.arange(round(seconds * fps) + 1) / fps


def _standing(
    seconds: float,
    fps: float,
    start: tuple[float, float],
    turned: float,
    ahead: np.ndarray,
    arm: np.ndarray,
    bend: np.ndarray | float,
) -> Capture:
    rng = np.random.default_rng(4)
    t = _time(seconds, fps)
    heading = np.radians(turned)
    way = np.array([np.sin(heading), 0.0, np.cos(heading)])
    hips = np.array([start[0], 0.93, start[1]]) + ahead[:, None] * way
    turns = np.zeros((len(t), len(BONES), 3))
    turns[:, 0, 2] = turned
    for name, z, x, y in (
        ("Ribs", 0.0, bend, 0.0),
        ("LShoulder", -68.0, 0.0, 0.0),
        ("LElbow", 0.0, 0.0, -40.0),
        ("RShoulder", 66.0 * (1.0 - arm), 0.0, 86.0 * arm),
        ("RElbow", 0.0, 0.0, 60.0 * (1.0 - arm)),
        ("LThigh", 0.0, -14.0, 0.0),
        ("LKnee", 0.0, 20.0, 0.0),
        ("RThigh", 0.0, 8.0, 0.0),
        ("RKnee", 0.0, 12.0, 0.0),
    ):
        turns[:, NAMES.index(name)] = np.stack([z + 0 * t, x + 0 * t, y + 0 * t], -1)
    turns += rng.normal(0, 0.1, turns.shape)
    return Capture(hips + rng.normal(0, 0.0004, hips.shape), turns, fps)


def write_bvh(folder: Path, taken: Capture, name: str = "night_walk.bvh") -> Path:
    path = folder / name
    path.write_text(taken.bvh(), encoding="utf-8")
    return path


def gait(
    speed: float,
    strides: float,
    stands: float,
    *,
    seconds: float = 6.0,
    fps: float = 120.0,
    high: float = 0.88,
    lift: float = 0.1,
    way: float = 0.0,
    start: tuple[float, float] = (2.4, -1.8),
    turned: float = 130.0,
    noise: float = 1.0,
) -> Capture:
    """Somebody goes at ``speed`` (m/s) with so many ``strides`` a second, each foot standing for a share ``stands`` of
    its stride on one spot of the floor; ``way`` (degrees) is where to, from where the body looks (90: its left)."""
    rng = np.random.default_rng(7)
    t = _time(seconds, fps)
    heading, side = np.radians(turned), np.radians(way)
    ahead = np.array([np.sin(heading + side), 0.0, np.cos(heading + side)])
    phase = t * strides
    hips = np.array([start[0], high, start[1]]) + (speed * t)[:, None] * ahead
    hips[:, 1] += 0.012 * np.cos(4.0 * np.pi * phase)
    turns = np.zeros((len(t), len(BONES), 3))
    turns[:, 0, 2] = turned
    for sign, letter, off in ((1.0, "L", 0.0), (-1.0, "R", 0.5)):
        lap = (phase + off) % 1.0
        stance = speed * stands / strides
        swing = np.clip((lap - stands) / (1.0 - stands), 0.0, 1.0)
        eased = swing * swing * (3.0 - 2.0 * swing)
        along = np.where(lap < stands, stance * (0.5 - lap / stands), stance * (eased - 0.5))
        raised = np.where(lap < stands, 0.0, lift * np.sin(np.pi * swing) ** 2)
        # The ankle from the hip, across and along the body; the leg swings out first, then bends in its own plane.
        x, z = along * np.sin(side), along * np.cos(side)
        y = 0.07 + raised - (hips[:, 1] - 0.04)
        out = np.arctan2(x, -y)
        turns[:, NAMES.index(f"{letter}Thigh"), 0] = np.degrees(out)
        thigh, knee, ankle = leg(-np.hypot(x, y), z)
        for name, angle in (("Thigh", thigh), ("Knee", knee), ("Ankle", ankle)):
            turns[:, NAMES.index(f"{letter}{name}"), 1] = np.degrees(angle)
        arm = np.sin(2.0 * np.pi * (phase + off))
        turns[:, NAMES.index(f"{letter}Shoulder")] = np.stack([0 * t - 70.0 * sign, -8.0 * speed * arm, 0 * t], -1)
    turns += rng.normal(0, 0.1 * noise, turns.shape)
    return Capture(hips + rng.normal(0, 0.0004 * noise, hips.shape), turns, fps)


def leg(y: np.ndarray, z: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Turns about X (radians) of thigh, knee and ankle for an ankle ``y`` over and ``z`` ahead of the hip (m), the foot
    flat on the floor. Law of cosines on the rig's own bones."""
    upper, lower = np.hypot(0.43, 0.01), np.hypot(0.42, 0.02)
    size = np.minimum(np.hypot(y, z), (upper + lower) * 0.999)
    to = np.arctan2(-z, -y)
    a = to - np.arccos(np.clip((upper**2 + size**2 - lower**2) / (2 * upper * size), -1, 1))
    b = to + np.arccos(np.clip((lower**2 + size**2 - upper**2) / (2 * lower * size), -1, 1))
    thigh, both = a + np.arctan2(1.0, 43.0), b - np.arctan2(2.0, 42.0)
    return thigh, both - thigh, -both


def leap(
    seconds: float = 1.0, fps: float = 120.0, start: tuple[float, float] = (0.4, 3.1), turned: float = -60.0
) -> Capture:
    """Somebody is in the air with drawn-up legs, the hips level, as caught on a springboard."""
    t = _time(seconds, fps)
    turns = np.zeros((len(t), len(BONES), 3))
    turns[:, 0, 2] = turned
    thigh, knee, ankle = leg(np.full_like(t, -0.62), np.full_like(t, 0.1))
    for letter in "LR":
        for name, angle in (("Thigh", thigh), ("Knee", knee), ("Ankle", ankle)):
            turns[:, NAMES.index(f"{letter}{name}"), 1] = np.degrees(angle)
        turns[:, NAMES.index(f"{letter}Shoulder"), 0] = -40.0 if letter == "L" else 40.0
    hips = np.stack([start[0] + 0 * t, 1.3 + 0.01 * np.sin(6.0 * t), start[1] + 0 * t], -1)
    return Capture(hips, turns, fps)
