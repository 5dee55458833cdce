"""A project folder as it was at a revision of its git repository, laid out in a folder of its own."""

from __future__ import annotations

import io
import subprocess
import zipfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from tempfile import TemporaryDirectory

from veergust.core.trouble import Trouble

LONGEST = 120
"""Seconds that git is given."""


@contextmanager
def at_revision(folder: Path, revision: str) -> Iterator[Path]:
    """The project folder as it was. Raises ``Trouble`` where there is no repository, revision or project of it."""
    if not folder.is_dir():
        raise Trouble("is not a project folder", file=str(folder), do="give the path of a .veergust folder")
    found = _git(folder, "rev-parse", "--verify", "--quiet", "--end-of-options", f"{revision}^{{commit}}")
    if found is None:
        inside = _git(folder, "rev-parse", "--git-dir") is not None
        says = f"has no revision {revision!r}" if inside else "is in no git repository"
        do = "give one that git log shows" if inside else "give two folders in place of --rev"
        raise Trouble(says, file=str(folder), do=do)
    packed = _git(folder, "archive", "--format=zip", "-0", found.decode().strip())
    if packed is None:
        raise Trouble(f"was not there at {revision!r}", file=str(folder), do="give a later revision")
    with TemporaryDirectory(prefix="veergust-") as place:
        there = Path(place) / folder.resolve().name
        there.mkdir()
        # A packed file goes under the folder whatever it is called, and a link comes as a file that says where to.
        with zipfile.ZipFile(io.BytesIO(packed)) as files:
            files.extractall(there)
        yield there


def _git(folder: Path, *words: str) -> bytes | None:
    """What git says about a folder; None where it cannot."""
    try:
        done = subprocess.run(["git", "-C", str(folder), *words], capture_output=True, timeout=LONGEST, check=False)
    except FileNotFoundError as error:
        raise Trouble("git is not on this machine", do="install git, or give two folders") from error
    except subprocess.TimeoutExpired as error:
        raise Trouble("git does not answer", file=str(folder), do="try it by hand") from error
    return done.stdout if done.returncode == 0 else None
