from collections.abc import Sequence

from veergust.core.motion.quat import Array, Indices

COLUMNS: int
STRAIGHTEST: float

def step(
    joints: Array,
    legs: Indices,
    lengths: Array,
    high: Array,
    floors: Array,
    before: Array,
    after: Array,
    own: Sequence[float],
    x: float,
    y: float,
    z: float,
    facing: float,
    grounded: bool,
    on: bool,
    rate: float,
    ground: tuple[float, float, float],
    behind: float,
) -> float: ...
def ankles(
    joints: Array, legs: Indices, feet: Array, facing: float, weight: float, targets: Array, tilts: Array
) -> None: ...
def off(feet: Array, least: float) -> bool: ...
def fresh(feet: Array) -> None: ...
