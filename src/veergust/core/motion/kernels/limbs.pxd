# What other kernels may do with limbs.

from veergust.core.motion.kernels.turns cimport Turn, Vector


cdef struct Move:
    # A turn, and a point with where it is brought to.
    Turn turn
    Vector start
    Vector end


cdef inline Vector place(const double[:, :, ::1] joints, Py_ssize_t joint) noexcept nogil:
    return Vector(joints[joint, 0, 3], joints[joint, 1, 3], joints[joint, 2, 3])


cdef void carry(
    const Py_ssize_t[::1] parents, double[:, :, ::1] joints, Py_ssize_t* nearest, const Move* moves
) noexcept nogil

cdef void reached(
    const Py_ssize_t[::1] parents, double[:, ::1] rotation, const double[:, :, ::1] joints, const Py_ssize_t* limb,
    double upper, double lower, Vector target, Turn tilt, double straightest, Move* moves,
) noexcept nogil

cdef void turned(
    const Py_ssize_t[::1] parents, double[:, ::1] rotation, double[:, :, ::1] joints, const Py_ssize_t[::1] chain,
    const Turn* turns, Py_ssize_t* nearest, Move* moves,
) noexcept nogil
