from veergust.core.motion.quat import Array, Indices

def bearing(
    joints: Array, head: int, ahead: Array, x: float, y: float, z: float, facing: float
) -> tuple[float, float, float]: ...
def turn(
    parents: Indices,
    rotation: Array,
    joints: Array,
    chain: Indices,
    shares: Array,
    side: float,
    up: float,
    weight: float,
) -> None: ...
