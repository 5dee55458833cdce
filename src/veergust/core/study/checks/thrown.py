"""Things that fly: what is let go inside its own thrower, does nothing, or is let go by nobody."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from veergust.core.kinds import Finding, Ref, in_action
from veergust.core.model import Event, Hitbox
from veergust.core.motion import Array
from veergust.core.play import CompiledAction, CompiledProject, CompiledSection, box_frame, volumes_of


def check(build: CompiledProject) -> Iterator[Finding]:
    """Things that no event lets go."""
    events = (e for a in build.project.actions for part in a.sections for e in part.events)
    spawned = {e.name for e in events if e.kind == "spawn"}
    for thing in build.project.thrown:
        if thing.name not in spawned:
            where = Ref("thrown", thing.name, (f"thrown {thing.name}",))
            yield Finding("thrown-unused", "note", where, "is let go by no event", "spawn it, or take it away")


def inside(build: CompiledProject, compiled: CompiledAction) -> Iterator[Finding]:
    """Things that begin inside their thrower."""
    for section, part in enumerate(compiled.sections):
        for index, event in enumerate(part.section.events):
            thing = build.thrown.get(event.name) if event.kind == "spawn" else None
            if thing is not None and 0 <= event.tick < part.ticks:
                covers = _around(build, part, compiled.world_of(section)[event.tick], event)
                if covers:
                    names = compiled.action.name, part.section.name, event.name
                    where = in_action(*names, section=section, kind="events", index=index)
                    says = f"lets {thing.name} go inside {covers}: it is seen to come out of the body"
                    yield Finding(
                        "thrown-inside", "note", where, says, "give the event a mount or an offset outside it"
                    )


def _around(build: CompiledProject, part: CompiledSection, joints: Array, event: Event) -> str:
    """The hurtbox in which an event goes off; nothing where in none."""
    mirrored = part.mirrored(event.tick)
    frame = box_frame(build, Hitbox(mount=event.mount), joints, mirrored) if event.mount else np.eye(4)
    if frame is None:
        return ""
    offset = np.array(event.offset) * (np.array([-1.0, 1.0, 1.0]) if mirrored else 1.0)
    place = (frame[:3, :3] @ offset + frame[:3, 3])[None]
    posture = part.section.posture or "standing"
    volumes = volumes_of(build.hurt_shapes[posture], joints, joints)
    return next((v.name for v in volumes if v.holds(place)[0]), "")
