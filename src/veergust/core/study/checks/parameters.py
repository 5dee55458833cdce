"""Parameters of locomotion: set by somebody, asked for by somebody, and for what they can be."""

from __future__ import annotations

from collections.abc import Iterator

from veergust.core.kinds import MEASURES, Finding, Ref
from veergust.core.model import Parameter
from veergust.core.play import CompiledProject
from veergust.core.study.checks.locomotion import at_transition
from veergust.core.study.parameters import asked_by, set_by


def check(build: CompiledProject) -> Iterator[Finding]:
    """What is wrong with the parameters."""
    there = {p.name: p for p in build.project.locomotion.parameters}
    sets, asks = list(set_by(build.project)), list(asked_by(build.project))
    for name, p in there.items():
        where = Ref("locomotion", "", ("ground", "parameter", name), kind="parameters")
        if p.high < p.low:
            says = f"has a range that ends at {p.high:g} before it begins at {p.low:g}"
            yield Finding("parameter-range", "error", where, says, "put the low end below the high one")
        if name not in {n for n, _ in sets}:
            says = "is a parameter that nobody sets"
            yield Finding("parameter-unset", "note", where, says, "set it in an action or by an event, or remove it")
        if name not in {n for n, _ in asks}:
            says = "is a parameter that nobody asks for"
            yield Finding("parameter-unasked", "note", where, says, "ask for it in a condition, or remove it")
    yield from _unknown(build, there)
    yield from _kinds(build, there)
    yield from _twice(build, there)


def _unknown(build: CompiledProject, there: dict[str, Parameter]) -> Iterator[Finding]:
    # Without a list of parameters any name may be one.
    for i, t in enumerate(build.project.locomotion.transitions if there else ()):
        for c in t.conditions:
            if c.test == "parameter" and c.name not in there and c.name not in MEASURES:
                says = f"asks for the parameter {c.name!r}, which the project does not have"
                yield Finding("parameter-unknown", "error", at_transition(build, i), says, "choose one, or make it")


def _kinds(build: CompiledProject, there: dict[str, Parameter]) -> Iterator[Finding]:
    for i, t in enumerate(build.project.locomotion.transitions):
        for c in t.conditions:
            p = there.get(c.name) if c.test == "parameter" else None
            if p is None:
                continue
            if p.kind in ("yes or no", "momentary") and c.value not in (0.0, 1.0):
                says = f"compares {p.name}, which is {p.kind}, with {c.value:g}"
                yield Finding("parameter-kind", "warning", at_transition(build, i), says, "compare it with 0 or 1")
            if p.kind == "whole" and c.op in ("==", "!=") and c.value != round(c.value):
                says = f"compares {p.name}, which is a whole number, with {c.value:g}"
                yield Finding("parameter-kind", "warning", at_transition(build, i), says, "compare it with a whole one")


def _twice(build: CompiledProject, there: dict[str, Parameter]) -> Iterator[Finding]:
    """Momentary parameters that two transitions of one state ask for: the first that is taken uses them up."""
    told = set()
    for state in build.chart.states:
        by: dict[str, list[int]] = {}
        for i, t in build.chart.asked(state):
            for c in t.conditions:
                if c.test == "parameter" and c.name in there and there[c.name].kind == "momentary":
                    by.setdefault(c.name, []).append(i)
        for name, places in by.items():
            if len(set(places)) > 1 and (name, places[1]) not in told:
                told.add((name, places[1]))
                says = f"asks for {name}, as another transition of {state} does: whichever is asked first uses it up"
                do = "ask for more in one of them, if that is not meant"
                yield Finding("momentary-twice", "note", at_transition(build, places[1]), says, do)
