"""What a project takes over of a sheet beside its cells: mounts, hurtboxes, the body, and the strikes drawn on it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import accumulate, groupby

from msgspec.structs import replace

from veergust.core.edit import free_name
from veergust.core.files.drawings.document import DrawnBox, DrawnCell, Flipbook, Strip
from veergust.core.files.drawings.read import corners, hurt_names, place_of
from veergust.core.model import (
    Action,
    Capsule,
    Clip,
    Cut,
    Hitbox,
    HitboxKey,
    Hurtbox,
    Layer,
    Mount,
    Project,
    Rig,
    Section,
    Strike,
)
from veergust.core.motion import ROOT

FEET = "feet"
"""The mount that every drawn figure has: where it stands."""


def drawn_rig(rig: Rig, said: Flipbook, file: str) -> Rig:
    """The rig of a figure whose first sheet this is; what it has of its own stays."""
    body = _capsule(said)
    names = [name for name in dict.fromkeys(n for c in said.cells for n in c.points) if name != FEET]
    mounts = (Mount(name=FEET, joint=ROOT), *(Mount(name=name, joint=name) for name in sorted(names)))
    return replace(
        rig,
        figure=file,
        unit=1.0,
        turn=(0.0, 0.0, 0.0),
        root=ROOT,
        hips=ROOT,
        sheets=(file,),
        mounts=rig.mounts or mounts,
        hurtboxes=rig.hurtboxes or _hurtboxes(said, body),
        capsule=body if rig.capsule == Capsule() else rig.capsule,
    )


def with_sheet(rig: Rig, said: Flipbook, file: str) -> Rig:
    """The rig of a drawn figure with one more sheet; what is new on it has a mount and a hurtbox of its own."""
    new = drawn_rig(Rig(), said, file)
    mounts, boxes = {m.name for m in rig.mounts}, {h.name for h in rig.hurtboxes}
    return replace(
        rig,
        sheets=tuple(dict.fromkeys((*rig.sheets, file))),
        mounts=(*rig.mounts, *(m for m in new.mounts if m.name not in mounts)),
        hurtboxes=(*rig.hurtboxes, *(h for h in new.hurtboxes if h.spans and h.name not in boxes)),
    )


def drawn_clip(clip: Clip, said: Flipbook) -> Clip:
    """A clip of drawings: where the body stands in them is as they say, to the pixel."""
    loops = any(s.loop for s in said.clips if s.name == clip.animation)
    return replace(clip, smooth=0.0, loop=loops)


def _capsule(said: Flipbook) -> Capsule:
    """The body as it is drawn on the first cell that has one; else as high as the cell over where it stands."""
    metre = said.pixels_per_metre
    for cell in said.cells:
        for box in (b for b in cell.boxes if b.kind == "body"):
            high, wide = _bounded(box.rect[3] / metre), box.rect[2] / metre
            return Capsule(radius=round(min(max(wide / 2.0, 0.02), high / 2.0), 4), height=round(high, 4))
    high = _bounded(said.feet_of(said.cells[0])[1] / metre)
    return Capsule(radius=round(0.165 * high, 4), height=round(high, 4))


def _bounded(high: float) -> float:
    return min(max(high, 0.1), 100.0)


def _hurtboxes(said: Flipbook, body: Capsule) -> tuple[Hurtbox, ...]:
    deep: dict[str, float] = {}
    for cell in said.cells:
        for box in cell.boxes:
            deep.setdefault(box.name, box.deep)
    drawn = tuple(
        Hurtbox(name=name, joint=low, spans=high, radius=deep.get(name, 0.4) / 2.0)
        for name in hurt_names(said)
        for low, high in (corners(name),)
    )
    top = max(body.height - body.radius, body.radius)
    whole = Hurtbox(name="body", joint=ROOT, offset=(0.0, body.radius, 0.0), to=(0.0, top, 0.0), radius=body.radius)
    return drawn or (whole,)


def with_strikes(project: Project, said: Flipbook, clips: Sequence[tuple[Strip, str]]) -> Project:
    """The project with an action for each clip (and the name it has in the project) on whose cells something strikes:
    its strikes are open on the cells that have them, where they are drawn."""
    layer = project.layers[0] if project.layers else Layer(name="Body")
    for strip, clip in clips:
        cells = said.cells[strip.start : strip.end or len(said.cells)]
        strikes = tuple(_strikes(said, cells, project.settings.rate / said.rate))
        if strikes:
            section = Section(name="All", cuts=(Cut(clip=clip),), strikes=strikes)
            action = Action(
                name=free_name(project, strip.name), layer=layer.name, sections=(section,), blend_in=0, blend_out=0
            )
            project = replace(project, actions=(*project.actions, action))
    return project


def _strikes(said: Flipbook, cells: Sequence[DrawnCell], much: float) -> Iterator[Strike]:
    """The strikes of cells, each of which is held for so many times as many ticks as it says."""
    starts = [round(at * much) for at in accumulate((c.hold for c in cells), initial=0)]
    names = dict.fromkeys(box.name for c in cells for box in c.boxes if box.kind == "hit")
    for name in names:
        drawn = [next((b for b in c.boxes if b.kind == "hit" and b.name == name), None) for c in cells]
        for there, run in groupby(range(len(cells)), key=lambda n: drawn[n] is not None):
            rows = list(run)
            if there:
                boxes = [(starts[n], cells[n], box) for n in rows if (box := drawn[n]) is not None]
                ridden = _hitbox(said, boxes)
                end = max(starts[rows[-1] + 1], starts[rows[0]] + 1)
                yield Strike(start=starts[rows[0]], end=end, name=name or "Strike", boxes=(ridden,))


def _hitbox(said: Flipbook, rows: Sequence[tuple[int, DrawnCell, DrawnBox]]) -> Hitbox:
    """A box that stands where it is drawn on each cell until the next."""
    keys = []
    for tick, cell, box in rows:
        middle, half = rect_in_metres(said, cell, box)
        keys.append(HitboxKey(tick=tick, offset=middle, to=middle, radius=0.1, size=half, ease="hold"))
    first = keys[0]
    held = tuple(keys) if len(keys) > 1 else ()
    return Hitbox(mount=FEET, shape="box", offset=first.offset, size=first.size or (0.1, 0.1, 0.1), keys=held)


def rect_in_metres(
    said: Flipbook, cell: DrawnCell, box: DrawnBox
) -> tuple[tuple[float, float, float], tuple[float, float, float]]:
    """The middle of a rectangle on a cell about the body that stands there, and its half extents (m)."""
    x, y, wide, high = box.rect
    _, up, ahead = place_of(said, cell, (x + wide / 2.0, y + high / 2.0))
    metre = said.pixels_per_metre
    return (0.0, round(up, 6), round(ahead, 6)), (
        box.deep / 2.0,
        round(high / metre / 2.0, 6),
        round(wide / metre / 2.0, 6),
    )
