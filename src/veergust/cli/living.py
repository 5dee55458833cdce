"""The command that keeps a running game at what a project is."""

from __future__ import annotations

import time
from pathlib import Path
from typing import Literal

import click

from veergust.cli.given import load
from veergust.cli.saying import say, say_json
from veergust.core.files import digests, read_folder
from veergust.core.live import PORT, LiveLine, faulty, key_in, usual_key
from veergust.core.play import CompiledProject
from veergust.core.trouble import Trouble

FOLDER = click.Path(path_type=Path)
LOOKS = 0.2
"""So often (s) it is looked whether the project was saved anew."""
TURN = 0.02


@click.command("live")
@click.argument("project", type=FOLDER)
@click.option("--port", type=click.IntRange(1, 65535), default=PORT, show_default=True, help="Where the game listens.")
@click.option("--key", type=FOLDER, default=None, help="The file with the key that the game has.")
@click.option("--when", type=click.Choice(["free", "pose"]), default="free", help="Take an edit once nobody plays what "
              "it changes, or at once, by pose.")  # fmt: skip
@click.option("--once", is_flag=True, help="End when the game has taken the project as it is.")
@click.option("--seconds", type=click.FloatRange(0.1), default=None, help="End after so long.")
@click.option("--json", "as_json", is_flag=True, help="Print a JSON object a line.")
def live_(
    project: Path,
    port: int,
    key: Path | None,
    when: Literal["free", "pose"],
    once: bool,
    seconds: float | None,
    as_json: bool,
) -> None:
    """Send a project to a running game, and again whenever it is saved."""
    line = LiveLine(port, key_in(key or usual_key()), when)
    state = digests(read_folder(project))
    build = _whole(project)
    end = time.monotonic() + seconds if seconds is not None else None
    line.send(build)
    line.begin()
    said: dict[str, object] = {}
    looked = time.monotonic()
    try:
        while end is None or time.monotonic() < end:
            time.sleep(TURN)
            line.take()
            now = line.standing
            told: dict[str, object] = {"state": now.state, "says": now.says, "sent": now.sent, "applied": now.applied}
            told["refused"] = now.refused
            if told != said:
                _tell(told, said, now.took, as_json)
                said = told
            if now.state == "refused" or now.refused:
                raise Trouble(now.refused or now.says, file=line.uri, do="see docs/live.md")
            if once and now.even:
                return
            if time.monotonic() - looked > LOOKS:
                looked = time.monotonic()
                if (new := digests(read_folder(project))) != state:
                    state = new
                    line.send(_whole(project))
        if once:
            raise Trouble(
                f"has not taken it: {line.standing.says}", file=line.uri, do="start the game, or say its --port"
            )
    finally:
        line.end()


def _whole(project: Path) -> CompiledProject:
    """What is compiled of a project, which no error is found in. Raises ``Trouble``."""
    build = load(project, whole=True)[1]
    bad = faulty(build)
    if bad:
        raise Trouble(f"has an error among its findings: {bad}", file=project.name, do="see veergust check")
    return build


def _tell(told: dict[str, object], said: dict[str, object], took: float | None, as_json: bool) -> None:
    if as_json:
        say_json({**told, "took": took})
        return
    if told["says"] != said.get("says"):
        say(str(told["says"]))
    if told["sent"] and told["sent"] != said.get("sent"):
        say(f"sent: {told['sent']}")
    if told["applied"] and told["applied"] != said.get("applied"):
        ms = f" after {took * 1000:.0f} ms" if took is not None else ""
        say(f"taken: {told['applied']}{ms}")
