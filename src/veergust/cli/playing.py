"""The commands that play: ``play`` and ``drill``."""

from __future__ import annotations

import sys
from contextlib import nullcontext
from pathlib import Path
from typing import Any

import click

from veergust.cli.given import joints_named, load
from veergust.cli.saying import say, say_json
from veergust.core.files import read_inputs, whole_file
from veergust.core.play import Simulation, schedule, write_take

FOLDER = click.Path(path_type=Path)
AS_JSON = click.option("--json", "as_json", is_flag=True, help="Print one JSON document.")


@click.command()
@click.argument("project", type=FOLDER)
@click.option("--input", "input_", type=FOLDER, help="JSON list of inputs.")
@click.option("--ticks", type=click.IntRange(1, 1_000_000), required=True)
@click.option("--seed", type=int, default=1, show_default=True)
@click.option("--take", type=FOLDER, help="Write the take here, a JSON object a line.")
@click.option("--joints", help="Names of joints, by commas: where they are in the world on every tick.")
@AS_JSON
def play(
    project: Path, input_: Path | None, ticks: int, seed: int, take: Path | None, joints: str | None, as_json: bool
) -> None:
    """Play scripted inputs on the project's stage."""
    value, build = load(project, whole=True)
    asked = joints_named(build, project.name, joints)
    steps = read_inputs(input_, value) if input_ else ()
    inputs = schedule(steps)
    build.prepare()
    simulation = Simulation(build, seed)
    contacts: list[dict[str, Any]] = []
    with whole_file(take) if take is not None else nullcontext() as out:
        for t in range(ticks):
            record = simulation.tick(inputs.get(t, []))
            if out is not None:
                out.write(write_take([record], asked))
            if record.contacts:
                contacts += [{"tick": record.tick, **c} for c in record.line()["contacts"]]
    last = record.line(asked)
    if as_json:
        say_json({"ticks": ticks, "seed": seed, "contacts": contacts, "last": last})
        return
    for c in contacts:
        say(f"{c['tick']}: {c['strike']} of {c['attacker']} {c['result']} {c['victim']} ({c['hurtbox']})")
    for f in last["fighters"]:
        where = ", ".join(f"{v:.2f}" for v in f["position"])
        say(f"{f['name']}: {f['ground']}, at {where}, health {f['health']:g}")


@click.command()
@click.argument("project", type=FOLDER)
@click.argument("names", nargs=-1)
@AS_JSON
@click.option("--junit", type=FOLDER, help="The results as JUnit XML, for a build machine.")
def drill(project: Path, names: tuple[str, ...], as_json: bool, junit: Path | None) -> None:
    """Run the project's drills; exit 1 when one fails."""
    from veergust.cli.drilling import drill_project

    sys.exit(0 if drill_project(project, names, as_json, junit) else 1)
