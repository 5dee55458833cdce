"""Whether a change of the code changes what it does: ``./run same [COMMIT] [--pictures]``.

The demo and ten random projects go through every command of the commit and of the code as it stands, from the same
folders: what is printed, what is written and, when asked, the pictures of ``./run shots`` have to be the same.
"""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

import numpy as np
from hypothesis import Phase, given, settings
from hypothesis import strategies as st

from tests.core.edits import adding, replace
from tests.core.study.test_playout import made_actions
from veergust.core.files.folder import open_project
from veergust.core.files.saving import save_project
from veergust.core.model import Action, Layer, Mask, Project

ROOT = Path(__file__).resolve().parents[1]
DEMO = ROOT / "demo" / "lantern_quay.veergust"
BROUGHT = ROOT / "demo" / "to_import" / "harbour_guard.bvh"
BUILD = (
    "import pathlib, sys; from hatch_build import Kernels; here = str(pathlib.Path.cwd());"
    "Kernels(here, {}, None, None, here, 'wheel').initialize('editable', {'artifacts': []})"
)
RANDOM = 10


def random_projects(many: int) -> list[Project]:
    """The demo with actions of every kind of span, half of them on a layer of half a weight; the same ones always."""
    out: list[Project] = []
    demo = open_project(DEMO)
    layers = (*demo.layers, Layer(name="Half", weight=0.5))
    names = {layer.name for layer in layers}

    @settings(max_examples=4 * many, derandomize=True, database=None, deadline=None, phases=(Phase.generate,))
    @given(st.lists(made_actions(60), min_size=2, max_size=4))
    def draw(made: list[Action]) -> None:
        named = [
            replace(a, name=f"Made {i}", layer=a.layer if a.layer in names else "Half") for i, a in enumerate(made)
        ]
        out.append(replace(adding(demo, *named), layers=layers, masks=(*demo.masks, Mask(name="upper", joint="chest"))))

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


def commands(project: Project, folder: Path, asked: Path) -> dict[str, list[str]]:
    """The words of every command that is given, by the name its answer is kept under."""
    there, clip, action = str(folder), project.clips[0].name, project.actions[-1].name
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
        "play": ["play", there, "--ticks", "400", "--input", str(asked), "--take", "take.jsonl", "--joints", hips, "--json"],
        "frame": ["render", there, "--action", action, "--frame", "3", "-o", "frame.png", "--size", "320x240"],
        "ticks": ["render", there, "--action", action, "--ticks", "0:12:4", "-o", "ticks.png", "--size", "320x240"],
        "chart in": ["ground", there, "--from", "chart.scxml", "--json"],
        "import": ["import", there, str(BROUGHT), "--json"],
        "after": ["check", there, "--json"],
    }  # fmt: skip


def answers(code: Path, kept: Path, work: Path) -> dict[str, bytes]:
    """What a tree of the code says to every command about a copy of the project, and all that it writes."""
    shutil.rmtree(work, ignore_errors=True)
    folder = work / kept.name
    shutil.copytree(kept, folder)
    asked = work / "asked.json"
    project = open_project(kept)
    asked.write_text(json.dumps(script(project)))
    home = {f"XDG_{k}_HOME": str(work / k) for k in ("STATE", "DATA", "CONFIG", "CACHE")}
    here = {**os.environ, **home, "PYTHONPATH": str(code / "src")}
    out: dict[str, bytes] = {}
    for name, words in commands(project, folder, asked).items():
        done = subprocess.run(
            [sys.executable, "-m", "veergust", *words], cwd=work, env=here, capture_output=True, check=False
        )
        out[f"{name}: code"] = str(done.returncode).encode()
        out[f"{name}: said"], out[f"{name}: trouble"] = done.stdout, done.stderr
    for path in sorted(work.rglob("*")):
        if path.is_file() and not any(part in ("STATE", "DATA", "CONFIG", "CACHE") for part in path.parts):
            out[str(path.relative_to(work))] = path.read_bytes()
    return out


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
    from PySide6.QtGui import QImage

    def pixels(data: bytes) -> np.ndarray:
        image = QImage.fromData(data).convertToFormat(QImage.Format.Format_RGB32)
        rows = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.bytesPerLine())
        return rows[:, : 4 * image.width()].reshape(image.height(), image.width(), 4)

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
    wanted = [word for word in words if not word.startswith("-")]
    commit = wanted[0] if wanted else "HEAD"
    unlike = 0
    with tempfile.TemporaryDirectory() as place:
        before, kept, work = Path(place) / "code", Path(place) / "kept", Path(place) / "work"
        subprocess.run(["git", "worktree", "add", "--detach", "--quiet", before, commit], cwd=ROOT, check=True)
        try:
            subprocess.run([sys.executable, "-c", BUILD], cwd=before, check=True, capture_output=True)
            rounds = {"Lantern Quay": DEMO}
            for i, project in enumerate(random_projects(RANDOM)):
                rounds[f"random {i}"] = kept / f"random_{i}.veergust"
                shutil.copytree(DEMO, rounds[f"random {i}"])
                save_project(project, rounds[f"random {i}"])
            pairs = (
                (name, [answers(code, folder, work) for code in (before, ROOT)]) for name, folder in rounds.items()
            )
            shown = ((name, [pictures(code, work) for code in (before, ROOT)]) for name in ("pictures",))
            for name, (old, new) in [*pairs, *(shown if "--pictures" in words else ())]:
                said = {key: differ(key, old.get(key), new.get(key)) for key in sorted({*old, *new})}
                for key, how in said.items():
                    if how:
                        print(f"{name}, {key}: {how}")
                        unlike += 1
                print(f"{name}: {len(said)} answers compared", flush=True)
        finally:
            subprocess.run(["git", "worktree", "remove", "--force", before], cwd=ROOT, check=False)
    print(f"{unlike} differ" if unlike else "all the same")
    return int(unlike > 0)


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
