"""The report as one page of HTML that asks nobody for anything: pictures, style and script are in it."""

from __future__ import annotations

import base64
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from importlib.resources import files

import jinja2
import numpy as np
from numpy.typing import NDArray

from veergust.core.kinds import FACTS
from veergust.core.motion import Mesh
from veergust.core.play import CompiledAction, CompiledProject
from veergust.core.scene import Camera, Shown, action_scene, figure_mesh
from veergust.core.study import NEVER, floor_map
from veergust.look import THEMES, Palette
from veergust.render.moving import moving, times
from veergust.render.painter import Painter
from veergust.render.picture import headless_painter, picture, png
from veergust.report.rows import ActionReport

POSES, TALL, WIDE = 9, 150, 118
"""So many poses stand on the strip of an action, each so large (px)."""
MOVING, EVERY = (260, 200), 3
"""The moving picture of an action, and every which frame of it."""
LONGEST = 240
"""Of an action that goes on for ever so many frames are shown."""


@dataclass
class Pictures:
    """What is drawn of an action: the frames of its strip with their pictures, it moving, and where it touches."""

    strip: list[tuple[int, str]] = field(default_factory=list)
    moving: str = ""
    floor: list[tuple[int, int, int]] = field(default_factory=list)
    floor_size: tuple[int, int] = (0, 0)


def as_page(
    build: CompiledProject, rows: Sequence[ActionReport], told: Callable[[str], object] = lambda _: None
) -> str:
    """The page of actions. Raises ``Trouble`` where nothing can be drawn."""
    look = THEMES["day"]
    mesh = figure_mesh(build.assets, build.project.rig)
    drawn: dict[str, Pictures] = {}
    with headless_painter() as painter:
        for row in rows:
            told(row.name)
            compiled = build.action(row.name)
            if compiled is not None and compiled.sections:
                drawn[row.name] = _drawn(build, compiled, painter, mesh, look, touches=row.facts.reach is not None)
    place = files("veergust.report")
    loader = jinja2.FunctionLoader(lambda name: place.joinpath(name).read_text(encoding="utf-8"))
    shelf = jinja2.Environment(loader=loader, autoescape=True, trim_blocks=True, lstrip_blocks=True)
    return shelf.get_template("report.html").render(
        project=build.project,
        rows=rows,
        drawn=drawn,
        labels=FACTS,
        look=look,
        inks={name: role.ink for name, role in look.roles.items()},
        fonts={weight: _font(weight) for weight in ("Regular", "SemiBold")},
        hints=sum(len(row.findings) for row in rows),
    )


def _drawn(
    build: CompiledProject, compiled: CompiledAction, painter: Painter, mesh: Mesh | None, look: Palette, touches: bool
) -> Pictures:
    total = min(max(compiled.total, 1), LONGEST)
    out = Pictures()
    frames = sorted({round(n * (total - 1) / (POSES - 1)) for n in range(POSES)} | set(compiled.open_frames[:1]))
    shown_here = Shown(skins=False, sweep=False, path=False)
    scenes = {n: action_scene(build, compiled, n, shown_here) for n in {*frames, *range(0, total, EVERY)}}
    points = np.concatenate([b.joints[:, :3, 3] for s in scenes.values() for b in s.bodies])
    for n in frames:
        own = np.concatenate([b.joints[:, :3, 3] for b in scenes[n].bodies])
        camera = Camera.framing(np.concatenate([own - 0.2, own + 0.2]), WIDE / TALL)
        out.strip.append((n, _uri("image/png", png(picture(painter, scenes[n], camera, look, mesh, (WIDE, TALL))))))
    still = Camera.framing(np.concatenate([points - 0.14, points + 0.14]), MOVING[0] / MOVING[1])
    shown = list(range(0, total, EVERY))
    turns: list[NDArray[np.uint8]] = [picture(painter, scenes[n], still, look, mesh, MOVING) for n in shown]
    rate = build.project.settings.rate
    out.moving = _uri("image/webp", moving(turns, times(shown, rate), ".webp"))
    if touches:
        found = floor_map(build, compiled)
        rows, columns = found.first.shape
        out.floor_size = columns, rows
        out.floor = [
            (x, rows - 1 - z, int(found.first[z, x]))
            for z in range(rows)
            for x in range(columns)
            if found.first[z, x] != NEVER
        ]
    return out


def _uri(kind: str, data: bytes) -> str:
    return f"data:{kind};base64,{base64.b64encode(data).decode()}"


def _font(weight: str) -> str:
    data = files("veergust.desk").joinpath("fonts", f"BarlowSemiCondensed-{weight}.ttf").read_bytes()
    return _uri("font/ttf", data)
