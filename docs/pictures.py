"""The pictures of the first window, from the demo, by day and by night: ``./run shots pictures``."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from veergust.core.files.assets import load_assets
from veergust.core.files.demo import shipped_demo
from veergust.core.files.folder import open_project
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import Input
from veergust.core.scene.camera import Camera
from veergust.core.scene.dress import figure_mesh
from veergust.core.scene.things import Scene
from veergust.core.scene.view import action_scene, clip_scene, record_scene
from veergust.look import THEMES
from veergust.render.picture import headless_painter, picture, png

OUT = Path(__file__).resolve().parents[1] / "src/veergust/desk/pictures"
SIZE = (260, 204)
SHOWN = {
    "Clips": ("clip", "walk", 6),
    "Ground": ("clip", "run", 9),
    "Sheet": ("action", "Low sweep", 11),
    "Layers": ("action", "Lantern toss", 24),
    "Spar": ("play", "light", 4),
}
"""What each bench is shown by: a frame of a clip or of an action, or so many after the touch of what a
command starts."""


def _scene(build: CompiledProject, kind: str, name: str, frame: int) -> Scene:
    if kind == "clip":
        return clip_scene(build, name, frame)
    if kind == "play":
        return _touch(build, name, frame)
    compiled = build.action(name)
    assert compiled is not None, name
    return action_scene(build, compiled, frame)


def _touch(build: CompiledProject, command: str, after: int) -> Scene:
    """What is seen some ticks after a command's first touch, the two standing a reach apart."""
    play = Simulation(build)
    fighter = build.project.stage.fighters[0].name
    since = 0
    for tick in range(200):
        record = play.tick([Input(fighter, command=command)] if tick == 20 else [])
        since += bool(since) or bool(record.contacts)
        if since > after:
            break
    return record_scene(build, record)


def main() -> int:
    """Draw them anew."""
    project = open_project(shipped_demo())
    build = CompiledProject(project, load_assets(project, shipped_demo())[0])
    mesh = figure_mesh(build.assets, project.rig)
    with headless_painter() as painter:
        for bench, what in SHOWN.items():
            scene = _scene(build, *what)
            points = np.concatenate([body.joints[:, :3, 3] for body in scene.bodies])
            camera = Camera.framing(np.concatenate([points - 0.05, points + 0.1]), SIZE[0] / SIZE[1], yaw=-24.0)
            for theme, look in THEMES.items():
                pixels = picture(painter, scene, camera, look, mesh, SIZE)
                (OUT / f"{bench.lower()}_{theme}.png").write_bytes(png(pixels))
    print(OUT)
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
