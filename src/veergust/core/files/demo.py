"""The demo project that ships with the program, and fresh copies of it."""

from __future__ import annotations

import os
import shutil
from pathlib import Path

import platformdirs

import veergust
from veergust.core.trouble import Trouble

NAME = "lantern_quay.veergust"
PAPER = "paper_theatre.veergust"
"""The same quay with figures that are drawn."""


def shipped_demo(name: str = NAME) -> Path:
    """Where a demo lies: in the installed package, or beside the sources."""
    package = Path(veergust.__file__).resolve().parent
    for folder in (package / "demo" / name, package.parents[1] / "demo" / name):
        if (folder / "project.json").is_file():
            return folder
    raise Trouble("the demo is not in this installation", do="install the program again")


def refuse_taken(target: Path) -> None:
    """Raise ``Trouble`` unless a folder can be made at ``target``: there is nothing, or an empty folder."""
    try:
        taken = os.path.lexists(target) and (not target.is_dir() or any(target.iterdir()))
    except (OSError, ValueError) as error:
        why = getattr(error, "strerror", None) or error
        raise Trouble(f"cannot be looked at ({why})", file=str(target), do="choose another folder") from error
    if taken:
        raise Trouble("is there already", file=str(target), do="give a folder that does not exist")


def copy_demo(target: Path, name: str = NAME) -> Path:
    """Copy a demo to a folder that is not there yet, or is empty."""
    refuse_taken(target)
    draft = target.with_name(f".{target.name[:80]}.{os.getpid()}.part")
    try:
        target.parent.mkdir(parents=True, exist_ok=True)
        try:
            shutil.copytree(shipped_demo(name), draft)
            os.rename(draft, target)
        finally:
            shutil.rmtree(draft, ignore_errors=True)
    except (OSError, shutil.Error) as error:
        why = getattr(error, "strerror", None) or "a part of it could not be copied"
        raise Trouble(f"cannot be written ({why})", file=str(target), do="choose another folder") from error
    return target


def fresh_demo(name: str = NAME) -> Path:
    """A copy of a demo in the person's own data folder; one that was changed is left alone."""
    home = platformdirs.user_data_path("veergust") / "demo"
    n = 1
    while True:
        target = home / (name if n == 1 else f"{Path(name).stem}_{n}.veergust")
        if not target.exists():
            return copy_demo(target, name)
        if _same(shipped_demo(name), target):
            return target
        n += 1


def _same(a: Path, b: Path) -> bool:
    def content(folder: Path) -> dict[str, bytes]:
        return {p.relative_to(folder).as_posix(): p.read_bytes() for p in folder.rglob("*") if p.is_file()}

    return content(a) == content(b)
