"""Clips cut out of one take, what is left of it, and marks."""

from __future__ import annotations

import pytest
from msgspec.structs import replace

from veergust.core.edit.takes import clips_of_take, name_mark, take_parts, turn_mark, unused_parts
from veergust.core.model import Clip, FootSpan, PoseKey, Project
from veergust.core.trouble import Trouble, Unknown

TAKE = Clip(
    name="take", file="clips/take.bvh", animation="take", root_joint="hips", rate=0.5, tags=("cold",), loop=True,
    contacts=(FootSpan(joint="foot", start=0, end=1),), poses=(PoseKey(time=0.2),),
)  # fmt: skip
OTHER = Clip(name="walk", file="clips/walk.glb", animation="walk")
PROJECT = Project(name="harbour", clips=(TAKE, OTHER))


def test_parts_become_clips_behind_their_take_prepared_as_it_is() -> None:
    edit, names = take_parts(PROJECT, "take", [("take_01", 1.0, 2.0), ("take_01", 4.0, 5.5), ("", 6.0, 7.0)])
    assert names == ("take_01", "take_01_2", "take_2")
    assert [c.name for c in edit.project.clips] == ["take", *names, "walk"]
    part = edit.project.clips[1]
    assert (part.start, part.end, part.root_joint, part.rate, part.tags) == (1.0, 2.0, "hips", 0.5, ("cold",))
    assert (part.loop, part.contacts, part.poses) == (False, None, ())
    assert edit.words == "3 new clips of take"
    assert PROJECT.clips == (TAKE, OTHER)


def test_a_part_without_a_length_and_a_take_that_is_not_there_are_refused() -> None:
    with pytest.raises(Trouble, match="end before it begins"):
        take_parts(PROJECT, "take", [("a", 2.0, 2.0)])
    with pytest.raises(Unknown, match="there is no clip 'tak'; use take"):
        take_parts(PROJECT, "tak", [("a", 1.0, 2.0)])


def test_what_no_clip_of_its_own_uses_is_told() -> None:
    edit, _ = take_parts(PROJECT, "take", [("b", 6.0, 7.0), ("a", 1.0, 2.5), ("c", 2.0, 3.0)])
    assert [c.name for c in clips_of_take(edit.project, TAKE)] == ["take", "b", "a", "c"]
    assert unused_parts(edit.project, TAKE, 10.0) == ((0.0, 1.0), (3.0, 6.0), (7.0, 10.0))
    assert unused_parts(PROJECT, TAKE, 10.0) == ((0.0, 10.0),), "the take as a whole is no part of it"
    whole = replace(PROJECT, clips=(TAKE, replace(TAKE, name="half", end=10.0), OTHER))
    assert unused_parts(whole, TAKE, 10.0) == ((0.0, 10.0),)


def test_a_mark_is_put_named_and_taken_away() -> None:
    one = turn_mark(PROJECT, "take", 2.0, 1 / 120).project
    two = turn_mark(one, "take", 1.0, 1 / 120).project
    assert [m.time for m in two.clips[0].marks] == [1.0, 2.0]
    called = name_mark(two, "take", 1, "  guard ").project
    assert [m.name for m in called.clips[0].marks] == ["", "guard"]
    gone = turn_mark(called, "take", 2.0 + 0.4 / 120, 1 / 120).project
    assert [m.time for m in gone.clips[0].marks] == [1.0]
