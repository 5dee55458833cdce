"""Locomotion as paper tags in bands, with arrows between; arranged by the program, changed in place."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from math import hypot

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QContextMenuEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPixmap,
    QPolygonF,
    QResizeEvent,
)
from PySide6.QtWidgets import QToolTip, QWidget

from veergust.core.kinds import sentence
from veergust.core.model import ANYWHERE, State
from veergust.core.motion import forward
from veergust.core.play import FighterState
from veergust.core.scene import Arrow, ChartLayout, Tag, lay_out
from veergust.core.study import Same
from veergust.desk.document.document import Document
from veergust.desk.ground.selection import GroundSelection
from veergust.desk.keys.pressing import pressed
from veergust.desk.keys.table import on_key
from veergust.desk.look.theme import Theme, elided, put_words, wide
from veergust.desk.widgets.accessible import ToldRow
from veergust.desk.widgets.inked import pose_pixmap

POSE = (40, 54)
AHEAD = {"Left": (-1.0, 0.0), "Right": (1.0, 0.0), "Up": (0.0, -1.0), "Down": (0.0, 1.0)}


class ChartView(QWidget):
    """The chart. ``joined`` is sent when an arrow was drawn from one tag to another with the mouse."""

    joined = Signal(str, str)
    wanted = Signal(str)

    def __init__(self, document: Document, theme: Theme, selection: GroundSelection) -> None:
        super().__init__()
        self.document, self.theme, self.selection = document, theme, selection
        self.folded: frozenset[str] = frozenset()
        self.layout_ = ChartLayout({}, (), (), (0.0, 0.0))
        self.present: FighterState | None = None
        self.acts: dict[str, Callable[[], object]] = {}
        self._poses: dict[tuple[object, ...], QPixmap] = {}
        self._laid: tuple[object, ...] = ()
        self._drawing: tuple[str, QPointF] | None = None
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("States and transitions")
        selection.changed.connect(self.update)
        theme.changed.connect(self._repose)

    def _repose(self) -> None:
        self._poses.clear()
        self.update()

    # Laying out

    def renew(self) -> None:
        """Lay the chart out again where it has changed."""
        key = (self.document.project.locomotion, self.width(), self.folded)
        if key == self._laid:
            return
        self._laid = key
        font = self.theme.font(12)
        self.folded = frozenset(g for g in self.folded if g in self.document.build.chart.groups)
        self.layout_ = lay_out(self.document.build.chart, float(self.width()), partial(wide, font=font), self.folded)
        across, down = self.layout_.size
        self.setMinimumSize(int(min(across, 4000)), int(down) + 4)
        self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.renew()

    def show_present(self, fighter: FighterState | None) -> None:
        """Mark the states that play."""
        self.present = fighter
        self.update()

    def fold(self, group: str) -> None:
        """Fold a group to its name, or unfold it."""
        self.folded = self.folded ^ {group}
        self.renew()

    def told(self) -> list[ToldRow]:
        """States and groups with where they lead, for who hears them."""
        there = self.document.project.locomotion.transitions
        out = []
        for tag in self.layout_.tags.values():
            ways = [t.to for t in there if t.start == tag.name]
            leads = f"leads to {', '.join(ways)}" if ways else "leads nowhere by itself"
            says = f"group, {leads}" if tag.group else leads
            out.append(ToldRow(tag.name, says, QRectF(*tag.rect), tag.name == self.selection.name))
        return out

    # Painting

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.fillRect(event.rect(), self.theme.colour("paper"))
        self._bands(p)
        if not self.layout_.tags:
            p.setPen(self.theme.pen("ink_soft"))
            p.setFont(self.theme.font(14))
            words = "No states yet. “usual set…” makes them of your clips, “+ state” makes one."
            p.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, words)
        self._arrows(p)
        for arrow in self.layout_.arrows:
            self._words(p, arrow)
        for tag in self.layout_.tags.values():
            self._tag(p, tag)
        if self._drawing is not None:
            start = self.layout_.tags.get(self._drawing[0])
            if start is not None:
                p.setPen(self.theme.pen("accent", 2.0, Qt.PenStyle.DashLine))
                p.drawLine(QPointF(*start.middle), self._drawing[1])
        p.end()

    def _bands(self, p: QPainter) -> None:
        for i, (words, top, foot) in enumerate(self.layout_.bands):
            rect = QRectF(0, top, self.width(), foot - top)
            if i % 2 == 0:
                p.fillRect(rect, self.theme.colour("paper_side"))
            p.setFont(self.theme.bold(12))
            p.setPen(self.theme.pen("ink_faint"))
            p.drawText(QPointF(12, top + 15), words)

    def _inks(self, arrow: Arrow) -> str:
        if arrow.place == self.selection.place:
            return "accent"
        taken = self.present.taken[-1:] if self.present is not None else ()
        now = self.present.locomotion[-1] if self.present is not None else None
        if taken and now is not None and taken[0].place == arrow.place and now.age <= now.blend + 12:
            return "accent"
        return "ink"

    def _arrows(self, p: QPainter) -> None:
        """All arrows: those that are meant in particular last, over the others."""
        there = self.document.project.locomotion.transitions
        rows: dict[str, list[Arrow]] = {"ink": [], "accent": []}
        for arrow in self.layout_.arrows:
            rows[self._inks(arrow)].append(arrow)
        for ink, arrows in rows.items():
            heads = QPainterPath()
            heads.setFillRule(Qt.FillRule.WindingFill)
            # Their lines go across and down: drawn without smoothing they are sharper, and in a fraction of the time.
            p.setRenderHint(QPainter.RenderHint.Antialiasing, False)
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.setPen(self.theme.pen(ink, 2.4 if ink == "accent" else 1.0))
            p.drawLines([QLineF(*a, *b) for arrow in arrows for a, b in zip(arrow.way, arrow.way[1:])])
            for arrow in arrows:
                heads.addPolygon(_head(arrow.way))
                if there[arrow.place].start == ANYWHERE:
                    heads.addEllipse(QPointF(*arrow.way[0]), 3.0, 3.0)
            p.setRenderHint(QPainter.RenderHint.Antialiasing)
            p.fillPath(heads, self.theme.colour(ink))

    def _words(self, p: QPainter, arrow: Arrow) -> None:
        rect = QRectF(*arrow.label)
        middle = rect.center().y()
        band = next((i for i, (_, top, foot) in enumerate(self.layout_.bands) if top <= middle < foot), 0)
        p.fillRect(rect.adjusted(1, 0, -1, 0), self.theme.colour("paper_side" if band % 2 == 0 else "paper"))
        chosen = arrow.place == self.selection.place
        p.setPen(self.theme.pen(self._inks(arrow)))
        put_words(p, rect, arrow.words, self.theme.bold(12) if chosen else self.theme.font(12), share=0.5)

    def _tag(self, p: QPainter, tag: Tag) -> None:
        rect = QRectF(*tag.rect)
        now = self.present.locomotion if self.present is not None else ()
        here = bool(now) and self._stands_for(tag, now[-1].state)
        chosen = tag.name == self.selection.name
        p.setBrush(self.theme.colour("selected" if chosen else "paper_bright"))
        p.setPen(self.theme.pen("accent" if chosen else "ink", 2.6 if here or chosen else 1.0))
        p.drawRoundedRect(rect, 4, 4)
        if tag.group:
            sign = "▸" if tag.folded else "▾"
            p.setPen(self.theme.pen("ink"))
            words = elided(f"{sign} {tag.name}", self.theme.bold(13), rect.width() - 14)
            put_words(p, rect.adjusted(8, 0, -6, 0), words, self.theme.bold(13))
        else:
            self._state(p, rect, self.document.build.chart.states[tag.name])
        if here and len(now) > 1:
            # How far its crossfade has come.
            share = min(now[-1].age / (now[-1].blend + 1), 1.0)
            line = QRectF(rect.left(), rect.bottom() + 3, rect.width(), 4)
            p.fillRect(line, self.theme.colour("hair"))
            p.fillRect(QRectF(line.left(), line.top(), line.width() * share, 4), self.theme.colour("accent"))

    def _stands_for(self, tag: Tag, state: str) -> bool:
        chart = self.document.build.chart
        if tag.group:
            return tag.folded and state in chart.around and chart.within(state, tag.name)
        return tag.name == state

    def _state(self, p: QPainter, rect: QRectF, state: State) -> None:
        pose = self._pose(state)
        if pose is not None:
            p.drawPixmap(QPointF(rect.left() + 2, rect.bottom() - POSE[1] - 3), pose)
        left = rect.left() + POSE[0] + 4
        room = rect.right() - left - 4
        bold = self.theme.bold(14)
        words, _, more = state.name.partition(" ") if wide(state.name, bold) > room else (state.name, "", "")
        line = QRectF(left, rect.top() + 6, room, 16)
        p.setPen(self.theme.pen("ink"))
        put_words(p, line, elided(words, bold, room), bold)
        if more:
            put_words(p, line.translated(0, 14), elided(more, bold, room), bold)
        p.setPen(self.theme.pen("ink_soft"))
        said = elided(self.says(state), self.theme.font(12), room)
        put_words(p, line.translated(0, 30 if more else 18), said, self.theme.font(12))

    def says(self, state: State) -> str:
        """What a state plays, in a word or two."""
        if state.action:
            return "action"
        if state.blend:
            speeds = [p.at[state.over.index("speed")] for p in state.blend if "speed" in state.over]
            return f"to {max(speeds):.1f} m/s" if speeds else f"{len(state.blend)} clips"
        clip = self.document.build.locomotion_clip(state.clip)
        how = state.plays if state.plays != "clip" else "loop" if clip.loop else "hold"
        return f"{'hold last' if how == 'hold' else how} {clip.seconds:.1f} s" if state.clip else "at rest"

    def _pose(self, state: State) -> QPixmap | None:
        mesh = self.document.mesh
        name = state.clip or (state.blend[-1].clip if state.blend else "")
        if state.action and (compiled := self.document.build.action(state.action)) is not None and compiled.sections:
            name = compiled.sections[0].cuts[0].cut.clip if compiled.sections[0].cuts else name
        if mesh is None:
            return None
        clip = self.document.build.locomotion_clip(name)
        key = (name, Same(clip), Same(mesh), self.devicePixelRatioF())
        if key not in self._poses:
            if len(self._poses) > 200:
                self._poses.clear()
            at = clip.at(0.28)
            joints = forward(clip.skeleton, at.rotation, at.translation)[0]
            ink = self.theme.colour("body")
            self._poses[key] = pose_pixmap(mesh, joints, POSE[0], POSE[1], ink, self.devicePixelRatioF())
        return self._poses[key]

    # Mouse

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            return
        self.setFocus()
        x, y = event.position().x(), event.position().y()
        tag = self.layout_.tag_at(x, y)
        if tag is not None:
            self.selection.choose(tag.name)
            self._drawing = (tag.name, event.position())
            return
        arrow = self.layout_.arrow_at(x, y)
        self.selection.choose_transition(arrow.place if arrow is not None else None)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._drawing is not None:
            self._drawing = (self._drawing[0], event.position())
            self.update()
            return
        arrow = self.layout_.arrow_at(event.position().x(), event.position().y())
        if arrow is not None and self.layout_.tag_at(event.position().x(), event.position().y()) is None:
            t = self.document.project.locomotion.transitions[arrow.place]
            start = "anywhere" if t.start == ANYWHERE else t.start
            words = f"{start} → {t.to}: {sentence(t.conditions) or 'at once'}, over {t.ticks} f"
            QToolTip.showText(event.globalPosition().toPoint(), words, self)
        else:
            QToolTip.hideText()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._drawing is None:
            return
        start, self._drawing = self._drawing[0], None
        self.update()
        tag = self.layout_.tag_at(event.position().x(), event.position().y())
        if tag is not None and tag.name != start:
            self.joined.emit(start, tag.name)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        tag = self.layout_.tag_at(event.position().x(), event.position().y())
        if tag is not None and tag.group:
            self._drawing = None
            self.fold(tag.name)
        elif tag is not None or self.selection.place is not None:
            self.selection.opened.emit()

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        event.ignore()

    # Keys

    def keyPressEvent(self, event: QKeyEvent) -> None:
        keys = pressed(event)
        if on_key("ground", keys) == "other_tag":
            self._go(AHEAD[keys])
        else:
            super().keyPressEvent(event)

    def _go(self, ahead: tuple[float, float]) -> None:
        """Choose the next tag in a direction."""
        tags = list(self.layout_.tags.values())
        here = self.layout_.tags.get(self.selection.name)
        if not tags:
            return
        if here is None:
            self.selection.choose(tags[0].name)
            return
        best, found = np.inf, None
        for tag in tags:
            dx, dy = tag.middle[0] - here.middle[0], tag.middle[1] - here.middle[1]
            along = dx * ahead[0] + dy * ahead[1]
            across = abs(dx * ahead[1]) + abs(dy * ahead[0])
            if along > 8.0 and along + 2.5 * across < best:
                best, found = along + 2.5 * across, tag
        if found is not None:
            self.selection.choose(found.name)


def _head(way: Sequence[tuple[float, float]]) -> QPolygonF:
    """The head of an arrow that ends where a way does."""
    (ax, ay), (bx, by) = way[-2], way[-1]
    size = hypot(bx - ax, by - ay) or 1.0
    ux, uy = (bx - ax) / size, (by - ay) / size
    back, side = QPointF(bx - 8 * ux, by - 8 * uy), QPointF(-uy, ux) * 3.6
    return QPolygonF([QPointF(bx, by), back + side, back - side, QPointF(bx, by)])
