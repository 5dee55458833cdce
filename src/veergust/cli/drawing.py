"""The ``render`` command: frames as a picture, side by side, or moving."""

from __future__ import annotations

from pathlib import Path

import click

from veergust.cli.given import load, tick_list
from veergust.cli.saying import say
from veergust.core.files import read_inputs
from veergust.core.play import schedule
from veergust.core.trouble import Trouble

FOLDER = click.Path(path_type=Path)


@click.command()
@click.argument("project", type=FOLDER)
@click.option("--action")
@click.option("--clip")
@click.option("--play", "script", type=FOLDER, help="JSON list of inputs, played on the project's stage.")
@click.option("--frame", type=int, default=0)
@click.option("--ticks", help="FROM:TO or FROM:TO:STEP: these ticks side by side, TO left out, from a still camera.")
@click.option("--moving", is_flag=True, help="One after the other, as a moving picture.")
@click.option(
    "--spans", is_flag=True, help="Under a moving picture of an action its spans, and the frame that is shown."
)
@click.option("-o", "out", type=FOLDER, required=True)
@click.option("--size", default="960x640", show_default=True)
@click.option("--theme", type=click.Choice(["day", "night"]), default="day", show_default=True)
def render(
    project: Path,
    action: str | None,
    clip: str | None,
    script: Path | None,
    frame: int,
    ticks: str | None,
    moving: bool,
    spans: bool,
    out: Path,
    size: str,
    theme: str,
) -> None:
    """Frames of an action, a clip or a play: a PNG, or a moving picture (.webp, .gif, .apng, or .png with --moving)."""
    from veergust.render.moving import MOVES
    from veergust.report.frames import Wanted, render_frames, render_moving

    if [action, clip, script].count(None) != 2:
        raise Trouble("give one of --action, --clip and --play", do="name just one of them")
    if script is not None and ticks is None:
        raise Trouble("--play needs --ticks", do="say which, as in --ticks 20:40:4")
    value, build = load(project, whole=clip is None, actions=(action,) if action else (), locomotion=action is None)
    steps = read_inputs(script, value) if script is not None else ()
    wanted = Wanted(project.name, action, clip, schedule(steps) if script is not None else None)
    if moving and ticks is None:
        raise Trouble("--moving needs --ticks", do="say which, as in --ticks 0:60")
    moves = ticks is not None and (moving or out.suffix.lower() in MOVES)
    if spans and not (moves and action is not None):
        raise Trouble("--spans is for a moving picture of an action", do="give --action, --ticks and --moving")
    if ticks is not None and moves:
        render_moving(build, wanted, tick_list(ticks), out, size, theme, spans=spans)
    else:
        render_frames(build, wanted, (frame,) if ticks is None else tick_list(ticks), out, size, theme)
    say(str(out))
