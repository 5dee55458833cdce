"""What strikes: the weapon's line, or the flesh about the joint that a hitbox rides on."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from veergust.core.motion import Array, over_body
from veergust.core.play import CompiledProject

SAMPLES = 33
"""Points along a weapon's line."""
MOST_POINTS = 240
BONE = 0.02
"""Flesh about a bone of a figure without a mesh, as a part of the figure's height."""


@dataclass(frozen=True, eq=False)
class Striking:
    """``N`` points of what strikes, each fixed on a joint ``[N]`` at a place in its frame ``[N, 3]`` (m), with so much
    about them (``thick``, m); ``what`` it is in a word."""

    joints: NDArray[np.intp]
    local: Array
    thick: float
    what: str

    def at(self, world: Array) -> Array:
        """Where they are ``[…, N, 3]`` under joint matrices ``[…, J, 4, 4]``."""
        frames = world[..., self.joints, :, :]
        return np.asarray((frames[..., :3, :3] @ self.local[:, :, None])[..., 0] + frames[..., :3, 3])


def striking(build: CompiledProject, mount: str, mirrored: bool = False) -> Striking | None:
    """What strikes with a hitbox on a mount: the weapon where it hangs on the weapon's joint, else what hangs on the
    mount's own. None when the rig has no such mount or joint."""
    key = "striking", mount, mirrored
    under = (build.assets, build.project.rig)
    kept = build.memo.get(key)
    if kept is None or kept[0][0] is not under[0] or kept[0][1] is not under[1]:
        kept = build.memo[key] = under, _striking(build, mount, mirrored)
    found: Striking | None = kept[1]
    return found


def _striking(build: CompiledProject, mount: str, mirrored: bool) -> Striking | None:
    there, weapon = build.mount(mount, mirrored), build.project.rig.weapon
    if there is None:
        return None
    if weapon is not None:
        base, tip = build.mount(weapon.base, mirrored), build.mount(weapon.tip, mirrored)
        if base is not None and tip is not None and there[0] in (base[0], tip[0]):
            return _line(base, tip, weapon.radius)
    return _flesh(build, there[0])


def _line(base: tuple[int, Array], tip: tuple[int, Array], radius: float) -> Striking:
    """Along a weapon; where its ends ride on two joints, half of it on each."""
    t = np.linspace(0.0, 1.0, SAMPLES)[:, None]
    if base[0] == tip[0]:
        local = base[1][:3, 3] + (tip[1][:3, 3] - base[1][:3, 3]) * t
        return Striking(np.full(SAMPLES, base[0]), local, radius, "weapon")
    joints = np.where(t[:, 0] < 0.5, base[0], tip[0])
    local = np.where(t < 0.5, base[1][:3, 3], tip[1][:3, 3])
    return Striking(joints, local, radius, "weapon")


def _flesh(build: CompiledProject, joint: int) -> Striking:
    """The skin that follows a joint, or what hangs on it, more than any other; without any, along its bones."""
    bones, mesh = build.assets.skeleton, build.assets.mesh
    below = np.array(sorted({joint, *bones.below((joint,))}))
    if mesh is not None and len(mesh.points):
        own = mesh.joints[np.arange(len(mesh.points)), np.argmax(mesh.weights, axis=1)]
        rows = np.flatnonzero(np.isin(own, below))
        if len(rows) >= 8:
            rows = rows[:: -(-len(rows) // MOST_POINTS)]
            bind = mesh.inverse_bind[own[rows]]
            points = (bind[:, :3, :3] @ mesh.points[rows][:, :, None])[:, :, 0] + bind[:, :3, 3]
            return Striking(own[rows].astype(np.intp), points, 0.0, "limb")
    tall = float(np.ptp(bones.rest_world[[j for j in range(len(bones)) if j not in over_body(bones)], 1, 3]))
    ends = [(bones.parents[c], bones.rest_translation[c]) for c in below if bones.parents[c] in below]
    spread = np.linspace(0.0, 1.0, 8)[:, None]
    joints = [joint, *(p for p, _ in ends for _ in spread)]
    local = np.concatenate([np.zeros((1, 3)), *(end * spread for _, end in ends)])
    return Striking(np.array(joints, dtype=np.intp), local, BONE * max(tall, 0.2), "limb")
