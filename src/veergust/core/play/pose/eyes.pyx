"""Where a head looks and where its target is, and the turns of a chain of joints that bring it there. Degrees."""

from libc.math cimport M_PI, asin, atan2, cos, fmod, sin
from libc.stdlib cimport free

from veergust.core.motion.kernels.checks cimport counts, frames_of, in_reach, pose_of, room
from veergust.core.motion.kernels.limbs cimport Move, turned
from veergust.core.motion.kernels.turns cimport Turn, Vector, minus, multiply, rotate, unit

cdef double DEGREES = 180.0 / M_PI


def bearing(
    const double[:, :, ::1] joints not None, Py_ssize_t head, const double[::1] ahead not None, double x, double y,
    double z, double facing,
):
    """By how much ``head`` has to turn to a side and up to look at a target, and how far that is to the side of the body.

    The target is at (x, y, z) from the body in the world, which faces ``facing`` (radians); ``ahead`` ``[3]`` is what the
    head looks along, in its own frame.
    """
    frames_of(joints, joints.shape[0])
    in_reach(head, joints.shape[0], "joint")
    counts(ahead.shape[0], 3, "numbers of a direction")
    cdef double s = sin(facing), c = cos(facing), side, to
    cdef Vector way = unit(
        minus(Vector(c * x - s * z, y, c * z + s * x), Vector(joints[head, 0, 3], joints[head, 1, 3], joints[head, 2, 3]))
    )
    cdef double[3] looks
    cdef int k
    for k in range(3):
        looks[k] = joints[head, k, 0] * ahead[0] + joints[head, k, 1] * ahead[1] + joints[head, k, 2] * ahead[2]
    to = atan2(way.x, way.z) * DEGREES
    side = fmod(to - atan2(looks[0], looks[2]) * DEGREES + 540.0, 360.0) - 180.0
    return (
        side,
        (asin(min(max(way.y, -1.0), 1.0)) - asin(min(max(looks[1], -1.0), 1.0))) * DEGREES,
        to,
    )


def turn(
    const Py_ssize_t[::1] parents not None,
    double[:, ::1] rotation not None,
    double[:, :, ::1] joints not None,
    const Py_ssize_t[::1] chain not None,
    const double[::1] shares not None,
    double side,
    double up,
    double weight,
):
    """Turn the joints of a ``chain`` ``[n]`` about the body, each by its share: to a ``side`` about the upright axis, and
    ``up`` about the axis across what is then looked at. Local ``rotation`` ``[J, 4]`` and ``joints`` ``[J, 4, 4]`` are
    changed in place."""
    cdef Py_ssize_t n, count = chain.shape[0]
    pose_of(parents, rotation, joints)
    counts(shares.shape[0], count, "shares")
    for n in range(count):
        in_reach(chain[n], parents.shape[0], "joint")
    cdef Turn* turns = <Turn*> room(count * (sizeof(Turn) + sizeof(Move)) + parents.shape[0] * sizeof(Py_ssize_t))
    cdef Move* moves = <Move*> (turns + count)
    cdef Py_ssize_t* nearest = <Py_ssize_t*> (moves + count)
    cdef double half = side / DEGREES / 2.0, a, b
    cdef Vector across = rotate(Turn(0.0, sin(half), 0.0, cos(half)), Vector(1.0, 0.0, 0.0))
    for n in range(count):
        a, b = side * shares[n] * weight / DEGREES / 2.0, -up * shares[n] * weight / DEGREES / 2.0
        turns[n] = multiply(
            Turn(across.x * sin(b), across.y * sin(b), across.z * sin(b), cos(b)), Turn(0.0, sin(a), 0.0, cos(a))
        )
    turned(parents, rotation, joints, chain, turns, nearest, moves)
    free(turns)
