"""The row of spans under a moving picture: what is open on which frames, and the frame that is shown."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cache
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFont

import veergust
from veergust.core.play import CompiledAction
from veergust.look import Palette
from veergust.report.rows import Bar, bars_of, sections_of

FONT = Path(veergust.__file__).parent / "desk" / "fonts" / "BarlowSemiCondensed-Medium.ttf"
EDGE, LINE, HEAD = 8, 15, 18
"""Room (px) at the sides, of a span's line, and of the sections over them."""
WASH = 0.28
"""How much of its ink a span's bar has."""


@cache
def _font(size: int) -> ImageFont.FreeTypeFont:
    return ImageFont.truetype(str(FONT), size)


def with_spans(
    frames: Sequence[NDArray[np.uint8]], compiled: CompiledAction, ticks: Sequence[int], look: Palette
) -> list[NDArray[np.uint8]]:
    """Pictures ``[H, W, 3]`` of an action's ticks, each with the spans of all of them under it and its frame marked.

    Every picture becomes as much higher as there are spans on these ticks.
    """
    first, last = min(ticks), max(ticks) + 1
    bars = [bar for bar in bars_of(compiled) if bar.start < last and bar.end > first]
    sections = [bar for bar in sections_of(compiled) if bar.start < last and bar.end > first]
    wide = frames[0].shape[1]
    under = _Strip(bars, sections, first, last, wide, look)
    return [np.concatenate([frame, under.at(tick)]) for frame, tick in zip(frames, ticks)]


class _Strip:
    """The spans of some ticks, drawn once; the frame that is shown is drawn over."""

    def __init__(
        self, bars: Sequence[Bar], sections: Sequence[Bar], first: int, last: int, wide: int, look: Palette
    ) -> None:
        self.first, self.last, self.wide, self.look = first, last, wide, look
        self.high = HEAD + LINE * len(bars) + EDGE
        self.image = Image.new("RGB", (wide, self.high), look.paper)
        draw = ImageDraw.Draw(self.image, "RGBA")
        draw.line((0, 0, wide, 0), fill=look.hair_strong)
        for bar in sections:
            left, right = self._x(bar.start), self._x(bar.end)
            draw.line((left, 3, left, self.high), fill=look.hair)
            self._write(draw, bar.title, left + 3, 3, right - 3, look.ink_soft)
        for n, bar in enumerate(bars):
            self._bar(draw, bar, HEAD + LINE * n)

    def _x(self, tick: float) -> float:
        share = (min(max(tick, self.first), self.last) - self.first) / (self.last - self.first)
        return EDGE + (self.wide - 2 * EDGE) * share

    def _bar(self, draw: ImageDraw.ImageDraw, bar: Bar, top: int) -> None:
        role = self.look.roles.get(bar.role)
        ink = role.ink if role is not None else self.look.ink_soft
        left, right = self._x(bar.start), max(self._x(bar.end), self._x(bar.start) + 2)
        red, green, blue = (int(ink[i : i + 2], 16) for i in (1, 3, 5))
        draw.rectangle((left, top + 2, right, top + LINE - 2), fill=(red, green, blue, int(255 * WASH)), outline=ink)
        words = f"{bar.title} {bar.start}–{bar.end}"
        room, much = self.wide - EDGE - right - 5, draw.textlength(words, _font(12))
        if much <= room or room > left - EDGE - 5:
            self._write(draw, words, right + 5, top, self.wide - EDGE, self.look.ink)
        else:
            self._write(draw, words, max(left - 5 - much, EDGE), top, left - 5, self.look.ink)

    def _write(self, draw: ImageDraw.ImageDraw, words: str, left: float, top: float, right: float, ink: str) -> None:
        """Words in their room, cut with an ellipsis where they are longer."""
        font = _font(12)
        if draw.textlength(words, font) > right - left:
            while words and draw.textlength(words + "…", font) > right - left:
                words = words[:-1]
            words = words + "…" if words else ""
        draw.text((left, top), words, fill=ink, font=font)

    def at(self, tick: int) -> NDArray[np.uint8]:
        """With the frame of a tick marked."""
        image = self.image.copy()
        draw = ImageDraw.Draw(image, "RGBA")
        left, right = self._x(tick), self._x(tick + 1)
        draw.rectangle((left, 1, max(right - 1, left + 1), self.high), fill=(*_rgb(self.look.accent), 56))
        draw.line((left, 1, left, self.high), fill=self.look.accent, width=2)
        draw.text((self.wide - EDGE, 3), str(tick), fill=self.look.accent, font=_font(12), anchor="ra")
        return np.asarray(image)


def _rgb(ink: str) -> tuple[int, int, int]:
    return int(ink[1:3], 16), int(ink[3:5], 16), int(ink[5:7], 16)
