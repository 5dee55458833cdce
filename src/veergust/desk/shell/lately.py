"""What was worked on lately: of each project where it lies, its day, a strip of its poses, and work never saved."""

from __future__ import annotations

import contextlib
import os
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING

import platformdirs
from PySide6.QtCore import QBuffer, QByteArray, Qt
from PySide6.QtGui import QColor, QImage, QImageWriter, QPainter

from veergust import core
from veergust.core.trouble import Trouble
from veergust.desk.document.document import Document

if TYPE_CHECKING:
    from veergust.core.files import Left

POSES = 5
POSE_WIDTH, POSE_HEIGHT = 84, 94
RATIO = 2.0


@dataclass(frozen=True)
class Late:
    """A project of the list: what it is called, what is told of it, its poses in black, and what a crash left."""

    folder: Path
    name: str
    says: str
    poses: QImage | None
    left: Left | None = None

    @property
    def never_saved(self) -> str:
        """What is told of work that was never saved; nothing when there is none."""
        if core.files.is_draft(self.folder):
            return "never saved"
        many = len(self.left.steps) if self.left is not None else 0
        return f"{many} change{'s' if many != 1 else ''} never saved" if many else ""


def lately(recent: Iterable[str], today: date | None = None) -> list[Late]:
    """What is left of projects that had no place yet, and then the projects that were opened lately."""
    today = today or date.today()
    drafts = core.files.left_drafts() if core.files.any_drafts() else []
    return [late for folder in [*drafts, *map(Path, recent)] if (late := _late(folder, today)) is not None]


def _late(folder: Path, today: date) -> Late | None:
    try:
        when = date.fromtimestamp((folder / "project.json").stat().st_mtime)
    except OSError:
        return None
    poses = _poses(folder)
    told = poses.text("told") if poses is not None else ""
    name = (poses.text("name") if poses is not None else "") or folder.stem
    if core.files.is_draft(folder):
        name, told = "Untitled", ""
    left = next(iter(core.files.left_behind(folder) if core.files.journals_of(folder) else ()), None)
    return Late(folder, name, " · ".join(filter(None, (_day(when, today), told))), poses, left)


def _day(when: date, today: date) -> str:
    days = (today - when).days
    this_year = when.year == today.year
    return {0: "today", 1: "yesterday"}.get(days, f"{when.day} {when:%B}" + ("" if this_year else f" {when.year}"))


def _place(folder: Path) -> Path:
    return platformdirs.user_cache_path("veergust") / "poses" / f"{core.files.journal_key(folder)}.png"


def _poses(folder: Path) -> QImage | None:
    image = QImage(str(_place(folder)))
    image.setDevicePixelRatio(RATIO)
    return None if image.isNull() else image


def keep_poses(document: Document, findings: int) -> None:
    """Keep a strip of the open action's poses and what is told of the project; without a place for it, do without."""
    folder, compiled, mesh = document.folder, document.compiled, document.mesh
    if folder is None or not (folder / "project.json").is_file():
        return
    from veergust.desk.widgets.inked import pose_pixmap

    image = QImage(round(POSES * POSE_WIDTH * RATIO), round(POSE_HEIGHT * RATIO), QImage.Format.Format_ARGB32)
    image.setDevicePixelRatio(RATIO)
    image.fill(Qt.GlobalColor.transparent)
    if compiled is not None and mesh is not None and compiled.rows:
        p = QPainter(image)
        for n in range(POSES):
            frame = min(round((n + 0.5) * compiled.total / POSES), compiled.rows - 1)
            section, tick = compiled.locate(frame)
            pose = pose_pixmap(mesh, compiled.world_of(section)[tick], POSE_WIDTH, POSE_HEIGHT, QColor("black"), RATIO)
            p.drawPixmap(n * POSE_WIDTH, 0, pose)
        p.end()
    actions = len(document.project.actions)
    rows = [f"{actions} action{'s' if actions != 1 else ''}"] if actions else []
    rows += [f"{findings} finding{'s' if findings != 1 else ''}"] if findings else []
    image.setText("told", " · ".join(rows))
    image.setText("name", document.project.name)
    place = _place(folder)
    with contextlib.suppress(OSError, Trouble):
        os.makedirs(place.parent, mode=0o700, exist_ok=True)
        data = QBuffer()
        QImageWriter(data, QByteArray(b"png")).write(image)
        with core.files.whole_file(place) as out:
            out.write(bytes(data.data().data()))
