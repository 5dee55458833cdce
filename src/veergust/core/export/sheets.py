"""The drawings of a figure that is drawn: its sheets packed again, and what is on each of their cells."""

from __future__ import annotations

import io
from math import ceil, sqrt

import numpy as np
from PIL import Image

from veergust.core.export.actions import Json
from veergust.core.files import slug
from veergust.core.model import Clip
from veergust.core.motion import PICTURE, ROOT, Array, DrawnSheet, forward, seen_on, source_pose
from veergust.core.play import CompiledProject

GUTTER = 2
"""So many empty pixels are between two cells."""


def sheets_out(build: CompiledProject) -> tuple[Json, dict[str, bytes]]:
    """What is on the sheets, and their pictures by path."""
    rows, pictures = [], {}
    for number, file in enumerate(build.project.rig.sheets):
        sheet = build.assets.sheets.get(file)
        if sheet is None:
            continue
        path = f"sheets/{number + 1}_{slug(file.rpartition('/')[2].removesuffix('.json'))}.png"
        at, packed = _packed(sheet)
        pictures[path] = packed
        rows.append(
            {
                "image": path,
                "pixels_per_metre": sheet.metre,
                "looks": "right" if sheet.right else "left",
                "edges": "crisp" if sheet.crisp else "smooth",
                "cells": [
                    {
                        "at": list(at[n]),
                        "size": [int(v) for v in sheet.rects[n, 2:]],
                        "feet": [float(v) for v in sheet.feet[n]],
                        **_on_cell(build, sheet, number, n),
                    }
                    for n in range(len(sheet.rects))
                ],
            }
        )
    return {"sheets": rows}, pictures


def _packed(sheet: DrawnSheet) -> tuple[list[tuple[int, int]], bytes]:
    """Where the cells lie on a picture that has nothing else, and that picture as PNG."""
    count = len(sheet.rects)
    wide, high = (int(v) + GUTTER for v in sheet.rects[:, 2:].max(axis=0))
    across = max(min(round(sqrt(count * high / wide)), count), 1)
    pixels = np.zeros((ceil(count / across) * high - GUTTER, across * wide - GUTTER, 4), np.uint8)
    at = [(n % across * wide, n // across * high) for n in range(count)]
    for n, (x, y) in enumerate(at):
        cell = sheet.cell(n)
        pixels[y : y + cell.shape[0], x : x + cell.shape[1]] = cell
    out = io.BytesIO()
    Image.fromarray(pixels, "RGBA").save(out, "PNG")
    return at, out.getvalue()


def _on_cell(build: CompiledProject, sheet: DrawnSheet, number: int, cell: int) -> Json:
    """Points and boxes of a cell (px from its upper left corner), as the first clip that shows it has them."""
    joints = _shown_first(build, number).get(cell)
    if joints is None:
        return {"points": {}, "boxes": []}
    index = build.assets.skeleton.index

    def spot(name: str) -> list[float]:
        _, up, ahead = joints[index[name], :3, 3]
        x, y = sheet.feet[cell]
        right = ahead if sheet.right else -ahead
        return [round(float(x + right * sheet.metre), 3), round(float(y - up * sheet.metre), 3)]

    points = {m.name: spot(m.joint) for m in build.project.rig.mounts if m.joint not in (ROOT, PICTURE)}
    boxes = []
    for box in build.project.rig.hurtboxes:
        if box.spans in index and box.joint in index:
            (a, b), (c, d) = spot(box.joint), spot(box.spans)
            if a != c and b != d:
                rect = [min(a, c), min(b, d), round(abs(c - a), 3), round(abs(d - b), 3)]
                boxes.append({"kind": "hurt", "name": box.name, "rect": rect})
    return {"points": points, "boxes": boxes}


def _shown_first(build: CompiledProject, number: int) -> dict[int, Array]:
    return build.ask(_shown, number)


def _shown(build: CompiledProject, number: int) -> dict[int, Array]:
    """The joints ``[J, 4, 4]`` of each cell of a sheet, on the first frame of a clip that shows it."""
    bones, out = build.assets.skeleton, dict[int, Array]()
    for clip in (c for c in build.project.clips if c.file == build.project.rig.sheets[number]):
        for joints in _frames(build, clip):
            sheet, cell = seen_on(bones, joints)
            if sheet == number:
                out.setdefault(cell, joints)
    return out


def _frames(build: CompiledProject, clip: Clip) -> Array:
    motion = build.assets.motion(clip.file, clip.animation)
    count = max(round(motion.seconds * motion.fps), 1) if motion is not None else 1
    fps = motion.fps if motion is not None else 60.0
    pose = source_pose(build.assets, clip, np.arange(count) / fps)
    joints = forward(build.assets.skeleton, pose.rotation, pose.translation)
    joints[..., :3, 3] -= joints[:, :1, :3, 3]  # about where the body stands
    return joints
