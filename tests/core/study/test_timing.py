"""What the numbers of a swing propose."""

from __future__ import annotations

import numpy as np
import pytest
from tools.made.edits import replace, with_section

from veergust.core.edit.breaking import break_without_floor
from veergust.core.model import Floor, Project, Stage
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.simulation import Simulation
from veergust.core.study.timing import bursts, hints, settles


@pytest.mark.parametrize("name", ["Low sweep", "Thrust", "Overhead hook", "Braced charge"])
def test_a_strike_is_proposed_about_where_the_author_put_it(quay: Project, assets: Assets, name: str) -> None:
    whole = CompiledProject(quay, assets).action(name)
    assert whole is not None
    authored = whole.open_frames
    bare = quay
    for index in range(len(whole.sections)):
        bare = with_section(bare, name, index, strikes=())
    build = CompiledProject(bare, assets)
    compiled = build.action(name)
    assert compiled is not None
    found = [h for h in hints(build, name) if h.kind == "strike"]
    assert len(found) == 1
    assert set(range(found[0].start, found[0].end)) & set(authored)
    assert found[0].says == f"the tip is fastest at {found[0].start}–{found[0].end - 1}: open the strike there"
    # Where a strike stands already none is proposed.
    assert all(h.kind == "end" for h in hints(CompiledProject(quay, assets), name))


def test_bursts_are_the_runs_near_the_fastest() -> None:
    speed = np.array([0, 1, 9, 10, 9, 1, 0, 8, 8, 0, 10, 0], dtype=float)
    assert bursts(speed) == [(2, 5), (7, 9)]
    assert bursts(np.full(9, 2.0)) == []


def test_the_end_is_where_the_body_has_settled_after_the_strike(quay: Project, assets: Assets) -> None:
    compiled = CompiledProject(quay, assets).action("Low sweep")
    assert compiled is not None
    at = settles(compiled, max(compiled.open_frames))
    assert at is not None
    assert max(compiled.open_frames) < at < compiled.total
    world = np.concatenate([compiled.sections[i].world[: compiled.sections[i].ticks, :, :3, 3] for i in compiled.path])
    step = np.linalg.norm(np.diff(world, axis=0), axis=-1).mean(axis=-1)
    assert step[at:].max() < 0.2 * step.max()
    assert settles(compiled, compiled.total - 2) is None
    looped = with_section(quay, "Low sweep", 2, then="Settle")
    build = CompiledProject(looped, assets)
    again = build.action("Low sweep")
    assert again is not None
    assert hints(build, "Low sweep") == []


@pytest.mark.parametrize("name", ["Duck roll", "Plank slide", "Low sweep"])
def test_a_break_is_proposed_where_an_action_would_go_on_in_the_air_and_taken_ends_it_there(
    quay: Project, assets: Assets, name: str
) -> None:
    """Played over an edge: without it in the air, with it in locomotion once the floor is gone."""
    whole = CompiledProject(quay, assets).action(name)
    assert whole is not None
    bare = quay
    for index, part in enumerate(whole.sections):
        bare = with_section(bare, name, index, exits=tuple(e for e in part.section.exits if e.kind != "break"))
    build = CompiledProject(bare, assets)
    compiled = build.action(name)
    assert compiled is not None
    found = [h for h in hints(build, name) if h.kind == "break"]
    ticks = compiled.total
    far = np.hypot(*(compiled.bodies[: compiled.total + 1, :3, 3] - compiled.bodies[0, :3, 3])[:, [0, 2]].T).max()
    assert bool(found) == (far > 0.5)
    if not found:
        return
    sections = [compiled.locate(h.start)[0] for h in found]
    assert [compiled.start_of(i) for i in sections] == [h.start for h in found]
    assert sections == [*compiled.path]
    mended = CompiledProject(break_without_floor(bare, compiled, sections).project, assets)
    assert [h for h in hints(mended, name) if h.kind == "break"] == []

    def in_the_air(build: CompiledProject) -> int:
        stage = Stage(floors=(Floor(low=(-3.0, -3.0), high=(0.25, 3.0), height=4.0), Floor(low=(-50, -50), high=(50, 50))),
                      fighters=(replace(quay.stage.fighters[0], position=(0.0, 4.0, 0.0)),))  # fmt: skip
        simulation = Simulation(CompiledProject(replace(build.project, stage=stage), assets))
        simulation.start(simulation.fighters[0].name, name)
        records = [simulation.tick() for _ in range(ticks)]
        return sum(not r.fighters[0].grounded and bool(r.fighters[0].live()) for r in records)

    assert in_the_air(build) > 5
    assert in_the_air(mended) <= 4
