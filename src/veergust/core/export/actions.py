"""Actions compiled to ticks: sections with their travel, spans in full, hitboxes by tick about their joints."""

from __future__ import annotations

from itertools import groupby
from typing import Any

import numpy as np

from veergust.core.export.axes import Axes
from veergust.core.export.plain import FINE, full, number, numbers
from veergust.core.kinds import identity
from veergust.core.model import Hitbox, Strike
from veergust.core.motion import seen_on
from veergust.core.play import CompiledAction, CompiledProject, CompiledSection, leaps, shape_at

Json = dict[str, Any]


def action_out(build: CompiledProject, compiled: CompiledAction, path: str, axes: Axes) -> Json:
    """An action as the game loads it; its poses are in the file at ``path``."""
    action = compiled.action
    out: Json = {"identity": identity(action), "name": action.name, "file": path}
    out |= {
        k: v for k, v in full(action, axes.scale).items() if k not in ("name", "sections", "entry", "speed", "root")
    }
    out["entry"] = compiled.sections[compiled.entry].section.name if compiled.sections else ""
    out["sections"] = [_section(build, part, axes) for part in compiled.sections]
    return out


def _section(build: CompiledProject, part: CompiledSection, axes: Axes) -> Json:
    section = part.section
    plain = full(section, axes.scale)
    clips = {cut.first: build.clip(cut.cut.clip) for cut in part.cuts}
    return {
        "identity": identity(section),
        "name": section.name,
        "ticks": part.ticks,
        "then": section.then,
        "posture": section.posture,
        "blend": part.blend,
        "cuts": [
            {
                "clip": identity(clip) if (clip := clips[cut.first]) is not None else cut.cut.clip,
                "first": cut.first,
                "ticks": cut.ticks,
                "from": number(cut.start),
                "to": number(cut.end),
                "mirrored": cut.mirrored,
                "swaps": cut.swaps,
                "climbs": cut.climbs,
            }
            for cut in part.cuts
        ],
        "drawings": drawings_of(build, part),
        "travel": {"place": numbers(axes.places(part.place), FINE), "turn": numbers(np.degrees(part.yaw), FINE)},
        "strikes": [_strike(build, part, strike, axes) for strike in section.strikes],
        **{k: plain[k] for k in ("gates", "exits", "shields", "holds", "drives")},
        "events": [{**full(e), "offset": numbers(axes.places(np.array(e.offset)))} for e in section.events],
    }


def drawings_of(build: CompiledProject, part: CompiledSection) -> list[list[int]]:
    """Which drawing each tick of a section shows, those that are alike together: sheet, cell, for how many ticks."""
    bones = build.assets.skeleton
    if bones.picture < 0:
        return []
    shown = [seen_on(bones, part.world[tick]) for tick in range(part.ticks)]
    return [[*drawing, len(list(run))] for drawing, run in groupby(shown)]


def _strike(build: CompiledProject, part: CompiledSection, strike: Strike, axes: Axes) -> Json:
    out: Json = {**full(strike, axes.scale), "knockback": knockback_out(strike, axes)}
    out["boxes"] = [
        {
            "name": box.name,
            "mount": box.mount,
            "shape": box.shape,
            "share": number(box.share),
            "ticks": [
                row
                for tick in range(max(strike.start, 0), min(strike.end, part.ticks))
                if (row := _box(build, part, box, tick, axes)) is not None
            ],
        }
        for box in strike.boxes
    ]
    return out


def knockback_out(strike: Strike, axes: Axes) -> Json:
    """How a strike pushes, in words for its three ways."""
    side, up, ahead = strike.knockback
    return {"left": axes.length(side), "up": axes.length(up), "ahead": axes.length(ahead)}


def _box(build: CompiledProject, part: CompiledSection, box: Hitbox, tick: int, axes: Axes) -> Json | None:
    """Where a hitbox is on a tick, about its joint; None where its mount is not the figure's."""
    mirrored = part.mirrored(tick)
    mount = build.mount(box.mount, mirrored)
    if mount is None:
        return None
    joint, frame = mount
    shape = shape_at(box, tick, mirrored)
    ends = np.stack([shape.a, shape.b]) @ frame[:3, :3].T + frame[:3, 3]
    out: Json = {"tick": tick, "joint": build.assets.skeleton.names[joint], "leaps": leaps(box, tick)}
    if shape.half is None:
        return out | {"from": numbers(axes.places(ends[0])), "to": numbers(axes.places(ends[1])),
                      "radius": number(axes.length(shape.radius))}  # fmt: skip
    return out | {"middle": numbers(axes.places(ends[0])), "half": numbers(axes.halves(shape.half)),
                  "turn": numbers(axes.matrix @ frame[:3, :3] @ axes.matrix.T)}  # fmt: skip
