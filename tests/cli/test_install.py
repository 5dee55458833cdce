"""The program at home on a desktop: where its pieces lie, and that they are what the standards say."""

from __future__ import annotations

import configparser
import os
import re
import shlex
import subprocess
import sys
from pathlib import Path
from xml.etree import ElementTree

import pytest

from veergust.home.install import pieces

PROGRAM = Path(sys.executable).parent / "veergust"


def run(*words: str, **env: str) -> subprocess.CompletedProcess[str]:
    given = {**os.environ, **env}
    return subprocess.run([str(PROGRAM), *words], env=given, capture_output=True, text=True, check=False)


def test_the_pieces_are_put_where_a_desktop_and_a_shell_look_and_taken_away_again(tmp_path: Path) -> None:
    env = {"HOME": str(tmp_path), "XDG_DATA_HOME": str(tmp_path / "data"), "XDG_CONFIG_HOME": str(tmp_path / "conf")}
    ran = run("install", **env)
    assert ran.returncode == 0, ran.stderr
    entry = configparser.RawConfigParser()
    entry.optionxform = str  # type: ignore[assignment, method-assign]
    entry.read(tmp_path / "data" / "applications" / "veergust.desktop")
    row = entry["Desktop Entry"]
    assert row["Exec"] == f'"{PROGRAM}" %F'
    assert row["Type"] == "Application"
    icon = tmp_path / "data" / "icons" / "hicolor" / "scalable" / "apps" / f"{row['Icon']}.svg"
    assert ElementTree.parse(icon).getroot().tag.endswith("svg")
    assert all(c.endswith(";") for c in (row["Categories"], row["Keywords"]))
    assert len(ran.stdout.splitlines()) == 8
    launcher = tmp_path / ".local" / "bin" / "veergust"
    told = subprocess.run([str(launcher), "--version"], capture_output=True, text=True, check=False)
    assert told.stdout.startswith("veergust ")
    assert str(launcher.parent) in ran.stderr, "it says that this is not on the path"
    assert run("install", **{**env, "PATH": f"{launcher.parent}:{os.environ['PATH']}"}).stderr == ""
    types = ElementTree.parse(tmp_path / "data" / "mime" / "packages" / "veergust.xml").getroot()
    assert row["MimeType"].endswith(";")
    assert str(types[0].get("type")) in row["MimeType"].split(";")
    assert run("install", **env).returncode == 0
    again = run("install", "--remove", **env)
    assert sorted(again.stdout.splitlines()) == sorted(ran.stdout.splitlines())
    assert not [row for row in ran.stdout.splitlines() if Path(row).exists()]
    assert not [p for p in tmp_path.rglob("*") if p.is_file() and p.name.startswith("veergust")]


def test_a_shell_completes_the_commands(tmp_path: Path) -> None:
    env = {"HOME": str(tmp_path), "XDG_DATA_HOME": str(tmp_path), "XDG_CONFIG_HOME": str(tmp_path)}
    assert run("install", **env).returncode == 0
    script = (tmp_path / "bash-completion" / "completions" / "veergust").read_text()
    asked = "COMP_WORDS=(veergust fa) COMP_CWORD=1 COMPREPLY=(); _veergust_completion PROGRAM; echo ${COMPREPLY[@]}"
    asked = asked.replace("PROGRAM", shlex.quote(str(PROGRAM)))
    ran = subprocess.run(["bash", "-c", f"{script}\n{asked}"], capture_output=True, text=True, check=False)
    if "compopt" in ran.stderr or "not supported" in ran.stderr:
        pytest.skip("this bash completes nothing")
    assert ran.stdout.split() == ["facts"], ran.stderr


def test_a_folder_named_by_a_relative_path_is_passed_over(tmp_path: Path) -> None:
    ran = subprocess.run(
        [str(PROGRAM), "install"], env={**os.environ, "HOME": str(tmp_path), "XDG_DATA_HOME": "here", "XDG_CONFIG_HOME": ""},
        capture_output=True, text=True, check=False, cwd=tmp_path,
    )  # fmt: skip
    assert ran.returncode == 0
    assert (tmp_path / ".local" / "share" / "applications" / "veergust.desktop").is_file()
    assert not (tmp_path / "here").exists()


def test_a_path_with_odd_signs_is_quoted_as_the_standard_says() -> None:
    odd = '/a b/$x"%`\\/veergust'
    text = next(t for p, t in pieces(odd).items() if p.suffix == ".desktop")
    exec_ = next(row for row in text.splitlines() if row.startswith("Exec=")).removeprefix("Exec=")
    # What a desktop does: the escapes of a string first, then those within quotes, then the codes.
    string = exec_.replace("\\\\", "\\")
    quoted = re.fullmatch(r'"((?:[^"\\`$]|\\["\\`$])*)" %F', string)
    assert quoted is not None, string
    assert re.sub(r"\\(.)", r"\1", quoted[1]).replace("%%", "%") == odd


def test_the_manual_page_and_the_notices_are_those_of_the_program_as_it_is() -> None:
    root = Path(__file__).resolve().parents[2]
    for page, writer in (("src/veergust/home/veergust.1", "man"), ("NOTICES", "notices")):
        ran = subprocess.run(
            [sys.executable, "-c", f"from docs.{writer} import *; print({'manual' if writer == 'man' else 'notices'}(), end='')"],
            cwd=root, capture_output=True, text=True, check=True,
        )  # fmt: skip
        assert (root / page).read_text() == ran.stdout, f"write it anew with ./run shots {writer}"
        assert "unknown" not in ran.stdout, "a licence that nobody knows"


def test_a_program_of_that_name_that_is_not_ours_stays(tmp_path: Path) -> None:
    env = {"HOME": str(tmp_path), "XDG_DATA_HOME": str(tmp_path / "d"), "XDG_CONFIG_HOME": str(tmp_path / "c")}
    theirs = tmp_path / ".local" / "bin" / "veergust"
    theirs.parent.mkdir(parents=True)
    theirs.write_text("#!/bin/sh\necho theirs\n")
    assert run("install", **env).returncode == 0
    assert run("install", "--remove", **env).returncode == 0
    assert theirs.read_text() == "#!/bin/sh\necho theirs\n"
