"""Drills: made from a take, changed, renamed and removed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from msgspec.structs import replace

from veergust.core.edit.names import free, typed
from veergust.core.edit.spans import Edit
from veergust.core.edit.stages import stage_named
from veergust.core.model import Drill, DrillRange, DrillStep, Expectation, Project, TakeLine
from veergust.core.play import Input, Record
from veergust.core.trouble import Trouble, named

LEAST = 30
"""A drill goes on for so many ticks after the last that is given or expected."""


def drill_of_take(
    project: Project, records: Sequence[Record], inputs: Sequence[Sequence[Input]], seed: int, stage: str = ""
) -> tuple[Edit, str]:
    """A drill of what was given in a take, which expects what came of it: each touch with its result, within a frame of
    when it was, each action that began, and where everybody ended. And its name.

    Raises:
        Trouble: nothing was pressed in the take, or it does not begin at its beginning.
    """
    given = steps_of(records, inputs)
    if not any(s.command or s.action for s in given):
        raise Trouble("nothing was pressed in this take", field="take", do="play something first")
    expect: list[Expectation] = []
    for at, record in enumerate(records):
        for f in record.fighters:
            before = {v.serial for v in records[at - 1].fighter(f.name).voices} if at else set()
            expect += [
                Expectation(fighter=f.name, tick=at, since=at, action=v.compiled.action.name)
                for v in f.live()
                if v.serial not in before
            ]
        expect += [
            Expectation(fighter=c.attacker, tick=at, since=at, contact=c.result, victim=c.victim)  # type: ignore[arg-type]
            for c in record.contacts
            if c.attacker in {f.name for f in record.fighters}
        ]
    last = len(records) - 1
    expect += [Expectation(fighter=f.name, tick=last, since=last, locomotion=f.locomotion[-1].state)
               for f in records[-1].fighters]  # fmt: skip
    name = free(f"{project.name} drill", {d.name for d in project.drills})
    made = Drill(
        name=name, ticks=len(records), seed=seed, steps=given, expect=tuple(expect), stage=stage_named(project, stage)
    )
    return Edit(replace(project, drills=(*project.drills, made)), f"New drill {name}"), name


def steps_of(records: Sequence[Record], inputs: Sequence[Sequence[Input]]) -> tuple[DrillStep, ...]:
    """What was given in a take. Raises ``Trouble`` when it does not begin at its beginning."""
    if not records or records[0].tick != 0:
        raise Trouble("the take has lost its beginning", field="take", do="start over, and keep it sooner")
    return tuple(_step(tick, one) for tick, row in enumerate(inputs) for one in row if not one.by_hand)


def keep_results(project: Project, came: Mapping[str, tuple[TakeLine, ...]]) -> Edit:
    """What drills came to, by their names, kept: later runs tell what is otherwise."""
    drills = tuple(replace(d, came=came.get(d.name, d.came)) for d in project.drills)
    return Edit(replace(project, drills=drills), f"{len(came)} drills kept as they went")


def _step(tick: int, given: Input) -> DrillStep:
    return DrillStep(
        tick=tick,
        fighter=given.fighter,
        command=given.command,
        action=given.action,
        section=given.section,
        press=given.press,
        axis=given.axis,
        value=given.value,
        parameter=given.parameter,
        number=given.number or 0.0,
    )


def set_drill(project: Project, name: str, words: str, /, **fields: Any) -> Edit:
    """A drill with other fields; a new name goes along where it is replayed.

    Raises:
        Trouble: there is none of that name, or another has the new one.
    """
    found = named(project.drills, name, "drill")
    if "name" in fields:
        fields["name"] = typed(fields["name"], name, {d.name for d in project.drills}, "drill")
    made = replace(found, **fields)
    drills = tuple(made if d is found else d for d in project.drills)
    fighters = tuple(replace(f, replay=made.name) if f.replay == name else f for f in project.stage.fighters)
    stage = project.stage if fighters == project.stage.fighters else replace(project.stage, fighters=fighters)
    return Edit(replace(project, drills=drills, stage=stage), f"Drill {made.name}: {words}")


def hold_over(project: Project, name: str, what: str, low: float, high: float) -> Edit:
    """A drill that must hold over a range of distances (m) or presses (ticks); none where ``high`` is below it."""
    found = named(project.drills, name, "drill")
    rest = tuple(r for r in found.over if r.what != what)
    step = 0.1 if what == "distance" else 1.0
    made = (*rest, DrillRange(what=what, low=low, high=high, step=step)) if high >= low else rest  # type: ignore[arg-type]
    return set_drill(project, name, f"over {what}" if high >= low else f"at one {what}", over=made)


def remove_drill(project: Project, name: str) -> Edit:
    """The project without a drill. Raises ``Trouble`` while somebody replays it."""
    named(project.drills, name, "drill")
    users = [f.name for f in project.stage.fighters if f.plays == "replays" and f.replay == name]
    if users:
        raise Trouble(f"{users[0]} replays it", field="drill", do="have that one do something else first")
    return Edit(replace(project, drills=tuple(d for d in project.drills if d.name != name)), f"Remove drill {name}")
