"""The ``diff`` and ``merge`` commands: what was changed, in the animator's terms, and both sides put together."""

from __future__ import annotations

import sys
from collections.abc import Iterable
from contextlib import ExitStack
from pathlib import Path
from typing import Any

import click

from veergust.cli.saying import say, say_json, warn
from veergust.core.changes import ToldChange, plain
from veergust.core.files import Beneath, digest_of, named_files
from veergust.core.model import Project
from veergust.core.trouble import Trouble

FOLDER = click.Path(path_type=Path)


@click.command()
@click.argument("old", type=FOLDER)
@click.argument("new", type=FOLDER, required=False)
@click.option("--rev", "revision", help="A revision of the project's git repository, in place of OLD.")
@click.option("--json", "as_json", is_flag=True, help="Print one JSON document.")
def diff(old: Path, new: Path | None, revision: str | None, as_json: bool) -> None:
    """What changed from OLD to NEW, or in OLD since --rev."""
    from veergust.core.changes import changes, numbers
    from veergust.core.files import assets_as_needed, at_revision, open_project
    from veergust.core.play import CompiledProject

    if (new is None) == (revision is None):
        raise Trouble("give two project folders, or one and --rev", do="see veergust diff --help")
    with ExitStack() as stack:
        before, after = (old, new) if new is not None else (stack.enter_context(at_revision(old, revision or "")), old)
        was, now = open_project(before), open_project(after)
        found = changes(was, now)
        same, files = same_sources(before, was, after, now)
        if found or same < files:
            # Only what is otherwise can come to other numbers; reading the clips is most of the work.
            one, other = (CompiledProject(p, assets_as_needed(p, at)) for p, at in ((was, before), (now, after)))
            found += numbers(one, other, found, same)
    if as_json:
        say_json({"changes": [shape(one) for one in found]})
        return
    for line in lines(found):
        say(line)


def same_sources(before: Path, was: Project, after: Path, now: Project) -> tuple[set[str], set[str]]:
    """The files that two projects name and that hold the same, byte for byte; and all that either names."""
    files = [{file for _, file in named_files(project)} for project in (was, now)]
    with Beneath(before) as one, Beneath(after) as other:
        same = {file for file in files[0] & files[1] if digest_of(one, file) == digest_of(other, file)}
    return same, files[0] | files[1]


def shape(change: ToldChange) -> dict[str, Any]:
    """A change as JSON."""
    return {
        "where": list(change.where),
        "what": change.what,
        "old": plain(change.old),
        "new": plain(change.new),
        "says": change.says,
    }


def lines(found: Iterable[ToldChange]) -> list[str]:
    """A line for each action, clip, state … that was changed; one where nothing was."""
    rows: dict[str, list[str]] = {}
    for change in found:
        rows.setdefault(change.of, []).append(change.says.removeprefix(f"{change.of}: "))
    return [f"{name}: {'; '.join(dict.fromkeys(says))}" for name, says in rows.items()] or ["Nothing changed."]


@click.command()
@click.argument("base", type=FOLDER)
@click.argument("ours", type=FOLDER)
@click.argument("theirs", type=FOLDER)
def merge(base: Path, ours: Path, theirs: Path) -> None:
    """Put OURS and THEIRS together, which both come from BASE, and write that to OURS.

    Project folders, or files of one, as git's merge driver gives them. Exit 1 where both changed the same: ours stays,
    and of an action theirs is kept as a version beside it.
    """
    from veergust.core.files import merge_files, merge_folders

    folders = [path.is_dir() for path in (base, ours, theirs)]
    if any(folders) != all(folders):
        raise Trouble("give three project folders, or three files of one", do="see veergust merge --help")
    clashes = merge_folders(base, ours, theirs) if all(folders) else merge_files(base, ours, theirs)
    for words in clashes:
        warn(f"both changed {words}; ours stays.")
    sys.exit(1 if clashes else 0)
