"""The game's window: plain figures from the side, keys for the first fighter."""

from __future__ import annotations

import asyncio
import sys
import threading
from typing import Any

from PySide6.QtCore import QPointF, Qt, QTimer
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QApplication, QWidget

from game.loop import Loop

METRE = 130.0
"""Pixels a metre."""
STICK = {
    Qt.Key.Key_Left: (-1.0, 0.0),
    Qt.Key.Key_Right: (1.0, 0.0),
    Qt.Key.Key_Up: (0.0, -1.0),
    Qt.Key.Key_Down: (0.0, 1.0),
}
INKS = ("#2f3b52", "#8a3b2e", "#3d6b4a", "#6b5a2e")


class Stage(QWidget):
    """Who fights, as lines between joints; what plays and what the game has, in words."""

    def __init__(self, loop: Loop) -> None:
        super().__init__()
        self.loop = loop
        self.held: set[Any] = set()
        self.setWindowTitle(f"{loop.running.project} runs")
        self.resize(760, 420)
        self.timer = QTimer(self)
        self.timer.timeout.connect(self.update)
        self.timer.start(16)

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.fillRect(self.rect(), QColor("#e9eef0"))
        floor = self.height() - 60
        p.setPen(QPen(QColor("#9aa7ab"), 2))
        p.drawLine(0, floor, self.width(), floor)
        bout = self.loop.running.bout
        middle = sum(f.position[0] for f in bout.fighters) / max(len(bout.fighters), 1)
        for n, f in enumerate(bout.fighters):
            self._figure(p, f, QColor(INKS[n % len(INKS)]), middle, floor)
        running = self.loop.running
        p.setPen(QColor("#30383b"))
        lines = [f"{running.project} · {running.version} · tick {bout.now}{' · stopped' if running.stopped else ''}"]
        lines += [f"{f.name}: {f.health:g} · {', '.join(q.action.name for q in f.live()) or f.steps[-1].state}"
                  for f in bout.fighters]  # fmt: skip
        for row, words in enumerate(lines):
            p.drawText(14, 24 + 20 * row, words)

    def _figure(self, p: QPainter, f: Any, ink: QColor, middle: float, floor: float) -> None:
        from math import cos, radians, sin

        turn = radians(f.facing)
        places = []
        for _, (x, y, z) in list(f.joints):
            wide = x * cos(turn) + z * sin(turn)
            places.append(QPointF(self.width() / 2 + (f.position[0] + wide - middle) * METRE,
                                  floor - (f.position[1] + y) * METRE))  # fmt: skip
        p.setPen(QPen(ink, 5, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        for joint, parent in enumerate(f.export.figure.parents):
            if parent > 0 and joint < len(places):
                p.drawLine(places[parent], places[joint])

    # Keys

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not event.isAutoRepeat():
            self._key(event.key(), True)

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        if not event.isAutoRepeat():
            self._key(event.key(), False)

    def _key(self, key: Any, down: bool) -> None:
        bout = self.loop.running.bout
        if not bout.fighters:
            return
        name = bout.fighters[0].name
        if key in STICK:
            (self.held.add if down else self.held.discard)(key)
            x = sum(STICK[k][0] for k in self.held)
            z = sum(STICK[k][1] for k in self.held)
            self.loop.pressed.append(
                {"fighter": name, "axis": "move", "value": [max(min(x, 1), -1), max(min(z, 1), -1)]}
            )
            return
        letter = chr(key) if 0 < int(key) < 128 else ""
        for command, row in self.loop.running.export.commands.items():
            if letter and letter in row["keys"]:
                self.loop.pressed.append({"fighter": name, "command": command, "press": down})


def show(loop: Loop, port: int) -> None:
    """The window, with the loop beside it."""
    app = QApplication(sys.argv[:1])
    stage = Stage(loop)
    beside = threading.Thread(target=lambda: asyncio.run(loop.run(port)), daemon=True)
    beside.start()
    stage.show()
    app.exec()
    loop.over = True
    beside.join(2.0)
