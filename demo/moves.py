"""The clips of Lantern Quay, each a handful of key poses. Times in seconds, see ``posing`` for the channels."""

from __future__ import annotations

import ground_moves
import layer_moves
from posing import GUARD, LEFT, RIGHT, Move, Step

WALK_SPEED, RUN_SPEED = 1.2, 4.2
BACK = dict(GUARD)


def _feet(left: list[tuple[float, ...]], right: list[tuple[float, ...]]) -> dict[str, list[Step]]:
    return {"left": [Step(*row) for row in left], "right": [Step(*row) for row in right]}


def _moved(step: Step, time: float, dz: float, dx: float = 0.0) -> Step:
    return Step(time, step.x + dx, step.z + dz, step.yaw)


def idle() -> Move:
    return Move(
        "idle", 2.4,
        [
            (0.0, {"hips.y": -0.10, "chest.pitch": 8, "grip.y": 1.03, "el": 24, "hips.x": 0.0, "sash": 5, "az": -12, "head.yaw": 0}),
            (0.7, {"hips.x": 0.012, "az": -10.5}),
            (1.0, {"hips.y": -0.112, "chest.pitch": 10, "head.yaw": 2}),
            (1.2, {"grip.y": 1.018, "el": 22, "sash": 8}),
            (1.9, {"hips.x": -0.008, "az": -13, "head.yaw": -1}),
        ],
        loop=True,
    )  # fmt: skip


def walk() -> Move:
    stride, p = WALK_SPEED, 1.0
    steps = [(0.0, 0.10, 0.31, 5, -15), (0.09, 0.10, 0.31, 5, 0), (0.38, 0.10, 0.31, 5, 0), (0.58, 0.10, 0.31, 5, 42)]
    left = [Step(*s) for s in steps]
    right = [
        Step((t + p / 2) % p, -x, z + (stride / 2 if t < p / 2 else -stride / 2), -yaw, pitch)
        for t, x, z, yaw, pitch in steps
    ]
    keys: list[tuple[float, dict[str, float]]] = [
        (0.0, {"root.z": 0.0, "hips.yaw": -9, "chest.yaw": 12, "hips.roll": 0, "hips.x": 0.0, "az": -14, "grip.z": 0.33}),
        (0.06, {"hips.y": -0.078}), (0.20, {"hips.roll": 3, "hips.x": 0.018}), (0.32, {"hips.y": -0.042}),
        (0.5, {"root.z": stride / 2, "hips.yaw": 9, "chest.yaw": -6, "az": -9, "hips.roll": 0, "hips.x": 0.0, "grip.z": 0.37}),
        (0.56, {"hips.y": -0.078}), (0.70, {"hips.roll": -3, "hips.x": -0.018}), (0.82, {"hips.y": -0.042}),
        (0.1, {"grip.y": 1.0, "el": 20, "chest.pitch": 6, "sash": 12}), (0.35, {"grip.y": 1.02, "el": 22, "chest.pitch": 5, "sash": 20}),
        (0.6, {"grip.y": 1.0, "el": 20, "chest.pitch": 6, "sash": 12}), (0.85, {"grip.y": 1.02, "el": 22, "chest.pitch": 5, "sash": 20}),
    ]  # fmt: skip
    return Move("walk", p, keys, left, right, loop=True, stride=stride, base=GUARD | {"hips.z": -0.02, "hips.yaw": 0.0})


def run() -> Move:
    p = 38 / 60
    stride = RUN_SPEED * p
    steps = [
        (0.0, 0.07, 0.27, 3, -6, 0.0, 0.27),
        (0.04, 0.07, 0.27, 3, 0),
        (0.08, 0.07, 0.27, 3, 6),
        (0.15, 0.07, 0.27, 3, 48, 0.0, 0.27),
    ]
    left = [Step(*s) for s in steps]
    right = [Step(t + p / 2, -x, z + stride / 2, -yaw, *rest) for t, x, z, yaw, *rest in steps]
    keys: list[tuple[float, dict[str, float]]] = [
        (0.000, {"root.z": 0.0, "hips.yaw": -13, "chest.yaw": 18, "az": -28, "grip.z": 0.30, "grip.x": -0.16, "hips.roll": 2}),
        (0.069, {"hips.y": -0.125}), (0.228, {"hips.y": -0.055}),
        (p / 2, {"root.z": stride / 2, "hips.yaw": 13, "chest.yaw": -12, "az": -18, "grip.z": 0.38, "grip.x": -0.10, "hips.roll": -2}),
        (0.386, {"hips.y": -0.125}), (0.544, {"hips.y": -0.055}),
        (0.099, {"el": -4, "grip.y": 0.93, "sash": 48}), (0.257, {"el": 2, "grip.y": 0.97, "sash": 60}),
        (0.416, {"el": -4, "grip.y": 0.93, "sash": 48}), (0.574, {"el": 2, "grip.y": 0.97, "sash": 60}),
    ]  # fmt: skip
    base = GUARD | {"hips.pitch": 12.0, "chest.pitch": 16.0, "hips.z": 0.0, "head.pitch": 2.0}
    return Move("run", p, keys, left, right, loop=True, stride=stride, base=base)


def staff_sweep() -> Move:
    keys = [
        (0.17, BACK),
        (0.23, {"el": 34, "az": -62, "hips.y": -0.13}),
        (0.30, {"hips.yaw": -24, "chest.yaw": -48, "chest.pitch": 15, "hips.y": -0.20, "hips.z": -0.05, "grip.x": -0.36,
                "grip.y": 1.02, "grip.z": 0.02, "az": -128, "el": 16, "head.pitch": 8, "left.on": 1.0, "left": -0.36, "sash": -6}),
        (0.36, {"hips.yaw": 2, "chest.yaw": -30, "az": -84, "el": -1, "grip.x": -0.36, "grip.y": 0.94, "grip.z": 0.24, "hips.y": -0.23}),
        (0.405, {"hips.yaw": 24, "chest.yaw": 0, "az": -8, "el": -13, "grip.x": -0.12, "grip.y": 0.87, "grip.z": 0.46, "hips.y": -0.26,
                 "hips.z": 0.06, "chest.pitch": 20, "left.on": 1.0, "left": -0.30}),
        (0.445, {"hips.yaw": 36, "chest.yaw": 20, "az": 62, "el": -12, "grip.x": 0.12, "grip.y": 0.86, "grip.z": 0.42}),
        (0.54, {"hips.yaw": 46, "chest.yaw": 38, "az": 116, "el": -2, "grip.x": 0.24, "grip.y": 0.90, "grip.z": 0.26, "hips.y": -0.22,
                "left.on": 0.0, "chest.roll": -5, "left.x": 0.42, "left.y": 0.98, "left.z": -0.06, "sash": 26}),
        (0.64, {"az": 108, "el": 5, "chest.yaw": 34, "hips.yaw": 42, "left.on": 0.0, "chest.roll": -4, "grip.x": 0.22, "grip.z": 0.27}),
        (0.92, {"az": 6, "el": 31, "chest.yaw": 2, "hips.yaw": 20, "left.on": 1.0, "grip.x": -0.10, "grip.y": 1.05, "grip.z": 0.35,
                "hips.y": -0.085, "left": -0.34}),
        (1.15, BACK), (1.3, BACK),
    ]  # fmt: skip
    travel = [(0.22, {"root.z": 0.0}), (0.40, {"root.z": 0.30}), (0.62, {"root.z": 0.46}), (1.3, {"root.z": 0.46})]
    keys = [(t, {k: v for k, v in d.items() if k != "root.z"}) for t, d in keys] + travel
    right = [RIGHT, _moved(RIGHT, 0.26, 0), _moved(RIGHT, 0.385, 0.46)]
    left = [
        LEFT,
        Step(0.42, LEFT.x, LEFT.z, LEFT.yaw),
        Step(0.52, LEFT.x, LEFT.z, LEFT.yaw, 30),
        _moved(LEFT, 0.74, 0.46),
    ]
    return Move("staff_sweep", 1.3, keys, left, right)


def staff_thrust() -> Move:
    keys = [
        (0.0, BACK),
        (0.16, {"hips.yaw": 6, "chest.yaw": -22, "hips.z": -0.10, "hips.y": -0.16, "grip.x": -0.24, "grip.y": 1.04, "grip.z": 0.06,
                "az": -4, "el": 3, "left": -0.34, "chest.pitch": 6, "left.on": 1.0, "sash": 14}),
        (0.20, {"hips.z": -0.09, "grip.z": 0.05, "el": 1, "az": -2}),
        (0.265, {"hips.yaw": 30, "chest.yaw": 22, "hips.z": 0.20, "hips.y": -0.27, "grip.x": -0.06, "grip.y": 1.06, "grip.z": 0.78,
                 "az": 1, "el": 1, "chest.pitch": 17, "left": -0.38, "sash": -8}),
        (0.31, {"hips.z": 0.23, "grip.z": 0.82, "chest.yaw": 27, "hips.yaw": 34, "grip.y": 1.04, "hips.y": -0.28, "el": 0}),
        (0.38, {"hips.z": 0.21, "grip.z": 0.74, "chest.yaw": 22, "hips.yaw": 31, "el": 3, "hips.y": -0.26, "sash": 14}),
        (0.62, {"grip.z": 0.33, "el": 28, "hips.z": 0.0, "hips.y": -0.085, "chest.yaw": 0, "hips.yaw": 20, "az": -14}),
        (0.75, BACK), (0.80, BACK),
    ]  # fmt: skip
    keys = [(t, {k: v for k, v in d.items() if k != "root.z"}) for t, d in keys]
    keys += [(0.12, {"root.z": 0.0}), (0.27, {"root.z": 0.30}), (0.55, {"root.z": 0.52}), (0.80, {"root.z": 0.52})]
    right = [RIGHT, _moved(RIGHT, 0.13, 0), _moved(RIGHT, 0.255, 0.60), Step(0.46, RIGHT.x, RIGHT.z + 0.60, RIGHT.yaw),
             _moved(RIGHT, 0.62, 0.52)]  # fmt: skip
    left = [
        LEFT,
        Step(0.2, LEFT.x, LEFT.z, LEFT.yaw),
        Step(0.3, LEFT.x, LEFT.z, LEFT.yaw, 34),
        _moved(LEFT, 0.54, 0.52),
    ]
    return Move("staff_thrust", 0.8, keys, left, right)


def staff_charge() -> Move:
    """Brace with the staff drawn back, hold it for a breath that loops, and go a long step with the point."""
    braced = {"hips.yaw": 8, "chest.yaw": -20, "hips.z": -0.09, "hips.y": -0.20, "grip.x": -0.24, "grip.y": 1.0, "grip.z": 0.08,
              "az": -3, "el": 3, "left": -0.34, "chest.pitch": 9, "sash": 10}  # fmt: skip
    keys = [
        (0.0, BACK),
        (0.35, braced),
        (0.65, {"hips.y": -0.214, "grip.y": 0.987, "grip.z": 0.07, "chest.pitch": 11, "sash": 14, "el": 4}),
        (0.95, braced),
        (1.03, {"hips.yaw": 30, "chest.yaw": 20, "hips.z": 0.16, "hips.y": -0.27, "grip.x": -0.06, "grip.y": 1.05, "grip.z": 0.74,
                "az": 1, "el": 1, "chest.pitch": 18, "left": -0.38, "sash": -10}),
        (1.14, {"hips.z": 0.20, "grip.z": 0.82, "chest.yaw": 27, "hips.yaw": 34, "hips.y": -0.28, "el": 0}),
        (1.24, {"hips.z": 0.17, "grip.z": 0.72, "chest.yaw": 20, "hips.y": -0.24, "el": 4, "sash": 14}),
        (1.52, {"grip.z": 0.34, "el": 27, "hips.z": 0.01, "hips.y": -0.09, "chest.yaw": 1, "hips.yaw": 21, "az": -13}),
        (1.70, BACK), (1.75, BACK),
    ]  # fmt: skip
    keys = [(t, {k: v for k, v in d.items() if k != "root.z"}) for t, d in keys]
    keys += [(0.96, {"root.z": 0.0}), (1.09, {"root.z": 0.62}), (1.38, {"root.z": 0.85}), (1.75, {"root.z": 0.85})]
    right = [RIGHT, Step(0.96, RIGHT.x, RIGHT.z, RIGHT.yaw), _moved(RIGHT, 1.08, 0.93), Step(1.3, RIGHT.x, RIGHT.z + 0.93, RIGHT.yaw),
             _moved(RIGHT, 1.5, 0.85)]  # fmt: skip
    left = [
        LEFT,
        Step(0.98, LEFT.x, LEFT.z, LEFT.yaw),
        Step(1.05, LEFT.x, LEFT.z, LEFT.yaw, 40),
        _moved(LEFT, 1.32, 0.85),
    ]
    return Move("staff_charge", 1.75, keys, left, right)


def overhead() -> Move:
    keys = [
        (0.0, BACK),
        (0.10, {"hips.y": -0.17, "grip.y": 0.96, "el": 10, "chest.pitch": 15, "hips.z": 0.03}),
        (0.26, {"hips.y": -0.03, "hips.z": -0.07, "hips.pitch": -3, "chest.pitch": -14, "chest.yaw": -12, "hips.yaw": 12,
                "grip.x": -0.10, "grip.y": 1.56, "grip.z": 0.14, "az": -6, "el": 118, "left": -0.30, "head.pitch": -2, "sash": 0}),
        (0.36, {"hips.y": -0.02, "grip.y": 1.60, "grip.z": 0.10, "el": 134, "chest.pitch": -18, "hips.pitch": -5, "left": -0.30}),
        (0.42, {"grip.y": 1.52, "grip.z": 0.36, "el": 88, "hips.pitch": 4, "chest.pitch": 0, "hips.z": 0.06, "hips.y": -0.12}),
        (0.475, {"grip.y": 0.98, "grip.z": 0.56, "el": -6, "hips.pitch": 14, "chest.pitch": 28, "hips.z": 0.14, "hips.y": -0.27,
                 "chest.yaw": 8, "hips.yaw": 24, "grip.x": -0.05, "az": -2}),
        (0.53, {"grip.y": 0.80, "grip.z": 0.50, "el": -23, "chest.pitch": 34, "hips.y": -0.31, "hips.pitch": 16, "head.pitch": 12, "sash": 30}),
        (0.60, {"grip.y": 0.84, "el": -18, "chest.pitch": 31, "hips.y": -0.29, "grip.z": 0.49}),
        (0.70, {"grip.y": 0.83, "el": -19, "chest.pitch": 31, "hips.y": -0.29, "hips.pitch": 15, "hips.z": 0.12, "grip.z": 0.49, "left": -0.32}),
        (0.92, {"el": 29, "grip.y": 1.05, "chest.pitch": 6, "hips.y": -0.085, "hips.pitch": 4}),
        (1.0, BACK), (1.05, BACK),
    ]  # fmt: skip
    keys = [(t, {k: v for k, v in d.items() if k != "root.z"}) for t, d in keys]
    keys += [(0.30, {"root.z": 0.0}), (0.47, {"root.z": 0.34}), (0.75, {"root.z": 0.42}), (1.05, {"root.z": 0.42})]
    right = [RIGHT, _moved(RIGHT, 0.30, 0), Step(0.44, RIGHT.x, RIGHT.z + 0.42, RIGHT.yaw, 0, 0, 0.16)]
    left = [LEFT, Step(0.42, LEFT.x, LEFT.z, LEFT.yaw), Step(0.5, LEFT.x, LEFT.z, LEFT.yaw, 36), Step(0.70, LEFT.x, LEFT.z, LEFT.yaw, 36),
            _moved(LEFT, 0.88, 0.42)]  # fmt: skip
    return Move("overhead", 1.05, keys, left, right)


def dodge_roll() -> Move:
    travel = 2.4
    end = GUARD | {"hips.pitch": GUARD["hips.pitch"] + 360}
    keys = [
        (0.0, BACK),
        (0.09, {"hips.y": -0.30, "hips.pitch": 38, "chest.pitch": 30, "tuck": 0.0, "hips.z": 0.14, "el": 12, "head.pitch": 30}),
        (0.17, {"hips.y": -0.44, "hips.pitch": 96, "chest.pitch": 46, "tuck": 1.0, "hips.yaw": 0, "chest.yaw": 0, "hips.z": 0.05, "head.pitch": 42}),
        (0.27, {"hips.y": -0.60, "hips.pitch": 176, "chest.pitch": 56, "el": 6, "grip.z": 0.30, "grip.y": 1.08, "az": -42, "sash": 30}),
        (0.38, {"hips.y": -0.66, "hips.pitch": 268, "chest.pitch": 54, "tuck": 1.0, "head.pitch": 34}),
        (0.48, {"hips.y": -0.52, "hips.pitch": 345, "chest.pitch": 34, "tuck": 0.25, "hips.z": -0.08, "head.pitch": 10}),
        (0.53, {"tuck": 0.0, "hips.pitch": 368, "hips.y": -0.40, "hips.z": 0.0, "hips.yaw": 10}),
        (0.64, {"hips.y": -0.20, "hips.pitch": 372, "chest.pitch": 18, "el": 12}),
        (0.82, end), (0.9, end),
    ]  # fmt: skip
    keys = [(t, {k: v for k, v in d.items() if k != "root.z"}) for t, d in keys]
    keys += [
        (0.03, {"root.z": 0.0}),
        (0.14, {"root.z": 0.34}),
        (0.45, {"root.z": 1.98}),
        (0.66, {"root.z": travel}),
        (0.9, {"root.z": travel}),
    ]
    right = [
        RIGHT,
        Step(0.07, RIGHT.x, RIGHT.z, RIGHT.yaw),
        Step(0.12, RIGHT.x, RIGHT.z, RIGHT.yaw, 40),
        _moved(RIGHT, 0.49, travel),
    ]
    left = [
        LEFT,
        Step(0.05, LEFT.x, LEFT.z, LEFT.yaw),
        Step(0.10, LEFT.x, LEFT.z, LEFT.yaw, 40),
        _moved(LEFT, 0.53, travel),
    ]
    return Move("dodge_roll", 0.9, keys, left, right)


def _hit(name: str, struck: dict[str, float], past: dict[str, float], dz: float, dx: float) -> Move:
    # The hand that lets go of the staff takes longer than the blow.
    late = {k: v for k, v in struck.items() if k.startswith("left")}
    struck = {k: v for k, v in struck.items() if k not in late}
    keys = [(0.0, BACK), (0.07, struck), (0.15, late), (0.13, {k: v * 1.06 for k, v in struck.items() if k.startswith(("chest", "head", "hips.p"))}),
            (0.30, past), (0.48, BACK), (0.52, BACK)]  # fmt: skip
    keys = [(t, {k: v for k, v in d.items() if k not in ("root.z", "root.x")}) for t, d in keys]
    keys += [
        (0.02, {"root.z": 0.0, "root.x": 0.0}),
        (0.28, {"root.z": dz, "root.x": dx}),
        (0.52, {"root.z": dz, "root.x": dx}),
    ]
    first, second = (LEFT, RIGHT) if dz < 0 or dx > 0 else (RIGHT, LEFT)
    a = [first, _moved(first, 0.05, 0), _moved(first, 0.19, dz, dx)]
    b = [second, _moved(second, 0.21, 0), _moved(second, 0.36, dz, dx)]
    left, right = (a, b) if first is LEFT else (b, a)
    return Move(name, 0.52, keys, left, right)


def hit_front() -> Move:
    return _hit("hit_front", {"chest.pitch": -26, "hips.pitch": -9, "head.pitch": -34, "chest.yaw": 14, "hips.z": -0.13, "hips.y": -0.13,
                              "grip.x": -0.28, "grip.y": 1.16, "grip.z": 0.26, "el": 52, "az": -38, "left.on": 0.0, "left.x": 0.46, "left.y": 1.16, "left.z": 0.22},
                {"chest.pitch": 17, "head.pitch": 14, "hips.pitch": 9, "hips.y": -0.17, "el": 12, "left.on": 0.6}, -0.26, 0.0)  # fmt: skip


def hit_back() -> Move:
    return _hit("hit_back", {"chest.pitch": 36, "hips.pitch": 18, "head.pitch": -22, "chest.yaw": -8, "hips.z": 0.14, "hips.y": -0.16,
                             "grip.x": -0.30, "grip.y": 0.92, "grip.z": 0.42, "el": -12, "az": -34, "left.on": 0.0, "left.x": 0.44, "left.y": 0.98, "left.z": 0.34},
                {"chest.pitch": -4, "head.pitch": 6, "hips.pitch": 2, "hips.y": -0.13, "el": 30, "left.on": 0.6}, 0.26, 0.0)  # fmt: skip


def hit_left() -> Move:
    return _hit("hit_left", {"chest.roll": 25, "hips.roll": 9, "head.roll": 24, "chest.yaw": -26, "hips.x": -0.13, "hips.y": -0.14,
                             "grip.x": -0.40, "grip.y": 1.0, "grip.z": 0.24, "el": 8, "az": -66, "left.on": 0.0, "left.x": 0.30, "left.y": 1.12, "left.z": 0.26},
                {"chest.roll": -8, "hips.roll": -2, "head.roll": -8, "chest.yaw": 10, "hips.y": -0.15, "left.on": 0.6}, 0.0, -0.24)  # fmt: skip


def hit_right() -> Move:
    return _hit("hit_right", {"chest.roll": -25, "hips.roll": -9, "head.roll": -24, "chest.yaw": 28, "hips.x": 0.13, "hips.y": -0.14,
                              "grip.x": -0.02, "grip.y": 1.04, "grip.z": 0.38, "el": 36, "az": 34, "left.on": 0.0, "left.x": 0.48, "left.y": 1.02, "left.z": 0.0},
                {"chest.roll": 8, "hips.roll": 2, "head.roll": 8, "chest.yaw": -6, "hips.y": -0.15, "left.on": 0.6}, 0.0, 0.24)  # fmt: skip


Hit = dict[str, float]
FRONT: tuple[Hit, Hit] = (
    {"chest.pitch": -24, "hips.pitch": -8, "head.pitch": -30, "hips.z": -0.12, "hips.y": -0.13, "grip.x": -0.3, "grip.y": 1.14,
     "grip.z": 0.26, "el": 44, "az": -40, "left.on": 0.0, "left.x": 0.44, "left.y": 1.14, "left.z": 0.22},
    {"chest.pitch": 16, "head.pitch": 12, "hips.pitch": 8, "hips.y": -0.16, "el": 14, "left.on": 0.6},
)  # fmt: skip
BACKWARD: tuple[Hit, Hit] = (
    {"chest.pitch": 32, "hips.pitch": 15, "head.pitch": -18, "hips.z": 0.13, "hips.y": -0.15, "grip.x": -0.3, "grip.y": 0.95,
     "grip.z": 0.4, "el": -6, "az": -38, "left.on": 0.0, "left.x": 0.42, "left.y": 1.0, "left.z": 0.32},
    {"chest.pitch": -2, "head.pitch": 4, "hips.pitch": 2, "hips.y": -0.13, "el": 28, "left.on": 0.6},
)  # fmt: skip


def _slanted(name: str, straight: tuple[Hit, Hit], turn: float, dz: float) -> Move:
    """A blow between two sides: the straight one's, leaning and turning away; ``turn`` is 1 where it comes from the
    left."""
    struck, past = (dict(part) for part in straight)
    struck |= {"chest.roll": 15.0 * turn, "hips.roll": 5.0 * turn, "head.roll": 14.0 * turn, "chest.yaw": -20.0 * turn,
               "hips.x": -0.09 * turn}  # fmt: skip
    past |= {"chest.roll": -5.0 * turn, "head.roll": -5.0 * turn, "chest.yaw": 7.0 * turn}
    return _hit(name, struck, past, dz, -0.17 * turn)


def hit_front_left() -> Move:
    return _slanted("hit_front_left", FRONT, 1.0, -0.19)


def hit_front_right() -> Move:
    return _slanted("hit_front_right", FRONT, -1.0, -0.19)


def hit_back_left() -> Move:
    return _slanted("hit_back_left", BACKWARD, 1.0, 0.19)


def hit_back_right() -> Move:
    return _slanted("hit_back_right", BACKWARD, -1.0, 0.19)


def fall() -> Move:
    keys = [
        (0.0, BACK),
        (0.08, {"chest.pitch": -30, "head.pitch": -30, "hips.pitch": -12, "hips.z": -0.12, "hips.y": -0.12, "left.on": 0.0, "left.x": 0.5, "left.y": 1.3, "left.z": 0.2,
                "grip.x": -0.34, "grip.y": 1.24, "grip.z": 0.2, "el": 50, "az": -50, "tuck": 0.0}),
        (0.30, {"hips.pitch": -34, "chest.pitch": -10, "hips.y": -0.46, "hips.z": -0.44, "head.pitch": 8, "head.roll": 0, "left.on": 0.0,
                "left.x": 0.5, "left.y": 0.9, "left.z": -0.2, "grip.x": -0.42, "grip.y": 0.9, "grip.z": -0.1, "el": 24, "az": -72}),
        (0.46, {"hips.pitch": -70, "chest.pitch": -2, "hips.y": -0.795, "hips.z": -0.60, "hips.yaw": 6, "left.x": 0.52, "left.y": 0.26, "left.z": -0.75,
                "grip.x": -0.48, "grip.y": 0.20, "grip.z": -0.8, "el": 3, "az": -82, "head.pitch": -40}),
        (0.56, {"hips.pitch": -82, "chest.pitch": 6, "hips.y": -0.77, "grip.y": 0.14, "left.y": 0.16, "chest.yaw": 0}),
        (0.68, {"hips.pitch": -86, "chest.pitch": -4, "hips.y": -0.815, "hips.yaw": 3, "grip.y": 0.10, "left.y": 0.10, "head.pitch": -82, "el": 0, "az": -84}),
        (1.17, {"hips.pitch": -86, "chest.pitch": -4, "hips.y": -0.815, "hips.z": -0.60, "hips.yaw": 3, "chest.yaw": 0, "head.pitch": -82, "left.on": 0.0,
                "left.x": 0.52, "left.y": 0.10, "left.z": -0.75, "grip.x": -0.48, "grip.y": 0.10, "grip.z": -0.8, "el": 0, "az": -84, "tuck": 0.0}),
    ]  # fmt: skip
    keys = [(t, {k: v for k, v in d.items() if k != "root.z"}) for t, d in keys]
    keys += [(0.03, {"root.z": 0.0}), (0.5, {"root.z": -0.30}), (1.17, {"root.z": -0.30})]
    left = [LEFT, Step(0.06, LEFT.x, LEFT.z, LEFT.yaw), Step(0.24, 0.17, -0.42, 24), Step(0.44, 0.17, -0.42, 24),
            Step(0.66, 0.19, -0.13, 22, -52)]  # fmt: skip
    right = [RIGHT, Step(0.26, RIGHT.x, RIGHT.z, RIGHT.yaw), Step(0.36, RIGHT.x, RIGHT.z, RIGHT.yaw, -22),
             Step(0.62, -0.16, -0.10, -16, -56)]  # fmt: skip
    return Move("fall", 1.17, keys, left, right)


def drop() -> Move:
    air = GUARD | {
        "hips.y": 0.02,
        "hips.pitch": 10.0,
        "grip.y": 1.22,
        "el": 42.0,
        "az": -40.0,
        "left.on": 0.0,
        "left.x": 0.55,
        "left.y": 1.28,
        "left.z": 0.1,
    }
    keys: list[tuple[float, dict[str, float]]] = [
        (0.0, {"grip.y": 1.22, "left.y": 1.28, "el": 42, "sash": -40, "chest.pitch": 6}),
        (0.4, {"grip.y": 1.27, "left.y": 1.20, "el": 47, "sash": -55, "chest.pitch": 9}),
    ]  # fmt: skip
    left = [Step(0.0, 0.13, -0.26, 20, 40, 0.30), Step(0.4, 0.13, -0.23, 20, 34, 0.30)]
    right = [Step(0.0, -0.11, 0.26, -4, 20, 0.24), Step(0.4, -0.11, 0.23, -4, 26, 0.26)]
    return Move(
        "drop",
        0.8,
        keys,
        [*left, Step(0.8, 0.13, -0.26, 20, 40, 0.30)],
        [*right, Step(0.8, -0.11, 0.26, -4, 20, 0.24)],
        loop=True,
        base=air,
    )


ALL = (
    idle,
    walk,
    run,
    staff_sweep,
    staff_thrust,
    staff_charge,
    overhead,
    dodge_roll,
    hit_front,
    hit_back,
    hit_left,
    hit_right,
    hit_front_left,
    hit_front_right,
    hit_back_left,
    hit_back_right,
    fall,
    drop,
    *ground_moves.ALL,
    *layer_moves.ALL,
)
