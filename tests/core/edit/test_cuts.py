"""Cuts and sections changed: what the pins keep, what follows, what is said."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace
from tools.made.edits import action, with_section

from veergust.core.edit.cuts import (
    change_cut,
    duplicate_cut,
    insert_cut,
    join_cuts,
    lay,
    length,
    remove_cut,
    retime_cut,
    set_speed,
    split_cut,
)
from veergust.core.edit.sections import (
    add_section,
    duplicate_section,
    join_sections,
    move_section,
    remove_section,
    rename_section,
    set_entry,
    set_then,
    split_section,
    whole_cut,
)
from veergust.core.kinds.spans import SPANS
from veergust.core.model import Cut, Event, Hold, Pin, Project, Section
from veergust.core.motion import quat
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.compiled.section import CompiledSection
from veergust.core.trouble import Trouble

NAME = "Low sweep"


def part(project: Project, assets: Assets, index: int, name: str = NAME) -> CompiledSection:
    compiled = CompiledProject(project, assets).action(name)
    assert compiled is not None
    return compiled.sections[index]


def section(project: Project, index: int, name: str = NAME) -> Section:
    return action(project, name).sections[index]


def inside(project: Project, assets: Assets, name: str = NAME) -> bool:
    for s in action(project, name).sections:
        ticks = length(lay(project, assets, s.cuts, action(project, name).speed))
        for kind in SPANS:
            for span in getattr(s, kind):
                if isinstance(span, Event):
                    if not 0 <= span.tick < ticks:
                        return False
                elif not 0 <= span.start < span.end <= ticks:
                    return False
    return True


def test_a_swing_played_in_half_the_frames_opens_its_strike_on_the_same_pose(quay: Project, assets: Assets) -> None:
    before = part(quay, assets, 1)
    assert before.ticks == 12
    old = section(quay, 1).strikes[0]
    edit = retime_cut(quay, assets, NAME, 1, 0, 6)
    assert edit.words == "Swing · staff_sweep: 12 → 6 f, rate 2.5"
    after, new = part(edit.project, assets, 1), section(edit.project, 1).strikes[0]
    assert after.ticks == 6
    half = (after.source[1] - after.source[0]) / 2 + 1e-9
    assert abs(after.source[new.start] - before.source[old.start]) <= half
    assert abs(after.source[new.end] - before.source[old.end]) <= half
    assert new.start_pin.source == pytest.approx(before.source[old.start])
    # There and back again nothing has drifted.
    back = retime_cut(edit.project, assets, NAME, 1, 0, 12).project
    again = section(back, 1).strikes[0]
    assert (again.start, again.end) == (old.start, old.end)
    # Other sections stand as they stood.
    assert [section(back, i).exits for i in (0, 2)] == [section(quay, i).exits for i in (0, 2)]


@pytest.mark.parametrize("by", [-0.1, -0.05, 0.05, 0.15])
def test_edges_on_the_borders_of_their_section_stay_on_them(quay: Project, assets: Assets, by: float) -> None:
    """What opens on the first frame and closes on the last goes on doing so when its cut begins or ends elsewhere."""
    hold = Hold(start=0, end=12, setting="aim", value=0.0)
    project = with_section(quay, NAME, 1, holds=(hold,))
    (cut,) = section(project, 1).cuts
    assert cut.end is not None
    changes: tuple[dict[str, Any], ...] = ({"end": cut.end + by}, {"start": cut.start - by})
    for fields in changes:
        edit = change_cut(project, assets, NAME, 1, 0, **fields)
        ticks = part(edit.project, assets, 1).ticks
        assert ticks != 12
        (held,) = section(edit.project, 1).holds
        assert (held.start, held.end) == (0, ticks), fields


def test_an_edge_pinned_to_the_frame_keeps_its_tick_and_gives_way_only_at_the_end(
    quay: Project, assets: Assets
) -> None:
    strike = replace(section(quay, 1).strikes[0], start_pin=Pin(to="frame"), end_pin=Pin(to="frame"))
    project = with_section(quay, NAME, 1, strikes=(strike,))
    slow = retime_cut(project, assets, NAME, 1, 0, 24)
    kept = section(slow.project, 1).strikes[0]
    assert (kept.start, kept.end) == (strike.start, strike.end)
    assert not any("Sweep" in note for note in slow.notes)
    short = retime_cut(project, assets, NAME, 1, 0, 3)
    kept = section(short.project, 1).strikes[0]
    assert kept.end == 3
    assert any("Sweep closes 5 → 3" in note for note in short.notes)


def test_a_trim_that_takes_a_pose_away_lays_its_edge_on_what_is_left_and_says_so(quay: Project, assets: Assets) -> None:
    before = part(quay, assets, 1)
    cut = section(quay, 1).cuts[0]
    late = float(before.source[3])
    edit = change_cut(quay, assets, NAME, 1, 0, start=late)
    strike = section(edit.project, 1).strikes[0]
    after = part(edit.project, assets, 1)
    assert strike.start == 0
    assert strike.start_pin.source is None
    assert abs(after.source[strike.end] - before.source[5]) <= (after.source[1] - after.source[0]) / 2 + 1e-9
    assert edit.notes
    assert "Sweep opens 1 → 0" in edit.notes[0]
    assert cut.start < late
    # What lasted the whole section still does.
    drive = section(edit.project, 1).drives[0]
    assert (drive.start, drive.end) == (0, after.ticks)


@pytest.mark.parametrize(
    ("fields", "says"),
    [({"start": 9.0}, "no length"), ({"rate": 0.0}, "no length"), ({"start": -0.5}, "before its source")],
)
def test_a_cut_without_length_is_refused(quay: Project, assets: Assets, fields: dict[str, Any], says: str) -> None:
    with pytest.raises(Trouble, match=says):
        change_cut(quay, assets, NAME, 1, 0, **fields)


@given(ticks=st.integers(1, 60), trim=st.floats(0.0, 0.3), speed=st.floats(0.3, 3.0))
def test_nothing_ever_lies_outside_its_section(
    quay: Project, assets: Assets, ticks: int, trim: float, speed: float
) -> None:
    for index in range(3):
        project = retime_cut(quay, assets, NAME, index, 0, ticks).project
        cut = section(project, index).cuts[0]
        assert cut.end is not None
        start = cut.start + (cut.end - cut.start) * trim
        project = change_cut(project, assets, NAME, index, 0, start=start).project
        project = set_speed(project, assets, NAME, speed).project
        assert inside(project, assets)
        assert length(lay(project, assets, section(project, index).cuts, speed)) == part(project, assets, index).ticks


@given(tick=st.integers(1, 11))
def test_a_split_cut_plays_as_the_whole_did_and_joins_again(quay: Project, assets: Assets, tick: int) -> None:
    split = split_cut(quay, assets, NAME, 1, tick).project
    one, two = part(quay, assets, 1), part(split, assets, 1)
    assert [c.ticks for c in two.cuts] == [tick, 12 - tick]
    assert np.allclose(one.source, two.source, atol=1e-6)
    assert np.allclose(one.place, two.place, atol=1e-5)
    assert join_cuts(split, assets, NAME, 1, 0).project == quay


def test_cuts_are_put_in_doubled_and_taken_out_with_what_is_pinned_to_them(quay: Project, assets: Assets) -> None:
    before = part(quay, assets, 1)
    old = section(quay, 1).strikes[0]
    cut = Cut(clip="idle", start=0.0, end=0.1)
    put = insert_cut(quay, assets, NAME, 1, 0, cut).project
    strike = section(put, 1).strikes[0]
    assert (strike.start, strike.end) == (old.start + 6, old.end + 6)
    assert part(put, assets, 1).source[strike.start] == pytest.approx(before.source[old.start])
    gone = remove_cut(put, assets, NAME, 1, 0).project
    assert section(gone, 1).cuts == section(quay, 1).cuts
    assert section(gone, 1).strikes[0].start == old.start
    bare = remove_cut(gone, assets, NAME, 1, 0)
    assert section(bare.project, 1).cuts == ()
    assert bare.notes
    assert inside(bare.project, assets)
    twice = duplicate_cut(quay, assets, NAME, 1, 0).project
    assert part(twice, assets, 1).ticks == 24
    assert section(twice, 1).strikes[0].start == old.start


def test_mirrored_and_backwards_cuts_split_and_retime_alike(quay: Project, assets: Assets) -> None:
    clips = tuple(replace(c, reverse=True, mirror=True) if c.name == "staff_sweep" else c for c in quay.clips)
    project = replace(quay, clips=clips)
    one, two = part(project, assets, 1), part(split_cut(project, assets, NAME, 1, 5).project, assets, 1)
    assert np.allclose(one.source, two.source, atol=1e-6)
    assert quat.angle_between(one.pose.rotation, two.pose.rotation).max() < 1e-3
    old = section(project, 1).strikes[0]
    edit = retime_cut(project, assets, NAME, 1, 0, 24)
    new, after = section(edit.project, 1).strikes[0], part(edit.project, assets, 1)
    assert abs(after.source[new.start] - one.source[old.start]) < abs(after.source[1] - after.source[0])


# Sections


def names(project: Project, name: str = NAME) -> list[tuple[str, str]]:
    return [(s.name, s.then) for s in action(project, name).sections]


def test_a_new_section_ends_and_goes_on_only_where_somebody_says_so(quay: Project, assets: Assets) -> None:
    edit = add_section(quay, assets, NAME, "overhead")
    assert names(edit.project)[-1] == ("Overhead", "end")
    assert part(edit.project, assets, 3).ticks == 63
    project = set_then(edit.project, NAME, 2, "Overhead").project
    assert names(project)[2] == ("Settle", "Overhead")
    looping = set_then(project, NAME, 3, "Overhead")
    assert looping.words == "Low sweep › Overhead: loops"
    changed = [a.then != b.then for a, b in zip(action(looping.project, NAME).sections, action(project, NAME).sections)]
    assert changed == [False, False, False, True]
    with pytest.raises(Trouble, match="no section 'Nowhere'"):
        set_then(project, NAME, 0, "Nowhere")
    empty = add_section(quay, assets, NAME, "", after=0).project
    assert names(empty)[1] == ("Section", "end")
    with pytest.raises(Trouble, match="no clip"):
        whole_cut(quay, assets, "nothing")


def test_a_renamed_section_is_followed_in_every_action_and_in_reactions(quay: Project) -> None:
    exit_ = section(quay, 2).exits[0]
    project = with_section(quay, "Thrust", 0, exits=(replace(exit_, to=NAME, to_kind="action", section="Swing"),))
    reactions = (replace(quay.reactions[0], action=NAME, section="Swing"), *quay.reactions[1:])
    edit = rename_section(replace(project, reactions=reactions), NAME, 1, "Cut across")
    assert names(edit.project) == [("Wind-up", "Cut across"), ("Cut across", "Settle"), ("Settle", "end")]
    assert section(edit.project, 0, "Thrust").exits[0].section == "Cut across"
    assert edit.project.reactions[0].section == "Cut across"
    for bad in ("Settle", "end", " "):
        with pytest.raises(Trouble):
            rename_section(quay, NAME, 1, bad)


def test_order_entry_copies_and_removal_keep_the_flow_whole(quay: Project) -> None:
    moved = move_section(quay, NAME, 2, 0).project
    assert [n for n, _ in names(moved)] == ["Settle", "Wind-up", "Swing"]
    assert action(moved, NAME).entry == "Wind-up"
    assert move_section(moved, NAME, 0, 2).project == quay
    assert action(set_entry(quay, NAME, 1).project, NAME).entry == "Swing"
    copy = duplicate_section(quay, NAME, 1).project
    assert names(copy)[1:3] == [("Swing", "Settle"), ("Swing 2", "Settle")]
    gone = remove_section(quay, NAME, 1)
    assert names(gone.project) == [("Wind-up", "Settle"), ("Settle", "end")]


@given(tick=st.integers(1, 11))
def test_a_split_section_plays_as_the_whole_did_and_joins_again(quay: Project, assets: Assets, tick: int) -> None:
    edit = split_section(quay, assets, NAME, 1, tick)
    assert names(edit.project) == [
        ("Wind-up", "Swing"),
        ("Swing", "Swing 2"),
        ("Swing 2", "Settle"),
        ("Settle", "end"),
    ]
    assert inside(edit.project, assets)
    one, two = CompiledProject(quay, assets).action(NAME), CompiledProject(edit.project, assets).action(NAME)
    assert one is not None
    assert two is not None
    assert two.total == one.total
    assert np.allclose(two.way[0], one.way[0], atol=1e-5)
    strikes = [s for x in action(edit.project, NAME).sections for s in x.strikes]
    assert len(strikes) == 1
    assert bool(edit.notes) is (1 < tick < 5)
    joined = join_sections(edit.project, assets, NAME, 1).project
    assert names(joined) == names(quay)
    assert inside(joined, assets)
    both = CompiledProject(joined, assets).action(NAME)
    assert both is not None
    assert both.total == one.total
    assert len(section(joined, 1).events) == len(section(quay, 1).events)


def test_a_loop_split_goes_on_looping_through_both_halves(quay: Project, assets: Assets) -> None:
    project = set_then(quay, NAME, 1, "Swing").project
    split = split_section(project, assets, NAME, 1, 6).project
    assert names(split)[1:3] == [("Swing", "Swing 2"), ("Swing 2", "Swing")]
    with pytest.raises(Trouble, match="inside itself"):
        split_section(project, assets, NAME, 1, 12)


def test_the_second_half_of_a_split_cut_has_no_fade_of_its_own(quay: Project, assets: Assets) -> None:
    """A cut that fades in is split: it fades in once, and from the half before nothing has to be faded."""
    soft = tuple(replace(c, blend=5) for c in action(quay, "Low sweep").sections[1].cuts)
    project = with_section(quay, "Low sweep", 1, cuts=soft)
    split = split_cut(project, assets, "Low sweep", 1, 5).project
    assert [c.blend for c in action(split, "Low sweep").sections[1].cuts] == [5, 0]
    back = tuple(replace(c, blend=5, rate=c.rate) for c in soft)
    clips = tuple(replace(c, reverse=True) if c.name == soft[0].clip else c for c in project.clips)
    turned = replace(with_section(project, "Low sweep", 1, cuts=back), clips=clips)
    split = split_cut(turned, assets, "Low sweep", 1, 5).project
    assert [c.blend for c in action(split, "Low sweep").sections[1].cuts] == [5, 0]
