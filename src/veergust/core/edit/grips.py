"""Hands that are kept on a mount: added, changed, let go for good."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace

from veergust.core.edit.spans import Edit
from veergust.core.model import Grip, Project
from veergust.core.motion import Skeleton, parts_of
from veergust.core.trouble import Trouble


def hands_of(project: Project, bones: Skeleton) -> list[str]:
    """What may be kept on a mount: mounts on hands, then the hands themselves."""
    hands = {name for name, part in zip(bones.names, parts_of(bones)) if part.kind == "hand" and not part.end}
    palms = [m.name for m in project.rig.mounts if m.joint in hands]
    return [*palms, *(name for name in bones.names if name in hands)]


def add_grip(project: Project, bones: Skeleton, layer: str = "") -> Edit:
    """One hand more, on the last mount that is not its own. Raises ``Trouble`` where the figure has none."""
    hands = hands_of(project, bones)
    taken = {g.hand for g in project.grips}
    hand = next((h for h in hands if h not in taken), "")
    own = {m.joint: m.name for m in project.rig.mounts}
    mounts = [m.name for m in project.rig.mounts if m.name != hand and own.get(m.joint) != hand]
    if not hand or not mounts:
        raise Trouble(
            "the figure has no other hand, or no mount to keep it on",
            field="hand",
            do="name a hand's joint so, or make a mount on Clips › Props",
        )
    made = Grip(hand=hand, mount=mounts[-1], layers=(layer,) if layer else ())
    return Edit(replace(project, grips=(*project.grips, made)), f"{hand} kept on {made.mount}")


def set_grip(project: Project, index: int, words: str, **fields: Any) -> Edit:
    """A hand that is kept otherwise."""
    made = replace(project.grips[index], **fields)
    grips = tuple(made if i == index else g for i, g in enumerate(project.grips))
    return Edit(replace(project, grips=grips), f"{made.hand}: {words}")


def remove_grip(project: Project, index: int) -> Edit:
    """A hand that is kept nowhere any more."""
    gone = project.grips[index]
    grips = tuple(g for i, g in enumerate(project.grips) if i != index)
    return Edit(replace(project, grips=grips), f"{gone.hand} free of {gone.mount}")
