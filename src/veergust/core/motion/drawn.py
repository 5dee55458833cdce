"""Drawn figures: skeletons of points, whose pose says by the turn of one joint which drawing it shows.

A figure that is drawn has a root, named points, and the joint ``PICTURE`` on its root. That joint's turn is a number
and no movement: the cell of a sheet, and the sheet. So whatever plays, mixes, keeps or sends poses does so with
drawings as it does with joints, and only what reads, draws or proposes knows of pictures. Two drawings have no
middle: where poses are mixed, one of them is chosen.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from veergust.core.motion import quat
from veergust.core.motion.quat import Array
from veergust.core.motion.skeleton import Skeleton

ROOT = "root"
"""What the joint is called that stands on the floor under a drawn figure."""
MOST_CELLS, MOST_SHEETS = 5000, 100
"""No figure has more sheets, and no sheet more cells."""
_QUARTER = np.pi / 2.0


@dataclass(frozen=True, eq=False, repr=False)
class DrawnSheet:
    """The cells of a picture: ``pixels`` ``[H, W, 4]`` (not opaque where nothing is drawn), where ``N`` cells lie on it
    (x, y, width, height) ``[N, 4]``, where in each the body stands ``[N, 2]`` (px from its upper left corner), how
    many pixels are a metre, whether they look to the ``right``, and whether their edges stay ``crisp``."""

    pixels: NDArray[np.uint8]
    rects: NDArray[np.int32]
    feet: Array
    metre: float
    right: bool = True
    crisp: bool = True

    def cell(self, index: int) -> NDArray[np.uint8]:
        """The pixels of a cell ``[h, w, 4]``."""
        x, y, wide, high = self.rects[index]
        return self.pixels[y : y + high, x : x + wide]

    def around(self, index: int) -> tuple[float, float, float, float]:
        """How far (m) a cell reaches behind, under, ahead of and over where its body stands, as it looks ahead."""
        (x, y), (_, _, wide, high) = self.feet[index], self.rects[index]
        left, right = -x / self.metre, (wide - x) / self.metre
        back, ahead = (left, right) if self.right else (-right, -left)
        return back, (y - high) / self.metre, ahead, y / self.metre


def turns_of(cells: NDArray[np.intp] | Sequence[int], sheet: int = 0) -> Array:
    """The turns ``[N, 4]`` of the picture's joint that stand for cells ``[N]`` of a sheet."""
    yaw = _QUARTER * (np.asarray(cells, dtype=float) + 0.5) / MOST_CELLS
    pitch = np.full(len(yaw), _QUARTER * (sheet + 0.5) / MOST_SHEETS)
    about_y, about_x = np.zeros((len(yaw), 4)), np.zeros((len(yaw), 4))
    about_y[:, 1], about_y[:, 3] = np.sin(yaw / 2), np.cos(yaw / 2)
    about_x[:, 0], about_x[:, 3] = np.sin(pitch / 2), np.cos(pitch / 2)
    return quat.multiply(about_y, about_x)


def united(skeletons: Sequence[Skeleton], more: Sequence[str] = ()) -> Skeleton:
    """One drawn figure of the points of several sheets, and of ``more`` at its feet; each rests where the first sheet
    that has it says."""
    names = tuple(dict.fromkeys([*(name for bones in skeletons for name in bones.names), *more]))
    own = [next(((b, b.index[name]) for b in skeletons if name in b.index), None) for name in names]
    return Skeleton(
        names,
        (-1, *(0 for _ in names[1:])),
        np.array([quat.IDENTITY if at is None else at[0].rest_rotation[at[1]] for at in own]),
        np.array([np.zeros(3) if at is None else at[0].rest_translation[at[1]] for at in own]),
    )


def on_sheet(turns: Array, sheet: int) -> Array:
    """Turns ``[N, 4]`` of cells of the first sheet as those of another."""
    pitch = _QUARTER * sheet / MOST_SHEETS
    return quat.multiply(turns, np.array([np.sin(pitch / 2), 0.0, 0.0, np.cos(pitch / 2)]))


def shown_on(joints: Array, root: int, picture: int) -> tuple[int, int]:
    """The sheet and the cell that joint matrices ``[J, 4, 4]`` show, wherever they stand and however they are turned.

    A turn by a about +Y after one by b about +X has the rows (cos a, …), (0, cos b, −sin b), (−sin a, …).
    """
    turn = joints[root, :3, :3].T @ joints[picture, :3, :3]
    yaw, pitch = np.arctan2(-turn[2, 0], turn[0, 0]), np.arctan2(-turn[1, 2], turn[1, 1])
    return int(pitch / _QUARTER * MOST_SHEETS), int(yaw / _QUARTER * MOST_CELLS)


def seen_on(bones: Skeleton, joints: Array) -> tuple[int, int]:
    """``shown_on`` of a drawn figure's joints."""
    return shown_on(joints, 0, bones.picture)
