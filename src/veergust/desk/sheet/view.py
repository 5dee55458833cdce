"""The exposure sheet: time runs down, one row a frame. ``mouse`` and ``keys`` work it, ``paint`` has the ink."""

from __future__ import annotations

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

from veergust.core.edit import WHOLE, Carried, SpanRef, span_of
from veergust.core.kinds import SPANS, title
from veergust.core.study import layer_words, swing_of
from veergust.desk.document.document import Document
from veergust.desk.look.theme import Theme, elided
from veergust.desk.sheet.deeds import add_here, take_clips
from veergust.desk.sheet.keys import SheetKeys
from veergust.desk.sheet.layout import HEAD, ROW, SheetLayout, column_of
from veergust.desk.sheet.mouse import SheetMouse
from veergust.desk.sheet.pages import SheetPages
from veergust.desk.sheet.paint.marks import Sheet
from veergust.desk.sheet.paint.painter import SheetPainter
from veergust.desk.widgets.accessible import ToldRow
from veergust.desk.widgets.notches import Notches

FOLDS = (1, 2, 4, 8)


class SheetView(QAbstractScrollArea):
    """Shows the open action of a document and edits its spans."""

    dragging = Signal(bool)
    details_wanted = Signal()
    put = Signal()
    """A new span was put on the sheet; it is selected."""
    pages: SheetPages

    def __init__(self, document: Document, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.document = document
        self.theme = theme
        self.notches = Notches()
        self.painter = SheetPainter(theme)
        self._layout = SheetLayout(None, 640.0)
        self.fold = 1
        self.opened_wide = False
        self.folded: dict[str, frozenset[str]] = {}
        self.column = "strikes"
        self.edge = "end"
        self.typed = ""
        self.retiming = False
        self.carried: tuple[Carried, ...] = ()
        self.keys = SheetKeys(self)
        self.mouse = SheetMouse(self)
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
        before, opened = self._layout, self.opened_wide
        self._layout = SheetLayout(self.document.compiled, wide, self.fold, folded, before, wide=opened)
        room = self.viewport().height() - HEAD
        self.verticalScrollBar().setRange(0, max(0, round(self._layout.height + 24 - room)))
        self.verticalScrollBar().setPageStep(max(1, round(room)))
        self.viewport().update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        self._renew()

    def sheet_point(self, point: QPointF) -> QPointF:
        """A point of the viewport on the sheet, with y from the first row."""
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

    def open_wide(self) -> None:
        """Open the column of strikes wide, with what they cover and what is too much, or as it was."""
        self.opened_wide = not self.opened_wide
        self._renew()

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
        if ref is not None and compiled is not None and 0 <= ref.section < len(compiled.sections):
            name = compiled.sections[ref.section].section.name
            folded = self.folded.get(self.document.action, frozenset())
            if name in folded:
                self._fold(folded - {name})
        self.viewport().update()

    # Painting

    def told(self) -> list[ToldRow]:
        """Sections and what stands on them, for who hears them."""
        out: list[ToldRow] = []
        here, compiled = WHOLE, self.document.compiled
        for placed in sorted(self._layout.placed, key=lambda p: (p.ref.section, p.rect.top())):
            if compiled is not None and placed.ref.section != here:
                here = placed.ref.section
                part = compiled.sections[here]
                out.append(ToldRow(part.section.name, f"{part.ticks} frames", heading=True))
            span, first = placed.span, placed.first
            moment = SPANS[placed.ref.kind].moment
            at = f"frame {first + span.tick}" if moment else f"frames {first + span.start} to {first + span.end}"
            at = at if placed.ref.section != WHOLE else "for the whole action"
            rect = QRectF(self.widget_point(placed.rect.left(), placed.rect.top()), placed.rect.size())
            out.append(ToldRow(title(placed.span), f"{placed.role}, {at}", rect, placed.ref in self.document.selected))
        return out

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
            self._layout, document.build, compiled, document.mesh, tuple(document.selected), self.edge,
            document.derived.hints(), document.sounds.named, swing_of(document.build),
        )  # fmt: skip
        self.painter.paint(p, sheet, document.frame, view, self.column if self.hasFocus() else "")
        p.restore()
        action = compiled.action
        rate = self.document.project.settings.rate
        commands = " or ".join(action.start.commands)
        parts = [f"{compiled.total} f", f"{compiled.total / rate:.2f} s", layer_words(document.build, action.layer)]
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
        self.mouse.press(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self.mouse.move(event)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.mouse.release()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.mouse.double(event)

    def wheelEvent(self, event: QWheelEvent) -> None:
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            at = FOLDS.index(self.fold) - self.notches.turned(event)
            self.set_fold(FOLDS[min(max(at, 0), len(FOLDS) - 1)])
        elif not event.pixelDelta().isNull():
            bar = self.verticalScrollBar()
            bar.setValue(bar.value() - event.pixelDelta().y())
        else:
            super().wheelEvent(event)

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
            self.column = column_of(ref.kind)
            if ref.section == WHOLE:
                return
            start = placed.span.tick if SPANS[ref.kind].moment else placed.span.start
            self.document.move_to(placed.first + start)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self.keys.press(event):
            super().keyPressEvent(event)

    def escape(self) -> None:
        """Give up a drag, else what was typed, else the selection."""
        if self.mouse.give_up():
            self.document.cancel_preview()
        elif self.typed or self.retiming:
            self.typed, self.retiming = "", False
        else:
            self.document.select(None)
        self.viewport().update()

    def take_clips(self, names: list[str], *, together: bool = False) -> None:
        """Clips that come in on the sheet."""
        take_clips(self.document, names, together)

    def add_here(self, kind: str = "", *, whole: bool = False, pointed: bool = False, for_all: bool = False) -> None:
        """Put a new span of the cursor's column, or of ``kind``, on the playhead; over the ``whole`` section, just
        where it was ``pointed`` at, or ``for_all`` of the action."""
        if add_here(self.document, kind or self.column, whole=whole, pointed=pointed, for_all=for_all):
            self.put.emit()
