"""The Sheet bench put together: list, sheet, stage, Now card, facts strip, and playing the open action."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QElapsedTimer, QSize, Qt
from PySide6.QtGui import QKeyEvent, QResizeEvent
from PySide6.QtWidgets import (
    QHBoxLayout,
    QPushButton,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from veergust.core.play import Preview
from veergust.core.scene import Camera, Scene, action_scene, body_at, standing_scene
from veergust.desk.document.document import Document
from veergust.desk.frame.bench import Bench, Desk
from veergust.desk.frame.empty import BRING, NO_CLIPS, Nothing
from veergust.desk.frame.folding import FoldingSide
from veergust.desk.keys.pressing import BACK, pressed
from veergust.desk.keys.table import keys_of, on_key
from veergust.desk.look.theme import Theme
from veergust.desk.running.frame_timer import FrameTimer
from veergust.desk.sheet import making
from veergust.desk.sheet.actions import ActionList
from veergust.desk.sheet.cards.page import Page
from veergust.desk.sheet.drawing import DrawRow
from veergust.desk.sheet.facts_strip import FactsStrip
from veergust.desk.sheet.hit_tool import HitTool
from veergust.desk.sheet.now_card import NowCard
from veergust.desk.sheet.overview import Overview
from veergust.desk.sheet.pages import TITLES, SheetPages
from veergust.desk.sheet.view import SheetView
from veergust.desk.stage.panel import StagePanel
from veergust.desk.widgets.buttons import speed_buttons, word_button

__all__ = ["SheetBench"]

VERSIONS, TOUCHES = TITLES.index("Versions"), TITLES.index("Touches")
NO_ACTION = Nothing(
    "No action yet",
    "An action is made of a clip: its frames stand down this page, with the strike, the exits and all that it does.",
    (("new_action", "New action…"), BRING),
)
LIST_WIDTH = 196
FULL = 1240
"""In a narrower window (px) the list of actions lies over the sheet when it is wanted."""

PAUSE_AT_END = 0.4


class SheetBench(Bench):
    """Where an action is looked at, changed and played."""

    def __init__(self, document: Document, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.document = document
        self.theme = theme
        self.list = ActionList(document, theme)
        self.sheet = SheetView(document, theme)
        self.stage = StagePanel(
            theme,
            "Stage",
            ("skins", "sweep", "path", "body", "hurtboxes", "events"),
            ("skins", "sweep", "path", "events"),
        )
        self.stage.view.camera = Camera(target=(0.86, 0.84, 0.0), yaw=-12.0, pitch=9.0, distance=5.0)
        self.now = NowCard(document, theme)
        self.page_stack = SheetPages(document, theme, self.now, self._page_made)
        handles = HitTool(document, theme, self.page_stack.choose_box)
        self.drawing = DrawRow(document, theme, self.stage, handles)
        self.page_buttons: list[QPushButton] = []
        self.facts = FactsStrip(document, theme)
        self.speed = 1.0
        self.play_button = word_button("▸ play", "Play the action over and over (Space)", strong=True)
        self.play_button.clicked.connect(self.toggle_play)
        self.alone_button = word_button("alone", "Play only the section under the playhead, over and over",
                                        checkable=True)  # fmt: skip
        self.alone_button.clicked.connect(self.stop)
        self.once_button = word_button("once", "Play to the end and stop there, not over and over", checkable=True)
        self.stage.foot.addWidget(self.alone_button)
        self.stage.foot.addWidget(self.once_button)
        self.release_button = word_button("let go", "Leave the loop that plays, at its gate (U)", strong=True)
        self.release_button.clicked.connect(self.release)
        self.release_button.hide()
        speed_buttons(self.stage.foot, self._set_speed)
        self.stage.foot.addWidget(self.release_button)
        self.stage.foot.addWidget(self.play_button)
        self.new_button = word_button("+ New action", "Make an action from a clip (Ctrl+Shift+N)", strong=True)
        self.new_button.clicked.connect(self.make_action)
        self.like_button = word_button("like this one", "A new action like the open one, to be changed (Ctrl+Shift+L)")
        self.like_button.clicked.connect(self.make_like)
        self.together_button = word_button("put together…", f"As a string, or by chance ({keys_of('put_together')[0]})")
        self.together_button.clicked.connect(self.put_together)
        self.list.remove_wanted.connect(self.remove)
        self.list.like_wanted.connect(self.make_like)
        for button in self.stage.switches.values():
            button.clicked.connect(self.show_frame)
        self.stage.follow_button.clicked.connect(self.show_frame)
        self.timer = FrameTimer(self)
        self.timer.timeout.connect(self._tick)
        self.clock = QElapsedTimer()
        self._due = 0.0
        self._done = 0
        self.preview: Preview | None = None
        self._lay_out()
        self.sheet.dragging.connect(self._dragging)
        document.changed.connect(self.show_frame)
        document.frame_moved.connect(self.show_frame)
        for signal in (document.changed, document.frame_moved, document.selection_changed):
            signal.connect(self._renew_page)
        self.sheet.details_wanted.connect(self.open_span)
        self.sheet.put.connect(lambda: self.show_page(1))
        self.sheet.pages = self.page_stack
        self.show_frame()

    def _page_made(self, page: Page) -> None:
        if page.title == TITLES[VERSIONS]:
            self.page_stack.versions.compared.connect(self.show_frame)
        elif page.title == TITLES[TOUCHES]:
            self.page_stack.touches.stood.connect(self.show_frame)

    def _lay_out(self) -> None:
        self.splitter = QSplitter(Qt.Orientation.Horizontal, self)
        side = QWidget(self)
        side.setObjectName("side")
        side.setFixedWidth(LIST_WIDTH)
        left = QVBoxLayout(side)
        left.setContentsMargins(0, 0, 0, 0)
        left.setSpacing(0)
        left.addWidget(self.list, 1)
        new = QVBoxLayout()
        new.setContentsMargins(12, 0, 0, 0)
        new.setSpacing(0)
        new.addWidget(self.new_button, 0, Qt.AlignmentFlag.AlignLeft)
        new.addWidget(self.like_button, 0, Qt.AlignmentFlag.AlignLeft)
        new.addWidget(self.together_button, 0, Qt.AlignmentFlag.AlignLeft)
        left.addLayout(new)
        left.setContentsMargins(0, 0, 0, 8)
        self.splitter.addWidget(self.sheet)
        right = QSplitter(Qt.Orientation.Vertical, self.splitter)
        right.addWidget(self.stage)
        right.addWidget(self._pages(right))
        right.setSizes([410, 290])
        right.setChildrenCollapsible(False)
        self.sheet.setMinimumWidth(570)
        self.splitter.setSizes([640, 444])
        self.splitter.setStretchFactor(0, 0)
        self.splitter.setStretchFactor(1, 1)
        self.splitter.setChildrenCollapsible(False)
        self.right_splitter = right
        self.overview = Overview(self.document, self.theme, self.sheet)
        self.side = FoldingSide(self, side, "actions", (self.overview,), FULL)
        middle = self.side.row
        middle.addWidget(self.overview)
        middle.addWidget(self.splitter, 1)
        self.list.picked.connect(self.side.put_away)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addLayout(middle, 1)
        box.addWidget(self.facts)
        for splitter in (self.splitter, self.right_splitter):
            splitter.setHandleWidth(2)

    def _pages(self, parent: QWidget) -> QWidget:
        """The Now card and the pages of fields, under the words that open them."""
        words = QHBoxLayout()
        words.setContentsMargins(10, 4, 8, 0)
        words.setSpacing(6)
        for i, name in enumerate(TITLES):
            button = word_button(name, f"The {name} page", checkable=True)
            button.setObjectName("page")
            button.clicked.connect(lambda _=False, n=i: self.show_page(n))
            words.addWidget(button)
            self.page_buttons.append(button)
        words.addStretch(1)
        out = QWidget(parent)
        box = QVBoxLayout(out)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addLayout(words)
        box.addWidget(self.page_stack, 1)
        self.show_page(0)
        return out

    def show_page(self, index: int) -> None:
        """Open the Now card or a page of fields, by its place."""
        self.page_stack.show_page(index)
        for i, button in enumerate(self.page_buttons):
            button.setChecked(i == index)
        self._renew_page()
        if self.page_stack.there(TOUCHES):
            self.show_frame()

    def _renew_page(self) -> None:
        page = self.page_stack.currentWidget()
        if isinstance(page, Page):
            page.renew()

    def open_span(self) -> None:
        """Open the page of the selected span with the keys in its first field."""
        self.show_page(1)
        self.page_stack.span.focus_first()

    def show_frame(self) -> None:
        """Show the open frame on the stage."""
        compiled = self.document.compiled
        if compiled is None or not compiled.path:
            self.stage.view.show_scene(partial(standing_scene, self.document.build), self.document.mesh)
            return
        if self.stage.follow_button.isChecked() and compiled.path:
            at = body_at(compiled, self.document.frame)[:3, 3]
            camera = self.stage.view.camera
            target = (float(at[0]), camera.target[1], float(at[2]))
            self.stage.view.camera = Camera(target, camera.yaw, camera.pitch, camera.distance, camera.lens)
        self.stage.view.show_scene(self._scene, self.document.mesh)

    def _scene(self) -> Scene:
        compiled = self.document.compiled
        if compiled is None:
            return Scene()
        versions = self.page_stack.versions if self.page_stack.there(VERSIONS) else None
        compares = versions is not None and versions.compare.isChecked()
        other = self.document.derived.version(versions.chosen) if versions is not None and compares else None
        struck = self.page_stack.touches.standing() if self.page_stack.there(TOUCHES) else None
        build, shown = self.document.build, self.stage.shown()
        beside = other[0] if other else None
        return action_scene(build, compiled, self.document.frame, shown, other=beside, struck=struck)

    def _dragging(self, on: bool) -> None:
        """What moves is drawn fast, what stands still finely."""
        self.stage.view.moving = on or self.playing
        self.stage.view.update()

    # Playing

    @property
    def playing(self) -> bool:
        """Whether the action is being played."""
        return self.timer.isActive()

    def toggle_play(self) -> None:
        """Play from the playhead, or stop."""
        if self.playing:
            self.stop()
        elif self.document.compiled is not None and self.document.compiled.order:
            compiled = self.document.compiled
            row = self.document.frame
            alone = self.alone_button.isChecked()
            at_end = row >= compiled.rows - 1 or (row == compiled.total - 1 and not alone)
            section, tick = compiled.locate(0 if at_end else row)
            self.preview = Preview(compiled, section, 0 if alone else tick, alone)
            self._due, self._done = 0.0, 0
            self.clock.start()
            self.timer.start()
            self.stage.view.moving = True
            self.play_button.setText("■ stop")
            self._show_release()

    def stop(self) -> None:
        """Stop playing."""
        self.timer.stop()
        self.preview = None
        self.stage.view.moving = False
        self.stage.view.update()
        self.play_button.setText("▸ play")
        self._show_release()

    def release(self) -> None:
        """Let go of the loop that is played: it is left at its gate."""
        if self.preview is not None:
            self.preview.released = True
            self._show_release()

    def _show_release(self) -> None:
        held = self.preview is not None and self.preview.looping and not self.preview.released
        self.release_button.setVisible(held)
        self.alone_button.setVisible(not held)
        self.once_button.setVisible(not held)

    def _set_speed(self, speed: float) -> None:
        if self.playing:
            self._due = self._along()
            self.clock.restart()
        self.speed = speed

    def _along(self) -> float:
        return self._due + self.clock.elapsed() / 1000 * self.document.project.settings.rate * self.speed

    def _tick(self) -> None:
        compiled, preview = self.document.compiled, self.preview
        if compiled is None or preview is None or not compiled.order:
            self.stop()
            return
        if preview.compiled is not compiled:
            # It was changed while it plays: go on from the same place in what there is now.
            section = min(preview.section, len(compiled.sections) - 1)
            tick = min(preview.tick, compiled.sections[section].ticks - 1)
            preview = self.preview = Preview(compiled, section, tick, preview.alone, preview.released)
        due = self._along()
        once = self.once_button.isChecked()
        while self._done + 1 <= due and not preview.over:
            lap, row = preview.laps, preview.row
            self.document.sounds.hear([e.name for e in preview.step() if e.kind == "sound"])
            self._done += 1
            if once and (preview.over or (preview.alone and preview.laps > lap)):
                self.document.move_to(row)
                self.stop()
                return
        if preview.over and due > self._done + PAUSE_AT_END * self.document.project.settings.rate:
            self.preview = preview = Preview(compiled, compiled.entry)
            self._due, self._done = 0.0, 0
            self.clock.restart()
        self.document.move_to(preview.row)
        self._show_release()

    def enter(self) -> None:
        self.sheet.setFocus()

    def leave(self) -> None:
        self.stop()

    def splitters(self) -> dict[str, QSplitter]:
        return {"across": self.splitter, "right": self.right_splitter}

    def key(self, event: QKeyEvent) -> bool:
        """Keys that hold for the whole bench; true when one was used."""
        keys = pressed(event)
        act = self.acts().get(on_key("sheet", keys))
        if act is None:
            return False
        act(keys)
        return True

    def acts(self) -> dict[str, Callable[[str], object]]:
        """What each command of the bench does; it is told by which of its keys."""
        return {
            "play": lambda keys: {"Space": self.toggle_play, "K": self.stop, "L": self.play}[keys](),
            "step": lambda keys: self.step(-1 if keys in BACK else 1),
            "let_go": lambda _: self.release(),
        }

    def play(self) -> None:
        """Play, if it does not yet."""
        if not self.playing:
            self.toggle_play()

    def step(self, by: int) -> None:
        """Some frames on or back, standing still."""
        self.stop()
        self.document.move_to(self.document.frame + by)

    def remove(self) -> None:
        """Remove the open action."""
        making.remove(self.document, self)

    def make_like(self) -> None:
        """A new action like the open one."""
        making.make_like(self.document)

    def make_action(self) -> None:
        """Make an action of each clip the person chooses, and show the first."""
        clips = making.ask_clips(self.document, self)
        if clips:
            self.desk.make_actions(clips)

    def things(self) -> tuple[list[str], Callable[[str], object]]:
        return [a.name for a in self.document.project.actions], self.document.choose_action

    def fold_side(self) -> None:
        """The list of actions away, or back."""
        self.side.turn()
        (self.list if self.side.is_shown else self.sheet).setFocus()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.side.fit()

    def minimumSizeHint(self) -> QSize:
        return QSize(1010, super().minimumSizeHint().height())

    def put_together(self) -> None:
        """Put actions together on a command."""
        making.put_together(self.document, self)

    def attach(self, window: Desk) -> None:
        self.desk = window

    def nothing(self) -> Nothing | None:
        project = self.document.project
        if project.actions:
            return None
        return NO_ACTION if project.clips else NO_CLIPS
