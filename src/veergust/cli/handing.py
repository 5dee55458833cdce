"""The ``export`` command: the project for the game, in its axes and units."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Any

import click

from veergust.cli.given import load
from veergust.cli.saying import say, say_json, warn

FOLDER = click.Path(path_type=Path)


@click.command()
@click.argument("project", type=FOLDER)
@click.option("--to", "folder", type=FOLDER, required=True, help="The folder that the game reads.")
@click.option("--only", multiple=True, help="Only this action anew, in an export that is there; may be given again.")
@click.option("--up", type=click.Choice(["y", "z"]), help="The axis that is up.")
@click.option("--hand", type=click.Choice(["right", "left"]), help="The hand that the axes are of.")
@click.option("--unit", type=click.Choice(["m", "cm"]), help="The unit of lengths.")
@click.option("--no-mesh", is_flag=True, help="Clips with the skeleton alone.")
@click.option("--json", "as_json", is_flag=True, help="Print one JSON document.")
def export(
    project: Path,
    folder: Path,
    only: tuple[str, ...],
    up: Any,
    hand: Any,
    unit: Any,
    no_mesh: bool,
    as_json: bool,
) -> None:
    """Write what the game loads: clips, actions, ground, and a manifest with the digest of each file."""
    from veergust.core.export import Axes
    from veergust.core.export import export as write
    from veergust.core.study import findings

    _, build = load(project, whole=True)
    errors = [f for f in findings(build) if f.level == "error"]
    for found in errors:
        warn(f"{found.where}: {found.says}; {found.do}.")
    if errors:
        warn("Nothing was written: an error stops it.")
        sys.exit(1)
    axes = Axes(up or "y", hand or "right", unit or "m") if up or hand or unit else None
    made = write(build, folder, axes, only or None, mesh=not no_mesh)
    if as_json:
        say_json(
            {
                "written": made.written,
                "unchanged": made.unchanged,
                "removed": made.removed,
                "left_alone": made.left_alone,
            }
        )
        return
    say(f"{folder}: {len(made.written)} written, {len(made.unchanged)} unchanged, {len(made.removed)} removed")
    for path in made.left_alone:
        say(f"{path} was changed by hand, and is kept" if ".changed" in path else f"{path} was changed, and is left")
