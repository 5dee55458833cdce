"""The library: a row for each clip with its contact strip, length, travel and uses."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QPoint, QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QResizeEvent, QShowEvent
from PySide6.QtWidgets import QAbstractScrollArea

from veergust.core.files.reading import SPOKEN
from veergust.core.model import Clip
from veergust.core.study.lengths import length_and_travel
from veergust.desk.clips.strips import HIGH, WIDE, Order, StripMaker
from veergust.desk.document.document import Document
from veergust.desk.keys.pressing import BACK, pressed
from veergust.desk.keys.table import on_key
from veergust.desk.look.theme import Theme, elided
from veergust.desk.widgets.accessible import ToldRow

ROW, HEAD = 66, 26
SORTS = ("project", "name", "length", "travel", "uses")


@dataclass(frozen=True)
class Row:
    """A clip's row, or a heading when there is no clip."""

    top: int
    clip: Clip | None
    title: str = ""


@dataclass(frozen=True)
class LibraryEntry:
    """What a row says of a clip."""

    seconds: float
    frames: int
    travel: float
    uses: tuple[str, ...]


class Library(QAbstractScrollArea):
    """The clips of the project; ``opened`` tells which one the person chose."""

    opened = Signal(str)

    def __init__(self, document: Document, theme: Theme, strips: StripMaker) -> None:
        super().__init__()
        self.document = document
        self.theme = theme
        self.strips = strips
        self.text = ""
        self.sort = "project"
        self.rows: list[Row] = []
        self._entries: dict[str, tuple[object, LibraryEntry]] = {}
        self.setFrameShape(QAbstractScrollArea.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Clips")
        self.setMinimumHeight(ROW * 2)
        self.verticalScrollBar().setSingleStep(22)
        strips.made.connect(self._strip_made)
        document.changed.connect(self.renew)
        document.clip_chosen.connect(self.show_chosen)
        theme.changed.connect(self.viewport().update)
        self.renew()

    def entry(self, clip: Clip) -> LibraryEntry:
        """What a row says; kept until the clip or what uses it changes."""
        used = tuple(self.document.derived.users().get(clip.name, ()))
        mark = (clip, used, id(self.document.build.assets))
        kept = self._entries.get(clip.name)
        if kept is not None and kept[0] == mark:
            return kept[1]
        entry = _entry(self.document, clip, used)
        self._entries[clip.name] = (mark, entry)
        return entry

    def narrow(self, text: str) -> None:
        """Show clips whose name or tag holds a text."""
        self.text = text.strip().lower()
        self.renew()

    def open_first(self) -> None:
        """Open the first clip that is shown, unless the open one is among them, and take the keys."""
        names = [r.clip.name for r in self.rows if r.clip is not None]
        if names:
            if self.document.clip not in names:
                self.document.choose_clip(names[0])
            self.setFocus()

    def order_by(self, sort: str) -> None:
        """Sort by name, length, travel or uses, or as the project has them."""
        self.sort = sort
        self.renew()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.renew()
        self.show_chosen()

    def renew(self) -> None:
        """Lay the rows out anew, once somebody sees them."""
        if not self.isVisible():
            return
        used = self.document.derived.users()
        found = [
            c
            for c in self.document.project.clips
            if self.text in c.name.lower()
            or any(self.text in t.lower() for t in c.tags)
            or (self.text == "unused" and c.name not in used)
        ]
        self.rows, top = [], 0
        groups: dict[str, list[Clip]] = {}
        for clip in found:
            groups.setdefault(clip.tags[0] if clip.tags else "", []).append(clip)
        for title in sorted(groups, key=lambda t: (not t, t.lower())):
            if len(groups) > 1 or title:
                self.rows.append(Row(top, None, title or "no tag"))
                top += HEAD
            for clip in self._sorted(groups[title]):
                self.rows.append(Row(top, clip))
                top += ROW
        self.verticalScrollBar().setRange(0, max(0, top + 6 - self.viewport().height()))
        self.verticalScrollBar().setPageStep(max(self.viewport().height(), 1))
        self.viewport().update()

    def _sorted(self, clips: list[Clip]) -> list[Clip]:
        match self.sort:
            case "name":
                return sorted(clips, key=lambda c: c.name.lower())
            case "length":
                return sorted(clips, key=lambda c: -self.entry(c).seconds)
            case "travel":
                return sorted(clips, key=lambda c: -self.entry(c).travel)
            case "uses":
                return sorted(clips, key=lambda c: -len(self.entry(c).uses))
            case _:
                return clips

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.renew()
        self.show_chosen()

    def _strip_made(self, name: str) -> None:
        self.viewport().update()

    def show_chosen(self) -> None:
        """Scroll the open clip into sight."""
        row = next((r for r in self.rows if r.clip and r.clip.name == self.document.clip), None)
        if row is not None:
            bar, high = self.verticalScrollBar(), self.viewport().height()
            if row.top < bar.value():
                bar.setValue(row.top)
            elif row.top + ROW > bar.value() + high:
                bar.setValue(row.top + ROW - high)
        self.viewport().update()

    def row_at(self, y: int) -> Row | None:
        """The row under a height of the viewport."""
        at = y + self.verticalScrollBar().value()
        return next((r for r in self.rows if r.clip is not None and r.top <= at < r.top + ROW), None)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        row = self.row_at(event.position().toPoint().y())
        if row is not None and row.clip is not None:
            self.opened.emit(row.clip.name)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        names = [r.clip.name for r in self.rows if r.clip is not None]
        keys = pressed(event)
        if on_key("clips", keys) != "other_clip" or not names:
            super().keyPressEvent(event)
            return
        step = (8 if keys.startswith("Pg") else 1) * (-1 if keys in BACK else 1)
        at = names.index(self.document.clip) if self.document.clip in names else -step
        self.opened.emit(names[min(max(at + step, 0), len(names) - 1)])

    def point_of(self, name: str) -> QPoint:
        """The middle of a clip's row, in the viewport."""
        row = next(r for r in self.rows if r.clip is not None and r.clip.name == name)
        return QPoint(self.viewport().width() // 2, row.top + ROW // 2 - self.verticalScrollBar().value())

    def told(self) -> list[ToldRow]:
        """Its rows, for who hears them."""
        out = []
        for row in self.rows:
            top, wide = row.top - self.verticalScrollBar().value(), self.viewport().width()
            if row.clip is None:
                out.append(ToldRow(row.title, rect=QRectF(0, top, wide, HEAD), heading=True))
                continue
            says = self.entry(row.clip)
            value = f"{says.frames} frames, {says.seconds:.2f} s, used {len(says.uses)} times"
            chosen = row.clip.name == self.document.clip
            out.append(ToldRow(row.clip.name, value, QRectF(0, top, wide, ROW), chosen))
        return out

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self.viewport())
        theme, wide, high = self.theme, self.viewport().width(), self.viewport().height()
        p.fillRect(self.viewport().rect(), theme.colour("paper_side"))
        up = self.verticalScrollBar().value()
        for row in self.rows:
            top = row.top - up
            if top + ROW < 0 or top > high:
                continue
            if row.clip is None:
                p.setFont(theme.bold(12))
                p.setPen(theme.colour("ink_faint"))
                p.drawText(QRectF(14, top, wide - 28, HEAD), Qt.AlignmentFlag.AlignVCenter, row.title)
            else:
                self._row(p, row.clip, top, wide)
        if not self.rows:
            p.setFont(theme.font(13))
            p.setPen(theme.colour("ink_soft"))
            none = f"No clip is called “{self.text}”." if self.text else (
                f"No clips yet.\n\nDrop {SPOKEN} files on the window, or press Ctrl+I. The first file "
                "with a skeleton becomes the figure.")  # fmt: skip
            p.drawText(QRectF(16, 18, wide - 32, 160), Qt.TextFlag.TextWordWrap, none)

    def _row(self, p: QPainter, clip: Clip, top: int, wide: int) -> None:
        theme = self.theme
        chosen = clip.name == self.document.clip
        if chosen:
            p.fillRect(QRectF(0, top, wide, ROW - 1), theme.colour("selected"))
            p.fillRect(QRectF(0, top, 4, ROW - 1), theme.colour("ink" if self.hasFocus() else "hair_strong"))
        mesh = self.document.mesh
        if mesh is not None:
            order = Order(clip, self.document.build.assets, mesh, self.document.build.roots, theme.colour("ink"),
                          theme.colour("ink_faint"), self.devicePixelRatioF())  # fmt: skip
            strip = self.strips.strip(order)
            if strip is not None:
                p.drawImage(QPoint(8, top + (ROW - HIGH) // 2), strip)
        entry = self.entry(clip)
        left, room = WIDE + 12, wide - WIDE - 22
        p.setFont(theme.bold(14))
        p.setPen(theme.colour("ink"))
        p.drawText(QRectF(left, top + 6, room, 18), Qt.AlignmentFlag.AlignVCenter,
                   elided(clip.name, theme.bold(14), room))  # fmt: skip
        p.setFont(theme.font(12))
        p.setPen(theme.colour("ink_soft"))
        travel = f" · {entry.travel:.2f} m" if entry.travel >= 0.005 else ""
        p.drawText(QRectF(left, top + 24, room, 16), Qt.AlignmentFlag.AlignVCenter,
                   f"{entry.frames} f · {entry.seconds:.2f} s{travel}")  # fmt: skip
        if entry.uses:
            words = ", ".join(entry.uses)
            p.drawText(QRectF(left, top + 41, room, 16), Qt.AlignmentFlag.AlignVCenter,
                       elided(words, theme.font(12), room))  # fmt: skip
        else:
            p.setPen(theme.colour("warn"))
            p.drawText(QRectF(left, top + 41, room, 16), Qt.AlignmentFlag.AlignVCenter, "○ unused")
        p.setPen(theme.pen("hair", 1.0))
        p.drawLine(8, top + ROW - 1, wide - 8, top + ROW - 1)


def _entry(document: Document, clip: Clip, used: tuple[str, ...]) -> LibraryEntry:
    seconds, travel = length_and_travel(document.build.assets, clip, document.build.roots)
    return LibraryEntry(seconds, max(1, round(seconds * document.project.settings.rate)), travel, used)
