"""Conservative advancement of capsules and boxes, one pair after the other, as ``sweep`` describes it.

Arrays are ``[N, 3]`` and ``[N]``; ``times`` and ``places`` are written.
"""

from libc.math cimport INFINITY, fabs, fmax, fmin, sqrt

from veergust.core.motion.kernels.checks cimport counts
from veergust.core.motion.kernels.turns cimport Vector, dot, minus, plus, size, times as scaled

cdef double CLOSE = 1e-4
cdef int STEPS = 200
cdef int HALVINGS = 40


cdef struct Nearest:
    double distance
    Vector mine, theirs


cdef inline double within(double x) noexcept nogil:
    return fmin(fmax(x, 0.0), 1.0)


cdef inline int points(const double[:, :] rows, Py_ssize_t count) except -1:
    counts(rows.shape[0], count, "ends")
    return counts(rows.shape[1], 3, "numbers of an end")


cdef inline Vector at_row(const double[:, :] rows, Py_ssize_t n) noexcept nogil:
    return Vector(rows[n, 0], rows[n, 1], rows[n, 2])


cdef inline Vector on_way(Vector start, Vector step, double t) noexcept nogil:
    return plus(start, scaled(step, t))


cdef Nearest between_segments(Vector a, Vector b, Vector c, Vector d) noexcept nogil:
    # The closest points of two segments (Ericson, 5.1.9).
    cdef Vector u = minus(b, a), v = minus(d, c), w = minus(a, c)
    cdef double uu = dot(u, u), vv = dot(v, v), uv = dot(u, v), uw = dot(u, w), vw = dot(v, w)
    cdef double cross = uu * vv - uv * uv
    cdef bint parallel = cross <= 1e-12 * fmax(uu * vv, 1e-18)
    cdef double s = 0.0 if parallel else within((uv * vw - vv * uw) / cross)
    cdef double t = (uv * s + vw) / fmax(vv, 1e-18) if vv > 1e-18 else 0.0
    cdef double t_in = within(t)
    if t != t_in or parallel or vv <= 1e-18:
        s = within((uv * t_in - uw) / fmax(uu, 1e-18)) if uu > 1e-18 else 0.0
    cdef Nearest out
    out.mine, out.theirs = on_way(a, u, s), on_way(c, v, t_in)
    out.distance = size(minus(out.mine, out.theirs))
    return out


cdef inline Vector in_box(Vector point, Vector half) noexcept nogil:
    return Vector(
        fmin(fmax(point.x, -half.x), half.x), fmin(fmax(point.y, -half.y), half.y), fmin(fmax(point.z, -half.z), half.z)
    )


cdef inline double off_box(Vector half, Vector c, Vector along, double t) noexcept nogil:
    cdef Vector point = on_way(c, along, t)
    return size(minus(point, in_box(point, half)))


cdef Nearest between_box(Vector half, Vector c, Vector d) noexcept nogil:
    # The distance along a segment is convex: a golden-section search finds its least value.
    cdef Vector along = minus(d, c)
    cdef double low = 0.0, high = 1.0, ratio = (sqrt(5.0) - 1.0) / 2.0, m1, m2, t, start, end, inner
    cdef int n
    for n in range(HALVINGS):
        m1, m2 = high - ratio * (high - low), low + ratio * (high - low)
        if off_box(half, c, along, m1) <= off_box(half, c, along, m2):
            high = m2
        else:
            low = m1
    t = (low + high) / 2
    start, end, inner = off_box(half, c, along, 0.0), off_box(half, c, along, 1.0), off_box(half, c, along, t)
    if start <= end and start <= inner:
        t = 0.0
    elif end <= inner:
        t = 1.0
    cdef Nearest out
    out.theirs = on_way(c, along, t)
    out.mine = in_box(out.theirs, half)
    out.distance = fmin(start, fmin(end, inner))
    return out


cdef bint goes_on(
    Nearest near, double wide, double fastest, double* t, double* time, double[:, :] places, Py_ssize_t row
) noexcept nogil:
    # A step ahead that jumps over no touch; false when there is one, or none to come.
    cdef double gap = near.distance - wide
    cdef Vector here
    if gap <= CLOSE:
        time[0] = t[0]
        here = on_way(near.mine, minus(near.theirs, near.mine), within(wide / fmax(near.distance, 1e-9)) * 0.5)
        places[row, 0], places[row, 1], places[row, 2] = here.x, here.y, here.z
        return False
    if not (t[0] < 1.0 and fastest > 1e-12):
        return False
    t[0] = fmin(t[0] + fmax(gap, CLOSE) / fastest, 1.0)
    return True


def capsules(
    const double[:, :] a0, const double[:, :] b0, const double[:, :] a1, const double[:, :] b1,
    const double[:, :] c0, const double[:, :] d0, const double[:, :] c1, const double[:, :] d1,
    const double[:] radius, const double[:] radius_end, double[:] times, double[:, :] places,
):
    """When capsules a–b, moving from 0 to 1, first touch capsules c–d, and where; ``radius`` is the sum of both."""
    cdef Py_ssize_t n, count = times.shape[0]
    cdef int step
    cdef double t, grows, fastest
    cdef Vector a, b, c, d, da, db, dc, dd
    points(a0, count), points(b0, count), points(a1, count), points(b1, count), points(places, count)
    points(c0, count), points(d0, count), points(c1, count), points(d1, count)
    counts(radius.shape[0], count, "radii")
    counts(radius_end.shape[0], count, "radii")
    with nogil:
        for n in range(count):
            a, b, c, d = at_row(a0, n), at_row(b0, n), at_row(c0, n), at_row(d0, n)
            da, db = minus(at_row(a1, n), a), minus(at_row(b1, n), b)
            dc, dd = minus(at_row(c1, n), c), minus(at_row(d1, n), d)
            grows = radius_end[n] - radius[n]
            fastest = fmax(size(da), size(db)) + fmax(size(dc), size(dd)) + fabs(grows)
            t, times[n] = 0.0, INFINITY
            for step in range(STEPS):
                if not goes_on(
                    between_segments(on_way(a, da, t), on_way(b, db, t), on_way(c, dc, t), on_way(d, dd, t)),
                    radius[n] + grows * t, fastest, &t, &times[n], places, n,
                ):
                    break


def boxes(
    const double[:, :] half, const double[:, :] half_end,
    const double[:, :] c0, const double[:, :] d0, const double[:, :] c1, const double[:, :] d1,
    const double[:] radius, double[:] times, double[:, :] places,
):
    """As ``capsules`` for boxes of half extents at the origin, which grow, and capsules in the box's own frame."""
    cdef Py_ssize_t n, count = times.shape[0]
    cdef int step
    cdef double t, fastest
    cdef Vector h, c, d, dh, dc, dd
    points(half, count), points(half_end, count), points(places, count)
    points(c0, count), points(d0, count), points(c1, count), points(d1, count)
    counts(radius.shape[0], count, "radii")
    with nogil:
        for n in range(count):
            h, c, d = at_row(half, n), at_row(c0, n), at_row(d0, n)
            dh, dc, dd = minus(at_row(half_end, n), h), minus(at_row(c1, n), c), minus(at_row(d1, n), d)
            fastest = fmax(size(dc), size(dd)) + size(dh)
            t, times[n] = 0.0, INFINITY
            for step in range(STEPS):
                if not goes_on(
                    between_box(on_way(h, dh, t), on_way(c, dc, t), on_way(d, dd, t)),
                    radius[n], fastest, &t, &times[n], places, n,
                ):
                    break
