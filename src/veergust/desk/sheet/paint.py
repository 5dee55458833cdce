"""The sheet's ink: film strip, rows, spans, the playhead."""

from __future__ import annotations

from typing import Any

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen, QPixmap

from veergust.core.files.wav_read import Sound
from veergust.core.model import Drive, Event, Exit, Gate, Hold, Shield, Strike
from veergust.core.motion.figure import Mesh
from veergust.core.play.book import Book
from veergust.core.study.coverage import covered, tip_speed
from veergust.core.study.timing import Hint
from veergust.desk.sheet.layout import COLUMNS, HEAD, Placed, SheetLayout
from veergust.desk.theme import Theme, elided
from veergust.desk.widgets.inked import pose_pixmap
from veergust.look import MARKS

POSE_WIDTH, POSE_HEIGHT = 86, 58
POSE_EVERY = 5


def span_words(book: Book, layout: SheetLayout, placed: Placed) -> tuple[str, str]:
    """The two lines written in a span."""
    span = placed.span
    match span:
        case Strike():
            assert layout.compiled is not None
            share = (
                covered(book, layout.compiled, placed.ref.section, max(span.start, 0))
                if (span.start < layout.compiled.sections[placed.ref.section].ticks)
                else None
            )
            return span.name, f"covers {share:.0%}" if share is not None else f"{span.damage:g} damage"
        case Exit(kind="break"):
            return "!", ""
        case Exit():
            return f"→ {span.to or 'ground'}", span.command
        case Gate():
            return f"→ {span.to}", "gate"
        case Hold():
            return span.setting, "free" if span.value == 0 else f"{span.value:g}"
        case Drive():
            return span.kind, f"×{span.scale:g}"
        case Shield():
            return {"invulnerable": "none", "armour": "arm", "guard": "guard"}[span.kind], "touch"
        case Event():
            return span.name or "—", span.mount
    return "", ""


class SheetPainter:
    """Paints a sheet; keeps its small poses."""

    def __init__(self, theme: Theme) -> None:
        self.theme = theme
        self.sounds: dict[str, Sound] = {}
        self._poses: dict[tuple[int, int, float, str], tuple[object, QPixmap]] = {}

    def paint(
        self, p: QPainter, layout: SheetLayout, book: Book, mesh: Mesh | None, frame: int, chosen: object,
        view: QRectF, active_edge: str, cursor: str, hints: list[Hint],
    ) -> None:  # fmt: skip
        """Paint the rows that ``view`` shows; the painter's origin is the first row's top left."""
        compiled = layout.compiled
        if compiled is None or not compiled.path:
            return
        self._rows(p, layout, view)
        self._phase(p, layout, book, view)
        self._film(p, layout, mesh, view)
        self._travel(p, layout)
        self._playhead(p, layout, frame, view, cursor)
        self._hints(p, layout, hints)
        self._waves(p, layout, book)
        for placed in layout.placed:
            if placed.rect.bottom() >= view.top() - 20 and placed.rect.top() <= view.bottom() + 20:
                edge = active_edge if placed.ref == chosen else ""
                self._span(p, layout, book, placed, edge, placed.ref == chosen)
        self._sections(p, layout, view)
        self._playhead_lines(p, layout, frame, view)

    def _rows(self, p: QPainter, layout: SheetLayout, view: QRectF) -> None:
        theme, right = self.theme, view.right()
        first = max(0, layout.frame_at(view.top()))
        last = min(layout.total - 1, layout.frame_at(view.bottom()) + 1)
        step = layout.fold
        p.fillRect(QRectF(0, view.top(), right, view.height()), theme.colour("paper"))
        for f in range(first - first % step, last + 1, step):
            y = layout.y(f)
            major = f % (5 * step) == 0
            if major:
                p.fillRect(QRectF(0, y, right, layout.pitch * step), theme.colour("paper_bright"))
            p.setPen(theme.pen("hair", 1.0))
            p.drawLine(QPointF(0, y), QPointF(right, y))
            p.setFont(theme.bold(12) if major else theme.font(11))
            p.setPen(theme.colour("ink" if major else "ink_faint"))
            left, width = layout.columns["frame"]
            p.drawText(QRectF(left, y, width - 10, layout.pitch * step), Qt.AlignmentFlag.AlignRight
                       | Qt.AlignmentFlag.AlignVCenter, str(f))  # fmt: skip
        p.setPen(theme.pen("hair", 1.0))
        bottom = min(view.bottom(), layout.y(layout.total))
        for name, (left, _) in layout.columns.items():
            if name != "frame":
                p.drawLine(QPointF(left, view.top()), QPointF(left, bottom))

    def _hints(self, p: QPainter, layout: SheetLayout, hints: list[Hint]) -> None:
        """Proposals, as faint pencil marks: a strike's place, a line where recovery could end."""
        left, width = layout.columns["strikes"]
        p.setBrush(Qt.BrushStyle.NoBrush)
        for hint in hints:
            pen = self.theme.pen("strike" if hint.kind == "strike" else "ink_faint", 1.2, Qt.PenStyle.DashLine)
            p.setPen(pen)
            top = layout.y(hint.start)
            if hint.kind == "strike":
                p.drawRect(QRectF(left + 3, top + 0.5, width - 7, layout.y(hint.end) - top - 1))
                words, room = "strike? A", width - 10
            else:
                p.drawLine(QPointF(left, top), QPointF(left + width, top))
                words, room = "ends? A", width - 8
            p.setFont(self.theme.font(11))
            p.drawText(QRectF(left + 6, top, room, 14), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight,
                       elided(words, self.theme.font(11), room))  # fmt: skip

    def _phase(self, p: QPainter, layout: SheetLayout, book: Book, view: QRectF) -> None:
        """Startup, active and recovery down their column, and the weapon's speed behind the strikes."""
        assert layout.compiled is not None
        ticks = layout.compiled.open_frames
        left, width = layout.columns["strikes"]
        speed = tip_speed(book, layout.compiled)
        strike = self.theme.colour("strike")
        top = max(float(speed.max(initial=0.0)), 4.0)
        for f in range(max(0, layout.frame_at(view.top())), min(layout.total, layout.frame_at(view.bottom()) + 2)):
            strike.setAlphaF(min(0.22, 0.24 * (float(speed[f]) / top) ** 2))
            p.fillRect(QRectF(left + 1, layout.y(f), width - 1, layout.pitch), strike)
        if not ticks:
            return
        left, width = layout.columns["phase"]
        parts = [
            ("startup", 0, ticks[0], "paper_side"),
            ("active", ticks[0], ticks[-1] + 1, "strike"),
            ("recovery", ticks[-1] + 1, layout.compiled.total, "paper_side"),
        ]
        for words, a, b, colour in parts:
            rect = QRectF(left + 4, layout.y(a) + 1, width - 8, layout.y(b) - layout.y(a) - 2)
            if rect.height() <= 0:
                continue
            if colour == "strike":
                self.theme.draw_span(p, rect, "strike")
                for f in ticks:
                    top = layout.y(f)
                    p.fillRect(QRectF(left + 4, top, width - 8, layout.pitch), self.theme.colour("strike", 0.55))
                continue
            p.fillRect(rect, self.theme.colour("hair"))
            self._upright(p, rect, f"{words} {b - a}", self.theme.font(12), "ink_soft")

    def _upright(self, p: QPainter, rect: QRectF, text: str, font: Any, colour: str) -> None:
        p.save()
        p.translate(rect.center())
        p.rotate(90)
        p.setFont(font)
        p.setPen(self.theme.colour(colour))
        box = QRectF(-rect.height() / 2, -rect.width() / 2, rect.height(), rect.width())
        p.drawText(box, Qt.AlignmentFlag.AlignCenter, elided(text, font, rect.height()))
        p.restore()

    def _film(self, p: QPainter, layout: SheetLayout, mesh: Mesh | None, view: QRectF) -> None:
        assert layout.compiled is not None
        left, width = layout.columns["cut"]
        ratio = p.device().devicePixelRatioF()
        p.setFont(self.theme.font(11))
        for first, i in layout.compiled.row_starts():
            part = layout.compiled.sections[i]
            marks = {0} | {s.start for s in part.section.strikes} | {s.end for s in part.section.strikes}
            shown: list[int] = []
            gap = POSE_EVERY * layout.fold
            for tick in sorted(m for m in marks if 0 <= m < part.ticks):
                if not shown or tick - shown[-1] >= max(3, gap * 0.6):
                    shown.append(tick)
            for tick in range(0, part.ticks, gap):
                if all(abs(tick - s) >= gap * 0.8 for s in shown) and part.ticks - tick > gap * 0.4:
                    shown.append(tick)
            for tick in sorted(shown):
                y = layout.y(first + tick)
                if mesh is None or y < view.top() - POSE_HEIGHT or y > view.bottom() + POSE_HEIGHT:
                    continue
                strong = tick in marks
                pixmap = self._pose(part.pose, part.world, tick, mesh, strong, ratio)
                p.drawPixmap(QPointF(left - 12, max(y - 12, 0)), pixmap)
            for cut in part.cuts:
                y = layout.y(first + cut.first)
                p.setPen(self.theme.colour("ink_soft"))
                lines = [f"{cut.start:.2f} s", cut.cut.clip]
                if cut.cut.rate != 1.0:
                    lines.append(f"×{cut.cut.rate:g}")
                if cut.cut.mirror:
                    lines.append("mirrored")
                room = int(cut.ticks * layout.pitch // 14)
                for n, words in enumerate(lines[: max(1, room)] if first == 0 or len(part.cuts) > 1 else lines[:1]):
                    box = QRectF(left + width - 70, y + 2 + n * 14, 66, 14)
                    shown_words = elided(words, self.theme.font(11), 66)
                    wide = p.fontMetrics().horizontalAdvance(shown_words)
                    p.fillRect(
                        QRectF(box.right() - wide - 1, box.top(), wide + 2, 14), self.theme.colour("paper", 0.8)
                    )
                    p.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, shown_words)

    def _pose(self, pose: Any, world: Any, tick: int, mesh: Mesh, strong: bool, ratio: float) -> QPixmap:
        key = (id(pose), tick, ratio, f"{self.theme.look.name}{strong}")
        kept = self._poses.get(key)
        if kept is not None and kept[0] is pose:
            return kept[1]
        ink = self.theme.colour("ink")
        ink.setAlphaF(0.92 if strong else 0.5)
        made = pose_pixmap(mesh, world[tick], POSE_WIDTH, POSE_HEIGHT, ink, ratio)
        if len(self._poses) > 600:
            self._poses.clear()
        self._poses[key] = (pose, made)
        return made

    def _travel(self, p: QPainter, layout: SheetLayout) -> None:
        """The body's way as a curve that leans out beside the frame numbers."""
        assert layout.compiled is not None
        far = [float(np.hypot(*layout.compiled.travel_to(f)[0][[0, 2]])) for f in range(layout.compiled.total + 1)]
        longest = max(far)
        if longest < 0.02:
            return
        path = QPainterPath(QPointF(3, 0))
        for f, d in enumerate(far):
            path.lineTo(QPointF(3 + 11 * d / longest, layout.y(f)))
        p.save()
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(self.theme.pen("drive", 1.6))
        p.drawPath(path)
        p.restore()

    def _span(self, p: QPainter, layout: SheetLayout, book: Book, placed: Placed, edge: str, chosen: bool) -> None:
        theme, rect = self.theme, placed.rect
        title, small = span_words(book, layout, placed)
        if placed.ref.kind == "events":
            self._event(p, placed, title, small, chosen)
            return
        if placed.role == "break":
            self._break(p, placed, chosen)
            return
        theme.draw_span(p, rect, placed.role, chosen)
        ink = theme.colour(placed.role)
        p.setFont(theme.bold(12))
        letters = theme.look.role(placed.role).letter
        lines = [(title, theme.bold(12), ink), (small, theme.font(12), theme.colour("ink"))]
        if rect.width() < 22:
            lines = [(letters, theme.bold(11), ink)]
        tall = min(len([1 for words, _, _ in lines if words]) * 15.0, rect.height() - 3)
        if tall >= 11:
            p.fillRect(QRectF(rect.left() + 2, rect.top() + 2, rect.width() - 4, tall), theme.colour("paper", 0.86))
        for n, (words, font, colour) in enumerate(lines):
            if words and (n + 1) * 15 <= rect.height() + 3:
                p.setFont(font)
                p.setPen(colour)
                box = QRectF(rect.left() + 5, rect.top() + 1 + n * 15, rect.width() - 7, 15)
                p.drawText(box, Qt.AlignmentFlag.AlignVCenter, elided(words, font, rect.width() - 7))
        self._pins(p, placed, ink, edge, chosen)

    def _pins(self, p: QPainter, placed: Placed, ink: QColor, edge: str, chosen: bool) -> None:
        """Each edge's pin: a full dot to the pose, an open one to the frame; the edge in hand is ringed."""
        p.save()
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        x = placed.rect.right() - 1
        for name, y, pin in (
            ("start", placed.rect.top(), placed.span.start_pin),
            ("end", placed.rect.bottom(), placed.span.end_pin),
        ):
            p.setPen(QPen(ink, 1.4))
            p.setBrush(ink if pin.to == "pose" else self.theme.colour("paper"))
            p.drawEllipse(QPointF(x, y), 3.4, 3.4)
            if chosen and edge == name:
                p.setBrush(Qt.BrushStyle.NoBrush)
                p.drawEllipse(QPointF(x, y), 6.0, 6.0)
        p.restore()

    def _event(self, p: QPainter, placed: Placed, words: str, mount: str, chosen: bool) -> None:
        rect, theme = placed.rect, self.theme
        p.save()
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        if chosen:
            p.setPen(theme.pen("accent", 1.6))
            p.setBrush(theme.colour("selected"))
            p.drawRoundedRect(rect.adjusted(0, 0.5, 0, -0.5), 3, 3)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.colour("ink"))
        y = rect.center().y()
        path = QPainterPath(QPointF(rect.left() + 4, y - 4.5))
        path.lineTo(rect.left() + 10, y)
        path.lineTo(rect.left() + 4, y + 4.5)
        path.closeSubpath()
        p.drawPath(path)
        p.setFont(theme.font(12))
        p.setPen(theme.colour("ink"))
        both, room = f"{words} · {mount}" if mount else words, rect.width() - 17
        words = both if p.fontMetrics().horizontalAdvance(both) <= room else words
        box = rect.adjusted(15, 0, -2, 0)
        p.drawText(box, Qt.AlignmentFlag.AlignVCenter, elided(words, theme.font(12), room))
        p.restore()

    def _waves(self, p: QPainter, layout: SheetLayout, book: Book) -> None:
        """The sound of each event that has one, down the rows it lasts."""
        rate = book.project.settings.rate
        left, width = layout.columns["events"]
        middle = left + width - 14
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(self.theme.colour("event", 0.28))
        for placed in layout.placed:
            sound = self.sounds.get(placed.span.name) if placed.ref.kind == "events" else None
            if sound is None or placed.span.kind != "sound":
                continue
            top = placed.first + placed.span.tick
            path = QPainterPath(QPointF(middle, layout.y(top)))
            peaks = sound.peaks(0.25 / rate)
            for i, peak in enumerate(peaks):
                path.lineTo(middle + 11 * float(peak), layout.y(top + (i + 0.5) / 4))
            for i, peak in reversed(list(enumerate(peaks))):
                path.lineTo(middle - 11 * float(peak), layout.y(top + (i + 0.5) / 4))
            path.closeSubpath()
            p.drawPath(path)

    def _break(self, p: QPainter, placed: Placed, chosen: bool) -> None:
        """A break usually lasts the whole section: a narrow dotted stave."""
        self.theme.draw_span(p, placed.rect.adjusted(0, 1, 0, -1), "break", chosen)

    def _sections(self, p: QPainter, layout: SheetLayout, view: QRectF) -> None:
        assert layout.compiled is not None
        left, width = layout.columns["section"]
        for first, i in layout.compiled.row_starts():
            part = layout.compiled.sections[i]
            y, tall = layout.y(first), layout.y(part.ticks)
            p.setPen(self.theme.pen("ink", 2.0))
            p.drawLine(QPointF(0, y), QPointF(view.right(), y))
            rect = QRectF(
                left + 2,
                max(y, view.top()) + 4,
                width - 6,
                max(min(y + tall, view.bottom()) - max(y, view.top()) - 8, 0),
            )
            if part.section.mark:
                band = QRectF(left + 1, y + 1, width - 2, tall - 2)
                ratio = p.device().devicePixelRatioF()
                p.fillRect(band, self.theme.hatch(self.theme.look.role(MARKS[part.section.mark]), ratio))
            then = part.section.then
            goes = "loops" if then == part.section.name else f"→ {then}"
            self._section_words(p, rect, part.section.name, goes)
        p.setPen(self.theme.pen("ink", 2.0))
        end = layout.y(layout.total)
        p.drawLine(QPointF(0, end), QPointF(view.right(), end))

    def _section_words(self, p: QPainter, rect: QRectF, name: str, goes: str) -> None:
        bold, plain = self.theme.bold(13), self.theme.font(12)
        if rect.height() < 24:
            return
        p.save()
        p.translate(rect.right(), rect.top())
        p.rotate(90)
        p.setFont(bold)
        p.setPen(self.theme.colour("ink"))
        words = elided(name, bold, rect.height())
        p.drawText(QRectF(0, 0, rect.height(), rect.width()), Qt.AlignmentFlag.AlignVCenter, words)
        used = p.fontMetrics().horizontalAdvance(words) + 8
        if rect.height() - used > 30:
            p.setFont(plain)
            p.setPen(self.theme.colour("ink_soft"))
            p.drawText(QRectF(used, 0, rect.height() - used, rect.width()), Qt.AlignmentFlag.AlignVCenter,
                       elided(goes, plain, rect.height() - used))  # fmt: skip
        p.restore()

    def _playhead(self, p: QPainter, layout: SheetLayout, frame: int, view: QRectF, cursor: str) -> None:
        y, tall = layout.y(frame), max(layout.pitch, 3.0)
        p.fillRect(QRectF(0, y, view.right(), tall), self.theme.colour("accent", 0.10))
        if cursor in layout.columns:
            left, width = layout.columns[cursor]
            p.fillRect(QRectF(left, y, width, tall), self.theme.colour("accent", 0.22))

    def _playhead_lines(self, p: QPainter, layout: SheetLayout, frame: int, view: QRectF) -> None:
        y, tall = layout.y(frame), max(layout.pitch, 12.0)
        p.setPen(self.theme.pen("ink", 1.5))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawRect(QRectF(0.5, y, view.right() - 1, max(layout.pitch, 3.0)))
        _, width = layout.columns["frame"]
        box = QRectF(0, y, width, tall)
        p.fillRect(box, self.theme.colour("ink"))
        p.setFont(self.theme.bold(12))
        p.setPen(self.theme.colour("paper_bright"))
        p.drawText(
            box.adjusted(0, 0, -10, 0), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, str(frame)
        )

    def head(self, p: QPainter, layout: SheetLayout, title: str, facts: str, width: float) -> None:
        """The action's name over the sheet, and the column headings."""
        theme = self.theme
        p.fillRect(QRectF(0, 0, width, HEAD), theme.colour("paper"))
        p.setFont(theme.bold(17))
        p.setPen(theme.colour("ink"))
        name = elided(title, theme.bold(17), width * 0.55)
        p.drawText(QRectF(14, 4, width * 0.55, 30), Qt.AlignmentFlag.AlignVCenter, name)
        used = p.fontMetrics().horizontalAdvance(name) + 24
        p.setFont(theme.font(13))
        p.setPen(theme.colour("ink_soft"))
        p.drawText(QRectF(used, 5, width - used - 8, 30), Qt.AlignmentFlag.AlignVCenter,
                   elided(facts, theme.font(13), width - used - 8))  # fmt: skip
        p.setPen(theme.pen("hair", 1.0))
        p.drawLine(QPointF(0, 35), QPointF(width, 35))
        p.setFont(theme.font(12))
        p.setPen(theme.colour("ink_soft"))
        for name, words, _, _, _ in COLUMNS:
            left, wide = layout.columns[name]
            p.drawText(QRectF(left + 5, 36, wide - 4, 17), Qt.AlignmentFlag.AlignVCenter, words)
        p.setPen(theme.pen("hair_strong", 1.0))
        p.drawLine(QPointF(0, HEAD - 0.5), QPointF(width, HEAD - 0.5))
