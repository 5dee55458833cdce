"""The figure of an export: joints, mounts, hurtboxes, the capsule, and what is asked of its legs."""

from __future__ import annotations

import numpy as np

from veergust.core.export.actions import Json
from veergust.core.export.axes import Axes
from veergust.core.export.plain import full, number, numbers
from veergust.core.export.poses import skeleton_in
from veergust.core.model import Hurtbox
from veergust.core.motion import feet_of
from veergust.core.play import CompiledProject, place_of


def figure_out(build: CompiledProject, axes: Axes) -> Json:
    """The figure as the game loads it."""
    rig, bones = build.project.rig, skeleton_in(build.assets.skeleton, axes)
    skeleton, names = build.assets.skeleton, build.assets.skeleton.names
    mounts = [{"name": m.name, **here, "other": _mount(build, m.name, axes, True)}
              for m in rig.mounts if (here := _mount(build, m.name, axes)) is not None]  # fmt: skip
    return {
        "root": names[build.root_joint],
        "hips": names[build.roots.hips],
        "picture": names[skeleton.picture] if skeleton.picture >= 0 else None,
        "joints": [
            {
                "name": name,
                "parent": names[parent] if parent >= 0 else None,
                "other": names[skeleton.mirrored[n]],
                "turn": numbers(bones.rest_rotation[n]),
                "place": numbers(bones.rest_translation[n]),
            }
            for n, (name, parent) in enumerate(zip(bones.names, bones.parents))
        ],
        "feet": [names[foot] for foot in feet_of(skeleton)],
        "legs": _legs(build, axes),
        "mounts": mounts,
        "hurtboxes": [row for box in rig.hurtboxes if (row := _hurtbox(build, box, axes)) is not None],
        "regions": full(rig.regions),
        "capsule": {
            "radius": number(axes.length(rig.capsule.radius)),
            "height": number(axes.length(rig.capsule.height)),
        },
    }


def _mount(build: CompiledProject, name: str, axes: Axes, mirrored: bool = False) -> Json | None:
    """The joint a mount is on, and its frame there."""
    at = build.mount(name, mirrored)
    if at is None:
        return None
    return {"joint": build.assets.skeleton.names[at[0]], "frame": numbers(axes.frames(at[1]))}


def _legs(build: CompiledProject, axes: Axes) -> list[Json]:
    """The legs whose feet are laid on the floor: their joints, the lengths of their bones, and how high the ball of the
    foot is over the floor at rest."""
    names, legs = build.assets.skeleton.names, build.limbs
    return [
        {
            **dict(zip(("thigh", "shin", "foot", "ball"), (names[j] for j in joints))),
            "upper": number(axes.length(upper)),
            "lower": number(axes.length(lower)),
            "ball_height": number(axes.length(high)),
        }
        for joints, (upper, lower), high in zip(legs.joints.tolist(), legs.lengths.tolist(), legs.tip_high.tolist())
    ]


def _hurtbox(build: CompiledProject, box: Hurtbox, axes: Axes) -> Json | None:
    at = place_of(box.joint, build.assets.skeleton.index, build.mount)
    if at is None:
        return None
    joint, frame = at
    ends = np.array([box.offset, box.to]) @ frame[:3, :3].T + frame[:3, 3]
    out: Json = {
        "name": box.name,
        "joint": build.assets.skeleton.names[joint],
        "region": box.region,
        "postures": list(box.postures),
    }
    if box.spans in build.assets.skeleton.index:
        return out | {"shape": "span", "to_joint": box.spans, "deep": number(axes.length(box.radius))}
    if box.size is None:
        radius = number(axes.length(box.radius))
        return out | {"shape": "capsule", "from": numbers(axes.places(ends[0])), "to": numbers(axes.places(ends[1])),
                      "radius": radius}  # fmt: skip
    turn = axes.matrix @ frame[:3, :3] @ axes.matrix.T
    return out | {"shape": "box", "middle": numbers(axes.places(ends[0])), "half": numbers(axes.halves(box.size)),
                  "turn": numbers(turn)}  # fmt: skip
