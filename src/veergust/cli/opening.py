"""The commands that open the window, make a project, and put the program where a desktop looks for it."""

from __future__ import annotations

import os
from pathlib import Path

import click

from veergust.cli.given import to_open
from veergust.cli.saying import say, warn
from veergust.cli.showing import show_window
from veergust.core.files import NAME, PAPER, copy_demo, fresh_demo, open_project, refuse_taken, save_project
from veergust.core.model import Project
from veergust.core.wording import plain
from veergust.home.install import install, programs, remove

FOLDER = click.Path(path_type=Path)
AS_JSON = click.option("--json", "as_json", is_flag=True, help="Print one JSON document.")


@click.command("open", hidden=True)
@click.argument("paths", type=FOLDER, nargs=-1, required=True)
def open_(paths: tuple[Path, ...]) -> None:
    """Open the window with a project, with motion files that are brought in, or with both."""
    project, files = to_open(paths)
    if project is not None:
        open_project(project)
    show_window(project, files)


@click.command()
@click.option("--to", type=FOLDER, help="Only copy the demo to this folder.")
@click.option("--paper", is_flag=True, help="The paper theatre, whose figures are drawn.")
def demo(to: Path | None, paper: bool) -> None:
    """A fresh copy of the demo project, in the window."""
    name = PAPER if paper else NAME
    if to is not None:
        copy_demo(to, name)
        say(str(to))
        return
    show_window(fresh_demo(name))


@click.command()
@click.argument("folder", type=FOLDER)
def new(folder: Path) -> None:
    """An empty project."""
    refuse_taken(folder)
    save_project(Project(name=plain(folder.stem) or "Untitled"), folder)
    say(str(folder))


@click.command("install")
@click.option("--remove", "away", is_flag=True, help="Take it away again.")
def install_(away: bool) -> None:
    """The program on your path, in the desktop's menu, with its manual page and completion, for you alone."""
    for path in remove() if away else install():
        say(str(path))
    if not away and str(programs()) not in os.environ.get("PATH", "").split(os.pathsep):
        warn(f"{programs()} is not on your PATH: add it, or start the program by its full path.")
