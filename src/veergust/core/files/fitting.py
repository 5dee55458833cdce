"""Making a file's figure stand in metres, upright on +Y and looking along +Z."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from veergust.core.files.motion_file import MotionFile
from veergust.core.model import Rig, Vec3
from veergust.core.motion import Motion, Skeleton, Track, above_feet, hips_of, parts_of, quat

UNITS = {1.0: "metres", 0.01: "centimetres", 0.0254: "inches", 0.001: "millimetres", 0.3048: "feet"}
TALL = 1.75
"""As tall (m) as a person is made whose file has no unit that is known."""
PERSON = (0.9, 2.6)
"""How tall a person is, in rest (m)."""
BELIEVABLE = (0.3, 6.0)
"""How large what is no person is, along its longest side (m)."""


def fitted(content: MotionFile, rig: Rig) -> MotionFile:
    """``content`` made ``rig.unit`` times as large and turned by ``rig.turn``."""
    if content.drawn is not None:
        return content
    lift = floor_lift(content.skeleton, rig)
    if rig.unit == 1.0 and not any(rig.turn) and lift == 0.0:
        return content
    bones, spin = content.skeleton, quat.from_euler(rig.turn)
    roots = {j for j, parent in enumerate(bones.parents) if parent < 0}
    turn, place = bones.rest_rotation.copy(), bones.rest_translation * rig.unit
    for j in roots:
        turn[j], place[j] = quat.multiply(spin, turn[j]), quat.rotate(spin, place[j])
    stood = Skeleton(bones.names, bones.parents, turn, place)
    hips = hips_of(bones)
    if lift:
        place = place.copy()
        place[hips] += _seen_from(bones.parents, turn, hips, np.array([0.0, lift, 0.0]))
    mesh = content.mesh
    if mesh is not None:
        # Points and binding both grow and turn, so that the pose they were bound in stays the rest pose.
        grow = np.eye(4)
        grow[:3, :3] = quat.to_matrix(spin) * rig.unit
        points = mesh.points.astype(np.float64) @ grow[:3, :3].T + np.array([0.0, lift, 0.0])
        bind = mesh.inverse_bind.copy()
        bind[:, :3, 3] *= rig.unit
        bind[:, :3, 3] -= bind[:, :3, :3] @ quat.to_matrix(quat.conjugate(spin)) @ np.array([0.0, lift, 0.0])
        bind[:, :3, :3] = bind[:, :3, :3] @ quat.to_matrix(quat.conjugate(spin))
        normals = mesh.normals.astype(np.float64) @ quat.to_matrix(spin).T
        mesh = replace(mesh, points=points.astype(np.float32), normals=normals.astype(np.float32), inverse_bind=bind)
    motions = tuple(
        Motion(
            m.name, m.seconds, m.fps, tuple(_track(t, rig.unit, spin if t.joint in roots else None) for t in m.tracks)
        )
        for m in content.motions
    )
    if lift:
        motions = tuple(replace(m, tracks=(*m.tracks, *_as_filed(m, stood, hips, lift))) for m in motions)
    return MotionFile(Skeleton(bones.names, bones.parents, turn, place), mesh, motions, content.left_out)


def keys_of(track: Track) -> quat.Array:
    """The values of a track at its keys ``[K, C]``."""
    return track.values[:, 1] if track.interpolation == "CUBICSPLINE" else track.values


def _seen_from(parents: tuple[int, ...], turn: quat.Array, joint: int, way: quat.Array) -> quat.Array:
    """A direction of the world in the frame that a joint's place is told in, at rest."""
    above, p = quat.IDENTITY, parents[joint]
    while p >= 0:
        above, p = quat.multiply(turn[p], above), parents[p]
    return quat.rotate(quat.conjugate(above), way)


def _as_filed(motion: Motion, rest: Skeleton, hips: int, lift: float) -> tuple[Track, ...]:
    """What keeps hips, that are lifted at rest, where the file has them while a joint over them brings them up: else
    the one would be added to the other. ``rest`` is the figure before it is lifted."""
    places = {t.joint: keys_of(t).mean(axis=0) for t in motion.tracks if t.path == "translation"}
    if hips in places:
        return ()
    brought, p = 0.0, rest.parents[hips]
    while p >= 0:
        if p in places:
            up = _seen_from(rest.parents, rest.rest_rotation, p, np.array([0.0, 1.0, 0.0]))
            brought += float((places[p] - rest.rest_translation[p]) @ up)
        p = rest.parents[p]
    if brought < lift / 2.0:
        return ()
    return (Track(hips, "translation", "STEP", np.zeros(1), rest.rest_translation[hips][None]),)


def floor_lift(skeleton: Skeleton, rig: Rig) -> float:
    """How far (m) the rest pose is lifted so that it stands on the floor: where its hips rest at the origin, and its
    feet under it, though it moves over the floor."""
    if not len(skeleton):
        return 0.0
    stood = quat.rotate(quat.from_euler(rig.turn), skeleton.rest_world[:, :3, 3])[:, 1] * rig.unit
    tall = float(np.ptp(stood))
    hips = hips_of(skeleton)
    sunk = above_feet(skeleton, hips) and abs(float(stood[hips])) < 0.1 * tall and float(stood.min()) < -0.3 * tall
    return -float(stood.min()) if sunk else 0.0


def _track(track: Track, unit: float, spin: quat.Array | None) -> Track:
    values = track.values
    if track.path == "translation":
        values = values * unit
        values = quat.rotate(spin, values) if spin is not None else values
    elif spin is not None:
        values = quat.multiply(spin, values)
    return replace(track, values=values)


def unit_of(skeleton: Skeleton) -> tuple[float, str]:
    """Metres for one unit of a figure's file, and what is taken for granted by that, in words (nothing: metres).

    A person's height decides: in metres if that is one, else in the unit that makes it one; a person as tall as in
    none of them is made ``TALL``. What is no person is in metres where its size is believable in them.
    """
    height, person = standing_height(skeleton)
    low, high = PERSON if person else BELIEVABLE
    if height <= 0.0 or low <= height <= high:
        return 1.0, ""
    best = min(UNITS, key=lambda unit: abs(np.log(height * unit / TALL)))
    if low <= height * best <= high:
        return best, f"lengths are taken as {UNITS[best]}: it stands {height * best:.2f} m tall"
    other = float(f"{TALL / height:.3g}")
    return other, f"no unit makes a figure {height:.3g} tall a person; it is made {TALL:g} m tall: ×{other:g}"


def standing_height(skeleton: Skeleton) -> tuple[float, bool]:
    """How tall a figure stands in rest, in its own unit, and whether it is a person: head, hips and two legs."""
    if not len(skeleton):
        return 0.0, False
    parts = parts_of(skeleton)
    kinds = {(p.kind, p.side) for p in parts if not p.end}
    person = {("head", ""), ("hips", ""), ("thigh", "left"), ("thigh", "right")} <= kinds
    upright = quat.from_euler(upright_turn(skeleton))
    stood = quat.rotate(upright, skeleton.rest_world[:, :3, 3])
    if person:
        return float(np.ptp(stood[:, 1])), True
    return float(np.ptp(skeleton.rest_world[:, :3, 3], axis=0).max()), False


def upright_turn(skeleton: Skeleton) -> Vec3:
    """Degrees about x, y, z that stand a figure up, from where its hips, head and sides are; none when unclear."""
    parts = parts_of(skeleton)
    places = skeleton.rest_world[:, :3, 3]

    def first(kinds: tuple[str, ...], side: str) -> quat.Array | None:
        found = [j for j, p in enumerate(parts) if p.kind in kinds and p.side == side and not p.end]
        return places[found[0]] if found else None

    hips, head = first(("hips",), ""), first(("head", "neck"), "")
    left, right = first(("thigh", "upper_arm"), "left"), first(("thigh", "upper_arm"), "right")
    if hips is None or head is None or left is None or right is None:
        return (0.0, 0.0, 0.0)
    up, side = _axis(head - hips), _axis(left - right)
    if up is None or side is None or abs(float(up @ side)) > 0.5:
        return (0.0, 0.0, 0.0)
    # Rows: what becomes x, y and z.
    frame = np.stack([side, up, np.cross(side, up)])
    from scipy.spatial.transform import Rotation

    x, y, z = (float(round(v)) for v in Rotation.from_matrix(frame).as_euler("xyz", degrees=True))
    return x + 0.0, y + 0.0, z + 0.0


def _axis(way: quat.Array) -> quat.Array | None:
    size = float(np.linalg.norm(way))
    if size < 1e-9:
        return None
    out = np.zeros(3)
    k = int(np.argmax(np.abs(way)))
    out[k] = np.sign(way[k])
    return out
