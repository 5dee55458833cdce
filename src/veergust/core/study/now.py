"""What is so on one frame of an action, and what can happen from it, in plain words."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial

import numpy as np

from veergust.core.kinds import RANKED, NowItem, ShownFrame
from veergust.core.play import CompiledAction, CompiledProject
from veergust.core.study.coverage import covered
from veergust.core.study.layers import speaks_for


@dataclass(frozen=True)
class Now:
    """The Now card of a frame."""

    frame: int
    headline: str
    phase: str
    items: tuple[NowItem, ...]


def phase_of(compiled: CompiledAction, frame: int) -> tuple[str, int, int]:
    """(phase, which frame of it from 1, its length); no phase where there is no strike."""
    ticks = compiled.open_frames
    if frame >= compiled.total:
        return "off the path", frame - compiled.total + 1, compiled.rows - compiled.total
    if not ticks:
        return "no strike", frame + 1, compiled.total
    if frame < ticks[0]:
        return "startup", frame + 1, ticks[0]
    if frame > ticks[-1]:
        return "recovery", frame - ticks[-1], compiled.total - ticks[-1] - 1
    if frame in ticks:
        return "active", ticks.index(frame) + 1, len(ticks)
    return "gap", frame - ticks[0] + 1, ticks[-1] - ticks[0] + 1


def ordinal(n: int) -> str:
    """1st, 2nd, 3rd, 4th …"""
    tail = "th" if 10 <= n % 100 <= 20 else {1: "st", 2: "nd", 3: "rd"}.get(n % 10, "th")
    return f"{n}{tail}"


def now(build: CompiledProject, compiled: CompiledAction, frame: int) -> Now:
    """The Now card of ``frame`` along the path."""
    if not compiled.path:
        return Now(0, "No section yet", "", ())
    frame = min(max(frame, 0), compiled.rows - 1)
    section, tick = compiled.locate(frame)
    part = compiled.sections[section]
    first = compiled.start_of(section)
    phase, at, of = phase_of(compiled, frame)
    headline = f"{part.section.name}, {ordinal(tick + 1)} of {part.ticks} · source {part.source[tick]:.3f} s"
    place, _ = compiled.travel_to(frame)
    share = partial(covered, build, compiled, section, tick)
    shown = ShownFrame(build, compiled, section, tick, first, share, float(np.hypot(place[0], place[2])))
    items = [item for kind in RANKED for item in kind.now(shown)]
    said = speaks_for(build, compiled.action.layer)
    if said:
        items.append(NowItem("event", said, f"layer {compiled.action.layer}"))
    words = f"{phase} {at} of {of}" if phase != "no strike" else "no strike"
    return Now(frame, headline, words, tuple(items))
