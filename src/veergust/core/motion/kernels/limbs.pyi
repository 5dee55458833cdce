from veergust.core.motion.quat import Array, Indices

def reach(
    parents: Indices,
    rotation: Array,
    joints: Array,
    limbs: Indices,
    lengths: Array,
    targets: Array,
    tilts: Array,
    straightest: float,
) -> None: ...
