"""The ``flipbook`` command: a clip or an action as a sheet of cells."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import click

from veergust.cli.given import load
from veergust.cli.saying import say
from veergust.core.trouble import Trouble

FOLDER = click.Path(path_type=Path)


@click.command()
@click.argument("project", type=FOLDER)
@click.argument("name")
@click.option("--to", type=FOLDER, required=True, help="The sheet, a PNG; what is on it goes beside it as .json.")
@click.option("--cells", type=click.IntRange(1, 5000), help="So many cells, held as evenly as may be.")
@click.option(
    "--every",
    type=click.IntRange(1, 600),
    help="A cell for every so many frames (else 3, or a cell a drawing).",
)
@click.option("--side", type=click.Choice(["left", "right", "front"]), default="left", show_default=True)
@click.option("--height", type=click.IntRange(8, 4096), default=256, show_default=True, help="Of a cell, in pixels.")
def flipbook(project: Path, name: str, to: Path, cells: int | None, every: int | None, side: Any, height: int) -> None:
    """A clip or an action as a flipbook: cells on one sheet, with holds, points and boxes."""
    from veergust.report.flipbook import flipbook as make

    if cells is not None and every is not None:
        raise Trouble("--cells and --every say the same thing twice", do="give one of the two")
    if to.suffix.lower() != ".png":
        raise Trouble("is no PNG by its name", file=to.name, do="call it something.png")
    made = make(load(project)[1], name, to, cells=cells, every=every, side=side, height=height)
    holds = " ".join(map(str, made.holds))
    say(f"{to}: {len(made.holds)} cells of {made.size[0]} × {made.size[1]}, held {holds} frames")
