"""A clip read over its whole source: poses, body, speed, height, feet. The Clips bench shows and proposes from it."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from msgspec.structs import replace

from veergust.core.model import Clean, Clip, RootUse
from veergust.core.motion import (
    Array,
    Assets,
    BodyTrack,
    FootContact,
    Indices,
    Pose,
    Roots,
    Skeleton,
    Trajectory,
    about_body,
    chain_to,
    clip_pose,
    contacts,
    ends,
    feet_of,
    forward,
    hips_of,
    leg_length,
    lowpass,
    motion_of,
    quat,
    remove,
    resting,
    scale_of,
    toes_of,
    track_of,
    way_between,
)
from veergust.core.play import CompiledProject

CHUNK = 4096
TREMBLE = 7.0
"""What is faster (Hz) in a body at rest is trembling, and noise."""
MOST_FRAMES = 100_000
"""No source is read on more frames; a longer one is read on as many, evenly."""


@dataclass(frozen=True, eq=False)
class Reading:
    """A clip on the frames of its source: ``times`` ``[F]`` (source s), poses mirrored as the clip is.

    ``joints`` ``[F, J, 3]`` are places in the source's world, ``travel`` what moves the body from frame to frame as
    the clip says, ``moving`` where that is in the source, ``track`` where the body is there with every part on.
    ``hips`` is the joint on which all that stands."""

    clip: Clip
    skeleton: Skeleton
    fps: float
    times: Array
    pose: Pose
    joints: Array
    travel: Trajectory
    moving: BodyTrack
    track: BodyTrack
    rest: Pose
    hips: int

    @property
    def root(self) -> int:
        """The joint the body's way is read from."""
        return self.track.carrier.joint

    @cached_property
    def step(self) -> float:
        """Seconds from frame to frame."""
        step = float(self.times[1] - self.times[0]) if len(self.times) > 1 else 0.0
        return step if step > 0.0 else 1.0 / self.fps

    def frame_of(self, seconds: float) -> int:
        """The frame nearest to a source time."""
        return int(np.clip(round(seconds / self.step), 0, len(self.times) - 1))

    @cached_property
    def bodies(self) -> Array:
        """The body's frame ``[F, 4, 4]`` from where it stood on the first."""
        out = np.zeros((len(self.times), 4, 4))
        out[:, :3, :3] = quat.to_matrix(quat.from_yaw(self.travel.yaw))
        out[:, :3, 3] = self.travel.place
        out[:, 3, 3] = 1.0
        return out

    def left(self, rows: slice) -> Pose:
        """The poses that remain of some frames when the body's way is taken out."""
        pose = Pose(self.pose.rotation[rows], self.pose.translation[rows])
        return remove(self.skeleton, pose, *self.moving.at(self.times[rows]), self.hips)

    def sway(self, rows: slice) -> Array:
        """Where the hips are about the body on some frames ``[N, 3]`` (m): what of the travel stays in the pose."""
        bones, above = self.skeleton, self.skeleton.parents[self.hips]
        there = self.left(rows).translation[:, self.hips]
        frame = bones.rest_world[above] if above >= 0 else np.eye(4)  # what stands above them rests
        return np.asarray(there @ frame[:3, :3].T + frame[:3, 3])

    def world(self, rows: slice) -> Array:
        """Joint matrices ``[N, J, 4, 4]`` of some frames: the poses that remain, carried by the body."""
        left = self.left(rows)
        return np.asarray(self.bodies[rows][:, None] @ forward(self.skeleton, left.rotation, left.translation))

    @cached_property
    def speed(self) -> Array:
        """Speed ``[F]`` of the root over the floor in the source (m/s)."""
        if len(self.times) < 2:
            return np.zeros(len(self.times))
        way = self.joints[:, self.root] * np.array([1.0, 0.0, 1.0])
        return np.asarray(np.linalg.norm(np.gradient(way, self.step, axis=0), axis=-1))

    @cached_property
    def height(self) -> Array:
        """Height ``[F]`` of the lowest joint that carries all feet, the hips, above the floor (m)."""
        return np.asarray(self.joints[:, hips_of(self.skeleton), 1])

    @cached_property
    def stir(self) -> Array:
        """How fast the pose changes ``[F]``: the mean speed of all joints about the body (m/s)."""
        if len(self.times) < 2:
            return np.zeros(len(self.times))
        moved = np.gradient(self.bare[:, self.figure], self.step, axis=0)
        return np.asarray(np.linalg.norm(moved, axis=-1).mean(axis=-1))

    @cached_property
    def calm(self) -> Array:
        """``stir`` without what trembles: of the places about the body as they are below ``TREMBLE`` Hz."""
        if len(self.times) < 2:
            return np.zeros(len(self.times))
        first = resting(self.pose.rotation, self.rest.rotation[0])
        slow = lowpass(self.bare[:, self.figure], self.step, TREMBLE, first)
        return np.asarray(np.linalg.norm(np.gradient(slow, self.step, axis=0), axis=-1).mean(axis=-1))

    @cached_property
    def bare(self) -> Array:
        """Joint places ``[F, J, 3]`` about the body on each frame, whatever the clip's root settings; what stands over
        the hips rests, for how far that is from the body is only where the take was shot."""
        place, yaw = self.track.at(self.times)
        gone = self.joints - (place * np.array([1.0, 0.0, 1.0]))[:, None]
        out = quat.rotate(quat.from_yaw(-yaw)[:, None], gone)
        over = chain_to(self.skeleton, self.hips)[:-1]
        out[:, over] = self.skeleton.rest_world[over, :3, 3]
        return out

    @cached_property
    def figure(self) -> Indices:
        """The joints of the figure itself, without what stands over its hips: where those are says nothing of a
        pose."""
        over = chain_to(self.skeleton, self.hips)[:-1]
        return np.setdiff1d(np.arange(len(self.skeleton)), over)

    def about(self, frame: int) -> Pose:
        """The pose of a frame about the body, a batch of one, whatever the clip's root settings."""
        place, yaw = self.track.at(self.times[[frame]])
        return remove(self.skeleton, self.pose.frame(frame), place * np.array([1.0, 0.0, 1.0]), yaw, self.hips)

    @cached_property
    def contacts(self) -> tuple[FootContact, ...]:
        """Feet on the floor, as the person set them or as they are found."""
        if self.clip.contacts is not None:
            return tuple(
                FootContact(self.skeleton.index[c.joint], self.frame_of(c.start), max(self.frame_of(c.end), 1))
                for c in self.clip.contacts
                if c.joint in self.skeleton.index
            )
        feet = feet_of(self.skeleton)
        return contacts(self.skeleton, self.joints, self.step, leg_length(self.skeleton), feet)

    def slide(self, contact: FootContact) -> float:
        """How far (cm) a standing foot moves over the floor as the clip moves the body: ankle or ball, the less."""
        start, end = contact.start, max(contact.end, contact.start + 1)
        out, worlds = [], self.world(slice(start, end))
        for joint in {contact.joint, toes_of(self.skeleton, contact.joint)}:
            way = worlds[:, joint, :3, 3][:, [0, 2]]
            out.append(float(np.linalg.norm(way - way[0], axis=-1).max()))
        return min(out) * 100.0


@dataclass(frozen=True, eq=False)
class Take:
    """An animation on the frames of its source, mirrored or not, with poses keyed over it: what all clips that are cut
    out of it share."""

    fps: float
    times: Array
    pose: Pose
    joints: Array
    rest: Pose


def take_of(build: CompiledProject, clip: Clip) -> Take | None:
    """The take of a clip (``bare``); None when its file lacks it."""
    assets = build.assets
    motion = motion_of(assets, clip)
    if motion is None or len(assets.skeleton) == 0:
        return None
    frames = min(max(1, round(motion.seconds * motion.fps)), MOST_FRAMES)
    at = motion.seconds * np.arange(frames + 1) / frames
    pose = clip_pose(assets, clip, at)
    joints = np.empty((frames + 1, len(assets.skeleton), 3))
    for low in range(0, frames + 1, CHUNK):
        rows = slice(low, low + CHUNK)
        joints[rows] = forward(assets.skeleton, pose.rotation[rows], pose.translation[rows])[..., :3, 3]
    return Take(motion.fps, at, pose, joints, motion.rest if motion.rest is not None else assets.skeleton.rest_pose())


def bare(clip: Clip) -> Clip:
    """A clip with nothing but what its take depends on."""
    return Clip(
        name="", file=clip.file, animation=clip.animation, mirror=clip.mirror, poses=clip.poses, clean=clip.clean
    )


def reading_of(build: CompiledProject, name: str) -> Reading | None:
    """A clip of a project, read over its whole source; None when there is none, or its file is gone."""
    clip = build.clip(name)
    take = build.ask(take_of, bare(clip)) if clip is not None else None
    return _reading(build.assets, clip, build.roots, take) if clip is not None and take is not None else None


def _reading(assets: Assets, clip: Clip, roots: Roots, take: Take) -> Reading:
    moving = track_of(assets, clip, roots)
    place, yaw = moving.at(take.times)
    travel = way_between(place, yaw, scale_of(clip))
    track = track_of(assets, replace(clip, root=RootUse()), roots)
    return Reading(
        clip,
        assets.skeleton,
        take.fps,
        take.times,
        take.pose,
        take.joints,
        travel,
        moving,
        track,
        take.rest,
        roots.hips,
    )


def uncleaned(build: CompiledProject, name: str) -> Reading | None:
    """A clip of a project read without its cleaning; None when it has none, or its file is gone."""
    clip = build.clip(name)
    if clip is None or clip.clean == Clean():
        return None
    raw = replace(clip, clean=Clean())
    take = build.ask(take_of, bare(raw))
    return _reading(build.assets, raw, build.roots, take) if take is not None else None


def floor_off(reading: Reading) -> float:
    """How far (m) a take would have to be lifted for its feet to stand at the figure's own height; 0 without feet."""
    feet = feet_of(reading.skeleton)
    stand = [float(np.median(reading.joints[c.start : c.end, c.joint, 1])) for c in reading.contacts]
    rest = {c.joint: float(reading.skeleton.rest_world[c.joint, 1, 3]) for c in reading.contacts}
    if not feet or not stand:
        return 0.0
    gaps = [rest[c.joint] - high for c, high in zip(reading.contacts, stand)]
    return float(np.median(gaps))


def idle_pose(build: CompiledProject) -> Pose | None:
    """The pose actions come from, about its body: the first frame of idle; None without locomotion."""
    clip, assets = build.clip(build.idle_clip), build.assets
    if clip is None or motion_of(assets, clip) is None:
        return None
    start, end = ends(assets, clip)
    return about_body(assets, clip, end if clip.reverse else start, build.roots)


def used_frames(assets: Assets, reading: Reading) -> tuple[int, int]:
    """First and last frame between the clip's in and out."""
    start, end = ends(assets, reading.clip)
    return reading.frame_of(start), reading.frame_of(end)
