"""A sheet of drawings as a motion file: a skeleton of its points, and in each clip the cell that every frame shows."""

from __future__ import annotations

import io
import warnings
from pathlib import Path
from typing import TYPE_CHECKING, NoReturn

import numpy as np
from numpy.typing import NDArray

from veergust.core.files.beneath import reference
from veergust.core.files.drawings.document import MOST_PIXELS, DrawnBox, DrawnCell, Flipbook, Spot, Strip
from veergust.core.files.fetch import fetch
from veergust.core.files.motion_file import MOST_JOINTS, MotionFile, Reader
from veergust.core.files.text import from_text
from veergust.core.motion import (
    PICTURE,
    ROOT,
    Array,
    DrawnSheet,
    Interpolation,
    Motion,
    Skeleton,
    Track,
    quat,
    turns_of,
)
from veergust.core.trouble import Trouble

if TYPE_CHECKING:
    from PIL import Image

EARLY = 1e-6
"""So much before its frame (s) a cell begins: whatever the rounding, its frame shows it."""


def read_flipbook(path: Path, *, within: Path | None = None, pixels: bool = True, moved: bool = True) -> MotionFile:
    """Read what is said beside a sheet, and with ``pixels`` the sheet. Raises ``Trouble`` naming file and field."""
    said = document_of(path, within)
    bones = _skeleton(said, path.name)
    sheet = sheet_of(said, _image(said, path, within), path.name) if pixels else None
    motions = tuple(_motion(said, strip, bones, path.name) for strip in strips_of(said, path.stem)) if moved else ()
    return MotionFile(bones, None, motions, _left_out(said), sheet, said, path.name)


def document_of(path: Path, within: Path | None = None) -> Flipbook:
    """What is said beside a sheet. Raises ``Trouble``."""
    said = from_text(fetch(path, within), Flipbook, path.name)
    for n, cell in enumerate(said.cells):
        for name, spot in cell.points.items():
            if not name or name in (ROOT, PICTURE):
                raise _wrong(path.name, f"cells[{n}].points", f"calls a point {name!r}", "call it otherwise")
            if not np.isfinite(spot).all():
                raise _wrong(path.name, f"cells[{n}].points.{name}", "is no place")
        for k, box in enumerate(cell.boxes):
            if not np.isfinite(box.rect).all() or box.rect[2] < 0 or box.rect[3] < 0:
                raise _wrong(path.name, f"cells[{n}].boxes[{k}].rect", "is no rectangle")
    for n, strip in enumerate(said.clips):
        if not strip.start < (strip.end or len(said.cells)) <= len(said.cells):
            says = f"goes from cell {strip.start} to {strip.end}, and there are {len(said.cells)}"
            raise _wrong(path.name, f"clips[{n}]", says)
    return said


def _wrong(file: str, field: str, says: str, do: str = "correct it, or cut the sheet again") -> Trouble:
    return Trouble(says, file=file, field=field, do=do)


def strips_of(said: Flipbook, stem: str) -> tuple[Strip, ...]:
    """The clips of a sheet: those it names, else all its cells as one."""
    return said.clips or (Strip(name=said.name or stem),)


def _image_name(said: Flipbook, path: Path, within: Path | None) -> str:
    below = path.parent.relative_to(within).as_posix() if within is not None else ""
    return reference(said.image, beside=below, file=path.name, field="image")


def _image(said: Flipbook, path: Path, within: Path | None) -> bytes:
    place = within or path.parent
    return fetch(place / _image_name(said, path, within), place)


def pixels_of(data: bytes, file: str) -> NDArray[np.uint8]:
    """The pixels ``[H, W, 4]`` of a picture of any kind. Raises ``Trouble``."""
    with opened(data, file) as picture:
        try:
            return np.asarray(picture.convert("RGBA"))
        except (OSError, ValueError, SyntaxError, EOFError) as error:
            _refuse(error, file)


def opened(data: bytes, file: str) -> Image.Image:
    """A picture whose pixels are not read yet, and which is not too large. Raises ``Trouble``."""
    from PIL import Image  # which takes a while, and who has no drawings needs it nowhere

    try:
        with warnings.catch_warnings():
            # What is too large is refused below, by a bound of our own.
            warnings.simplefilter("ignore", Image.DecompressionBombWarning)
            picture = Image.open(io.BytesIO(data))
    except Image.DecompressionBombError as error:
        raise Trouble(_too_large(None), file=file, do="make it smaller, or several of it") from error
    except (OSError, ValueError, SyntaxError, EOFError) as error:
        _refuse(error, file)
    if picture.width * picture.height > MOST_PIXELS:
        raise Trouble(_too_large(picture.size), file=file, do="make it smaller, or several of it")
    return picture


def _too_large(size: tuple[int, int] | None) -> str:
    has = "has more pixels than can be held" if size is None else f"has {size[0]} × {size[1]} pixels"
    return f"{has}; a sheet may have {MOST_PIXELS // 1_000_000} million"


def _refuse(error: Exception, file: str) -> NoReturn:
    says = "is cut short" if "truncated" in str(error) or isinstance(error, EOFError) else "is no picture"
    raise Trouble(f"{says} ({error})", file=file, do="export it again") from error


def sheet_of(said: Flipbook, data: bytes, file: str) -> DrawnSheet:
    """A sheet with its cells. Raises ``Trouble`` when one lies off it."""
    pixels = pixels_of(data, said.image)
    high, wide = pixels.shape[:2]
    if said.clear is not None:
        pixels = pixels.copy()
        pixels[(pixels[..., :3] == np.array(said.clear, dtype=np.uint8)).all(axis=-1)] = 0
    rects = np.array([(*cell.at, *said.size_of(cell)) for cell in said.cells], dtype=np.int32)
    off = np.flatnonzero((rects[:, 0] + rects[:, 2] > wide) | (rects[:, 1] + rects[:, 3] > high))
    if len(off):
        n = int(off[0])
        says = f"lies at {rects[n, 0]}, {rects[n, 1]} and is {rects[n, 2]} × {rects[n, 3]} pixels large"
        raise _wrong(file, f"cells[{n}]", f"{says}, and {said.image} is {wide} × {high}")
    feet = np.array([said.feet_of(cell) for cell in said.cells])
    return DrawnSheet(pixels, rects, feet, said.pixels_per_metre, said.right, said.edges == "crisp")


def place_of(said: Flipbook, cell: DrawnCell, spot: Spot) -> tuple[float, float, float]:
    """Where a place in a cell is about the body that stands there (m)."""
    x, y = said.feet_of(cell)
    ahead = (spot[0] - x) / said.pixels_per_metre
    return 0.0, (y - spot[1]) / said.pixels_per_metre, ahead if said.right else -ahead


def hurt_names(said: Flipbook) -> list[str]:
    """The hurtboxes that any cell has, in the order they are met."""
    return list(dict.fromkeys(name for cell in said.cells for name in _hurts(cell)))


def _hurts(cell: DrawnCell) -> dict[str, DrawnBox]:
    """The hurtboxes of a cell by name; those without one are counted."""
    boxes = [box for box in cell.boxes if box.kind == "hurt"]
    return {box.name or f"box {n + 1}": box for n, box in enumerate(boxes)}


def corners(name: str) -> tuple[str, str]:
    """What the joints are called at two corners of a hurtbox that is drawn."""
    return f"{name} (low)", f"{name} (high)"


def _rows(said: Flipbook) -> dict[str, list[tuple[float, float, float] | None]]:
    """Where each point and each corner is on every cell about the body; None where the cell has none."""
    points = list(dict.fromkeys(name for cell in said.cells for name in cell.points))
    out: dict[str, list[tuple[float, float, float] | None]] = {
        name: [place_of(said, c, c.points[name]) if name in c.points else None for c in said.cells]
        for name in sorted(points)
    }
    for name in hurt_names(said):
        low, high = corners(name)
        boxes = [_hurts(cell).get(name) for cell in said.cells]
        for corner, k in ((low, 0), (high, 1)):
            out[corner] = [
                place_of(said, c, (b.rect[0] + k * b.rect[2], b.rect[1] + k * b.rect[3])) if b is not None else ORIGIN
                for c, b in zip(said.cells, boxes)
            ]
    return out


ORIGIN = (0.0, 0.0, 0.0)
"""Both corners of a hurtbox lie here on a cell that has none."""


def _filled(row: list[tuple[float, float, float] | None]) -> Array:
    """A point where it was last; before it is first met, where it will be."""
    now = next(at for at in row if at is not None)
    out = []
    for at in row:
        now = at if at is not None else now
        out.append(now)
    return np.array(out)


def _skeleton(said: Flipbook, file: str) -> Skeleton:
    rows = _rows(said)
    names = (ROOT, PICTURE, *rows)
    if len(names) > MOST_JOINTS:
        raise _wrong(file, "cells", f"have more than {MOST_JOINTS} points and boxes")
    turns = np.tile(quat.IDENTITY, (len(names), 1))
    turns[1] = turns_of([0])[0]
    places = np.array([ORIGIN, ORIGIN, *(_filled(row)[0] for row in rows.values())])
    return Skeleton(names, (-1, *(0 for _ in names[1:])), turns, places)


def _motion(said: Flipbook, strip: Strip, bones: Skeleton, file: str) -> Motion:
    cells = range(strip.start, strip.end or len(said.cells))
    holds = [said.cells[n].hold for n in cells]
    starts = np.cumsum([0, *holds[:-1]]) / said.rate
    seconds = float(sum(holds) / said.rate)
    early = np.maximum(starts - EARLY, 0.0)
    tracks = [Track(1, "rotation", "STEP", early, turns_of(list(cells)))]
    picked = list(cells)
    for name, row in _rows(said).items():
        way: Interpolation = "LINEAR" if name in said.eased else "STEP"
        values = _filled(row)[picked]
        tracks.append(Track(bones.index[name], "translation", way, early if way == "STEP" else starts, values))
    travel = _travel(said, [said.cells[n] for n in cells])
    if travel is not None:
        tracks.append(Track(0, "translation", "LINEAR", starts, travel))
    return Motion(strip.name, seconds, float(said.rate), tuple(tracks))


def _travel(said: Flipbook, cells: list[DrawnCell]) -> Array | None:
    """Where the body is on each cell (m), as they say or as it stands in them; None where it stays."""
    if any(cell.travel is not None for cell in cells):
        last = ORIGIN
        rows = []
        for cell in cells:
            last = cell.travel if cell.travel is not None else last
            rows.append(last)
        return np.array(rows)
    if not said.walks:
        return None
    first = said.feet_of(cells[0])
    ahead = np.array([said.feet_of(c)[0] - first[0] for c in cells]) / said.pixels_per_metre
    return np.stack([0.0 * ahead, 0.0 * ahead, ahead if said.right else -ahead], axis=-1)


def _left_out(said: Flipbook) -> tuple[str, ...]:
    seen_from = "it is drawn from the front: what is ahead of it lies to the right of its drawings"
    return (seen_from,) if said.side == "front" and said.looks is None else ()


def _beside(path: Path, within: Path | None, pictures: bool) -> dict[str, bytes]:
    """The picture of a sheet, without which it is none, by its name."""
    said = document_of(path, within)
    return {_image_name(said, path, within): _image(said, path, within)}


READER = Reader(
    lambda path, within, mesh, moved: read_flipbook(path, within=within, pixels=mesh, moved=moved),
    _beside,
)
