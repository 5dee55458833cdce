"""Step 7 of the tick: the final pose, locomotion first and then each layer from the bottom up.

Every fade is a mix over what is already there, and what is underneath keeps playing. A fade that is interrupted
therefore starts from the pose that was on screen, since that is what it is mixed over.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from math import cos, radians, sin

import numpy as np

from veergust.core.model import Layer
from veergust.core.motion import Array, Pose, added, ease, forward, over
from veergust.core.play.compiled.layering import CompiledLayer
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.locomotion.playing import Moments, mixed, moments_of
from veergust.core.play.pose import aiming, footing, gaze, hands
from veergust.core.play.pose.speaking import hidden, mixed_by, weights_of
from veergust.core.play.state import FighterState, Voice

EVENLY = np.ones(1)


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
        onto_pose = pose if onto is None else parts[onto.section].past(onto.tick)
        much = ease(kind, (gone.age + 1) / (gone.blend + 1))
        out, way = over(voice.part.skeleton, out, onto_pose, EVENLY, gone.way, share=much)
        going.append(replace(gone, way=way))
    return out, voice.but(going=tuple(going))


def locomotion_pose(build: CompiledProject, fighter: FighterState) -> Pose:
    """The pose of locomotion: its state, over the states it comes from while they fade."""
    out: Moments = []
    for n, voice in enumerate(fighter.locomotion):
        share = ease(voice.ease, voice.age / (voice.blend + 1)) if n else 1.0
        state = build.states.get(voice.state)
        if state is None:
            own: Moments = [(build.assets.skeleton.rest_pose(), 0.0, 1.0)]
        else:
            own = moments_of(build, fighter, state, voice.phase, voice.at)
        if n:
            under = [(p, at, m * (1.0 - share)) for p, at, m in out] if share < 1.0 else []
            out = under + [(p, at, m * share) for p, at, m in own] if share > 0.0 else under
        else:
            out = own
    return mixed(build, out)


def final_pose(build: CompiledProject, fighter: FighterState) -> Pose:
    """Locomotion, then every action over it by mask, layer weight and fade."""
    # What hides locomotion is the bottom of the pile.
    out = None if hidden(build, fighter) else locomotion_pose(build, fighter)
    weights = weights_of(build, fighter)
    voices = []
    aims, below = any(g.weight > 0.0 for g in fighter.aims), 0
    for voice, much, own in zip(fighter.voices, weights, mixed_by(build, fighter)):
        layer = build.layers.get(voice.layer)
        if aims and layer is not None:  # what is on a layer comes before its aim
            out, below = aiming.put(build, fighter, out, below, layer.place), max(below, layer.place)
        if layer is not None and much > 0.0:
            pose, voice = voice_pose(voice)
            by = (layer.mask, much) if own is None else (own, 1.0)
            out, voice = (pose, voice) if out is None else _over(build, fighter, layer, out, pose, voice, *by)
        voices.append(voice)
    if voices:
        fighter.voices = tuple(voices)
        fighter.weighed = (fighter.voices, fighter.parameters, fighter.by_hand, weights)
    if aims:
        out = aiming.put(build, fighter, out, below, len(build.layers))
    return out if out is not None else build.assets.skeleton.rest_pose()


def _over(
    build: CompiledProject,
    fighter: FighterState,
    layer: CompiledLayer,
    base: Pose,
    pose: Pose,
    voice: Voice,
    mask: Array,
    much: float,
) -> tuple[Pose, Voice]:
    """What there is of a fighter with an action's pose over it, or added to it, by ``much`` of ``mask`` ``[J]``; and
    the action with the way its mix goes."""
    if not layer.additive and mask is layer.mask and layer.even is not None and much * layer.even >= 1.0:
        return pose, voice.but(way=None) if voice.way is not None else voice
    bones, space = build.assets.skeleton, layer.layer.space
    if layer.additive:
        voice = _referred(build, layer.layer, fighter, voice)
        out, way = added(bones, base, pose, _reference(build, layer.layer, voice), mask, voice.way, space, much)
    else:
        out, way = over(bones, base, pose, mask, voice.way, space, much)
    return out, voice.but(way=way)


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
    turn = radians(facing)
    c, s = cos(turn), sin(turn)
    x, y, z = position
    return np.array([[c, 0.0, s, x], [0.0, 1.0, 0.0, y], [-s, 0.0, c, z], [0.0, 0.0, 0.0, 1.0]])


def place_poses(build: CompiledProject, fighters: Sequence[FighterState], floors: Array) -> None:
    """Work out poses over the ``floors`` (rows), and joints in the bodies' frames; the last are kept for the sweep."""
    for fighter in fighters:
        fighter.joints_before = fighter.joints
    _worked_out(build, fighters, floors)
    for fighter in fighters:
        if fighter.joints_before is None:
            fighter.joints_before = fighter.joints


def pose_again(build: CompiledProject, fighter: FighterState) -> None:
    """Work out the pose once more on the same tick, after what plays has changed."""
    _worked_out(build, [fighter], None)


def _worked_out(build: CompiledProject, fighters: Sequence[FighterState], floors: Array | None) -> None:
    """The poses of the layers, and the corrections after them, which go on by a tick over the ``floors`` or, with None,
    stay as they are."""
    if not fighters:
        return
    for fighter in fighters if floors is not None and build.aims else ():
        aiming.step(build, fighter)
    poses = [final_pose(build, fighter) for fighter in fighters]
    rotation = np.concatenate([p.rotation for p in poses])
    translation = np.concatenate([p.translation for p in poses])
    joints = forward(build.assets.skeleton, rotation, translation)
    for k, fighter in enumerate(fighters):
        _correct(build, fighter, rotation[k], translation[k], joints[k], floors)
        fighter.pose, fighter.joints = Pose(rotation[k : k + 1], translation[k : k + 1]), joints[k]


def _correct(
    build: CompiledProject,
    fighter: FighterState,
    rotation: Array,
    translation: Array,
    joints: Array,
    floors: Array | None,
) -> None:
    """Feet on the floor, the look, hands where they are kept: a pose ``[J, …]`` and its joints are changed in place."""
    ground = build.project.locomotion
    if ground.feet.weight > 0.0:
        if floors is not None:
            footing.step(build, fighter, joints, floors)
        footing.lay(build, fighter, rotation, translation, joints)
    if ground.look.weight > 0.0:
        if floors is not None:
            gaze.step(build, fighter, joints)
        gaze.turn(build, fighter, rotation, joints)
    if build.project.grips:
        if floors is not None:
            hands.step_hands(build, fighter)
        hands.keep(build, fighter, rotation, joints)
