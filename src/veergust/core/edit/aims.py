"""A layer's aim, as it is edited: its poses by where they point."""

from __future__ import annotations

import re
from typing import Any

from msgspec.structs import replace

from veergust.core.edit.layers import set_layer
from veergust.core.edit.spans import Edit
from veergust.core.model import Aim, AimPoint, Layer, Project
from veergust.core.trouble import Trouble, named

FAR_SIDE, FAR_UP = 60.0, 40.0
"""Where a clip points whose name says a side, or up or down (degrees)."""
MOST_POINTS = 25
_SAYS = {"left": (FAR_SIDE, 0.0), "right": (-FAR_SIDE, 0.0), "up": (0.0, FAR_UP), "down": (0.0, -FAR_UP)}


def pointing(clip: str) -> tuple[float, float]:
    """Where a clip points by its name: degrees to the left, and up; ahead where that says nothing."""
    words = set(re.split(r"[^a-z]+", re.sub(r"(?<=[a-z])(?=[A-Z])", " ", clip).lower()))
    said = [_SAYS[w] for w in _SAYS if w in words]
    return sum(s for s, _ in said), sum(u for _, u in said)


def add_points(project: Project, layer: str, clips: list[str]) -> Edit:
    """A layer whose aim has these clips as well, each where its name says it points.

    Raises:
        Trouble: there is no such layer or clip, or there would be too many.
    """
    aim = _layer(project, layer).aim or Aim()
    known = {c.name for c in project.clips}
    for name in clips:
        if name not in known:
            raise Trouble(f"there is no clip {name!r}", field="aim", do="choose one that is there")
    points = [AimPoint(clip=name, side=side, up=up) for name in clips for side, up in [pointing(name)]]
    if len(aim.points) + len(points) > MOST_POINTS:
        raise Trouble(f"an aim has at most {MOST_POINTS} poses", field="aim", do="leave some out")
    made = replace(aim, points=(*aim.points, *points))
    return set_layer(project, layer, f"aims with {', '.join(clips)}", aim=made)


def set_point(project: Project, layer: str, index: int, **changes: Any) -> Edit:
    """A pose of an aim, changed. Raises ``Trouble`` where there is none."""
    aim = _aim(project, layer)
    _there(aim, index)
    points = tuple(replace(p, **changes) if i == index else p for i, p in enumerate(aim.points))
    return set_layer(project, layer, f"pose {index + 1} of its aim", aim=replace(aim, points=points))


def remove_point(project: Project, layer: str, index: int) -> Edit:
    """An aim without a pose; without its last a layer aims no more. Raises ``Trouble`` where there is none."""
    aim = _aim(project, layer)
    _there(aim, index)
    points = tuple(p for i, p in enumerate(aim.points) if i != index)
    words = f"pose {index + 1} of its aim away" if points else "aims no more"
    return set_layer(project, layer, words, aim=replace(aim, points=points) if points else None)


def set_aim(project: Project, layer: str, **changes: Any) -> Edit:
    """An aim with other numbers. Raises ``Trouble`` where the layer has none."""
    aim = replace(_aim(project, layer), **changes)
    return set_layer(project, layer, f"aim: {', '.join(changes)}", aim=aim)


def _layer(project: Project, name: str) -> Layer:
    return named(project.layers, name, "layer")


def _aim(project: Project, layer: str) -> Aim:
    aim = _layer(project, layer).aim
    if aim is None:
        raise Trouble(f"{layer} does not aim", field="aim", do="give it poses first")
    return aim


def _there(aim: Aim, index: int) -> None:
    if not 0 <= index < len(aim.points):
        raise Trouble(f"there is no pose {index + 1}", field="aim", do="choose one that is there")
