"""Boxes and points drawn on the picture of a drawn figure: on the cell that is shown, until the next one.

What strikes is a box of a strike, with a key on each cell. What can be struck, and points, are joints of the figure:
where they are drawn is laid over their clip as poses keyed by hand, so that the source stays as it is.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from msgspec.structs import replace

from veergust.core.edit.fields import set_fields
from veergust.core.edit.names import free
from veergust.core.edit.spans import Edit, SpanRef, span_of
from veergust.core.model import Clip, Hitbox, HitboxKey, Hurtbox, PoseKey, Project, Strike
from veergust.core.motion import ROOT, ROUGH_FPS, Motion, motion_of, seen_on, source_pose
from veergust.core.play import CompiledAction, CompiledProject
from veergust.core.trouble import Trouble

EARLY = 1e-6
"""So much before its frame (s) what is drawn on a cell begins."""
DEEP = 0.4
"""What is drawn is so deep (m)."""
Place = tuple[float, float, float]


@dataclass(frozen=True)
class Rect:
    """A rectangle about the body (m): from ``low`` to ``high``, each up and ahead."""

    low: tuple[float, float]
    high: tuple[float, float]

    @staticmethod
    def between(a: tuple[float, float], b: tuple[float, float]) -> Rect:
        """The rectangle with two corners (up, ahead) across from each other."""
        (u, v), (s, t) = a, b
        return Rect((round(min(u, s), 4), round(min(v, t), 4)), (round(max(u, s), 4), round(max(v, t), 4)))

    @property
    def middle(self) -> Place:
        """Its middle: to the left, up, ahead."""
        return 0.0, (self.low[0] + self.high[0]) / 2.0, (self.low[1] + self.high[1]) / 2.0

    @property
    def half(self) -> Place:
        """Its half extents as a box."""
        return DEEP / 2.0, (self.high[0] - self.low[0]) / 2.0, (self.high[1] - self.low[1]) / 2.0


def cell_around(build: CompiledProject, compiled: CompiledAction, section: int, tick: int) -> tuple[int, int]:
    """The ticks of a section, from and up to before, on which the drawing of this one is held."""
    part, bones = compiled.sections[section], build.assets.skeleton
    shown = [seen_on(bones, part.world[t]) for t in range(part.ticks)]
    first = last = min(max(tick, 0), part.ticks - 1)
    while first > 0 and shown[first - 1] == shown[last]:
        first -= 1
    while last + 1 < part.ticks and shown[last + 1] == shown[first]:
        last += 1
    return first, last + 1


def draw_hitbox(
    build: CompiledProject, action: str, frame: int, rect: Rect, ref: SpanRef | None
) -> tuple[Edit, SpanRef]:
    """A hitbox drawn on the cell that a frame of an action shows: of the strike ``ref`` if that is open then, else of a
    new one that is open on the cell."""
    compiled = _compiled(build, action)
    section, tick = compiled.locate(frame)
    first, end = cell_around(build, compiled, section, tick)
    strike = span_of(build.project, ref) if ref is not None else None
    if ref is None or not isinstance(strike, Strike) or ref.section != section or not strike.start <= tick < strike.end:
        return _new_strike(build.project, action, section, (first, end), rect)
    box = Hitbox(mount=_feet(build.project), shape="box", offset=rect.middle, size=rect.half)
    at = next((n for n, b in enumerate(strike.boxes) if b.shape == "box" and b.mount == box.mount), None)
    if at is None:
        boxes = tuple(b for b in strike.boxes if b.mount)
        return Edit(
            set_fields(build.project, [ref], boxes=(*boxes, box)).project, f"{strike.name}: a hitbox drawn"
        ), ref
    old = strike.boxes[at]
    before = old.keys or (HitboxKey(strike.start, old.offset, old.offset, old.radius, old.size, "hold"),)
    first, end = max(first, strike.start), min(end, strike.end)
    kept = {k.tick: replace(k, ease="hold") for k in before}
    if end < strike.end and end not in kept:
        kept[end] = replace(
            max((k for k in before if k.tick <= end), key=lambda k: k.tick, default=before[0]), tick=end
        )
    kept = {t: k for t, k in kept.items() if not first < t < end}
    kept[first] = HitboxKey(first, rect.middle, rect.middle, old.radius, rect.half, "hold")
    keys = tuple(replace(kept[t], ease="hold") for t in sorted(kept))
    drawn = replace(old, offset=keys[0].offset, size=keys[0].size or old.size, keys=keys if len(keys) > 1 else ())
    boxes = tuple(drawn if n == at else b for n, b in enumerate(strike.boxes))
    return Edit(set_fields(build.project, [ref], boxes=boxes).project, f"{strike.name}: drawn on frame {first}"), ref


def _compiled(build: CompiledProject, action: str) -> CompiledAction:
    compiled = build.action(action)
    if compiled is None or not compiled.path:
        raise Trouble("there is no action to draw on", do="make one first")
    if build.assets.skeleton.picture < 0:
        raise Trouble("the figure of this project has joints", do="give the strike a hitbox on one of them")
    return compiled


def _feet(project: Project) -> str:
    return next((m.name for m in project.rig.mounts if m.joint == ROOT), ROOT)


def _new_strike(
    project: Project, action: str, section: int, ticks: tuple[int, int], rect: Rect
) -> tuple[Edit, SpanRef]:
    found = next(a for a in project.actions if a.name == action)
    part = found.sections[section]
    name = free("Strike", {s.name for s in part.strikes})
    box = Hitbox(mount=_feet(project), shape="box", offset=rect.middle, size=rect.half)
    strike = Strike(start=ticks[0], end=ticks[1], name=name, boxes=(box,))
    strikes = tuple(sorted((*part.strikes, strike), key=lambda s: s.start))
    sections = tuple(replace(s, strikes=strikes) if n == section else s for n, s in enumerate(found.sections))
    actions = tuple(replace(a, sections=sections) if a is found else a for a in project.actions)
    ref = SpanRef(action, section, "strikes", strikes.index(strike))
    return Edit(replace(project, actions=actions), f"{name}, drawn on {ticks[1] - ticks[0]} frames"), ref


def draw_hurtbox(build: CompiledProject, action: str, frame: int, rect: Rect, name: str) -> Edit:
    """A hurtbox drawn on the cell that a frame of an action shows; one that is not there yet is made."""
    compiled = _compiled(build, action)
    project, rig = build.project, build.project.rig
    box = next((h for h in rig.hurtboxes if h.name == name), None)
    if box is None or not box.spans:
        name = name if box is None else free(name, {h.name for h in rig.hurtboxes})
        box = Hurtbox(name=name, joint=f"{name} (low)", spans=f"{name} (high)", radius=DEEP / 2.0)
        project = replace(project, rig=replace(rig, hurtboxes=(*rig.hurtboxes, box)))
    places = {box.joint: (0.0, rect.low[0], rect.low[1]), box.spans: (0.0, rect.high[0], rect.high[1])}
    return Edit(_on_cell(build, project, compiled, frame, places), f"Hurtbox {name}: drawn")


def draw_point(build: CompiledProject, action: str, frame: int, mount: str, up: float, ahead: float) -> Edit:
    """A point put somewhere else on the cell that a frame of an action shows."""
    compiled = _compiled(build, action)
    found = next((m for m in build.project.rig.mounts if m.name == mount), None)
    if found is None or found.joint == ROOT:
        raise Trouble(f"there is no point {mount!r}", do="choose one")
    places = {found.joint: (0.0, round(up, 4), round(ahead, 4))}
    return Edit(_on_cell(build, build.project, compiled, frame, places), f"{mount}: put")


def draw_body(project: Project, rect: Rect) -> Edit:
    """The body's capsule as high and as wide as a rectangle."""
    high = max(rect.high[0], 0.1)
    wide = max((rect.high[1] - rect.low[1]) / 2.0, 0.02)
    capsule = replace(project.rig.capsule, height=round(high, 3), radius=round(min(wide, high / 2.0), 3))
    return Edit(replace(project, rig=replace(project.rig, capsule=capsule)), "The body, drawn")


def _on_cell(
    build: CompiledProject, project: Project, compiled: CompiledAction, frame: int, places: dict[str, Place]
) -> Project:
    """The project with joints at other places about the body on the cell that a frame shows, in the clip of it."""
    section, tick = compiled.locate(frame)
    first, end = cell_around(build, compiled, section, tick)
    part = compiled.sections[section]
    cut = part.cut_at(tick)
    clip = build.clip(cut.cut.clip) if cut is not None else None
    if clip is None:
        raise Trouble("no clip is shown on this frame", do="move to a frame that shows one")
    start, stop = sorted((float(part.source[first]), float(part.source[min(end, part.ticks)])))
    drawn = put_on_cell(build, clip, start, stop, places)
    return replace(project, clips=tuple(drawn if c.name == clip.name else c for c in project.clips))


def put_on_cell(build: CompiledProject, clip: Clip, start: float, end: float, places: dict[str, Place]) -> Clip:
    """A clip with joints at other places (m, about the body) from one source time up to another (s)."""
    bones, motion = build.assets.skeleton, motion_of(build.assets, clip)
    seconds = (motion or Motion("", 0.0, ROUGH_FPS, ())).seconds
    bare = replace(clip, poses=())
    under = source_pose(build.assets, bare, np.array([(start + end) / 2.0])).translation[0]
    shifts = {}
    for name, place in places.items():
        at = under[bones.index[name]] if name in bones.index else np.zeros(3)
        x, y, z = (round(float(v), 6) for v in np.array(place) - at)
        shifts[name] = (x, y, z)
    start, end = max(start - EARLY, 0.0), end - EARLY
    keys = {k.time: replace(k, ease="hold") for k in clip.poses} or {0.0: PoseKey(time=0.0, ease="hold")}

    def held(at: float) -> PoseKey:
        before = [k for t, k in keys.items() if t <= at]
        return max(before, key=lambda k: k.time) if before else PoseKey(time=at, ease="hold")

    new = {start: replace(held(start), time=start)}
    if end < seconds - 2 * EARLY:
        new[end] = replace(held(end), time=end)
    if start > 0.0 and min(keys) > 0.0:
        new[0.0] = PoseKey(time=0.0, ease="hold")
    keys |= {t: k for t, k in new.items() if t not in keys}
    for t, key in keys.items():
        if start <= t < end - EARLY or t == start:
            kept = {n: p for n, p in key.places if n not in shifts}
            keys[t] = replace(key, places=tuple(sorted({**kept, **shifts}.items())))
    return replace(clip, poses=tuple(keys[t] for t in sorted(keys)))
