# The axes of frames as plain numbers, for use within kernels.

from libc.math cimport M_PI, acos, cos, fmax, fmin, sin

from veergust.core.motion.kernels.turns cimport Turn, Vector, cross, dot, plus, rotate, size, times as scaled


cdef struct Frame:
    # The axes of a frame in the world.
    Vector x, y, z


cdef inline Frame frame_of(const double[:, ::1] rows) noexcept nogil:
    return Frame(
        Vector(rows[0, 0], rows[1, 0], rows[2, 0]),
        Vector(rows[0, 1], rows[1, 1], rows[2, 1]),
        Vector(rows[0, 2], rows[1, 2], rows[2, 2]),
    )


cdef inline Vector into(Frame* frame, Vector way) noexcept nogil:
    return Vector(dot(frame.x, way), dot(frame.y, way), dot(frame.z, way))


cdef inline Vector out_of(Frame* frame, Vector way) noexcept nogil:
    return plus(plus(scaled(frame.x, way.x), scaled(frame.y, way.y)), scaled(frame.z, way.z))


cdef inline double turn_between(Frame* one, Frame* other) noexcept nogil:
    # In degrees.
    cdef double cosine = (dot(one.x, other.x) + dot(one.y, other.y) + dot(one.z, other.z) - 1.0) / 2.0
    return acos(fmin(fmax(cosine, -1.0), 1.0)) * 180.0 / M_PI


cdef inline Frame turned(Frame* one, Frame* other, double t) noexcept nogil:
    # A part of the way from one to the other, along the turn between them.
    cdef Frame out = one[0]
    cdef double sine, angle = turn_between(one, other) * M_PI / 180.0
    cdef Vector axis = plus(plus(cross(one.x, other.x), cross(one.y, other.y)), cross(one.z, other.z))
    cdef double long_ = size(axis)
    if long_ < 1e-9:
        return other[0] if t >= 0.5 else out
    axis = scaled(axis, sin(angle * t / 2.0) / long_)
    sine = cos(angle * t / 2.0)
    cdef Turn q = Turn(axis.x, axis.y, axis.z, sine)
    out.x, out.y, out.z = rotate(q, one.x), rotate(q, one.y), rotate(q, one.z)
    return out
