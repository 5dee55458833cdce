"""The JSON shapes of the commands. Fields may be added; those here stay."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

import numpy as np

from veergust.core.kinds import Finding, sentence
from veergust.core.model import State
from veergust.core.motion import ends, motion_of
from veergust.core.play import CompiledProject, DrillResult, loops, rounded
from veergust.core.study import Facts, Move, Pop, clip_travel, found_around, scope_of, users, weights_of


def clips(build: CompiledProject) -> list[dict[str, Any]]:
    """A row for each clip; travel in metres with +z ahead."""
    out = []
    used = users(build.project)
    for clip in build.project.clips:
        motion = motion_of(build.assets, clip)
        start, end = ends(build.assets, clip) if motion is not None else (clip.start, clip.end)
        travel = rounded(clip_travel(build.assets, clip, build.roots).place[-1])
        seconds = (end - start) / clip.rate if end is not None else 0.0
        out.append(
            {
                "name": clip.name,
                "source": clip.file,
                "seconds": round(seconds, 6),
                "source_fps": motion.fps if motion else None,
                "frames": round(motion.seconds * motion.fps) + 1 if motion else 0,
                "joints": len({t.joint for t in motion.tracks}) if motion else 0,
                "reverse": clip.reverse,
                "in_place": clip.in_place,
                "tags": list(clip.tags),
                "uses": used.get(clip.name, []),
                "loop": clip.loop,
                "mirror": clip.mirror,
                "rate": clip.rate,
                "in": clip.start,
                "out": end,
                "travel": travel,
            }
        )
    return out


def move(m: Move) -> dict[str, Any]:
    """A part of a take in which something strikes, by frames of its source."""
    return {
        "from": m.start,
        "to": m.end,
        "strike": m.strike,
        "joint": m.joint,
        "sure": m.sure,
        "speed": round(m.speed, 3),
    }


def facts(f: Facts) -> dict[str, Any]:
    """An action's facts."""
    return {
        "name": f.name,
        "startup": f.startup,
        "active": f.active,
        "gaps": f.gaps,
        "recovery": f.recovery,
        "total": f.total,
        "on_hit": f.on_hit,
        "on_guard": f.on_guard,
        "on_hit_last": f.on_hit_last,
        "on_guard_last": f.on_guard_last,
        "reach": f.reach,
        "travel": rounded(np.array(f.travel)),
        "damage": f.damage,
        "coverage": f.coverage,
        "width": f.width,
        "thrown": [asdict(throw) for throw in f.thrown],
        "why": dict(f.why),
        "sections": [{"name": n, "ticks": t, "then": then} for n, t, then in f.sections],
    }


def pop(p: Pop) -> dict[str, Any]:
    """A pop."""
    return {
        "action": p.action,
        "section": p.section,
        "from": p.source,
        "at": p.at,
        "joint": p.joint,
        "metres": p.metres,
        "degrees": p.degrees,
        "why": p.why,
    }


def finding(f: Finding) -> dict[str, Any]:
    """A finding."""
    return {"code": f.code, "level": f.level, "where": f.where, "says": f.says, "do": f.do}


def drill(r: DrillResult) -> dict[str, Any]:
    """How a drill went."""
    return {
        "name": r.name,
        "passed": r.passed,
        "ticks": r.ticks,
        "expected": list(r.expected),
        "failed": list(r.failed),
        "came": [{"tick": line.tick, "says": line.says} for line in r.came],
    }


def ground(build: CompiledProject) -> dict[str, Any]:
    """Locomotion: states with their group, clip, blend and loop; transitions in the order of the project; parameters;
    what is found in it."""
    there = build.project.locomotion
    found = [f for f in found_around(build) if f.at.part == "locomotion"]
    return {
        "entry": build.chart.entry,
        "states": [_state(build, s) for s in there.states],
        "groups": [
            {"name": g.name, "group": g.group, "enters": g.enters, "members": build.chart.members[g.name]}
            for g in build.chart.groups.values()
        ],
        "transitions": [
            {
                "start": t.start,
                "to": t.to,
                "conditions": [{"test": c.test, "name": c.name, "op": c.op, "value": c.value} for c in t.conditions],
                "ticks": t.ticks,
                "ease": t.ease,
                "enters": t.enters,
                "says": sentence(t.conditions),
            }
            for t in there.transitions
        ],
        "parameters": [
            {"name": p.name, "kind": p.kind, "low": p.low, "high": p.high, "default": p.default}
            for p in there.parameters
        ],
        "findings": [finding(f) for f in found],
    }


def _state(build: CompiledProject, state: State) -> dict[str, Any]:
    clip = build.locomotion_clip(state.clip)
    return {
        "name": state.name,
        "group": state.group or None,
        "clip": state.clip or None,
        "blend": [{"clip": p.clip, "at": dict(zip(state.over, p.at))} for p in state.blend],
        "loop": loops(state, clip),
        "plays": state.plays,
        "action": state.action or None,
        "band": state.band,
    }


def layers(build: CompiledProject) -> dict[str, Any]:
    """Layers from the bottom up, with what each does in every state of locomotion, and masks joint by joint."""
    return {
        "layers": [
            {
                "name": y.name,
                "mode": y.mode,
                "mask": y.mask or None,
                "weight": y.weight,
                "reference": y.reference or None,
                "root": build.root_share(y.name),
                "space": y.space,
                "by": y.by or None,
                "adds": y.adds if y.mode == "additive" else None,
                "taken": y.taken,
                "under": y.under,
                "covered": y.covered,
                "acts": y.acts,
                "scope": scope_of(build, y),
                "actions": [a.name for a in build.project.actions if a.layer == y.name],
            }
            for y in build.project.layers
        ],
        "masks": [{"name": m.name, "joints": weights_of(build, m)} for m in build.project.masks],
        "findings": [finding(f) for f in found_around(build) if f.at.part in ("layer", "mask")],
    }
