"""The demo's figure as another program would hand it over: other names, unit, axes and rest pose, as BVH."""

from __future__ import annotations

import sys

from tools.made import DEMO

sys.path.insert(0, str(DEMO.parent))
from bvh_out import as_bvh, t_pose

__all__ = ["MANNERS", "as_bvh", "names_in", "t_pose"]

# The same parts under names of three manners; joints that are not listed are left out of the file.
PARTS = ["hips", "waist", "spine", "chest", "neck", "head"]
LIMBS = ["collar", "upper_arm", "forearm", "hand", "thigh", "shin", "foot", "toes"]
MANNERS = {
    "camel": (["Hips", "Spine", "Spine1", "Spine2", "Neck", "Head"],
              ["Shoulder", "Arm", "ForeArm", "Hand", "UpLeg", "Leg", "Foot", "ToeBase"], "{Side}{name}"),
    "short": (["pelvis", "spine_01", "spine_02", "spine_03", "neck_01", "head"],
              ["clavicle", "upperarm", "lowerarm", "hand", "thigh", "calf", "foot", "ball"], "{name}_{s}"),
    "prefixed": (["Hip", "Waist", "Abdomen", "Chest", "Neck", "Head"],
                 ["Collar", "Shldr", "Elbow", "Wrist", "Hip", "Knee", "Ankle", "Toe"], "{s}{name}"),
}  # fmt: skip


def names_in(manner: str, prefix: str = "") -> dict[str, str]:
    """The figure's joint → its name in a manner."""
    middle, limbs, form = MANNERS[manner]
    out = dict(zip(PARTS, middle))
    for side in ("left", "right"):
        for own, name in zip(LIMBS, limbs):
            out[f"{own}_{side}"] = form.format(Side=side.capitalize(), s=side[0], name=name)
    return {own: prefix + name for own, name in out.items()}
