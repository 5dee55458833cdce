"""Whether a change of the code changes what it does: ``./run same [COMMIT] [--pictures]``.

The demo and ten random projects go through every command of the commit and of the code as it stands, from the same
folders: what is printed, what is written and, when asked, the pictures of ``./run shots`` have to be the same.
"""

from __future__ import annotations

import contextlib
import io
import json
import os
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Mapping
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from veergust.core.model import Action, Project

ROOT = Path(__file__).resolve().parents[1]
DEMO = ROOT / "demo" / "lantern_quay.veergust"
BROUGHT = ROOT / "demo" / "to_import" / "harbour_guard.bvh"
BUILD = (
    "import pathlib, sys; from hatch_build import Kernels; here = str(pathlib.Path.cwd());"
    "Kernels(here, {}, None, None, here, 'wheel').initialize('editable', {'artifacts': []})"
)
RANDOM = 10


def random_projects(demo: Project, many: int) -> list[Project]:
    """The demo with actions of every kind of span, half of them on a layer of half a weight; the same ones always, and
    none that a folder could not hold."""
    from hypothesis import Phase, given, settings
    from hypothesis import strategies as st
    from tests.core.study.test_playout import made_actions

    from tools.made.edits import adding, replace
    from veergust.core.files.as_files import check_change
    from veergust.core.model import Layer, Mask
    from veergust.core.trouble import Trouble

    out: list[Project] = []
    layers = (*demo.layers, Layer(name="Half", weight=0.5))
    names = {layer.name for layer in layers}

    @settings(max_examples=4 * many, derandomize=True, database=None, deadline=None, phases=(Phase.generate,))
    @given(st.lists(made_actions(60), min_size=2, max_size=4))
    def draw(made: list[Action]) -> None:
        named = [
            replace(a, name=f"Made {i}", layer=a.layer if a.layer in names else "Half") for i, a in enumerate(made)
        ]
        masks = (*demo.masks, Mask(name="upper", joint="chest"))
        project = replace(adding(demo, *named), layers=layers, masks=masks)
        with contextlib.suppress(Trouble):
            check_change(demo, project)
            out.append(project)

    draw()
    # The first ones drawn are the plainest.
    return out[-many:]


def script(project: Project) -> list[dict[str, object]]:
    """What the testers do in 400 ticks: walk, press every command, ask for the last actions by name."""
    first = project.stage.fighters[0].name
    other = project.stage.fighters[-1].name
    out: list[dict[str, object]] = [{"tick": 3, "fighter": first, "axis": "move", "value": [0.6, 0.5]}]
    for i, command in enumerate(project.commands):
        for fighter, tick in ((first, 20 + 37 * i), (other, 31 + 41 * i)):
            out.append({"tick": tick, "fighter": fighter, "command": command.name, "press": True})
            out.append({"tick": tick + 9, "fighter": fighter, "command": command.name, "press": False})
    out.append({"tick": 230, "fighter": first, "axis": "move", "value": [0.0, -1.0]})
    for i, action in enumerate(project.actions[-3:]):
        out.append({"tick": 250 + 40 * i, "fighter": first, "action": action.name})
    return sorted(out, key=lambda one: int(str(one["tick"])))


def commands(project: Project, there: str) -> dict[str, list[str]]:
    """The words of every command that is given, by the name its answer is kept under."""
    clip, action = project.clips[0].name, project.actions[-1].name
    hips = "hips,hand_right,foot_left"
    return {
        "clips": ["clips", there, "--json"],
        "clips plain": ["clips", there],
        "moves": ["moves", there, clip, "--json"],
        "facts": ["facts", there, "--json"],
        "facts plain": ["facts", there],
        "check": ["check", there, "--json"],
        "check plain": ["check", there],
        "ground": ["ground", there, "--json", "--to", "chart.scxml"],
        "ground plain": ["ground", there],
        "layers": ["layers", there, "--json"],
        "layers plain": ["layers", there],
        "drill": ["drill", there, "--json"],
        "play": ["play", there, "--ticks", "400", "--input", "asked.json", "--take", "take.jsonl", "--joints", hips, "--json"],
        "frame": ["render", there, "--action", action, "--frame", "3", "-o", "frame.png", "--size", "320x240"],
        "ticks": ["render", there, "--action", action, "--ticks", "0:12:4", "-o", "ticks.png", "--size", "320x240"],
        "chart in": ["ground", there, "--from", "chart.scxml", "--json"],
        "import": ["import", there, str(BROUGHT), "--json"],
        "after": ["check", there, "--json"],
    }  # fmt: skip


def copy_of(kept: Path, work: Path) -> None:
    """A copy of a project in ``work``, and what its testers are asked."""
    from veergust.core.files.folder import open_project

    shutil.copytree(kept, work / kept.name)
    (work / "asked.json").write_text(json.dumps(script(open_project(kept))))


def answer(code: Path, works: list[Path], rounds: list[dict[str, list[str]]]) -> subprocess.Popen[bytes]:
    """Start a process in which a tree of the code is given all commands, each in its folder."""
    places = works[0].parent
    home = {f"XDG_{k}_HOME": str(places / k) for k in ("STATE", "DATA", "CONFIG", "CACHE")}
    here = {**os.environ, **home, "PYTHONPATH": str(code / "src")}
    asked = json.dumps([(str(work), words) for work, words in zip(works, rounds)])
    return subprocess.Popen([sys.executable, str(Path(__file__)), "--answer", asked], env=here)


def give(asked: str) -> None:
    """Give every command to the code this process has, and leave each answer beside the project."""
    from veergust.cli.main import main as command

    for work, rounds in json.loads(asked):
        os.chdir(work)
        for name, words in rounds.items():
            said, trouble, code = io.StringIO(), io.StringIO(), 0
            with contextlib.redirect_stdout(said), contextlib.redirect_stderr(trouble):
                try:
                    command(words)
                except SystemExit as stop:
                    code = int(stop.code or 0)
            Path(f"{name}.said").write_text(f"{said.getvalue()}\n{trouble.getvalue()}\n{code}\n")


def left(work: Path) -> dict[str, bytes]:
    """All files of a folder."""
    return {str(path.relative_to(work)): path.read_bytes() for path in sorted(work.rglob("*")) if path.is_file()}


def pictures(code: Path, there: Path) -> dict[str, bytes]:
    """The pictures of every view that a tree of the code makes with its own script."""
    shutil.rmtree(there, ignore_errors=True)
    here = {**os.environ, "PYTHONPATH": str(code / "src")}
    words = ["--to", str(there)] if code == ROOT else []
    subprocess.run([sys.executable, str(code / "docs" / "shots.py"), *words], env=here, check=True, capture_output=True)
    made = there if code == ROOT else code / "docs" / "screenshots"
    return {path.name: path.read_bytes() for path in sorted(made.glob("*.png"))}


def differ(name: str, before: bytes | None, after: bytes | None) -> str:
    """How two answers differ, in a line; empty when they do not."""
    if before == after:
        return ""
    if before is None or after is None:
        return "only there " + ("after" if before is None else "before")
    if name.endswith(".png"):
        return _unlike(before, after)
    old, new = before.decode(errors="replace").split("\n"), after.decode(errors="replace").split("\n")
    at = next((i for i, (a, b) in enumerate(zip(old, new)) if a != b), min(len(old), len(new)))
    a, b = (lines[at] if at < len(lines) else "" for lines in (old, new))
    from_ = max(0, next((i for i, (x, y) in enumerate(zip(a, b)) if x != y), 0) - 40)
    return f"line {at + 1}: {a[from_ : from_ + 110]!r} → {b[from_ : from_ + 110]!r}"


def _unlike(before: bytes, after: bytes) -> str:
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    import numpy as np
    from numpy.typing import NDArray
    from PySide6.QtGui import QImage

    def pixels(data: bytes) -> NDArray[np.uint8]:
        image = QImage.fromData(data).convertToFormat(QImage.Format.Format_RGB32)
        rows = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.bytesPerLine())
        return rows[:, : 4 * image.width()].reshape(image.height(), image.width(), 4).copy()

    a, b = pixels(before), pixels(after)
    if a.shape != b.shape:
        return f"{a.shape[1]}×{a.shape[0]} → {b.shape[1]}×{b.shape[0]} pixels"
    apart = np.argwhere((a != b).any(axis=-1))
    if not len(apart):
        return ""
    (top, left), (bottom, right) = apart.min(axis=0), apart.max(axis=0)
    return f"{len(apart)} pixels between ({left}, {top}) and ({right}, {bottom})"


def main(words: list[str]) -> int:
    """Compare a commit with the code as it stands; exit 1 when they differ."""
    if words[:1] == ["--answer"]:
        give(words[1])
        return 0
    commit = next((word for word in words if not word.startswith("-")), "HEAD")
    with tempfile.TemporaryDirectory() as place:
        before = Path(place) / "code"
        subprocess.run(["git", "worktree", "add", "--detach", "--quiet", before, commit], cwd=ROOT, check=True)
        try:
            subprocess.run([sys.executable, "-c", BUILD], cwd=before, check=True, capture_output=True)
            unlike = compare(before, Path(place))
            if "--pictures" in words:
                works = (Path(place) / "shots before", Path(place) / "shots")
                unlike += told("pictures", *(pictures(code, work) for code, work in zip((before, ROOT), works)))
        finally:
            subprocess.run(["git", "worktree", "remove", "--force", before], cwd=ROOT, check=False)
    print(f"{unlike} differ" if unlike else "all the same")
    return int(unlike > 0)


def compare(before: Path, place: Path) -> int:
    """How many answers about the demo and the random projects differ."""
    from veergust.core.files.folder import open_project
    from veergust.core.files.saving import save_project

    kept = place / "kept"
    # As the commit has it: the code as it stands reads what is older, and not the other way round.
    demo = before / DEMO.relative_to(ROOT)
    shutil.copytree(demo, kept / "quay.veergust")
    for i, project in enumerate(random_projects(open_project(demo), RANDOM)):
        shutil.copytree(demo, kept / f"random_{i}.veergust")
        save_project(project, kept / f"random_{i}.veergust")
    sides = []
    for code, side in ((before, place / "old"), (ROOT, place / "new")):
        works, rounds = [], []
        for folder in sorted(kept.iterdir()):
            copy_of(folder, side / folder.stem)
            works.append(side / folder.stem)
            rounds.append(commands(open_project(folder), folder.name))
        sides.append(answer(code, works, rounds))
    ends = [side.wait() for side in sides]
    if any(ends):
        raise SystemExit("a side did not come to its end")
    return sum(told(f.stem, left(place / "old" / f.stem), left(place / "new" / f.stem)) for f in sorted(kept.iterdir()))


def told(name: str, old: Mapping[str, bytes], new: Mapping[str, bytes]) -> int:
    """Say what differs; how many."""
    said = {key: differ(key, old.get(key), new.get(key)) for key in sorted({*old, *new})}
    for key, how in said.items():
        if how:
            print(f"{name}, {key}: {how}")
    print(f"{name}: {len(said)} answers compared", flush=True)
    return sum(map(bool, said.values()))


if __name__ == "__main__":
    sys.path.insert(0, str(ROOT))
    sys.exit(main(sys.argv[1:]))
