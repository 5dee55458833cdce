"""A floor map written as a picture, or as a table of places and ticks."""

from __future__ import annotations

import csv
import io
import os
from pathlib import Path

import numpy as np
from PySide6.QtCore import QBuffer, QByteArray, QRectF, Qt
from PySide6.QtGui import QGuiApplication, QImage, QImageWriter, QPainter

from veergust.core.files import whole_file
from veergust.core.study import NEVER, FloorMap
from veergust.core.trouble import Trouble
from veergust.desk.look.theme import Theme, elided, load_fonts
from veergust.desk.sheet.floor_ink import LEGEND, FloorInk, draw_legend, draw_sentences, sentences

WIDE, HIGH, EDGE = 760, 480, 24


def map_image(found: FloorMap, theme: Theme) -> QImage:
    """The map with its name, legend and numbers."""
    image = QImage(WIDE, HIGH, QImage.Format.Format_RGB32)
    image.fill(theme.colour("paper"))
    p = QPainter(image)
    p.setRenderHint(QPainter.RenderHint.Antialiasing)
    p.setFont(theme.bold(20))
    p.setPen(theme.colour("ink"))
    name = elided(found.action, theme.bold(20), WIDE - 2 * EDGE)
    p.drawText(QRectF(EDGE, 14, WIDE - 2 * EDGE, 30), Qt.AlignmentFlag.AlignVCenter, name)
    FloorInk(found, QRectF(EDGE, 56, WIDE - 220 - EDGE, HIGH - 56 - EDGE)).draw(p, theme, NEVER)
    left = WIDE - 200.0
    draw_legend(p, theme, found, QRectF(left, 56, 180, LEGEND))
    rows = [*sentences(found), ("", _target(found))]
    draw_sentences(p, theme, rows, QRectF(left, 98, 190, HIGH), 14, 26)
    p.end()
    return image


def _target(found: FloorMap) -> str:
    target = found.target
    walks = f", walks {'up' if target.speed > 0 else 'away'} at {abs(target.speed):g} m/s" if target.speed else ""
    return f"target: {target.stance or 'as it stands'}{walks}"


def map_table(found: FloorMap) -> str:
    """Rows of x, z (m from the start; x to the left, z ahead) and the tick of the first touch, empty for none."""
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\n")
    table.writerow(("x", "z", "first_touch"))
    for (row, column), tick in np.ndenumerate(found.first):
        x, z = found.origin[0] + column * found.step, found.origin[1] + row * found.step
        table.writerow((round(x, 6), round(z, 6), "" if tick == NEVER else int(tick)))
    return out.getvalue()


def write_map(found: FloorMap, path: Path, theme: Theme) -> None:
    """Write a map as its file's ending says: ``.png`` or ``.csv``.

    Raises:
        Trouble: another ending, or a place that cannot be written.
    """
    kind = path.suffix.lower()
    if kind not in (".png", ".csv"):
        raise Trouble(f"a map is not written as {kind or 'a file without an ending'}", file=path.name,
                      do="end its name in .png or .csv")  # fmt: skip
    if kind == ".csv":
        made = map_table(found).encode()
    else:
        data = QBuffer()
        QImageWriter(data, QByteArray(b"png")).write(map_image(found, theme))
        made = bytes(data.data().data())
    with whole_file(path) as out:
        out.write(made)


def write_without_window(found: FloorMap, path: Path) -> None:
    """As ``write_map``, in the day's colours, where no program with a window runs."""
    app = QGuiApplication.instance()
    if app is None:
        # Letters are drawn by Qt, which needs no screen for that.
        os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
        app = QGuiApplication(["veergust"])
    load_fonts()
    write_map(found, path, Theme())
    del app
