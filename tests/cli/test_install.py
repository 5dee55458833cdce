"""The program at home on a desktop: where its pieces lie, and that they are what the standards say."""

from __future__ import annotations

import configparser
import os
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
    assert row["Exec"] == f'"{PROGRAM}" %f'
    assert row["Type"] == "Application"
    icon = tmp_path / "data" / "icons" / "hicolor" / "scalable" / "apps" / f"{row['Icon']}.svg"
    assert ElementTree.parse(icon).getroot().tag.endswith("svg")
    assert all(c.endswith(";") for c in (row["Categories"], row["Keywords"]))
    assert len(ran.stdout.splitlines()) == 5
    assert run("install", **env).returncode == 0
    again = run("install", "--remove", **env)
    assert sorted(again.stdout.splitlines()) == sorted(ran.stdout.splitlines())
    assert [p for p in tmp_path.rglob("*") if p.is_file()] == []


def test_a_shell_completes_the_commands(tmp_path: Path) -> None:
    env = {"HOME": str(tmp_path), "XDG_DATA_HOME": str(tmp_path), "XDG_CONFIG_HOME": str(tmp_path)}
    assert run("install", **env).returncode == 0
    script = (tmp_path / "bash-completion" / "completions" / "veergust").read_text()
    asked = "COMP_WORDS=(veergust fa) COMP_CWORD=1 COMPREPLY=(); _veergust_completion PROGRAM; echo ${COMPREPLY[@]}"
    asked = asked.replace("PROGRAM", str(PROGRAM))
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
    text = next(t for p, t in pieces('/a b/$x"%/veergust').items() if p.suffix == ".desktop")
    assert 'Exec="/a b/\\$x\\"%%/veergust" %f' in text
