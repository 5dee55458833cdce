"""A small pose language: a move is a few keyed channels, and the body is solved from them.

Channels are numbers over time. ``hips``, ``chest`` and ``head`` are turned by yaw, pitch and roll (degrees; yaw
turns to the left, pitch bends forward, roll leans to the right). The staff is placed by where the right hand
grips it (``grip``, metres from the root) and where it points (``az`` from straight ahead to the left, ``el`` up);
``left`` is where along it the left hand holds. Feet are keyed by where the ball of the foot stands on the floor;
between two keys at one place a foot is planted and two-bone IK keeps it there.
"""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from scipy.interpolate import PchipInterpolator

from veergust.core.motion import quat
from veergust.core.motion.ik import two_bone
from veergust.core.motion.sampling import Motion, Track
from veergust.core.motion.skeleton import Pose, Skeleton, forward

FPS = 60.0

GUARD = {
    "root.x": 0.0, "root.z": 0.0, "root.yaw": 0.0,
    "hips.x": 0.0, "hips.y": -0.10, "hips.z": 0.02, "hips.yaw": 22.0, "hips.pitch": 5.0, "hips.roll": 0.0,
    "chest.yaw": 4.0, "chest.pitch": 8.0, "chest.roll": 0.0,
    "head.yaw": 0.0, "head.pitch": 4.0, "head.roll": 0.0,
    "grip.x": -0.12, "grip.y": 1.03, "grip.z": 0.36, "az": -12.0, "el": 24.0,
    "left": -0.36, "left.on": 1.0, "left.x": 0.34, "left.y": 1.0, "left.z": 0.12,
    "tuck": 0.0, "sash": 6.0,
}  # fmt: skip


@dataclass(frozen=True)
class Step:
    """A foot on the floor: ball at x, z (m), yaw and pitch (degrees, positive lifts the heel), height."""

    time: float
    x: float
    z: float
    yaw: float = 0.0
    pitch: float = 0.0
    high: float = 0.0
    arc: float = 0.08


LEFT = Step(0.0, 0.14, -0.14, 46.0)
RIGHT = Step(0.0, -0.12, 0.30, -6.0)


@dataclass
class Move:
    """A clip being authored: ``keys`` are (seconds, channels), ``left`` and ``right`` the feet; a lap of a loop goes
    ``stride`` metres ahead and ``aside`` to the left."""

    name: str
    seconds: float
    keys: list[tuple[float, dict[str, float]]]
    left: list[Step] = field(default_factory=lambda: [LEFT])
    right: list[Step] = field(default_factory=lambda: [RIGHT])
    loop: bool = False
    stride: float = 0.0
    aside: float = 0.0
    base: dict[str, float] = field(default_factory=lambda: dict(GUARD))


def _channel(move: Move, name: str, at: np.ndarray) -> np.ndarray:
    keyed = {t: values[name] for t, values in move.keys if name in values}
    if not move.loop:
        keyed.setdefault(0.0, move.base[name])
    if not keyed:
        return np.full(len(at), move.base[name])
    times, values = np.array(sorted(keyed)), np.array([keyed[t] for t in sorted(keyed)])
    if len(times) == 1:
        return np.full(len(at), values[0])
    if move.loop:
        rise = {"root.z": move.stride, "root.x": move.aside}.get(name, 0.0)
        times = np.concatenate([times - move.seconds, times, times + move.seconds])
        values = np.concatenate([values - rise, values, values + rise])
        times, keep = np.unique(np.round(times, 6), return_index=True)
        values = values[keep]
    return np.asarray(PchipInterpolator(times, values)(np.clip(at, times[0], times[-1])))


def _foot(move: Move, steps: list[Step], at: np.ndarray) -> np.ndarray:
    """x, z, yaw, pitch and height of one foot's ball over time, ``[F, 5]``."""
    if move.loop and (move.stride or move.aside):
        around = [Step(s.time + k * move.seconds, s.x + k * move.aside, s.z + k * move.stride, s.yaw, s.pitch, s.high,
                       s.arc) for k in (-1, 0, 1) for s in steps]  # fmt: skip
    else:
        around = list(steps)
    around.sort(key=lambda s: s.time)
    out = np.empty((len(at), 5))
    for f, t in enumerate(at):
        after = next((i for i, s in enumerate(around) if s.time > t), len(around))
        a, b = around[max(after - 1, 0)], around[min(after, len(around) - 1)]
        u = 0.0 if b.time <= a.time else float(np.clip((t - a.time) / (b.time - a.time), 0, 1))
        e = u * u * (3 - 2 * u)
        far = np.hypot(b.x - a.x, b.z - a.z)
        high = a.high + (b.high - a.high) * e + (b.arc * np.sin(np.pi * u) if far > 1e-6 else 0.0)
        out[f] = [a.x + (b.x - a.x) * e, a.z + (b.z - a.z) * e, a.yaw + (b.yaw - a.yaw) * e,
                  a.pitch + (b.pitch - a.pitch) * e, high]  # fmt: skip
    return out


def _turn(yaw: np.ndarray, pitch: np.ndarray, roll: np.ndarray) -> np.ndarray:
    y = quat.from_axis_angle([0.0, 1.0, 0.0], yaw)
    x = quat.from_axis_angle([1.0, 0.0, 0.0], pitch)
    z = quat.from_axis_angle([0.0, 0.0, 1.0], roll)
    return quat.multiply(y, quat.multiply(x, z))


def _grip(point: np.ndarray, back: np.ndarray) -> np.ndarray:
    """A fist around ``point``: its z axis along it, its y axis as near ``back`` (towards the wrist) as can be."""
    y = back - point * np.sum(back * point, axis=-1, keepdims=True)
    y = y / np.maximum(np.linalg.norm(y, axis=-1, keepdims=True), 1e-6)
    return quat.from_matrix(np.stack([np.cross(y, point), y, point], axis=-1))


def calmed(bones: Skeleton, pose: Pose, reach: int = 5) -> Pose:
    """The pose without flips of an arm: where an elbow passes its pole and the arm leaps to the other side, the whole
    arm goes over evenly in twice ``reach`` frames."""
    turn = pose.rotation.copy()
    for _ in range(8):
        world = forward(bones, turn, pose.translation)
        rough = False
        for side in ("left", "right"):
            arm = [bones.index[f"{part}_{side}"] for part in ("upper_arm", "forearm", "hand")]
            spin = quat.from_matrix(world[:, arm, :3, :3])
            for row in _leaps(np.linalg.norm(np.diff(world[:, arm, :3, 3], axis=0), axis=-1), 0.02) | _leaps(
                quat.angle_between(spin[:-1], spin[1:]), 6.0
            ):
                a, b = max(row - reach, 0), min(row + reach, len(turn) - 1)
                u = np.linspace(0.0, 1.0, b - a + 1)
                u = u * u * (3 - 2 * u)
                for joint in arm:
                    ends = (np.broadcast_to(turn[end, joint], (len(u), 4)) for end in (a, b))
                    turn[a : b + 1, joint] = quat.slerp(*ends, u)
                rough = True
        if not rough:
            break
        reach += 1
    return Pose(turn, pose.translation)


def _leaps(steps: np.ndarray, most: float) -> set[int]:
    """Rows of steps ``[F − 1, J]`` that are by ``most`` greater than twice those beside them."""
    beside = np.zeros_like(steps)
    beside[1:] = steps[:-1]
    beside[:-1] = np.maximum(beside[:-1], steps[1:])
    return {int(row) + 1 for row in np.argwhere(steps > 2.0 * beside + most)[:, 0]}


class Solver:
    """Turns moves into motions for one skeleton."""

    def __init__(self, bones: Skeleton) -> None:
        self.bones = bones

    def pose(self, move: Move, at: np.ndarray) -> Pose:
        bones, n = self.bones, len(at)
        ch = {name: _channel(move, name, at) for name in move.base}
        turn = np.tile(bones.rest_rotation, (n, 1, 1))
        place = np.tile(bones.rest_translation, (n, 1, 1))
        index = bones.index
        place[:, index["root"]] = np.stack([ch["root.x"], np.zeros(n), ch["root.z"]], axis=-1)
        turn[:, index["root"]] = quat.from_axis_angle([0.0, 1.0, 0.0], ch["root.yaw"])
        place[:, index["hips"]] += np.stack([ch["hips.x"], ch["hips.y"], ch["hips.z"]], axis=-1)
        turn[:, index["hips"]] = _turn(ch["hips.yaw"], ch["hips.pitch"], ch["hips.roll"])
        part = _turn(ch["chest.yaw"], ch["chest.pitch"], ch["chest.roll"])
        none = np.broadcast_to(quat.IDENTITY, part.shape)
        for joint, share in (("waist", 0.3), ("spine", 0.35), ("chest", 0.35)):
            turn[:, index[joint]] = quat.slerp(none, part, share)
        turn[:, index["sash"]] = quat.from_axis_angle([1.0, 0.0, 0.0], ch["sash"])
        pose = self._head(Pose(turn, place), ch)
        pose = self._legs(pose, move, ch, at)
        return self._arms(pose, ch)

    def motion(self, move: Move) -> Motion:
        frames = round(move.seconds * FPS)
        times = np.arange(frames + 1) / FPS
        pose = calmed(self.bones, self.pose(move, times))
        tracks = [Track(j, "rotation", "LINEAR", times, pose.rotation[:, j]) for j in range(1, len(self.bones))]
        for name in ("root", "hips"):
            j = self.bones.index[name]
            tracks.append(Track(j, "translation", "LINEAR", times, pose.translation[:, j]))
        root = self.bones.index["root"]
        tracks.append(Track(root, "rotation", "LINEAR", times, pose.rotation[:, root]))
        return Motion(move.name, float(times[-1]), FPS, tuple(tracks))

    def _head(self, pose: Pose, ch: dict[str, np.ndarray]) -> Pose:
        index = self.bones.index
        world = forward(self.bones, pose.rotation, pose.translation)
        chest = quat.from_matrix(world[:, index["chest"], :3, :3])
        root = pose.rotation[:, index["root"]]
        upright = quat.multiply(root, _turn(ch["head.yaw"], ch["head.pitch"], ch["head.roll"]))
        hips = quat.multiply(chest, _turn(ch["head.yaw"] * 0, ch["head.pitch"], ch["head.roll"]))
        wanted = quat.slerp(upright, hips, ch["tuck"])
        local = quat.multiply(quat.conjugate(chest), wanted)
        half = quat.slerp(np.broadcast_to(quat.IDENTITY, local.shape), local, 0.45)
        pose.rotation[:, index["neck"]] = half
        pose.rotation[:, index["head"]] = quat.multiply(quat.conjugate(half), local)
        return pose

    def _legs(self, pose: Pose, move: Move, ch: dict[str, np.ndarray], at: np.ndarray) -> Pose:
        bones, index = self.bones, self.bones.index
        for side, steps, x in (("left", move.left, 1.0), ("right", move.right, -1.0)):
            foot = _foot(move, steps, at)
            yaw = quat.from_axis_angle([0.0, 1.0, 0.0], foot[:, 2])
            pitch = quat.from_axis_angle([1.0, 0.0, 0.0], foot[:, 3])
            spin = quat.multiply(yaw, pitch)
            to_ankle = np.array([0.0, 0.065, -0.13])
            ball = np.stack([foot[:, 0], np.full(len(at), 0.025) + foot[:, 4], foot[:, 1]], axis=-1)
            # A foot that rests on its heel turns about the heel; its ball rises instead of sinking.
            heel = np.array([0.0, -0.02, -0.19])
            on_heel = (foot[:, 3] < 0)[:, None]
            rise = quat.rotate(yaw, np.broadcast_to(heel, ball.shape)) - quat.rotate(
                spin, np.broadcast_to(heel, ball.shape)
            )
            ankle = ball + quat.rotate(spin, np.broadcast_to(to_ankle, ball.shape)) + np.where(on_heel, rise, 0.0)
            world = forward(bones, pose.rotation, pose.translation)
            hips = world[:, index["hips"]]
            spin_hips = quat.from_matrix(hips[:, :3, :3])
            tucked = hips[:, :3, 3] + quat.rotate(spin_hips, np.broadcast_to([0.12 * x, -0.30, 0.20], ball.shape))
            tuck = ch["tuck"][:, None]
            target = ankle * (1 - tuck) + tucked * tuck
            spin = quat.slerp(
                spin, quat.multiply(spin_hips, quat.from_axis_angle([1.0, 0.0, 0.0], 35.0 + 0 * at)), ch["tuck"]
            )
            knee = quat.rotate(yaw, np.broadcast_to([0.12 * x, 0.0, 1.0], ball.shape)) * 0.7
            knee = knee + quat.rotate(spin_hips, np.broadcast_to([0.1 * x, 0.0, 0.6], ball.shape))
            thigh, ankle_joint = index[f"thigh_{side}"], index[f"foot_{side}"]
            pose = two_bone(bones, pose, thigh, target, knee)
            world = forward(bones, pose.rotation, pose.translation)
            shin = quat.from_matrix(world[:, index[f"shin_{side}"], :3, :3])
            pose.rotation[:, ankle_joint] = quat.multiply(quat.conjugate(shin), spin)
            lifted = np.clip((foot[:, 4] - 0.01) / 0.09, 0.0, 1.0)
            bend = np.clip(foot[:, 3], 0.0, 70.0) * (1 - ch["tuck"]) * (1 - lifted * lifted * (3 - 2 * lifted))
            pose.rotation[:, index[f"toes_{side}"]] = quat.from_axis_angle([1.0, 0.0, 0.0], -bend)
        return pose

    def _arms(self, pose: Pose, ch: dict[str, np.ndarray]) -> Pose:
        bones, index = self.bones, self.bones.index
        n = len(pose.rotation)
        az, el = np.radians(ch["az"]), np.radians(ch["el"])
        point = np.stack([np.sin(az) * np.cos(el), np.sin(el), np.cos(az) * np.cos(el)], axis=-1)
        grip = np.stack([ch["grip.x"], ch["grip.y"], ch["grip.z"]], axis=-1)
        world = forward(bones, pose.rotation, pose.translation)
        root, chest = world[:, index["root"]], world[:, index["chest"]]
        root_spin, chest_spin = pose.rotation[:, index["root"]], quat.from_matrix(chest[:, :3, :3])
        tuck = ch["tuck"]
        from_chest = grip - bones.rest_world[index["chest"], :3, 3]
        grip = (root[:, :3, 3] + quat.rotate(root_spin, grip)) * (1 - tuck[:, None]) + (
            chest[:, :3, 3] + quat.rotate(chest_spin, from_chest)
        ) * tuck[:, None]
        point = quat.rotate(quat.slerp(root_spin, chest_spin, tuck), point)
        free = root[:, :3, 3] + quat.rotate(root_spin, np.stack([ch["left.x"], ch["left.y"], ch["left.z"]], axis=-1))
        on = ch["left.on"][:, None]
        held = grip + point * ch["left"][:, None]
        for side, x, target in (("right", -1.0, grip), ("left", 1.0, held * on + free * (1 - on))):
            hand, fore = index[f"hand_{side}"], index[f"forearm_{side}"]
            pole = quat.rotate(chest_spin, np.broadcast_to([0.75 * x, -0.8, -0.35], (n, 3)))
            wrist, spin = target, None
            for _ in range(3):  # the palm is off the wrist by an offset that turns with the hand
                pose = two_bone(bones, pose, index[f"upper_arm_{side}"], wrist, pole)
                world = forward(bones, pose.rotation, pose.translation)
                carried = quat.from_matrix(world[:, fore, :3, :3])
                along = quat.rotate(carried, np.broadcast_to([0.0, 0.0, 1.0], (n, 3)))
                # One way round for the whole move: a hand that changed its mind would flip over the staff.
                sign = 1.0 if np.sum(along[0] * point[0]) >= 0 else -1.0
                back = world[:, fore, :3, 3] - world[:, hand, :3, 3]
                back = back / np.linalg.norm(back, axis=-1, keepdims=True)
                spin = _grip(point * sign, back + quat.rotate(chest_spin, np.broadcast_to([0.0, 0.35, 0.0], (n, 3))))
                if side == "left":
                    spin = quat.slerp(carried, spin, ch["left.on"])
                wrist = target - quat.rotate(spin, np.broadcast_to([0.0, -0.075, 0.0], (n, 3)))
            pose.rotation[:, hand] = quat.multiply(quat.conjugate(carried), spin)
            pose.rotation[:, index[f"fingers_{side}"]] = quat.from_axis_angle([0.0, 0.0, 1.0], np.full(n, -62.0 * x))
            if side == "right":
                held_so = quat.between(np.array([0.0, 1.0, 0.0]), np.array([0.0, 0.0, sign]))
                pose.rotation[:, index["staff"]] = held_so
        return Pose(quat.normalize(pose.rotation), pose.translation)
