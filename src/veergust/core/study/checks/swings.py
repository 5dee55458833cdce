"""Strikes held against the swing that they are meant for: open too soon, past the fastest frames, or for nothing."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from veergust.core.kinds import Finding, in_action
from veergust.core.model import Strike
from veergust.core.motion import Array
from veergust.core.play import CompiledAction, CompiledProject, mount_trajectory
from veergust.core.study.coverage import swing_of

SWINGS, AROUND = 3.0, 8
"""What goes slower (m/s, about the hips) is no swing; its fastest frame is looked for so many frames about a strike."""
FASTER, BACK, RESTS = 1.25, 0.6, 0.25
"""Frames outside that are so much faster than any inside are missed; what goes back at more than ``BACK`` m/s is being
raised; slower than this part of its fastest it has come to rest."""
COVERS = 0.4


def check(build: CompiledProject, compiled: CompiledAction) -> Iterator[Finding]:
    """Strikes that are not open where the limb or weapon strikes, that cover little of it, or are left open."""
    if not compiled.path or len(build.assets.skeleton) == 0 or build.assets.skeleton.picture >= 0:
        return  # what is drawn strikes where it is drawn
    hips = mount_trajectory(build, compiled, build.assets.skeleton.names[build.roots.hips])
    for i in compiled.path:
        part, first = compiled.sections[i], compiled.start_of(i)
        for n, strike in enumerate(part.section.strikes):
            where = in_action(compiled.action.name, part.section.name, strike.name, section=i, kind="strikes", index=n)
            rows = range(first + max(strike.start, 0), first + min(strike.end, part.ticks))
            shares = [s for r in rows if (s := swing_of(build).share(build, compiled, i, r - first)) is not None]
            if shares and max(shares) > 0.0 and np.mean(shares) < COVERS:
                says = f"covers {np.mean(shares):.0%} of what it sweeps"
                yield Finding("strike-covers-little", "note", where, says, "fit its hitboxes to the swing (B)")
            way = _tip_way(build, compiled, strike)
            if way is None or hips is None or not len(rows):
                continue
            for code, says, do in _told(
                way - hips, rows, range(first, first + part.ticks), build.project.settings.rate
            ):
                yield Finding(code, "note", where, says, do)
            ends = strike.end >= part.ticks and compiled.path[-1] == i
            still = _rests(way - hips, rows, build.project.settings.rate) if ends else 0
            if still > 2:
                says = f"is left open to the section's end, {still} frames after the swing came to rest"
                yield Finding("strike-left-open", "note", where, says, f"end it at {rows[-1] + 1 - still}")


def _tip_way(build: CompiledProject, compiled: CompiledAction, strike: Strike) -> Array | None:
    """Where the tip of what strikes goes ``[N, 3]``: of the weapon, or the mount of the first hitbox."""
    mount, weapon = next((b.mount for b in strike.boxes if b.mount), ""), build.project.rig.weapon
    there, held = build.mount(mount), build.mount(weapon.base) if weapon is not None else None
    if weapon is not None and there is not None and held is not None and there[0] == held[0]:
        mount = weapon.tip
    return mount_trajectory(build, compiled, mount) if mount else None


def _speed(about: Array, rate: int) -> tuple[Array, Array]:
    """Velocity ``[N, 3]`` and speed ``[N]`` on each row (m/s)."""
    velocity = np.diff(about, axis=0, prepend=about[:1]) * rate
    return velocity, np.linalg.norm(velocity, axis=1)


def _told(about: Array, rows: range, within: range, rate: int) -> Iterator[tuple[str, str, str]]:
    velocity, speed = _speed(about, rate)
    low, high = max(rows[0] - AROUND, 1), min(rows[-1] + 1 + AROUND, len(speed))
    if low >= high:
        return  # one frame alone: nothing has a speed there
    fastest = low + int(np.argmax(speed[low:high]))
    if speed[fastest] < SWINGS:
        return
    along = velocity @ (velocity[fastest] / speed[fastest])
    back: NDArray[np.intp] = np.flatnonzero(along[rows.start : rows.stop] > -BACK)
    raised = int(back[0]) if len(back) else len(rows)
    if raised > 0 and fastest >= rows[0]:
        span = f"{rows[0]}–{rows[0] + raised - 1}" if raised > 1 else f"{rows[0]}"
        yield "strike-too-soon", f"is open on {span} while the tip still goes back", f"open it on {rows[0] + raised}"
    inside = float(speed[rows.start : rows.stop].max())
    low, high = max(low, within.start), min(high, within.stop)
    if low >= high:
        return
    fastest = low + int(np.argmax(speed[low:high]))
    if fastest not in rows and speed[fastest] > FASTER * inside:
        says = f"is not open on {fastest}, where the tip is fastest"
        yield "strike-off-fastest", says, f"have it open on {fastest}"


def _rests(about: Array, rows: range, rate: int) -> int:
    """For how many of the last rows of a strike the tip has come to rest."""
    _, speed = _speed(about, rate)
    inside = speed[rows.start : rows.stop]
    moving = np.flatnonzero(inside > RESTS * max(float(inside.max()), SWINGS))
    return len(inside) - 1 - int(moving[-1]) if len(moving) else 0
