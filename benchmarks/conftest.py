"""A large project for what must stay quick when there is much."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from benchmarks.growth import told
from msgspec.structs import replace

from veergust.core.files.demo import copy_demo
from veergust.core.files.folder import open_project
from veergust.core.files.saving import save_project
from veergust.core.model import Action, Cut, Drive, Event, Exit, Hold, Project, Section, Shield, Strike

COUNT, SECTIONS = 200, 8


def large(project: Project) -> Project:
    """The demo with 200 actions of 8 sections in which 60 spans stand."""
    box = project.actions[0].sections[1].strikes[0].boxes
    clips = ("staff_sweep", "staff_thrust", "overhead", "staff_charge")
    actions = []
    for n in range(COUNT):
        sections = []
        for s in range(SECTIONS):
            start = 0.1 + 0.01 * (n % 7)
            cut = Cut(clip=clips[(n + s) % 4], start=start, end=start + 0.3)
            then = f"Part {s + 1}" if s + 1 < SECTIONS else "end"
            sections.append(
                Section(
                    name=f"Part {s}", cuts=(cut,), then=then,
                    strikes=(Strike(start=4, end=8, boxes=box),),
                    exits=(Exit(start=9, end=18, command="light", to=f"Attack {(n + 1) % COUNT}"),
                           Exit(start=11, end=18, kind="cancel", command="dodge", to="Attack 0")),
                    shields=(Shield(start=0, end=3),) if s % 2 else (),
                    holds=(Hold(start=0, end=18),), drives=(Drive(start=0, end=18),),
                    events=(Event(tick=3, name="whoosh"), Event(tick=6, name="dust")),
                )
            )  # fmt: skip
        actions.append(Action(name=f"Attack {n}", sections=tuple(sections)))
    return replace(project, actions=tuple(actions), reactions=(), drills=())


@pytest.fixture(scope="session")
def folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("large") / "large.veergust"
    copy_demo(folder)
    save_project(large(open_project(folder)), folder)
    return folder


def pytest_terminal_summary(terminalreporter: Any, config: Any) -> None:
    """Tell how rows of several sizes grow."""
    session = getattr(config, "_benchmarksession", None)
    lines = told(session.benchmarks) if session is not None else []
    if lines:
        terminalreporter.section("growth (least times)")
        for line in lines:
            terminalreporter.write_line(line)
