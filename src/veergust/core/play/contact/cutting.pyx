"""Hitboxes cut along their arcs into straight pieces, and which pieces may touch which hurtboxes at all."""

import numpy as np

from libc.math cimport M_PI, atan2, ceil, cos, fmax, sin, sqrt, tan

from veergust.core.motion.kernels.checks cimport counts, frames_of, in_reach, rows_fit
from veergust.core.motion.kernels.turns cimport Vector, cross, dot, minus, plus, size, three, times as scaled


cdef struct Screw:
    # The turn about an axis through a centre and the slide along it that bring one frame to another.
    double angle
    Vector axis, centre, start, gone, along


cdef inline Vector place_of(const double[:, ::1] frame) noexcept nogil:
    return Vector(frame[0, 3], frame[1, 3], frame[2, 3])


cdef inline void put(double* row, Vector at) noexcept nogil:
    row[0], row[1], row[2] = at.x, at.y, at.z


cdef inline Vector carried(const double* frame, Vector at) noexcept nogil:
    # A point of a frame in the world.
    return Vector(
        frame[0] * at.x + frame[1] * at.y + frame[2] * at.z + frame[3],
        frame[4] * at.x + frame[5] * at.y + frame[6] * at.z + frame[7],
        frame[8] * at.x + frame[9] * at.y + frame[10] * at.z + frame[11],
    )


cdef Screw screw_of(const double[:, ::1] first, const double[:, ::1] last) noexcept nogil:
    cdef double spin[3][3]
    cdef Py_ssize_t i, j, best = 0
    cdef double sine, cosine
    cdef Screw out
    cdef Vector skew, across, column
    for i in range(3):
        for j in range(3):
            spin[i][j] = last[i, 0] * first[j, 0] + last[i, 1] * first[j, 1] + last[i, 2] * first[j, 2]
    skew = Vector(spin[2][1] - spin[1][2], spin[0][2] - spin[2][0], spin[1][0] - spin[0][1])
    sine = size(skew) / 2.0
    cosine = (spin[0][0] + spin[1][1] + spin[2][2] - 1.0) / 2.0
    out.angle = atan2(sine, cosine)
    out.axis = scaled(skew, 1.0 / fmax(2.0 * sine, 1e-12))
    if sine < 1e-6 and cosine < 0.0:
        # Half a turn goes about the axis that it leaves where it is.
        for i in range(1, 3):
            if spin[i][i] > spin[best][best]:
                best = i
        column = Vector(spin[0][best], spin[1][best], spin[2][best])
        column = plus(column, Vector(1.0 if best == 0 else 0.0, 1.0 if best == 1 else 0.0, 1.0 if best == 2 else 0.0))
        out.axis = scaled(column, 1.0 / fmax(size(column), 1e-12))
    out.start = place_of(first)
    out.gone = minus(place_of(last), out.start)
    out.along = scaled(out.axis, dot(out.gone, out.axis))
    across = minus(out.gone, out.along)
    # The axis goes through the point that turning by the angle brings as far as it came across.
    out.centre = plus(out.start, scaled(
        plus(across, scaled(cross(out.axis, across), 1.0 / tan(fmax(out.angle, 1e-9) / 2.0))), 0.5
    ))
    return out


cdef void on_screw(Screw way, const double[:, ::1] first, double t, double[:, ::1] out) noexcept nogil:
    # The frame a part of the way along.
    cdef double half = way.angle * t / 2.0
    cdef double s = sin(half), w = cos(half)
    cdef double x = way.axis.x * s, y = way.axis.y * s, z = way.axis.z * s
    cdef double turn[3][3]
    cdef Py_ssize_t i, j
    cdef Vector arm, at
    turn[0][0], turn[0][1], turn[0][2] = 1.0 - 2.0 * (y * y + z * z), 2.0 * (x * y - z * w), 2.0 * (x * z + y * w)
    turn[1][0], turn[1][1], turn[1][2] = 2.0 * (x * y + z * w), 1.0 - 2.0 * (x * x + z * z), 2.0 * (y * z - x * w)
    turn[2][0], turn[2][1], turn[2][2] = 2.0 * (x * z - y * w), 2.0 * (y * z + x * w), 1.0 - 2.0 * (x * x + y * y)
    for i in range(3):
        for j in range(3):
            out[i, j] = turn[i][0] * first[0, j] + turn[i][1] * first[1, j] + turn[i][2] * first[2, j]
        out[3, i] = 0.0
    out[3, 3] = 1.0
    if way.angle > 1e-4:
        arm = minus(way.start, way.centre)
        at = Vector(
            turn[0][0] * arm.x + turn[0][1] * arm.y + turn[0][2] * arm.z,
            turn[1][0] * arm.x + turn[1][1] * arm.y + turn[1][2] * arm.z,
            turn[2][0] * arm.x + turn[2][1] * arm.y + turn[2][2] * arm.z,
        )
        at = plus(plus(way.centre, at), scaled(way.along, t))
    else:
        at = plus(way.start, scaled(way.gone, t))
    out[0, 3], out[1, 3], out[2, 3] = at.x, at.y, at.z


cdef inline Vector mixed(const double* one, const double* other, double t) noexcept nogil:
    cdef Vector a = three(one)
    return plus(a, scaled(minus(three(other), a), t))


def cut(
    const double[:, :, :, ::1] mounts, const double[:, :, ::1] local, const double[:, ::1] wide,
    const double[:, :, ::1] sizes_of, double most,
):
    """``V`` hitboxes on frames at the last tick and now ``[2, V, 4, 4]``, in pieces that turn by at most ``most`` degrees.

    ``local`` are their ends in those frames (a, b at the last tick, a, b now: ``[4, V, 3]``), ``wide`` their radii
    ``[2, V]`` and ``sizes_of`` half extents ``[2, V, 3]``. See ``volumes.Pieces`` for what comes out.
    """
    cdef Py_ssize_t n, k, p, many = 0, count = mounts.shape[1]
    cdef double t0, t1, far
    cdef Vector middle
    counts(mounts.shape[0], 2, "frames"), counts(mounts.shape[2], 4, "rows of a frame")
    counts(mounts.shape[3], 4, "columns of a frame")
    counts(local.shape[0], 4, "ends"), counts(local.shape[1], count, "ends"), counts(local.shape[2], 3, "numbers of an end")
    counts(wide.shape[0], 2, "radii"), counts(wide.shape[1], count, "radii")
    counts(sizes_of.shape[0], 2, "sizes"), counts(sizes_of.shape[1], count, "sizes")
    counts(sizes_of.shape[2], 3, "numbers of a size")
    if not most > 0.0:
        raise ValueError(f"pieces of {most} degrees")
    parts_made = np.empty(count, dtype=np.intp)
    cdef Py_ssize_t[::1] parts = parts_made
    cdef Screw way
    for n in range(count):
        far = screw_of(mounts[0, n], mounts[1, n]).angle * 180.0 / M_PI
        # A frame that is no frame (no numbers) is one piece.
        parts[n] = <Py_ssize_t> fmax(ceil(far / most - 1e-9), 1.0) if far <= 180.001 else 1
        many += parts[n]
    owner_made = np.repeat(np.arange(count), parts_made)
    times_made, ends_made = np.empty((2, many)), np.empty((4, many, 3))
    radii_made, halves_made, frames_made = np.empty((2, many)), np.empty((2, many, 3)), np.empty((2, many, 4, 4))
    middles_made, sizes_made = np.empty((many, 3)), np.empty(many)
    cdef double[:, ::1] times = times_made, radii = radii_made, middles = middles_made
    cdef double[:, :, ::1] ends = ends_made, halves = halves_made
    cdef double[:, :, :, ::1] frames = frames_made
    cdef double[::1] sizes = sizes_made
    with nogil:
        p = 0
        for n in range(count):
            way = screw_of(mounts[0, n], mounts[1, n])
            for k in range(parts[n]):
                t0, t1 = (<double> k) / parts[n], (k + 1.0) / parts[n]
                times[0, p], times[1, p] = t0, t1
                on_screw(way, mounts[0, n], t0, frames[0, p])
                on_screw(way, mounts[0, n], t1, frames[1, p])
                put(&ends[0, p, 0], carried(&frames[0, p, 0, 0], mixed(&local[0, n, 0], &local[2, n, 0], t0)))
                put(&ends[1, p, 0], carried(&frames[0, p, 0, 0], mixed(&local[1, n, 0], &local[3, n, 0], t0)))
                put(&ends[2, p, 0], carried(&frames[1, p, 0, 0], mixed(&local[0, n, 0], &local[2, n, 0], t1)))
                put(&ends[3, p, 0], carried(&frames[1, p, 0, 0], mixed(&local[1, n, 0], &local[3, n, 0], t1)))
                put(&halves[0, p, 0], mixed(&sizes_of[0, n, 0], &sizes_of[1, n, 0], t0))
                put(&halves[1, p, 0], mixed(&sizes_of[0, n, 0], &sizes_of[1, n, 0], t1))
                radii[0, p], radii[1, p] = wide[0, n] + (wide[1, n] - wide[0, n]) * t0, wide[0, n] + (wide[1, n] - wide[0, n]) * t1
                middle = ball_about(ends, p, &far)
                put(&middles[p, 0], middle)
                sizes[p] = far + fmax(
                    fmax(radii[0, p], radii[1, p]), fmax(size(three(&halves[0, p, 0])), size(three(&halves[1, p, 0])))
                )
                p += 1
    return owner_made, times_made, ends_made, radii_made, halves_made, frames_made, middles_made, sizes_made


cdef inline Vector ball_about(const double[:, :, ::1] ends, Py_ssize_t n, double* far) noexcept nogil:
    # The middle of four points, and how far the farthest is from it.
    cdef Vector middle = scaled(
        plus(plus(three(&ends[0, n, 0]), three(&ends[1, n, 0])), plus(three(&ends[2, n, 0]), three(&ends[3, n, 0]))), 0.25
    )
    cdef Py_ssize_t k
    far[0] = 0.0
    for k in range(4):
        far[0] = fmax(far[0], size(minus(three(&ends[k, n, 0]), middle)))
    return middle


def near(
    const double[:, ::1] mine, const double[::1] my_size, const double[:, :, ::1] hurts, const double[::1] hurt_size,
    const unsigned char[:, ::1] may, const Py_ssize_t[::1] swing, const Py_ssize_t[::1] owner,
):
    """Which pieces (balls ``[K]``) may touch which hurtboxes (ends ``[4, H, 3]``, each so large): both as indexes.

    ``may`` ``[S, T]`` says which strike may touch whom; ``swing`` ``[K]`` and ``owner`` ``[H]`` say whose each is.
    """
    cdef Py_ssize_t k, h, n, found = 0, pieces = mine.shape[0], targets = hurts.shape[1]
    cdef double far, reach
    cdef Vector at
    counts(mine.shape[1], 3, "numbers of a middle")
    counts(my_size.shape[0], pieces, "sizes")
    counts(hurts.shape[0], 4, "ends")
    counts(hurts.shape[2], 3, "numbers of an end")
    counts(hurt_size.shape[0], targets, "sizes")
    counts(swing.shape[0], pieces, "strikes")
    counts(owner.shape[0], targets, "owners")
    for k in range(pieces):
        in_reach(swing[k], may.shape[0], "strike")
    for h in range(targets):
        in_reach(owner[h], may.shape[1], "target")
    balls_made, room_made = np.empty((targets, 3)), np.empty(targets)
    cdef double[:, ::1] theirs = balls_made
    cdef double[::1] room = room_made
    rows_made, hurt_made = np.empty(pieces * targets, dtype=np.intp), np.empty(pieces * targets, dtype=np.intp)
    cdef Py_ssize_t[::1] rows = rows_made, hurt = hurt_made
    with nogil:
        for h in range(targets):
            at = ball_about(hurts, h, &far)
            put(&theirs[h, 0], at)
            room[h] = far + hurt_size[h]
        for k in range(pieces):
            at = three(&mine[k, 0])
            for h in range(targets):
                if not may[swing[k], owner[h]]:
                    continue
                reach = my_size[k] + room[h]
                at = minus(three(&mine[k, 0]), three(&theirs[h, 0]))
                if dot(at, at) <= reach * reach:
                    rows[found], hurt[found] = k, h
                    found += 1
    return rows_made[:found], hurt_made[:found]


def ends_on(
    const double[:, ::1] body, const double[:, :, ::1] joints, const Py_ssize_t[::1] which,
    const double[:, ::1] a, const double[:, ::1] b, double[:, ::1] low, double[:, ::1] high,
):
    """Where ends ``a`` and ``b`` ``[H, 3]`` of what rides on joints ``which`` of ``[J, 4, 4]``, about a body
    ``[4, 4]``, are in the world: written to ``low`` and ``high`` ``[H, 3]``."""
    cdef Py_ssize_t n, count = which.shape[0]
    frames_of(joints, joints.shape[0])
    counts(body.shape[0], 4, "rows of a frame"), counts(body.shape[1], 4, "columns of a frame")
    rows_fit(a, count, 3, "ends"), rows_fit(b, count, 3, "ends")
    rows_fit(low, count, 3, "ends"), rows_fit(high, count, 3, "ends")
    for n in range(count):
        in_reach(which[n], joints.shape[0], "joint")
    for n in range(count):
        put(&low[n, 0], carried(&body[0, 0], carried(&joints[which[n], 0, 0], three(&a[n, 0]))))
        put(&high[n, 0], carried(&body[0, 0], carried(&joints[which[n], 0, 0], three(&b[n, 0]))))
