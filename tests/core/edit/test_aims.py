"""A layer's aim, edited: poses by what their names say, changed, taken away, and clips that are called otherwise."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from veergust.core.edit.aims import MOST_POINTS, add_points, pointing, remove_point, set_aim, set_point
from veergust.core.edit.clips import remove_clip, rename_clip
from veergust.core.model import Clip, Layer, Project
from veergust.core.trouble import Trouble

NAMES = ("aim", "aim_left", "aimRight", "aim up left", "LOOK_DOWN")


def project() -> Project:
    return Project(
        layers=(Layer(name="Body"), Layer(name="Arms")), clips=tuple(Clip(name=n, file="x.glb") for n in NAMES)
    )


@given(
    st.sampled_from(["", "aim_", "Aim"]), st.sampled_from(["left", "right", ""]), st.sampled_from(["up", "down", ""])
)
def test_a_clip_points_where_its_name_says(before: str, side: str, up: str) -> None:
    wanted = {"left": 60.0, "right": -60.0, "": 0.0}[side], {"up": 40.0, "down": -40.0, "": 0.0}[up]
    assert pointing("_".join(w for w in (before.strip("_"), side, up) if w)) == wanted
    assert pointing(before.strip("_") + side.title() + up.title()) == wanted or not before


def test_poses_are_added_changed_and_taken_away() -> None:
    made = add_points(project(), "Arms", list(NAMES)).project
    aim = made.layers[1].aim
    assert aim is not None
    assert [(p.side, p.up) for p in aim.points] == [(0, 0), (60, 0), (-60, 0), (60, 40), (0, -40)]
    made = set_point(made, "Arms", 1, side=45.0, time=0.5).project
    made = set_aim(made, "Arms", rate=90.0).project
    aim = made.layers[1].aim
    assert aim is not None
    assert (aim.points[1].side, aim.points[1].time, aim.rate) == (45.0, 0.5, 90.0)
    renamed = rename_clip(made, "aim_left", "aim_over").project.layers[1].aim
    assert renamed is not None
    assert renamed.points[1].clip == "aim_over"
    with pytest.raises(Trouble, match="layer Arms"):
        remove_clip(made, "aim_left")
    for _ in NAMES:
        made = remove_point(made, "Arms", 0).project
    assert made == project()


def test_what_is_not_there_is_said() -> None:
    made = add_points(project(), "Arms", ["aim"]).project
    for bad in (lambda: add_points(made, "Arms", ["gone"]), lambda: add_points(made, "Legs", ["aim"]),
                lambda: set_point(made, "Arms", 1, side=1.0), lambda: remove_point(made, "Body", 0),
                lambda: set_aim(made, "Body", rate=1.0), lambda: add_points(made, "Arms", ["aim"] * MOST_POINTS)):  # fmt: skip
        with pytest.raises(Trouble):
            bad()
