"""Hitboxes that do not do what they are for: too large, or too far off."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from veergust.core.kinds import Finding, in_action
from veergust.core.model import Hitbox, Strike
from veergust.core.motion import Array
from veergust.core.play import CompiledAction, CompiledProject, box_frame, hit_volume

ARM = 0.45
"""An arm's reach as a part of the body's height."""


def check(build: CompiledProject, compiled: CompiledAction) -> Iterator[Finding]:
    """Hitboxes larger than an arm reaches, or farther than that from weapon and limb."""
    arm = ARM * build.project.rig.capsule.height
    for i, part in enumerate(compiled.sections):
        for n, strike in enumerate(part.section.strikes):
            name = compiled.action.name
            where = in_action(name, part.section.name, strike.name, section=i, kind="strikes", index=n)
            for box in strike.boxes:
                size = max(box.radius, *(k.radius for k in box.keys), *(box.size if box.shape == "box" else ()), 0.0)
                if size > arm and build.assets.skeleton.picture < 0:
                    yield Finding("hitbox-huge", "warning", where, f"has a hitbox {size:.2f} m thick",
                                  "fit it to the weapon or the limb")  # fmt: skip
                elif build.assets.skeleton.picture < 0 and _far(build, compiled, i, strike, box) > arm:
                    far = _far(build, compiled, i, strike, box)
                    yield Finding("hitbox-far", "warning", where,
                                  f"has a hitbox {far:.2f} m from its mount and the weapon",
                                  "bring it to them")  # fmt: skip


def _far(build: CompiledProject, compiled: CompiledAction, section: int, strike: Strike, box: Hitbox) -> float:
    """How far (m) a hitbox is from its mount, or from the weapon's line where that is nearer, as it opens."""
    part = compiled.sections[section]
    tick = min(max(strike.start, 0), part.ticks - 1)
    joints, mirrored = part.world[tick], part.mirrored(tick)
    volume = hit_volume(build, box, tick, mirrored, joints, joints, True)
    if volume is None:
        return 0.0
    ends = [volume.frame_now[:3, 3]] * 2
    weapon = build.project.rig.weapon
    if weapon is not None:
        line = [box_frame(build, Hitbox(mount=m), joints, mirrored) for m in (weapon.base, weapon.tip)]
        ends += [frame[:3, 3] for frame in line if frame is not None]
    a, b = volume.now
    points = a + (b - a) * np.linspace(0.0, 1.0, 9)[:, None]
    return min(_from_line(points, p, q) for p, q in zip(ends[::2], ends[1::2])) - volume.radius


def _from_line(points: Array, p: Array, q: Array) -> float:
    way = q - p
    t = np.clip((points - p) @ way / max(float(way @ way), 1e-12), 0.0, 1.0)
    return float(np.linalg.norm(points - (p + t[:, None] * way), axis=-1).min())
