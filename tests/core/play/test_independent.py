"""Static overlap of hitboxes and hurtboxes against an independent library of collision, on random pairs.

``VEERGUST_PAIRS`` is how many of each shape (a few thousand by default; a million was run as well).
"""

from __future__ import annotations

import os

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from veergust.core.model import Hitbox, Hurtbox
from veergust.core.motion.quat import Array
from veergust.core.play.compiled.hurting import hurt_shapes
from veergust.core.play.contact.hurts import capsules, placed_hurts
from veergust.core.play.contact.sweep import touches
from veergust.core.play.contact.volumes import pieces, swept

fcl = pytest.importorskip("fcl", reason="python-fcl is not here: pip install python-fcl brings it")

PAIRS = int(os.environ.get("VEERGUST_PAIRS", "1500"))
AT_ONCE = 500
EXACT = 1e-4
"""A touch is one within so much (m), as docs/semantics.md says."""


def lying(capsule: tuple[Array, Array]) -> object:
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


def shape_of(shape: str, radius: float, half: Array, a: Array, b: Array, turn: Array) -> tuple[object, object]:
    """A shape of the library's, and where it is: ``turn`` is a box's."""
    if shape == "box":
        return fcl.Box(*(2.0 * half)), fcl.Transform(turn, a)
    if shape == "capsule":
        return fcl.Capsule(radius, float(np.linalg.norm(b - a))), lying((a, b))
    return fcl.Sphere(radius), fcl.Transform(np.eye(3), a)


@pytest.mark.parametrize("hit", ["sphere", "capsule", "box"])
def test_what_overlaps_a_box_is_what_an_independent_library_says(hit: str) -> None:
    """Hurtboxes that are boxes, turned on a mount and by their joint; a tenth of the pairs, for each is some hundred
    distances."""
    rng = np.random.default_rng(17)
    count = max(PAIRS // 10, 150)
    volumes, sides, shapes, library = [], [], [], []
    turns = Rotation.random(3 * count, rng).as_matrix().reshape(3, count, 3, 3)
    for n in range(count):
        (offset, to, about), radius = rng.normal(0.0, 0.3, (3, 3)), rng.uniform(0.02, 0.4)
        half, size = rng.uniform(0.02, 0.6, (2, 3))
        frame, joint, mount = np.eye(4), np.eye(4), np.eye(4)
        frame[:3, :3], frame[:3, 3] = turns[0, n], rng.normal(0.0, 0.2, 3)
        joint[:3, :3], joint[:3, 3] = turns[1, n], rng.normal(0.0, 0.2, 3)
        mount[:3, :3], mount[:3, 3] = turns[2, n], rng.normal(0.0, 0.2, 3)
        box = Hitbox(mount="hand", shape=hit, offset=tuple(offset), to=tuple(to), radius=radius, size=tuple(half))  # type: ignore[arg-type]
        volumes.append(swept(box, 0, False, frame, frame, True))
        hurt = Hurtbox(name="box", joint="mount", offset=tuple(about), size=tuple(size))
        shapes.append(hurt_shapes([hurt], {}, lambda _, at=mount: (0, at)))  # type: ignore[misc]
        sides.append((joint, np.eye(4)[None]))
        a, b = (frame[:3, :3] @ end + frame[:3, 3] for end in (offset, to if hit == "capsule" else offset))
        middle = (joint @ mount @ [*about, 1.0])[:3]
        theirs = shape_of("box", 0.0, size, middle, middle, joint[:3, :3] @ mount[:3, :3])
        library.append(apart(*shape_of(hit, radius, half, a, b, frame[:3, :3]), *theirs))
    rows = np.arange(count)
    times, _ = touches(pieces(volumes), placed_hurts(shapes, sides, sides), rows, rows)
    ours, told = np.isfinite(times), np.array(library)
    assert not (ours & (told > 2.0 * EXACT)).any(), "no false touch"
    assert not (~ours & (told < -EXACT)).any(), "none missed"
    assert 0.1 * count < ours.sum() < 0.9 * count


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
            hit = shape_of(shape, radius, half, a, b, frame[:3, :3])
            library.append(apart(*hit, fcl.Capsule(thick, float(np.linalg.norm(d - c))), lying((c, d))))
        hits = pieces(boxes)
        c, d = np.array([e[0] for e in ends]), np.array([e[1] for e in ends])
        times, _ = touches(hits, capsules((c, d, c, d), np.array(sizes)), np.arange(count), np.arange(count))
        ours, theirs = np.isfinite(times), np.array(library)
        assert not (ours & (theirs > 2.0 * EXACT)).any(), "no false touch"
        assert not (~ours & (theirs < -EXACT)).any(), "none missed"
        overlapping += int(ours.sum())
        near += int((np.abs(theirs) < EXACT).sum())
    assert 0.05 * PAIRS < overlapping < 0.9 * PAIRS
    assert near < 0.05 * PAIRS
