"""The commands about locomotion and layers: ``ground`` and ``layers``."""

from __future__ import annotations

from pathlib import Path

import click

from veergust.cli import shapes
from veergust.cli.charts import bring_chart, say_ground, say_layers
from veergust.cli.given import load
from veergust.cli.saying import say_json
from veergust.core.files import to_scxml, whole_file
from veergust.core.trouble import Trouble

FOLDER = click.Path(path_type=Path)
AS_JSON = click.option("--json", "as_json", is_flag=True, help="Print one JSON document.")


@click.command()
@click.argument("project", type=FOLDER)
@click.option("--to", type=FOLDER, help="Write the chart here, as State Chart XML.")
@click.option("--from", "source", type=FOLDER, help="Take states, groups and transitions from this SCXML document.")
@AS_JSON
def ground(project: Path, to: Path | None, source: Path | None, as_json: bool) -> None:
    """Locomotion: its states, transitions, parameters and findings; to and from State Chart XML."""
    if to is not None and source is not None:
        raise Trouble("give one of --to and --from", do="name just one of them")
    left_out = bring_chart(project, source) if source is not None else []
    value, build = load(project)
    if to is not None:
        with whole_file(to) as out:
            out.write(to_scxml(value.locomotion, value.name))
    made = shapes.ground(build)
    if as_json:
        say_json({**made, "left_out": left_out} if source is not None else made)
    else:
        say_ground(made, left_out)


@click.command()
@click.argument("project", type=FOLDER)
@AS_JSON
def layers(project: Path, as_json: bool) -> None:
    """Layers over locomotion: what each speaks for and where, masks joint by joint, and findings."""
    made = shapes.layers(load(project)[1])
    say_json(made) if as_json else say_layers(made)
