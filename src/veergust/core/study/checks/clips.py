"""Clips whose file is gone or lacks the animation."""

from __future__ import annotations

from collections.abc import Iterator

from veergust.core.kinds import Finding, Ref
from veergust.core.motion import motion_of
from veergust.core.play import CompiledProject


def check(build: CompiledProject) -> Iterator[Finding]:
    """Clips that cannot be played."""
    for clip in build.project.clips:
        if motion_of(build.assets, clip) is None:
            says = f"its file {clip.file} is gone or has no animation {clip.animation!r}"
            where = Ref("clip", clip.name, (f"clip {clip.name}",))
            yield Finding("clip-missing", "error", where, says, "bring the file back, or import it again")


def clip_missing(name: str, where: Ref) -> Finding:
    """That a clip is named which the project does not have."""
    says = f"names the clip {name!r}, which the project does not have"
    return Finding("clip-missing", "error", where, says, "import the clip or choose another")
