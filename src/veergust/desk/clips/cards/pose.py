"""Pose: joints turned and pulled by hand, keyed on frames; rough clips made of nothing else."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import Signal
from PySide6.QtWidgets import QWidget

from veergust.core.edit import (
    ease_pose,
    frame,
    insert_time,
    key_index,
    move_pose,
    new_rough,
    put_pose,
    remove_pose,
)
from veergust.core.files import SPOKEN
from veergust.core.motion import Pose, clip_pose, mirror, quat, reset_joint, source_pose
from veergust.desk.clips.cards.card import Card
from veergust.desk.clips.playhead import Playhead
from veergust.desk.document.document import Document
from veergust.desk.widgets.buttons import word_button
from veergust.desk.widgets.fields import ChoiceField, Form, NumberField, Triple, heading, note
from veergust.desk.widgets.rows import buttons, switch

EASES = [("soft", "smooth"), ("even", "linear"), ("slow start", "in"), ("slow end", "out"), ("hold", "hold")]


class PoseCard(Card):
    """Blocking: poses on frames."""

    title = "Pose"
    needs_joints = "Joints are posed. This figure is drawn: its points are put on the stage of the sheet."
    joint_wanted = Signal(int)
    frame_wanted = Signal(bool)

    def __init__(self, document: Document, playhead: Playhead, parent: QWidget) -> None:
        super().__init__(document, playhead, parent)
        self.joint = -1
        self.copied: Pose | None = None
        rough = word_button("+ rough clip from this pose", "A new clip made of poses, from the one on the stage on",
                            strong=True)  # fmt: skip
        rough.clicked.connect(self.make_rough)
        self.box.addWidget(buttons(rough))
        self.what = note()
        self.box.addWidget(self.what)
        self.name = ChoiceField("Joint", self._choose, "The joint to turn; click one on the stage")
        self.angles = Triple("Turn", self._type_angles, "°", 5.0)
        self.local = switch("own axes", "Rings lie along the joint's own axes, or the world's", self.frame_wanted.emit)
        self.local.setChecked(True)
        reset = word_button("reset joint", "The joint as it lies in the source, or in rest")
        reset.clicked.connect(self.reset)
        form = Form()
        form.row("Joint", self.name)
        self.box.addWidget(form)
        self.box.addWidget(self.angles.row())
        self.box.addWidget(buttons(self.local, reset))
        self.box.addWidget(heading("Whole pose"))
        copy = word_button("copy", "Copy the pose on the stage (Ctrl+C)")
        copy.clicked.connect(self.copy)
        self.paste_button = word_button("paste", "Key the copied pose here (Ctrl+V)")
        self.paste_button.clicked.connect(self.paste)
        turn = word_button("mirror", "Left and right change places, keyed here")
        turn.clicked.connect(self.mirror)
        idle = word_button("first from idle", "Key idle's first pose on the first frame, so that it does not pop")
        idle.clicked.connect(self.from_idle)
        self.box.addWidget(buttons(copy, self.paste_button, turn, idle))
        self.box.addWidget(heading("Key"))
        key = word_button("key here", "Key the pose on the stage as it is (Return)", strong=True)
        key.clicked.connect(self.key_here)
        self.gone = word_button("remove key", "Take away the key on this frame (Delete)")
        self.gone.clicked.connect(self.remove)
        before = word_button("◂ key", "To the key before (Ctrl+left)")
        before.clicked.connect(lambda: self.to_key(-1))
        after = word_button("key ▸", "To the next key (Ctrl+right)")
        after.clicked.connect(lambda: self.to_key(1))
        self.box.addWidget(buttons(key, self.gone, before, after))
        self.at = NumberField("On frame", self._move, unit="f", low=0, tip="The frame of this key, at the game's rate")
        self.ease = ChoiceField("Goes on", self._ease, "How it goes on to the next key")
        form = Form()
        form.row("On frame", self.at)
        form.row("Goes on", self.ease)
        self.box.addWidget(form)
        self.box.addWidget(heading("Time"))
        self.many = NumberField("Frames", lambda _: None, unit="f", low=1, high=600)
        self.many.setValue(2)
        put = word_button("insert", "Put frames in at the playhead: later keys move on")
        put.clicked.connect(lambda: self._time(1))
        cut = word_button("take out", "Take frames out at the playhead: later keys move up")
        cut.clicked.connect(lambda: self._time(-1))
        form = Form()
        form.row("Frames", self.many)
        self.box.addWidget(form)
        self.box.addWidget(buttons(put, cut))
        self.box.addStretch(1)

    # What is posed

    def pose(self) -> Pose | None:
        """The pose on the stage (a batch of one), as it is shown: mirrored as the clip is."""
        clip = self.clip
        if clip is None or self.reading is None:
            return None
        return clip_pose(self.document.build.assets, clip, np.array([self.time]))

    @property
    def time(self) -> float:
        """The source time of the playhead."""
        return self.playhead.seconds

    def show_pose(self, pose: Pose) -> None:
        """Show a pose while a handle is dragged."""
        base, assets = self.document.base, self.document.build.assets
        self.document.preview(put_pose(base, assets, self.document.clip, self.time, pose).project)

    def settle(self, pose: Pose, words: str) -> None:
        """Key a pose on the playhead's frame."""
        base, assets = self.document.base, self.document.build.assets
        self.attempt(lambda: put_pose(base, assets, self.document.clip, self.time, pose, words))

    # Deeds

    def make_rough(self) -> None:
        """A new rough clip from the pose on the stage."""
        if not len(self.document.build.assets.skeleton):
            self.document.said.emit(f"There is no figure yet: drop a {SPOKEN} file on the window.", True)
            return
        edit, name = new_rough(self.document.base, self.document.build.assets, self.document.clip, self.time)
        self.document.apply(edit)
        self.document.choose_clip(name)
        self.playhead.move_to(0)

    def select(self, joint: int) -> None:
        """Choose a joint."""
        self.joint = joint
        self.renew()

    def _choose(self, name: str) -> None:
        index = self.document.build.assets.skeleton.index
        if name in index:
            self.joint_wanted.emit(index[name])
            self.select(index[name])

    def _type_angles(self, angles: tuple[float, float, float]) -> None:
        pose = self.pose()
        if pose is None or self.joint < 0:
            return
        from scipy.spatial.transform import Rotation

        rest = self.document.build.assets.skeleton.rest_rotation[self.joint]
        turn = pose.rotation.copy()
        turn[0, self.joint] = quat.multiply(rest, Rotation.from_euler("XYZ", angles, degrees=True).as_quat())
        x, y, z = angles
        name = self.document.build.assets.skeleton.names[self.joint]
        self.settle(Pose(turn, pose.translation), f"{name} at {x:g}°, {y:g}°, {z:g}°")

    def reset(self) -> None:
        """The chosen joint as it lies under the keys."""
        pose, clip = self.pose(), self.clip
        if pose is None or clip is None or self.joint < 0:
            return
        assets = self.document.build.assets
        under = source_pose(assets, clip, np.array([self.time]), keyed=False)
        under = mirror(assets.skeleton, under, clip.swaps) if clip.mirror else under
        self.settle(reset_joint(assets.skeleton, pose, under, self.joint), f"{assets.skeleton.names[self.joint]} reset")

    def copy(self) -> None:
        """Copy the pose on the stage."""
        self.copied = self.pose()
        self.renew()

    def paste(self) -> None:
        """Key the copied pose here."""
        if self.copied is not None:
            self.settle(self.copied, f"pose pasted at frame {self._frame()}")

    def mirror(self) -> None:
        """Key the pose with left and right changed."""
        pose = self.pose()
        if pose is not None:
            turned = mirror(self.document.build.assets.skeleton, pose)
            self.settle(turned, f"pose mirrored at frame {self._frame()}")

    def from_idle(self) -> None:
        """Key idle's pose on the first frame."""
        idle = self.document.derived.idle_pose()
        if idle is None:
            self.document.said.emit("Locomotion has no state yet, so there is no idle to start from.", True)
            return
        first = self.playhead.used()[0]
        self.playhead.step(0)
        self.playhead.move_to(first)
        self.settle(idle, "first pose from idle")

    def key_here(self) -> None:
        """Key the pose as it is."""
        pose = self.pose()
        if pose is not None:
            self.settle(pose, f"pose keyed at frame {self._frame()}")

    def _key(self) -> int | None:
        return key_index(self.clip, self.time) if self.clip is not None else None

    def _frame(self) -> int:
        return frame(self.document.project, self.time)

    def remove(self) -> None:
        """Take the key on this frame away."""
        key = self._key()
        if key is not None:
            self.attempt(lambda: remove_pose(self.document.base, self.document.clip, key))

    def to_key(self, way: int) -> None:
        """Go to the next key that way."""
        clip, reading = self.clip, self.reading
        if clip is None or reading is None:
            return
        frames = [reading.frame_of(k.time) for k in clip.poses]
        ahead = [f for f in frames if (f - self.playhead.frame) * way > 0]
        if ahead:
            self.playhead.step(0)
            self.playhead.move_to(min(ahead, key=lambda f: abs(f - self.playhead.frame)))

    def keys_beside(self) -> tuple[int, ...]:
        """The frames of the keys before and after the playhead."""
        clip, reading = self.clip, self.reading
        if clip is None or reading is None:
            return ()
        frames = [reading.frame_of(k.time) for k in clip.poses]
        before = [f for f in frames if f < self.playhead.frame]
        after = [f for f in frames if f > self.playhead.frame]
        return (*before[-1:], *after[:1])

    def _move(self, to: float) -> None:
        key, reading = self._key(), self.reading
        if key is not None and reading is not None:
            self.attempt(lambda: move_pose(self.document.base, self.document.clip, key, int(to)))
            clip = self.clip
            if clip is not None and self.reading is not None:
                self.playhead.move_to(self.reading.frame_of(clip.poses[key].time))

    def _ease(self, ease: str) -> None:
        key = self._key()
        if key is not None:
            self.attempt(lambda: ease_pose(self.document.base, self.document.clip, key, ease))

    def _time(self, sign: int) -> None:
        many = int(self.many.value()) * sign
        self.attempt(lambda: insert_time(self.document.base, self.document.clip, self._frame(), many))

    def renew(self) -> None:
        clip, reading = self.clip, self.reading
        self.page.setEnabled(True)
        self.show_fields(True)
        bones = self.document.build.assets.skeleton
        self.name.show_choices([("click one", ""), *((n, n) for n in bones.names)],
                               bones.names[self.joint] if 0 <= self.joint < len(bones) else "")  # fmt: skip
        self.paste_button.setEnabled(self.copied is not None)
        if clip is None or reading is None:
            self.what.setText("Start from the rest pose.")
            return
        many = f"{len(clip.poses)} pose{'s' if len(clip.poses) != 1 else ''}"
        self.what.setText(f"A rough clip of {many}." if not clip.file else
                          f"{many} laid over the source." if clip.poses else
                          "What you turn here is laid over the source; it stays as it is.")  # fmt: skip
        self.moved()

    def moved(self) -> None:
        key, pose = self._key(), self.pose()
        for field in (self.gone, self.at, self.ease):
            field.setEnabled(key is not None)
        clip = self.clip
        self.at.show_value(self._frame())
        ease = clip.poses[key].ease if clip is not None and key is not None else "smooth"
        self.ease.show_choices(EASES, ease)
        for field in self.angles.fields:
            field.setEnabled(self.joint >= 0)
        if pose is not None and self.joint >= 0:
            from scipy.spatial.transform import Rotation

            rest = self.document.build.assets.skeleton.rest_rotation[self.joint]
            own = quat.multiply(quat.conjugate(rest), pose.rotation[0, self.joint])
            x, y, z = Rotation.from_quat(own).as_euler("XYZ", degrees=True)
            self.angles.show((float(x), float(y), float(z)))
