"""A scene as a PNG without a window, drawn on an EGL context."""

from __future__ import annotations

import ctypes
import struct
import zlib
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from typing import Any

import moderngl
import numpy as np
from numpy.typing import NDArray

from veergust.core.motion import Mesh
from veergust.core.scene import Body, Camera, Scene
from veergust.core.trouble import Trouble
from veergust.look import Palette
from veergust.render.painter import Painter
from veergust.render.target import Framebuffer


@contextmanager
def headless_painter() -> Iterator[Painter]:
    """A painter on a context without a window, given back at the end: a context left current here would be in the
    way of a window's. Raises ``Trouble`` where the machine has no OpenGL.
    """
    create: Any = moderngl.create_context
    try:
        context = create(standalone=True, require=330, backend="egl")
    except Exception as error:
        raise Trouble(
            "OpenGL 3.3 without a window is not to be had on this machine",
            do="install libegl1 and libgl1-mesa-dri",
        ) from error
    painter = Painter(context)
    try:
        yield painter
    finally:
        painter.release()
        context.release()
        _leave_thread()


def _leave_thread() -> None:
    """Unbind EGL from this thread (EGL 1.5, 3.12), or no window could make its own context current here."""
    try:
        ctypes.CDLL("libEGL.so.1").eglReleaseThread()
    except OSError:
        return


def picture(
    painter: Painter, scene: Scene, camera: Camera, look: Palette, mesh: Mesh | None, size: tuple[int, int]
) -> NDArray[np.uint8]:
    """The scene as pixels ``[height, width, 3]``."""
    context: Any = painter.context
    painter.use_mesh(mesh)
    many, plain = Framebuffer(context, size, 4), Framebuffer(context, size, 0)
    painter.draw(many.frame, scene, camera, look, size)
    context.copy_framebuffer(plain.frame, many.frame)
    data = np.frombuffer(plain.frame.read(components=3, alignment=1), np.uint8)
    many.release()
    plain.release()
    return data.reshape(size[1], size[0], 3)[::-1].copy()


def cut_out(
    painter: Painter, bodies: Sequence[Body], camera: Camera, look: Palette, mesh: Mesh | None, size: tuple[int, int]
) -> NDArray[np.uint8]:
    """Bodies alone as pixels ``[height, width, 4]``, what is not covered being clear."""
    context: Any = painter.context
    painter.use_mesh(mesh)
    many, plain = Framebuffer(context, size, 4), Framebuffer(context, size, 0)
    painter.cut_out(many.frame, bodies, camera, look, size)
    context.copy_framebuffer(plain.frame, many.frame)
    data = np.frombuffer(plain.frame.read(components=4, alignment=1), np.uint8).reshape(size[1], size[0], 4)[::-1]
    many.release()
    plain.release()
    # Along an edge its colour is mixed with nothing: what is left of it is all of what is covered.
    cover = data[..., 3:].astype(float)
    colour = np.where(cover > 0, data[..., :3] * 255.0 / np.maximum(cover, 1.0), 0.0)
    return np.concatenate([np.clip(colour, 0, 255).round().astype(np.uint8), data[..., 3:]], axis=-1)


def png(pixels: NDArray[np.uint8]) -> bytes:
    """Pixels ``[height, width, 3]`` as the bytes of a PNG file (ISO/IEC 15948)."""
    height, width = pixels.shape[:2]
    rows = b"".join(b"\0" + pixels[y].tobytes() for y in range(height))

    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    head = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(rows, 6)) + chunk(b"IEND", b"")
