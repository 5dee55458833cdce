"""Whether a window can draw with OpenGL here, and if not, why, in a sentence."""

from __future__ import annotations

from functools import cache

from PySide6.QtGui import QOffscreenSurface, QOpenGLContext, QSurfaceFormat

LEAST = (3, 3)
SAYS = (
    "The stage is empty: it needs OpenGL 3.3, and {why}. Everything else works; install or update the graphics driver."
)


def surface_format() -> QSurfaceFormat:
    """OpenGL 3.3 core with a depth buffer; samples are the renderer's own affair."""
    form = QSurfaceFormat()
    form.setVersion(*LEAST)
    form.setProfile(QSurfaceFormat.OpenGLContextProfile.CoreProfile)
    form.setDepthBufferSize(24)
    return form


@cache
def opengl_trouble() -> str:
    """Why the stage cannot be drawn; nothing when it can. Needs the application."""
    surface = QOffscreenSurface()
    surface.setFormat(surface_format())
    surface.create()
    context = QOpenGLContext()
    context.setFormat(surface_format())
    if not context.create() or not context.makeCurrent(surface):
        return SAYS.format(why="there is none on this display")
    found = context.format().majorVersion(), context.format().minorVersion()
    context.doneCurrent()
    if found < LEAST:
        return SAYS.format(why=f"this display has {found[0]}.{found[1]}")
    return ""
