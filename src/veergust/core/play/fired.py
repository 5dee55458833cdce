"""What goes off on a tick: an event as it happened."""

from __future__ import annotations

from dataclasses import dataclass

from veergust.core.model import Whom
from veergust.core.motion import Array


@dataclass(frozen=True, eq=False)
class Fired:
    """An event as it happened; ``facing`` in degrees about +Y, as the event says it faces. ``serial`` is
    the number of its action among the fighter's starts (0: of none), and ``mark`` tells it from the others of
    that start (empty: by nothing). ``whom`` it is for where several machines play."""

    fighter: str
    name: str
    kind: str
    mount: str
    position: Array
    facing: float = 0.0
    payload: str = ""
    serial: int = 0
    mark: str = ""
    whom: Whom = "everyone"
