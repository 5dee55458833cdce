"""A clip or an action as a flipbook: a sheet of cells on nothing, and what is said beside it."""

from __future__ import annotations

import io
from itertools import groupby
from math import ceil, sqrt
from pathlib import Path

import msgspec
import numpy as np
from PIL import Image

from veergust.core.files import whole_file
from veergust.core.motion import motion_of, seen_on
from veergust.core.play import CompiledProject
from veergust.core.scene import (
    Body,
    Cells,
    Side,
    Ticks,
    cells_of,
    document,
    figure_mesh,
    shared_out,
    ticks_of_action,
    ticks_of_clip,
)
from veergust.core.trouble import Trouble, Unknown
from veergust.look import THEMES
from veergust.render.picture import cut_out, headless_painter

GUTTER = 2
"""So many empty pixels are between two cells."""
EVERY = 3
"""A cell for so many ticks, unless it is said otherwise."""
MOST = 16384
"""No sheet is wider or higher (px)."""


def flipbook(
    build: CompiledProject,
    name: str,
    to: Path,
    *,
    cells: int | None = None,
    every: int | None = None,
    side: Side = "left",
    height: int = 256,
) -> Cells:
    """Write a clip or an action (which goes before a clip of its name) as a sheet, and what is on it beside it.

    Unless it is said, what is drawn has a cell for each of its drawings, and all else one for every three ticks.

    Raises:
        Unknown: there is neither an action nor a clip of that name.
        Trouble: it has no poses, would be too large, or cannot be written.
    """
    shown = _shown(build, name)
    mesh = figure_mesh(build.assets, build.project.rig)
    made = cells_of(shown, mesh, _holds(build, shown, cells, every), side, height)
    (wide, high), count = made.size, len(made.holds)
    across = max(min(round(sqrt(count * high / wide)), count), 1)
    down = ceil(count / across)
    size = across * (wide + GUTTER) - GUTTER, down * (high + GUTTER) - GUTTER
    if max(size) > MOST:
        says = f"would be a sheet of {size[0]} × {size[1]} pixels, and may be {MOST} wide and high"
        raise Trouble(says, file=to.name, do="make the cells fewer or smaller (--every, --cells, --height)")
    at = [(n % across * (wide + GUTTER), n // across * (high + GUTTER)) for n in range(count)]
    sheet = np.zeros((size[1], size[0], 4), np.uint8)
    with headless_painter() as painter:
        for (x, y), first in zip(at, made.firsts):
            body = Body(shown.joints[first])
            sheet[y : y + high, x : x + wide] = cut_out(painter, [body], made.camera, THEMES["day"], mesh, made.size)
    out = io.BytesIO()
    Image.fromarray(sheet, "RGBA").save(out, "PNG")
    said = document(build, made, to.name, name, side, at)
    beside = msgspec.json.format(msgspec.json.encode(said)) + b"\n"
    for path, data in ((to, out.getvalue()), (to.with_suffix(".json"), beside)):
        with whole_file(path) as target:
            target.write(data)
    return made


def _holds(build: CompiledProject, shown: Ticks, cells: int | None, every: int | None) -> list[int]:
    bones = build.assets.skeleton
    if cells is None and every is None and bones.picture >= 0:
        return [len(list(run)) for _, run in groupby(seen_on(bones, joints) for joints in shown.joints)]
    return shared_out(len(shown.joints), cells, every or EVERY)


def _shown(build: CompiledProject, name: str) -> Ticks:
    compiled = build.action(name)
    if compiled is not None:
        if not compiled.total:
            raise Trouble(f"{name} has no frames", do="give it a section first")
        return ticks_of_action(compiled)
    clip = build.clip(name)
    if clip is None:
        there = [*build.actions_by_name, *(c.name for c in build.project.clips)]
        raise Unknown("action or clip", name, there)
    if motion_of(build.assets, clip) is None:
        raise Trouble(f"clip {name} has no poses: {clip.file} is gone", do="import it again")
    return ticks_of_clip(build, clip)
