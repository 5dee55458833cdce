"""The commands that count and check: ``facts`` and ``check``."""

from __future__ import annotations

import sys
from pathlib import Path

import click

from veergust.cli import shapes
from veergust.cli.given import load
from veergust.cli.saying import say, say_json, say_rows
from veergust.core.study import facts_of, findings, pops
from veergust.core.trouble import Unknown

FOLDER = click.Path(path_type=Path)
AS_JSON = click.option("--json", "as_json", is_flag=True, help="Print one JSON document.")


@click.command("facts")
@click.argument("project", type=FOLDER)
@click.argument("actions", nargs=-1)
@AS_JSON
def facts_(project: Path, actions: tuple[str, ...], as_json: bool) -> None:
    """The numbers of the actions."""
    value, build = load(project, whole=True, actions=actions)
    known = [a.name for a in value.actions]
    for name in actions:
        if name not in known:
            raise Unknown("action", name, known, file=project.name)
    names = actions or known
    unseen = not sys.stderr.isatty()
    with click.progressbar(facts_of(build, names), len(names), "Facts", file=sys.stderr, hidden=unseen) as each:
        found = [f for f in each if f is not None]
    if as_json:
        say_json({"actions": [shapes.facts(f) for f in found]})
        return
    rows: list[tuple[str, ...]] = [("action", "startup", "active", "recovery", "total", "on hit", "on guard", "reach")]
    rows += [
        (f.name, *("–" if v is None else str(v) for v in (f.startup, f.active, f.recovery, f.total, f.on_hit,
                                                          f.on_guard, f.reach)))
        for f in found
    ]  # fmt: skip
    say_rows(rows)


@click.command()
@click.argument("project", type=FOLDER)
@AS_JSON
def check(project: Path, as_json: bool) -> None:
    """What the checks find; exit 1 when one is an error."""
    _, build = load(project)
    found = findings(build)
    if as_json:
        made = [build.action(action.name) for action in build.project.actions]
        leaps = [shapes.pop(p) for compiled in made if compiled is not None for p in pops(build, compiled)]
        say_json({"findings": [shapes.finding(f) for f in found], "pops": leaps})
    else:
        for f in found:
            say(f"{f.level}: {f.where} {f.says}; {f.do}.")
        if not found:
            say("Nothing found.")
    sys.exit(1 if any(f.level == "error" for f in found) else 0)
