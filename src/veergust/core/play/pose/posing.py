"""Step 7 of the tick: the final pose, locomotion first and then each layer from the bottom up.

Every fade is a mix over what is already there, and what is underneath keeps playing. A fade that is interrupted
therefore starts from the pose that was on screen, since that is what it is mixed over.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from veergust.core.model import Layer
from veergust.core.motion import quat
from veergust.core.motion.blend import ease, mix_on
from veergust.core.motion.layering import added, over
from veergust.core.motion.quat import Array
from veergust.core.motion.skeleton import Pose, forward
from veergust.core.play.compiled.layering import CompiledLayer
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.locomotion.playing import Frames, frames_of, mixed
from veergust.core.play.pose import footing, gaze, hands
from veergust.core.play.pose.speaking import hidden, weight_of
from veergust.core.play.state import FighterState, Voice


def voice_pose(voice: Voice) -> tuple[Pose, Voice]:
    """The pose of an action's frame, mixed over the sections it comes from; once ended its time runs on.

    The voice comes back with the ways its fades go.
    """
    frame = voice.frame + (voice.faded if voice.ended and not voice.last else 0)
    pose = voice.part.past(frame)
    if not voice.going:
        return pose, voice
    parts, kind = voice.compiled.sections, voice.compiled.action.ease
    out = parts[voice.going[0].section].past(voice.going[0].tick)
    going = []
    for gone, onto in zip(voice.going, (*voice.going[1:], None)):
        over = pose if onto is None else parts[onto.section].past(onto.tick)
        out, way = mix_on(out, over, ease(kind, (gone.age + 1) / (gone.blend + 1)), gone.way)
        going.append(replace(gone, way=way))
    return out, voice.but(going=tuple(going))


def locomotion_pose(build: CompiledProject, fighter: FighterState) -> Pose:
    """The pose of locomotion: its state, over the states it comes from while they fade."""
    frames: Frames = []
    for n, voice in enumerate(fighter.locomotion):
        share = ease(voice.ease, voice.age / (voice.blend + 1)) if n else 1.0
        state = build.states.get(voice.state)
        if state is None:
            own: Frames = [(build.assets.skeleton.rest_pose(), 0, 1.0)]
        else:
            own = frames_of(build, fighter, state, voice.phase, voice.at)
        frames = [(p, f, m * (1.0 - share)) for p, f, m in frames if share < 1.0] + [
            (p, f, m * share) for p, f, m in own if share > 0.0
        ]
    return mixed(build, frames)


@dataclass(frozen=True, eq=False)
class _Next:
    """The next action to be laid over what there is of a fighter: by how much, on which layer, with its pose."""

    layer: CompiledLayer
    voice: Voice
    pose: Pose
    much: float


def final_poses(build: CompiledProject, fighters: Sequence[FighterState]) -> list[Pose]:
    """Locomotion, then every action over it by mask, layer weight and fade, for each of some fighters.

    What is laid over them on one layer is laid over all of them at once.
    """
    rest = build.assets.skeleton.rest_pose
    bases = [None if hidden(build, f) else locomotion_pose(build, f) for f in fighters]
    voices = [list(f.voices) for f in fighters]
    at = [0] * len(fighters)
    while True:
        nexts: dict[int, _Next] = {}
        for k, fighter in enumerate(fighters):
            found = _next(build, fighter, at[k])
            while found is not None and bases[k] is None:
                # What hides locomotion is the bottom of the pile.
                at[k], bases[k] = found[0] + 1, found[1].pose
                voices[k][found[0]] = found[1].voice
                found = _next(build, fighter, at[k])
            if found is not None:
                at[k], nexts[k] = found
        if not nexts:
            break
        lowest = min(n.layer.place for n in nexts.values())
        group = [k for k, n in nexts.items() if n.layer.place == lowest]
        laid_over = _over_all(build, [(fighters[k], bases[k] or rest(), nexts[k]) for k in group])
        for k, (pose, voice) in zip(group, laid_over):
            voices[k][at[k]], bases[k] = voice, pose
            at[k] += 1
    for fighter, own in zip(fighters, voices):
        fighter.voices = tuple(own)
    return [pose if pose is not None else rest() for pose in bases]


def _next(build: CompiledProject, fighter: FighterState, start: int) -> tuple[int, _Next] | None:
    """The first action from one on that shows, and its place."""
    for i in range(start, len(fighter.voices)):
        voice = fighter.voices[i]
        layer = build.layers.get(voice.layer)
        much = weight_of(build, fighter, i) if layer is not None else 0.0
        if layer is not None and much > 0.0:
            pose, voice = voice_pose(voice)
            return i, _Next(layer, voice, pose, much)
    return None


def _over_all(build: CompiledProject, rows: list[tuple[FighterState, Pose, _Next]]) -> list[tuple[Pose, Voice]]:
    """What is there of some fighters with an action of one layer over each, or added to it; and the actions with the
    way their mixes go."""
    layer = rows[0][2].layer
    out: list[tuple[Pose, Voice] | None] = [None] * len(rows)
    mixed_: list[int] = []
    for k, (_, _, n) in enumerate(rows):
        if not layer.additive and layer.even is not None and n.much * layer.even >= 1.0:
            out[k] = n.pose, n.voice.but(way=None) if n.voice.way is not None else n.voice
        else:
            mixed_.append(k)
    if mixed_:
        base, pose = (_stacked([rows[k][1] for k in mixed_]), _stacked([rows[k][2].pose for k in mixed_]))
        weight = np.array([rows[k][2].much for k in mixed_])[:, None] * layer.mask
        ways = [rows[k][2].voice.way for k in mixed_]
        way = None
        if any(w is not None for w in ways):
            way = np.concatenate([w if w is not None else _shortest(layer) for w in ways])
        space, bones = layer.layer.space, build.assets.skeleton
        voices = [rows[k][2].voice for k in mixed_]
        if layer.additive:
            voices = [_referred(build, layer.layer, rows[k][0], rows[k][2].voice) for k in mixed_]
            rest = _stacked([_reference(build, layer.layer, v) for v in voices])
            put, way = added(bones, base, pose, rest, weight, way, space)
        else:
            put, way = over(bones, base, pose, weight, way, space)
        for row, (k, voice) in enumerate(zip(mixed_, voices)):
            one = slice(row, row + 1)
            laid_over = Pose(put.rotation[one], put.translation[one])
            out[k] = laid_over, voice.but(way=way[one] if way is not None else None)
    return [done for done in out if done is not None]


def _stacked(poses: list[Pose]) -> Pose:
    if len(poses) == 1:
        return poses[0]
    return Pose(np.concatenate([p.rotation for p in poses]), np.concatenate([p.translation for p in poses]))


def _shortest(layer: CompiledLayer) -> Array:
    """The way of what is not mixed yet: whichever is the shorter."""
    return np.tile(quat.IDENTITY, (1, len(layer.mask), 1))


def _referred(build: CompiledProject, layer: Layer, fighter: FighterState, voice: Voice) -> Voice:
    """An action that adds to locomotion's pose at its start, with that pose."""
    if layer.adds != "start" or voice.reference is not None:
        return voice
    return voice.but(reference=locomotion_pose(build, fighter))


def _reference(build: CompiledProject, layer: Layer, voice: Voice) -> Pose:
    """The pose whose difference to an action's an additive layer adds."""
    if layer.adds == "start" and voice.reference is not None:
        return voice.reference
    clip = build.locomotion_clip(layer.reference)
    seconds = layer.at
    if layer.adds == "alongside":
        seconds = (voice.age + voice.faded) / build.project.settings.rate
    own = seconds / clip.seconds if clip.seconds > 0.0 else 0.0
    return clip.at(own, clip.loop) if layer.adds == "alongside" else clip.at(min(max(own, 0.0), 1.0), False)


def body_matrix(position: Array, facing: float) -> Array:
    """The body's frame ``[4, 4]`` in the world; ``facing`` in degrees."""
    out = np.eye(4)
    out[:3, :3] = quat.to_matrix(quat.from_yaw(np.radians(facing)))
    out[:3, 3] = position
    return out


def place_poses(build: CompiledProject, fighters: Sequence[FighterState]) -> None:
    """Work out poses, and joints in the bodies' frames, keeping the last ones for the sweep."""
    for fighter in fighters:
        fighter.joints_before = fighter.joints
    _worked_out(build, fighters, on=True)
    for fighter in fighters:
        if fighter.joints_before is None:
            fighter.joints_before = fighter.joints


def pose_again(build: CompiledProject, fighter: FighterState) -> None:
    """Work out the pose once more on the same tick, after what plays has changed."""
    _worked_out(build, [fighter], on=False)


def _worked_out(build: CompiledProject, fighters: Sequence[FighterState], *, on: bool) -> None:
    """The poses of the layers, and the corrections after them, which go ``on`` by a tick or stay as they are."""
    if not fighters:
        return
    poses = final_poses(build, fighters)
    rotation = np.concatenate([p.rotation for p in poses])
    translation = np.concatenate([p.translation for p in poses])
    joints = forward(build.assets.skeleton, rotation, translation)
    for k, fighter in enumerate(fighters):
        _correct(build, fighter, rotation[k], translation[k], joints[k], on=on)
        fighter.pose, fighter.joints = Pose(rotation[k : k + 1], translation[k : k + 1]), joints[k]


def _correct(
    build: CompiledProject, fighter: FighterState, rotation: Array, translation: Array, joints: Array, *, on: bool
) -> None:
    """Feet on the floor, the look, hands where they are kept: a pose ``[J, …]`` and its joints are changed in place."""
    ground = build.project.locomotion
    if ground.feet.weight > 0.0:
        if on:
            footing.step(build, fighter, joints)
        footing.lay(build, fighter, rotation, translation, joints)
    if ground.look.weight > 0.0:
        if on:
            gaze.step(build, fighter, joints)
        gaze.turn(build, fighter, rotation, joints)
    if build.project.grips:
        if on:
            hands.step(build, fighter)
        hands.keep(build, fighter, rotation, joints)
