"""What a project needs beside a figure before anything can be tried: fighters, a stage, commands, hurtboxes, a stand.

Only what is missing is put in, made from the figure's own joints, whatever creature it is.
"""

from __future__ import annotations

import numpy as np
from msgspec.structs import replace

from veergust.core.edit.hurtboxes import hurtboxes_of
from veergust.core.model import (
    Capsule,
    Clip,
    Command,
    Fighter,
    Floor,
    Layer,
    Locomotion,
    Mount,
    PoseKey,
    Post,
    Project,
    Rig,
    Stage,
    State,
)
from veergust.core.motion import (
    Array,
    Assets,
    Pose,
    Roots,
    Skeleton,
    about_body,
    forward,
    hips_of,
    key_of,
    over_body,
    parts_of,
)

COMMANDS = (
    Command(name="dodge", keys=("D", "pad east")),
    Command(name="jump", keys=("G", "pad south")),
    Command(name="guard", keys=("F", "pad left shoulder")),
    Command(name="heavy", keys=("S", "pad north")),
    Command(name="light", keys=("A", "pad west")),
)
STAND = "stand"
MOUNTS = ("hand", "foot", "head")


def outfit(project: Project, assets: Assets) -> Project:
    """``project`` with all that its figure needs to be tried; what it has of its own stays."""
    bones = assets.skeleton
    if len(bones) == 0:
        return project
    tall = height_of(assets)
    rig = _rig(project.rig, assets, tall)
    changed = replace(project, rig=rig, commands=project.commands or COMMANDS, layers=project.layers or BODY)
    if not project.locomotion.states:
        stand = _stand(project, assets)
        taken = {clip.name for clip in project.clips}
        name = STAND if STAND not in taken else f"{STAND} still"
        changed = replace(
            changed,
            clips=(*project.clips, replace(stand, name=name)),
            locomotion=Locomotion(entry=name, states=(State(name=name, clip=name),)),
        )
    elif bones.picture < 0 and any(_untouched(clip) for clip in project.clips):
        # It stood as the figure rests while there was no clip to stand like.
        stand = _stand(project, assets)
        clips = (replace(stand, name=clip.name) if _untouched(clip) else clip for clip in project.clips)
        changed = replace(changed, clips=tuple(clips))
    if not project.stage.fighters:
        changed = replace(changed, stage=_stage(rig.capsule, tall))
    return changed


def height_of(assets: Assets) -> float:
    """How tall the figure stands at rest (m), from what is its body."""
    over = over_body(assets.skeleton)
    points = assets.skeleton.rest_world[[j for j in range(len(assets.skeleton)) if j not in over], :3, 3]
    return max(float(np.ptp(points[:, 1])), 0.2) if len(points) else 0.2


RESTING = Clip(name=STAND, loop=True, poses=(PoseKey(time=0.0), PoseKey(time=1.0)))


def _untouched(clip: Clip) -> bool:
    return clip == replace(RESTING, name=clip.name) and clip.name.startswith(STAND)


def before_stand(clips: tuple[Clip, ...], new: tuple[Clip, ...]) -> tuple[Clip, ...]:
    """Clips with new ones, behind which the stand that was made stays the last."""
    made = [c for c in clips if not c.file and c.name.startswith(STAND)]
    return (*(c for c in clips if c not in made), *new, *made)


BODY = (Layer(name="Body"),)


def _stage(body: Capsule, tall: float) -> Stage:
    """A level with an edge, a post to strike at, somebody who is played and somebody who stands."""
    far = round(max(0.55 * tall, 2.0 * body.radius + 0.2), 2)
    wide = round(3.5 * tall, 1)
    return Stage(
        name="Plain, with an edge",
        floors=(
            Floor(name="floor", low=(-wide, -0.6 * wide), high=(0.8 * wide, 0.6 * wide)),
            Floor(name="below", low=(-40.0, -40.0), high=(40.0, 40.0), height=-2.5),
        ),
        posts=(Post(name="post", position=(-round(1.5 * tall, 2), 0.0, 0.0), height=round(0.65 * tall, 2)),),
        fighters=(
            Fighter(name="One", position=(-far, 0.0, 0.0), facing=90.0, plays="keys"),
            Fighter(name="Other", position=(far, 0.0, 0.0), facing=-90.0),
        ),
    )


def _stand(project: Project, assets: Assets) -> Clip:
    """A rough clip that stands as the first clip does where it is stillest; the rest pose when there is none."""
    bones = assets.skeleton
    clip = next((c for c in project.clips if c.file and assets.motion(c.file, c.animation) is not None), None)
    rest = bones.rest_pose()
    if clip is None:
        return RESTING
    motion = assets.motion(clip.file, clip.animation)
    assert motion is not None
    index = bones.index
    roots = Roots(index.get(project.rig.root, -1), index.get(project.rig.hips, hips_of(bones)))
    step = min(1.0 / motion.fps, motion.seconds / 2 or 1.0)
    pose = about_body(assets, clip, _stillest(assets, clip, motion.seconds, step, roots), roots)
    key = key_of(bones, 0.0, rest, pose)
    return Clip(name=STAND, loop=True, poses=(key, replace(key, time=1.0)))


def _stillest(assets: Assets, clip: Clip, seconds: float, step: float, roots: Roots) -> float:
    """Where a clip moves least, past its very first frames, which may be an export's rest pose."""
    at = np.arange(2 * step, max(seconds - step, 3 * step), max(step, seconds / 400.0))
    places = np.stack([_places(assets.skeleton, about_body(assets, clip, float(t), roots)) for t in at[:400]])
    if len(places) < 3:
        return float(at[0])
    stir = np.linalg.norm(np.gradient(places, axis=0), axis=-1).mean(axis=-1)
    return float(at[int(np.argmin(stir))])


def _places(bones: Skeleton, pose: Pose) -> Array:
    return np.asarray(forward(bones, pose.rotation, pose.translation)[0, :, :3, 3])


def _rig(rig: Rig, assets: Assets, tall: float) -> Rig:
    radius = round(min(max(0.165 * tall, 0.1), 1.5), 3)
    capsule = Capsule(radius=radius, height=round(max(tall * 1.05, 2.0 * radius + 0.01), 3))
    return replace(
        rig,
        mounts=rig.mounts or _mounts(assets.skeleton),
        hurtboxes=rig.hurtboxes or hurtboxes_of(assets, tall),
        capsule=capsule if rig.capsule == Capsule() else rig.capsule,
    )


def _mounts(bones: Skeleton) -> tuple[Mount, ...]:
    """A mount on each hand, foot and head, by what the joints' names mean; else on every end of a chain."""
    found: dict[tuple[str, str], Mount] = {}
    parts = parts_of(bones)
    for name, part in zip(bones.names, parts):
        if part.kind in MOUNTS and not part.end and (part.kind, part.side) not in found:
            words = f"{part.side} {part.kind}".strip()
            found[part.kind, part.side] = Mount(name=words, joint=name)
    if found:
        return tuple(found.values())
    ends = [j for j in range(len(bones)) if j not in bones.parents]
    return tuple(Mount(name=bones.names[j], joint=bones.names[j]) for j in ends)
