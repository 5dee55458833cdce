"""The command line, to docs/commands.md."""

from __future__ import annotations

import os
import sys
import traceback
from contextlib import nullcontext, suppress
from difflib import get_close_matches
from pathlib import Path
from typing import Any

import click

from veergust.cli import shapes
from veergust.cli.charts import bring_chart, say_ground, say_layers
from veergust.cli.comparing import diff
from veergust.cli.comparing import merge as merge_command
from veergust.cli.drawing import render
from veergust.cli.given import joints_named, load, to_open
from veergust.cli.handing import export
from veergust.cli.mapping import map_
from veergust.cli.reporting import report
from veergust.cli.saying import drop_output, say, say_json, say_rows, say_what_is_done, settle_output, warn, wordy
from veergust.core.files.atomic import whole_file
from veergust.core.files.demo import copy_demo, fresh_demo, refuse_taken
from veergust.core.files.faults import note
from veergust.core.files.folder import open_project
from veergust.core.files.importing import import_file
from veergust.core.files.inputs import read_inputs
from veergust.core.files.opened import open_to_write
from veergust.core.files.saving import save_project
from veergust.core.files.scxml_write import to_scxml
from veergust.core.model import Project
from veergust.core.play.scripted import schedule
from veergust.core.play.simulation import Simulation
from veergust.core.play.take.record import write_take
from veergust.core.study.clip_reading import reading_of
from veergust.core.study.findings import findings
from veergust.core.study.many import facts_of
from veergust.core.study.moves import find_moves
from veergust.core.study.pops import pops
from veergust.core.trouble import Trouble, Unknown
from veergust.core.wording import plain
from veergust.home.install import ignore_relative_places, install, programs, remove

FOLDER = click.Path(path_type=Path)
AS_JSON = click.option("--json", "as_json", is_flag=True, help="Print one JSON document.")


class Commands(click.Group):
    """A first word that is no command is a project to open."""

    def resolve_command(self, ctx: click.Context, args: list[str]) -> Any:
        if args and args[0] not in self.commands and not args[0].startswith("-"):
            word = args[0]
            if not Path(word).exists() and (len(args) > 1 or get_close_matches(word, self.commands, 1, 0.75)):
                raise Unknown("command", word, sorted(n for n, c in self.commands.items() if not c.hidden))
            args = ["open", *args]
        return super().resolve_command(ctx, args)


@click.group(cls=Commands, invoke_without_command=True, context_settings={"help_option_names": ["-h", "--help"]})
@click.version_option(package_name="veergust", message="veergust %(version)s")
@click.option("--verbose", is_flag=True, help="Say on standard error what is done, and where a fault came from.")
@click.pass_context
def cli(ctx: click.Context, verbose: bool) -> None:
    """Action layers on top of locomotion, for combat animators. With no command: open the window."""
    if verbose:
        say_what_is_done()
    if ctx.invoked_subcommand is None:
        _window(None)


def _window(project: Path | None, files: tuple[Path, ...] = ()) -> None:
    from veergust.desk.app import run

    sys.exit(run(project, files))


@cli.command("open", hidden=True)
@click.argument("paths", type=FOLDER, nargs=-1, required=True)
def open_(paths: tuple[Path, ...]) -> None:
    """Open the window with a project, with motion files that are brought in, or with both."""
    project, files = to_open(paths)
    if project is not None:
        open_project(project)
    _window(project, files)


@cli.command()
@click.option("--to", type=FOLDER, help="Only copy the demo to this folder.")
def demo(to: Path | None) -> None:
    """A fresh copy of the demo project, in the window."""
    if to is not None:
        copy_demo(to)
        say(str(to))
        return
    _window(fresh_demo())


@cli.command()
@click.argument("folder", type=FOLDER)
def new(folder: Path) -> None:
    """An empty project."""
    refuse_taken(folder)
    save_project(Project(name=plain(folder.stem) or "Untitled"), folder)
    say(str(folder))


@cli.command("install")
@click.option("--remove", "away", is_flag=True, help="Take it away again.")
def install_(away: bool) -> None:
    """The program on your path, in the desktop's menu, with its manual page and completion, for you alone."""
    for path in remove() if away else install():
        say(str(path))
    if not away and str(programs()) not in os.environ.get("PATH", "").split(os.pathsep):
        warn(f"{programs()} is not on your PATH: add it, or start the program by its full path.")


@cli.command("import")
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


@cli.command()
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


@cli.command("moves")
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


@cli.command("facts")
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


@cli.command()
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


@cli.command()
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


@cli.command()
@click.argument("project", type=FOLDER)
@AS_JSON
def layers(project: Path, as_json: bool) -> None:
    """Layers over locomotion: what each speaks for and where, masks joint by joint, and findings."""
    made = shapes.layers(load(project)[1])
    say_json(made) if as_json else say_layers(made)


@cli.command()
@click.argument("project", type=FOLDER)
@click.option("--input", "input_", type=FOLDER, help="JSON list of inputs.")
@click.option("--ticks", type=click.IntRange(1, 1_000_000), required=True)
@click.option("--seed", type=int, default=1, show_default=True)
@click.option("--take", type=FOLDER, help="Write the take here, a JSON object a line.")
@click.option("--joints", help="Names of joints, by commas: where they are in the world on every tick.")
@AS_JSON
def play(
    project: Path, input_: Path | None, ticks: int, seed: int, take: Path | None, joints: str | None, as_json: bool
) -> None:
    """Play scripted inputs on the project's stage."""
    value, build = load(project, whole=True)
    asked = joints_named(build, project.name, joints)
    steps = read_inputs(input_, value) if input_ else ()
    inputs = schedule(steps)
    build.prepare()
    simulation = Simulation(build, seed)
    contacts: list[dict[str, Any]] = []
    with whole_file(take) if take is not None else nullcontext() as out:
        for t in range(ticks):
            record = simulation.tick(inputs.get(t, []))
            if out is not None:
                out.write(write_take([record], asked))
            if record.contacts:
                contacts += [{"tick": record.tick, **c} for c in record.line()["contacts"]]
    last = record.line(asked)
    if as_json:
        say_json({"ticks": ticks, "seed": seed, "contacts": contacts, "last": last})
        return
    for c in contacts:
        say(f"{c['tick']}: {c['strike']} of {c['attacker']} {c['result']} {c['victim']} ({c['hurtbox']})")
    for f in last["fighters"]:
        where = ", ".join(f"{v:.2f}" for v in f["position"])
        say(f"{f['name']}: {f['ground']}, at {where}, health {f['health']:g}")


@cli.command()
@click.argument("project", type=FOLDER)
@click.argument("names", nargs=-1)
@AS_JSON
@click.option("--junit", type=FOLDER, help="The results as JUnit XML, for a build machine.")
def drill(project: Path, names: tuple[str, ...], as_json: bool, junit: Path | None) -> None:
    """Run the project's drills; exit 1 when one fails."""
    from veergust.cli.drilling import drill_project

    sys.exit(0 if drill_project(project, names, as_json, junit) else 1)


cli.add_command(render)
cli.add_command(map_)
cli.add_command(diff)
cli.add_command(export)
cli.add_command(report)
cli.add_command(merge_command)


def main(arguments: list[str] | None = None) -> None:
    """The console entry: runs a command and turns every trouble into one sentence and exit 2."""
    settle_output()
    ignore_relative_places()
    code = 2
    try:
        code = _run(arguments)
        sys.stdout.flush()
    except BrokenPipeError:  # whoever read has read enough
        drop_output()
    except OSError as error:
        drop_output()
        place = f"{error.filename}: " if error.filename else "standard output: "
        code = _fail(f"{place}cannot be written or read ({error.strerror or error}); check the disk and the rights.")
    sys.exit(code)


def _run(arguments: list[str] | None) -> int:
    try:
        result = cli.main(args=arguments, prog_name="veergust", standalone_mode=False)
        return result if isinstance(result, int) else 0
    except Trouble as trouble:
        return _fail(str(trouble))
    except click.exceptions.Exit as stop:
        return int(stop.exit_code)
    except SystemExit as stop:
        return stop.code if isinstance(stop.code, int) else 0
    except click.ClickException as error:
        return _fail(error.format_message().rstrip(".") + "; see veergust --help.")
    except (click.Abort, KeyboardInterrupt):
        return 130
    except MemoryError:
        return _fail("The file asks for more memory than there is; export it smaller.")
    except RecursionError:
        return _fail("The project leads into itself deeper than can be followed; look at what leads to itself.")
    except OSError:
        raise
    except Exception as error:  # noqa: BLE001
        if wordy():
            warn("".join(traceback.format_exception(error)))
        return _fail(note(error))


def _fail(sentence: str) -> int:
    with suppress(OSError):
        warn(sentence)
    return 2
