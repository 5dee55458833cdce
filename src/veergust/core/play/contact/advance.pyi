from veergust.core.motion.quat import Array

def capsules(
    a0: Array,
    b0: Array,
    a1: Array,
    b1: Array,
    c0: Array,
    d0: Array,
    c1: Array,
    d1: Array,
    radius: Array,
    radius_end: Array,
    times: Array,
    places: Array,
) -> None: ...
def boxes(
    half: Array,
    half_end: Array,
    c0: Array,
    d0: Array,
    c1: Array,
    d1: Array,
    radius: Array,
    times: Array,
    places: Array,
) -> None: ...
