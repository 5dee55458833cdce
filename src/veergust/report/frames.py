"""Frames of an action, a clip or a play as pictures: one, many side by side from a still camera, or moving."""

from __future__ import annotations

import re
from dataclasses import dataclass
from math import ceil, sqrt
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from veergust.core.files import whole_file
from veergust.core.motion import motion_of, seconds
from veergust.core.play import CompiledProject, Input, Record, Simulation
from veergust.core.scene import Camera, Scene, action_scene, clip_scene, figure_mesh, record_scene
from veergust.core.trouble import Trouble, Unknown
from veergust.look import THEMES
from veergust.render.moving import moving, times
from veergust.render.picture import headless_painter, picture, png

MOST = 8192
ROUND = 0.14
"""Room (m) around joints that a figure's flesh takes."""


@dataclass(frozen=True)
class Wanted:
    """What is to be drawn: an action, a clip, or a play of inputs by tick."""

    project: str
    action: str | None = None
    clip: str | None = None
    inputs: dict[int, list[Input]] | None = None


def picture_size(text: str) -> tuple[int, int]:
    """``WxH`` in pixels."""
    match = re.fullmatch(r"(\d+)x(\d+)", text)
    width, height = (int(match[1]), int(match[2])) if match else (0, 0)
    if not (1 <= width <= MOST and 1 <= height <= MOST):
        raise Trouble(f"--size {text!r} is not a size", do=f"write it like 960x640, each up to {MOST}")
    return width, height


def render_frames(
    build: CompiledProject, wanted: Wanted, ticks: tuple[int, ...], out: Path, size: str, theme: str
) -> None:
    """Draw frames side by side and write them; refuses names and frames the project does not have."""
    width, height = picture_size(size)
    scenes = _scenes(build, wanted, ticks)
    across = _columns(len(scenes), width, height)
    down = ceil(len(scenes) / across)
    panel = max(width // across, 1), max(height // down, 1)
    camera = _still(scenes, panel)
    mesh = figure_mesh(build.assets, build.project.rig)
    sheet = np.full((height, width, 3), 255, dtype=np.uint8)
    with headless_painter() as painter:
        for n, scene in enumerate(scenes):
            x, y = n % across * panel[0], n // across * panel[1]
            pixels = picture(painter, scene, camera, THEMES[theme], mesh, panel)
            sheet[y : y + panel[1], x : x + panel[0]] = pixels
            if len(scenes) > 1:
                _number(sheet[y : y + panel[1], x : x + panel[0]], ticks[n])
    with whole_file(out) as target:
        target.write(png(sheet))


def _still(scenes: list[Scene], size: tuple[int, int]) -> Camera:
    """A camera that stays where it is and sees all of them."""
    shown = [b.joints[:, :3, 3] for scene in scenes for b in scene.bodies]
    points = np.concatenate(shown) if shown else np.zeros((1, 3))
    return Camera.framing(np.concatenate([points - ROUND, points + ROUND]), size[0] / size[1])


def render_moving(
    build: CompiledProject,
    wanted: Wanted,
    ticks: tuple[int, ...],
    out: Path,
    size: str,
    theme: str,
    *,
    spans: bool = False,
) -> None:
    """Draw frames one after the other and write them as a moving picture that goes round, as fast as they are played:
    WebP, GIF or APNG, by the ending of the file; of an action with its ``spans`` under it. Refuses as
    ``render_frames``."""
    made = moving_picture(build, wanted, ticks, out.suffix, picture_size(size), theme, spans=spans)
    with whole_file(out) as target:
        target.write(made)


def moving_picture(
    build: CompiledProject,
    wanted: Wanted,
    ticks: tuple[int, ...],
    ending: str,
    size: tuple[int, int],
    theme: str,
    *,
    spans: bool = False,
) -> bytes:
    """The bytes of frames one after the other, in the format of a file's ``ending``; refuses as ``render_frames``. Of
    an action with its ``spans`` in rows under it, which make it higher than its size."""
    scenes = _scenes(build, wanted, ticks)
    camera, mesh = _still(scenes, size), figure_mesh(build.assets, build.project.rig)
    with headless_painter() as painter:
        frames = [picture(painter, scene, camera, THEMES[theme], mesh, size) for scene in scenes]
    compiled = build.action(wanted.action) if spans and wanted.action is not None else None
    if compiled is not None:
        from veergust.report.strip import with_spans

        frames = with_spans(frames, compiled, ticks, THEMES[theme])
    return moving(frames, times(ticks, build.project.settings.rate), ending.lower())


def _scenes(build: CompiledProject, wanted: Wanted, ticks: tuple[int, ...]) -> list[Scene]:
    if wanted.inputs is not None:
        simulation = Simulation(build)
        records: dict[int, Record] = {}
        for t in range(max(ticks) + 1):
            record = simulation.tick(wanted.inputs.get(t, []))
            if t in ticks:
                records[t] = record
        return [record_scene(build, records[t]) for t in ticks]
    if wanted.action is not None:
        compiled = build.action(wanted.action)
        if compiled is None:
            raise Unknown("action", wanted.action, build.actions_by_name, file=wanted.project)
        _within(wanted, wanted.action, ticks, max(compiled.total, 1))
        return [action_scene(build, compiled, t) for t in ticks]
    name = wanted.clip or ""
    clip = build.clip(name)
    if clip is None:
        raise Unknown("clip", name, (c.name for c in build.project.clips), file=wanted.project)
    if motion_of(build.assets, clip) is None:
        raise Trouble(f"clip {name} has no poses: {clip.file} is gone", file=wanted.project, do="import it again")
    _within(wanted, name, ticks, round(seconds(build.assets, clip) * build.project.settings.rate) + 1)
    return [clip_scene(build, name, t) for t in ticks]


def _within(wanted: Wanted, name: str, ticks: tuple[int, ...], count: int) -> None:
    off = next((t for t in ticks if not 0 <= t < count), None)
    if off is not None:
        raise Trouble(f"{name} has frames 0 to {count - 1}, not {off}", file=wanted.project, do="choose one of them")


def _columns(count: int, width: int, height: int) -> int:
    """So many side by side that a panel is about as high as wide or higher; the rest goes below."""
    return min(max(ceil(sqrt(count * width / height * 1.2)), 1), count)


ROWS = {"0": "75557", "1": "26227", "2": "71747", "3": "71717", "4": "55711",
        "5": "74717", "6": "74757", "7": "71122", "8": "75757", "9": "75717"}  # fmt: skip


def _number(panel: NDArray[np.uint8], number: int) -> None:
    """Write a tick's number into the corner of its panel, each digit three by five blocks."""
    block = max(panel.shape[0] // 120, 2)
    x = 2 * block
    for digit in str(number):
        for row, bits in enumerate(ROWS[digit]):
            for column in range(3):
                if int(bits) >> (2 - column) & 1:
                    y = (2 + row) * block
                    panel[y : y + block, x + column * block : x + (column + 1) * block] = 40
        x += 4 * block
