"""Makes the demo project beside this script: ``./run demo-clips``. The same source gives the same bytes."""

from __future__ import annotations

from pathlib import Path

from msgspec.structs import replace

import arrivals
import figure
import moves
import scenario
import sounds
from posing import Solver
from veergust.core.edit.hurtboxes import make_hurtboxes, set_region
from veergust.core.edit.outfit import height_of
from veergust.core.files.assets import load_assets
from veergust.core.files.gltf_write import write_glb
from veergust.core.files.saving import save_project
from veergust.core.model import Drill, Project
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.take.came import came_of
from veergust.core.play.take.drills import run_drill, take_of

HERE = Path(__file__).resolve().parent


def make(folder: Path) -> None:
    bones = figure.skeleton()
    clips = folder / "clips"
    clips.mkdir(parents=True, exist_ok=True)
    (clips / "figure.glb").write_bytes(write_glb(bones, figure.mesh(bones)))
    solver = Solver(bones)
    seconds = {}
    made = {}
    for author in moves.ALL:
        motion = solver.motion(author())
        seconds[motion.name] = motion.seconds
        made[motion.name] = motion
        (clips / f"{motion.name}.glb").write_bytes(write_glb(bones, motions=(motion,)))
    project = scenario.project(seconds)
    save_project(project, folder)
    # Where it can be touched, from its skin; a head takes more.
    assets = load_assets(project, folder)[0]
    project = make_hurtboxes(project, assets, height_of(assets)).project
    project = set_region(project, "head", 1.5).project
    save_project(with_what_came(project, CompiledProject(project, assets)), folder)
    sounds.make(folder / "sounds")
    arrivals.make(folder.parent / "to_import", bones, made["staff_thrust"])


def with_what_came(project: Project, build: CompiledProject) -> Project:
    """The project with what its kept takes and drills come to."""

    drills = tuple(replace(drill, came=run_drill(build, drill).came) for drill in project.drills)
    takes = []
    for take in project.takes:
        played = Drill(name=take.name, ticks=take.ticks, seed=take.seed, steps=take.steps, stage=take.stage)
        takes.append(replace(take, came=came_of(take_of(build, played))))
    return replace(project, takes=tuple(takes), drills=drills)


if __name__ == "__main__":
    make(HERE / "lantern_quay.veergust")
