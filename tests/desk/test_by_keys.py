"""Every deed of every bench is done by its keys, each as the table of commands has it, in the real window."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest
from PySide6.QtCore import QEvent, Qt
from PySide6.QtGui import QKeyEvent, QKeySequence
from PySide6.QtWidgets import QApplication, QDialog, QFileDialog, QInputDialog, QWidget

from tests.desk.conftest import STRIKE, at_rest
from veergust.core.edit.reactions import set_reaction
from veergust.desk.ground.slider import Slider
from veergust.desk.keys.table import TABLE
from veergust.desk.sheet.pages import TITLES
from veergust.desk.shell.window import Window
from veergust.desk.stage.view import StageView


def sheet(window: Window) -> QWidget:
    window.show_bench("Sheet")
    window.document.choose_action("Low sweep")
    window.document.select(STRIKE)
    window.document.move_to(10)
    return window.sheet.sheet


def now(window: Window) -> QWidget:
    sheet(window)
    window.sheet.show_page(0)
    return window.sheet.now


def floor(window: Window) -> QWidget:
    sheet(window)
    window.sheet.show_page(TITLES.index("Touches"))
    view = window.sheet.page_stack.touches.view
    view.choose((8, 12))
    return view


def dial(window: Window) -> QWidget:
    sheet(window)
    window.sheet.show_page(TITLES.index("Reactions"))
    view = window.sheet.page_stack.reactions.dial
    window.document.apply(set_reaction(window.document.project, view.hit(), "Flinch"))
    return view


def clips(window: Window) -> QWidget:
    window.show_bench("Clips")
    window.document.choose_clip("staff_sweep")
    window.clips.playhead.move_to(20)
    window.clips.playhead.select(10, 30)
    return window.clips.film


def pose(window: Window) -> QWidget:
    film = clips(window)
    window.clips.show_card(7)
    window.clips.pose.key_here()
    return film


def ground(window: Window) -> QWidget:
    window.show_bench("Ground")
    window.ground.selection.choose("walk")
    return window.ground.chart


def drive(window: Window) -> QWidget:
    window.show_bench("Ground")
    return window.ground.live


def slider(window: Window) -> QWidget:
    window.show_bench("Ground")
    window.ground.show_page(0)
    QApplication.processEvents()
    return next(s for s in window.ground.findChildren(Slider) if s.isVisible())


def layers(window: Window) -> QWidget:
    window.show_bench("Layers")
    window.layers.selection.choose("Arms")
    return window.layers.stack


def mask(window: Window) -> QWidget:
    layers(window)
    window.layers.selection.choose_joint(3)
    return window.layers.masks.table


def spar(window: Window) -> QWidget:
    window.show_bench("Spar")
    window.spar.hold()
    for _ in range(80):
        window.spar.session.tick()
    return window.spar


def take(window: Window) -> QWidget:
    return spar(window).strip  # type: ignore[attr-defined]


def stage(window: Window) -> QWidget:
    sheet(window)
    return next(s for s in window.sheet.findChildren(StageView) if s.isVisible())


def actions(window: Window) -> QWidget:
    sheet(window)
    window.document.choose_action("Cover")
    return window.sheet.list


def first(window: Window) -> QWidget:
    window.show_first()
    return window.first


WHERE: dict[str, Callable[[Window], QWidget]] = {
    "first": first, "actions": actions, "sheet": sheet, "now": now, "floor": floor, "dial": dial, "clips": clips, "pose": pose, "ground": ground,
    "slider": slider, "stage": stage, "take": take, "drive": drive, "layers": layers, "mask": mask, "spar": spar,
}  # fmt: skip
ELSEWHERE = {
    "everywhere": "test_commands.py",
    "mapping": "test_clips.py",
    "cells": "test_drawn.py",
    "field": "test_few_inputs.py",
    "list": "test_from_nothing.py",
    "together": "test_few_inputs.py",
}
"""Where the keys of a place are pressed that this test does not come to."""
NOT_HERE = {"escape", "let_go", "remove_action", "next_span"}
"""Commands of which one key does nothing in the state this test makes, and which others press."""

IN_A_CELL = {"next_rule", "unfold_states"}
"""Those of the layers that are about what one does in a state."""


def press(widget: QWidget, keys: str) -> bool:
    """Whether somebody answers keys that are pressed where a widget has the focus."""
    combination: Any = QKeySequence(keys)[0]  # type: ignore[index]
    sign = keys.rpartition("+")[2] or "+"
    text = sign.lower() if len(sign) == 1 else ""
    answered = False
    for kind in (QEvent.Type.KeyPress, QEvent.Type.KeyRelease):
        event = QKeyEvent(kind, combination.key(), combination.keyboardModifiers(), text)
        QApplication.sendEvent(widget, event)
        answered |= kind == QEvent.Type.KeyPress and event.isAccepted()
    return answered


def test_every_place_is_come_to() -> None:
    assert {c.where for c in TABLE} == set(WHERE) | set(ELSEWHERE)


@pytest.mark.parametrize("where", WHERE)
def test_every_command_of_a_place_is_done_by_each_of_its_keys(
    window: Window, where: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(QDialog, "exec", lambda _: QDialog.DialogCode.Rejected)
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("", False))
    monkeypatch.setattr(QFileDialog, "getOpenFileNames", lambda *_: ([], ""))
    for command in (c for c in TABLE if c.where == where and c.name not in NOT_HERE):
        for keys in command.keys:
            widget = WHERE[where](window)
            if command.name == "other_clip":
                widget = window.clips.library
            widget.setFocus(Qt.FocusReason.TabFocusReason)
            if command.name in IN_A_CELL:
                press(widget, "Right")
            assert press(widget, keys), (command.name, keys)
            assert not press(widget, "F24"), "what nobody knows is answered by nobody"
            at_rest(window)
            while window.document.done:
                window.document.undo()
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    assert window.findChildren(QDialog) == [], "what was asked is let go"
