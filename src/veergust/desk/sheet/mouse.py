"""The mouse on the sheet: scrubbing, spans taken by an edge or whole, cuts taken by their ends."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import Qt
from PySide6.QtGui import QMouseEvent

from veergust.core.edit import WHOLE, Edit, SpanRef, set_edges
from veergust.core.kinds import SPANS, title
from veergust.core.play import CompiledAction
from veergust.desk.sheet.cut_hand import CutGrip, drag_cut, grip_at
from veergust.desk.sheet.layout import HEAD, STANDS, Hit
from veergust.desk.sheet.surface import Surface


@dataclass
class Drag:
    """A span in hand: which part, where it was, and where the mouse took hold."""

    ref: SpanRef
    part: str
    start: int
    end: int
    first: int
    grabbed: int
    compiled: CompiledAction
    edit: Edit | None = None


class SheetMouse:
    """What is in hand: nothing, the playhead, a span, or an end of a cut."""

    def __init__(self, sheet: Surface) -> None:
        self.sheet = sheet
        self.drag: Drag | None = None
        self.cut_grip: CutGrip | None = None
        self.scrubbing = False

    def give_up(self) -> bool:
        """Put down what is in hand without doing anything; false when that is nothing."""
        held = self.drag is not None or self.cut_grip is not None
        self.drag = self.cut_grip = None
        return held

    def press(self, event: QMouseEvent) -> None:
        """Take what lies under the mouse: an end of a cut, a span, or else the playhead."""
        if event.button() != Qt.MouseButton.LeftButton or self.sheet.document.compiled is None:
            return
        self.sheet.typed = ""
        point = self.sheet.sheet_point(event.position())
        hit = self.sheet.layout_.hit(point)
        if event.position().y() < HEAD:
            return
        if hit.column in STANDS:
            self.sheet.column = hit.column
        self.cut_grip = grip_at(self.sheet.layout_, self.sheet.document.compiled, point)
        if self.cut_grip is not None:
            self.sheet.dragging.emit(True)
            return
        if hit.placed is not None and event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.sheet.document.select_also(hit.placed.ref)
            return
        if hit.placed is None or hit.column == "frame":
            if hit.column != "frame":  # to look at another frame is not to let go of what is chosen
                self.sheet.document.select(None)
            self.scrubbing = True
            self.sheet.dragging.emit(True)
            self.sheet.document.move_to(hit.frame)
            return
        self.sheet.dragging.emit(True)
        self._take(hit)

    def _take(self, hit: Hit) -> None:
        assert hit.placed is not None
        assert self.sheet.document.compiled is not None
        span, first = hit.placed.span, hit.placed.first
        self.sheet.document.select(hit.placed.ref)
        start = span.tick if SPANS[hit.placed.ref.kind].moment else span.start
        end = start + 1 if SPANS[hit.placed.ref.kind].moment else span.end
        if hit.placed.ref.section == WHOLE:
            self.sheet.dragging.emit(False)
            return
        if hit.part in ("start", "end"):
            self.sheet.edge = hit.part
        self.drag = Drag(hit.placed.ref, hit.part, start, end, first, hit.frame, self.sheet.document.compiled)
        self._show_edge(start, end, hit.part)

    def _show_edge(self, start: int, end: int, part: str) -> None:
        """Put the playhead on the edge in hand, so that the stage shows its pose."""
        assert self.drag is not None
        self.sheet.document.move_to(self.drag.first + (end if part == "end" else start))

    def move(self, event: QMouseEvent) -> None:
        """Drag what is in hand, or say what could be taken."""
        point = self.sheet.sheet_point(event.position())
        if self.scrubbing:
            self.sheet.document.move_to(self.sheet.layout_.frame_at(point.y()))
            return
        if self.cut_grip is not None:
            retime = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
            row = self.sheet.layout_.line_at(point.y())
            free = bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)
            self.sheet.document.move_to(drag_cut(self.sheet.document, self.cut_grip, row, retime, free))
            return
        if self.drag is None:
            self._hover(self.sheet.layout_.hit(point), event)
            return
        drag = self.drag
        # An edge follows the nearest line between two rows, a body the row under the mouse.
        start, end = drag.start, drag.end
        if drag.part == "start":
            start = min(self.sheet.layout_.line_at(point.y()) - drag.first, end - 1)
        elif drag.part == "end":
            end = max(self.sheet.layout_.line_at(point.y()) - drag.first, start + 1)
        else:
            start, end = self._shifted(drag, self.sheet.layout_.frame_at(point.y()) - drag.grabbed)
        drag.edit = set_edges(self.sheet.document.base, drag.compiled, drag.ref, start, end)
        self.sheet.document.preview(drag.edit.project)
        self._show_edge(max(start, 0), end, drag.part)

    def _shifted(self, drag: Drag, by: int) -> tuple[int, int]:
        """A whole span moved, kept whole inside its section."""
        ticks = drag.compiled.sections[drag.ref.section].ticks
        by = min(max(by, -drag.start), ticks - drag.end)
        return drag.start + by, drag.end + by

    def release(self) -> None:
        """Let go: what was dragged becomes one step."""
        self.scrubbing = False
        self.sheet.dragging.emit(False)
        if self.cut_grip is not None:
            made, self.cut_grip = self.cut_grip.edit, None
            if made is not None:
                self.sheet.document.apply(made)
        if self.drag is not None:
            edit, self.drag = self.drag.edit, None
            if edit is None:
                self.sheet.document.cancel_preview()
            else:
                self.sheet.document.apply(edit)

    def double(self, event: QMouseEvent) -> None:
        """Fold a section, or put something new where nothing is."""
        hit = self.sheet.layout_.hit(self.sheet.sheet_point(event.position()))
        if event.position().y() >= HEAD and hit.column == "section":
            self.sheet.document.move_to(hit.frame)
            self.sheet.fold_section()
        elif hit.placed is None and hit.column in STANDS and event.position().y() >= HEAD:
            self.sheet.column = hit.column
            self.sheet.document.move_to(hit.frame)
            self.sheet.add_here(pointed=True, whole=bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))

    def _hover(self, hit: Hit, event: QMouseEvent) -> None:
        shape = Qt.CursorShape.ArrowCursor
        tip = ""
        compiled = self.sheet.document.compiled
        point = self.sheet.sheet_point(event.position())
        if event.position().y() < HEAD:
            pass
        elif compiled is not None and grip_at(self.sheet.layout_, compiled, point) is not None:
            shape = Qt.CursorShape.SplitVCursor
            tip = "Drag to trim the cut, with Ctrl to retime it; with Alt drawings may be cut in two"
        elif hit.placed is not None:
            shape = Qt.CursorShape.SizeVerCursor if hit.part in ("start", "end") else Qt.CursorShape.OpenHandCursor
            role = self.sheet.theme.look.role(hit.placed.role)
            hand = "Drag an edge, or Shift+Up/Down; drag inside, or Alt+Up/Down"
            if hit.placed.ref.section == WHOLE:
                shape, hand = Qt.CursorShape.PointingHandCursor, "Stands for the whole action"
            tip = f"{title(hit.placed.span)} ({role.word})\n{hand}"
        elif hit.column == "section":
            tip = "Double-click, or Z, to fold the section to one line and open it again; Shift+Z folds the others"
        elif hit.column in STANDS:
            tip = "Double-click, or N, to put one here"
        self.sheet.viewport().setCursor(shape)
        self.sheet.viewport().setToolTip(tip)
