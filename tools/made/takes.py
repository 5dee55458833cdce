"""Made-up takes of minutes, as studios shoot them: somebody who stands about and strikes now and then, and somebody who
spars and is never still; with what was drawn in, so that it can be told whether it is found."""

from __future__ import annotations

import numpy as np

from tools.made.captures import BONES, NAMES, Capture, leg

LONG_MOVES = ("blow R", "blow L", "kick R", "swing", "kick L", "lunge") * 2


def long_take(
    seconds: float = 180.0, fps: float = 120.0, seed: int = 7, gaps: int = 0
) -> tuple[Capture, list[tuple[int, int]]]:
    """Minutes of somebody who stands, breathes and trembles, walks about, and strikes twelve times; the first frame is
    a rest pose left over, the end is a calibration in a T. The frames on which each move begins and ends.

    ``gaps`` are stretches of 5 frames in which the cameras saw nothing and the last pose is held.
    """
    rng = np.random.default_rng(seed)
    t = np.arange(round(seconds * fps) + 1) / fps
    turns = np.zeros((len(t), len(BONES), 3))
    heading = np.radians(55.0) + 0.3 * np.sin(t / 19.0)
    stance = {"LShoulder": (-68.0, 0, 0), "LElbow": (0, 0, -40.0), "RShoulder": (66.0, 0, 0), "RElbow": (0, 0, 60.0),
              "LThigh": (0, -14.0, 0), "LKnee": (0, 20.0, 0), "RThigh": (0, 8.0, 0), "RKnee": (0, 12.0, 0)}  # fmt: skip
    for name, zxy in stance.items():
        turns[:, NAMES.index(name)] = zxy
    # Breath, sway and tremble: a few centimetres a second.
    breath = np.sin(2 * np.pi * 0.27 * t)
    hips = np.stack([2.1 + 0.012 * np.sin(2 * np.pi * 0.21 * t), 0.93 + 0.003 * breath, -1.4 + 0.01 * breath], -1)
    turns[:, NAMES.index("Ribs"), 1] += 0.8 * breath
    for name in ("LShoulder", "RShoulder", "LElbow", "RElbow"):
        turns[:, NAMES.index(name)] += 0.08 * np.sin(2 * np.pi * 9.0 * t + rng.uniform(0, 6))[:, None]
    places = np.linspace(4.0, seconds - 14.0, len(LONG_MOVES)) + rng.uniform(-1.0, 1.0, len(LONG_MOVES))
    moves = []
    for n, (kind, at) in enumerate(zip(LONG_MOVES, places)):
        out, back = 0.22 + 0.06 * (n % 3), 0.5 + 0.12 * (n % 4)
        a = round(at * fps)
        b = a + round((out + back) * fps)
        moves.append((a, b))
        along = t - a / fps
        e = np.where(along < out, _ease(along / out), 1.0 - _ease((along - out) / back))
        e = np.where((along <= 0) | (along >= out + back), 0.0, e)
        _strike(turns, hips, heading, kind, e)
        if n % 4 == 1:  # walks to another place before the next
            _walk_on(turns, hips, t, at + 3.0, heading)
    end = _ease((t - (seconds - 6.0)) / 2.0)  # the arms go out to the sides, and stay there
    for name in stance:
        turns[:, NAMES.index(name)] *= (1.0 - end)[:, None]
    hips[0], turns[0] = (0.0, 0.96, 0.0), 0.0
    turns[1:] += rng.normal(0, 0.1, turns[1:].shape)
    hips[1:] += rng.normal(0, 0.0004, hips[1:].shape)
    turns[:, 0, 2] += np.degrees(heading) * (np.arange(len(t)) > 0)
    for at in rng.integers(300, len(t) - 300, gaps):
        turns[at : at + 5], hips[at : at + 5] = turns[at - 1], hips[at - 1]
    return Capture(hips, turns, fps), moves


def _ease(x: np.ndarray) -> np.ndarray:
    return 0.5 - 0.5 * np.cos(np.pi * np.clip(x, 0.0, 1.0))


def _strike(turns: np.ndarray, hips: np.ndarray, heading: np.ndarray, kind: str, e: np.ndarray) -> None:
    def add(name: str, z: float, x: float, y: float) -> None:
        turns[:, NAMES.index(name)] += np.stack([z * e, x * e, y * e], -1)

    ahead = np.stack([np.sin(heading), 0 * heading, np.cos(heading)], -1)
    hips += ahead * (0.18 if kind == "lunge" else 0.05) * e[:, None]
    if kind in ("blow R", "lunge"):
        add("RShoulder", -66.0, 0, 86.0)
        add("RElbow", 0, 0, -60.0)
    elif kind == "blow L":
        add("LShoulder", 68.0, 0, -86.0)
        add("LElbow", 0, 0, 40.0)
    elif kind.startswith("kick"):
        add(f"{kind[-1]}Thigh", 0, -78.0, 0)
        add(f"{kind[-1]}Knee", 0, 10.0, 0)
    else:
        add("Ribs", 0, 6.0, -55.0)
        add("RShoulder", -60.0, 20.0, 70.0)
        add("RElbow", 0, 0, -50.0)


def _walk_on(turns: np.ndarray, hips: np.ndarray, t: np.ndarray, at: float, heading: np.ndarray) -> None:
    on = _ease((t - at) / 0.4) * (1.0 - _ease((t - at - 2.2) / 0.4))
    stride = np.sin(2 * np.pi * 0.85 * (t - at)) * on
    for name, much in (("LThigh", -18.0), ("RThigh", 18.0), ("LShoulder", 10.0), ("RShoulder", -10.0)):
        turns[:, NAMES.index(name), 1] += much * stride
    way = np.stack([np.sin(heading), 0 * heading, np.cos(heading)], -1) * (0.9 * on)[:, None]
    hips += np.cumsum(way, axis=0) * (t[1] - t[0])


SPAR_BLOWS = ("jab", "cross", "hook", "low", "kick L", "kick R", "lunge")


def spar_take(
    blows: int = 40, fps: float = 120.0, seed: int = 1, seconds: float = 0.0
) -> tuple[Capture, list[tuple[int, int, str]]]:
    """Somebody who spars and is never still: steps and turns about on the balls of their feet, bobs and sways, hops now
    and then, and strikes ``blows`` times, at random, from a guard and back to it. The frames on which each blow begins
    and ends, and the limb. Joints tremble, markers slip, and now and then the cameras see nothing."""
    rng = np.random.default_rng(seed)
    rows, at = [], 1.2
    for _ in range(blows):
        out, back = rng.uniform(0.12, 0.22), rng.uniform(0.2, 0.45)
        rows.append((at, out, back, str(rng.choice(SPAR_BLOWS)), rng.uniform(0.85, 1.1)))
        at += out + back + rng.uniform(0.22, 1.4)
    t = np.arange(round(max(at + 1.0, seconds) * fps) + 1) / fps

    def wander(low: float, high: float, much: float) -> np.ndarray:
        return np.sum(
            [much / 3 * np.sin(2 * np.pi * rng.uniform(low, high) * t + rng.uniform(0, 7)) for _ in range(5)], axis=0
        )

    turns = np.zeros((len(t), len(BONES), 3))
    heading = np.radians(130.0 + np.cumsum(wander(0.05, 0.4, 60.0)) / fps + wander(0.6, 1.4, 5.0))
    bob = 0.02 * np.sin(2 * np.pi * 2.3 * t) + wander(0.3, 0.9, 0.02)
    drift = np.stack([np.cumsum(wander(0.1, 0.5, 0.6)) / fps, np.cumsum(wander(0.1, 0.5, 0.6)) / fps], -1)
    hips = np.stack([6.2 + drift[:, 0], 0.87 + bob, -3.4 + drift[:, 1]], -1)
    for _ in range(5):  # a hop back: both feet leave the floor, the arms go up a little
        begins = rng.uniform(1.0, t[-1] - 2.0)
        if all(not a - 0.6 < begins < a + o + b + 0.1 for a, o, b, _, _ in rows):
            hop = np.clip((t - begins) / 0.35, 0.0, 1.0)
            hips[:, 1] += 0.16 * np.sin(np.pi * hop)
    # Feet step by turns, always, at the pace of the bob; each is put where its hip goes.
    phase = 2.3 / 2 * t + 0.1 * wander(0.2, 0.5, 1.0)
    going = np.gradient(hips[:, [0, 2]], 1.0 / fps, axis=0)
    ahead = going[:, 0] * np.sin(heading) + going[:, 1] * np.cos(heading)
    aside = going[:, 0] * np.cos(heading) - going[:, 1] * np.sin(heading)
    kicks = {side: np.zeros(len(t)) for side in "LR"}
    for begins, out, back, kind, much in rows:
        if kind.startswith("kick"):
            kicks[kind[-1]] += much * _there_and_back(t, begins, out, back)
    for sign, letter, off, stands_ahead in ((1.0, "L", 0.0, 0.16), (-1.0, "R", 0.5, -0.16)):
        lap = (phase + off) % 1.0
        swing = np.clip((lap - 0.6) / 0.4, 0.0, 1.0)
        eased = swing * swing * (3.0 - 2.0 * swing)
        along = np.where(lap < 0.6, 0.5 - lap / 0.6, eased - 0.5)
        raised = 0.09 * np.sin(np.pi * swing) ** 2 + np.maximum(hips[:, 1] - 0.93, 0.0)
        z, x = stands_ahead + along * ahead * 0.26, sign * 0.04 + along * aside * 0.26
        y = 0.07 + raised - (hips[:, 1] - 0.04)
        lean = np.arctan2(x, -y)
        thigh, knee, ankle = leg(-np.hypot(x, y), z)
        kick = np.clip(kicks[letter], 0.0, 1.15)
        turns[:, NAMES.index(f"{letter}Thigh"), 0] = np.degrees(lean) * (1.0 - 0.5 * kick)
        turns[:, NAMES.index(f"{letter}Thigh"), 1] = np.degrees(thigh) * (1.0 - kick) - 84.0 * kick
        turns[:, NAMES.index(f"{letter}Knee"), 1] = np.degrees(knee) * (1.0 - kick) + 12.0 * kick
        turns[:, NAMES.index(f"{letter}Ankle"), 1] = np.degrees(ankle) * (1.0 - kick) - 10.0 * kick
    sway = wander(0.4, 1.6, 5.0)
    turns[:, 0] = np.stack([wander(0.4, 1.2, 3.0), 6.0 + wander(0.4, 1.5, 3.0), np.degrees(heading)], -1)
    turns[:, NAMES.index("Ribs")] = np.stack([wander(0.4, 1.5, 4.0), 6.0 + wander(0.3, 1.0, 4.0), sway], -1)
    for letter, sign in (("L", 1.0), ("R", -1.0)):  # the guard: hands up before the chin, never still
        turns[:, NAMES.index(f"{letter}Shoulder")] = np.stack(
            [-55.0 * sign + wander(0.5, 2.0, 7.0), -20.0 + wander(0.5, 2.0, 7.0), -25.0 * sign + wander(0.5, 2.0, 7.0)],
            -1,
        )
        turns[:, NAMES.index(f"{letter}Elbow"), 2] = -115.0 * sign + wander(0.5, 2.2, 9.0)
    drawn = []
    for begins, out, back, kind, much in rows:
        e = much * _there_and_back(t, begins, out, back)
        _spar_blow(turns, hips, heading, kind, e)
        a = round(begins * fps)
        limb = {"jab": "hand L", "hook": "hand L", "kick L": "foot L", "kick R": "foot R"}.get(kind, "hand R")
        drawn.append((a, round((begins + out + back) * fps), limb))
    turns += rng.normal(0, 0.25, turns.shape)
    hips += rng.normal(0, 0.001, hips.shape)
    for at_frame in rng.integers(300, len(t) - 300, 3):  # the cameras saw nothing: the last pose is held
        if all(not a - 20 < at_frame < b + 20 for a, b, _ in drawn):
            turns[at_frame : at_frame + 4] = turns[at_frame - 1]
    return Capture(hips, turns, fps), drawn


def _there_and_back(t: np.ndarray, begins: float, out: float, back: float) -> np.ndarray:
    along = t - begins
    e = np.where(along < out, _ease(along / out), 1.0 - _ease((along - out) / back))
    return np.where((along <= 0) | (along >= out + back), 0.0, e)


def _spar_blow(turns: np.ndarray, hips: np.ndarray, heading: np.ndarray, kind: str, e: np.ndarray) -> None:
    def to(name: str, z: float, x: float, y: float) -> None:
        """A joint goes over from what it does to a pose, and back."""
        rows = turns[:, NAMES.index(name)]
        turns[:, NAMES.index(name)] = rows + (np.array([z, x, y]) - rows) * np.clip(e, 0.0, 1.15)[:, None]

    ahead = np.stack([np.sin(heading), 0 * heading, np.cos(heading)], -1)
    hips += ahead * {"lunge": 0.2, "cross": 0.06}.get(kind, 0.03) * e[:, None]
    side, sign = ("L", 1.0) if kind in ("jab", "hook") else ("R", -1.0)
    if kind in ("jab", "cross", "lunge"):
        to(f"{side}Shoulder", 0.0, 0.0, -86.0 * sign)
        to(f"{side}Elbow", 0.0, 0.0, -8.0 * sign)
        turns[:, NAMES.index("Ribs"), 2] -= 14.0 * sign * e
    elif kind == "low":
        to(f"{side}Shoulder", -30.0 * sign, 20.0, -80.0 * sign)
        to(f"{side}Elbow", 0.0, 0.0, -20.0 * sign)
    elif kind == "hook":
        to(f"{side}Shoulder", 10.0 * sign, 0.0, -96.0 * sign)
        to(f"{side}Elbow", 0.0, 0.0, -70.0 * sign)
        turns[:, NAMES.index("Ribs"), 2] -= 34.0 * sign * e
