"""Putting the menu entry, the icon and the completion where a desktop and a shell look for them."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from importlib.resources import files
from pathlib import Path

from veergust.core.files import whole_file
from veergust.core.trouble import Trouble

PLACES = {
    "XDG_DATA_HOME": ".local/share",
    "XDG_CONFIG_HOME": ".config",
    "XDG_STATE_HOME": ".local/state",
    "XDG_CACHE_HOME": ".cache",
}
"""The person's own folders, and where they are unless something else is said."""
COMPLETION = {
    "bash": (
        "XDG_DATA_HOME",
        "bash-completion/completions/veergust",
        'eval "$(_VEERGUST_COMPLETE=bash_source {command})"\n',
    ),
    "fish": (
        "XDG_CONFIG_HOME",
        "fish/completions/veergust.fish",
        "_VEERGUST_COMPLETE=fish_source {command} | source\n",
    ),
    "zsh": (
        "XDG_DATA_HOME",
        "zsh/site-functions/_veergust",
        '#compdef veergust\neval "$(_VEERGUST_COMPLETE=zsh_source {command})"\n',
    ),
}
"""For each shell: where, called what, and what stands in it."""

LAUNCHES = b"#!/bin/sh\n# Starts Veergust from where it is installed.\nexec "
"""How the launcher on a person's path begins."""


def ignore_relative_places() -> None:
    """Pass over folders named by a relative path, as the Base Directory standard says."""
    for name in PLACES:
        if not os.path.isabs(os.environ.get(name) or "/"):
            del os.environ[name]


def place(name: str) -> Path:
    """One of the person's own folders."""
    return Path(os.environ.get(name) or Path.home() / PLACES[name])


def programs() -> Path:
    """Where a person's own programs are, as the Base Directory standard says."""
    return Path.home() / ".local" / "bin"


def pieces(command: str) -> dict[Path, str]:
    """What is to be put where, for a program started by ``command``."""
    data = place("XDG_DATA_HOME")
    quoted = '"' + command.replace("\\", "\\\\").replace('"', '\\"').replace("$", "\\$").replace("`", "\\`") + '"'
    # An entry's strings have escapes of their own, which are undone before the quotes are.
    quoted = quoted.replace("\\", "\\\\")
    home = files("veergust.home")
    icon, entry = (home / "veergust.svg").read_text(), (home / "veergust.desktop").read_text()
    shell = "'" + command.replace("'", "'\\''") + "'"
    out = {
        data / "applications" / "veergust.desktop": entry.replace("Exec=veergust", "Exec=" + quoted.replace("%", "%%")),
        data / "icons" / "hicolor" / "scalable" / "apps" / "veergust.svg": icon,
        data / "mime" / "packages" / "veergust.xml": (home / "veergust.xml").read_text(),
        data / "man" / "man1" / "veergust.1": (home / "veergust.1").read_text(),
        programs() / "veergust": f'{LAUNCHES.decode()}{shell} "$@"\n',
    }
    for folder, name, text in COMPLETION.values():
        out[place(folder) / name] = text.format(command=shell)
    return out


def install() -> list[Path]:
    """Put all of it in its place; what was there of an earlier time is written anew. Raises ``Trouble``."""
    command = shutil.which(sys.argv[0]) or shutil.which("veergust")
    if command is None:
        raise Trouble("the program is not where a shell finds it", do="start it by its full path")
    made = pieces(os.path.abspath(command))
    launcher = programs() / "veergust"
    if not _is_ours(launcher):  # the program itself, or somebody else's of that name
        del made[launcher]
    for path, text in made.items():
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise Trouble(f"cannot be made ({error.strerror})", file=str(path.parent), do="check its rights") from error
        with whole_file(path) as out:
            out.write(text.encode())
        if path == launcher:
            path.chmod(0o755)
    _tell_desktop()
    return list(made)


def _is_ours(launcher: Path) -> bool:
    """Whether a launcher was put there by this program, or may be put there."""
    return not launcher.exists() or launcher.read_bytes().startswith(LAUNCHES)


def _tell_desktop() -> None:
    """Have the desktop see what is new, where it has the programs for that."""
    data = place("XDG_DATA_HOME")
    for words in (
        ["update-mime-database", str(data / "mime")],
        ["update-desktop-database", str(data / "applications")],
    ):
        if shutil.which(words[0]) is not None:
            subprocess.run(words, check=False, capture_output=True)


def remove() -> list[Path]:
    """Take all of it away again; gives what was there."""
    gone = []
    for path in pieces("veergust"):
        if path.is_file() and (path != programs() / "veergust" or _is_ours(path)):
            path.unlink()
            gone.append(path)
    _tell_desktop()
    return gone
