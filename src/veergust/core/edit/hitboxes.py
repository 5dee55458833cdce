"""The hitboxes of a strike, and their keys over its span."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace

from veergust.core.edit.fields import set_fields
from veergust.core.edit.spans import Edit, SpanRef, span_of
from veergust.core.kinds import new_box, title
from veergust.core.model import Hitbox, HitboxKey, KeyEase, Project, Rig, Strike, Vec3
from veergust.core.motion import Array, Skeleton
from veergust.core.play import CompiledProject, between_keys, shape_at
from veergust.core.study import SHARE, fitted
from veergust.core.trouble import Trouble

KEYED = ("offset", "to", "radius", "size")


def _strike(project: Project, ref: SpanRef) -> Strike:
    span = span_of(project, ref)
    if not isinstance(span, Strike):
        raise Trouble("the strike is not there any more", field="strike", do="select one")
    return span


def _with(project: Project, ref: SpanRef, boxes: tuple[Hitbox, ...], words: str) -> Edit:
    edit = set_fields(project, [ref], boxes=boxes)
    return Edit(edit.project, f"{title(_strike(project, ref))}: {words}")


def _put(boxes: tuple[Hitbox, ...], at: int, box: Hitbox) -> tuple[Hitbox, ...]:
    return tuple(box if i == at else b for i, b in enumerate(boxes))


def add_box(project: Project, ref: SpanRef, at: int, mount: str = "") -> Edit:
    """One more hitbox, like the one at place ``at``, behind it; where there is none yet, as a new strike has it on a
    ``mount``."""
    boxes = _strike(project, ref).boxes
    fresh = boxes[at] if at < len(boxes) else new_box(project.rig, mount)
    made = (*boxes[: at + 1], fresh, *boxes[at + 1 :])
    return _with(project, ref, made, f"hitbox {min(at + 1, len(boxes)) + 1} added")


def fit_boxes(build: CompiledProject, ref: SpanRef, share: float = SHARE, mount: str = "") -> Edit:
    """Hitboxes fitted to what a strike sweeps, in place of those it has: the fewest capsules that cover a share."""
    strike, compiled = _strike(build.project, ref), build.action(ref.action)
    assert compiled is not None
    assert ref.section is not None
    found = fitted(build, compiled, ref.section, strike, share=share, mount=mount)
    many = len(found.boxes)
    words = f"{many} hitbox{'es' if many != 1 else ''} fitted, {found.share:.0%} of what the {found.what} sweeps"
    return _with(build.project, ref, found.boxes, words)


def other_side(rig: Rig, bones: Skeleton, mount: str) -> str:
    """The mount on the other side of the body, or the joint there; nothing where it has no other side."""
    found = next((m for m in rig.mounts if m.name == mount), None)
    joint = bones.index.get(found.joint if found is not None else mount, -1)
    other = bones.names[bones.mirrored[joint]] if joint >= 0 else ""
    if joint < 0 or other == bones.names[joint]:
        return ""
    there = [m for m in rig.mounts if m.joint == other]
    if found is None or not there:
        return other
    x, y, z = found.offset
    return min(there, key=lambda m: sum((a - b) ** 2 for a, b in zip(m.offset, (-x, y, z)))).name


def mirror_box(project: Project, bones: Skeleton, ref: SpanRef, at: int) -> Edit:
    """One more hitbox on the other side of the body, as one is on this.

    Raises:
        Trouble: what it rides on has no other side.
    """
    boxes = _strike(project, ref).boxes
    box = boxes[at] if at < len(boxes) else new_box(project.rig, "")
    mount = other_side(project.rig, bones, box.mount)
    if not mount:
        raise Trouble(f"{box.mount or 'it'} has no other side", field="mount", do="choose one on a limb")

    def over(place: Vec3) -> Vec3:
        return -place[0] + 0.0, place[1], place[2]

    keys = tuple(replace(k, offset=over(k.offset), to=over(k.to)) for k in box.keys)
    made = replace(box, mount=mount, offset=over(box.offset), to=over(box.to), keys=keys)
    return _with(project, ref, (*boxes, made), f"hitbox {len(boxes) + 1} on the other side")


def remove_box(project: Project, ref: SpanRef, at: int) -> Edit:
    """The strike without a hitbox."""
    boxes = _strike(project, ref).boxes
    return _with(project, ref, tuple(b for i, b in enumerate(boxes) if i != at), f"hitbox {at + 1} removed")


def change_box(project: Project, ref: SpanRef, at: int, tick: int, **values: Any) -> Edit:
    """A hitbox changed. Where it has keys, its place and radius are set on the key of ``tick``, made if need be."""
    boxes = _strike(project, ref).boxes or (new_box(project.rig, values.get("mount", "")),)
    box = boxes[at]
    keyed = {name: value for name, value in values.items() if name in KEYED and box.keys}
    if keyed:
        keys = {k.tick: k for k in box.keys}
        keys[tick] = replace(keys.get(tick) or _key(box, tick), **keyed)
        box = replace(box, keys=tuple(keys[t] for t in sorted(keys)))
    changed = replace(box, **{name: value for name, value in values.items() if name not in keyed})
    words = ", ".join(f"{name} {_value(value)}" for name, value in values.items())
    return _with(project, ref, _put(boxes, at, changed), f"hitbox {at + 1} {words}")


def set_key(project: Project, ref: SpanRef, at: int, tick: int) -> Edit:
    """A key that holds the hitbox as it is on a tick of the section."""
    boxes = _strike(project, ref).boxes
    if at >= len(boxes):
        raise Trouble("there is no hitbox yet", field="hitbox", do="add one first")
    box = boxes[at]
    keys = {k.tick: k for k in box.keys} | {tick: _key(box, tick)}
    changed = replace(box, keys=tuple(keys[t] for t in sorted(keys)))
    return _with(project, ref, _put(boxes, at, changed), f"hitbox {at + 1} keyed")


def ease_key(project: Project, ref: SpanRef, at: int, tick: int, ease: KeyEase) -> Edit:
    """How a hitbox goes on from its key on a tick, or from the last one before it."""
    boxes = _strike(project, ref).boxes
    box = boxes[at]
    if not box.keys:
        raise Trouble("there is no key yet", field="key", do="hold the hitbox on a frame first")
    key = max((k for k in box.keys if k.tick <= tick), key=lambda k: k.tick, default=box.keys[0])
    changed = replace(box, keys=tuple(replace(k, ease=ease) if k is key else k for k in box.keys))
    return _with(project, ref, _put(boxes, at, changed), f"hitbox {at + 1} goes on {ease}")


def remove_key(project: Project, ref: SpanRef, at: int, tick: int) -> Edit:
    """The hitbox without its key on a tick; without its last one it stays as that one held it."""
    boxes = _strike(project, ref).boxes
    box = boxes[at]
    left = tuple(k for k in box.keys if k.tick != tick)
    changed = replace(box, keys=left)
    if not left and box.keys:
        last = box.keys[0]
        shape = shape_at(box, last.tick)
        size = _point(shape.half) if shape.half is not None else box.size
        changed = replace(changed, offset=last.offset, to=last.to, radius=last.radius, size=size)
    words = f"hitbox {at + 1} key removed"
    return _with(project, ref, _put(boxes, at, changed), words)


def _key(box: Hitbox, tick: int) -> HitboxKey:
    shape = shape_at(box, tick)
    a, b, radius = shape.a, shape.b, shape.radius
    return HitboxKey(tick=tick, offset=_point(a), to=_point(b) if box.shape == "capsule" else box.to,
                  radius=round(radius, 9), size=_point(shape.half) if shape.half is not None else None,
                      ease=between_keys(box, tick)[0].ease if box.keys else "even")  # fmt: skip


def _point(at: Array) -> tuple[float, float, float]:
    x, y, z = (round(float(v), 9) for v in at)
    return x, y, z


def _value(value: Any) -> str:
    if isinstance(value, tuple):
        return " ".join(f"{v:g}" for v in value)
    return f"{value:g}" if isinstance(value, float) else str(value) or "none"
