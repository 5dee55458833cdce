from veergust.core.motion.quat import Array

def sweep(
    position: Array, step: Array, radius: float, floors: Array, discs: Array
) -> tuple[tuple[float, float, float], list[tuple[float, float]], bool]: ...
