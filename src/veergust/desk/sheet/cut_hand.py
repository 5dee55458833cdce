"""Cuts taken by their ends on the sheet: dragging trims, dragging with Ctrl retimes."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QPointF

from veergust.core.edit import Edit, change_cut, retime_cut, snapped
from veergust.core.motion import motion_of
from veergust.core.play import CompiledAction, CompiledCut
from veergust.core.trouble import Trouble
from veergust.desk.document.document import Document
from veergust.desk.sheet.layout import GRAB, SheetLayout


@dataclass
class CutGrip:
    """A cut in hand: its section and place, which end, and the row at which its section starts."""

    action: str
    section: int
    at: int
    end: str
    first: int
    cut: CompiledCut
    edit: Edit | None = None


def grip_at(layout: SheetLayout, compiled: CompiledAction, point: QPointF) -> CutGrip | None:
    """The end of a cut near a point of the sheet, in the cut column; of two that meet, the one the point is in."""
    left, width = layout.columns["cut"]
    if not left <= point.x() < left + width:
        return None
    found: list[tuple[float, CutGrip]] = []
    for stretch in layout.stretches:
        first, index = stretch.first, stretch.section
        for at, cut in enumerate(compiled.sections[index].cuts if not stretch.folded else ()):
            for end, tick in (("start", cut.first), ("end", cut.first + cut.ticks)):
                y = layout.y(first + tick)
                inside = point.y() >= y if end == "start" else point.y() < y
                if inside and abs(point.y() - y) <= GRAB:
                    grip = CutGrip(compiled.action.name, index, at, end, first, cut)
                    found.append((abs(point.y() - y), grip))
    return min(found, key=lambda f: f[0])[1] if found else None


def drag_cut(document: Document, grip: CutGrip, row: int, retime: bool, free: bool = False) -> int:
    """Preview a cut whose end is dragged to a row; gives the row whose pose belongs to that end.

    Drawings are not cut in two, unless it is ``free``."""
    cut, assets, base = grip.cut, document.build.assets, document.base
    place = row - grip.first
    try:
        if retime:
            ticks = max(place - cut.first if grip.end == "end" else cut.first + cut.ticks - place, 1)
            grip.edit = retime_cut(base, assets, grip.action, grip.section, grip.at, ticks)
        else:
            grip.edit = _trimmed(document, grip, place, free)
    except Trouble:
        return row  # dragged past where it would have no length: what was shown last stays
    document.preview(grip.edit.project)
    compiled = document.compiled
    if compiled is None:
        return row
    first = compiled.start_of(grip.section)
    now = compiled.sections[grip.section].cuts[grip.at]
    return first + (now.first if grip.end == "start" else now.first + now.ticks - 1)


def _trimmed(document: Document, grip: CutGrip, place: int, free: bool) -> Edit:
    cut, assets, base = grip.cut, document.build.assets, document.base
    a_tick = (cut.end - cut.start) / cut.ticks
    clip = document.build.clip(cut.cut.clip)
    motion = motion_of(assets, clip)
    longest = motion.seconds if motion else max(cut.start, cut.end)
    edge = "start" if grip.end == "start" else "end"
    old = cut.start if edge == "start" else cut.end
    new = old + a_tick * (place - (cut.first if edge == "start" else cut.first + cut.ticks))
    new = round(min(max(new, 0.0), longest), 9)
    new = new if free else snapped(assets, clip, new)
    # Played backwards, the earlier end on the sheet is the later one in the source.
    backwards = cut.end < cut.start
    field = {"start": "end", "end": "start"}[edge] if backwards else edge
    was, word = (min(cut.start, cut.end), "in") if field == "start" else (max(cut.start, cut.end), "out")
    words = f"{word} {was:.3f} → {new:.3f} s"
    return change_cut(base, assets, grip.action, grip.section, grip.at, words, **{field: new})
