"""The stage of a clip: the figure on a frame of it, its way, its capsule, and what is left in the pose."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from veergust.core.model import Capsule, Floor, Rig
from veergust.core.motion import Array, Pose, forward, quat
from veergust.core.play import hurt_shapes, placed_mount, volumes_of
from veergust.core.scene.shapes import volume_tubes
from veergust.core.scene.things import Body, Label, Path, Scene, Tube
from veergust.core.scene.view import FACING
from veergust.core.study import Reading

BARE = Rig()
BESIDE = np.array([0.0, 0.0, -1.1])
OPEN_FLOOR = (Floor(low=(-30.0, -30.0), high=(30.0, 30.0)),)


@dataclass(frozen=True)
class ClipShown:
    """What the stage of a clip shows: skins of frames, the way, the capsule, the pose that is left beside, whether
    the figure stands as in its source, as it does while it is posed by hand, and hurtboxes with the ``chosen`` one."""

    skins: tuple[int, ...] = ()
    path: bool = True
    body: bool = False
    beside: bool = False
    as_source: bool = False
    rig: Rig = BARE
    chosen: str = ""


def clip_stage(
    reading: Reading,
    frame: int,
    used: tuple[int, int],
    shown: ClipShown,
    capsule: Capsule,
    other: Pose | None = None,
) -> Scene:
    """A clip on a frame of its source, looking along +X. ``other`` is a pose about its body to
    compare with, laid over it."""
    frame = min(max(frame, 0), len(reading.times) - 1)
    first, last = used
    joints = figure_on_stage(reading, frame, shown.as_source)
    start = FACING if shown.as_source else FACING @ np.linalg.inv(reading.bodies[first])
    ghosts = [
        Body(figure_on_stage(reading, f, shown.as_source, first), "ghost", 0.2)
        for f in dict.fromkeys(shown.skins)
        if f != frame
    ]
    if not shown.as_source:
        joints = figure_on_stage(reading, frame, False, first)
    bodies = [Body(joints)]
    labels: list[Label] = []
    if other is not None:
        body = body_on_stage(reading, frame, first)
        if shown.as_source:
            body = FACING @ source_body(reading, frame)
        ghosts.append(Body(body @ forward(reading.skeleton, other.rotation, other.translation)[0], "ghost", 0.45))
    if shown.beside and not shown.as_source:
        remains = reading.left(slice(frame, frame + 1))
        left = forward(reading.skeleton, remains.rotation, remains.translation)[0]
        aside = FACING.copy()
        aside[:3, 3] = BESIDE
        bodies.append(Body(aside @ left, "partner"))
        labels.append(Label("left in the pose", BESIDE + np.array([0.0, -0.02, 0.3])))
    tubes: list[Tube] = []
    where = (start @ reading.bodies[frame])[:3, 3]
    if shown.body and not shown.as_source:
        low, high = np.array([0, capsule.radius, 0]), np.array([0, capsule.height - capsule.radius, 0])
        tubes.append(Tube(where + low, where + high, capsule.radius, "capsule"))
    tubes += _hurtboxes(reading, joints, shown)
    paths: list[Path] = []
    way = (start @ reading.bodies[first : last + 1])[:, :3, 3]
    if shown.path and not shown.as_source and len(way) and np.ptp(way, axis=0).max() > 0.01:
        paths.append(Path(way + np.array([0.0, 0.006, 0.0]), "drive"))
        labels.append(Label(f"{np.linalg.norm(way[-1] - way[0]):.2f} m", way[-1] + np.array([0.0, -0.02, 0.25])))
    return Scene(
        bodies=tuple(bodies),
        ghosts=tuple(ghosts),
        tubes=tuple(tubes),
        paths=tuple(paths),
        labels=tuple(labels),
        floors=OPEN_FLOOR,
    )


def _hurtboxes(reading: Reading, joints: Array, shown: ClipShown) -> Iterator[Tube]:
    """Hurtboxes on the figure, the chosen one filled."""
    bones, mounts = reading.skeleton, {m.name: m for m in shown.rig.mounts}

    def mount(name: str) -> tuple[int, Array] | None:
        return placed_mount(mounts.get(name), name, bones, False)

    for volume in volumes_of(hurt_shapes(shown.rig.hurtboxes, bones.index, mount), joints, joints):
        yield from volume_tubes(volume, "hurt", volume.name == shown.chosen)


def figure_on_stage(reading: Reading, frame: int, as_source: bool, first: int = 0) -> Array:
    """Joint matrices ``[J, 4, 4]`` of a frame on the stage: as in the source, or carried by the body, which stands
    at the origin on frame ``first``."""
    if as_source:
        pose = reading.pose.frame(frame)
        return np.asarray(FACING @ forward(reading.skeleton, pose.rotation, pose.translation)[0])
    return np.asarray(FACING @ np.linalg.inv(reading.bodies[first]) @ reading.world(slice(frame, frame + 1))[0])


def body_on_stage(reading: Reading, frame: int, first: int) -> Array:
    """The body's frame ``[4, 4]`` on the stage, where it stands at the origin on frame ``first``."""
    return np.asarray(FACING @ np.linalg.inv(reading.bodies[first]) @ reading.bodies[frame])


def source_body(reading: Reading, frame: int) -> Array:
    """The body's frame ``[4, 4]`` in the source's world."""
    place, yaw = reading.track.at(reading.times[[frame]])
    out = np.eye(4)
    out[:3, :3], out[:3, 3] = quat.to_matrix(quat.from_yaw(float(yaw[0]))), place[0] * np.array([1.0, 0.0, 1.0])
    return out
