"""Static overlap of hitboxes and hurtboxes against an independent library of collision, on random pairs.

``VEERGUST_PAIRS`` is how many of each shape (a few thousand by default; a million was run as well).
"""

from __future__ import annotations

import os

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from veergust.core.model import Hitbox
from veergust.core.motion.quat import Array
from veergust.core.play.contact.volumes import pieces, swept, touches

fcl = pytest.importorskip("fcl", reason="python-fcl is not here: pip install python-fcl brings it")

PAIRS = int(os.environ.get("VEERGUST_PAIRS", "1500"))
AT_ONCE = 500
EXACT = 1e-4
"""A touch is one within so much (m), as docs/semantics.md says."""


def place(capsule: tuple[Array, Array]) -> object:
    """Where the library's capsule, which lies along its own z, has to be for its axis to go from one end to the other."""
    a, b = capsule
    way = b - a
    long = float(np.linalg.norm(way))
    if long < 1e-12:
        return fcl.Transform(np.eye(3), (a + b) / 2.0)
    ahead = way / long
    across = np.cross(ahead, [1.0, 0.0, 0.0] if abs(ahead[0]) < 0.7 else [0.0, 1.0, 0.0])
    across /= np.linalg.norm(across)
    return fcl.Transform(np.stack([across, np.cross(ahead, across), ahead], axis=1), (a + b) / 2.0)


def apart(hit: object, hit_at: object, hurt: object, hurt_at: object) -> float:
    """How far (m) two shapes are from each other, below 0 where they overlap."""
    request, result = fcl.DistanceRequest(enable_signed_distance=True), fcl.DistanceResult()
    return float(fcl.distance(fcl.CollisionObject(hit, hit_at), fcl.CollisionObject(hurt, hurt_at), request, result))


@pytest.mark.parametrize("shape", ["sphere", "capsule", "box"])
def test_what_overlaps_is_what_an_independent_library_says(shape: str) -> None:
    """Of any size, turned and moved anyhow; what lies within a tenth of a millimetre of touching may fall either way."""
    rng = np.random.default_rng(11)
    overlapping = near = 0
    for start in range(0, PAIRS, AT_ONCE):
        count = min(AT_ONCE, PAIRS - start)
        boxes, ends, sizes, library = [], [], [], []
        turns = Rotation.random(count, rng).as_matrix()
        for n in range(count):
            offset, to = rng.normal(0.0, 0.5, (2, 3))
            radius, half = rng.uniform(0.02, 0.4), rng.uniform(0.02, 0.6, 3)
            frame = np.eye(4)
            frame[:3, :3], frame[:3, 3] = turns[n], rng.normal(0.0, 0.4, 3)
            box = Hitbox(
                mount="hand",
                shape=shape,  # type: ignore[arg-type]
                offset=tuple(offset),
                to=tuple(to),
                radius=radius,
                size=tuple(half),
            )
            c, d = rng.normal(0.0, 0.6, (2, 3))
            thick = rng.uniform(0.02, 0.3)
            boxes.append(swept(box, 0, False, frame, frame, True))
            ends.append((c, d))
            sizes.append(thick)
            a, b = (frame[:3, :3] @ end + frame[:3, 3] for end in (offset, to if shape == "capsule" else offset))
            if shape == "box":
                hit, hit_at = fcl.Box(*(2.0 * half)), fcl.Transform(frame[:3, :3], a)
            elif shape == "capsule":
                hit, hit_at = fcl.Capsule(radius, float(np.linalg.norm(b - a))), place((a, b))
            else:
                hit, hit_at = fcl.Sphere(radius), fcl.Transform(np.eye(3), a)
            library.append(apart(hit, hit_at, fcl.Capsule(thick, float(np.linalg.norm(d - c))), place((c, d))))
        hits = pieces(boxes)
        c, d = np.array([e[0] for e in ends]), np.array([e[1] for e in ends])
        times, _ = touches(hits, (c, d, c, d), np.array(sizes), np.arange(count), np.arange(count))
        ours, theirs = np.isfinite(times), np.array(library)
        assert not (ours & (theirs > 2.0 * EXACT)).any(), "no false touch"
        assert not (~ours & (theirs < -EXACT)).any(), "none missed"
        overlapping += int(ours.sum())
        near += int((np.abs(theirs) < EXACT).sum())
    assert 0.05 * PAIRS < overlapping < 0.9 * PAIRS
    assert near < 0.05 * PAIRS
