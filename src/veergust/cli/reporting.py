"""The ``report`` command: a page to print or to send, a table of values, plain text."""

from __future__ import annotations

from pathlib import Path

import click

from veergust.cli.given import load
from veergust.cli.saying import say
from veergust.core.files import whole_file
from veergust.core.trouble import Trouble

FOLDER = click.Path(path_type=Path)


@click.command()
@click.argument("project", type=FOLDER)
@click.option("-o", "page", type=FOLDER, help="The page (.html), or a plain table (.txt).")
@click.option("--csv", "table", type=FOLDER, help="One row an action, as RFC 4180 has it.")
@click.option("--actions", help="Only these actions, by commas.")
def report(project: Path, page: Path | None, table: Path | None, actions: str | None) -> None:
    """The move list with its numbers, each action drawn, its spans, ways out, floor map, versions and findings."""
    from veergust.report.rows import as_csv, as_text, reports

    if page is None and table is None:
        raise Trouble("give -o FILE.html, --csv FILE, or both", do="say where it is to be written")
    names = tuple(name.strip() for name in actions.split(",") if name.strip()) if actions is not None else ()
    _, build = load(project, whole=True, actions=names, locomotion=False)
    rows = reports(build, names)
    written: dict[Path, str] = {}
    if page is not None and page.suffix.lower() == ".txt":
        written[page] = as_text(rows)
    elif page is not None:
        from veergust.report.page import as_page

        written[page] = as_page(build, rows)
    if table is not None:
        written[table] = as_csv(rows)
    for path, text in written.items():
        with whole_file(path) as out:
            out.write(text.encode("utf-8", "replace"))
        say(str(path))
