"""Takes that are kept for long: what is packed and read again is what was played, and play goes on from any of it."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from pathlib import Path

import pytest
from msgspec.structs import replace
from tools.made import DEMO
from tools.made.bouts import given

from tests.conftest import OSSA, TARN
from veergust.core.files.folder import open_project
from veergust.core.files.saving import save_project
from veergust.core.model import Project
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.simulation import Simulation
from veergust.core.play.take.history import FRESH, OPENS, PACKED, PRESSED, TOUCHED, History
from veergust.core.play.take.record import Record, write_take

TICKS = FRESH + 14 * PACKED + 7


@pytest.fixture(scope="module")
def bout(quay: Project, assets: Assets) -> tuple[CompiledProject, list[Record], History]:
    """A long bout, kept as it was and as a history, with a second stage's worth of thrown things in it."""
    fighters = tuple(replace(f, health=1e5, plays="stands") for f in quay.stage.fighters)
    project = replace(quay, stage=replace(quay.stage, fighters=fighters))
    build = CompiledProject(project, assets)
    simulation, history, records = Simulation(build, 5), History(), []
    for row in given(project, TICKS, 11):
        records.append(simulation.tick(row))
        history.append(records[-1])
    return build, records, history


def test_what_is_read_again_is_what_was_played(bout: tuple[CompiledProject, list[Record], History]) -> None:
    _, records, history = bout
    assert len(history) == TICKS
    assert len(history.packs) >= 13
    assert write_take(list(history)) == write_take(records)
    assert write_take(list(history[100:400:3])) == write_take(records[100:400:3])
    assert history[-1] is records[-1]
    assert [r.tick for r in history[:40][-5:]] == [35, 36, 37, 38, 39]
    with pytest.raises(IndexError):
        history[TICKS]
    touched, pressed, opens = (
        [n for n, mark in enumerate(history.marks) if mark & kind] for kind in (TOUCHED, PRESSED, OPENS)
    )
    assert touched == [r.tick for r in records if r.contacts]
    assert pressed == [r.tick for r in records if any(f.pressed for f in r.fighters)]
    assert opens == [
        r.tick for r in records if any(e.kind == "begin" and e.name.startswith("strike") for e in r.events)
    ]
    assert min(map(len, (touched, pressed, opens))) > 2
    # Of one take all of it: what plays is the same thing in every tick, packed or not.
    voices = {id(v.compiled) for r in history for f in r.fighters for v in f.voices}
    assert voices == {id(v.compiled) for r in records for f in r.fighters for v in f.voices}


def test_ten_minutes_of_two_take_less_than_forty_megabytes(
    bout: tuple[CompiledProject, list[Record], History],
) -> None:
    _, _, history = bout
    a_tick = sum(map(len, history.packs)) / (PACKED * len(history.packs))
    assert a_tick * 36_000 < 40e6


@pytest.mark.parametrize("length", [0, 1, PACKED - 1, PACKED, PACKED + 1, 5 * PACKED, TICKS - FRESH, TICKS - 1, TICKS])
def test_cut_anywhere_it_is_the_beginning_and_grows_on(
    bout: tuple[CompiledProject, list[Record], History], length: int
) -> None:
    _, records, history = bout
    cut = history.copy()
    assert len(list(cut)) == TICKS
    cut.cut(length)
    assert write_take(list(cut)) == write_take(records[:length])
    assert len(cut.marks) == length
    grown = [*records[:length], *records[: FRESH + 4 * PACKED]]  # another take than the one that was cut off
    for record in records[: FRESH + 4 * PACKED]:
        cut.append(record)
    assert write_take(list(cut)) == write_take(grown)
    assert write_take(list(history)) == write_take(records), "the one it was copied from stays as it is"


def test_the_oldest_are_let_go_of_by_whole_packs(bout: tuple[CompiledProject, list[Record], History]) -> None:
    _, records, history = bout
    kept = history.copy()
    assert len(list(kept)) == TICKS
    went = kept.drop(TICKS - 3 * PACKED - 5)
    assert went == 3 * PACKED
    assert write_take(list(kept)) == write_take(records[went:])
    assert len(kept.marks) == len(kept)
    assert kept.drop(TICKS) == 0


@pytest.mark.parametrize("tick", [0, 1, 17, PACKED, 3 * PACKED - 1, 3 * PACKED, 301, TICKS - FRESH, TICKS - 60])
def test_play_goes_on_from_any_tick_as_it_did(bout: tuple[CompiledProject, list[Record], History], tick: int) -> None:
    build, records, history = bout
    simulation = Simulation(build, 5)
    simulation.resume(history[tick], history[tick - 1] if tick else None)
    rows = given(build.project, TICKS, 11)[tick + 1 : tick + 61]
    assert write_take([simulation.tick(row) for row in rows]) == write_take(records[tick + 1 : tick + 61])


def test_a_touch_comes_where_it_did_when_play_goes_on_just_before_it(
    bout: tuple[CompiledProject, list[Record], History],
) -> None:
    """What a weapon sweeps is from where it was on the tick before, which is no longer posed there."""
    build, records, history = bout
    rows = given(build.project, TICKS, 11)
    opens = [r.tick for r in records if any(f.swinging or f.open_spans for f in r.fighters) and 1 < r.tick < 400]
    assert len(opens) > 20
    for tick in opens[::3]:
        simulation = Simulation(build, 5)
        simulation.resume(history[tick - 1], history[tick - 2])
        for old, now in zip(records[tick - 1].fighters, simulation.fighters):
            assert old.joints_before is not None
            assert now.joints_before is not None
            assert abs(old.joints_before - now.joints_before).max() < 1e-9
        assert write_take([simulation.tick(rows[tick])]) == write_take([records[tick]])


def test_a_take_is_the_same_bytes_in_another_process_and_after_the_project_was_saved(
    quay: Project, tmp_path: Path
) -> None:
    """Under another seed of hashes and another locale, and from the project as it was read and written again."""
    again = tmp_path / "again.veergust"
    (again / "clips").mkdir(parents=True)
    for file in (DEMO / "clips").iterdir():
        (again / "clips" / file.name).write_bytes(file.read_bytes())
    save_project(open_project(DEMO), again)
    rows = [
        {"tick": tick, "fighter": one.fighter, "command": one.command, "press": one.press}
        if one.command
        else {"tick": tick, "fighter": one.fighter, "axis": one.axis, "value": list(one.value)}
        for tick, row in enumerate(given(quay, 240, 4))
        for one in row
    ]
    inputs = tmp_path / "inputs.json"
    inputs.write_text(json.dumps(rows))
    assert {row["fighter"] for row in rows} == {OSSA, TARN}
    takes = []
    for folder, seed, locale in ((DEMO, "0", "C"), (again, "4711", "tr_TR.UTF-8")):
        take = tmp_path / f"{seed}.take"
        command = [sys.executable, "-m", "veergust", "play", str(folder), "--input", str(inputs), "--ticks", "240"]
        here = {**os.environ, "PYTHONHASHSEED": seed, "LC_ALL": locale, "LANG": locale}
        subprocess.run([*command, "--seed", "9", "--take", str(take)], env=here, check=True, capture_output=True)
        takes.append(take.read_bytes())
    assert takes[0] == takes[1]
    assert len(takes[0].splitlines()) == 240
