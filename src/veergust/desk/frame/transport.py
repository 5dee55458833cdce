"""The words under a stage that let time run, hold it and go through it frame by frame."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QPushButton

from veergust.desk.frame.timed import Timed
from veergust.desk.widgets.buttons import speed_buttons, word_button


def transport(
    stage: Timed, row: QHBoxLayout, tip: str, back: Callable[[], object], on: Callable[[], object], apart: int = 0
) -> tuple[QPushButton, ...]:
    """Put them into a row, ``apart`` (px) from the speeds: play or hold, a frame back, a frame on."""
    stage.play_button = word_button(stage.STOPPED, f"{tip} (Space)", strong=True)
    stage.play_button.clicked.connect(stage.toggle)
    steps = (word_button("◂ 1 f", "One frame back (comma)"), word_button("1 f ▸", "One frame on (full stop)"))
    for button, act in zip(steps, (back, on)):
        button.clicked.connect(act)
    for button in (stage.play_button, *steps):
        button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        row.addWidget(button)
    row.addSpacing(apart)
    speed_buttons(row, stage.set_speed)
    return (stage.play_button, *steps)
