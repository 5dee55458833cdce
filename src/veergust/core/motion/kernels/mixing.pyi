from veergust.core.motion.quat import Array, Indices
from veergust.core.motion.skeleton import Pose

def over(
    parents: Indices,
    base: Pose,
    pose: Pose,
    weight: Array,
    share: float,
    way: Array | None,
    out: Array,
    places: Array,
    goes: Array,
    in_body: bool,
) -> None: ...
def added(
    parents: Indices,
    base: Pose,
    pose: Pose,
    reference: Pose,
    weight: Array,
    share: float,
    way: Array | None,
    out: Array,
    places: Array,
    goes: Array,
    in_body: bool,
) -> None: ...
def mean(frames: list[tuple[Pose, float, float]], rotation: Array, translation: Array) -> None: ...
