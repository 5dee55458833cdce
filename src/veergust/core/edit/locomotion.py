"""Changing locomotion: its states and groups, the transitions between them, and its numbers."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from msgspec.structs import replace

from veergust.core.edit.spans import Edit
from veergust.core.model import (
    ANYWHERE,
    Action,
    Condition,
    Drill,
    Group,
    Layer,
    Locomotion,
    Project,
    State,
    Transition,
)
from veergust.core.play import Chart, items_of
from veergust.core.trouble import Trouble, Unknown, named

Names = Callable[[str], str]


def with_locomotion(project: Project, words: str, **fields: Any) -> Edit:
    """The project with other fields of its locomotion."""
    return Edit(replace(project, locomotion=replace(project.locomotion, **fields)), words)


def state_or_group(locomotion: Locomotion, name: str) -> State | Group:
    """A state or group by name. Raises ``Unknown``."""
    return named(items_of(locomotion), name, "state or group")


def _free(locomotion: Locomotion, name: str, old: str = "") -> str:
    """A name that a state or group may have. Raises ``Trouble``."""
    name = name.strip()
    if not name or name == ANYWHERE:
        raise Trouble("a state needs a name", field="name", do="type one")
    if name != old and name in {i.name for i in items_of(locomotion)}:
        raise Trouble(f"there is a state or group {name!r} already", field="name", do="choose another name")
    return name


def free_state_name(locomotion: Locomotion, wish: str) -> str:
    """``wish``, or with a number behind it where a state or group has it already."""
    taken = {i.name for i in items_of(locomotion)}
    name, n = wish, 2
    while name in taken:
        name, n = f"{wish} {n}", n + 1
    return name


def add_state(project: Project, state: State) -> Edit:
    """One state more; the first is where everybody begins. Raises ``Trouble`` for a name that is taken."""
    there = project.locomotion
    name = _free(there, state.name)
    entry = there.entry if there.states else name
    return with_locomotion(project, f"New state {name}", states=(*there.states, replace(state, name=name)), entry=entry)


def set_state(project: Project, name: str, words: str, **fields: Any) -> Edit:
    """A state with other fields."""
    found = state_or_group(project.locomotion, name)
    states = tuple(replace(s, **fields) if s is found else s for s in project.locomotion.states)
    return with_locomotion(project, f"{name}: {words}", states=states)


def add_group(project: Project, name: str, members: tuple[str, ...] = ()) -> Edit:
    """A group around states and groups that stand in one and the same group. Raises ``Trouble``."""
    there = project.locomotion
    name = _free(there, name)
    inside = {state_or_group(there, m).group for m in members}
    if len(inside) > 1:
        raise Trouble("they stand in different groups", field="group", do="choose states of one group")
    groups = (*there.groups, Group(name=name, group=inside.pop() if inside else ""))
    made = with_locomotion(project, "", groups=groups).project
    return Edit(_put(made, members, name), f"New group {name}")


def _put(project: Project, members: tuple[str, ...], group: str) -> Project:
    def put(item: Any) -> Any:
        return replace(item, group=group) if item.name in members else item

    there = project.locomotion
    made = replace(there, states=tuple(map(put, there.states)), groups=tuple(map(put, there.groups)))
    return replace(project, locomotion=made)


def put_in(project: Project, members: tuple[str, ...], group: str) -> Edit:
    """States and groups put into a group (an empty name: into none). Raises ``Trouble`` for a group within itself."""
    chart = Chart(project.locomotion)
    if group and group not in chart.groups:
        raise Unknown("group", group, chart.groups)
    for member in members:
        if member == group or member in chart.around.get(group, ()):
            raise Trouble(f"{member} would stand within itself", field="group", do="choose another group")
    where = group or "no group"
    return Edit(_put(project, members, group), f"{', '.join(members)}: into {where}")


def set_group(project: Project, name: str, words: str, **fields: Any) -> Edit:
    """A group with other fields."""
    found = state_or_group(project.locomotion, name)
    groups = tuple(replace(g, **fields) if g is found else g for g in project.locomotion.groups)
    return with_locomotion(project, f"{name}: {words}", groups=groups)


def rename(project: Project, old: str, new: str) -> Edit:
    """A state or group under another name; all that names it follows. Raises ``Trouble`` when the name is taken."""
    state_or_group(project.locomotion, old)
    new = _free(project.locomotion, new, old)

    def follow(name: str) -> str:
        return new if name == old else name

    changed = replace(
        project,
        locomotion=_renamed(project.locomotion, follow),
        actions=tuple(_action(a, follow) for a in project.actions),
        layers=tuple(_layer(y, follow) for y in project.layers),
        drills=tuple(_drill(d, follow) for d in project.drills),
    )
    return Edit(changed, f"{old}: renamed {new}")


def _renamed(there: Locomotion, follow: Names) -> Locomotion:
    return replace(
        there,
        entry=follow(there.entry),
        states=tuple(replace(s, name=follow(s.name), group=follow(s.group)) for s in there.states),
        groups=tuple(
            replace(
                g,
                name=follow(g.name),
                group=follow(g.group),
                default=follow(g.default),
                choices=tuple(replace(c, state=follow(c.state)) for c in g.choices),
            )
            for g in there.groups
        ),
        transitions=tuple(replace(t, start=follow(t.start), to=follow(t.to)) for t in there.transitions),
        feet=replace(there.feet, states=tuple(map(follow, there.feet.states))),
        look=replace(there.look, states=tuple(map(follow, there.look.states))),
    )


def _action(action: Action, follow: Names) -> Action:
    states = tuple(map(follow, action.start.states))
    return action if states == action.start.states else replace(action, start=replace(action.start, states=states))


def _layer(layer: Layer, follow: Names) -> Layer:
    return replace(layer, scope=tuple(replace(row, state=follow(row.state)) for row in layer.scope))


def _drill(drill: Drill, follow: Names) -> Drill:
    expect = tuple(replace(e, locomotion=follow(e.locomotion)) for e in drill.expect)
    return drill if expect == drill.expect else replace(drill, expect=expect)


def remove(project: Project, name: str) -> Edit:
    """The project without a state, or without a group, whose members then stand where it stood.

    Transitions from and to it go with it, and what else of locomotion named it no longer does.
    """
    there = project.locomotion
    found = state_or_group(there, name)
    gone = [t for t in there.transitions if name in (t.start, t.to)]
    if isinstance(found, Group):
        members = tuple(i.name for i in items_of(there) if i.group == name)
        project = _put(project, members, found.group)
        there = project.locomotion
    states = tuple(s for s in there.states if s.name != name)
    made = replace(
        there,
        states=states,
        groups=tuple(
            replace(
                g,
                default="" if g.default == name else g.default,
                choices=tuple(c for c in g.choices if c.state != name),
            )
            for g in there.groups
            if g.name != name
        ),
        transitions=tuple(t for t in there.transitions if t not in gone),
        entry=there.entry if there.entry != name else (states[0].name if states else ""),
        feet=replace(there.feet, states=tuple(s for s in there.feet.states if s != name)),
        look=replace(there.look, states=tuple(s for s in there.look.states if s != name)),
    )
    notes = (f"{len(gone)} transitions went with {name}",) if gone else ()
    return Edit(replace(project, locomotion=made), f"Remove {name}", notes)


def add_transition(project: Project, start: str, to: str, conditions: tuple[Condition, ...] | None = None) -> Edit:
    """A transition, asked after those there are of its start. Raises ``Unknown`` for an end that is not there."""
    there = project.locomotion
    for name in (start, to):
        if name != ANYWHERE:
            state_or_group(there, name)
    if to == ANYWHERE:
        raise Trouble("a transition leads somewhere", field="to", do="choose a state or a group")
    when = (Condition(test="section_ended"),) if conditions is None else conditions
    made = Transition(start=start, to=to, conditions=when)
    return with_locomotion(project, f"New transition {words_of(made)}", transitions=(*there.transitions, made))


def words_of(transition: Transition) -> str:
    """Where a transition leads from and to, in words."""
    return f"{'anywhere' if transition.start == ANYWHERE else transition.start} → {transition.to}"


def set_transition(project: Project, place: int, words: str, **fields: Any) -> Edit:
    """A transition with other fields."""
    there = project.locomotion.transitions
    made = replace(_at(project, place), **fields)
    return with_locomotion(
        project,
        f"{words_of(made)}: {words}",
        transitions=tuple(made if i == place else t for i, t in enumerate(there)),
    )


def _at(project: Project, place: int) -> Transition:
    there = project.locomotion.transitions
    if not 0 <= place < len(there):
        raise Trouble("there is no such transition any more", field="transition", do="choose another")
    return there[place]


def remove_transition(project: Project, place: int) -> Edit:
    """The project without a transition."""
    gone = _at(project, place)
    left = tuple(t for i, t in enumerate(project.locomotion.transitions) if i != place)
    return with_locomotion(project, f"Remove transition {words_of(gone)}", transitions=left)


def ask_sooner(project: Project, place: int, by: int) -> tuple[Edit, int]:
    """A transition asked so many places sooner (later, below 0) among those of its start; and its place then."""
    moved = _at(project, place)
    there = list(project.locomotion.transitions)
    own = [i for i, t in enumerate(there) if t.start == moved.start]
    at = own.index(place)
    to = min(max(at - by, 0), len(own) - 1)
    order = [there[i] for i in own]
    order.insert(to, order.pop(at))
    for i, t in zip(own, order):
        there[i] = t
    words = f"{words_of(moved)}: asked {'first' if to == 0 else f'as number {to + 1}'}"
    return with_locomotion(project, words, transitions=tuple(there)), own[to]
