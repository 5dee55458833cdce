"""The commands about clips: bringing files in, what clips hold, where something strikes."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

import click

from veergust.cli import shapes
from veergust.cli.given import load
from veergust.cli.saying import say, say_json, say_rows
from veergust.core.files import How, import_file, open_to_write
from veergust.core.study import find_moves, reading_of
from veergust.core.trouble import Trouble, Unknown

FOLDER = click.Path(path_type=Path)
AS_JSON = click.option("--json", "as_json", is_flag=True, help="Print one JSON document.")


@click.command("import")
@click.argument("project", type=FOLDER)
@click.argument("files", type=FOLDER, nargs=-1, required=True)
@click.option("--cell", default="", metavar="WxH", help="Of a bare sheet: its cells are so large (px).")
@click.option("--grid", default="", metavar="COLUMNSxROWS", help="Of a bare sheet: it has so many cells.")
@click.option("--margin", type=click.IntRange(0), default=0, help="Pixels around all cells.")
@click.option("--spacing", type=click.IntRange(0), default=0, help="Pixels between cells.")
@click.option("--hold", type=click.IntRange(1, 10_000), default=None, help="Frames for which each cell is held.")
@click.option("--metre", type=click.FloatRange(0.01, 65_535), default=None, help="Pixels a metre.")
@click.option("--looks", type=click.Choice(["left", "right"]), default="right", help="Which way it is drawn.")
@click.option("--edges", type=click.Choice(["crisp", "smooth"]), default="crisp", help="How its pixels are enlarged.")
@click.option("--rows", is_flag=True, help="Each row of cells is a clip.")
@click.option("--strikes", is_flag=True, help="Propose hitboxes where something new reaches out.")
@AS_JSON
def import_(project: Path, files: tuple[Path, ...], cell: str, grid: str, as_json: bool, **given: Any) -> None:
    """Bring files into a project: motion as .glb, .gltf, .bvh or .csv, drawings as a sheet (.png, with what is on it
    as .json beside it, or bare), a folder of numbered pictures, a .gif or an animated .png."""
    how = How(size=_pair(cell, "--cell"), grid=_pair(grid, "--grid"), **given)
    clips: list[str] = []
    left_out: list[str] = []
    with open_to_write(project) as (value, known, lock):
        for file in files:
            done = import_file(value, project, file, how=how, lock=lock, known=known)
            value, known = done.project, dict(done.known or {})
            clips += done.clips
            left_out += [f"{file.name}: {words}" for words in done.left_out]
    if as_json:
        say_json({"clips": clips, "figure": value.rig.figure, "left_out": left_out})
        return
    say(f"{len(clips)} clips: {', '.join(clips)}" if clips else "A figure, and no clips.")
    for words in left_out:
        say(words)


def _pair(text: str, option: str) -> tuple[int, int] | None:
    """Two whole numbers with an x between them; none where nothing is given."""
    match = re.fullmatch(r"(\d{1,5})x(\d{1,5})", text) if text else None
    if text and match is None:
        raise Trouble(f"{option} {text!r} is no size", do="write it like 64x48")
    return (int(match[1]), int(match[2])) if match is not None else None


@click.command()
@click.argument("project", type=FOLDER)
@AS_JSON
def clips(project: Path, as_json: bool) -> None:
    """What clips there are."""
    _, build = load(project)
    rows = shapes.clips(build)
    if as_json:
        say_json({"clips": rows})
    else:
        say_rows([(r["name"], f"{r['seconds']:.2f} s", "loops" if r["loop"] else "", r["source"]) for r in rows])


@click.command("moves")
@click.argument("project", type=FOLDER)
@click.argument("clip")
@AS_JSON
def moves_(project: Path, clip: str, as_json: bool) -> None:
    """Parts of a clip's whole source in which something strikes, by frames of the source."""
    value, build = load(project)
    if all(c.name != clip for c in value.clips):
        raise Unknown("clip", clip, [c.name for c in value.clips], file=project.name)
    reading = reading_of(build, clip)
    if reading is None:
        raise Trouble(f"clip {clip!r} cannot be read", file=project.name, do="see that its file is there")
    found = find_moves(reading)
    if as_json:
        say_json({"moves": [shapes.move(m) for m in found]})
    elif found:
        say_rows([("from", "to", "strike", "joint", "sure"),
                  *((str(m.start), str(m.end), str(m.strike), m.joint, f"{m.sure:.2f}") for m in found)])  # fmt: skip
    else:
        say("No hand and no foot strikes out in it.")
