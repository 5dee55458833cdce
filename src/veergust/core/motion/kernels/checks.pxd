# What every kernel asks of its arrays, once at its entry: nothing is looked for beyond the end of one.

from libc.stdlib cimport malloc


cdef inline void* room(size_t size) except NULL:
    # Memory of a size, to be freed. Raises ``MemoryError`` where there is none.
    cdef void* out = malloc(max(size, <size_t> 1))
    if out == NULL:
        raise MemoryError(f"no room for {size} bytes")
    return out


cdef inline int counts(Py_ssize_t found, Py_ssize_t wanted, str what) except -1:
    if found != wanted:
        raise ValueError(f"{found} {what} where there should be {wanted}")
    return 0


cdef inline int in_reach(Py_ssize_t index, Py_ssize_t count, str what) except -1:
    if not 0 <= index < count:
        raise ValueError(f"{what} {index} of {count}")
    return 0


cdef inline int tree(const Py_ssize_t[::1] parents) except -1:
    # What a joint hangs on comes before it.
    cdef Py_ssize_t j
    for j in range(parents.shape[0]):
        if parents[j] >= j:
            raise ValueError(f"joint {j} hangs on {parents[j]}, which does not come before it")
    return 0


cdef inline int pose_of(
    const Py_ssize_t[::1] parents, const double[:, ::1] rotation, const double[:, :, ::1] joints
) except -1:
    # One pose: local rotations ``[J, 4]`` and joints about the body ``[J, 4, 4]``.
    tree(parents)
    counts(rotation.shape[0], parents.shape[0], "rotations")
    counts(rotation.shape[1], 4, "numbers of a rotation")
    return frames_of(joints, parents.shape[0])


cdef inline int frames_of(const double[:, :, ::1] joints, Py_ssize_t count) except -1:
    counts(joints.shape[0], count, "joints")
    counts(joints.shape[1], 4, "rows of a joint")
    counts(joints.shape[2], 4, "columns of a joint")
    return 0


cdef inline int limbs_of(const Py_ssize_t[:, ::1] limbs, const double[:, ::1] lengths, Py_ssize_t count) except -1:
    # Limbs ``[n, 4]`` of so many joints, and the lengths ``[n, 2]`` of their bones.
    cdef Py_ssize_t n, k
    counts(limbs.shape[1], 4, "joints of a limb")
    counts(lengths.shape[0], limbs.shape[0], "lengths")
    counts(lengths.shape[1], 2, "bones of a limb")
    for n in range(limbs.shape[0]):
        for k in range(4):
            in_reach(limbs[n, k], count, "joint")
    return 0


cdef inline int rows_fit(const double[:, ::1] rows, Py_ssize_t count, Py_ssize_t width, str what) except -1:
    if count >= 0:
        counts(rows.shape[0], count, what)
    if rows.shape[1] != width:
        raise ValueError(f"{rows.shape[1]} numbers of {what} where there should be {width}")
    return 0
