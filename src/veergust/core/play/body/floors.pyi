from collections.abc import Sequence

from veergust.core.model import Floor
from veergust.core.motion.quat import Array

STEP_UP: float
"""So much higher (m) a floor may be to be stepped on, and so much lower to be stepped down to."""

def rows_of(floors: Sequence[Floor]) -> Array: ...
def height_under(floors: Array, x: float, y: float, z: float, above: float = ...) -> float: ...
def height_of(floors: Array, index: int, x: float, z: float) -> float: ...
