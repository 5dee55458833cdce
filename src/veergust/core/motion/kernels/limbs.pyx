"""Limbs brought to a place, and chains of joints turned, in one pose that is changed in place.

``rotation`` ``[J, 4]`` are a pose's local rotations and ``joints`` ``[J, 4, 4]`` its joints about the body. The batched
form of the first, which changes nothing, is ``core.motion.ik``.
"""

from libc.math cimport fabs, sqrt
from libc.stdlib cimport free

from veergust.core.motion.kernels.checks cimport limbs_of, pose_of, room, rows_fit
from veergust.core.motion.kernels.turns cimport (
    Turn, Vector, between, conjugate, cross, dot, four, minus, multiply, plus, put_turn, rotate, size, three, times, unit,
)

cdef Turn STILL = Turn(0.0, 0.0, 0.0, 1.0)


cdef Turn turn_of(const Py_ssize_t[::1] parents, const double[:, ::1] rotation, Py_ssize_t joint) noexcept nogil:
    # The turn of a joint about the body, by the chain above it.
    cdef Turn out = STILL
    while joint >= 0:
        out = multiply(four(&rotation[joint, 0]), out)
        joint = parents[joint]
    return out


cdef void carry(
    const Py_ssize_t[::1] parents, double[:, :, ::1] joints, Py_ssize_t* nearest, const Move* moves
) noexcept nogil:
    # All that hangs on each moved joint carried along, the nearest counting. ``nearest`` is −1 but for those moved.
    cdef Py_ssize_t j, n
    cdef int k
    cdef Vector column
    for j in range(parents.shape[0]):
        if nearest[j] < 0 and parents[j] >= 0:
            nearest[j] = nearest[parents[j]]
        n = nearest[j]
        if n < 0:
            continue
        for k in range(4):
            column = Vector(joints[j, 0, k], joints[j, 1, k], joints[j, 2, k])
            if k == 3:
                column = plus(rotate(moves[n].turn, minus(column, moves[n].start)), moves[n].end)
            else:
                column = rotate(moves[n].turn, column)
            joints[j, 0, k], joints[j, 1, k], joints[j, 2, k] = column.x, column.y, column.z


cdef Vector bends_to(const double[:, :, ::1] joints, const Py_ssize_t* limb, Vector along) noexcept nogil:
    # Where the middle of a straight limb bends to: where its end points, across the limb.
    cdef Vector ahead = minus(place(joints, limb[3]), place(joints, limb[2]))
    cdef Vector side = minus(ahead, times(along, dot(ahead, along)))
    return unit(side) if size(side) > 1e-6 else Vector(0.0, 0.0, 1.0)


cdef void reached(
    const Py_ssize_t[::1] parents, double[:, ::1] rotation, const double[:, :, ::1] joints, const Py_ssize_t* limb,
    double upper, double lower, Vector target, Turn tilt, double straightest, Move* moves,
) noexcept nogil:
    # The moves of a limb's three joints that bring its end to the target; their local rotations are changed.
    cdef Vector a = place(joints, limb[0]), b = place(joints, limb[1]), c = place(joints, limb[2])
    cdef Turn base = turn_of(parents, rotation, parents[limb[0]])
    cdef Turn first = multiply(base, four(&rotation[limb[0], 0]))
    cdef Turn second = multiply(first, four(&rotation[limb[1], 0]))
    cdef Turn third = multiply(second, four(&rotation[limb[2], 0]))
    cdef Vector was = minus(c, a), way = minus(target, a)
    cdef double whole = upper + lower, long_ = size(was)
    cdef double length = max(size(way), fabs(upper - lower) + 1e-4)
    length = min(length, max(straightest * whole, min(long_, whole)))
    cdef Vector old = unit(was), along = unit(way)
    # The way the middle bends, carried along with the limb's own direction.
    cdef Vector bend = minus(b, a)
    bend = minus(bend, times(old, dot(bend, old)))
    cdef Vector side
    if size(bend) > 1e-6:
        side = rotate(between(old, along), unit(bend))
    else:
        side = bends_to(joints, limb, along)
    cdef double cosine = (upper * upper + length * length - lower * lower) / (2.0 * upper * length)
    cosine = min(max(cosine, -1.0), 1.0)
    cdef Vector knee = plus(
        a, times(plus(times(along, cosine), times(side, sqrt(1.0 - cosine * cosine))), upper)
    )
    cdef Vector tip = plus(a, times(along, length))
    moves[0] = Move(between(minus(b, a), minus(knee, a)), a, a)
    moves[1] = Move(between(minus(c, b), minus(tip, knee)), b, knee)
    moves[2] = Move(tilt, c, tip)
    first, second, third = multiply(moves[0].turn, first), multiply(moves[1].turn, second), multiply(tilt, third)
    put_turn(&rotation[limb[0], 0], multiply(conjugate(base), first))
    put_turn(&rotation[limb[1], 0], multiply(conjugate(first), second))
    put_turn(&rotation[limb[2], 0], multiply(conjugate(second), third))


def reach(
    const Py_ssize_t[::1] parents not None,
    double[:, ::1] rotation not None,
    double[:, :, ::1] joints not None,
    const Py_ssize_t[:, ::1] limbs not None,
    const double[:, ::1] lengths not None,
    const double[:, ::1] targets not None,
    const double[:, ::1] tilts not None,
    double straightest,
):
    """Bring the ends of ``limbs`` ``[n, 4]`` (upper, middle and end joint, and one that the end points to) to ``targets``
    ``[n, 3]`` about the body, each end turned on by ``tilts`` ``[n, 4]``.

    ``lengths`` ``[n, 2]`` are those of the bones (m). The middle stays in the plane it was in; no limb is made straighter
    than ``straightest`` of its length, or than it was. Law of cosines.
    """
    cdef Py_ssize_t n, k, count = limbs.shape[0], joint_count = parents.shape[0]
    pose_of(parents, rotation, joints)
    limbs_of(limbs, lengths, joint_count)
    rows_fit(targets, count, 3, "targets")
    rows_fit(tilts, count, 4, "tilts")
    cdef Move* moves = <Move*> room(3 * count * sizeof(Move) + joint_count * sizeof(Py_ssize_t))
    cdef Py_ssize_t* nearest = <Py_ssize_t*> (moves + 3 * count)
    with nogil:
        for k in range(joint_count):
            nearest[k] = -1
        for n in range(count):
            reached(
                parents, rotation, joints, &limbs[n, 0], lengths[n, 0], lengths[n, 1], three(&targets[n, 0]),
                four(&tilts[n, 0]), straightest, moves + 3 * n,
            )
            for k in range(3):
                nearest[limbs[n, k]] = 3 * n + k
        carry(parents, joints, nearest, moves)
    free(moves)


cdef void turned(
    const Py_ssize_t[::1] parents, double[:, ::1] rotation, double[:, :, ::1] joints, const Py_ssize_t[::1] chain,
    const Turn* turns, Py_ssize_t* nearest, Move* moves,
) noexcept nogil:
    # The joints of a chain turned on about the body; ``nearest`` ``[J]`` and ``moves`` ``[n]`` are room for it.
    cdef Py_ssize_t n, k, above, joint
    cdef Turn base
    cdef Vector was
    for k in range(parents.shape[0]):
        nearest[k] = -1
    for n in range(chain.shape[0]):
        joint = chain[n]
        nearest[joint] = n
        base = turn_of(parents, rotation, parents[joint])
        put_turn(
            &rotation[joint, 0],
            multiply(multiply(conjugate(base), multiply(turns[n], base)), four(&rotation[joint, 0])),
        )
        # It turns about where what is turned over it has brought it.
        was = place(joints, joint)
        above = parents[joint]
        while above >= 0 and nearest[above] < 0:
            above = parents[above]
        if above < 0:
            moves[n] = Move(turns[n], was, was)
        else:
            k = nearest[above]
            moves[n] = Move(
                multiply(turns[n], moves[k].turn), was,
                plus(rotate(moves[k].turn, minus(was, moves[k].start)), moves[k].end),
            )
    carry(parents, joints, nearest, moves)
