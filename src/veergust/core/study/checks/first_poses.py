"""What is wrong with the poses an action begins with."""

from __future__ import annotations

from collections.abc import Iterator

from veergust.core.kinds import Finding, in_action
from veergust.core.motion import motion_of, resting
from veergust.core.play import CompiledAction, CompiledProject


def check(build: CompiledProject, compiled: CompiledAction) -> Iterator[Finding]:
    """Cuts that begin with the rest pose of an export; what eases out of it is meant."""
    for i, part in enumerate(compiled.sections):
        for cut in part.cuts:
            clip = build.clip(cut.cut.clip)
            motion = motion_of(build.assets, clip) if clip is not None else None
            if motion is None:
                continue
            rest = motion.rest.rotation[0] if motion.rest is not None else build.assets.skeleton.rest_rotation
            if resting(part.pose.rotation[cut.first : cut.first + cut.ticks], rest):
                where = in_action(compiled.action.name, part.section.name, section=i)
                says = f"its cut of {cut.cut.clip} begins with the rest pose"
                do = "start the cut later; Clips › Prepare proposes where"
                yield Finding("rest-pose", "warning", where, says, do)
