"""A large project, 200 actions of 8 sections and 60 spans each: an edit on screen, opening, saving, memory; and a
hundred thousand edits, undone and done again."""

from __future__ import annotations

import resource
from itertools import cycle
from pathlib import Path
from typing import Any

import pytest
from msgspec.structs import replace
from tools.made.storm import there_and_back

from veergust.core.edit.spans import SpanRef, set_edges
from veergust.core.files.as_files import project_files
from veergust.core.files.assets import load_assets
from veergust.core.files.demo import copy_demo
from veergust.core.files.folder import open_project
from veergust.core.files.saving import save_project
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.study.facts import facts
from veergust.core.study.now import now
from veergust.core.study.store import Store


@pytest.fixture(scope="module")
def build(folder: Path) -> CompiledProject:
    project = open_project(folder)
    return CompiledProject(project, load_assets(project, folder)[0])


def test_an_edit_with_facts_and_now_card_in_a_large_project(benchmark: Any, build: CompiledProject) -> None:
    store = Store()
    state = {"book": build}
    wide = cycle((7, 8))
    ref = SpanRef("Attack 3", 2, "strikes", 0)
    compiled = build.action("Attack 3")
    assert compiled is not None
    store.of(facts, build, "Attack 3", False)

    def edit() -> None:
        made = set_edges(state["book"].project, compiled, ref, 4, next(wide))
        state["book"] = state["book"].renew(made.project)
        fresh = state["book"].action("Attack 3")
        assert fresh is not None
        store.of(facts, state["book"], "Attack 3", False)
        now(state["book"], fresh, 40)

    benchmark(edit)


def test_opening_a_large_project(benchmark: Any, folder: Path) -> None:
    def load() -> None:
        project = open_project(folder)
        load_assets(project, folder)

    benchmark(load)


def test_saving_one_change_in_a_large_project(benchmark: Any, folder: Path) -> None:
    project = open_project(folder)
    project_files(project)
    speeds = cycle((1.1, 1.2))

    def save() -> None:
        changed = replace(project.actions[7], speed=next(speeds))
        actions = (*project.actions[:7], changed, *project.actions[8:])
        save_project(replace(project, actions=actions), folder)

    benchmark(save)
    benchmark.extra_info["most_memory_mb"] = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024


def test_a_thousand_edits_undone_and_done_again(benchmark: Any, folder: Path) -> None:
    """From the demo on. A hundred thousand: ``python -m tools.made.storm 100``."""
    demo = folder.parent / "small.veergust"
    if not demo.exists():
        copy_demo(demo)
    project = open_project(demo)
    assets = load_assets(project, demo)[0]

    seeds = iter(range(10**6))
    benchmark.pedantic(lambda: there_and_back(project, assets, next(seeds)), rounds=3, iterations=1)
