"""The command line: finds the command that is meant, and turns every trouble into one sentence.

A command's module is loaded when it is asked for, so that nobody waits for what others need.
"""

from __future__ import annotations

import sys
import traceback
from collections.abc import Mapping
from contextlib import suppress
from difflib import get_close_matches
from importlib import import_module
from pathlib import Path
from typing import Any

import click

from veergust.cli.saying import drop_output, say_what_is_done, settle_output, warn, wordy
from veergust.core.files import note
from veergust.core.trouble import Trouble, Unknown
from veergust.home.install import ignore_relative_places

WHERE: Mapping[str, str] = {
    "open": "opening.open_", "demo": "opening.demo", "new": "opening.new", "install": "opening.install_",
    "import": "clipping.import_", "clips": "clipping.clips", "moves": "clipping.moves_", "facts": "studying.facts_",
    "check": "studying.check", "ground": "grounding.ground", "layers": "grounding.layers", "play": "playing.play",
    "drill": "playing.drill", "render": "drawing.render", "map": "mapping.map_", "diff": "comparing.diff",
    "export": "handing.export", "flipbook": "flipping.flipbook", "report": "reporting.report",
    "merge": "comparing.merge", "rehearse": "rehearsing.rehearse", "live": "living.live_",
}  # fmt: skip
"""Each command: its module in this room, and what it is called there."""


class Commands(click.Group):
    """A first word that is no command is a project to open."""

    def list_commands(self, ctx: click.Context | None) -> list[str]:
        return sorted(WHERE)

    def get_command(self, ctx: click.Context | None, cmd_name: str) -> click.Command | None:
        if cmd_name not in WHERE:
            return None
        module, name = WHERE[cmd_name].split(".")
        command = getattr(import_module(f"veergust.cli.{module}"), name)
        return command if isinstance(command, click.Command) else None

    def every(self) -> dict[str, click.Command]:
        """All commands by name."""
        found = ((name, self.get_command(None, name)) for name in self.list_commands(None))
        return {name: command for name, command in found if command is not None}

    def resolve_command(self, ctx: click.Context, args: list[str]) -> Any:
        if args and args[0] not in WHERE and not args[0].startswith("-"):
            word = args[0]
            if not Path(word).exists() and (len(args) > 1 or get_close_matches(word, WHERE, 1, 0.75)):
                raise Unknown("command", word, sorted(n for n, c in self.every().items() if not c.hidden))
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
        from veergust.cli.showing import show_window

        show_window(None)


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
