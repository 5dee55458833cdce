"""The sheet's keys: everything the mouse does, without it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent

from veergust.core.edit.carry import copy_spans, paste_spans
from veergust.core.edit.fields import turn_pin
from veergust.core.edit.spans import SpanRef, remove, set_edges, span_of
from veergust.core.trouble import Trouble
from veergust.desk.sheet.deeds import accept_hint
from veergust.desk.sheet.layout import EDITED

if TYPE_CHECKING:
    from veergust.desk.sheet.view import SheetView


class SheetKeys:
    """Moves the playhead and the selection, stretches, moves, sets, adds and removes spans."""

    def __init__(self, sheet: SheetView) -> None:
        self.sheet = sheet

    def press(self, event: QKeyEvent) -> bool:
        """Use a key; false when it is none of the sheet's."""
        sheet = self.sheet
        key, mods = event.key(), event.modifiers()
        shift = bool(mods & Qt.KeyboardModifier.ShiftModifier)
        alt = bool(mods & Qt.KeyboardModifier.AltModifier)
        control = bool(mods & Qt.KeyboardModifier.ControlModifier)
        step = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(Qt.Key(key))
        if step is not None and (shift or alt):
            self._nudge(step, move=alt, edge="start" if control else sheet.edge)
        elif step is not None:
            sheet.document.move_to(sheet.document.frame + step * (10 if control else sheet.fold))
        elif key in (Qt.Key.Key_PageUp, Qt.Key.Key_PageDown):
            sheet.document.move_to(sheet.document.frame + (-10 if key == Qt.Key.Key_PageUp else 10))
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            self._across(-1 if key == Qt.Key.Key_Left else 1)
        elif key in (Qt.Key.Key_Home, Qt.Key.Key_End):
            sheet.document.move_to(0 if key == Qt.Key.Key_Home else sheet.layout_.total)
        elif key == Qt.Key.Key_E and not control:
            sheet.edge = "start" if sheet.edge == "end" else "end"
            sheet.viewport().update()
        elif key == Qt.Key.Key_N and not control:
            sheet.add_here()
        elif key == Qt.Key.Key_G and not control:
            sheet.add_here("gates")
        elif key == Qt.Key.Key_P and not control and sheet.document.selection:
            sheet.document.apply(turn_pin(sheet.document.project, sheet.document.selection, sheet.edge))
        elif key == Qt.Key.Key_X and not control:
            (sheet.pages.section.split if shift else sheet.pages.section.split_cut)()
        elif key == Qt.Key.Key_F and not control:
            sheet.pages.versions.flip()
        elif key == Qt.Key.Key_A and not control:
            accept_hint(sheet.document)
        elif key == Qt.Key.Key_M and not control:
            sheet.pages.section.turn_mirror()
        elif key == Qt.Key.Key_R and not control:
            sheet.retiming, sheet.typed = True, ""
            sheet.viewport().update()
        elif key == Qt.Key.Key_Z and not control:
            sheet.fold_section(others=shift)
        elif key == Qt.Key.Key_Insert:
            sheet.pages.section.add()
        elif key == Qt.Key.Key_C and control:
            self._copy()
        elif key == Qt.Key.Key_V and control:
            self._paste("frame" if shift else "pose")
        elif key == Qt.Key.Key_Delete and sheet.document.selection:
            sheet.document.apply(remove(sheet.document.project, sheet.document.selection))
        elif event.text().isdigit() and event.text() and (sheet.document.selection or sheet.retiming) and not control:
            sheet.typed += event.text()
            sheet.viewport().update()
        elif sheet.typed and key == Qt.Key.Key_Backspace:
            sheet.typed = sheet.typed[:-1]
            sheet.viewport().update()
        elif sheet.typed and key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._set_typed()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and sheet.document.selection:
            sheet.details_wanted.emit()
        elif key == Qt.Key.Key_Escape:
            sheet.escape()
        else:
            return False
        return True

    def _across(self, step: int) -> None:
        sheet = self.sheet
        at = EDITED.index(sheet.column) if sheet.column in EDITED else 0
        sheet.column = EDITED[min(max(at + step, 0), len(EDITED) - 1)]
        here = [
            p.ref
            for p in sheet.layout_.placed
            if ("exits" if p.ref.kind == "gates" else p.ref.kind) == sheet.column
            and p.rect.top() <= sheet.layout_.y(sheet.document.frame) + 0.5 < p.rect.bottom()
        ]
        sheet.document.select(here[-1] if here else None)
        sheet.viewport().update()

    def _edges(self) -> tuple[SpanRef, int, int] | None:
        sheet = self.sheet
        ref = sheet.document.selection
        span = span_of(sheet.document.project, ref) if ref else None
        if ref is None or span is None:
            return None
        return (ref, span.tick, span.tick + 1) if ref.kind == "events" else (ref, span.start, span.end)

    def _lay(self, ref: SpanRef, start: int, end: int, show: str) -> None:
        sheet = self.sheet
        compiled = sheet.document.book.action(ref.action)
        assert compiled is not None
        sheet.document.apply(set_edges(sheet.document.project, compiled, ref, start, end))
        first = compiled.start_of(ref.section)
        sheet.document.move_to(first + (end if show == "end" and ref.kind != "events" else start))

    def _nudge(self, step: int, move: bool, edge: str) -> None:
        sheet = self.sheet
        found = self._edges()
        compiled = sheet.document.compiled
        if found is None or compiled is None:
            return
        ref, start, end = found
        ticks = compiled.sections[ref.section].ticks
        if move or ref.kind == "events":
            if start + step >= 0 and end + step <= ticks:
                self._lay(ref, start + step, end + step, "start")
        elif edge == "start":
            self._lay(ref, min(max(start + step, 0), end - 1), end, "start")
        else:
            self._lay(ref, start, min(max(end + step, start + 1), ticks), "end")

    def _copy(self) -> None:
        sheet = self.sheet
        refs, compiled = sheet.document.selected, sheet.document.compiled
        if refs and compiled is not None:
            sheet.carried = copy_spans(sheet.document.project, compiled, refs)
            many = f"{len(refs)} spans" if len(refs) > 1 else "The span"
            sheet.document.said.emit(f"{many} copied. Ctrl+V pastes by the pose, Ctrl+Shift+V by the frame.", False)

    def _paste(self, by: str) -> None:
        document, compiled = self.sheet.document, self.sheet.document.compiled
        if compiled is None or not compiled.sections:
            return
        section, tick = compiled.locate(document.frame)
        try:
            edit, refs = paste_spans(document.project, compiled, section, tick, self.sheet.carried, by)
        except Trouble as trouble:
            document.said.emit(str(trouble), True)
            return
        document.apply(edit)
        document.select(refs[0])

    def _set_typed(self) -> None:
        sheet = self.sheet
        if sheet.retiming:
            ticks, sheet.typed, sheet.retiming = int(sheet.typed), "", False
            sheet.pages.section.retime(ticks)
            return
        found = self._edges()
        compiled = sheet.document.compiled
        number, sheet.typed = int(sheet.typed), ""
        if found is None or compiled is None:
            return
        ref, start, end = found
        tick = number - compiled.start_of(ref.section)
        if ref.kind == "events" or sheet.edge == "start":
            self._lay(ref, tick, max(end, tick + 1), "start")
        else:
            self._lay(ref, min(start, tick - 1), tick, "end")
