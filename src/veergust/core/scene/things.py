"""The parts of a scene."""

from __future__ import annotations

from dataclasses import dataclass, field

from veergust.core.model import Floor, Post
from veergust.core.motion import Array, Mesh


@dataclass(frozen=True, eq=False)
class Body:
    """A figure: joint matrices in the world ``[J, 4, 4]``, its tone, and how opaque it is.

    ``tints`` say by how much each joint has each of ``roles``' inks ``[R, J]``; what is left has the figure's own.
    """

    joints: Array
    tone: str = "body"
    opacity: float = 1.0
    roles: tuple[str, ...] = ()
    tints: Array | None = None
    mesh: Mesh | None = None
    """What is drawn on it where that is another figure than the scene's."""


@dataclass(frozen=True, eq=False)
class Tube:
    """A capsule from ``a`` to ``b``; ``role`` says what it is, ``filled`` whether it is open."""

    a: Array
    b: Array
    radius: float
    role: str
    filled: bool = False


@dataclass(frozen=True, eq=False)
class Ribbon:
    """The sweep of a line: ``low`` and ``high`` ends ``[N, 3]``."""

    low: Array
    high: Array
    role: str


@dataclass(frozen=True, eq=False)
class Path:
    """A line through ``points`` ``[N, 3]`` with a mark at each when ``marks``."""

    points: Array
    role: str
    marks: bool = True


@dataclass(frozen=True, eq=False)
class Label:
    """Words at a place in the world."""

    text: str
    at: Array
    role: str = ""
    strong: bool = False


@dataclass(frozen=True, eq=False)
class Scene:
    """All there is to draw."""

    bodies: tuple[Body, ...] = ()
    ghosts: tuple[Body, ...] = ()
    tubes: tuple[Tube, ...] = ()
    ribbons: tuple[Ribbon, ...] = ()
    paths: tuple[Path, ...] = ()
    labels: tuple[Label, ...] = ()
    floors: tuple[Floor, ...] = field(default_factory=lambda: (Floor(),))
    posts: tuple[Post, ...] = ()
