"""The ``render`` command: a frame as a PNG without a window."""

from __future__ import annotations

import re
from pathlib import Path

import numpy as np

from veergust.core.play.book import Book
from veergust.core.scene.camera import Camera
from veergust.core.scene.dress import figure_mesh
from veergust.core.scene.view import action_scene, body_at, clip_scene
from veergust.core.trouble import Trouble
from veergust.look import THEMES
from veergust.render.picture import headless_painter, picture, png

MOST = 8192


def picture_size(text: str) -> tuple[int, int]:
    """``WxH`` in pixels."""
    match = re.fullmatch(r"(\d+)x(\d+)", text)
    width, height = (int(match[1]), int(match[2])) if match else (0, 0)
    if not (1 <= width <= MOST and 1 <= height <= MOST):
        raise Trouble(f"--size {text!r} is not a size", do=f"write it like 960x640, each up to {MOST}")
    return width, height


def render_frame(
    book: Book, project: str, action: str | None, clip: str | None, frame: int, out: Path, size: str, theme: str
) -> None:
    """Draw a frame and write it; refuses names and frames the project does not have."""
    pixels_size = picture_size(size)
    if action is not None:
        compiled = book.action(action)
        if compiled is None:
            raise Trouble(f"has no action {action!r}", file=project, do="see veergust facts for the names")
        if not 0 <= frame < max(compiled.total, 1):
            raise Trouble(
                f"{action} has frames 0 to {compiled.total - 1}, not {frame}", file=project, do="choose one of them"
            )
        scene = action_scene(book, compiled, frame)
        at = body_at(compiled, frame)[:3, 3]
    else:
        if book.clip(clip or "") is None:
            raise Trouble(f"has no clip {clip!r}", file=project, do="see veergust clips for the names")
        if frame < 0:
            raise Trouble(f"frame {frame} is before the clip", file=project, do="count from 0")
        scene = clip_scene(book, clip or "", frame)
        at = scene.bodies[0].joints[0, :3, 3] if scene.bodies else np.zeros(3)
    camera = Camera(target=(float(at[0]) + 0.3, 0.85, float(at[2])), turn=-12.0, far=4.6)
    mesh = figure_mesh(book.cast, book.project.rig)
    with headless_painter() as painter:
        pixels = picture(painter, scene, camera, THEMES[theme], mesh, pixels_size)
    try:
        out.write_bytes(png(pixels))
    except OSError as error:
        raise Trouble(f"cannot be written ({error.strerror})", file=str(out), do="choose another place") from error
