"""The program against the independent player: ``./run referee [BOUTS] [TICKS]``.

Every drill and kept take of the demo, then bouts at random: of the demo on each of its stages, with and without a partner
that plays by itself, at other rates, on figures of every family shot off the origin, and of projects made up at random.
"""

from __future__ import annotations

import sys
from collections.abc import Callable
from itertools import islice
from multiprocessing import Pool
from typing import get_args

from hypothesis import HealthCheck, Phase, seed, settings
from hypothesis import given as drawing
from hypothesis import strategies as st
from msgspec.structs import replace

from tools.made import DEMO
from tools.made.rigs import FAMILIES, project_of
from tools.referee.comparing import Compared, Given, at_random, compare, handed_over
from tools.referee.made import made_projects
from veergust.core.files.assets import load_assets
from veergust.core.files.folder import open_project
from veergust.core.model import Action, Drill, DrillStep, Drive, Fighter, Hitbox, Hurtbox, Mount, Project, Strike
from veergust.core.model.stage import Plays
from veergust.core.motion.figure import Assets

Made = tuple[Project, Assets]
PLAYS = tuple(way for way in get_args(Plays) if way not in ("keys", "second", "stands", "replays"))
"""What a partner does of itself."""
PARTS = (("lunge", 0.1, 0.8), ("blow", 0.2, 0.9), ("stagger", 0.0, 0.6))


def drilled(drill: Drill) -> Given:
    """What a drill gives, by tick."""
    out: dict[int, list[DrillStep]] = {}
    for step in drill.steps:
        out.setdefault(step.tick, []).append(step)
    return out


def on_stage(project: Project, name: str) -> Project:
    """A project that is played on another of its stages."""
    stages = {s.name: s for s in (project.stage, *project.stages)}
    rest = tuple(s for s in stages.values() if s.name != name)
    return replace(project, stage=stages[name], stages=rest)


def _tough(project: Project, health: float = 3000.0, plays: str = "keys") -> Project:
    """Fighters that stand nearer to each other and last."""
    first, other, *rest = project.stage.fighters
    near = tuple(replace(f, health=health, position=(f.position[0] * 0.6, *f.position[1:])) for f in (first, other))
    fighters = (replace(near[0], plays="keys"), replace(near[1], plays=plays, poise=20.0, answer="light", every=30))
    return replace(project, stage=replace(project.stage, fighters=(*fighters, *rest)))


def _shot(family: str) -> Callable[[Project, Assets, int], Made]:
    def made(_: Project, __: Assets, n: int) -> Made:
        project, assets = project_of(family, (12.0 * n, -7.0), 40.0 * n, PARTS)
        fighters = tuple(
            Fighter(name=name, plays="keys", position=(x, 0.0, 0.0), facing=facing)
            for name, x, facing in (("One", -0.6, 90.0), ("Other", 0.6, -90.0))
        )
        boxes = tuple(Hurtbox(name=j, joint=j, radius=0.16) for j in ("Ribs", "Hip", "LShin", "RShin", "Skull")
                      if j in assets.skeleton.index)  # fmt: skip
        rig = replace(project.rig, hurtboxes=boxes, mounts=(Mount(name="grip", joint="RWrist"),))
        feet = replace(project.locomotion, feet=replace(project.locomotion.feet, weight=1.0))
        stage = replace(project.stage, fighters=fighters)
        return replace(project, stage=stage, rig=rig, locomotion=feet, actions=_striking(project)), assets

    return made


def _striking(project: Project) -> tuple[Action, ...]:
    """The actions of a figure with a strike each, and with root motion that counts for more, then for nothing."""
    box = Hitbox(mount="grip", offset=(0.0, -0.4, 0.0), to=(0.0, 0.9, 0.0), radius=0.2)
    hit = Strike(start=6, end=14, boxes=(box,), knockback=(0.3, 0.0, 2.0))
    drives = (Drive(start=2, end=16, scale=1.4), Drive(start=20, end=26, kind="none"))
    return tuple(
        replace(a, sections=tuple(replace(s, strikes=(hit,), drives=drives) for s in a.sections))
        for a in project.actions
    )


def _paper() -> Made:
    """The paper theatre, whose figures are drawn."""
    folder = DEMO.parent / "paper_theatre.veergust"
    project = open_project(folder)
    return _tough(project), load_assets(project, folder)[0]


BOUTS: dict[str, Callable[[Project, Assets, int], Made]] = {
    "the demo": lambda quay, assets, n: (_tough(quay), assets),
    "soon dead": lambda quay, assets, n: (_tough(quay, 60.0), assets),
    "a partner": lambda quay, assets, n: (_tough(quay, 500.0, PLAYS[n % len(PLAYS)]), assets),
    "another stage": lambda quay, assets, n: (_tough(on_stage(quay, quay.stages[0].name)), assets),
    "another rate": lambda quay, assets, n: (
        _tough(replace(quay, settings=replace(quay.settings, rate=(30, 120)[n % 2]))),
        assets,
    ),
    **{f"figures with {family}": _shot(family) for family in FAMILIES},
    "drawn figures": lambda quay, assets, n: _paper(),
}


def made_at_random(quay: Project, many: int) -> list[Project]:
    """So many projects made up at random, the same ones always."""
    out: list[Project] = []

    @seed(many)
    @settings(
        max_examples=many,
        database=None,
        deadline=None,
        phases=(Phase.generate,),
        suppress_health_check=list(HealthCheck),
    )
    @drawing(st.data())
    def draw(data: st.DataObject) -> None:
        out.append(data.draw(made_projects(quay)))

    draw()
    return out[:many]


def _bout(asked: tuple[str, int, int, Project | None]) -> tuple[str, int, Compared]:
    kind, n, ticks, project = asked
    quay = open_project(DEMO)
    assets = load_assets(quay, DEMO)[0]
    if project is None:
        project, assets = BOUTS[kind](quay, assets, n)
    build, theirs = handed_over(project, assets)
    return kind, n, compare(build, theirs, at_random(project, build, ticks, n), ticks, n)


def main(words: list[str]) -> int:
    """Compare, tell what is otherwise, and how much there was; 1 where anything is."""
    bouts, ticks = int(words[0]) if words else 200, int(words[1]) if len(words) > 1 else 2000
    quay = open_project(DEMO)
    assets = load_assets(quay, DEMO)[0]
    failed = 0
    build, theirs = handed_over(quay, assets)
    for drill in quay.drills:
        got = compare(build, theirs, drilled(drill), drill.ticks, drill.seed)
        failed += _told(f"drill {drill.name}", got)
    asked: list[tuple[str, int, int, Project | None]] = []
    made = made_at_random(quay, max(bouts // 3, 1))
    asked += [("made up", n, ticks, project) for n, project in enumerate(made)]
    rest = ((kind, n, ticks, None) for n in range(bouts) for kind in BOUTS)
    asked += list(islice(rest, bouts - len(asked)))
    total = Compared()
    with Pool() as pool:
        for kind, n, got in pool.imap_unordered(_bout, asked):
            failed += _told(f"{kind} {n}", got)
            total.ticks, total.contacts = total.ticks + got.ticks, total.contacts + got.contacts
            total.events, total.started = total.events + got.events, total.started + got.started
    print(f"{len(quay.drills)} drills and {len(asked)} bouts, {failed} of them otherwise: {total.ticks} ticks, "
          f"{total.started} actions, {total.contacts} touches, {total.events} events")  # fmt: skip
    return 1 if failed else 0


def _told(what: str, got: Compared) -> int:
    if got.otherwise:
        print(f"{what}, tick {got.ticks}: " + "; ".join(got.otherwise)[:600], flush=True)
    return 1 if got.otherwise else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
