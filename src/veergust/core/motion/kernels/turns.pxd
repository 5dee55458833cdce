# Vectors and unit quaternions as plain numbers, for use within kernels.

from libc.math cimport atan2, cos, sin, sqrt, fabs


cdef struct Vector:
    double x
    double y
    double z


cdef struct Turn:
    double x
    double y
    double z
    double w


cdef inline Vector three(const double* row) noexcept nogil:
    return Vector(row[0], row[1], row[2])


cdef inline Turn four(const double* row) noexcept nogil:
    return Turn(row[0], row[1], row[2], row[3])


cdef inline void put_turn(double* row, Turn q) noexcept nogil:
    row[0] = q.x
    row[1] = q.y
    row[2] = q.z
    row[3] = q.w


cdef inline Vector plus(Vector a, Vector b) noexcept nogil:
    return Vector(a.x + b.x, a.y + b.y, a.z + b.z)


cdef inline Vector minus(Vector a, Vector b) noexcept nogil:
    return Vector(a.x - b.x, a.y - b.y, a.z - b.z)


cdef inline Vector times(Vector a, double by) noexcept nogil:
    return Vector(a.x * by, a.y * by, a.z * by)


cdef inline double dot(Vector a, Vector b) noexcept nogil:
    return a.x * b.x + a.y * b.y + a.z * b.z


cdef inline Vector cross(Vector a, Vector b) noexcept nogil:
    return Vector(a.y * b.z - a.z * b.y, a.z * b.x - a.x * b.z, a.x * b.y - a.y * b.x)


cdef inline double size(Vector a) noexcept nogil:
    return sqrt(a.x * a.x + a.y * a.y + a.z * a.z)


cdef inline Vector unit(Vector a) noexcept nogil:
    # Its direction; nothing for nothing.
    cdef double long_ = size(a)
    if long_ > 1e-12:
        return times(a, 1.0 / long_)
    return Vector(0.0, 0.0, 0.0)


cdef inline Turn multiply(Turn a, Turn b) noexcept nogil:
    # First b, then a.
    return Turn(
        a.w * b.x + a.x * b.w + a.y * b.z - a.z * b.y,
        a.w * b.y - a.x * b.z + a.y * b.w + a.z * b.x,
        a.w * b.z + a.x * b.y - a.y * b.x + a.z * b.w,
        a.w * b.w - a.x * b.x - a.y * b.y - a.z * b.z,
    )


cdef inline Turn conjugate(Turn q) noexcept nogil:
    # The turn back.
    return Turn(-q.x, -q.y, -q.z, q.w)


cdef inline Turn negated(Turn q) noexcept nogil:
    # The same turn, gone round the other way.
    return Turn(-q.x, -q.y, -q.z, -q.w)


cdef inline double product(Turn a, Turn b) noexcept nogil:
    # The scalar product: above 0 for turns of signs that are near to one another.
    return a.x * b.x + a.y * b.y + a.z * b.z + a.w * b.w


cdef inline Turn normal(Turn q) noexcept nogil:
    # Scaled to length one; no turn for nothing.
    cdef double long_ = sqrt(product(q, q))
    if long_ <= 1e-12:
        return Turn(0.0, 0.0, 0.0, 1.0)
    return Turn(q.x / long_, q.y / long_, q.z / long_, q.w / long_)


cdef inline Vector rotate(Turn q, Vector v) noexcept nogil:
    # v turned by q.
    cdef Vector u = Vector(q.x, q.y, q.z)
    cdef Vector t = times(cross(u, v), 2.0)
    return plus(plus(v, times(t, q.w)), cross(u, t))


cdef inline Turn between(Vector a, Vector b) noexcept nogil:
    # The shortest turn that brings direction a onto b.
    cdef Vector side
    a = unit(a)
    b = unit(b)
    cdef double w = 1.0 + dot(a, b)
    if w < 1e-9:
        side = unit(cross(a, Vector(1.0, 0.0, 0.0) if fabs(a.x) < 0.9 else Vector(0.0, 1.0, 0.0)))
        return Turn(side.x, side.y, side.z, 0.0)
    side = cross(a, b)
    return normal(Turn(side.x, side.y, side.z, w))


cdef inline Turn eased(Turn q, double share) noexcept nogil:
    # A share of a small turn (normalised linear).
    if q.w < 0.0:
        q = negated(q)
    return normal(Turn(q.x * share, q.y * share, q.z * share, 1.0 + (q.w - 1.0) * share))


cdef inline Turn partly(Turn q, double share) noexcept nogil:
    # A share of a turn, the way round its sign says.
    cdef double whole = size(Vector(q.x, q.y, q.z))
    cdef double part = atan2(whole, q.w) * share
    # Of a turn too small to have an axis a part is as large as it is.
    cdef double sine = sin(part) / whole if whole > 1e-9 else share
    return Turn(q.x * sine, q.y * sine, q.z * sine, cos(part))
