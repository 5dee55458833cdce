"""Parameters of locomotion: made, changed, and renamed wherever they are set or asked for."""

from __future__ import annotations

from typing import Any, TypeVar

import msgspec
from msgspec.structs import replace

from veergust.core.edit.alternates import throughout
from veergust.core.edit.locomotion import with_locomotion
from veergust.core.edit.spans import Edit
from veergust.core.kinds import MEASURES, SPANS
from veergust.core.model import Action, Condition, Event, Outcome, Parameter, Project, Setting
from veergust.core.study import uses_of
from veergust.core.trouble import Trouble, named

T = TypeVar("T")


def _free(project: Project, name: str, old: str = "") -> str:
    name = name.strip()
    if not name:
        raise Trouble("a parameter needs a name", field="name", do="type one")
    if name in MEASURES:
        raise Trouble(f"{name!r} is what is measured of the body", field="name", do="choose another name")
    if name != old and name in {p.name for p in project.locomotion.parameters}:
        raise Trouble(f"there is a parameter {name!r} already", field="name", do="choose another name")
    return name


def add_parameter(project: Project, parameter: Parameter) -> Edit:
    """One parameter more. Raises ``Trouble`` for a name that is taken."""
    name = _free(project, parameter.name)
    there = (*project.locomotion.parameters, replace(parameter, name=name))
    return with_locomotion(project, f"New parameter {name}", parameters=there)


def set_parameter(project: Project, name: str, words: str, **fields: Any) -> Edit:
    """A parameter with other fields. Raises ``Trouble`` for a range that ends before it begins."""
    made = replace(named(project.locomotion.parameters, name, "parameter"), **fields)
    if made.high < made.low:
        raise Trouble("its range would end before it begins", field="range", do="put the low end below the high one")
    default = made.default if made.kind == "momentary" else min(max(made.default, made.low), made.high)
    made = replace(made, default=default)
    there = tuple(made if p.name == name else p for p in project.locomotion.parameters)
    return with_locomotion(project, f"{name}: {words}", parameters=there)


def remove_parameter(project: Project, name: str) -> Edit:
    """The project without a parameter. Raises ``Trouble`` while it is set or asked for."""
    named(project.locomotion.parameters, name, "parameter")
    found = uses_of(project, name)
    if found.sets or found.asks:
        users = ", ".join((*found.sets, *found.asks)[:4])
        raise Trouble(f"{users} use {name!r}", field="parameter", do="take it out there first")
    left = tuple(p for p in project.locomotion.parameters if p.name != name)
    return with_locomotion(project, f"Remove parameter {name}", parameters=left)


def rename_parameter(project: Project, old: str, new: str) -> Edit:
    """A parameter under another name, wherever it is set or asked for. Raises ``Trouble`` when the name is taken."""
    new = _free(project, new, old)

    def renamed(value: Any) -> Any:
        if isinstance(value, Condition):
            return replace(value, name=new) if (value.test, value.name) == ("parameter", old) else value
        if isinstance(value, Setting):
            return replace(value, setting=new) if value.setting == old else value
        if isinstance(value, Event | Outcome) and value.kind == "parameter":
            return replace(value, name=new) if value.name == old else value
        return value

    def action(a: Action) -> Action:
        # Only what starts and endings set are parameters; settings of holds are the character's own.
        ends = ("on_start", "on_completed", "on_cancelled", "on_broken")
        changed = {name: through(getattr(a, name), renamed) for name in ends}
        sections = tuple(replace(s, **{kind: through(getattr(s, kind), renamed) for kind in SPANS}) for s in a.sections)
        made = replace(
            a, start=through(a.start, renamed), exits=through(a.exits, renamed), sections=sections, **changed
        )
        return a if made == a else made

    there = project.locomotion
    locomotion = replace(
        there,
        parameters=tuple(replace(p, name=new) if p.name == old else p for p in there.parameters),
        transitions=through(there.transitions, renamed),
        groups=tuple(replace(g, parameter=new) if g.parameter == old else g for g in there.groups),
        states=tuple(replace(s, over=tuple(new if o == old else o for o in s.over)) for s in there.states),
    )
    drills = tuple(
        replace(d, steps=tuple(replace(s, parameter=new) if s.parameter == old else s for s in d.steps))
        for d in project.drills
    )
    actions = tuple(throughout(a, action) for a in project.actions)
    layers = tuple(replace(y, by=new) if y.by == old else y for y in project.layers)
    rest = {field: through(getattr(project, field), renamed) for field in ("reactions", "thrown")}
    changed = replace(project, locomotion=locomotion, actions=actions, drills=drills, layers=layers, **rest)
    return Edit(changed, f"{old}: renamed {new}")


def through(value: T, change: Any) -> T:
    """A record with ``change`` made to every record in it, the inner ones first; itself where nothing is changed."""
    if isinstance(value, tuple):
        made = tuple(through(v, change) for v in value)
        return value if all(a is b for a, b in zip(made, value)) else made  # type: ignore[return-value]
    if isinstance(value, msgspec.Struct):
        fields = {f: through(getattr(value, f), change) for f in value.__struct_fields__}
        fields = {f: v for f, v in fields.items() if v is not getattr(value, f)}
        return change(replace(value, **fields) if fields else value)  # type: ignore[no-any-return]
    return value
