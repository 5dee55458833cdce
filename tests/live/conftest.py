"""A small project, and what is handed over of it."""

from __future__ import annotations

from pathlib import Path

import pytest
from msgspec.structs import replace

from veergust.core.export.writing import export
from veergust.core.live.handed import faulty
from veergust.core.model import Project
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject

WALKING = ("idle", "walk", "run")


@pytest.fixture(scope="module")
def small(quay: Project) -> Project:
    """Few actions, so that a game begins at once."""
    names = ("Low sweep", "Thrust", "Reel front", "Reel back")
    kept = []
    for a in (a for a in quay.actions if a.name in names):
        sections = tuple(replace(s, exits=tuple(e for e in s.exits if e.to in names)) for s in a.sections)
        kept.append(replace(a, sections=sections, start=replace(a.start, states=WALKING if a.start.states else ())))
    rows = tuple(r for r in quay.reactions if r.action in names)
    states = tuple(replace(s, group="") for s in quay.locomotion.states if s.name in WALKING)
    there = {s.name for s in states}
    ways = tuple(t for t in quay.locomotion.transitions if {t.start, t.to} <= there)
    ground = replace(quay.locomotion, states=states, groups=(), transitions=ways)
    fighters = tuple(replace(f, plays="keys") for f in quay.stage.fighters)
    return replace(
        quay, actions=tuple(kept), reactions=rows, locomotion=ground,
        layers=tuple(replace(y, scope=(), elsewhere="may") for y in quay.layers if y.name in {a.layer for a in kept}), masks=(), grips=(), pools=(), thrown=(), drills=(), takes=(), stages=(), stage=replace(quay.stage, fighters=fighters),
        commands=tuple(c for c in quay.commands if c.name in ("light", "thrust", "jump")),
    )  # fmt: skip


@pytest.fixture(scope="module")
def build(small: Project, assets: Assets) -> CompiledProject:
    made = CompiledProject(small, assets)
    assert faulty(made) == ""
    return made


@pytest.fixture(scope="module")
def out(build: CompiledProject, tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("handed") / "out"
    export(build, folder, mesh=False)
    return folder


@pytest.fixture
def key(tmp_path: Path) -> Path:
    return tmp_path / "live.key"
