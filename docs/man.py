"""The manual page, from the commands as they are: ``./run shots man``."""

from __future__ import annotations

from pathlib import Path

import click

from veergust.cli.main import cli

PAGE = Path(__file__).resolve().parents[1] / "src/veergust/home/veergust.1"
HEAD = """\
.TH VEERGUST 1
.SH NAME
veergust \\- action layers on top of locomotion, for combat animators
.SH SYNOPSIS
.B veergust
[\\fIPROJECT\\fR] [\\fIFILE\\fR...]
.br
.B veergust
\\fICOMMAND\\fR [\\fIOPTION\\fR...]
.SH DESCRIPTION
Without a command the window opens, with a project, with motion files that are brought in, or with both. The commands do
the same work without a window.
.SH COMMANDS
"""
FOOT = """\
.SH EXIT STATUS
0: fine; 1: findings of level error, or an expectation that was not met; 2: wrong usage, or input that cannot be read.
.SH FILES
.TP
.I ~/.config/veergust/veergust.ini
what the window remembers
.TP
.I ~/.local/state/veergust
work that was not saved yet, and what went wrong
.TP
.I ~/.local/share/veergust
copies of the demo, and projects that have no place yet
"""


def _escaped(text: str) -> str:
    return text.replace("\\", "\\e").replace("-", "\\-")


def manual() -> str:
    """The page, as man(7) writes it."""
    out = [HEAD]
    context = click.Context(cli, info_name="veergust")
    for name in cli.list_commands(context):
        command = cli.get_command(context, name)
        assert command is not None
        if command.hidden:
            continue
        inner = click.Context(command, info_name=name, parent=context)
        usage = " ".join(command.collect_usage_pieces(inner))
        out.append(f".TP\n.B {name} {_escaped(usage)}\n{_escaped(' '.join((command.help or '').split()))}\n")
        for param in command.params:
            record = param.get_help_record(inner) if isinstance(param, click.Option) else None
            if record is not None:
                out.append(f".RS\n.TP\n.B {_escaped(record[0])}\n{_escaped(record[1])}\n.RE\n")
    return "".join([*out, FOOT])


def main() -> int:
    """Write it anew."""
    PAGE.write_text(manual())
    print(PAGE)
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
