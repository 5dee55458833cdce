"""Hurtboxes: made in one step from a figure's skin or joints, changed, mirrored, and their regions."""

from __future__ import annotations

from typing import Any

import numpy as np
from msgspec.structs import replace
from numpy.typing import NDArray

from veergust.core.edit.names import free, typed
from veergust.core.edit.spans import Edit
from veergust.core.model import Action, Hurtbox, Project, Region, Rig, Shield
from veergust.core.motion import Array, Assets, Part, Skeleton, chain_above, feet_of, over_body, parts_of, quat
from veergust.core.study import TightCapsule, capsule_about
from veergust.core.trouble import Trouble

SHORT = 0.05
"""Bones shorter than this part of the figure's height get no hurtbox of their own: fingers, toes."""
THICK = {"spine": 0.085, "hips": 0.085, "neck": 0.045, "thigh": 0.05, "head": 0.065}
THIN = 0.035
SKIN = 0.9
"""A hurtbox holds this share of the skin that is its own."""
CARRIED = 0.15
"""What hangs on a limb and is larger than this part of the figure's height is no part of it."""
FEW = 12
"""Skin of fewer points tells nothing."""
REGIONS = {
    "head": "head neck eye jaw",
    "arm": "upper_arm forearm hand arm shoulder collar thumb index middle ring little fingers",
    "leg": "thigh shin foot toe leg",
    "trunk": "spine hips",
}
REGION_OF = {kind: region for region, kinds in REGIONS.items() for kind in kinds.split()}


def hurtboxes_of(assets: Assets, tall: float) -> tuple[Hurtbox, ...]:
    """A capsule for every bone that is long enough, and for head and feet: around the skin that follows it, or as thick
    as such a part usually is on somebody so ``tall`` (m)."""
    bones = assets.skeleton
    parts = parts_of(bones)
    chosen = _own(bones, parts, tall)
    skins = _skins(assets, list(chosen), CARRIED * tall)
    out = []
    for joint, to in chosen.items():
        part = parts[joint]
        trunk = not part.kind and not part.side and to is not None
        kind = "spine" if trunk else part.kind
        end = to if to is not None else np.zeros(3)
        made = TightCapsule(np.zeros(3), end, THICK.get(kind, THIN) * tall)
        if joint in skins:
            made = capsule_about(skins[joint], np.ones(len(skins[joint])), SKIN)
        out.append(
            Hurtbox(
                name=bones.names[joint],
                joint=bones.names[joint],
                offset=_rounded(made.a),
                to=_rounded(made.b),
                radius=round(made.radius, 3),
                region=REGION_OF.get(kind, "trunk" if trunk else ""),
            )
        )
    return tuple(out)


def _own(bones: Skeleton, parts: tuple[Part, ...], tall: float) -> dict[int, Array | None]:
    """The joints that have a hurtbox of their own, each with where its bone ends in its frame (None: nowhere)."""
    feet, over = set(feet_of(bones)), over_body(bones)
    carrying = {a for j in range(len(bones)) if parts[j].side for a in chain_above(bones, j)}
    out: dict[int, Array | None] = {}
    for j in range(len(bones)):
        below = [c for c, parent in enumerate(bones.parents) if parent == j]
        if parts[j].end or (j in over and (feet or parts[j].kind == "root")):
            continue
        # A trunk goes on along the middle, whatever limbs leave it on the way.
        straight = [c for c in below if not parts[c].side] if not parts[j].side else []
        below = straight or below
        lengths = [float(np.linalg.norm(bones.rest_translation[c])) for c in below]
        longest = below[int(np.argmax(lengths))] if below else -1
        if parts[j].kind == "head" or (longest >= 0 and max(lengths) >= SHORT * tall) or j in feet:
            trunk = not parts[j].side and j in carrying
            out[j] = bones.rest_translation[longest] if longest >= 0 else (np.zeros(3) if trunk else None)
    return out


def _skins(assets: Assets, joints: list[int], largest: float) -> dict[int, Array]:
    """For each joint the points of the skin, in its own frame, that follow it or what has no hurtbox below it: fingers
    do, but nothing larger (m), which is carried."""
    mesh, bones = assets.mesh, assets.skeleton
    if mesh is None or not len(mesh.points):
        return {}
    home = np.arange(len(bones))
    for j in range(len(bones)):
        while home[j] >= 0 and int(home[j]) not in joints:
            home[j] = bones.parents[int(home[j])]
    follows = mesh.joints[np.arange(len(mesh.points)), np.argmax(mesh.weights, axis=1)]
    for j in np.unique(follows):
        if home[j] != j and float(np.ptp(mesh.points[follows == j], axis=0).max()) > largest:
            home[j] = -1
    own: NDArray[np.intp] = home[follows]
    out = {}
    for j in joints:
        rows = np.flatnonzero(own == j)
        if len(rows) >= FEW:
            bind = mesh.inverse_bind[j]
            out[j] = mesh.points[rows] @ bind[:3, :3].T + bind[:3, 3]
    return out


def _rounded(at: Array) -> tuple[float, float, float]:
    x, y, z = (round(float(v), 4) + 0.0 for v in at)
    return x, y, z


def make_hurtboxes(project: Project, assets: Assets, tall: float) -> Edit:
    """All hurtboxes made anew from the figure; what shields named and is gone no longer is named there."""
    if not len(assets.skeleton):
        raise Trouble("there is no figure yet", field="hurtboxes", do="bring a motion file in")
    made = hurtboxes_of(assets, tall)
    old = {h.name: h for h in project.rig.hurtboxes}
    # One on the same joint goes by the name it had, so that what names it still means it.
    before = {h.joint: h for h in reversed(project.rig.hurtboxes)}
    taken = {h.name for h in before.values() if h.joint in {m.joint for m in made}}
    # What rides on a mount, as on a prop, is not the figure's.
    mounts = {m.name for m in project.rig.mounts} - set(assets.skeleton.names)
    carried = [h for h in project.rig.hurtboxes if h.joint in mounts]
    taken |= {h.name for h in carried}
    kept: list[Hurtbox] = []
    for box in made:
        was = before.get(box.joint)
        name = was.name if was is not None else free(box.name, taken)
        taken.add(name)
        kept.append(replace(box, name=name, region=(was.region if was is not None else "") or box.region))
    kept += carried
    how = "its skin" if assets.mesh is not None else "its joints"
    changed = replace(project.rig, hurtboxes=tuple(kept), regions=_regions(project.rig, kept))
    left = {h.name for h in kept}
    lost = [name for name in old if name not in left]
    return Edit(_named_in(replace(project, rig=changed), dict.fromkeys(lost, "")), f"{len(kept)} hurtboxes from {how}")


def _regions(rig: Rig, boxes: list[Hurtbox]) -> tuple[Region, ...]:
    """The regions there are, and those that boxes name besides."""
    known = {r.name for r in rig.regions}
    new = dict.fromkeys(b.region for b in boxes if b.region and b.region not in known)
    return (*rig.regions, *(Region(name=name) for name in new))


def add_hurtbox(project: Project, joint: str) -> tuple[Edit, str]:
    """One more hurtbox on a joint or a mount, and its name; on the weapon's base, along the weapon."""
    rig = project.rig
    name = free(joint, {h.name for h in rig.hurtboxes})
    along = _along_weapon(rig) if rig.weapon is not None and joint == rig.weapon.base else {}
    made = replace(rig, hurtboxes=(*rig.hurtboxes, Hurtbox(name=name, joint=joint, **along)))
    return Edit(replace(project, rig=made), f"New hurtbox {name}"), name


def _along_weapon(rig: Rig) -> dict[str, Any]:
    """What makes a hurtbox on the weapon's base as long and as thick as that, where both its ends are on one joint."""
    mounts = {m.name: m for m in rig.mounts}
    base, tip = (mounts.get(end) for end in (rig.weapon.base, rig.weapon.tip)) if rig.weapon else (None, None)
    if rig.weapon is None or base is None or tip is None or base.joint != tip.joint:
        return {}
    way = np.array(tip.offset) - np.array(base.offset)
    to = quat.rotate(quat.conjugate(quat.from_euler(base.turn)), way)
    return {"to": _rounded(to), "radius": rig.weapon.radius}


def shape_hurtbox(project: Project, name: str, *, box: bool) -> Edit:
    """A capsule made a box that is as large, or a box a capsule again."""
    was = _found(project, name)
    if (was.size is not None) == box:
        return Edit(project, "")
    a, b = np.array(was.offset), np.array(was.to)
    if box:
        half = np.abs(b - a) / 2.0 + was.radius
        edit = set_hurtbox(project, name, offset=_rounded((a + b) / 2.0), size=_rounded(half))
    else:
        half, longest = np.array(was.size), int(np.argmax(was.size or ()))
        radius = float(np.delete(half, longest).mean())
        way = np.zeros(3)
        way[longest] = max(half[longest] - radius, 0.0)
        ends = {"offset": _rounded(a - way), "to": _rounded(a + way), "radius": round(max(radius, 0.005), 3)}
        edit = set_hurtbox(project, name, size=None, **ends)
    return Edit(edit.project, f"Hurtbox {name}: {'box' if box else 'capsule'}")


def set_hurtbox(project: Project, name: str, /, **changes: Any) -> Edit:
    """A hurtbox changed; a new name goes along wherever it is named.

    Raises:
        Trouble: there is none of that name, or another already has the new one.
    """
    rig = project.rig
    found = _found(project, name)
    wished = typed(changes.get("name", name), name, {h.name for h in rig.hurtboxes}, "hurtbox")
    changes |= {"name": wished} if wished != name else {}
    box = replace(found, **changes)
    boxes = [box if h.name == name else h for h in rig.hurtboxes]
    made = replace(rig, hurtboxes=tuple(boxes), regions=_regions(rig, boxes))
    changed = replace(project, rig=made)
    if wished != name:
        changed = _named_in(changed, {name: wished})
    return Edit(changed, f"Hurtbox {wished}: {', '.join(changes)}")


def remove_hurtbox(project: Project, name: str) -> Edit:
    """The project without a hurtbox. Raises ``Trouble`` while a shield covers nothing else."""
    _found(project, name)
    bare = [a.name for a in project.actions for s in _shields(a) if s.hurtboxes == (name,)]
    if bare:
        raise Trouble(f"{name} is all that a shield of {bare[0]} covers", field="hurtbox", do="change the shield first")
    rig = replace(project.rig, hurtboxes=tuple(h for h in project.rig.hurtboxes if h.name != name))
    return Edit(_named_in(replace(project, rig=rig), {name: ""}), f"Remove hurtbox {name}")


def mirror_hurtbox(project: Project, bones: Skeleton, name: str) -> Edit:
    """The one on the other side as this one is, made there if there is none.

    Raises:
        Trouble: its joint has no other side.
    """
    box = _found(project, name)
    joint = bones.index.get(box.joint, -1)
    other = bones.names[bones.mirrored[joint]] if joint >= 0 else box.joint
    if other == box.joint:
        raise Trouble(f"{box.joint} has no other side", field="hurtbox", do="choose one on a limb")
    flipped = {f: (-getattr(box, f)[0] + 0.0, *getattr(box, f)[1:]) for f in ("offset", "to")}
    there = next((h for h in project.rig.hurtboxes if h.joint == other), None)
    if there is None:
        edit, new = add_hurtbox(project, other)
        project, there = edit.project, _found(edit.project, new)
    same = {"radius": box.radius, "region": box.region, "size": box.size, **flipped}
    return Edit(set_hurtbox(project, there.name, **same).project, f"Hurtbox {there.name} as {name}")


def set_region(project: Project, name: str, factor: float) -> Edit:
    """How much of a strike's damage a region takes."""
    regions = tuple(replace(r, factor=factor) if r.name == name else r for r in project.rig.regions)
    if all(r.name != name for r in regions):
        regions = (*regions, Region(name=name, factor=factor))
    return Edit(replace(project, rig=replace(project.rig, regions=regions)), f"Region {name}: ×{factor:g}")


def _found(project: Project, name: str) -> Hurtbox:
    found = next((h for h in project.rig.hurtboxes if h.name == name), None)
    if found is None:
        raise Trouble(f"there is no hurtbox {name!r}", field="hurtbox", do="choose one that is there")
    return found


def _shields(action: Action) -> list[Shield]:
    return [*action.shields, *(s for section in action.sections for s in section.shields)]


def _named_in(project: Project, names: dict[str, str]) -> Project:
    """Shields with hurtboxes called otherwise; one that is called nothing is left out, where others are left."""

    def shield(s: Shield) -> Shield:
        if not any(n in names for n in s.hurtboxes):
            return s
        left = tuple(new for n in s.hurtboxes if (new := names.get(n, n)))
        return replace(s, hurtboxes=left or s.hurtboxes)

    def action(a: Action) -> Action:
        if not any(n in names for s in _shields(a) for n in s.hurtboxes):
            return a
        sections = tuple(replace(s, shields=tuple(map(shield, s.shields))) for s in a.sections)
        return replace(a, shields=tuple(map(shield, a.shields)), sections=sections)

    return replace(project, actions=tuple(map(action, project.actions)))
