"""The pads that are plugged in and whose they are, how their sticks answer, and a pad on the screen."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from veergust.desk.frame.driving import Driver
from veergust.desk.look.theme import Theme
from veergust.desk.pads.simulated import SimulatedPad
from veergust.desk.widgets.accessible import ToldRow
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.fields import Form, NumberField, heading, note
from veergust.desk.widgets.rows import buttons, switch

SIZE, KNOB = 92, 16


class StickField(QWidget):
    """A stick that is dragged with the mouse and springs back."""

    def __init__(self, pad: SimulatedPad, theme: Theme) -> None:
        super().__init__()
        self.pad, self.theme = pad, theme
        self.at = QPointF(0.0, 0.0)
        self.setFixedSize(SIZE, SIZE)
        self.setAccessibleName("Stick")
        self.setToolTip("Drag it; it springs back")

    def told(self) -> list[ToldRow]:
        """Where it lies, for who hears it."""
        return [ToldRow("stick", f"{self.at.x():+.1f} across, {self.at.y():+.1f} down", QRectF(self.rect()))]

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setPen(self.theme.pen("hair", 2.0))
        p.setBrush(self.theme.colour("paper_side"))
        middle, far = QPointF(SIZE / 2, SIZE / 2), SIZE / 2 - 4
        p.drawEllipse(middle, far, far)
        p.setBrush(self.theme.colour("ink_soft"))
        p.setPen(Qt.PenStyle.NoPen)
        p.drawEllipse(middle + self.at * (far - KNOB / 2), KNOB, KNOB)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._move(event.position())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._move(event.position())

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._move(QPointF(SIZE / 2, SIZE / 2))

    def _move(self, at: QPointF) -> None:
        off = (at - QPointF(SIZE / 2, SIZE / 2)) / (SIZE / 2 - KNOB)
        far = max((off.x() ** 2 + off.y() ** 2) ** 0.5, 1.0)
        self.at = off / far
        self.pad.move(self.at.x(), self.at.y())
        self.update()


class PadOnScreen(QWidget):
    """A simulated pad under the mouse."""

    def __init__(self, pad: SimulatedPad, theme: Theme) -> None:
        super().__init__()
        self.stick = StickField(pad, theme)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.stick)
        grid = QGridLayout()
        grid.setSpacing(2)
        row.addLayout(grid)
        self.buttons = {}
        places = {"left shoulder": (0, 0), "north": (0, 1), "right shoulder": (0, 2), "west": (1, 0), "east": (1, 2),
                  "left trigger": (2, 0), "south": (2, 1), "right trigger": (2, 2)}  # fmt: skip
        for name, (line, column) in places.items():
            button = word_button(name.split()[-1], f"pad {name}")
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            button.setObjectName("switch")
            button.setMinimumWidth(50)
            button.pressed.connect(partial(pad.press, name))
            button.released.connect(partial(pad.press, name, False))
            grid.addWidget(button, line, column)
            self.buttons[name] = button


class WhichPads(QWidget):
    """A part of the page of commands."""

    def __init__(self, driver: Driver, theme: Theme) -> None:
        super().__init__()
        self.driver, self.pads = driver, driver.pads
        self.simulated = SimulatedPad(self.pads)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(6)
        box.addWidget(heading("Pads"))
        self.words = note()
        self.words.setWordWrap(True)
        box.addWidget(self.words)
        form = Form()
        self.dead = NumberField("Dead zone", self._set_dead, unit="", low=0.0, high=0.9, step=0.01, decimals=2,
                                tip="So much of the stick's way gives nothing")  # fmt: skip
        self.curve = NumberField("Curve", self._set_curve, unit="", low=0.3, high=4.0, step=0.1, decimals=1,
                                 tip="1: evenly; above it the stick is finer near its middle")  # fmt: skip
        form.row("Dead zone", self.dead)
        form.row("Curve", self.curve)
        box.addWidget(form)
        self.plug = switch("a pad on the screen", "A simulated pad, for who has none", self.plug_in)
        self.plug.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        box.addWidget(buttons(self.plug))
        self.on_screen = PadOnScreen(self.simulated, theme)
        self.on_screen.hide()
        box.addWidget(self.on_screen)
        self.pads.changed.connect(self.renew)

    def plug_in(self, plugged: bool) -> None:
        """Plug the simulated pad in, or pull it out."""
        if plugged:
            self.plug.setChecked(self.simulated.plug())
        else:
            self.simulated.unplug()
        self.on_screen.setVisible(self.simulated.plugged)

    def renew(self) -> None:
        """Say which there are, and whose."""
        rows = [f"{pad.name}: {self.driver.player_of(n).who() or 'nobody'}" for n, pad in enumerate(self.pads.there)]
        self.words.setText(self.pads.trouble or "\n".join(rows) or "None is plugged in.")
        self.dead.show_value(self.pads.dead)
        self.curve.show_value(self.pads.curve)
        self.plug.setEnabled(self.pads.sdl is not None)

    def _set_dead(self, value: float) -> None:
        self.pads.dead = value
        self.pads.keep()

    def _set_curve(self, value: float) -> None:
        self.pads.curve = value
        self.pads.keep()
