"""The Clips bench put together: library, stage, film and curves, and the pages beside."""

from __future__ import annotations

from collections.abc import Callable
from typing import cast

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QSplitter, QVBoxLayout, QWidget

from veergust.core.edit import remove_clip
from veergust.core.files import editable_copy
from veergust.core.model import Rig
from veergust.core.motion import Array, Pose
from veergust.core.scene import FACING, Camera, ClipShown, Scene, body_on_stage, clip_stage, source_body
from veergust.core.trouble import Trouble
from veergust.desk.clips.asking import AskingPages
from veergust.desk.clips.cards.card import Card
from veergust.desk.clips.cards.clean import CleanCard
from veergust.desk.clips.cards.every import EveryCard, every_card
from veergust.desk.clips.cards.hurtboxes import HurtboxesCard
from veergust.desk.clips.cards.join import JoinCard
from veergust.desk.clips.cards.pose import PoseCard
from veergust.desk.clips.cards.prepare import PrepareCard
from veergust.desk.clips.cards.props import PropsCard
from veergust.desk.clips.cards.root import RootCard
from veergust.desk.clips.curves import Curves
from veergust.desk.clips.dial import FacingTool
from veergust.desk.clips.film import Film
from veergust.desk.clips.handles import MountTool, PoseTool
from veergust.desk.clips.library import Library
from veergust.desk.clips.library_side import LibrarySide
from veergust.desk.clips.on_stage import OnStage
from veergust.desk.clips.playhead import Playhead
from veergust.desk.clips.strips import StripMaker
from veergust.desk.clips.timeline import TimelineBar
from veergust.desk.document.document import Document
from veergust.desk.frame.bench import Bench, Desk
from veergust.desk.frame.empty import NO_CLIPS, Nothing
from veergust.desk.frame.page import FieldPage
from veergust.desk.frame.pages import page_words
from veergust.desk.keys.pressing import BACK, last_of, pressed
from veergust.desk.keys.table import Where, on_key
from veergust.desk.look.theme import Theme
from veergust.desk.running.work import load_aside
from veergust.desk.stage.panel import StagePanel
from veergust.desk.stage.view import StageTool
from veergust.desk.widgets.buttons import speed_buttons, word_button
from veergust.desk.widgets.sides import SIDES

ASIDE = 0.4
"""How far (m) ahead of a figure that is followed the camera looks."""


class ClipsBench(EveryCard, Bench):
    """Where clips are brought in, looked through and made ready."""

    action_wanted = Signal(str)
    rename_wanted = Signal()

    def __init__(self, document: Document, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.document = document
        self.theme = theme
        load_aside("scipy.signal")  # filters, for what clips are seen to do
        self.playhead = Playhead(document, self)
        self.strips = StripMaker(owner=self)
        self.library = Library(document, theme, self.strips)
        self.library.opened.connect(document.choose_clip)
        self.side = LibrarySide(self.library)
        self.stage = StagePanel(theme, "Stage", ("skins", "path", "body", "beside"), ("skins", "path", "body"))
        self.stage.view.camera = Camera(target=(0.4, 0.84, 0.0), yaw=-12.0, pitch=10.0, distance=5.0)
        self.stage.follow_button.setChecked(True)
        self.stage.follow_button.clicked.connect(self.show_frame)
        self.film = Film(document, theme, self.playhead)
        self.curves = Curves(document, theme, self.playhead)
        self.stack = AskingPages(theme, self)
        self.right = QWidget(self.stack.work)
        self.pages = every_card(document, self.playhead, theme, self.film, self.right)
        self.pages.made.connect(self._connect_page)
        self.mapping, self.cells_page = self.stack.mapping, self.stack.cells
        self.stack.currentChanged.connect(self.nothing_changed)
        self.pose_tool = PoseTool(
            theme, FACING, lambda: self.pose.pose(), lambda pose: self.pose.show_pose(pose),
            lambda pose, words: self.pose.settle(pose, words), lambda joint: self.pose.select(joint),
        )  # fmt: skip
        there = OnStage(document, self.playhead, lambda name, at, settled: self.props.moved_on_stage(name, at, settled))
        self.facing_tool = FacingTool(theme, there.body, lambda degrees: self.root.turn_by(degrees))
        self.mount_tool = MountTool(theme, there.mounts, there.move_mount, lambda name: self.props.choose_mount(name))
        self.play_button = word_button("▸ play", "Play the used part over and over (Space)", strong=True)
        self.play_button.clicked.connect(self.playhead.toggle)
        self._lay_out()
        self._connect()
        self.show_card(0)
        self._opened()

    def _lay_out(self) -> None:
        work, right = self.stack.work, self.right
        work.setObjectName(SIDES)
        self.splitter = QSplitter(Qt.Orientation.Vertical, work)
        for button in self.stage.switches.values():
            button.clicked.connect(self.show_frame)
        speed_buttons(self.stage.foot, self.playhead.set_speed)
        self.stage.foot.addWidget(self.play_button)
        self.along = TimelineBar(self.playhead.timeline)
        self.splitter.addWidget(self.stage)
        time = QWidget(self.splitter)
        times = QVBoxLayout(time)
        times.setContentsMargins(0, 0, 0, 0)
        times.setSpacing(0)
        times.addWidget(self.film)
        times.addWidget(self.curves, 1)
        times.addWidget(self.along)
        self.splitter.setSizes([470, 240])
        self.splitter.setStretchFactor(0, 1)
        self.splitter.setChildrenCollapsible(False)
        self.splitter.setHandleWidth(2)
        words = QHBoxLayout()
        words.setContentsMargins(4, 6, 2, 2)
        words.setSpacing(0)
        self.page_buttons = page_words(self.pages.kinds, words, self.show_card)
        right.setObjectName("right")
        right.setFixedWidth(350)
        beside = QVBoxLayout(right)
        beside.setContentsMargins(2, 0, 0, 0)
        beside.setSpacing(0)
        beside.addLayout(words)
        beside.addWidget(self.pages, 1)
        row = QHBoxLayout(work)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self.side)
        row.addWidget(self.splitter, 1)
        row.addWidget(right)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.addWidget(self.stack)

    def _connect(self) -> None:
        document = self.document
        document.clip_chosen.connect(self._opened)
        document.changed.connect(self._changed)
        document.opened.connect(self._new_project)
        self.playhead.moved.connect(self._moved)
        self.playhead.played.connect(self._played)

    def _connect_page(self, page: FieldPage) -> None:
        """Hear a page that was made just now."""
        if isinstance(page, JoinCard):
            page.other_changed.connect(self.show_frame)
        elif isinstance(page, CleanCard):
            page.before_changed.connect(self._show_before)
        elif isinstance(page, PropsCard):
            page.mount_chosen.connect(self._mount_chosen)
        elif isinstance(page, HurtboxesCard):
            page.shown.connect(self.show_frame)
        elif isinstance(page, PoseCard):
            page.joint_wanted.connect(self._take_joint)
            page.frame_wanted.connect(self._use_own_axes)
        elif isinstance(page, PrepareCard):
            page.copy_wanted.connect(self.make_copy)
            page.rename_wanted.connect(self.rename_wanted)
            page.action_wanted.connect(lambda: self.action_wanted.emit(self.document.clip))

    # What is shown

    @property
    def card(self) -> Card:
        """The page that is open."""
        return cast(Card, self.pages.page)

    def show_card(self, index: int) -> None:
        """Open a page by its place."""
        self.pages.place(self.pages.kinds[index])
        self.pages.setCurrentIndex(index)
        for i, button in enumerate(self.page_buttons):
            button.setChecked(i == index)
        tools: dict[type[FieldPage], StageTool] = {
            PoseCard: self.pose_tool,
            PropsCard: self.mount_tool,
            RootCard: self.facing_tool,
        }
        self.stage.view.tool = tools.get(type(self.card))
        self.card.renew()
        self._show_before()

    def _new_project(self) -> None:
        self.pose_tool.joint = -1
        if (pose := self.pages.there(PoseCard)) is not None:
            pose.joint, pose.copied = -1, None
        if not self.document.project.clips:
            self.show_card(0)
        self._opened()

    def _opened(self) -> None:
        self.playhead.stop()
        if self.document.clip not in {c.name for c in self.library.clips}:
            self.side.find_line.clear()  # what was made or opened elsewhere is not hidden by an old search
            self.library.show_chosen()
        self.film.contact = -1
        self.playhead.opened()
        self.playhead.frame = self.playhead.used()[0]
        self.card.renew()
        self.film.update()
        self.curves.setVisible(self.playhead.reading is not None)
        self.show_frame()

    def _changed(self) -> None:
        if not self.isVisible():
            return
        self.playhead.settle()
        self.card.renew()
        self.curves.setVisible(self.playhead.reading is not None)
        self.show_frame()

    def _moved(self) -> None:
        self.card.moved()
        self.show_frame()

    def _played(self, on: bool) -> None:
        self.stage.view.moving = on
        self.play_button.setText("■ stop" if on else "▸ play")
        self.stage.view.update()

    def shown(self) -> ClipShown:
        """What the stage shows."""
        on = {name: button.isChecked() for name, button in self.stage.switches.items()}
        skins: tuple[int, ...] = ()
        if on["skins"] and isinstance(self.card, PoseCard):
            skins = self.pose.keys_beside()
        elif on["skins"] and not isinstance(self.card, JoinCard):
            skins = self.playhead.used()
        hurt = self.body.on_stage() if isinstance(self.card, HurtboxesCard) else (Rig(), "")
        return ClipShown(skins, on["path"], on["body"], on["beside"], isinstance(self.card, PoseCard), *hurt)

    def show_frame(self) -> None:
        """Show the frame under the playhead on the stage."""
        if not self.isVisible():
            return
        reading, clip = self.playhead.reading, self.playhead.clip
        self.stage.title.setText(clip.name if clip is not None else "Stage")
        self.pose_tool.skeleton = reading.skeleton if reading is not None else None
        if reading is None:
            self.stage.view.show_scene(Scene(), self.document.mesh)
            return
        other = self.join.pose() if isinstance(self.card, JoinCard) else self._before()
        capsule = self.document.project.rig.capsule
        scene = clip_stage(reading, self.playhead.frame, self.playhead.used(), self.shown(), capsule, other)
        posed = isinstance(self.card, PoseCard)
        if self.stage.follow_button.isChecked() and not (posed and self.document.dragging):
            start, frame = self.playhead.used()[0], self.playhead.frame
            body = FACING @ source_body(reading, frame) if posed else body_on_stage(reading, frame, start)
            self._look_at(body[:3, 3])
        self.stage.view.show_scene(scene, self.document.mesh)
        self.stage.view.words.update()

    def _look_at(self, place: Array) -> None:
        """Have the camera on who stands in a place (m)."""
        camera = self.stage.view.camera
        target = (float(place[0]) + ASIDE, camera.target[1], float(place[2]))
        self.stage.view.camera = Camera(target, camera.yaw, camera.pitch, camera.distance, camera.lens)

    def _before(self) -> Pose | None:
        """The pose of the source as it was before it was cleaned, about its body."""
        if not isinstance(self.card, CleanCard) or not self.clean.before.isChecked():
            return None
        raw = self.document.derived.uncleaned(self.document.clip)
        return raw.about(min(self.playhead.frame, len(raw.times) - 1)) if raw is not None else None

    def _show_before(self) -> None:
        self.curves.before = isinstance(self.card, CleanCard) and self.clean.before.isChecked()
        self.curves.update()
        self.show_frame()

    # Handles

    def _mount_chosen(self) -> None:
        self.mount_tool.chosen = self.props.mount_name
        self.stage.view.words.update()

    def _take_joint(self, joint: int) -> None:
        self.pose_tool.joint = joint
        self.stage.view.words.update()

    def _use_own_axes(self, on: bool) -> None:
        self.pose_tool.local = on
        self.stage.view.words.update()

    # Deeds

    def make_copy(self) -> None:
        """Write an editable copy of the open clip."""
        clip, folder = self.playhead.clip, self.document.folder
        if clip is None or folder is None or self.document.refuses():
            return
        try:
            edit, name = editable_copy(self.document.base, self.document.build.assets, folder, clip, self.document.lock)
        except Trouble as trouble:
            self.document.said.emit(str(trouble), True)
            return
        self.document.apply(edit)
        self.document.choose_clip(name)
        made = self.document.build.clip(name)
        self.document.said.emit(f"{made.file if made else name} is an editable copy of {clip.name}.", False)

    def remove(self) -> None:
        """Delete: the chosen key, the chosen foot, or in the library the clip."""
        if self.library.hasFocus():
            self.card.attempt(lambda: remove_clip(self.document.base, self.document.clip))
        elif isinstance(self.card, PoseCard):
            self.pose.remove()
        elif self.film.contact >= 0:
            self.feet.remove()

    def key(self, event: QKeyEvent) -> bool:
        """Keys that hold for the whole bench; true when one was used."""
        if self.stack.asking:
            return False
        keys = pressed(event)
        places: tuple[Where, ...] = ("pose", "clips") if isinstance(self.card, PoseCard) else ("clips",)
        for where in places:
            act = self.acts().get(on_key(where, keys))
            if act is not None:
                act(keys)
                return True
        return False

    def acts(self) -> dict[str, Callable[[str], object]]:
        """What each command of the bench does; it is told by which of its keys."""
        head = self.playhead

        def way(keys: str) -> int:
            return -1 if last_of(keys) in BACK else 1

        return {
            "clip_step": lambda keys: head.step(way(keys)),
            "clip_play": lambda keys: {"Space": head.toggle, "K": head.stop, "L": head.play}[keys](),
            "clip_edges": lambda keys: self.prepare.set_edge_here("in" if keys == "I" else "out"),
            "clip_zoom": lambda keys: self.zoom(0.8 if keys == "+" else 1.25),
            "clip_fit": lambda keys: self.fit(whole=keys != "F"),
            "clip_part": lambda _: self.take.take_chosen(),
            "clip_choose": lambda keys: head.select_here(keys == "["),
            "clip_mark": lambda _: self.take.turn_mark(),
            "to_mark": lambda keys: self.take.to_mark(way(keys)),
            "remove_clip": lambda _: self.remove(),
            "remove_key": lambda _: self.remove(),
            "key_pose": lambda _: self.pose.key_here(),
            "copy_pose": lambda keys: self.pose.copy() if last_of(keys) == "C" else self.pose.paste(),
            "next_key": lambda keys: self.pose.to_key(way(keys)),
        }

    def zoom(self, factor: float) -> None:
        """See so many times as many frames, about the playhead."""
        self.playhead.timeline.zoom(factor, self.playhead.frame)

    def fit(self, whole: bool) -> None:
        """See the chosen part, else the used one; or the whole source."""
        line = self.playhead.timeline
        if whole:
            line.show_whole()
        else:
            line.show(*(self.playhead.selection or self.playhead.used()))

    # Coming and going

    def attach(self, window: Desk) -> None:
        window.arrivals.ended.connect(self.stack.leave)
        self.mapping.taken.connect(window.mapped)
        self.mapping.left.connect(window.arrivals.give_up)
        self.cells_page.taken.connect(window.cells_cut)
        self.cells_page.left.connect(window.arrivals.give_up)
        self.action_wanted.connect(window.make_action)
        self.rename_wanted.connect(window.rename)
        self.side.import_button.clicked.connect(window.ask_import)

    def splitters(self) -> dict[str, QSplitter]:
        return {"clips": self.splitter}

    def enter(self) -> None:
        """The bench is shown."""
        self.library.renew()
        self._changed()
        (self.stack.answer_button() or self.library).setFocus()

    def leave(self) -> None:
        """Another bench is shown."""
        self.playhead.stop()

    def find_here(self) -> None:
        """The line that narrows the library."""
        self.side.find_line.setFocus()
        self.side.find_line.selectAll()

    def nothing(self) -> Nothing | None:
        return NO_CLIPS if not self.document.project.clips and not self.stack.asking else None
