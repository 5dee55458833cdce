from numpy import uint8
from numpy.typing import NDArray

from veergust.core.motion.quat import Array, Indices

def cut(
    mounts: Array, local: Array, wide: Array, sizes_of: Array, most: float
) -> tuple[Indices, Array, Array, Array, Array, Array, Array, Array]: ...
def near(
    mine: Array,
    my_size: Array,
    hurts: Array,
    hurt_size: Array,
    may: NDArray[uint8],
    swing: Indices,
    owner: Indices,
) -> tuple[Indices, Indices]: ...
def ends_on(body: Array, joints: Array, which: Indices, a: Array, b: Array, low: Array, high: Array) -> None: ...
