"""The demo project that ships with the program, and fresh copies of it."""

from __future__ import annotations

import shutil
from pathlib import Path

import platformdirs

import veergust
from veergust.core.trouble import Trouble

NAME = "lantern_quay.veergust"


def shipped_demo() -> Path:
    """Where the demo lies: in the installed package, or beside the sources."""
    package = Path(veergust.__file__).resolve().parent
    for folder in (package / "demo" / NAME, package.parents[1] / "demo" / NAME):
        if (folder / "project.json").is_file():
            return folder
    raise Trouble("the demo is not in this installation", do="install the program again")


def copy_demo(target: Path) -> Path:
    """Copy the demo to a folder that is not there yet, or is empty."""
    if target.exists() and (not target.is_dir() or any(target.iterdir())):
        raise Trouble("is there already", file=str(target), do="give a folder that does not exist")
    try:
        shutil.copytree(shipped_demo(), target, dirs_exist_ok=True)
    except OSError as error:
        raise Trouble(
            f"cannot be written ({error.strerror or error})", file=str(target), do="choose another folder"
        ) from error
    return target


def fresh_demo() -> Path:
    """A copy of the demo in the person's own data folder; one that was changed is left alone."""
    home = platformdirs.user_data_path("veergust") / "demo"
    n = 1
    while True:
        target = home / (NAME if n == 1 else f"lantern_quay_{n}.veergust")
        if not target.exists():
            return copy_demo(target)
        if _same(shipped_demo(), target):
            return target
        n += 1


def _same(a: Path, b: Path) -> bool:
    def content(folder: Path) -> dict[str, bytes]:
        return {p.relative_to(folder).as_posix(): p.read_bytes() for p in folder.rglob("*") if p.is_file()}

    return content(a) == content(b)
