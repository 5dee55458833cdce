"""The one script: it passes arguments, output and exit status through, and says how it is used."""

from __future__ import annotations

import json
import os
import subprocess
from pathlib import Path

import pytest
from tools.made import DEMO

ROOT = Path(__file__).resolve().parents[1]
READY = (ROOT / ".venv" / ".ready").is_file()


def run(*words: str) -> subprocess.CompletedProcess[str]:
    env = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    return subprocess.run([str(ROOT / "run"), *words], capture_output=True, text=True, env=env, timeout=120)


def test_a_wrong_word_says_what_there_is() -> None:
    ran = run("dance")
    assert (ran.returncode, ran.stdout) == (2, "")
    assert "usage: ./run demo | test | app" in ran.stderr


@pytest.mark.skipif(not READY, reason="set up by hand, not by ./run: its environment is not there")
def test_arguments_output_and_status_go_through_untouched(tmp_path: Path) -> None:
    fine = run("app", "facts", str(DEMO), "Low sweep", "--json")
    assert (fine.returncode, fine.stderr) == (0, "")
    assert json.loads(fine.stdout)["actions"][0]["startup"] == 9
    wrong = run("app", "facts", str(tmp_path / "a b"))
    assert (wrong.returncode, wrong.stdout) == (2, "")
    assert wrong.stderr.count("\n") == 1
    assert run("app", "drill", str(DEMO)).returncode == 0
