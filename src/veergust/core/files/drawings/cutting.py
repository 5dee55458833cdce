"""Where the cells of a bare sheet are, and what may be said of them: proposed by what is drawn and what is not."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from veergust.core.files.drawings.document import DrawnBox
from veergust.core.motion import MOST_CELLS
from veergust.core.trouble import Trouble

Mask = NDArray[np.bool_]
FAINT = 8
"""What is less opaque (of 255) counts as nothing."""
TALL = 1.75
"""As tall (m) as what is drawn is taken to be."""
SOLE = 0.06
"""The lowest share of a drawing's height, in which its feet are."""
CORE = 0.3
"""Columns and rows that are covered by this share of the fullest one belong to the trunk."""
REACH = 0.12
"""What is new and reaches this share of the height ahead of the trunk may strike."""


@dataclass(frozen=True)
class Grid:
    """Cells of one ``size``, the first at ``at``, each ``step`` from the next (px), so many ``across`` and ``down``."""

    at: tuple[int, int]
    size: tuple[int, int]
    step: tuple[int, int]
    across: int
    down: int

    @property
    def places(self) -> list[tuple[int, int]]:
        """The upper left corners of its cells, row by row."""
        (x, y), (dx, dy) = self.at, self.step
        return [(x + n * dx, y + m * dy) for m in range(self.down) for n in range(self.across)]


def inked(pixels: NDArray[np.uint8]) -> Mask:
    """Where something is drawn ``[H, W]``."""
    return np.asarray(pixels[..., 3] >= FAINT)


def ground_colour(pixels: NDArray[np.uint8]) -> tuple[int, int, int] | None:
    """The colour that is nothing on a sheet where no pixel is clear: that of all its corners, where they agree."""
    if (pixels[..., 3] < 255).any():
        return None
    rows = pixels[[0, 0, -1, -1], [0, -1, 0, -1], :3]
    if (rows != rows[0]).any():
        return None
    red, green, blue = (int(v) for v in rows[0])
    return red, green, blue


def found(ink: Mask) -> Grid:
    """The grid that the empty gutters of a sheet lay out. Raises ``Trouble`` when nothing is drawn."""
    if not ink.any():
        raise Trouble("has nothing drawn on it", do="choose the sheet, or say which colour is nothing")
    tall, broad = ink.shape
    x, wide, dx, across = _spaced(np.asarray(ink.any(axis=0)), broad)
    y, high, dy, down = _spaced(np.asarray(ink.any(axis=1)), tall)
    if _figures(ink) > across * down:
        # Drawings reach over their gutters.
        x, wide, dx, across = _evenly(ink.sum(axis=0), broad, across)
        y, high, dy, down = _evenly(ink.sum(axis=1), tall, down)
    return _checked(Grid((x, y), (wide, high), (dx, dy), across, down))


def _figures(ink: Mask) -> int:
    """How many drawings hang together, but for specks."""
    from scipy.ndimage import label

    marked, count = label(ink, structure=np.ones((3, 3)))
    sizes = np.bincount(marked.ravel(), minlength=count + 1)[1:]
    return int((sizes >= SPECK * sizes.max()).sum())


MOST_ALONG, WIDEST, CROSSES = 64, 16, 0.06
"""Between so many cells at the most along a side, with gutters so wide (px), this share of what is usual may cross."""
SPECK = 0.15
"""What is smaller than this share of the largest drawing is a speck."""


def _evenly(much: NDArray[np.intp], room: int, least: int) -> tuple[int, int, int, int]:
    """Start, size, step and number of cells along one side, of whose lines so many pixels each are filled: the most
    cells of an even grid over the whole side, ``least`` or more, between which hardly anything is crossed."""
    usual = float(much[much > 0].mean())
    for count in range(min(MOST_ALONG, room), least - 1, -1):
        for gutter in range(WIDEST + 1):
            step, rest = divmod(room + gutter, count)
            if rest or step - gutter < 2 or gutter * 4 > step:
                continue
            at = np.arange(1, count) * step - gutter
            crossed = [float(much[line : line + max(gutter, 1)].min()) for line in at]
            filled = [much[n * step : n * step + step - gutter].any() for n in range(count)]
            if sum(crossed) <= CROSSES * usual * len(crossed) and all(filled):
                return 0, step - gutter, step, count
    return _spaced(much > 0, room)


def _spaced(filled: Mask, room: int) -> tuple[int, int, int, int]:
    """Start, size, step and number of cells along one side, of which pixels are filled in.

    Bands of what is drawn lie one in each cell, whatever each leaves empty of it: of all steps that one is taken with
    which the cells that hold them are smallest.
    """
    edges = np.flatnonzero(np.diff(np.concatenate([[False], filled, [False]]).astype(np.int8)))
    starts, ends = edges[::2], edges[1::2]
    count = len(starts)
    if count == 1:
        return int(starts[0]), int(ends[0] - starts[0]), int(ends[0] - starts[0]), 1
    at = np.arange(count)
    best = (room + 1, 0, 0)
    for step in range(1, room // (count - 1) + 1):
        low, high = int((starts - at * step).min()), int((ends - at * step).max())
        size = high - low
        if size <= step and low >= 0 and low + (count - 1) * step + size <= room:
            best = min(best, (size, step, low))
    size, step, low = best
    if size > room:
        # The bands are not spaced alike: each has as much room as the widest of them.
        step = int(np.ceil(room / count))
        return 0, step if step * count <= room else room // count, room // count, count
    return low, size, step, count


def laid_out(
    shape: tuple[int, int],
    *,
    size: tuple[int, int] | None = None,
    across_down: tuple[int, int] | None = None,
    margin: int = 0,
    spacing: int = 0,
) -> Grid:
    """The grid of a sheet ``(height, width)`` by the ``size`` of its cells, or by how many are across and down.

    Raises ``Trouble`` when a cell would have no pixel.
    """
    high, wide = (max(v - 2 * margin, 0) for v in shape)
    if across_down is not None:
        across, down = across_down
        size = (wide + spacing) // max(across, 1) - spacing, (high + spacing) // max(down, 1) - spacing
    assert size is not None
    if min(size) < 1:
        raise Trouble("a cell would have no pixel", field="cell", do="give cells of a pixel or more")
    step = size[0] + spacing, size[1] + spacing
    across, down = across_down or ((wide + spacing) // step[0], (high + spacing) // step[1])
    if across < 1 or down < 1:
        says = f"cells of {size[0]} × {size[1]} pixels are larger than the sheet, {shape[1]} × {shape[0]}"
        raise Trouble(says, field="cell", do="give smaller cells")
    return _checked(Grid((margin, margin), size, step, across, down))


def _checked(grid: Grid) -> Grid:
    count = grid.across * grid.down
    if count > MOST_CELLS:
        says = f"{grid.across} × {grid.down} cells are more than the {MOST_CELLS} that a sheet may have"
        raise Trouble(says, field="cell", do="give larger cells, or cut the picture in parts")
    return grid


def drawn_on(ink: Mask, grid: Grid) -> list[int]:
    """Which cells of a grid have something on them."""
    wide, high = grid.size
    return [n for n, (x, y) in enumerate(grid.places) if ink[y : y + high, x : x + wide].any()]


def feet(cells: Sequence[Mask]) -> tuple[float, float]:
    """Where the body stands in all of some cells of one size ``[h, w]``, held still: over the middle of what is lowest,
    on the floor that the lowest of them reaches."""
    lows = [int(np.flatnonzero(ink.any(axis=1))[-1]) + 1 for ink in cells]
    floor = max(lows)
    middles = []
    for ink, low in zip(cells, lows):
        rows = np.flatnonzero(ink.any(axis=1))
        sole = ink[max(low - max(round(SOLE * (low - rows[0])), 1), 0) : low].any(axis=0)
        if floor - low <= max(0.1 * (low - rows[0]), 1):
            columns = np.flatnonzero(sole)
            middles.append((columns[0] + columns[-1] + 1) / 2.0)
    return float(np.median(middles)), float(floor)


def metre(cells: Sequence[Mask]) -> float:
    """How many pixels are a metre, if what is drawn is as tall as somebody."""
    heights = [float(np.ptp(np.flatnonzero(ink.any(axis=1)))) + 1.0 for ink in cells]
    return max(round(float(np.median(heights)) / TALL, 2), 0.01)


def trunk(ink: Mask) -> tuple[float, float, float, float]:
    """The rectangle (x, y, width, height) about the trunk of what is drawn: where most of it is, without what reaches
    out of it."""
    spans = []
    for axis in (0, 1):
        much = ink.sum(axis=axis)
        inside = np.flatnonzero(much >= CORE * much.max())
        spans.append((float(inside[0]), float(inside[-1] + 1)))
    rows = np.flatnonzero(ink.any(axis=1))
    (left, right), _ = spans
    return left, float(rows[0]), right - left, float(rows[-1] + 1 - rows[0])


def hurt_box(ink: Mask, name: str = "body") -> DrawnBox:
    """A hurtbox about the opaque shape, without what reaches out of it."""
    return DrawnBox("hurt", trunk(ink), name)


def reaching(before: Mask | None, ink: Mask, right: bool) -> tuple[float, float, float, float] | None:
    """The rectangle about what is new on a cell against the one before, and reaches out ahead of the trunk: what may
    strike on it."""
    x, _, wide, high = trunk(ink)
    new = ink if before is None else ink & ~before
    new = new.copy()
    if right:
        new[:, : round(x + wide)] = False
    else:
        new[:, round(x) :] = False
    if not new.any():
        return None
    columns, rows = np.flatnonzero(new.any(axis=0)), np.flatnonzero(new.any(axis=1))
    span = columns[-1] + 1 - columns[0]
    if span < REACH * high:
        return None
    return float(columns[0]), float(rows[0]), float(span), float(rows[-1] + 1 - rows[0])
