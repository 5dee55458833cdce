"""Step 7 of the tick: the final pose, locomotion first and then each layer from the bottom up.

Every fade is a mix over what is already there, and what is underneath keeps playing. A fade that is interrupted
therefore starts from the pose that was on screen, since that is what it is mixed over.
"""

from __future__ import annotations

from dataclasses import replace

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
from veergust.core.play.pose import gaze, hands
from veergust.core.play.pose.footing import laid, step
from veergust.core.play.pose.speaking import hidden, left_to_locomotion, weight_of
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
    return out, replace(voice, going=tuple(going))


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


def final_pose(build: CompiledProject, fighter: FighterState) -> Pose:
    """Locomotion, then every action over it by mask, layer weight and fade."""
    pose: Pose | None = None if hidden(build, fighter) else locomotion_pose(build, fighter)
    voices = []
    for i, voice in enumerate(fighter.voices):
        layer = build.layers.get(voice.layer)
        much = weight_of(build, fighter, i) if layer is not None else 0.0
        if layer is not None and much > 0.0:
            pose, voice = _over(build, fighter, layer, pose, voice, much)
        voices.append(voice)
    fighter.voices = tuple(voices)
    return pose if pose is not None else build.assets.skeleton.rest_pose()


def _over(
    build: CompiledProject, fighter: FighterState, layer: CompiledLayer, base: Pose | None, voice: Voice, much: float
) -> tuple[Pose, Voice]:
    """What is there with an action over it, or added to it; and the action with the way its mix goes."""
    pose, voice = voice_pose(voice)
    if base is None:
        return pose, voice
    bones, space = build.assets.skeleton, layer.layer.space
    if layer.additive:
        if layer.layer.adds == "start" and voice.reference is None:
            voice = replace(voice, reference=locomotion_pose(build, fighter))
        reference = _reference(build, layer.layer, voice)
        out, way = added(bones, base, pose, reference, much * layer.mask, voice.way, space, layer.hangs)
    elif layer.even is not None and space == "joint":
        out, way = mix_on(base, pose, much * layer.even, voice.way)
    else:
        out, way = over(bones, base, pose, much * layer.mask, voice.way, space, layer.hangs)
    return out, replace(voice, way=way) if way is not voice.way else voice


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


def place_pose(build: CompiledProject, fighter: FighterState) -> None:
    """Work out the pose, and the joints in the body's frame, keeping the last ones for the sweep."""
    fighter.joints_before = fighter.joints
    _worked_out(build, fighter, on=True)
    if fighter.joints_before is None:
        fighter.joints_before = fighter.joints


def pose_again(build: CompiledProject, fighter: FighterState) -> None:
    """Work out the pose once more on the same tick, after what plays has changed."""
    _worked_out(build, fighter, on=False)


def _worked_out(build: CompiledProject, fighter: FighterState, *, on: bool) -> None:
    """The pose of the layers, and the corrections after them, which go ``on`` by a tick or stay as they are."""
    pose = final_pose(build, fighter)
    fighter.pose = pose
    fighter.joints = forward(build.assets.skeleton, pose.rotation, pose.translation)[0]
    if build.project.locomotion.feet.weight > 0.0:
        if on:
            step(build, fighter, lambda joint: left_to_locomotion(build, fighter, joint))
        fighter.pose, fighter.joints = laid(build, fighter, pose, fighter.joints)
    if build.project.locomotion.look.weight > 0.0:
        if on:
            gaze.step(build, fighter)
        fighter.pose, fighter.joints = gaze.looked(build, fighter, fighter.pose, fighter.joints)
    if build.project.grips:
        if on:
            hands.step(build, fighter)
        fighter.pose, fighter.joints = hands.kept(build, fighter, fighter.pose, fighter.joints)
