"""Where the open clip has its body, joints and mounts on the stage, on the frame under the playhead."""

from __future__ import annotations

from collections.abc import Callable

from veergust.core.motion import Array
from veergust.core.scene import body_on_stage, figure_on_stage, mount_matrix
from veergust.desk.clips.cards.props import mount_in_joint
from veergust.desk.clips.playhead import Playhead
from veergust.desk.document.document import Document


class OnStage:
    """What the handles of the stage ask and move."""

    def __init__(self, document: Document, playhead: Playhead, moved: Callable[[str, Array, bool], None]) -> None:
        self.document, self.playhead, self.moved = document, playhead, moved

    def joints(self) -> Array | None:
        """Joint matrices ``[J, 4, 4]`` on the stage."""
        reading = self.playhead.reading
        if reading is None:
            return None
        return figure_on_stage(reading, self.playhead.frame, False, self.playhead.used()[0])

    def body(self) -> Array | None:
        """The body's frame on the stage."""
        reading = self.playhead.reading
        if reading is None:
            return None
        return body_on_stage(reading, self.playhead.frame, self.playhead.used()[0])

    def mounts(self) -> list[tuple[str, Array]]:
        """Every mount that is on the figure, and where (m)."""
        joints = self.joints()
        rig, bones = self.document.project.rig, self.document.build.assets.skeleton
        if joints is None:
            return []
        out = []
        for mount in rig.mounts:
            found = mount_matrix(bones, rig, mount.name)
            if found is not None:
                out.append((mount.name, (joints[found[0]] @ found[1])[:3, 3]))
        return out

    def move_mount(self, name: str, at: Array, settled: bool) -> None:
        """Bring a mount to a place; not yet ``settled`` while it is dragged."""
        joints = self.joints()
        found = mount_matrix(self.document.build.assets.skeleton, self.document.project.rig, name)
        if joints is not None and found is not None:
            self.moved(name, mount_in_joint(joints[found[0]], at), settled)
