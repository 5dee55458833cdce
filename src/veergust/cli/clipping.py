"""The commands about clips: bringing files in, what clips hold, where something strikes."""

from __future__ import annotations

from pathlib import Path

import click

from veergust.cli import shapes
from veergust.cli.given import load
from veergust.cli.saying import say, say_json, say_rows
from veergust.core.files.importing import import_file
from veergust.core.files.opened import open_to_write
from veergust.core.study.clip_reading import reading_of
from veergust.core.study.moves import find_moves
from veergust.core.trouble import Trouble, Unknown

FOLDER = click.Path(path_type=Path)
AS_JSON = click.option("--json", "as_json", is_flag=True, help="Print one JSON document.")


@click.command("import")
@click.argument("project", type=FOLDER)
@click.argument("files", type=FOLDER, nargs=-1, required=True)
@AS_JSON
def import_(project: Path, files: tuple[Path, ...], as_json: bool) -> None:
    """Bring motion files into a project: .glb, .gltf, .bvh, .csv."""
    clips: list[str] = []
    left_out: list[str] = []
    with open_to_write(project) as (value, known, lock):
        for file in files:
            done = import_file(value, project, file, lock=lock, known=known)
            value, known = done.project, dict(done.known or {})
            clips += done.clips
            left_out += [f"{file.name}: {words}" for words in done.left_out]
    if as_json:
        say_json({"clips": clips, "figure": value.rig.figure, "left_out": left_out})
        return
    say(f"{len(clips)} clips: {', '.join(clips)}" if clips else "A figure, and no clips.")
    for words in left_out:
        say(words)


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
