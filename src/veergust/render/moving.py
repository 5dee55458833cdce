"""Pictures one after the other as one moving picture, which goes round."""

from __future__ import annotations

import io
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

MOVES = {".webp": "WEBP", ".gif": "GIF", ".apng": "PNG"}
"""The formats by the ending of a file; a ``.png`` is an APNG as well where it is to move."""
LEAST = 10
"""No picture is shown shorter than this (ms): viewers slow down what is."""


def times(ticks: Sequence[int], rate: int) -> list[int]:
    """For how long each tick is shown (ms), so that all together last as long as they are played; the last one as long
    as the one before it."""
    ends = [*ticks[1:], ticks[-1] + (ticks[-1] - ticks[-2] if len(ticks) > 1 else 1)]
    at = [round((tick - ticks[0]) * 1000 / rate) for tick in (*ticks, ends[-1])]
    return [max(b - a, LEAST) for a, b in zip(at, at[1:])]


def moving(frames: Sequence[NDArray[np.uint8]], shown: Sequence[int], ending: str) -> bytes:
    """The bytes of a moving picture of frames ``[H, W, 3]``, each shown for so long (ms)."""
    from PIL import Image

    pictures = [Image.fromarray(frame) for frame in frames]
    out = io.BytesIO()
    kind = MOVES.get(ending, "PNG")
    more: dict[str, object] = {"quality": 86, "method": 4} if kind == "WEBP" else {}
    if kind == "GIF":  # its times are hundredths of a second: what is lost on one is made up for on the next
        edges = [round(sum(shown[:n]) / 10) for n in range(len(shown) + 1)]
        shown = [max(b - a, 2) * 10 for a, b in zip(edges, edges[1:])]
        more["disposal"] = 1
    pictures[0].save(out, kind, save_all=True, append_images=pictures[1:], duration=list(shown), loop=0, **more)
    return out.getvalue()
