"""Speed and height of the root over the clip, on the film's own frames."""

from __future__ import annotations

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import Qt
from PySide6.QtGui import QResizeEvent, QShowEvent
from PySide6.QtWidgets import QLabel, QVBoxLayout, QWidget

from veergust.desk.clips.film import LEFT, RIGHT
from veergust.desk.clips.playhead import Playhead
from veergust.desk.document import Document
from veergust.desk.theme import Theme


class Curves(QWidget):
    """Two curves one over the other: speed over the floor (m/s) and height of the hips (m)."""

    def __init__(self, document: Document, theme: Theme, playhead: Playhead) -> None:
        super().__init__()
        self.document = document
        self.theme = theme
        self.playhead = playhead
        self.setAccessibleName("Speed and height")
        self.view = pg.GraphicsLayoutWidget()
        self.view.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.view.ci.layout.setContentsMargins(0, 0, RIGHT, 0)
        self.view.ci.layout.setSpacing(2)
        self.plots = [self._plot(row) for row in range(2)]
        self.lines = [plot.plot([], []) for plot in self.plots]
        self.heads = [pg.InfiniteLine(angle=90) for _ in self.plots]
        self.used = [pg.LinearRegionItem(movable=False) for _ in self.plots]
        for plot, head, used in zip(self.plots, self.heads, self.used):
            used.setZValue(-10)
            plot.addItem(used)
            plot.addItem(head)
            plot.scene().sigMouseClicked.connect(self._clicked)
        self.words = [QLabel(words, self) for words in ("speed\nm/s", "hips\nm")]
        for label in self.words:
            label.setObjectName("note")
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 4)
        box.addWidget(self.view)
        for signal in (document.changed, document.clip_chosen):
            signal.connect(self.renew)
        playhead.moved.connect(self._moved)
        theme.changed.connect(self.restyle)
        self.restyle()
        self.renew()

    def _plot(self, row: int) -> pg.PlotItem:
        plot = self.view.addPlot(row=row, col=0)
        plot.setMenuEnabled(False)
        plot.setMouseEnabled(False, False)
        plot.hideButtons()
        plot.getAxis("left").setWidth(LEFT)
        plot.hideAxis("bottom")
        plot.getViewBox().setDefaultPadding(0.0)
        return plot

    def restyle(self) -> None:
        """The theme's colours."""
        look = self.theme.look
        self.view.setBackground(look.paper)
        for plot, line, head, used, role in zip(self.plots, self.lines, self.heads, self.used, ("drive", "hold")):
            line.setPen(pg.mkPen(look.role(role).ink, width=2))
            head.setPen(pg.mkPen(look.accent, width=2))
            used.setBrush(pg.mkBrush(look.selected))
            for edge in used.lines:
                edge.setPen(pg.mkPen(look.hair_strong, width=1))
            axis = plot.getAxis("left")
            axis.setPen(pg.mkPen(look.hair_strong))
            axis.setTextPen(pg.mkPen(look.ink_soft))
            axis.setTickFont(self.theme.font(11))
            axis.enableAutoSIPrefix(False)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        for i, label in enumerate(self.words):
            label.move(12, 4 + i * (self.height() - 4) // 2)
            label.raise_()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.renew()

    def renew(self) -> None:
        """Draw the open clip's curves, if they are seen."""
        if not self.isVisible():
            return
        reading = self.playhead.reading
        if reading is None:
            for line in self.lines:
                line.setData([], [])
            return
        frames = np.arange(len(reading.times))
        first, last = self.playhead.used()
        for plot, line, used, values in zip(self.plots, self.lines, self.used, (reading.speed, reading.height)):
            line.setData(frames, values)
            plot.setXRange(0, max(len(frames) - 1, 1), padding=0)
            low, high = float(min(values.min(), 0.0)), float(max(values.max(), 0.5))
            plot.setYRange(low, high * 1.12, padding=0)
            used.setRegion((first, last))
        self._moved()

    def _moved(self) -> None:
        for head in self.heads:
            head.setValue(self.playhead.frame)

    def _clicked(self, event: object) -> None:
        at = self.plots[0].getViewBox().mapSceneToView(event.scenePos())  # type: ignore[attr-defined]
        self.playhead.step(0)
        self.playhead.move_to(round(at.x()))
