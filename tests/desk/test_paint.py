"""The sheet's ink: what is kept of it looks as if all were drawn anew."""

from __future__ import annotations

import random
from collections.abc import Sequence

import numpy as np
import pytest
from PySide6.QtCore import QRectF
from PySide6.QtGui import QColor, QImage, QPainter
from PySide6.QtWidgets import QApplication
from tools.made.storm import storm

from veergust.core.model import Project
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.scene.dress import figure_mesh
from veergust.core.study.coverage import Swing
from veergust.core.study.timing import hints
from veergust.desk.look.theme import Theme
from veergust.desk.sheet.layout import SheetLayout
from veergust.desk.sheet.paint.marks import TALL, InkMark, Sheet
from veergust.desk.sheet.paint.painter import SheetPainter
from veergust.desk.widgets.stamps import Stamps

WIDE, HIGH = 640, 500
ROUNDED = 4


def picture(painter: SheetPainter, sheet: Sheet, frame: int, scroll: int, ratio: float) -> QImage:
    image = QImage(round(WIDE * ratio), round(HIGH * ratio), QImage.Format.Format_RGB32)
    image.setDevicePixelRatio(ratio)
    image.fill(QColor("white"))
    p = QPainter(image)
    p.translate(0, -scroll)
    painter.paint(p, sheet, frame, QRectF(0, scroll, WIDE, HIGH), "strikes")
    p.end()
    return image


def apart(one: QImage, two: QImage) -> float:
    """The share of colours of pixels that are another by more than what is laid over something in two steps rounds."""
    a, b = (np.frombuffer(image.constBits(), np.uint8).astype(int) for image in (one, two))
    return float((np.abs(a - b) > ROUNDED).mean())


@pytest.mark.parametrize(("ratio", "edits"), [(1.0, 40), (1.5, 16), (2.0, 16)])
def test_a_sheet_drawn_again_in_part_is_the_sheet_drawn_whole(
    ratio: float, edits: int, qapp: QApplication, quay: Project, assets: Assets
) -> None:
    rng, theme, swing = random.Random(3), Theme(), Swing()
    painter = SheetPainter(theme)
    build, mesh = CompiledProject(quay, assets), figure_mesh(assets, quay.rig)
    looks = set()
    for edit in storm(quay, assets, 11, edits):
        build = build.renew(edit.project)
        name = rng.choice([a.name for a in edit.project.actions[:3]])
        compiled = build.action(name)
        assert compiled is not None
        shut = [s.section.name for s in compiled.sections if rng.random() < 0.15]
        layout = SheetLayout(compiled, WIDE, rng.choice([1, 1, 1, 4]), shut)
        refs = [p.ref for p in layout.placed]
        selected = tuple(rng.sample(refs, min(len(refs), rng.randrange(3))))
        frame = rng.randrange(max(compiled.rows, 1))
        scroll = rng.randrange(max(1, round(layout.height) - HIGH + 24))

        edge = rng.choice(["start", "end"])
        seen = [
            picture(
                p, Sheet(layout, build, compiled, mesh, selected, edge, hints(build, name), {}, shelf),
                frame, scroll, ratio,
            )
            for p, shelf in ((painter, swing), (SheetPainter(theme), Swing()))
        ]  # fmt: skip
        kept, fresh = seen
        assert kept == fresh, edit.words
        with pytest.MonkeyPatch.context() as patch:
            patch.setattr(Stamps, "put", lambda _, p, box, looks, draw: draw(p))
            sheet = Sheet(layout, build, compiled, mesh, selected, edge, hints(build, name), {}, Swing())
            plain = picture(SheetPainter(theme), sheet, frame, scroll, ratio)
        # A dash that is cut by the edge of what is drawn begins elsewhere.
        assert apart(kept, plain) < 1e-3, edit.words
        looks.add(bytes(kept.constBits()))
    assert len(looks) > 0.6 * edits


def test_scrolling_draws_each_band_once(qapp: QApplication, quay: Project, assets: Assets) -> None:
    painter, shelf = SheetPainter(Theme()), Swing()
    build = CompiledProject(quay, assets)
    compiled = build.action("Braced charge")
    assert compiled is not None
    layout = SheetLayout(compiled, WIDE)
    sheet = Sheet(layout, build, compiled, figure_mesh(assets, quay.rig), (), "end", [], {}, shelf)
    drawn: list[float] = []
    draw = painter.bands.draw

    def noted(p: QPainter, marks: Sequence[InkMark]) -> None:
        drawn.append(p.clipBoundingRect().top())
        draw(p, marks)

    painter.bands.draw = noted
    for scroll in [*range(0, round(layout.height) - HIGH, 35), *range(round(layout.height) - HIGH, 0, -50)]:
        picture(painter, sheet, 20, scroll, 1.0)
    assert len(drawn) == len(set(drawn)) == -(-layout.height // TALL)
