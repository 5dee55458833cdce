"""The sheet's geometry: everything has its place, can be told apart, and is found where it is painted."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PySide6.QtCore import QPointF
from tools.made.edits import replace, with_section

from tests.desk.conftest import STRIKE
from veergust.core.edit.spans import SpanRef
from veergust.core.kinds.spans import SPANS
from veergust.core.model import Event, Exit, Gate, Project, Strike
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.action import CompiledAction
from veergust.core.play.compiled.project import CompiledProject
from veergust.desk.sheet.layout import COLUMNS, FOLDED, GRAB, ROW, STANDS, SheetLayout, column_of


@pytest.fixture
def sweep(build: CompiledProject) -> CompiledAction:
    compiled = build.action("Low sweep")
    assert compiled is not None
    return compiled


@given(width=st.floats(500, 2400), fold=st.sampled_from([1, 2, 4, 8]))
def test_columns_fill_the_width_side_by_side(width: float, fold: int, sweep: CompiledAction) -> None:
    layout = SheetLayout(sweep, width, fold)
    at = 0.0
    for name in COLUMNS:
        left, wide = layout.columns[name]
        assert left == pytest.approx(at)
        if name == "all":  # nothing stands for the whole action
            assert wide == 0.0
            continue
        assert wide >= 20
        assert layout.column_at(left + wide / 2) == name
        at += wide
    assert at == pytest.approx(width)


def test_a_column_with_nothing_in_it_gives_its_room_to_the_others(
    build: CompiledProject, sweep: CompiledAction
) -> None:
    fall = build.action("Fall")
    assert fall is not None
    full, bare = SheetLayout(sweep, 700).columns, SheetLayout(fall, 700).columns
    assert bare["exits"][1] < full["exits"][1]
    assert bare["events"][1] > full["events"][1]


@pytest.mark.parametrize("fold", [1, 2, 4, 8])
def test_every_span_is_found_where_it_lies(fold: int, sweep: CompiledAction) -> None:
    layout = SheetLayout(sweep, 640, fold)
    for placed in layout.placed:
        hit = layout.hit(placed.rect.center())
        assert hit.placed is not None
        if placed.rect.height() > 2 * GRAB + 1:
            assert hit.placed.ref == placed.ref
            assert hit.part == "body"
        assert hit.column == column_of(placed.ref.kind)


def test_edges_are_found_just_inside_and_just_outside(sweep: CompiledAction) -> None:
    layout = SheetLayout(sweep, 640)
    rect = layout.find(STRIKE).rect  # type: ignore[union-attr]
    for off in (-3.0, 0.0, 3.0):
        assert layout.hit(QPointF(rect.center().x(), rect.top() + off)).part == "start"
        assert layout.hit(QPointF(rect.center().x(), rect.bottom() + off)).part == "end"
    assert layout.hit(QPointF(rect.center().x(), rect.bottom() + GRAB + 3)).placed is None


def test_rows_and_frames_are_each_other_s_inverse(sweep: CompiledAction) -> None:
    for fold in (1, 2, 4, 8):
        layout = SheetLayout(sweep, 640, fold)
        for frame in range(sweep.total):
            assert layout.frame_at(layout.y(frame) + 0.4 * layout.pitch) == frame
        assert layout.height == pytest.approx(sweep.total * ROW / fold)


@given(spans=st.lists(st.tuples(st.integers(0, 10), st.integers(1, 6)), min_size=1, max_size=6))
def test_spans_that_overlap_never_cover_each_other(spans: list[tuple[int, int]], quay: Project, assets: Assets) -> None:
    exits = tuple(Exit(start=s, end=min(s + n, 12), command="light", to="Thrust") for s, n in spans)
    compiled = CompiledProject(with_section(quay, "Low sweep", 1, exits=exits), assets).action("Low sweep")
    layout = SheetLayout(compiled, 640)
    rects = [p.rect for p in layout.placed if p.ref.kind == "exits" and p.ref.section == 1]
    assert len(rects) == len(spans)
    left, width = layout.columns["exits"]
    for i, a in enumerate(rects):
        assert left <= a.left()
        assert a.right() <= left + width
        for b in rects[i + 1 :]:
            assert not a.adjusted(0.5, 0.5, -0.5, -0.5).intersects(b)


@pytest.mark.parametrize("fold", [1, 4, 8])
def test_events_close_together_stand_side_by_side(fold: int, quay: Project, assets: Assets) -> None:
    events = tuple(Event(tick=t, name=f"e{t}") for t in (2, 2, 3, 5))
    compiled = CompiledProject(with_section(quay, "Low sweep", 1, events=events), assets).action("Low sweep")
    layout = SheetLayout(compiled, 700, fold)
    rects = [p.rect for p in layout.placed if p.ref.kind == "events" and p.ref.section == 1]
    for i, a in enumerate(rects):
        for b in rects[i + 1 :]:
            assert not a.adjusted(0.2, 0.2, -0.2, -0.2).intersects(b.adjusted(0.2, 0.2, -0.2, -0.2))


def test_breaks_keep_to_a_stave_of_their_own(sweep: CompiledAction) -> None:
    layout = SheetLayout(sweep, 640)
    breaks = [p.rect for p in layout.placed if p.role == "break"]
    others = [p.rect for p in layout.placed if p.ref.kind == "exits" and p.role != "break"]
    assert len(breaks) == 3
    assert max(r.right() for r in others) <= min(r.left() for r in breaks)


def test_spans_past_the_end_of_their_section_are_still_there(quay: Project, assets: Assets) -> None:
    strike = replace(quay.actions[0].sections[1].strikes[0], start=10, end=30)
    compiled = CompiledProject(with_section(quay, "Low sweep", 1, strikes=(strike,)), assets).action("Low sweep")
    placed = SheetLayout(compiled, 640).find(STRIKE)
    assert placed is not None
    assert placed.rect.top() == 18 * ROW
    assert placed.rect.height() == 20 * ROW


def test_every_kind_has_its_role() -> None:
    assert SPANS["exits"].role(Exit(start=0, end=1, kind="cancel")) == "cancel"
    assert SPANS["gates"].role(Gate(start=0, end=1)) == "gate"
    assert SPANS["strikes"].role(Strike(start=0, end=1)) == "strike"
    assert {SPANS[k].role(None) for k in STANDS if k != "exits"} == {"strike", "shield", "hold", "drive", "event"}


def test_no_action_is_an_empty_sheet() -> None:
    layout = SheetLayout(None, 640)
    assert (layout.placed, layout.height) == ([], 0.0)
    assert layout.hit(QPointF(100, 100)).placed is None
    assert layout.find(SpanRef("x", 0, "strikes", 0)) is None


def test_a_folded_section_is_one_line_and_the_rest_keeps_its_places(sweep: CompiledAction) -> None:
    whole, shut = SheetLayout(sweep, 640), SheetLayout(sweep, 640, folded={"Swing"})
    first, swing = sweep.starts()[1]
    ticks = sweep.sections[swing].ticks
    gone = ticks * ROW - FOLDED
    assert shut.height == pytest.approx(whole.height - gone)
    assert {p.ref.section for p in shut.placed} == {p.ref.section for p in whole.placed} - {swing}
    for placed in shut.placed:
        there = whole.find(placed.ref)
        assert there is not None
        down = gone if placed.ref.section > swing else 0.0
        assert placed.rect == there.rect.translated(0, -down)
    line = shut.y(first) + FOLDED / 2
    for x in (20.0, 300.0, 600.0):
        hit = shut.hit(QPointF(x, line))
        assert (hit.placed, hit.frame, hit.column) == (None, first, "section")
    for frame in range(sweep.total):
        inside = first <= frame < first + ticks
        assert shut.row_top(frame) == pytest.approx(shut.y(first) if inside else shut.y(frame))
        assert shut.tall(frame) == (FOLDED if inside else ROW)
        assert shut.frame_at(shut.row_top(frame) + 1.0) == (first if inside else frame)
        assert inside or shut.line_at(shut.y(frame) + 4.0) == frame
