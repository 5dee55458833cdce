"""The commands that compare: two folders, a revision of git, a clip that another program wrote anew."""

from __future__ import annotations

import shutil
import subprocess
from pathlib import Path
from typing import Any

import pytest
from tools.made import DEMO
from tools.made.edits import with_action

from veergust.core.files.folder import open_project
from veergust.core.files.saving import save_project


def git(folder: Path, *words: str) -> None:
    who = ["-c", "user.name=Somebody", "-c", "user.email=somebody@example.org"]
    subprocess.run(["git", "-C", str(folder), *who, *words], check=True, capture_output=True)


@pytest.fixture
def kept(tmp_path: Path) -> Path:
    """The demo in a repository, saved as it is and then with another fade."""
    home = tmp_path / "work" / "quay.veergust"
    shutil.copytree(DEMO, home)
    git(home.parent, "init", "-q")
    git(home.parent, "add", "-A")
    git(home.parent, "commit", "-qm", "as it was")
    save_project(with_action(open_project(home), "Thrust", blend_in=9), home)
    return home


def test_two_folders_and_a_revision_tell_the_same(run: Any, kept: Path, tmp_path: Path) -> None:
    both = run("diff", DEMO, kept, "--json").json["changes"]
    assert [(c["where"], c["what"], c["old"], c["new"]) for c in both][:1] == [(["Thrust"], "fades in over", 4, 9)]
    assert {c["where"][0] for c in both} == {"Thrust"}
    for revision in ("HEAD", "HEAD~0"):
        assert run("diff", kept, "--rev", revision, "--json").json["changes"] == both
    git(kept.parent, "commit", "-qam", "another fade")
    ran = run("diff", kept, "--rev", "HEAD")
    assert (ran.code, ran.out.strip()) == (0, "Nothing changed.")
    assert run("diff", kept, "--rev", "HEAD~1", "--json").json["changes"] == both


def test_a_clip_whose_file_is_another_is_told_by_its_motion_and_one_that_was_only_touched_is_not(
    run: Any,
    kept: Path,
    tmp_path: Path,
) -> None:
    other = tmp_path / "other.veergust"
    shutil.copytree(kept, other)
    assert run("diff", kept, other).out.strip() == "Nothing changed."
    data = (other / "clips" / "walk.glb").read_bytes()
    (other / "clips" / "idle.glb").write_bytes(data.replace(b'"walk"', b'"idle"'))
    told = run("diff", kept, other, "--json").json["changes"]
    assert told[0]["where"] == ["idle"]
    assert told[0]["what"] == "motion"


@pytest.mark.parametrize(
    ("words", "says"),
    [
        (["--rev", "nothing"], "has no revision 'nothing'"),
        (["--rev", "--upload-pack=x"], "has no revision"),
        ([], "give two project folders, or one and --rev"),
    ],
)
def test_what_is_not_there_is_said(run: Any, kept: Path, words: list[str], says: str) -> None:
    ran = run("diff", kept, *words)
    assert ran.code == 2
    assert says in ran.err


def test_a_folder_in_no_repository_is_said(run: Any, tmp_path: Path) -> None:
    home = tmp_path / "alone.veergust"
    shutil.copytree(DEMO, home)
    ran = run("diff", home, "--rev", "HEAD")
    assert ran.code == 2
    assert "is in no git repository" in ran.err
