"""``./run bout [MINUTES]``: a bout of two at random with an edit every minute, played twice: how fast, how large, and
whether both are one, also from what was packed."""

from __future__ import annotations

import gc
import hashlib
import sys
import time

from msgspec.structs import replace
from tools.made import DEMO
from tools.made.bouts import given

from veergust.core.files.assets import load_assets
from veergust.core.files.folder import open_project
from veergust.core.model import Project
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.simulation import Simulation
from veergust.core.play.take.history import PACKED, History
from veergust.core.play.take.record import write_take

MINUTE = 3600


def edited(project: Project, minute: int) -> Project:
    """The project with a strike of every action opened a frame later or sooner, turn about."""
    actions = []
    for action in project.actions:
        sections = tuple(
            replace(s, strikes=tuple(replace(x, end=x.end + (minute % 2) * (x.end > x.start + 1)) for x in s.strikes))
            for s in action.sections
        )
        actions.append(replace(action, sections=sections))
    return replace(project, actions=tuple(actions))


def played(project: Project, assets: Assets, minutes: int) -> tuple[str, History, float]:
    """The digest of a bout's take, its history, and how many ticks a second it was played at."""
    build = CompiledProject(project, assets)
    build.prepare()
    simulation, history, total, spent = Simulation(build, 7), History(), hashlib.sha256(), 0.0
    for minute in range(minutes):
        simulation.use(build := build.renew(edited(project, minute)))
        rows = given(project, MINUTE, minute)
        begun = time.perf_counter()
        for row in rows:
            record = simulation.tick(row)
            history.append(record)
            total.update(write_take([record]))
        spent += time.perf_counter() - begun
    return total.hexdigest(), history, minutes * MINUTE / spent


def main(minutes: int) -> int:
    """Play, say, and compare."""
    project = open_project(DEMO)
    assets = load_assets(project, DEMO)[0]
    fighters = tuple(replace(f, health=1e6) for f in project.stage.fighters)
    project = replace(project, stage=replace(project.stage, fighters=fighters))
    one, history, rate = played(project, assets, minutes)
    packed = sum(map(len, history.packs))
    ten = packed / max(len(history.packs) * PACKED, 1) * 10 * MINUTE / 1e6
    print(
        f"{minutes} min: {rate:.0f} ticks/s with their lines, packs {packed / 1e6:.1f} MB "
        f"({ten:.1f} MB for ten minutes)"
    )
    again = hashlib.sha256()
    for record in history:
        again.update(write_take([record]))
    del history
    gc.collect()
    two = played(project, assets, minutes)[0]
    print("two runs are one" if one == two else "TWO RUNS DIFFER")
    print("what was packed is what was played" if again.hexdigest() == one else "WHAT WAS PACKED DIFFERS")
    return 0 if one == two == again.hexdigest() else 1


if __name__ == "__main__":
    raise SystemExit(main(int(sys.argv[1]) if len(sys.argv) > 1 else 60))
