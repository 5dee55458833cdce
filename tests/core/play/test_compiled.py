"""Compiled actions: frames of the path, ticks of the sections, source times and travel agree with each other."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tools.made.edits import adding, replace, section, with_action, with_section
from tools.made.storm import storm

from veergust.core.model import Action, Cut, Project, Section
from veergust.core.motion import quat
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.action import CompiledAction
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.compiled.section import CompiledSection, cut_ticks

RATES = st.sampled_from([0.25, 0.5, 1.0, 1.25, 3.0])


def compiled(quay: Project, assets: Assets, *sections: Section) -> CompiledAction:
    made = CompiledProject(adding(quay, Action(name="Made", sections=sections)), assets).action("Made")
    assert made is not None
    return made


def test_frames_of_the_path_and_ticks_of_sections_are_each_other_s_inverse(build: CompiledProject) -> None:
    for action in build.project.actions:
        made = build.action(action.name)
        assert made is not None
        seen = [made.locate(f) for f in range(made.total)]
        assert seen == [(i, t) for _, i in made.starts() for t in range(made.sections[i].ticks)]
        for first, i in made.starts():
            assert made.start_of(i) == first
        assert made.locate(10**6) == seen[-1]


def test_the_path_follows_then_and_stops_where_it_comes_round(quay: Project, assets: Assets) -> None:
    a, b, c = (section(name=n, then=t) for n, t in (("A", "C"), ("B", "end"), ("C", "A")))
    made = compiled(quay, assets, a, b, c)
    assert [made.sections[i].section.name for i in made.path] == ["A", "C"]
    assert made.loops
    assert made.total == 24
    build = CompiledProject(
        with_action(adding(quay, Action(name="Made", sections=(a, b, c))), "Made", entry="B"), assets
    )
    other = build.action("Made")
    assert other is not None
    assert [other.sections[i].section.name for i in other.path] == ["B"]
    assert not other.loops


@given(cuts=st.lists(st.tuples(st.floats(0, 0.5), st.floats(0.02, 0.7), RATES, st.booleans()), min_size=1, max_size=4))
def test_cuts_fill_their_section_one_after_the_other(
    cuts: list[tuple[float, float, float, bool]], quay: Project, assets: Assets
) -> None:
    made = [Cut(clip="staff_sweep", start=s, end=s + d, rate=r, mirror=m) for s, d, r, m in cuts]
    part = compiled(quay, assets, section(name="A") if not made else Section(name="A", cuts=tuple(made))).sections[0]
    clip = next(c for c in quay.clips if c.name == "staff_sweep")
    lengths = [cut_ticks(c, clip, assets, 60) for c in made]
    assert part.ticks == sum(lengths)
    assert len(part.source) == len(part.pose.rotation) == len(part.place) == len(part.yaw) == part.ticks + 1
    at = 0
    for cut, ticks in zip(made, lengths):
        assert part.source[at] == pytest.approx(cut.start)
        step = (cut.end - cut.start) / ticks  # type: ignore[operator]
        assert np.allclose(np.diff(part.source[at : at + ticks]), step)
        at += ticks
    assert part.source[-1] == pytest.approx(made[-1].end)
    assert np.isfinite(part.pose.rotation).all()


@given(tick=st.integers(0, 12))
def test_a_pose_is_found_again_on_the_tick_that_shows_it(tick: int, build: CompiledProject) -> None:
    made = build.action("Low sweep")
    assert made is not None
    part = made.sections[1]
    assert part.tick_of_pose(float(part.source[tick]), min(tick, 11)) == tick
    assert part.tick_of_pose(-9.0, 3) == 0
    assert part.tick_of_pose(99.0, 3) == part.ticks


def test_travel_adds_up_over_sections_and_turns_with_the_body(
    build: CompiledProject, quay: Project, assets: Assets
) -> None:
    sweep = build.action("Low sweep")
    assert sweep is not None
    # Faded in, the first ticks' way depends on how long they are.
    sweep = CompiledProject(with_action(quay, "Low sweep", blend_in=0), assets).action("Low sweep")
    assert sweep is not None
    single = replace(quay.actions[0], sections=(section("staff_sweep", 1.1283333, name="All"),))
    cuts = (replace(single.sections[0].cuts[0], start=0.17, rate=1.25),)
    single = replace(single, name="Single", blend_in=0, sections=(replace(single.sections[0], cuts=cuts),))
    whole = CompiledProject(adding(quay, single), assets).action("Single")
    assert whole is not None
    assert whole.total == sweep.total
    for frame in range(47):
        assert sweep.travel_to(frame)[0] == pytest.approx(whole.travel_to(frame)[0], abs=2e-4)
        assert sweep.bodies[frame][:3, 3] == pytest.approx(sweep.travel_to(frame)[0])


def test_a_missing_clip_and_an_empty_section_still_have_ticks(quay: Project, assets: Assets) -> None:
    made = compiled(quay, assets, section("no such clip", 0.5, name="A", then="B"), Section(name="B"))
    assert [s.ticks for s in made.sections] == [30, 1]
    assert not made.sections[0].cuts[0].found
    assert np.allclose(made.sections[0].pose.rotation[3], assets.skeleton.rest_rotation)


def test_a_crossfade_goes_from_the_cut_before_played_on_to_the_new_one_and_moves_no_travel(
    quay: Project, assets: Assets
) -> None:
    one, two = Cut(clip="staff_sweep", start=0.2, end=0.6), Cut(clip="overhead", start=0.2, end=0.6)

    def part(*cuts: Cut, ease: str = "linear") -> CompiledSection:
        made = with_section(with_action(quay, "Low sweep", ease=ease), "Low sweep", 0, cuts=cuts)
        compiled = CompiledProject(made, assets).action("Low sweep")
        assert compiled is not None
        return compiled.sections[0]

    hard, soft = part(one, two), part(one, replace(two, blend=6))
    longer = part(replace(one, end=0.9))
    assert np.array_equal(hard.source, soft.source)
    assert np.array_equal(hard.place, soft.place)
    assert np.array_equal(hard.pose.rotation[:24], soft.pose.rotation[:24])
    assert np.array_equal(hard.pose.rotation[30:], soft.pose.rotation[30:])
    for i in range(6):
        tick, weight = 24 + i, (i + 1) / 7
        whole = quat.angle_between(longer.pose.rotation[tick], hard.pose.rotation[tick])
        from_old = quat.angle_between(longer.pose.rotation[tick], soft.pose.rotation[tick])
        assert np.allclose(from_old, weight * whole, atol=0.02)
    # Of one tick that tick is half of each.
    one_tick = part(one, replace(two, blend=1))
    whole = quat.angle_between(longer.pose.rotation[24], hard.pose.rotation[24])
    assert np.allclose(quat.angle_between(longer.pose.rotation[24], one_tick.pose.rotation[24]), whole / 2, atol=0.02)
    # Without it the figure pops; with it no joint jumps as far between two ticks.
    jump = quat.angle_between(hard.pose.rotation[24], hard.pose.rotation[23]).max()
    steps = quat.angle_between(soft.pose.rotation[24:31], soft.pose.rotation[23:30]).max()
    assert steps < 0.6 * jump
    assert np.array_equal(part(replace(one, blend=6), two).pose.rotation, hard.pose.rotation)


def test_sections_sampled_alike_share_their_joints_and_what_plays_needs_no_scipy(folder: Path) -> None:
    """Two hundred actions of the same clips fit in memory; SciPy alone would take a seventh of it."""
    script = """
import sys
from pathlib import Path
from msgspec.structs import replace
from veergust.core.files.assets import load_assets
from veergust.core.files.folder import open_project
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.study.facts import facts
folder = Path(sys.argv[1])
project = open_project(folder)
twin = replace(project.actions[0], name="Twin")
build = CompiledProject(replace(project, actions=(*project.actions, twin)), load_assets(project, folder)[0])
assert facts(build, "Low sweep").reach == facts(build, "Twin").reach
for one, two in zip(build.action("Low sweep").sections, build.action("Twin").sections):
    assert one.world is two.world
print([m for m in sys.modules if m.startswith("scipy")])
"""
    done = subprocess.run([sys.executable, "-c", script, str(folder)], capture_output=True, text=True, check=False)
    assert (done.stdout.strip(), done.stderr) == ("[]", "")


def test_what_a_renewed_book_takes_over_is_what_a_new_one_works_out(quay: Project, assets: Assets) -> None:
    build, shared = CompiledProject(quay, assets), 0
    for action in quay.actions:
        assert len(getattr(build.action(action.name), "bodies", ()))
    for edit in storm(quay, assets, 5, 150):
        old = set(map(id, build.project.actions))
        build = build.renew(edit.project)
        fresh = CompiledProject(edit.project, assets)
        for action in (a for a in edit.project.actions if id(a) not in old):
            ours, new = build.action(action.name), fresh.action(action.name)
            assert ours is not None
            assert new is not None
            shared += ours.along.bodies is not None
            assert (ours.path, ours.order, ours.open_frames) == (new.path, new.order, new.open_frames)
            for a, b in zip((*ours.way, ours.bodies), (*new.way, new.bodies)):
                assert np.array_equal(a, b)
    assert shared > 40
