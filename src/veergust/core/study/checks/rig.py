"""Joints that mounts, hurtboxes and masks name."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from veergust.core.kinds import Finding, Part, Ref, joint_known
from veergust.core.model import Mask
from veergust.core.motion import nearest
from veergust.core.play import CompiledProject


def check(build: CompiledProject) -> Iterator[Finding]:
    """Joints that the figure does not have."""
    rig, mounts = build.project.rig, build.mounts
    named: list[tuple[str, Part, str, tuple[str, ...]]] = [
        *((m.joint, "rig", "", ("rig", f"mount {m.name}")) for m in rig.mounts),
        *((h.joint, "rig", "", ("rig", f"hurtbox {h.name}")) for h in rig.hurtboxes if h.joint not in mounts),
        *((j, "mask", m.name, (f"mask {m.name}",)) for m in build.project.masks for j in _joints(m)),
        (rig.root if rig.root not in build.assets.skeleton.index else "", "rig", "", ("rig", "root")),
    ]
    for joint, part, name, words in named:
        for found in joint_known(build, joint, Ref(part, name, words), "joint"):
            like = nearest(build.assets.skeleton, joint) if "as the figure has it" not in found.do else ""
            yield replace(found, do=f"take {like!r}, if that is meant, or another of the figure") if like else found


def _joints(mask: Mask) -> list[str]:
    return [mask.joint, *(joint for joint, _ in mask.weights)]
