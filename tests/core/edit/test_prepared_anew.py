"""A clip prepared anew under what plays it: edges stay on their poses, by joints of the source that are looked at."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from tools.made.edits import adding, section

from veergust.core.edit.actions import answers, answers_in_words, set_answers
from veergust.core.edit.alternates import keep
from veergust.core.edit.preparing import prepare_clip
from veergust.core.model import Action, Cut, Event, Exit, Hold, Pin, Project, Reaction, Section, Strike
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.trouble import Trouble


def source_at(project: Project, assets: Assets, name: str, tick: int) -> float:
    """The source time a tick of an action's only section shows."""
    compiled = CompiledProject(project, assets).action(name)
    assert compiled is not None
    return float(compiled.sections[0].source[tick])


@settings(max_examples=25, deadline=None)
@given(
    a=st.integers(6, 24), much=st.integers(6, 20), rate=st.sampled_from([0.5, 0.75, 1.5, 1.7, 2.0]),
    second=st.floats(0.6, 1.1),
)  # fmt: skip
def test_every_pinned_edge_stays_on_its_pose_at_any_rate(
    quay: Project, assets: Assets, a: int, much: int, rate: float, second: float
) -> None:
    """In each of two actions that play the clip, one of them with an out of its own; and in a version kept of one."""
    spans = Section(
        name="One", cuts=(Cut(clip="staff_sweep", end=0.8),), strikes=(Strike(start=a, end=a + much),),
        exits=(Exit(start=a, end=a + much, kind="cancel", command="roll", to_kind="ground"),),
        holds=(Hold(start=a, end=a + much, start_pin=Pin(to="frame")),), events=(Event(tick=a, name="x", kind="message"),),
    )  # fmt: skip
    two = replace(spans, cuts=(replace(spans.cuts[0], end=second),))
    project = adding(replace(quay, actions=()), Action(name="A", sections=(spans,)), Action(name="B", sections=(two,)))
    project = keep(project, "A", "later").project
    edit = prepare_clip(project, assets, "staff_sweep", rate=rate)
    step = 1.0 / 60.0 * rate
    for before, after in zip(project.actions, edit.project.actions):
        old, new = before.sections[0], after.sections[0]
        assert new.cuts == old.cuts
        for kind in ("strikes", "exits"):
            for x, y in zip(getattr(old, kind), getattr(new, kind)):
                for edge in ("start", "end"):
                    was = source_at(project, assets, before.name, getattr(x, edge))
                    now = source_at(edit.project, assets, before.name, getattr(y, edge))
                    assert abs(was - now) <= step * 0.76 + 1e-9, (kind, edge)
        was, now = (
            source_at(p, assets, before.name, s.events[0].tick) for p, s in ((project, old), (edit.project, new))
        )
        assert abs(was - now) <= step * 1.01
        # One that is pinned to the frame keeps it, where the section is long enough.
        ticks = round(float(np.diff([0.0, old.cuts[0].end or 0.0])[0]) / rate * 60)
        assert new.holds[0].start == min(a, ticks - 1)
        kept = [k.action.sections[0].strikes for k in after.kept]
        assert kept in ([], [new.strikes])
    assert "of 2 actions went with their poses" in edit.words
    back = prepare_clip(edit.project, assets, "staff_sweep", rate=1.0).project
    for before, after in zip(project.actions, back.actions):
        assert after.sections[0].strikes[0].start == before.sections[0].strikes[0].start


def test_what_gave_way_to_a_trim_is_told_by_its_action(quay: Project, assets: Assets) -> None:
    open_end = Section(name="One", cuts=(Cut(clip="staff_sweep"),), strikes=(Strike(start=40, end=60, name="Late"),))
    project = adding(replace(quay, actions=()), Action(name="A", sections=(open_end,)))
    edit = prepare_clip(project, assets, "staff_sweep", "out", end=0.5)
    assert edit.notes
    assert all(word in edit.notes[0] for word in ("A, One", "Late opens", "Late closes"))
    strike = edit.project.actions[0].sections[0].strikes[0]
    assert 0 <= strike.start < strike.end <= 30
    # What has its own in and out is not moved by a trim.
    own = adding(replace(quay, actions=()), Action(name="B", sections=(section("staff_sweep", 1.0),)))
    assert prepare_clip(own, assets, "staff_sweep", "out", end=0.9).project.actions == own.actions


ROWS: dict[str, tuple[tuple[Reaction, ...], str | None]] = {
    "none": ((), ""),
    "any": ((Reaction(action="A"),), "any"),
    "left": ((Reaction(action="A", side="left"),), "left"),
    "guarded": ((Reaction(action="A", situation="guarding"),), "guarding"),
    "last": ((Reaction(action="A", situation="last"),), "last"),
    "light only": ((Reaction(action="A", strength="light"),), None),
    "with a section": ((Reaction(action="A", section="One"),), None),
    "in the air only": ((Reaction(action="A", situation="air"),), "air"),
    "a broken guard": ((Reaction(action="A", situation="guard broken"),), "guard broken"),
    "on the head only": ((Reaction(action="A", region="head"),), None),
    "near only": ((Reaction(action="A", far=1.0),), None),
    "five": (tuple(Reaction(action="A", side=s) for s in ("front", "back", "left", "right", "any")), None),
}


@pytest.mark.parametrize("which", ROWS)
def test_what_an_action_answers_is_told_whole_and_never_taken_away(which: str, quay: Project) -> None:
    rows, wanted = ROWS[which]
    other = Reaction(action="B", side="back")
    project = replace(adding(replace(quay, actions=()), Action(name="A"), Action(name="B")), reactions=(*rows, other))
    assert answers(project, "A") == wanted
    words = answers_in_words(project, "A")
    assert words.count(";") == max(len(rows) - 1, 0)
    assert "light" in words or which != "light only"
    if wanted is None:
        with pytest.raises(Trouble, match="kept as they are"):
            set_answers(project, "A", "any")
        return
    made: Any = set_answers(project, "A", "front").project
    assert answers(made, "A") == "front"
    assert other in made.reactions
