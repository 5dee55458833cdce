"""Bare pictures made into a sheet with what is said beside it: one sheet, a folder of pictures, or a moving picture."""

from __future__ import annotations

import io
import os
import re
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from math import ceil, sqrt
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import TYPE_CHECKING, Literal

import msgspec
import numpy as np
from numpy.typing import NDArray

from veergust.core.files.beneath import Beneath
from veergust.core.files.drawings import cutting
from veergust.core.files.drawings.document import MOST_PIXELS, DrawnBox, DrawnCell, Flipbook, Strip
from veergust.core.files.drawings.read import opened, pixels_of
from veergust.core.files.fetch import fetch
from veergust.core.files.formats import PICTURES
from veergust.core.files.text import to_text
from veergust.core.motion import MOST_CELLS
from veergust.core.trouble import Trouble

if TYPE_CHECKING:
    from PIL import Image

Pixels = NDArray[np.uint8]
GUTTER = 2
"""So many empty pixels are between two cells of a sheet that is put together."""
HELD = 5
"""For so many frames a drawing is held where nothing says: twelve a second."""
RATE = 60


@dataclass(frozen=True)
class How:
    """How a bare picture is cut: by the size of its cells, by how many are across and down, or (neither) by its empty
    gutters; what else is given of it in place of what would be proposed."""

    size: tuple[int, int] | None = None
    grid: tuple[int, int] | None = None
    margin: int = 0
    spacing: int = 0
    hold: int | None = None
    metre: float | None = None
    looks: Literal["left", "right"] = "right"
    edges: Literal["crisp", "smooth"] = "crisp"
    rows: bool = False
    walks: bool = False
    strikes: bool = False


AS_FOUND = How()
"""By what is drawn and what is not."""


@dataclass(frozen=True, eq=False)
class Draft:
    """A sheet that is on its way in: what is said beside it, its picture and what that is called, from where and how it
    was cut, and sentences of what was taken for granted."""

    said: Flipbook
    image: bytes
    pixels: Pixels
    name: str
    path: Path
    how: How
    notes: tuple[str, ...] = ()
    many: bool = False
    """Whether it was put together of several pictures."""
    feet: tuple[float, float] | None = None
    """Where the person has said that the body stands."""
    _kept: list[TemporaryDirectory[str]] = field(default_factory=list)

    def written(self) -> Path:
        """It as two files in a folder of their own, which is there as long as this is; the one that says what is on
        the sheet."""
        place = TemporaryDirectory(prefix="veergust-")
        self._kept.append(place)
        folder = Path(place.name)
        (folder / self.said.image).write_bytes(self.image)
        path = folder / f"{self.name}.json"
        path.write_bytes(to_text(self.said))
        return path

    def saying(self, said: Flipbook, feet: tuple[float, float] | None = None) -> Draft:
        """It with something else said beside it, such as where the body stands."""
        return replace(self, said=said, feet=feet or self.feet, _kept=[])


def is_bare(path: Path) -> bool:
    """Whether this is a picture, or a folder of pictures, beside which nothing says what is on it."""
    if path.is_dir():
        return path.suffix != ".veergust"
    return path.suffix.lower() in PICTURES and not path.with_suffix(".json").is_file()


def drafted(path: Path, how: How = AS_FOUND) -> Draft:
    """A bare sheet, a folder of numbered pictures or a moving picture as a sheet. Raises ``Trouble``."""
    if path.is_dir():
        return _put_together(path, path.name, *_from_folder(path), how)
    data = fetch(path)
    with opened(data, path.name) as picture:
        frames = int(getattr(picture, "n_frames", 1))
        if frames > 1:
            return _put_together(path, path.stem, *_from_moving(picture, path.name), how)
    return _cut(path, data, how)


def _cut(path: Path, data: bytes, how: How) -> Draft:
    pixels = pixels_of(data, path.name)
    clear = cutting.ground_colour(pixels)
    notes = []
    if clear is not None:
        notes.append(f"nothing on it is clear: its corners' colour {clear} is taken for nothing")
        pixels = pixels.copy()
        pixels[(pixels[..., :3] == np.array(clear, dtype=np.uint8)).all(axis=-1)] = 0
    ink = cutting.inked(pixels)
    try:
        if how.size is not None or how.grid is not None:
            laid = {"margin": how.margin, "spacing": how.spacing}
            grid = cutting.laid_out(ink.shape[:2], size=how.size, across_down=how.grid, **laid)
        else:
            grid = cutting.found(ink)
        there = cutting.drawn_on(ink, grid)
        if not there:
            raise Trouble("has nothing drawn on any of its cells", do="say otherwise where they are")
    except Trouble as trouble:
        raise Trouble(trouble.says, file=path.name, field=trouble.field, do=trouble.do) from trouble
    empty = grid.across * grid.down - len(there)
    if empty:
        notes.append(
            f"{empty} cells have nothing on them and are left out" if empty > 1 else "an empty cell is left out"
        )
    said = Flipbook(
        image=path.name if path.suffix.lower() == ".png" else f"{path.stem}.png",
        cell=grid.size,
        cells=tuple(DrawnCell(at=grid.places[n]) for n in there),
        name=path.stem,
        clear=clear,
    )
    if how.rows and grid.down > 1:
        said = msgspec.structs.replace(said, clips=tuple(_rows(path.stem, there, grid.across)))
    image = data if path.suffix.lower() == ".png" else _png(pixels)
    return _proposed(Draft(said, image, pixels, path.stem, path, how, tuple(notes)))


def _rows(stem: str, there: Sequence[int], across: int) -> list[Strip]:
    """A clip for each row of a grid that has something on it."""
    rows: dict[int, list[int]] = {}
    for place, n in enumerate(there):
        rows.setdefault(n // across, []).append(place)
    return [Strip(name=f"{stem} {k + 1}", start=at[0], end=at[-1] + 1) for k, at in enumerate(rows.values())]


def _from_folder(path: Path) -> tuple[list[Pixels], list[int], list[str]]:
    """The pictures of a folder in the order of their numbers."""
    names = [n for n in os.listdir(path) if Path(n).suffix.lower() in PICTURES]
    if not names:
        raise Trouble("holds no picture", file=path.name, do="choose a folder of PNG files")
    if len(names) > MOST_CELLS:
        says = f"holds {len(names)} pictures, and a sheet may have {MOST_CELLS} cells"
        raise Trouble(says, file=path.name, do="bring them in in parts")
    order = sorted(names, key=lambda n: [int(p) if p.isdigit() else p.lower() for p in re.split(r"(\d+)", n)])
    out: list[Pixels] = []
    with Beneath(path) as place:
        for name in order:
            out.append(pixels_of(place.read(name), name))
            _bounded(sum(p.size // 4 for p in out), path.name)
    return out, [], []


def _from_moving(picture: Image.Image, name: str) -> tuple[list[Pixels], list[int], list[str]]:
    """The frames of a moving picture, and for how many frames of play each is held."""
    from PIL import ImageSequence

    out: list[Pixels] = []
    holds = []
    try:
        for frame in ImageSequence.Iterator(picture):
            out.append(np.asarray(frame.convert("RGBA")))
            holds.append(max(round(float(frame.info.get("duration", 0) or 0) * RATE / 1000.0), 1))
            _bounded(sum(p.size // 4 for p in out), name)
            if len(out) > MOST_CELLS:
                raise Trouble(f"has more than {MOST_CELLS} pictures", file=name, do="bring it in in parts")
    except (OSError, ValueError, SyntaxError, EOFError) as error:
        raise Trouble(f"is cut short ({error})", file=name, do="export it again") from error
    return out, holds, []


def _bounded(pixels: int, name: str) -> None:
    if pixels > MOST_PIXELS:
        says = f"holds more than {MOST_PIXELS // 1_000_000} million pixels in all"
        raise Trouble(says, file=name, do="make its pictures smaller, or bring them in in parts")


def _put_together(path: Path, name: str, pictures: list[Pixels], holds: list[int], notes: list[str], how: How) -> Draft:
    """Pictures as the cells of one sheet: each in the middle of the lower edge, where they are not of one size."""
    sizes = {p.shape[:2] for p in pictures}
    high, wide = (max(size[k] for size in sizes) for k in (0, 1))
    if len(sizes) > 1:
        notes = [*notes, "its pictures are of different sizes: each stands in the middle of its cell's lower edge"]
    count = len(pictures)
    across = max(min(round(sqrt(count * high / wide)), count), 1)
    down = ceil(count / across)
    sheet = np.zeros((down * (high + GUTTER) - GUTTER, across * (wide + GUTTER) - GUTTER, 4), np.uint8)
    _bounded(sheet.size // 4, name)
    cells = []
    for n, picture in enumerate(pictures):
        x, y = n % across * (wide + GUTTER), n // across * (high + GUTTER)
        tall, broad = picture.shape[:2]
        left, top = x + (wide - broad) // 2, y + high - tall
        sheet[top : top + tall, left : left + broad] = picture
        cells.append(DrawnCell(at=(x, y), hold=holds[n] if holds else 1))
    said = Flipbook(image=f"{name}.png", cell=(wide, high), cells=tuple(cells), name=name)
    return _proposed(Draft(said, _png(sheet), sheet, name, path, how, tuple(notes), many=True))


def picked(said: Flipbook, cells: Sequence[int]) -> Flipbook:
    """A sheet of some of its cells, in this order, as one clip where that is another."""
    clips = said.clips if list(cells) == list(range(len(said.cells))) else ()
    return msgspec.structs.replace(said, cells=tuple(said.cells[n] for n in cells), clips=clips)


def standing_at(said: Flipbook, feet: tuple[float, float]) -> Flipbook:
    """A sheet on all of whose cells the body stands there."""
    cells = tuple(msgspec.structs.replace(cell, feet=feet) for cell in said.cells)
    return msgspec.structs.replace(said, cells=cells)


def _png(pixels: Pixels) -> bytes:
    from PIL import Image

    out = io.BytesIO()
    Image.fromarray(np.ascontiguousarray(pixels), "RGBA").save(out, "PNG")
    return out.getvalue()


def masks_of(draft: Draft, said: Flipbook | None = None) -> list[cutting.Mask]:
    """Where something is drawn on each cell."""
    said = said or draft.said
    ink = cutting.inked(draft.pixels)
    return [ink[c.at[1] : c.at[1] + h, c.at[0] : c.at[0] + w] for c in said.cells for w, h in (said.size_of(c),)]


def _proposed(draft: Draft) -> Draft:
    """A draft with what its drawings say: where the body stands, how large it is, what can be struck."""
    masks, how = masks_of(draft), draft.how
    full = [ink for ink in masks if ink.any()]
    if not full:
        raise Trouble("has nothing drawn on it", file=draft.name, do="choose other pictures")
    at, right = cutting.feet(full), how.looks == "right"
    cells = []
    before: cutting.Mask | None = None
    for cell, ink in zip(draft.said.cells, masks):
        boxes: tuple[DrawnBox, ...] = (cutting.hurt_box(ink),) if ink.any() else ()
        out = cutting.reaching(before, ink, right) if how.strikes and ink.any() and before is not None else None
        if out is not None:
            boxes = (*boxes, msgspec.structs.replace(boxes[0], kind="hit", rect=out, name="strike"))
        hold = how.hold or (cell.hold if any(c.hold > 1 for c in draft.said.cells) else HELD)
        cells.append(msgspec.structs.replace(cell, hold=hold, feet=at, boxes=boxes))
        before = ink if ink.any() else before
    return draft.saying(
        msgspec.structs.replace(
            draft.said,
            cells=tuple(cells),
            pixels_per_metre=how.metre or cutting.metre(full),
            looks=how.looks,
            edges=how.edges,
            walks=how.walks,
        )
    )
