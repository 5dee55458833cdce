from numpy import uint8
from numpy.typing import NDArray

from veergust.core.motion.quat import Array, Indices

def pairs(
    rows: Indices,
    hurt: Indices,
    spans: Array,
    hit_ends: Array,
    hit_radii: Array,
    hit_half: Array,
    hit_frames: Array,
    hit_boxes: NDArray[uint8],
    hurt_ends: Array,
    hurt_radius: Array,
    hurt_half: Array,
    hurt_frames: Array,
    hurt_boxes: NDArray[uint8],
    times: Array,
    places: Array,
) -> None: ...
