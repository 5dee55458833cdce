"""What is said beside a sheet of drawings, as types: where its cells lie, how long each is held, what is on it.

``flipbook`` writes the same; docs/formats.md describes it.
"""

from __future__ import annotations

from typing import Annotated, Literal

import msgspec
from msgspec import Meta

from veergust.core.model import Metres

MOST_PIXELS = 48_000_000
"""No sheet has more pixels."""
Pixel = Annotated[int, Meta(ge=0, le=65_535)]
Pixels = Annotated[float, Meta(ge=-65_535, le=65_535)]
Whole = Annotated[int, Meta(ge=1, le=16_384)]
Spot = tuple[Pixels, Pixels]
"""A place in a cell: pixels to the right of its upper left corner, and down."""


class Beside(msgspec.Struct, frozen=True, omit_defaults=True, rename={"start": "from", "end": "to"}):
    """An object of the file; fields that are not named are left out."""


class DrawnBox(Beside, frozen=True):
    """A rectangle (x, y, width, height, px) on a cell that strikes, can be struck, or is the body; so ``deep`` (m)."""

    kind: Literal["hit", "hurt", "body"]
    rect: tuple[Pixels, Pixels, Pixels, Pixels]
    name: str = ""
    deep: Annotated[float, Meta(ge=0, le=100)] = 0.4


class DrawnCell(Beside, frozen=True):
    """A cell: its upper left corner on the sheet, for how many frames it is held, where in it the body stands, how far
    that has gone since the first (m: to its left, up, ahead), and what is on it. ``size`` is its own where it is not
    that of all."""

    at: tuple[Pixel, Pixel]
    hold: Annotated[int, Meta(ge=1, le=10_000)] = 1
    feet: Spot | None = None
    travel: tuple[Metres, Metres, Metres] | None = None
    points: dict[str, Spot] = {}
    boxes: tuple[DrawnBox, ...] = ()
    size: tuple[Whole, Whole] | None = None


class Strip(Beside, frozen=True):
    """A clip: the cells from ``start`` up to before ``end``, which may loop."""

    name: str
    start: Annotated[int, Meta(ge=0)] = 0
    end: Annotated[int, Meta(ge=1)] | None = None
    loop: bool = False


class Flipbook(Beside, frozen=True):
    """A sheet: its picture, the size of its cells, how many pixels are a metre, frames a second, from which side the
    figure is seen or which way it ``looks``, how edges are drawn, which points go evenly from cell to cell, the colour
    that is nothing, and its cells. Where it ``walks``, the body goes where it stands in the cells."""

    image: str
    cell: tuple[Whole, Whole]
    cells: Annotated[tuple[DrawnCell, ...], Meta(min_length=1, max_length=5000)]
    pixels_per_metre: Annotated[float, Meta(gt=0, le=65_535)] = 100.0
    name: str = ""
    rate: Annotated[int, Meta(ge=1, le=1000)] = 60
    side: Literal["left", "right", "front"] | None = None
    looks: Literal["left", "right"] | None = None
    edges: Literal["crisp", "smooth"] = "crisp"
    walks: bool = False
    eased: tuple[str, ...] = ()
    clear: tuple[Pixel, Pixel, Pixel] | None = None
    clips: tuple[Strip, ...] = ()

    @property
    def right(self) -> bool:
        """Whether the figure looks to the right of its cells."""
        return self.looks != "left" if self.looks is not None else self.side != "left"

    def size_of(self, cell: DrawnCell) -> tuple[int, int]:
        """The width and height of a cell (px)."""
        return cell.size or self.cell

    def feet_of(self, cell: DrawnCell) -> Spot:
        """Where the body stands in a cell; in the middle of its lower edge where it does not say."""
        wide, high = self.size_of(cell)
        return cell.feet or (wide / 2.0, float(high))
