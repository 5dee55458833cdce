"""The exposure sheet: time runs down, one row a frame. Mouse and keys; the ink is in ``paint``."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QFocusEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QAbstractScrollArea, QFrame, QWidget

from veergust.core.edit.actions import new_action
from veergust.core.edit.carry import Carried
from veergust.core.edit.cuts import change_cut
from veergust.core.edit.sections import add_run, add_section
from veergust.core.edit.spans import Edit, SpanRef, add, set_edges, span_of, title
from veergust.core.play.compiled import CompiledAction
from veergust.desk.document import Document
from veergust.desk.sheet.cards.section import SectionPage
from veergust.desk.sheet.cards.versions import VersionsPage
from veergust.desk.sheet.cut_hand import CutGrip, drag_cut, grip_at
from veergust.desk.sheet.keys import SheetKeys
from veergust.desk.sheet.layout import EDITED, HEAD, ROW, Hit, SheetLayout
from veergust.desk.sheet.paint.marks import Sheet
from veergust.desk.sheet.paint.painter import SheetPainter
from veergust.desk.theme import Theme, elided

NEW_LENGTH = 4
FOLDS = (1, 2, 4, 8)


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


class SheetView(QAbstractScrollArea):
    """Shows the open action of a document and edits its spans."""

    dragging = Signal(bool)
    details_wanted = Signal()
    section_page: SectionPage
    versions_page: VersionsPage

    def __init__(self, document: Document, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.document = document
        self.theme = theme
        self.painter = SheetPainter(theme)
        self._layout = SheetLayout(None, 640.0)
        self.fold = 1
        self.folded: dict[str, frozenset[str]] = {}
        self.column = "strikes"
        self.edge = "end"
        self.typed = ""
        self.drag: Drag | None = None
        self.cut_grip: CutGrip | None = None
        self.retiming = False
        self.carried: tuple[Carried, ...] = ()
        self.scrubbing = False
        self.keys = SheetKeys(self)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Exposure sheet")
        self.viewport().setMouseTracking(True)
        self.viewport().setToolTip("")
        self.verticalScrollBar().setSingleStep(round(ROW))
        document.changed.connect(self._renew)
        document.frame_moved.connect(self._follow)
        document.selection_changed.connect(self._show_selection)
        theme.changed.connect(self.viewport().update)
        self._renew()

    # Geometry

    @property
    def layout_(self) -> SheetLayout:
        """The sheet as it lies now."""
        return self._layout

    def _renew(self) -> None:
        folded = self.folded.get(self.document.action, frozenset())
        wide = self.viewport().width() - 2
        self._layout = SheetLayout(self.document.compiled, wide, self.fold, folded, self._layout)
        room = self.viewport().height() - HEAD
        self.verticalScrollBar().setRange(0, max(0, round(self._layout.height + 24 - room)))
        self.verticalScrollBar().setPageStep(max(1, round(room)))
        self.viewport().update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        self._renew()

    def _sheet_point(self, point: QPointF) -> QPointF:
        return QPointF(point.x(), point.y() - HEAD + self.verticalScrollBar().value())

    def widget_point(self, x: float, y: float) -> QPointF:
        """Where a point of the sheet (y from the first row) lies in the viewport."""
        return QPointF(x, y + HEAD - self.verticalScrollBar().value())

    def _follow(self) -> None:
        """Keep the playhead in sight."""
        bar, room = self.verticalScrollBar(), self.viewport().height() - HEAD
        y = self._layout.row_top(self.document.frame)
        if y < bar.value() + ROW:
            bar.setValue(round(y - 2 * ROW))
        elif y + 3 * ROW > bar.value() + room:
            bar.setValue(round(y + 3 * ROW - room))
        self.viewport().update()

    def set_fold(self, fold: int) -> None:
        """Show ``fold`` frames a row."""
        self.fold = fold
        self._renew()
        self._follow()

    def fold_section(self, *, others: bool = False) -> None:
        """Show the section under the playhead as one line, or whole again; ``others``: all but that one."""
        compiled = self.document.compiled
        if compiled is None or not compiled.order:
            return
        here = compiled.sections[compiled.locate(self.document.frame)[0]].section.name
        old = self.folded.get(self.document.action, frozenset())
        if others:
            rest = frozenset(s.section.name for s in compiled.sections) - {here}
            self._fold(frozenset() if old == rest else rest)
        else:
            self._fold(old ^ {here})

    def _fold(self, names: frozenset[str]) -> None:
        self.folded[self.document.action] = names
        self._renew()
        self._follow()

    def _show_selection(self) -> None:
        """What is selected is shown: its section opens."""
        ref, compiled = self.document.selection, self.document.compiled
        if ref is not None and compiled is not None and ref.section < len(compiled.sections):
            name = compiled.sections[ref.section].section.name
            folded = self.folded.get(self.document.action, frozenset())
            if name in folded:
                self._fold(folded - {name})
        self.viewport().update()

    # Painting

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self.viewport())
        width, height = self.viewport().width(), self.viewport().height()
        p.fillRect(self.viewport().rect(), self.theme.colour("paper"))
        compiled = self.document.compiled
        if compiled is None:
            self._empty(p, width, height)
            return
        scroll = self.verticalScrollBar().value()
        p.save()
        p.setClipRect(QRectF(0, HEAD, width, height - HEAD))
        p.translate(0, HEAD - scroll)
        view = QRectF(0, scroll, width, height - HEAD)
        document = self.document
        sheet = Sheet(
            self._layout, document.book, compiled, document.mesh, tuple(document.selected), self.edge,
            document.known.hints(), document.sounds, document.known.swing,
        )  # fmt: skip
        self.painter.paint(p, sheet, document.frame, view, self.column if self.hasFocus() else "")
        p.restore()
        action = compiled.action
        rate = self.document.project.settings.rate
        commands = " or ".join(action.start.commands)
        parts = [f"{compiled.total} f", f"{compiled.total / rate:.2f} s", f"layer {action.layer}"]
        parts += [f"on {commands}"] if commands else []
        parts += [f"{self.fold} f a row"] if self.fold > 1 else []
        self.painter.head(p, self._layout, action.name, " · ".join(parts), width)
        if self.typed or self.retiming:
            self._typing(p, width)

    def _empty(self, p: QPainter, width: int, height: int) -> None:
        p.setPen(self.theme.colour("ink"))
        p.setFont(self.theme.bold(17))
        has_clips = bool(self.document.project.clips)
        head = "No action yet" if has_clips else "Nothing here yet"
        p.drawText(QRectF(0, height / 2 - 40, width, 30), Qt.AlignmentFlag.AlignCenter, head)
        p.setFont(self.theme.font(14))
        p.setPen(self.theme.colour("ink_soft"))
        words = (
            "Choose + New action at the lower left to make one from a clip."
            if has_clips
            else "Drop a .glb or .gltf file with a figure and its clips on this window."
        )
        p.drawText(QRectF(0, height / 2 - 8, width, 24), Qt.AlignmentFlag.AlignCenter, words)

    def _typing(self, p: QPainter, width: int) -> None:
        span = span_of(self.document.project, self.document.selection) if self.document.selection else None
        if self.retiming:
            words = f"the cut plays in {self.typed}▏ frames"
        elif span is not None:
            words = f"{title(span)} {'opens' if self.edge == 'start' else 'closes'} at {self.typed}▏"
        else:
            return
        rect = QRectF(width - 250, 6, 242, 26)
        p.fillRect(rect, self.theme.colour("ink"))
        p.setPen(self.theme.colour("paper_bright"))
        p.setFont(self.theme.bold(13))
        p.drawText(rect.adjusted(10, 0, -8, 0), Qt.AlignmentFlag.AlignVCenter,
                   elided(words, self.theme.bold(13), 224))  # fmt: skip

    # Mouse

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus(Qt.FocusReason.MouseFocusReason)
        if event.button() != Qt.MouseButton.LeftButton or self.document.compiled is None:
            return
        self.typed = ""
        point = self._sheet_point(event.position())
        hit = self._layout.hit(point)
        if event.position().y() < HEAD:
            return
        if hit.column in EDITED:
            self.column = hit.column
        self.cut_grip = grip_at(self._layout, self.document.compiled, point)
        if self.cut_grip is not None:
            self.dragging.emit(True)
            return
        if hit.placed is not None and event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.document.select_also(hit.placed.ref)
            return
        if hit.placed is None or hit.column == "frame":
            self.document.select(None)
            self.scrubbing = True
            self.dragging.emit(True)
            self.document.move_to(hit.frame)
            return
        self.dragging.emit(True)
        self._take(hit)

    def _take(self, hit: Hit) -> None:
        assert hit.placed is not None
        assert self.document.compiled is not None
        span, first = hit.placed.span, hit.placed.first
        self.document.select(hit.placed.ref)
        start = span.tick if hit.placed.ref.kind == "events" else span.start
        end = start + 1 if hit.placed.ref.kind == "events" else span.end
        if hit.part in ("start", "end"):
            self.edge = hit.part
        self.drag = Drag(hit.placed.ref, hit.part, start, end, first, hit.frame, self.document.compiled)
        self._show_edge(start, end, hit.part)

    def _show_edge(self, start: int, end: int, part: str) -> None:
        """Put the playhead on the edge in hand, so that the stage shows its pose."""
        assert self.drag is not None
        self.document.move_to(self.drag.first + (end if part == "end" else start))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        point = self._sheet_point(event.position())
        if self.scrubbing:
            self.document.move_to(self._layout.frame_at(point.y()))
            return
        if self.cut_grip is not None:
            retime = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
            row = self._layout.line_at(point.y())
            self.document.move_to(drag_cut(self.document, self.cut_grip, row, retime))
            return
        if self.drag is None:
            self._hover(self._layout.hit(point), event)
            return
        drag = self.drag
        # An edge follows the nearest line between two rows, a body the row under the mouse.
        start, end = drag.start, drag.end
        if drag.part == "start":
            start = min(self._layout.line_at(point.y()) - drag.first, end - 1)
        elif drag.part == "end":
            end = max(self._layout.line_at(point.y()) - drag.first, start + 1)
        else:
            start, end = self._shifted(drag, self._layout.frame_at(point.y()) - drag.grabbed)
        drag.edit = set_edges(self.document.base, drag.compiled, drag.ref, start, end)
        self.document.preview(drag.edit.project)
        self._show_edge(max(start, 0), end, drag.part)

    def _shifted(self, drag: Drag, by: int) -> tuple[int, int]:
        """A whole span moved, kept whole inside its section."""
        ticks = drag.compiled.sections[drag.ref.section].ticks
        by = min(max(by, -drag.start), ticks - drag.end)
        return drag.start + by, drag.end + by

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.scrubbing = False
        self.dragging.emit(False)
        if self.cut_grip is not None:
            made, self.cut_grip = self.cut_grip.edit, None
            if made is not None:
                self.document.apply(made)
        if self.drag is not None:
            edit, self.drag = self.drag.edit, None
            if edit is None:
                self.document.cancel_preview()
            else:
                self.document.apply(edit)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        hit = self._layout.hit(self._sheet_point(event.position()))
        if event.position().y() >= HEAD and hit.column == "section":
            self.document.move_to(hit.frame)
            self.fold_section()
        elif hit.placed is None and hit.column in EDITED and event.position().y() >= HEAD:
            self.column = hit.column
            self.document.move_to(hit.frame)
            self.add_here()

    def _hover(self, hit: Hit, event: QMouseEvent) -> None:
        shape = Qt.CursorShape.ArrowCursor
        tip = ""
        compiled = self.document.compiled
        point = self._sheet_point(event.position())
        if event.position().y() < HEAD:
            pass
        elif compiled is not None and grip_at(self._layout, compiled, point) is not None:
            shape = Qt.CursorShape.SplitVCursor
            tip = "Drag to trim the cut, with Ctrl to retime it"
        elif hit.placed is not None:
            shape = Qt.CursorShape.SizeVerCursor if hit.part in ("start", "end") else Qt.CursorShape.OpenHandCursor
            role = self.theme.look.role(hit.placed.role)
            tip = (
                f"{title(hit.placed.span)} ({role.word})\nDrag an edge, or Shift+Up/Down; drag inside, or Alt+Up/Down"
            )
        elif hit.column == "section":
            tip = "Double-click, or Z, to fold the section to one line and open it again; Shift+Z folds the others"
        elif hit.column in EDITED:
            tip = "Double-click, or N, to put one here"
        self.viewport().setCursor(shape)
        self.viewport().setToolTip(tip)

    def wheelEvent(self, event: QWheelEvent) -> None:
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            step = -1 if event.angleDelta().y() > 0 else 1
            at = FOLDS.index(self.fold) + step
            self.set_fold(FOLDS[min(max(at, 0), len(FOLDS) - 1)])
        else:
            super().wheelEvent(event)

    # Clips that come in on the sheet

    def take_clips(self, names: list[str], *, together: bool = False) -> None:
        """A section of each clip at the end of the open action, or one of all of them ``together``; a new action when
        none is open."""
        document, cast = self.document, self.document.book.cast
        if document.compiled is None:
            edit, action = new_action(document.project, cast, names[0])
            document.apply(edit)
            document.choose_action(action)
            names = names[1:]
        compiled = document.compiled
        if compiled is None or not names:
            return
        project = document.base
        if together and len(names) > 1:
            document.apply(add_run(project, cast, compiled.action.name, names))
            return
        for name in names:
            project = add_section(project, cast, compiled.action.name, name).project
        document.apply(Edit(project, f"{compiled.action.name}: {', '.join(names)} added"))

    # Keys

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self.viewport().update()

    def focusNextPrevChild(self, forward: bool) -> bool:
        """Tab goes from span to span; past the last it leaves the sheet."""
        order = sorted(self._layout.placed, key=lambda p: (p.rect.top(), p.rect.left()))
        refs = [p.ref for p in order]
        if not refs:
            return super().focusNextPrevChild(forward)
        at = refs.index(self.document.selection) if self.document.selection in refs else None
        new = (0 if forward else len(refs) - 1) if at is None else at + (1 if forward else -1)
        if not 0 <= new < len(refs):
            self.document.select(None)
            return super().focusNextPrevChild(forward)
        self._choose(refs[new])
        return True

    def _choose(self, ref: SpanRef) -> None:
        placed = self._layout.find(ref)
        if placed is not None:
            self.document.select(ref)
            self.column = "exits" if ref.kind == "gates" else ref.kind
            start = placed.span.tick if ref.kind == "events" else placed.span.start
            self.document.move_to(placed.first + start)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self.keys.press(event):
            super().keyPressEvent(event)

    def escape(self) -> None:
        """Give up a drag, else what was typed, else the selection."""
        if self.drag is not None or self.cut_grip is not None:
            self.drag = self.cut_grip = None
            self.document.cancel_preview()
        elif self.typed or self.retiming:
            self.typed, self.retiming = "", False
        else:
            self.document.select(None)
        self.viewport().update()

    def accept_hint(self) -> None:
        """Do what the proposal nearest to the playhead says."""
        document, compiled = self.document, self.document.compiled
        found = sorted(document.known.hints(), key=lambda h: abs(h.start - document.frame))
        if compiled is None or not found:
            document.said.emit("The numbers of this action propose nothing.", False)
            return
        hint = found[0]
        section, tick = compiled.locate(hint.start)
        if hint.kind == "strike":
            ref = SpanRef(compiled.action.name, section, "strikes", 0)
            end = min(tick + hint.end - hint.start, compiled.sections[section].ticks)
            edit, new = add(document.project, ref, tick, end)
            document.apply(edit)
            document.select(new)
        else:
            part = compiled.sections[section]
            at = next(i for i, c in reversed(list(enumerate(part.cuts))) if c.first <= tick)
            field = "start" if part.cuts[at].end < part.cuts[at].start else "end"
            edit = change_cut(
                document.project, document.book.cast, compiled.action.name, section, at,
                f"ends at {hint.start}", **{field: round(float(part.source[tick]), 9)},
            )  # fmt: skip
            document.apply(edit)
        document.move_to(hint.start)

    def add_here(self, kind: str = "") -> None:
        """Put a new span of the cursor's column, or of ``kind``, on the playhead."""
        compiled = self.document.compiled
        if compiled is None or not compiled.path:
            return
        section, tick = compiled.locate(self.document.frame)
        ref = SpanRef(compiled.action.name, section, kind or self.column, 0)
        end = min(tick + NEW_LENGTH, compiled.sections[section].ticks)
        edit, new = add(self.document.project, ref, tick, end)
        self.document.apply(edit)
        self.document.select(new)
