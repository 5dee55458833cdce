"""Moves of Ossa Renn's that are made for layers: the legs stand, and what is seen of them is above the waist."""

from __future__ import annotations

from posing import GUARD, Move

Keys = list[tuple[float, dict[str, float]]]

BACK = {k: v for k, v in GUARD.items() if not k.startswith("root")}


def lantern_toss() -> Move:
    """The left hand leaves the staff, takes a lantern from the belt, and throws it overarm at what is ahead."""
    keys: Keys = [
        (0.0, BACK),
        (0.12, {"left.on": 0.0, "left.x": 0.26, "left.y": 0.86, "left.z": 0.02, "chest.yaw": 10, "chest.pitch": 12, "grip.x": -0.22,
                "grip.z": 0.30, "az": -30, "head.yaw": 8}),
        (0.30, {"left.x": 0.50, "left.y": 1.34, "left.z": -0.34, "chest.yaw": 44, "chest.pitch": 0, "chest.roll": 6, "grip.x": -0.16, "grip.y": 1.06,
                "grip.z": 0.40, "el": 40, "az": -18, "head.yaw": -14, "head.pitch": 0, "sash": -4}),
        (0.36, {"left.x": 0.50, "left.y": 1.40, "left.z": -0.36, "chest.yaw": 46}),
        (0.45, {"left.x": 0.26, "left.y": 1.64, "left.z": 0.34, "chest.yaw": -4, "chest.pitch": 14, "chest.roll": -4, "grip.x": -0.34, "grip.z": 0.14, "el": 26}),
        (0.50, {"left.x": 0.10, "left.y": 1.46, "left.z": 0.62, "chest.yaw": -22, "chest.pitch": 22, "grip.x": -0.38, "grip.y": 1.0, "grip.z": 0.06, "az": -52, "head.yaw": 10}),
        (0.60, {"left.x": -0.02, "left.y": 1.06, "left.z": 0.50, "chest.yaw": -30, "chest.pitch": 24, "sash": 22, "left.on": 0.0}),
        (0.84, {"left.on": 1.0, "left": -0.34, "chest.yaw": -2, "chest.pitch": 10, "grip.x": -0.14, "grip.y": 1.02, "grip.z": 0.34, "az": -16, "head.yaw": 0}),
        (0.98, BACK), (1.0, BACK),
    ]  # fmt: skip
    return Move("lantern_toss", 1.0, keys)


def cover() -> Move:
    """The staff raised across the body, held for a breath that loops, and lowered."""
    up = {"grip.x": -0.20, "grip.y": 1.26, "grip.z": 0.38, "az": -66, "el": 34, "left": -0.38, "chest.pitch": 10, "chest.yaw": -8,
          "head.pitch": 8}  # fmt: skip
    keys: Keys = [
        (0.0, BACK),
        (0.08, {"grip.y": 1.12, "az": -30, "el": 30}),
        (0.20, up),
        (0.50, {"grip.y": 1.245, "el": 32, "chest.pitch": 12, "az": -68}),
        (0.80, up),
        (1.05, BACK), (1.10, BACK),
    ]  # fmt: skip
    return Move("cover", 1.1, keys)


def cover_low() -> Move:
    """The staff let down across the shins, held for a breath that loops, and lifted."""
    low = {"grip.x": -0.16, "grip.y": 0.78, "grip.z": 0.42, "az": -70, "el": -14, "left": -0.38, "chest.pitch": 26, "chest.yaw": -6,
           "head.pitch": -8}  # fmt: skip
    keys: Keys = [
        (0.0, BACK),
        (0.08, {"grip.y": 0.92, "az": -34, "el": 2, "chest.pitch": 16}),
        (0.20, low),
        (0.50, {"grip.y": 0.77, "el": -12, "chest.pitch": 28, "az": -72}),
        (0.80, low),
        (1.05, BACK), (1.10, BACK),
    ]  # fmt: skip
    return Move("cover_low", 1.1, keys)


def staff_jab() -> Move:
    """A short poke with the point, out of the shoulders alone."""
    keys: Keys = [
        (0.0, BACK),
        (0.08, {"grip.z": 0.16, "grip.x": -0.20, "az": -3, "el": 6, "chest.yaw": -12, "chest.pitch": 6}),
        (0.15, {"grip.z": 0.60, "grip.x": -0.08, "grip.y": 1.06, "az": 0, "el": 2, "chest.yaw": 22, "chest.pitch": 13, "left": -0.38, "sash": -4}),
        (0.19, {"grip.z": 0.62, "chest.yaw": 24, "el": 1}),
        (0.34, {"grip.z": 0.38, "chest.yaw": 5, "el": 20, "az": -10}),
        (0.42, BACK), (0.45, BACK),
    ]  # fmt: skip
    return Move("staff_jab", 0.45, keys)


def flinch() -> Move:
    """What a graze does to head and shoulders, to be added to whatever goes on."""
    keys: Keys = [
        (0.0, BACK),
        (0.05, {"chest.pitch": -4, "chest.yaw": 14, "head.pitch": -14, "head.yaw": 10, "chest.roll": 5, "head.roll": 8}),
        (0.14, {"chest.pitch": 15, "chest.yaw": 0, "head.pitch": 12, "head.yaw": -3, "chest.roll": -1, "head.roll": -2}),
        (0.30, BACK), (0.35, BACK),
    ]  # fmt: skip
    return Move("flinch", 0.35, keys)


ALL = (lantern_toss, cover, cover_low, staff_jab, flinch)
