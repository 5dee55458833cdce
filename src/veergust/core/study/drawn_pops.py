"""Where the feet of a drawn figure jump: at a cut, a section's border, a start or an ending.

From one drawing of a clip to the next feet step as they are drawn. Where two clips meet they are expected to stand
where they stood: the lowest that is drawn of either, about the body.
"""

from __future__ import annotations

from collections.abc import Iterator
from math import hypot
from typing import Any, NamedTuple

import numpy as np

from veergust.core.motion import Array, DrawnSheet, forward, seen_on
from veergust.core.play import CompiledAction, CompiledProject

JUMP = 0.12
"""Feet that are drawn farther (m) from where they were jump."""
SOLE = 0.06
FAINT = 8


class FeetJump(NamedTuple):
    """Feet that jump: section entered, what is left (a section, a state), on which frame, how far (m), and why."""

    section: str
    source: str
    at: int
    metres: float
    why: str
    do: str


def stands_on(build: CompiledProject, joints: Array) -> tuple[float, float] | None:
    """Where the lowest that is drawn is about the body (m): its middle ahead, and how high; None where nothing is."""
    number, cell = seen_on(build.assets.skeleton, joints)
    sheets = build.project.rig.sheets
    sheet = build.assets.sheets.get(sheets[number]) if number < len(sheets) else None
    if sheet is None or cell >= len(sheet.rects):
        return None
    return build.ask(_feet_on, number, cell)


def _feet_on(build: CompiledProject, number: int, cell: int) -> tuple[float, float] | None:
    sheet = build.assets.sheets[build.project.rig.sheets[number]]
    ink = sheet.cell(cell)[..., 3] >= FAINT
    rows = np.flatnonzero(ink.any(axis=1))
    if not len(rows):
        return None
    low = int(rows[-1]) + 1
    tall = max(round(SOLE * (low - rows[0])), 1)
    columns = np.flatnonzero(ink[low - tall : low].any(axis=0))
    x, y = sheet.feet[cell]
    ahead = ((columns[0] + columns[-1] + 1) / 2.0 - x) / sheet.metre
    return float(ahead if sheet.right else -ahead), float((y - low) / sheet.metre)


def apart(build: CompiledProject, one: Array, two: Array) -> float:
    """How far (m) the feet of two drawings are apart, of figures whose bodies stand on one place."""
    a, b = stands_on(build, one), stands_on(build, two)
    return hypot(a[0] - b[0], a[1] - b[1]) if a is not None and b is not None else 0.0


def alike(build: CompiledProject, one: Array, two: Array) -> float:
    """How much of two drawings lies over the other (0…1): what both cover of what either covers, at the coarser of
    their scales."""
    masks = [_mask(build, joints) for joints in (one, two)]
    if any(m is None for m in masks):
        return 0.0
    a, b = masks[0], masks[1]
    assert a is not None
    assert b is not None
    either = int((a | b).sum())
    return float((a & b).sum()) / either if either else 1.0


FINE = 64
"""Drawings are laid over one another on so many squares a side of two metres and a half."""


def _mask(build: CompiledProject, joints: Array) -> Any:
    number, cell = seen_on(build.assets.skeleton, joints)
    sheets = build.project.rig.sheets
    sheet: DrawnSheet | None = build.assets.sheets.get(sheets[number]) if number < len(sheets) else None
    if sheet is None or cell >= len(sheet.rects):
        return None
    pixels = sheet.cell(cell)[..., 3] >= FAINT
    size = 2.5 / FINE
    ahead = (np.arange(FINE) + 0.5) * size - 1.25
    up = (np.arange(FINE) + 0.5) * size - 0.1
    x, y = sheet.feet[cell]
    columns = np.floor(x + (ahead if sheet.right else -ahead) * sheet.metre).astype(int)
    rows = np.floor(y - up * sheet.metre).astype(int)
    inside = ((rows >= 0) & (rows < pixels.shape[0]))[:, None] & ((columns >= 0) & (columns < pixels.shape[1]))[None]
    out = np.zeros((FINE, FINE), dtype=bool)
    taken = pixels[np.clip(rows, 0, pixels.shape[0] - 1)][:, np.clip(columns, 0, pixels.shape[1] - 1)]
    out[inside] = taken[inside]
    return out


def jumps(build: CompiledProject, compiled: CompiledAction) -> Iterator[FeetJump]:
    """Every place of an action at which its feet jump."""
    do = "move the feet of its cells, or begin it with another drawing"
    for part in compiled.sections:
        section = part.section.name
        for cut in part.cuts[1:]:
            far = apart(build, part.world[cut.first - 1], part.world[cut.first])
            if far > JUMP:
                yield FeetJump(section, section, cut.first, far, f"its cut of {cut.cut.clip} stands elsewhere", do)
        for to in compiled.ways(part.section.then):
            new = compiled.sections[to]
            far = apart(build, part.world[part.ticks - 1], new.world[0])
            if far > JUMP and new is not part:
                yield FeetJump(new.section.name, section, 0, far, f"{section} goes over into it", do)
    idle = build.idle_state
    if idle is None or not compiled.path:
        return
    pose = build.locomotion_clip(build.idle_clip).at(0.0)
    stands = forward(build.assets.skeleton, pose.rotation, pose.translation)[0]
    entry, last = compiled.sections[compiled.path[0]], compiled.sections[compiled.path[-1]]
    far = apart(build, stands, entry.world[0])
    if far > JUMP:
        yield FeetJump(entry.section.name, idle.name, 0, far, f"it starts from {idle.name}", do)
    far = apart(build, last.world[last.ticks - 1], stands)
    if far > JUMP and last.section.posture != "down":  # who lies gets up, or stays there
        yield FeetJump(last.section.name, last.section.name, last.ticks, far, f"it ends in {idle.name}", do)
