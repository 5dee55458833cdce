"""Nothing a stranger's folder names stalls reading: sizes are asked first, one look per file, a bound in all."""

from __future__ import annotations

import json
import os
import shutil
from collections import Counter
from pathlib import Path
from typing import Any

import pytest
from tools.made import DEMO

from tests.core.files.test_gltf import parts
from veergust.core.files.assets import load_assets
from veergust.core.files.beneath import Beneath
from veergust.core.files.folder import open_project, read_folder
from veergust.core.files.saving import save_project
from veergust.core.files.wav_read import read_sounds
from veergust.core.model import Action, Clip, Project, Rig
from veergust.core.trouble import Trouble

GIB = 1 << 30


@pytest.fixture
def read(monkeypatch: pytest.MonkeyPatch) -> Counter[str]:
    """How often each file is read."""
    out: Counter[str] = Counter()
    real = Beneath.read

    def watched(self: Beneath, name: str, **more: Any) -> bytes:
        out[name] += 1
        return real(self, name, **more)

    monkeypatch.setattr(Beneath, "read", watched)
    return out


def sparse(path: Path, size: int) -> Path:
    path.parent.mkdir(parents=True, exist_ok=True)
    with path.open("wb") as out:
        out.truncate(size)
    return path


def with_clips(top: Path, files: list[str]) -> tuple[Project, Path]:
    folder = top / "x.veergust"
    rig = Rig(figure="clips/figure.glb", hips="hips", root="root")
    project = Project(name="x", rig=rig, clips=tuple(Clip(name=f"c{i}", file=f) for i, f in enumerate(files)))
    save_project(project, folder)
    (folder / "clips").mkdir()
    shutil.copy(DEMO / "clips" / "figure.glb", folder / "clips")
    return project, folder


@pytest.mark.parametrize("how", ["links", "hard links"])
def test_one_file_under_many_names_is_looked_at_once(tmp_path: Path, how: str, read: Counter[str]) -> None:
    project, folder = with_clips(tmp_path, [f"clips/{i}.glb" for i in range(50)])
    shutil.copy(DEMO / "clips" / "idle.glb", folder / "clips" / "it.glb")
    for i in range(50):
        path = folder / "clips" / f"{i}.glb"
        path.symlink_to("it.glb") if how == "links" else os.link(folder / "clips" / "it.glb", path)
    assets, missing = load_assets(project, folder)
    assert not missing
    assert len([name for name in read if name.startswith("clips/") and name != "clips/figure.glb"]) == 1
    assert {file for file, _ in assets.motions} == {f"clips/{i}.glb" for i in range(50)}


def test_clips_that_are_too_long_together_are_not_read(tmp_path: Path, read: Counter[str]) -> None:
    project, folder = with_clips(tmp_path, [f"clips/{i}.glb" for i in range(6)])
    for i in range(6):
        sparse(folder / "clips" / f"{i}.glb", int(1.5 * GIB))
    with pytest.raises(Trouble, match="9216 MB in all"):
        load_assets(project, folder)
    with pytest.raises(Trouble, match="9216 MB in all"):
        save_project(project, tmp_path / "copy.veergust", clips_from=folder)
    assert not (tmp_path / "copy.veergust").exists()
    assert not [name for name in read if name != "clips/figure.glb" and name.startswith("clips/")]


def test_buffers_that_many_clips_share_are_bounded_in_all(
    tmp_path: Path, read: Counter[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    project, folder = with_clips(tmp_path, [f"clips/{i}.gltf" for i in range(40)])
    content, binary = parts((DEMO / "clips" / "idle.glb").read_bytes())
    content["buffers"][0]["uri"] = "all.bin"
    (folder / "clips" / "all.bin").write_bytes(binary)
    for i in range(40):
        (folder / "clips" / f"{i}.gltf").write_text(json.dumps(content))
    size = 40 * len(binary)
    monkeypatch.setattr("veergust.core.files.assets.MOST_IN_ALL", size // 4)
    with pytest.raises(Trouble, match="in all"):
        load_assets(project, folder)
    assert sum(read[name] for name in read if name.endswith(".bin")) < 60


def test_texts_that_are_too_long_together_are_not_read(tmp_path: Path, read: Counter[str]) -> None:
    folder = tmp_path / "x.veergust"
    save_project(Project(name="x", actions=(Action(name="One"),)), folder)
    sparse(folder / "long.json", 60 << 20)
    for i in range(20):
        (folder / "actions" / f"{i}.json").symlink_to("../long.json")
    read.clear()
    with pytest.raises(Trouble, match="1200 MB in all"):
        read_folder(folder)
    with pytest.raises(Trouble, match="1200 MB in all"):
        open_project(folder)
    assert not read


def test_sounds_that_are_too_long_together_are_not_read(tmp_path: Path, read: Counter[str]) -> None:
    sparse(tmp_path / "sounds" / "long.wav", 100 << 20)
    for i in range(11):
        os.link(tmp_path / "sounds" / "long.wav", tmp_path / "sounds" / f"{i}.wav")
    sounds, bad = read_sounds(tmp_path)
    assert not sounds
    assert "1200 MB in all" in bad[0]
    assert not read
