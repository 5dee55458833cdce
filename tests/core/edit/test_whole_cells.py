"""Drawings are held whole: however a clip of them is cut and retimed, each shows for its share, in its order."""

from __future__ import annotations

import json
import random
from itertools import groupby
from pathlib import Path

import pytest
from msgspec.structs import replace
from tools.made.drawings import ARMS, built, drawn_project, folder_of, said

from veergust.core.edit.whole_cells import borders, shared_out, snapped
from veergust.core.export.writing import export
from veergust.core.files.folder import open_project
from veergust.core.files.importing import import_file
from veergust.core.files.saving import save_project
from veergust.core.model import Project
from veergust.core.motion.drawn import seen_on
from veergust.core.play.compiled.project import CompiledProject
from veergust.report.flipbook import flipbook

RATES = (0.25, 0.5, 2 / 3, 0.8, 1.0, 1.25, 1.5, 2.0, 3.0)


def runs(build: CompiledProject, name: str) -> list[tuple[int, int]]:
    """Which cell an action shows for how many ticks, by the poses that are played."""
    made = build.action(name)
    assert made is not None
    shown = [seen_on(build.assets.skeleton, pose)[1] for pose in made.sections[0].world]
    return [(cell, len(list(run))) for cell, run in groupby(shown[: made.sections[0].ticks])]


@pytest.mark.parametrize("seed", range(12))
def test_holds_are_shared_out_whole_for_any_rate(seed: int, tmp_path: Path) -> None:
    draw = random.Random(seed)
    holds = [draw.randint(1, 9) for _ in ARMS]
    build = built(drawn_project(tmp_path, said(holds))[0])
    project = build.project
    clip = build.clip("jab")
    there = borders(build.assets, clip)
    assert [round(60 * t) for t in there] == [sum(holds[:n]) for n in range(len(holds) + 1)]
    for _ in range(30):
        first, last = sorted(draw.sample(range(len(holds) + 1), 2))
        rate = draw.choice(RATES)
        action = project.actions[0]
        section = action.sections[0]
        cut = replace(section.cuts[0], start=there[first], end=there[last], rate=rate)
        edited = replace(section, cuts=(cut,), strikes=(), exits=(), events=())
        changed = build.renew(replace(project, actions=(replace(action, sections=(edited,)),)))
        shown = runs(changed, action.name)
        ticks = sum(hold for _, hold in shown)
        assert ticks == pytest.approx(sum(holds[first:last]) / rate, abs=1.0)
        # A tick shows the drawing that has begun at its even share of the source frames: reckoned in whole numbers.
        ends = [sum(holds[first : n + 1]) for n in range(first, last)]
        of = [next(first + n for n, end in enumerate(ends) if t * ends[-1] < end * ticks) for t in range(ticks)]
        assert shown == [(cell, len(list(run))) for cell, run in groupby(of)]
        told = shared_out(changed.assets, clip, cut, there[first], there[last], ticks)
        assert told == [hold for _, hold in shown]


@pytest.mark.parametrize("seed", range(4))
def test_order_and_holds_are_the_same_after_saving_handing_over_and_coming_in_again(seed: int, tmp_path: Path) -> None:
    draw = random.Random(seed)
    document = said([draw.randint(2, 9) for _ in ARMS])
    order = draw.sample(range(len(ARMS)), 5)
    document["cells"] = [document["cells"][n] for n in order]
    holds = [cell["hold"] for cell in document["cells"]]
    folder, _ = drawn_project(tmp_path, document)
    build = built(folder)
    kept = runs(build, "jab")
    assert kept == list(enumerate(holds))
    # Saved elsewhere and opened.
    save_project(open_project(folder), tmp_path / "again.veergust", clips_from=folder)
    assert runs(built(tmp_path / "again.veergust"), "jab") == kept
    # Handed over.
    export(build, tmp_path / "out")
    actions = json.loads((tmp_path / "out" / "actions.json").read_text())["actions"]
    drawings = next(a for a in actions if a["name"] == "jab")["sections"][0]["drawings"]
    assert [(cell, hold) for _, cell, hold in drawings] == kept
    # Drawn anew cell by cell, and brought in again.
    done = flipbook(build, "jab", tmp_path / "jab_again.png")
    assert done is not None
    home = folder_of(tmp_path / "third.veergust")
    import_file(Project(name="third"), home, tmp_path / "jab_again.png")
    third = built(home)
    name = third.project.actions[0].name
    assert [hold for _, hold in runs(third, name)] == holds


def test_a_moment_between_two_drawings_snaps_to_the_nearer_border(tmp_path: Path) -> None:
    build = built(drawn_project(tmp_path)[0])
    clip = build.clip("jab")
    there = borders(build.assets, clip)
    for n in range(31):
        at = snapped(build.assets, clip, n / 60)
        assert at == min(there, key=lambda b: abs(b - n / 60))
