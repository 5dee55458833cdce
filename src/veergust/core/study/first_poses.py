"""What is wrong with the poses an action begins with."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from veergust.core.motion.prepared import motion_of
from veergust.core.motion.skeleton import forward
from veergust.core.play.book import Book
from veergust.core.play.compiled import CompiledAction, CompiledSection
from veergust.core.study.finding import Finding
from veergust.core.study.preparing import resting

POP = 0.3
"""A start pops when a joint has to go so far (m) in one tick of the blend."""


def first_poses(book: Book, compiled: CompiledAction) -> Iterator[Finding]:
    """Cuts that begin with the rest pose of an export, and starts that the blend from locomotion cannot hide."""
    for part in compiled.sections:
        yield from _rests(book, compiled, part)
    yield from _pops(book, compiled)


def _rests(book: Book, compiled: CompiledAction, part: CompiledSection) -> Iterator[Finding]:
    """First poses that are the rest pose, told as where a clip is prepared; what eases out of it is meant."""
    for cut in part.cuts:
        clip = book.clip(cut.cut.clip)
        motion = motion_of(book.cast, clip) if clip is not None else None
        if motion is None:
            continue
        rest = motion.rest.turn[0] if motion.rest is not None else book.cast.skeleton.rest_turn
        if resting(part.pose.turn[cut.first : cut.first + cut.ticks], rest):
            where = f"{compiled.action.name} › {part.section.name}"
            yield Finding("rest-pose", "warning", where, f"its cut of {cut.cut.clip} begins with the rest pose",
                          "start the cut later; Clips › Prepare proposes where")  # fmt: skip


def _pops(book: Book, compiled: CompiledAction) -> Iterator[Finding]:
    """Of actions that start from locomotion: how far the joints are from where it begins, against the blend."""
    action, clip = compiled.action, book.idle_clip
    if not action.start.commands or not compiled.path or not clip or book.clip(clip) is None:
        return
    pose = book.ground_clip(clip).at(0.0)
    idle = forward(book.cast.skeleton, pose.turn, pose.place)[0]
    part = compiled.sections[compiled.entry]
    gap = float(np.linalg.norm(part.world[0, :, :3, 3] - idle[:, :3, 3], axis=-1).max(initial=0.0))
    if gap / max(action.blend_in, 1) > POP:
        says = f"its first pose is {gap * 100:.0f} cm from {clip}, blended in over {action.blend_in} f: it pops"
        yield Finding("start-pops", "warning", f"{action.name} › {part.section.name}", says,
                      "blend in longer, or start the first cut nearer to that pose")  # fmt: skip
