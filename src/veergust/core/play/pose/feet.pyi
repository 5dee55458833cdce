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
def lay(
    parents: Indices,
    rotation: Array,
    translation: Array,
    joints: Array,
    legs: Indices,
    lengths: Array,
    feet: Array,
    hips: int,
    shift: float,
    facing: float,
    weight: float,
) -> None: ...
def off(feet: Array, least: float) -> bool: ...
def fresh(feet: Array) -> None: ...
