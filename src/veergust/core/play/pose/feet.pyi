from collections.abc import Sequence

from veergust.core.motion.quat import Array, Indices

COLUMNS: int
STRAIGHTEST: float

def lay(
    parents: Indices,
    rotation: Array,
    translation: Array,
    joints: Array,
    legs: Indices,
    lengths: Array,
    feet: Array,
    hips: int,
    facing: float,
    lower: float,
    behind: float,
    weight: float,
) -> None: ...
def step(
    joints: Array,
    legs: Indices,
    lengths: Array,
    high: Array,
    floors: Array,
    before: Array,
    after: Array,
    own: Sequence[float],
    place: tuple[float, ...],
    facing: float,
    grounded: bool,
    on: bool,
    rate: float,
    ground: tuple[float, float, float],
    lower: float,
    behind: float,
) -> float: ...
def take_along(feet: Array, x: float, y: float, z: float) -> None: ...
def fresh(feet: Array) -> None: ...
