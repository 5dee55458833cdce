"""Windows and hitboxes that do not do what they are for: too early, too slow, too large, too far off."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from veergust.core.model import Box, Strike
from veergust.core.motion.quat import Array
from veergust.core.play.compiled.action import CompiledAction
from veergust.core.play.compiled.project import Book
from veergust.core.play.contact.volumes import box_frame, hit_volume
from veergust.core.study.finding import Finding

ARM = 0.45
"""An arm's reach as a part of the body's height."""


def windows(book: Book, compiled: CompiledAction) -> Iterator[Finding]:
    """Exits that cannot be taken, or cancel the hit they follow."""
    open_ = compiled.open_frames
    name = compiled.action.name
    if not open_:
        return
    for first, i in compiled.starts():
        section = compiled.sections[i].section
        for exit_ in section.exits:
            where = f"{name} › {section.name} › {exit_.kind}"
            if exit_.contact in ("hit", "guarded") and first + exit_.end <= open_[0]:
                yield Finding("exit-too-early", "warning", where,
                              f"asks for a touch, and ends at {first + exit_.end}, before the first strike opens "
                              f"at {open_[0]}", "move it behind the strike")  # fmt: skip
            elif exit_.kind == "combo" and exit_.contact == "any" and open_[0] < first + exit_.start <= open_[-1]:
                yield Finding("combo-early", "warning", where,
                              f"opens at {first + exit_.start}, while the strike is still to hit until "
                              f"{open_[-1]}: the next attack cancels it",
                              "open it behind the last active frame, or ask for a hit")  # fmt: skip


def hitboxes(book: Book, compiled: CompiledAction) -> Iterator[Finding]:
    """Hitboxes larger than an arm reaches, or farther than that from weapon and limb."""
    arm = ARM * book.project.rig.capsule.height
    for i, part in enumerate(compiled.sections):
        for strike in part.section.strikes:
            where = f"{compiled.action.name} › {part.section.name} › {strike.name}"
            for box in strike.boxes:
                size = max(box.radius, *(k.radius for k in box.keys), *(box.size if box.shape == "box" else ()), 0.0)
                if size > arm:
                    yield Finding("hitbox-huge", "warning", where, f"has a hitbox {size:.2f} m thick",
                                  "fit it to the weapon or the limb")  # fmt: skip
                elif _far(book, compiled, i, strike, box) > arm:
                    far = _far(book, compiled, i, strike, box)
                    yield Finding("hitbox-far", "warning", where,
                                  f"has a hitbox {far:.2f} m from its mount and the weapon",
                                  "bring it to them")  # fmt: skip


def _far(book: Book, compiled: CompiledAction, section: int, strike: Strike, box: Box) -> float:
    """How far (m) a hitbox is from its mount, or from the weapon's line where that is nearer, as it opens."""
    part = compiled.sections[section]
    tick = min(max(strike.start, 0), part.ticks - 1)
    joints, mirrored = part.world[tick], part.mirrored(tick)
    volume = hit_volume(book, box, tick, mirrored, joints, joints, True)
    if volume is None:
        return 0.0
    ends = [volume.frame_now[:3, 3]] * 2
    weapon = book.project.rig.weapon
    if weapon is not None:
        line = [box_frame(book, Box(mount=m), joints, mirrored) for m in (weapon.base, weapon.tip)]
        ends += [frame[:3, 3] for frame in line if frame is not None]
    a, b = volume.now
    points = a + (b - a) * np.linspace(0.0, 1.0, 9)[:, None]
    return min(_from_line(points, p, q) for p, q in zip(ends[::2], ends[1::2])) - volume.radius


def _from_line(points: Array, p: Array, q: Array) -> float:
    way = q - p
    t = np.clip((points - p) @ way / max(float(way @ way), 1e-12), 0.0, 1.0)
    return float(np.linalg.norm(points - (p + t[:, None] * way), axis=-1).min())
