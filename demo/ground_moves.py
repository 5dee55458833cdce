"""Ossa Renn's locomotion beyond walk and run: on guard in four ways, off the floor and back on it, over a wet plank."""

from __future__ import annotations

from posing import GUARD, Move, Step

GUARD_SPEED = 0.9
BACK_SPEED = 0.75
ASIDE_SPEED = 0.8
STEP_SECONDS = 0.8
ON_GUARD = GUARD | {
    "hips.y": -0.15, "hips.yaw": 16.0, "chest.pitch": 10.0,
    "grip.x": -0.20, "grip.y": 1.10, "grip.z": 0.38, "az": 38.0, "el": 30.0, "left": -0.36,
}  # fmt: skip
FEET = {"left": (0.16, -0.13, 40.0), "right": (-0.13, 0.24, -6.0)}


def guard_idle() -> Move:
    left = [Step(0.0, *FEET["left"])]
    right = [Step(0.0, *FEET["right"])]
    keys: list[tuple[float, dict[str, float]]] = [
        (0.0, {"hips.y": -0.15, "chest.pitch": 10, "grip.y": 1.10, "el": 30, "sash": 5, "az": 38, "hips.x": 0.0}),
        (0.6, {"hips.x": 0.010, "az": 40}),
        (0.9, {"hips.y": -0.163, "chest.pitch": 12, "grip.y": 1.085, "el": 28, "sash": 8}),
        (1.4, {"hips.x": -0.006, "az": 37}),
    ]
    return Move("guard_idle", 1.8, keys, left, right, loop=True, base=dict(ON_GUARD))


def _guard_step(name: str, ahead: float, aside: float) -> Move:
    """A step on guard: each foot stands while the body goes over it, and neither crosses the other.

    ``ahead`` and ``aside`` are metres a lap; the body goes evenly, so that the middle of each stance is under it.
    """
    p, stands = STEP_SECONDS, 0.54
    feet = {}
    for side, lands in (("left", 0.0), ("right", 0.5)):
        x, z, yaw = FEET[side]
        middle = lands + stands / 2
        x, z = x + aside * middle, z + ahead * middle
        toe = 9.0 if ahead > 0 else 4.0
        feet[side] = [
            Step(lands * p, x, z, yaw, -4.0 if ahead > 0 else 2.0, 0.0, 0.055),
            Step((lands + 0.07) * p, x, z, yaw),
            Step((lands + stands - 0.10) * p, x, z, yaw),
            Step((lands + stands) * p, x, z, yaw, toe, 0.0, 0.055),
        ]
    lean = 1.5 if aside > 0 else -1.5 if aside < 0 else 0.0
    keys: list[tuple[float, dict[str, float]]] = [
        (
            0.0,
            {"root.x": 0.0, "root.z": 0.0, "hips.y": -0.158, "hips.yaw": 14, "az": 38, "sash": 6, "chest.roll": lean},
        ),
        (0.25 * p, {"hips.y": -0.142, "hips.x": 0.014, "grip.y": 1.105}),
        (0.5 * p, {"root.x": aside / 2, "root.z": ahead / 2, "hips.y": -0.158, "hips.yaw": 19, "az": 41, "sash": 11}),
        (0.75 * p, {"hips.y": -0.142, "hips.x": -0.014, "grip.y": 1.09}),
    ]
    return Move(name, p, keys, feet["left"], feet["right"], loop=True, stride=ahead, aside=aside, base=dict(ON_GUARD))


def guard_ahead() -> Move:
    return _guard_step("guard_ahead", GUARD_SPEED * STEP_SECONDS, 0.0)


def guard_back() -> Move:
    return _guard_step("guard_back", -BACK_SPEED * STEP_SECONDS, 0.0)


def guard_left() -> Move:
    return _guard_step("guard_left", 0.0, ASIDE_SPEED * STEP_SECONDS)


def guard_right() -> Move:
    return _guard_step("guard_right", 0.0, -ASIDE_SPEED * STEP_SECONDS)


def leap() -> Move:
    """Off the floor: both legs pushed straight, then drawn up. Its height is the body's own."""
    keys: list[tuple[float, dict[str, float]]] = [
        (0.0, {"hips.y": -0.02, "chest.pitch": 10, "grip.y": 1.05, "el": 24, "sash": 4}),
        (0.08, {"hips.y": 0.03, "chest.pitch": 2, "grip.y": 1.18, "el": 36, "sash": -20}),
        (0.30, {"hips.y": 0.02, "chest.pitch": 8, "grip.y": 1.22, "el": 40, "az": -34, "left.on": 1.0, "sash": -34}),
        (0.40, {"hips.y": 0.02, "chest.pitch": 8, "grip.y": 1.22, "el": 40, "az": -34, "left.on": 1.0, "sash": -36}),
    ]
    left = [
        Step(0.0, 0.14, -0.14, 40, 8),
        Step(0.09, 0.13, -0.18, 34, 50, 0.06, 0.0),
        Step(0.3, 0.13, -0.24, 22, 40, 0.27, 0.0),
    ]
    right = [
        Step(0.0, -0.12, 0.26, -6, 8),
        Step(0.09, -0.12, 0.22, -6, 46, 0.06, 0.0),
        Step(0.3, -0.11, 0.25, -4, 22, 0.23, 0.0),
    ]
    return Move("leap", 0.4, keys, left, right)


def land() -> Move:
    """Back on the floor: the knees take it, and the guard is there again."""
    keys: list[tuple[float, dict[str, float]]] = [
        (0.0, {"hips.y": -0.06, "chest.pitch": 8, "grip.y": 1.18, "el": 38, "az": -30, "sash": -30}),
        (0.10, {"hips.y": -0.27, "chest.pitch": 22, "hips.pitch": 10, "grip.y": 0.98, "el": 20, "az": -14, "sash": 14}),
        (0.22, {"hips.y": -0.19, "chest.pitch": 16, "hips.pitch": 8, "grip.y": 1.0, "el": 22, "az": -12, "sash": 20}),
        (0.42, {"hips.y": -0.10, "chest.pitch": 8, "hips.pitch": 5, "grip.y": 1.03, "el": 24, "az": -12, "sash": 6}),
    ]
    left = [Step(0.0, 0.14, -0.15, 44, 12), Step(0.05, 0.14, -0.15, 46)]
    right = [Step(0.0, -0.12, 0.29, -6, 10), Step(0.05, -0.12, 0.29, -6)]
    return Move("land", 0.42, keys, left, right)


def slide() -> Move:
    """Over a wet plank: low, the left leg stretched ahead, and slower and slower."""
    low = {"hips.y": -0.40, "hips.z": -0.10, "hips.yaw": 34, "hips.pitch": -6, "chest.pitch": 16, "chest.yaw": -16,
           "grip.x": -0.26, "grip.y": 0.86, "grip.z": 0.12, "az": -70, "el": 10, "left.on": 1.0, "left": -0.36}  # fmt: skip
    keys: list[tuple[float, dict[str, float]]] = [
        (0.0, {"root.z": 0.0, "hips.y": -0.10, "chest.pitch": 16, "sash": 30}),
        (0.16, {**low, "root.z": 0.62, "sash": 60}),
        (0.50, {"root.z": 1.60, "hips.y": -0.42, "hips.yaw": 36, "sash": 44}),
        (0.78, {**low, "root.z": 2.02, "sash": 20}),
        (1.05, {"root.z": 2.16, "hips.y": -0.10, "hips.z": 0.02, "hips.yaw": 22, "hips.pitch": 5, "chest.pitch": 8, "chest.yaw": 4,
                "grip.x": -0.12, "grip.y": 1.03, "grip.z": 0.36, "az": -12, "el": 24, "sash": 6}),
    ]  # fmt: skip

    # The feet go with the body: the plank is wet.
    def along(x: float, z: float, yaw: float, pitch: float = 0.0) -> list[Step]:
        return [
            Step(t, x, z + at, yaw, pitch, 0.0, 0.0)
            for t, at in ((0.16, 0.62), (0.3, 1.06), (0.5, 1.60), (0.65, 1.86), (0.78, 2.02))
        ]

    left = [Step(0.0, 0.10, 0.10, 8, 10), *along(0.13, 0.46, 6, -12), Step(1.0, 0.14, 2.02, 46)]
    right = [Step(0.0, -0.10, -0.20, -4, 40), *along(-0.16, -0.30, -18, 30), Step(0.98, -0.12, 2.46, -6)]
    return Move("slide", 1.05, keys, left, right)


ALL = (guard_idle, guard_ahead, guard_back, guard_left, guard_right, leap, land, slide)
