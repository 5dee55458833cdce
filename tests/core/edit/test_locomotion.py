"""Charts stay whole however they are changed, and what names a thing follows it."""

from __future__ import annotations

import msgspec
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace
from tools.made.charts import charts
from tools.made.edits import with_action, with_section

from veergust.core.edit.actions import remove_action, rename_action
from veergust.core.edit.locomotion import (
    add_group,
    add_state,
    add_transition,
    ask_sooner,
    put_in,
    remove,
    remove_transition,
    rename,
    set_transition,
)
from veergust.core.edit.parameters import add_parameter, remove_parameter, rename_parameter, set_parameter
from veergust.core.files.bounds import check_bounds
from veergust.core.model import (
    ANYWHERE,
    Condition,
    Drill,
    DrillStep,
    Ending,
    Event,
    Group,
    Locomotion,
    Outcome,
    Parameter,
    Project,
    Reaction,
    Setting,
    State,
    Strike,
    Thrown,
    Transition,
)
from veergust.core.trouble import Trouble


def of(locomotion: Locomotion) -> Project:
    return Project(name="made", locomotion=locomotion)


def names(locomotion: Locomotion) -> list[str]:
    return [*(s.name for s in locomotion.states), *(g.name for g in locomotion.groups)]


def worded(project: Project, old: str, new: str) -> Project:
    """A project as the words of its files would be with every ``old`` another: each whole name, and nothing else."""
    words = msgspec.json.encode(project).decode().replace(f'"{old}"', f'"{new}"')
    made = msgspec.json.decode(words, type=Project)
    # What it is stays, whatever it is called.
    actions = tuple(replace(a, identity=old) if a.name == new else a for a in made.actions)
    return replace(made, actions=actions)


@given(chart=charts(), data=st.data())
def test_whatever_is_done_to_a_chart_all_it_names_is_there(chart: Locomotion, data: st.DataObject) -> None:
    project = of(chart)
    for _ in range(data.draw(st.integers(1, 6))):
        there = names(project.locomotion)
        one, other = data.draw(st.sampled_from(there)), data.draw(st.sampled_from(there))
        places = len(project.locomotion.transitions)
        deed = data.draw(st.sampled_from(["remove", "rename", "put", "group", "state", "join", "sooner", "cut"]))
        try:
            if deed == "remove" and len(project.locomotion.states) > 1:
                project = remove(project, one).project
            elif deed == "rename":
                project = rename(project, one, data.draw(st.sampled_from(["new", "*", "", other]))).project
            elif deed == "put":
                project = put_in(project, (one,), other).project
            elif deed == "group":
                project = add_group(project, f"around {one}", (one,)).project
            elif deed == "state":
                project = add_state(project, State(name=f"more {len(there)}")).project
            elif deed == "join":
                project = add_transition(project, data.draw(st.sampled_from([one, ANYWHERE])), other).project
            elif deed == "sooner" and places:
                project = ask_sooner(project, data.draw(st.integers(0, places - 1)), 1)[0].project
            elif deed == "cut" and places:
                project = remove_transition(project, data.draw(st.integers(0, places - 1))).project
        except Trouble:
            pass  # said in words, and nothing done
        made = project.locomotion
        known = set(names(made))
        assert len(known) == len(names(made))
        assert {t.start for t in made.transitions} | {t.to for t in made.transitions} <= known | {ANYWHERE}
        assert {*(s.group for s in made.states), *(g.group for g in made.groups)} <= {g.name for g in made.groups} | {
            ""
        }
        assert {c.state for g in made.groups for c in g.choices} | {g.default for g in made.groups} <= known | {""}
        check_bounds(project, "made", lambda action: action.name)


@given(chart=charts(), data=st.data())
def test_a_renamed_chart_is_the_same_chart(chart: Locomotion, data: st.DataObject) -> None:
    old = data.draw(st.sampled_from(names(chart)))
    made = rename(of(chart), old, "zz new").project
    assert made == worded(of(chart), old, "zz new")
    assert rename(made, "zz new", old).project == of(chart)


def test_transitions_are_asked_in_another_order_among_those_of_their_start() -> None:
    states = tuple(State(name=n) for n in "abc")
    there = tuple(Transition(start=s, to=t) for s, t in ("ab", "bc", "ac", "ba", "aa"))
    project = of(Locomotion(states=states, transitions=there))
    edit, to = ask_sooner(project, 4, 1)
    assert [(t.start + t.to) for t in edit.project.locomotion.transitions] == ["ab", "bc", "aa", "ba", "ac"]
    assert to == 2
    edit, to = ask_sooner(edit.project, 0, -5)
    assert [(t.start + t.to) for t in edit.project.locomotion.transitions] == ["aa", "bc", "ac", "ba", "ab"]
    assert to == 4


def test_a_group_keeps_its_members_and_gives_them_back() -> None:
    project = of(Locomotion(states=(State(name="a"), State(name="b")), groups=(Group(name="all"),)))
    project = put_in(project, ("a", "b"), "all").project
    project = add_group(project, "inner", ("a",)).project
    assert {s.name: s.group for s in project.locomotion.states} == {"a": "inner", "b": "all"}
    with pytest.raises(Trouble, match="within itself"):
        put_in(project, ("all",), "inner")
    with pytest.raises(Trouble, match="different groups"):
        add_group(project, "no", ("a", "b"))
    left = remove(project, "inner").project.locomotion
    assert {s.name: s.group for s in left.states} == {"a": "all", "b": "all"}


@pytest.mark.parametrize("name", ["", "  ", "*", "b"])
def test_a_name_that_cannot_be_is_refused(name: str) -> None:
    project = of(Locomotion(states=(State(name="a"), State(name="b"))))
    with pytest.raises(Trouble):
        rename(project, "a", name)
    with pytest.raises(Trouble):
        set_transition(project, 3, "gone", ticks=1)


# Parameters


def used(quay: Project) -> Project:
    """The demo with a parameter that everything sets or asks for."""
    asks = Condition(test="parameter", name="tired", op=">", value=0.5)
    there = quay.locomotion
    made = replace(
        there,
        parameters=(Parameter(name="tired", high=2.0),),
        transitions=(*there.transitions, Transition(start="idle", to="walk", conditions=(asks,))),
        groups=(*there.groups, Group(name="by mood", enters="parameter", parameter="tired")),
        states=(replace(there.states[1], over=("tired",)), *there.states[:1], *there.states[2:]),
    )
    project = replace(quay, locomotion=made)
    sweep = "Low sweep"
    project = with_action(project, sweep, on_broken=Ending(parameters=(Setting(setting="tired", value=1.0),)))
    runs = (Outcome(kind="parameter", name="tired"),)
    touches = (Strike(start=0, end=2, runs=runs),)
    project = with_section(project, sweep, 0, events=(Event(tick=1, name="tired", kind="parameter"),), strikes=touches)
    thing = Thrown(name="ball", strike=replace(touches[0], name="ball"))
    project = replace(project, thrown=(thing,), reactions=(Reaction(action="Reel front", conditions=(asks,)),))
    steps = (DrillStep(tick=3, fighter="Ossa Renn", parameter="tired"),)
    return replace(project, drills=(*project.drills, Drill(name="more", ticks=9, steps=steps)))


def test_a_parameter_is_renamed_wherever_it_is_set_or_asked_for(quay: Project) -> None:
    project = used(quay)
    made = rename_parameter(project, "tired", "worn").project
    assert made == worded(project, "tired", "worn")
    with pytest.raises(Trouble, match="use 'worn'"):
        remove_parameter(made, "worn")


def test_a_parameter_keeps_within_its_range_and_no_two_have_one_name(quay: Project) -> None:
    project = add_parameter(quay, Parameter(name=" mood ")).project
    assert [p.name for p in project.locomotion.parameters] == ["mood"]
    for name in ("mood", "speed", ""):
        with pytest.raises(Trouble):
            add_parameter(project, Parameter(name=name))
    project = set_parameter(project, "mood", "higher", low=2.0, high=3.0).project
    assert project.locomotion.parameters[0].default == 2.0
    with pytest.raises(Trouble, match="before it begins"):
        set_parameter(project, "mood", "turned about", high=1.0)
    assert remove_parameter(project, "mood").project.locomotion.parameters == ()


# Actions that states run and conditions ask for


def test_states_and_conditions_follow_their_action(quay: Project) -> None:
    asks = Transition(start="idle", to="walk", conditions=(Condition(test="plays", name="Plank slide"),))
    there = quay.locomotion
    project = replace(quay, locomotion=replace(there, transitions=(*there.transitions, asks)))
    assert rename_action(project, "Plank slide", "Skid").project == worded(project, "Plank slide", "Skid")
    instead = remove_action(project, "Plank slide", "Thrust").project.locomotion
    assert "Thrust" in [s.action for s in instead.states]
    assert instead.transitions[-1].conditions[0].name == "Thrust"
    alone = remove_action(project, "Plank slide").project.locomotion
    assert not any(s.action for s in alone.states)


def test_only_drills_that_name_a_removed_action_go_with_it(quay: Project) -> None:
    steps = (DrillStep(tick=3, fighter="Ossa Renn", action="Thrust"),)
    project = replace(quay, drills=(*quay.drills, Drill(name="of its own", ticks=9, steps=steps)))
    left = remove_action(project, "Thrust").project
    assert "of its own" not in {d.name for d in left.drills}
    kept = {d.name for d in quay.drills if not any("Thrust" in (s.action,) for s in d.steps)
            and not any(e.action == "Thrust" for e in d.expect)}  # fmt: skip
    assert kept
    assert {d.name for d in left.drills} == kept
