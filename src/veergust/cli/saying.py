"""What the commands print: rows and sentences that no name can turn into something else, and one JSON document."""

from __future__ import annotations

import json
import logging
import os
import sys
from typing import Any

import click
import msgspec

from veergust.core.wording import plain

LOG = logging.getLogger("veergust")


def say(text: str) -> None:
    """A line on standard output."""
    click.echo(plain(text))


def say_rows(rows: list[tuple[str, ...]]) -> None:
    """Rows with their columns under one another."""
    clean = [tuple(plain(cell) for cell in row) for row in rows]
    widths = [max(len(r[i]) for r in clean) for i in range(len(clean[0]))] if clean else []
    for row in clean:
        click.echo("  ".join(cell.ljust(w) for cell, w in zip(row, widths)).rstrip())


def say_json(document: Any) -> None:
    """One JSON document in ASCII: whatever a terminal would obey, or a locale cannot write, stands escaped."""
    try:
        text = msgspec.json.encode(document).decode()
        text = text if text.isascii() else json.dumps(json.loads(text))
    except UnicodeEncodeError:  # a name that is no UTF-8
        text = json.dumps(msgspec.to_builtins(document))
    click.echo(text.replace("\x7f", "\\u007f"))


def warn(text: str) -> None:
    """A sentence on standard error."""
    click.echo(" ".join(plain(text.replace("\n", " ")).split()), err=True)


def settle_output() -> None:
    """Have output that no name, locale or full disk can break: what cannot be written in it is escaped."""
    for stream in (sys.stdout, sys.stderr):
        if hasattr(stream, "reconfigure"):
            stream.reconfigure(errors="backslashreplace")


def drop_output() -> None:
    """Give standard output up, so that the end of the program does not try once more."""
    try:
        nowhere = os.open(os.devnull, os.O_WRONLY)
        os.dup2(nowhere, sys.stdout.fileno())
        os.close(nowhere)
    except (OSError, ValueError):
        return


def say_what_is_done() -> None:
    """From now on, say on standard error what is read, compiled and written, and where a fault came from."""
    handler = logging.StreamHandler()
    handler.setFormatter(logging.Formatter("%(relativeCreated)5.0f ms  %(message)s"))
    LOG.addHandler(handler)
    LOG.setLevel(logging.INFO)
    LOG.propagate = False


def wordy() -> bool:
    """Whether that is asked for."""
    return LOG.isEnabledFor(logging.INFO) and bool(LOG.handlers)
