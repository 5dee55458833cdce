"""What the sheet plays and what a fight plays: the same sections, the same events, at every rate."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from tools.made.edits import action, alone, with_action

from tests.conftest import OSSA
from veergust.core.edit.cuts import set_speed
from veergust.core.kinds.spans import SPANS
from veergust.core.model import Event, Fighter, Project
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.flow.preview import Preview
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import Input

NAME = "Braced charge"


def previewed(build: CompiledProject, name: str, release_at: int | None = None) -> list[tuple[str, str]]:
    compiled = build.action(name)
    assert compiled is not None
    shown = Preview(compiled, compiled.entry)
    out: list[tuple[str, str]] = [(e.kind, e.name) for e in shown.fired()]
    for tick in range(4000):
        if tick == release_at:
            shown.released = True
        out += [(e.kind, e.name) for e in shown.step()]
        if shown.over:
            return out
    return out


def fought(build: CompiledProject, name: str, release_at: int = 0) -> list[tuple[str, str]]:
    simulation = Simulation(build)
    out: list[tuple[str, str]] = []
    begun: list[str] = []
    for tick in range(4000):
        inputs = []
        if tick == 0:
            held = [Input(OSSA, "brace", press=True)] if name == NAME else []
            inputs = [*held, Input(OSSA, action=name)]
        if tick == release_at and name == NAME:
            inputs.append(Input(OSSA, "brace", press=False))
        record = simulation.tick(inputs)
        mine = [(e.kind, e.name) for e in record.events if e.fighter == OSSA]
        out += [e for e in mine if e[0] not in ("begin", "end")]
        for kind, name_ in mine:
            if kind == "begin":
                begun.append(name_)
            elif kind == "end":
                begun.remove(name_)  # an end without its begin raises
        if tick > release_at and not simulation.fighters[0].live():
            assert not begun
            return out
    return out


def at_rate(quay: Project, assets: Assets, rate: int, speed: float) -> Project:
    """The demo at another tick rate and its actions at another speed, with spans where the poses are."""
    project = alone(replace(quay, settings=replace(quay.settings, rate=rate)))
    if rate != 60:
        by = rate / 60

        def span(s: Any) -> Any:
            if isinstance(s, Event):
                return replace(s, tick=int(s.tick * by))
            return replace(s, start=int(s.start * by), end=max(int(s.end * by), int(s.start * by) + 1))

        for name in (NAME, "Low sweep"):
            sections = tuple(
                replace(s, **{k: tuple(span(x) for x in getattr(s, k)) for k in SPANS})
                for s in action(project, name).sections
            )
            project = with_action(project, name, sections=sections)
    if speed != 1.0:
        for name in (NAME, "Low sweep"):
            project = set_speed(project, assets, name, speed).project
    return project


@pytest.mark.parametrize("rate", [30, 60, 120])
@pytest.mark.parametrize("speed", [0.25, 1.0, 3.0])
def test_every_event_fires_once_a_pass_at_any_rate_and_the_sheet_shows_the_same(
    quay: Project, assets: Assets, rate: int, speed: float
) -> None:
    build = CompiledProject(at_rate(quay, assets, rate, speed), assets)
    for name in (NAME, "Low sweep"):
        compiled = build.action(name)
        assert compiled is not None
        shown = previewed(build, name, 0)
        every = [(e.kind, e.name) for s in compiled.sections for e in sorted(s.section.events, key=lambda e: e.tick)]
        assert sorted(shown) == sorted(every)
        assert fought(build, name) == shown
        on, off = shown.index(("effect", "trail on")), shown.index(("effect", "trail off"))
        assert on < off


def test_a_loop_fires_its_events_once_a_lap(quay: Project, assets: Assets) -> None:
    build = CompiledProject(alone(quay), assets)
    for release in (30, 70, 130, 200):
        shown = previewed(build, NAME, release)
        assert fought(build, NAME, release) == shown
        assert shown.count(("sound", "breath")) == (release - 21) // 36 + 1


def test_hit_stop_repeats_no_event(quay: Project, assets: Assets) -> None:
    near = replace(quay, stage=replace(quay.stage, fighters=tuple(
        replace(f, position=(0.0, 0.0, 0.0) if f.name == OSSA else (1.5, 0.0, 0.0)) for f in quay.stage.fighters
    ), posts=()))  # fmt: skip
    assert all(isinstance(f, Fighter) for f in near.stage.fighters)
    build = CompiledProject(near, assets)
    simulation = Simulation(build)
    seen, frozen = [], 0
    for tick in range(90):
        record = simulation.tick([Input(OSSA, action="Low sweep")] if tick == 0 else [])
        seen += [(e.kind, e.name) for e in record.events if e.fighter == OSSA and e.kind not in ("begin", "end")]
        frozen += bool(simulation.fighters[0].frozen)
    assert frozen > 3
    assert seen == previewed(build, "Low sweep")


@settings(max_examples=40)
@given(release=st.integers(1, 260))
def test_a_held_loop_is_left_at_its_gate_whenever_it_is_let_go(quay: Project, assets: Assets, release: int) -> None:
    build = CompiledProject(alone(quay), assets)
    simulation = Simulation(build)
    held, let_go = Input(OSSA, "brace", press=True), Input(OSSA, "brace", press=False)
    last, laps = ("", 0), 0
    for tick in range(340):
        inputs = [held, Input(OSSA, action=NAME)] if tick == 0 else [let_go] if tick == release else []
        simulation.tick(inputs)
        voice = next(iter(simulation.fighters[0].live()), None)
        now = (voice.part.section.name, voice.frame) if voice else ("", 0)
        if now[0] == "Charge" and last[0] != "Charge":
            assert last[0] == "Hold"
            assert 33 <= last[1] < 36
            assert release <= tick <= max(release, 21) + 36 + 1
            return
        laps += now == ("Hold", 0)
        last = now
    raise AssertionError("never let go")


def test_a_section_alone_goes_round_and_nothing_leaves_it(quay: Project, assets: Assets) -> None:
    build = CompiledProject(quay, assets)
    compiled = build.action("Low sweep")
    assert compiled is not None
    shown = Preview(compiled, 1, alone=True, released=True)
    rows = []
    for _ in range(30):
        rows.append(shown.row)
        shown.step()
    assert rows == [8 + i % 12 for i in range(30)]
    assert shown.laps == 2
