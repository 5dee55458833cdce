"""Hitboxes taken in hand: each part goes where it is brought, on either side, and all else stays."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from veergust.core.edit.grasp import brought, grasped
from veergust.core.model import Hitbox
from veergust.core.play.contact.volumes import shape_at

near = st.floats(-2.0, 2.0).map(lambda v: round(v, 3))
place = st.tuples(near, near, near)
size = st.floats(0.02, 1.0).map(lambda v: round(v, 3))
boxes = st.builds(
    Hitbox,
    mount=st.just("grip"),
    shape=st.sampled_from(["sphere", "capsule", "box"]),
    offset=place,
    to=place,
    radius=size,
    size=st.tuples(size, size, size),
)


@given(boxes, st.booleans(), place)
def test_a_part_lies_where_it_was_brought_and_the_others_where_they_were(box: Hitbox, mirrored: bool, to: Any) -> None:
    shape = shape_at(box, 0, mirrored)
    for part, at in grasped(box, shape).items():
        goal = np.array(to) if part != "middle" else at + np.array(to)
        made = replace(box, **brought(box, shape, part, goal, mirrored))
        after = shape_at(made, 0, mirrored)
        now = grasped(made, after)
        if part.startswith("side"):
            axis = "xyz".index(part[-1])
            assert after.half is not None
            assert shape.half is not None
            assert after.half[axis] == pytest.approx(max(abs(goal[axis] - shape.a[axis]), 0.005), abs=1e-4)
            assert np.allclose(np.delete(after.half, axis), np.delete(shape.half, axis), atol=1e-4)
            assert np.allclose(after.a, shape.a)
            continue
        assert np.allclose(now[part], goal, atol=2e-4), part
        if part == "middle":
            assert np.allclose(after.b - after.a, shape.b - shape.a, atol=3e-4)
        elif part in ("from", "to"):
            other = "to" if part == "from" else "from"
            assert np.allclose(now[other], grasped(box, shape)[other], atol=1e-4)
        assert after.radius == box.radius


@given(boxes.filter(lambda b: b.shape != "box"), st.booleans(), place)
def test_the_edge_goes_through_the_place_it_was_brought_to(box: Hitbox, mirrored: bool, to: Any) -> None:
    shape = shape_at(box, 0, mirrored)
    made = replace(box, **brought(box, shape, "edge", np.array(to), mirrored))
    line = shape.a + np.linspace(0, 1, 2000)[:, None] * (shape.b - shape.a)
    far = np.linalg.norm(line - np.array(to), axis=1).min()
    assert made.radius == pytest.approx(max(far, 0.005), abs=2e-3)
    assert replace(made, radius=box.radius) == box
