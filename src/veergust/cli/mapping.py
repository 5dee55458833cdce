"""The ``map`` command: where on the floor an action touches, printed, as a picture and as a table."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import click

from veergust.cli.given import load
from veergust.cli.saying import say, say_json, say_rows
from veergust.core.play import CompiledProject
from veergust.core.study import NEVER, FloorMap, MapTarget, floor_map
from veergust.core.trouble import Trouble, Unknown

PLACE = click.Path(path_type=Path)


def shape(found: FloorMap) -> dict[str, Any]:
    """A map as JSON: rows go ahead along z from the origin, columns to the left along x."""
    corner, farthest = found.corner, found.farthest
    return {
        "action": found.action,
        "target": {"stance": found.target.stance, "speed": found.target.speed},
        "step": found.step,
        "origin": list(found.origin),
        "first_touch": [[None if t == NEVER else int(t) for t in row] for row in found.first],
        "reach": found.reach,
        "width": found.width,
        "farthest": None if farthest is None else {"distance": farthest[0], "bearing": farthest[1]},
        "dead_corner": None if corner is None else {"distance": corner[0], "bearing": corner[1]},
    }


def map_action(
    build: CompiledProject,
    name: str,
    target: MapTarget,
    step: float,
    written: tuple[Path | None, Path | None],
    as_json: bool,
) -> None:
    """Print the floor map of an action, and write it as the picture and the table that are asked for."""
    compiled = build.action(name)
    assert compiled is not None
    if not build.project.rig.hurtboxes:
        raise Trouble("the figure has no hurtboxes: nothing of a target can be touched", field="hurtboxes",
                      do="give it some, on Clips")  # fmt: skip
    found = floor_map(build, compiled, target, step)
    picture, table = written
    for path, ending in ((picture, ".png"), (table, ".csv")):
        if path is not None:
            _write(found, path, ending)
    if as_json:
        say_json(shape(found))
        return
    for path in filter(None, written):
        say(str(path))
    if any(written):
        return
    if found.ticks is None:
        say("Nobody who stands is touched.")
        return
    say_rows(_letters(found))
    first, last = found.ticks
    say(f"first touches on frame {first} (a) to {last}; + is where it starts, looking up")
    ahead = "" if found.reach is None else f"{found.reach:.2f} m reach, "
    say(f"{ahead}{found.width:.0f}° wide")


def _write(found: FloorMap, path: Path, ending: str) -> None:
    if path.suffix.lower() != ending:
        raise Trouble(f"{path.name} does not end in {ending}", file=path.name, do=f"end it in {ending}")
    from veergust.desk.sheet.floor_picture import write_without_window

    write_without_window(found, path)


def _letters(found: FloorMap) -> list[tuple[str, ...]]:
    """The map in letters, a for the first frame of all, seen from above with the way ahead upwards."""
    first = found.ticks[0] if found.ticks else 0
    rows, columns = found.first.shape
    start = round(-found.origin[1] / found.step), round(-found.origin[0] / found.step)
    out: list[tuple[str, ...]] = []
    for row in reversed(range(rows)):
        signs = []
        for column in reversed(range(columns)):
            tick = int(found.first[row, column])
            touched = chr(ord("a") + min(tick - first, 25)) if tick != NEVER else "."
            signs.append("+" if (row, column) == start else touched)
        out.append(("".join(signs),))
    return out


@click.command("map")
@click.argument("project", type=PLACE)
@click.argument("action")
@click.option("-o", "out", type=PLACE, help="Write it here, as a PNG.")
@click.option("--csv", "table", type=PLACE, help="Write it here, as a table.")
@click.option("--stance", default="", help="A ground state, or an action, in which the target stands.")
@click.option("--speed", default=0.0, help="How fast the target walks up (m/s); below 0 away.")
@click.option("--step", default=0.1, show_default=True, help="Metres from place to place.")
@click.option("--json", "as_json", is_flag=True, help="Print one JSON document.")
def map_(
    project: Path, action: str, out: Path | None, table: Path | None, stance: str, speed: float, step: float,
    as_json: bool,
) -> None:  # fmt: skip
    """Where on the floor an action touches somebody, and on which frame first."""
    value, build = load(project, whole=True, actions=(action,))
    if all(a.name != action for a in value.actions):
        raise Unknown("action", action, [a.name for a in value.actions], file=project.name)
    map_action(build, action, MapTarget(stance, speed), step, (out, table), as_json)
