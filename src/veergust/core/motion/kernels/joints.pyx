"""Joints of poses about the body."""

from veergust.core.motion.kernels.checks cimport counts, tree


def forward(
    const Py_ssize_t[::1] parents not None,
    const double[:, :, ::1] rotation not None,
    const double[:, :, ::1] translation not None,
    double[:, :, :, ::1] out not None,
):
    """Frames ``out`` ``[F, J, 4, 4]`` of local rotations ``[F, J, 4]`` and places ``[F, J, 3]``; ``parents`` ``[J]``."""
    cdef Py_ssize_t f, j, p
    cdef int r
    cdef double x, y, z, w, tx, ty, tz, a, b, c, d, e, g, h, i, k, l, m, n
    cdef double* own
    cdef const double* above
    tree(parents)
    counts(rotation.shape[1], parents.shape[0], "joints that turn")
    counts(translation.shape[1], parents.shape[0], "joints that have places")
    counts(out.shape[1], parents.shape[0], "joints to be placed")
    counts(translation.shape[0], rotation.shape[0], "frames of places")
    counts(out.shape[0], rotation.shape[0], "frames to be placed")
    counts(rotation.shape[2], 4, "numbers of a rotation")
    counts(translation.shape[2], 3, "numbers of a place")
    counts(out.shape[2], 4, "rows of a joint")
    counts(out.shape[3], 4, "columns of a joint")
    if not rotation.shape[0] * rotation.shape[1]:
        return
    with nogil:
        for f in range(rotation.shape[0]):
            for j in range(rotation.shape[1]):
                x, y, z, w = rotation[f, j, 0], rotation[f, j, 1], rotation[f, j, 2], rotation[f, j, 3]
                tx, ty, tz = translation[f, j, 0], translation[f, j, 1], translation[f, j, 2]
                a, b, c = 1.0 - 2.0 * (y * y + z * z), 2.0 * (x * y - z * w), 2.0 * (x * z + y * w)
                d, e, g = 2.0 * (x * y + z * w), 1.0 - 2.0 * (x * x + z * z), 2.0 * (y * z - x * w)
                h, i, k = 2.0 * (x * z - y * w), 2.0 * (y * z + x * w), 1.0 - 2.0 * (x * x + y * y)
                p = parents[j]
                own = &out[f, j, 0, 0]
                if p < 0:
                    own[0], own[1], own[2], own[3] = a, b, c, tx
                    own[4], own[5], own[6], own[7] = d, e, g, ty
                    own[8], own[9], own[10], own[11] = h, i, k, tz
                else:
                    above = &out[f, p, 0, 0]
                    for r in range(3):
                        l, m, n = above[4 * r], above[4 * r + 1], above[4 * r + 2]
                        own[4 * r] = l * a + m * d + n * h
                        own[4 * r + 1] = l * b + m * e + n * i
                        own[4 * r + 2] = l * c + m * g + n * k
                        own[4 * r + 3] = l * tx + m * ty + n * tz + above[4 * r + 3]
                own[12], own[13], own[14], own[15] = 0.0, 0.0, 0.0, 1.0
