"""How fast clips come in, are read and listed; run with ``./run bench``. Each beside a general library that does the
same work, where there is one."""

from __future__ import annotations

import json
import resource
import shutil
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from msgspec.structs import replace
from scipy.spatial.transform import Rotation, Slerp
from tools.made.captures import BONES as BODY
from tools.made.readings import read_clip

from veergust.core.files.assets import load_assets
from veergust.core.files.bvh_read import read_bvh
from veergust.core.files.folder import open_project
from veergust.core.files.gltf_read import read_gltf
from veergust.core.files.gltf_write import write_glb
from veergust.core.files.importing import import_file
from veergust.core.files.reading import source_rig
from veergust.core.motion import quat
from veergust.core.motion.figure import Assets
from veergust.core.motion.mapping import propose
from veergust.core.motion.sampling import Motion, Track, evaluate
from veergust.core.motion.skeleton import Skeleton
from veergust.core.motion.transfer import transfer
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.study.lengths import length_and_travel
from veergust.core.study.preparing import best_loop, proposals

DEMO = Path(__file__).resolve().parents[1] / "demo" / "lantern_quay.veergust"
GUARD = DEMO.parent / "to_import" / "harbour_guard.bvh"
FRAMES, JOINTS = 3000, 40


@pytest.fixture(scope="module")
def build() -> CompiledProject:
    project = open_project(DEMO)
    return CompiledProject(project, load_assets(project, DEMO)[0])


@pytest.fixture(scope="module")
def bvh(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """3,000 frames of 40 joints."""
    lines = ["HIERARCHY"]
    for j in range(JOINTS):
        channels = "6 Xposition Yposition Zposition" if j == 0 else "3"
        lines += [f"{'JOINT' if j else 'ROOT'} j{j}", "{", "OFFSET 0 1 0"]
        lines += [f"CHANNELS {channels} Zrotation Xrotation Yrotation"]
    lines += ["End Site", "{", "OFFSET 0 1 0", "}", *["}"] * JOINTS]
    rows = np.random.default_rng(1).normal(size=(FRAMES, JOINTS * 3 + 3)) * 30
    lines += ["MOTION", f"Frames: {FRAMES}", "Frame Time: 0.016667"]
    path = tmp_path_factory.mktemp("bvh") / "long.bvh"
    path.write_text("\n".join([*lines, *(" ".join(f"{v:.5f}" for v in row) for row in rows)]))
    return path


@pytest.fixture(scope="module")
def glb(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A file of 20 MB."""
    count = 31_000
    still = np.tile(quat.IDENTITY, (JOINTS, 1))
    bones = Skeleton(tuple(f"j{j}" for j in range(JOINTS)), tuple(range(-1, JOINTS - 1)), still, np.ones((JOINTS, 3)))
    times, rng = np.arange(count) / 60, np.random.default_rng(2)
    tracks = tuple(
        Track(j, "rotation", "LINEAR", times, quat.normalize(rng.normal(size=(count, 4)))) for j in range(JOINTS)
    )
    path = tmp_path_factory.mktemp("glb") / "long.glb"
    path.write_bytes(write_glb(bones, None, (Motion("long", float(times[-1]), 60.0, tracks),)))
    assert path.stat().st_size > 19_000_000
    return path


def test_reading_3000_frames_of_40_joints_of_bvh(benchmark: Any, bvh: Path) -> None:
    benchmark(read_bvh, bvh)


def test_only_turning_the_same_numbers_into_an_array(benchmark: Any, bvh: Path) -> None:
    """What reading is held against: NumPy's own reader of text, on the rows alone."""
    benchmark(np.loadtxt, bvh, skiprows=JOINTS * 4 + 4 + JOINTS + 1 + 3)


def test_reading_20_megabytes_of_glb(benchmark: Any, glb: Path) -> None:
    benchmark(read_gltf, glb)


def test_only_the_bytes_and_the_json_of_the_same_file(benchmark: Any, glb: Path) -> None:
    """What reading is held against: the bytes and the JSON, no keys decoded."""

    def load() -> object:
        data = glb.read_bytes()
        return json.loads(data[20 : 20 + int.from_bytes(data[12:16], "little")])

    benchmark(load)


def test_sampling_a_rotation_track(benchmark: Any) -> None:
    times = np.linspace(0, 10, 600)
    turns = quat.normalize(np.random.default_rng(3).normal(size=(600, 4)))
    benchmark(evaluate, Track(0, "rotation", "LINEAR", times, turns), np.linspace(0, 10, 10_000))


def test_sampling_the_same_track_with_a_general_library(benchmark: Any) -> None:
    turns = quat.normalize(np.random.default_rng(3).normal(size=(600, 4)))
    slerp = Slerp(np.linspace(0, 10, 600), Rotation.from_quat(turns))
    benchmark(slerp, np.linspace(0, 10, 10_000))


def test_proposing_a_mapping(benchmark: Any, build: CompiledProject) -> None:
    benchmark(propose, read_bvh(GUARD).skeleton, build.assets.skeleton)


def test_carrying_3000_frames_over(benchmark: Any, build: CompiledProject) -> None:
    content = read_bvh(GUARD)
    motion = content.motions[0]
    many = np.linspace(0, motion.seconds, FRAMES)
    tracks = tuple(
        Track(t.joint, t.path, t.interpolation, np.arange(FRAMES) / 60, evaluate(t, many)) for t in motion.tracks
    )
    long = Motion("long", (FRAMES - 1) / 60, 60.0, tracks)
    rig = source_rig(content.skeleton, build.assets.skeleton, ())
    benchmark(transfer, content.skeleton, long, build.assets.skeleton, rig)


def test_reading_a_clip_for_its_page(benchmark: Any, build: CompiledProject) -> None:
    clip = build.clip("staff_sweep")
    assert clip is not None

    def read() -> None:
        reading = read_clip(build.assets, clip)
        assert reading is not None
        proposals(reading, 0, len(reading.times) - 1)
        best_loop(reading)
        assert [reading.slide(c) for c in reading.contacts]

    benchmark(read)


def test_what_300_rows_of_the_library_say(benchmark: Any, build: CompiledProject) -> None:
    clips = [replace(c, name=f"{c.name}_{n}") for n in range(24) for c in build.project.clips][:300]

    def rows() -> None:
        for clip in clips:
            length_and_travel(build.assets, clip, build.roots)

    benchmark(rows)


def test_loading_300_clips(benchmark: Any, build: CompiledProject) -> None:
    """The demo's files once each, and 300 clips that use them."""
    many = tuple(replace(c, name=f"{c.name}_{n}") for n in range(24) for c in build.project.clips)[:300]
    project = replace(build.project, clips=many)

    def load() -> Assets:
        return load_assets(project, DEMO)[0]

    benchmark(load)


@pytest.fixture(scope="module")
def long_take(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Ten minutes of 65 joints at 60 frames a second, in another's names and centimetres: 36,000 frames."""
    rng, lines, order = np.random.default_rng(5), ["HIERARCHY"], []
    bones = [("Hip", "", (0, 96, 0))]
    bones += [(n, p, o) for n, p, o in BODY if n != "Hip"]
    for side, x in (("L", 1), ("R", -1)):
        for finger in ("Thumb", "Index", "Middle", "Ring", "Pinky"):
            bones += [(f"{side}{finger}{k}", f"{side}{finger}{k - 1}" if k > 1 else f"{side}Wrist", (x * 4, 0, 2))
                      for k in (1, 2, 3)]  # fmt: skip
    bones += [(f"Hair{k}", f"Hair{k - 1}" if k > 1 else "Skull", (0, 2, -1)) for k in range(1, 66 - len(bones))]

    def put(name: str) -> None:
        parent, offset = next((p, o) for n, p, o in bones if n == name)
        order.append(name)
        lines.extend([f"{'JOINT' if parent else 'ROOT'} {name}", "{", f"OFFSET {' '.join(map(str, offset))}"])
        places = "" if parent else "Xposition Yposition Zposition "
        lines.append(f"CHANNELS {3 if parent else 6} {places}Zrotation Xrotation Yrotation")
        below = [n for n, p, _ in bones if p == name]
        for n in below:
            put(n)
        lines.extend([] if below else ["End Site", "{", "OFFSET 0 1 0", "}"])
        lines.append("}")

    put("Hip")
    t = np.arange(36_000) / 60.0
    columns = [100 * np.sin(t / 20), 94 + 2 * np.sin(t * 3), 120 * np.cos(t / 31)]
    columns += [rng.uniform(2, 20) * np.sin(t * rng.uniform(0.5, 4) + rng.uniform(0, 6)) for _ in range(3 * len(order))]
    path = tmp_path_factory.mktemp("take") / "long.bvh"
    with path.open("w") as out:
        out.write("\n".join([*lines, "MOTION", f"Frames: {len(t)}", "Frame Time: 0.01666667"]) + "\n")
        np.savetxt(out, np.stack(columns, axis=1), fmt="%.4f")
    return path


def test_bringing_a_take_of_ten_minutes_in(benchmark: Any, long_take: Path, tmp_path: Path) -> None:
    """Read, mapped, carried over, written and kept. How much memory it takes is told beside it."""
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss

    def bring() -> None:
        home = tmp_path / "quay.veergust"
        shutil.rmtree(home, ignore_errors=True)
        shutil.copytree(DEMO, home)
        import_file(open_project(home), home, long_take)

    benchmark.pedantic(bring, rounds=1)
    benchmark.extra_info["megabytes_more"] = (resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before) // 1024


def test_opening_the_demo(benchmark: Any) -> None:
    """What opening a project with captures is held against."""
    benchmark(lambda: load_assets(open_project(DEMO), DEMO))


def test_opening_the_demo_with_five_captures_that_were_carried_over_before(benchmark: Any, tmp_path: Path) -> None:
    home = tmp_path / "quay.veergust"
    shutil.copytree(DEMO, home)
    for n in range(5):
        source = tmp_path / f"guard_{n}.bvh"
        source.write_bytes(GUARD.read_bytes() + b"\n" * n)
        import_file(open_project(home), home, source)
    benchmark(lambda: load_assets(open_project(home), home))
