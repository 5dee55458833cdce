"""What is wrong with the poses an action begins with."""

from __future__ import annotations

from collections.abc import Iterator

from veergust.core.motion.prepared import motion_of
from veergust.core.play.compiled.action import CompiledAction, CompiledSection
from veergust.core.play.compiled.project import Book
from veergust.core.study.finding import Finding
from veergust.core.study.preparing import resting


def first_poses(book: Book, compiled: CompiledAction) -> Iterator[Finding]:
    """Cuts that begin with the rest pose of an export."""
    for part in compiled.sections:
        yield from _rests(book, compiled, part)


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
