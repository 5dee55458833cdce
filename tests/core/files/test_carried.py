"""What is kept of captures: opening a project again carries nothing over, and gives the very same motion."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from msgspec.structs import replace
from tools.made.captures import capture, write_bvh

from veergust.core.files import carried
from veergust.core.files.assets import load_assets
from veergust.core.files.folder import open_project
from veergust.core.files.importing import import_file
from veergust.core.files.reading import bind
from veergust.core.files.saving import save_project
from veergust.core.motion.figure import Assets
from veergust.core.motion.sampling import Motion


@pytest.fixture
def work(monkeypatch: pytest.MonkeyPatch) -> list[str]:
    """What was carried over, file by file."""
    done: list[str] = []

    def noted(content, *args, **kwargs):  # type: ignore[no-untyped-def]
        out = bind(content, *args, **kwargs)
        done.extend(m.name for m in out.motions if out.foreign)
        return out

    monkeypatch.setattr("veergust.core.files.assets.bind", noted)
    return done


def same(a: Motion, b: Motion) -> bool:
    tracks = zip(a.tracks, b.tracks, strict=True)
    return (a.name, a.seconds, a.fps) == (b.name, b.seconds, b.fps) and all(
        (t.joint, t.path) == (u.joint, u.path)
        and np.array_equal(t.times, u.times)
        and np.array_equal(t.values, u.values)
        for t, u in tracks
    )


def motion(assets: Assets) -> Motion:
    found = assets.motion("clips/night_walk.bvh", "night_walk")
    assert found is not None
    return found


def test_a_capture_is_carried_over_once_and_found_the_same_ever_after(
    folder: Path, tmp_path: Path, work: list[str]
) -> None:
    import_file(open_project(folder), folder, write_bvh(tmp_path, capture(seconds=1.0)))
    project = open_project(folder)
    first, _ = load_assets(project, folder)
    assert work == [], "the import has kept it"
    assert first.foreign == {"clips/night_walk.bvh"}
    for path in carried.folder().iterdir():
        path.unlink()
    anew, _ = load_assets(project, folder)
    assert work == ["night_walk"]
    assert same(motion(first), motion(anew))
    rest, other = motion(first).rest, motion(anew).rest
    assert rest is not None
    assert other is not None
    assert np.array_equal(rest.rotation, other.rotation)


def test_another_mapping_file_or_figure_is_carried_over_anew(folder: Path, tmp_path: Path, work: list[str]) -> None:
    import_file(open_project(folder), folder, write_bvh(tmp_path, capture(seconds=0.5)))
    project = open_project(folder)
    [source] = project.sources
    load_assets(replace(project, sources=(replace(source, plant=False),)), folder)
    assert work == ["night_walk"]
    path = folder / "clips" / "night_walk.bvh"
    path.write_bytes(path.read_bytes() + b"\n")
    load_assets(project, folder)
    assert len(work) == 2
    load_assets(replace(project, rig=replace(project.rig, unit=1.1)), folder)
    assert len(work) == 3
    load_assets(project, folder)
    assert len(work) == 3


@pytest.mark.parametrize("damage", ["cut", "other", "empty"])
def test_what_is_damaged_in_the_cache_is_worked_out_again(
    damage: str, folder: Path, tmp_path: Path, work: list[str]
) -> None:
    import_file(open_project(folder), folder, write_bvh(tmp_path, capture(seconds=0.5)))
    [kept] = carried.folder().glob("*.npz")
    data = kept.read_bytes()
    kept.write_bytes({"cut": data[: len(data) // 2], "other": b"PK" + data[2:200], "empty": b""}[damage])
    project = open_project(folder)
    found, missing = load_assets(project, folder)
    assert (work, missing) == (["night_walk"], [])
    load_assets(project, folder)
    assert work == ["night_walk"], "it was kept again"
    assert motion(found).seconds == pytest.approx(0.5)


def test_a_cache_that_cannot_be_written_is_done_without(folder: Path, tmp_path: Path, work: list[str]) -> None:
    carried.folder().parent.mkdir(parents=True)
    carried.folder().write_text("in the way")
    import_file(open_project(folder), folder, write_bvh(tmp_path, capture(seconds=0.5)))
    load_assets(open_project(folder), folder)
    assert work == ["night_walk"]


def test_no_more_is_kept_than_there_is_room_for(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(carried, "MOST_BYTES", 12_000)
    for n in range(12):
        carried.keep(f"k{n}", (Motion("m", 1.0, 60.0, ()),), ("x" * 900,), True)
    sizes = [p.stat().st_size for p in carried.folder().glob("*.npz")]
    assert 0 < sum(sizes) <= 12_000
    assert carried.find("k11") is not None


def test_a_project_that_is_only_opened_keeps_nothing_of_its_own_small_files(folder: Path) -> None:
    project = open_project(folder)
    load_assets(project, folder)
    save_project(project, folder)
    assert not carried.folder().exists() or not list(carried.folder().glob("*.npz"))
