"""Made-up sheets of drawings: a body, a head and an arm that goes out, drawn by rectangles."""

from __future__ import annotations

import json
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from veergust.core.files.assets import load_assets
from veergust.core.files.folder import open_project
from veergust.core.files.importing import import_file
from veergust.core.model import Project
from veergust.core.play.compiled.project import CompiledProject

ARMS = (4, 0, 8, 44, 46, 14)
CELL = 96, 80
FEET = 33.0, 80.0
METRE = 40.0


def drawing(arm: int) -> NDArray[np.uint8]:
    """A cell that looks to the right, with an arm so many pixels out."""
    wide, high = CELL
    out = np.zeros((high, wide, 4), np.uint8)
    out[4:20, 26:40] = 220, 180, 140, 255
    out[20:60, 24:42] = 120, 60, 40, 255
    out[60:80, 24:30] = out[60:80, 36:42] = 40, 40, 60, 255
    out[30:36, 42 : 42 + arm] = 200, 200, 210, 255
    return out


def box(kind: str, name: str, x: float, y: float, wide: float, high: float) -> dict[str, Any]:
    return {"kind": kind, "name": name, "rect": [x, y, wide, high]}


def said(holds: Sequence[int] = (5, 5, 5, 3, 4, 8), **more: Any) -> dict[str, Any]:
    """What is said beside the sheet of ``ARMS``: a fist, what can be struck, and what strikes where the arm is out."""
    cells = []
    for n, (arm, hold) in enumerate(zip(ARMS, holds)):
        boxes = [box("hurt", "head", 26, 4, 14, 16), box("hurt", "trunk", 24, 20, 18, 60),
                 box("body", "body", 23, 4, 20, 76)]  # fmt: skip
        if arm > 40:
            boxes.append(box("hit", "fist", 70 + n, 29, 16, 8))
        cells.append(
            {"at": [n * (CELL[0] + 4), 0], "hold": hold, "feet": list(FEET), "points": {"fist": [42 + arm, 33]},
             "boxes": boxes}
        )  # fmt: skip
    return {"image": "jab.png", "name": "jab", "cell": list(CELL), "pixels_per_metre": METRE, "cells": cells, **more}


def write_pair(folder: Path, document: dict[str, Any] | None = None) -> Path:
    """The sheet and what is said beside it; the path of the sheet."""
    document = document or said()
    folder.mkdir(parents=True, exist_ok=True)
    sheet = np.zeros((CELL[1], len(ARMS) * (CELL[0] + 4) - 4, 4), np.uint8)
    for n, arm in enumerate(ARMS):
        x = n * (CELL[0] + 4)
        sheet[:, x : x + CELL[0]] = drawing(arm)
    Image.fromarray(sheet, "RGBA").save(folder / document["image"])
    path = folder / document["image"]
    path.with_suffix(".json").write_text(json.dumps(document))
    return path


def drawn_project(tmp: Path, document: dict[str, Any] | None = None, *, name: str = "paper") -> tuple[Path, Project]:
    """A project whose figure is drawn, from nothing."""
    folder = tmp / f"{name}.veergust"
    done = import_file(Project(name=name), folder_of(folder), write_pair(tmp / "in", document))
    return folder, done.project


def folder_of(folder: Path) -> Path:
    """A project folder that is new."""
    from veergust.core.files.saving import save_project

    save_project(Project(name=folder.stem), folder)
    return folder


def built(folder: Path) -> CompiledProject:
    """What is compiled of a project folder, as it is opened."""
    project = open_project(folder)
    assets, missing = load_assets(project, folder)
    assert missing == []
    return CompiledProject(project, assets)
