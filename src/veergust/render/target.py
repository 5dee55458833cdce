"""A framebuffer with all that belongs to it, so that all of it is given back."""

from __future__ import annotations

from typing import Any


class Framebuffer:
    """A picture of ``size`` pixels with depth, drawn with so many ``samples`` a pixel."""

    def __init__(self, context: Any, size: tuple[int, int], samples: int) -> None:
        self._colour = context.renderbuffer(size, 4, samples=samples)
        self._depth = context.depth_renderbuffer(size, samples=samples)
        self.frame = context.framebuffer([self._colour], self._depth)

    def release(self) -> None:
        """Give it back; a framebuffer alone would leave its pixels behind."""
        for part in (self.frame, self._colour, self._depth):
            part.release()
