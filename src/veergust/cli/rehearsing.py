"""The ``rehearse`` command: a drill over a bad connection."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from veergust.cli.given import load
from veergust.cli.saying import say, say_json
from veergust.core.trouble import Trouble, named

if TYPE_CHECKING:
    from veergust.core.model import Drill
    from veergust.core.play import CompiledProject
    from veergust.core.rehearse import LineWay

DELAYS = (0.0, 40.0, 80.0, 120.0, 160.0, 200.0)
LOSSES = (0.0, 0.05, 0.2)


@click.command()
@click.argument("project", type=click.Path(path_type=Path))
@click.option("--drill", "name", help="Whose steps the two players give.")
@click.option("--take", help="Instead of a drill: what was given in a kept take.")
@click.option("--pair", nargs=2, metavar="ATTACK ANSWER", help="Instead of a drill: two actions against each other.")
@click.option(
    "--after", type=click.IntRange(0, 600), default=0, help="So many frames after the attack the answer is given."
)
@click.option("--delay", type=click.FloatRange(0, 5000), default=None, help="One way, in ms.")
@click.option("--map", "mapped", is_flag=True, help="Over many delays and losses: how far it carries.")
@click.option("--spread", type=click.FloatRange(0, 5000), default=0.0, help="How far that is off either way, in ms.")
@click.option(
    "--loss", type=click.FloatRange(0, 1, max_open=True), default=0.0, help="The share of packets lost, as 0.05."
)
@click.option("--decides", type=click.Choice(["server", "attacker", "victim"]), default="server", show_default=True)
@click.option("--waits", is_flag=True, help="A player is shown what is sure, instead of a guess that is put right.")
@click.option(
    "--held-back", type=click.IntRange(0, 600), default=0, help="For so many frames a player's own input waits."
)
@click.option("--seed", type=int, default=1, show_default=True, help="Of what is late and lost.")
@click.option("--json", "as_json", is_flag=True, help="Print one JSON document.")
def rehearse(
    project: Path,
    name: str | None,
    take: str | None,
    pair: tuple[str, str] | None,
    after: int,
    delay: float | None,
    mapped: bool,
    spread: float,
    loss: float,
    decides: Any,
    waits: bool,
    held_back: int,
    seed: int,
    as_json: bool,
) -> None:
    """A drill, a kept take or a pair of actions, played by two over a line that is late, with one who decides: what
    each saw, and what counted."""
    from veergust.core.rehearse import LineWay, Quality, of_take, told
    from veergust.core.rehearse import pair as pair_of
    from veergust.core.rehearse import rehearse as play

    value, build = load(project, whole=True)
    if [name, take, pair].count(None) != 2:
        raise Trouble("there is a --drill to rehearse, a --take or a --pair", do="give one of them")
    if pair is not None:
        drill = pair_of(build, *pair, after)
    elif take is not None:
        drill = of_take(named(value.takes, take, "take", file=project.name))
    else:
        drill = named(value.drills, name or "", "drill", file=project.name)
    if mapped == (delay is not None):
        raise Trouble("a line has one --delay, or there is a --map over many", do="give one of the two")
    if delay is None:
        _map(build, drill, LineWay(decides, spread, waits, held_back), as_json)
        return
    made = play(build, drill, Quality(delay, spread, loss), decides, seed, waits=waits, held_back=held_back)
    found = told(made, decides)
    if as_json:
        say_json(found)
        return
    for row in found["differ"]:
        say(f"{row['from']}–{row['to']}: {row['says']}")
    for what in ("touches", "dodges"):
        say(f"{what} seen {found[what]['seen']}, counted {found[what]['counted']}")
    for end, events in found["events"].items():
        late, never = events["late"], events["never_were"]
        say(f"events told to {found['ends'][end]} {events['told']}, late {late}, that never were {never}")
    say(f"put back by {found['pulled_back']:.2f} m at the most")


def _map(build: CompiledProject, drill: Drill, way: LineWay, as_json: bool) -> None:
    from veergust.core.rehearse import advice, carried, in_json

    rows = []
    for row in carried(build, drill, DELAYS, LOSSES, way, alone=True):
        rows.append(row)
        if as_json:
            continue
        touches, dodges = ("{1} of {0}".format(*pair) for pair in (row.touches, row.dodges))
        line = f"{row.delay:g} ms, {row.loss:.0%} lost: touches {touches} counted, dodges {dodges}"
        say(f"{line}, put back {row.pulled_back:.2f} m")
    words = advice(build, drill, rows, way.held_back)
    if as_json:
        say_json({"rows": in_json(rows), "advice": words})
        return
    for line in words:
        say(line)
