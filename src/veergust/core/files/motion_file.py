"""What a motion file holds, whatever its format, and the mark its skeleton is known by."""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from veergust.core.files.drawings.document import Flipbook
from veergust.core.motion import DrawnSheet, Mesh, Motion, Skeleton

MOST_JOINTS = 4096
LARGEST = 1e7
"""No number in a motion file is greater, in whatever unit."""
LONGEST_MOTION = 36_000.0
"""No motion lasts longer (s)."""
AGAIN = "export it again"
"""What to do about a file that is damaged."""


@dataclass(frozen=True, eq=False)
class MotionFile:
    """Its own skeleton, a mesh if there is a skinned one, its motions, and a sentence for each thing left out. A figure
    that is drawn has a sheet, if its pixels were wanted, and what is said beside it, in the file of that name."""

    skeleton: Skeleton
    mesh: Mesh | None
    motions: tuple[Motion, ...]
    left_out: tuple[str, ...] = ()
    sheet: DrawnSheet | None = None
    drawn: Flipbook | None = None
    drawn_in: str = ""


@dataclass(frozen=True)
class Reader:
    """How a format is read.

    ``read`` is given the file, the folder it must lie beneath (None: anywhere), and whether its mesh and its motions
    are wanted; it raises ``Trouble``. ``beside`` gives the other files it
    names, by name, with its pictures if they are wanted.
    """

    read: Callable[[Path, Path | None, bool, bool], MotionFile]
    beside: Callable[[Path, Path | None, bool], dict[str, bytes]] = lambda path, within, pictures: {}


def fingerprint(skeleton: Skeleton) -> str:
    """The mark of a skeleton: its names, who hangs on whom, and its rest places to a thousandth of its size."""
    size = max(float(np.ptp(skeleton.rest_world[:, :3, 3], axis=0).max()), 1e-9) if len(skeleton) else 1.0
    places = np.round(skeleton.rest_translation / size, 3) + 0.0
    text = repr((skeleton.names, skeleton.parents, places.tolist(), f"{size:.3g}"))
    return hashlib.sha256(text.encode()).hexdigest()[:16]
