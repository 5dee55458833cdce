# What other kernels may ask of floors, whose rows ``floors.pyx`` makes.

from libc.math cimport sqrt

from veergust.core.motion.kernels.turns cimport Vector


cdef struct Floor:
    double low_x
    double low_z
    double high_x
    double high_z
    double height
    double rise
    double along  # 0: it rises along x, 1: along z


cdef enum:
    FLOOR = 7  # numbers of a floor


cdef inline double edge() noexcept nogil:
    # A floor that is higher or lower by less (m) than it may be is as it may be, whatever the rounding.
    return 1e-6


cdef inline const Floor* row(const double[:, ::1] floors, Py_ssize_t n) noexcept nogil:
    return <const Floor*> &floors[n, 0]


cdef inline bint inside(const Floor* floor, double x, double z) noexcept nogil:
    # Whether a point lies over a floor.
    return floor.low_x <= x <= floor.high_x and floor.low_z <= z <= floor.high_z


cdef inline double height_at(const Floor* floor, double x, double z) noexcept nogil:
    # The height (m) of a floor at a point; beyond its rim, that of the rim.
    cdef double low, length, value
    if floor.rise == 0.0:
        return floor.height
    if floor.along == 0.0:
        low, length, value = floor.low_x, floor.high_x - floor.low_x, x
    else:
        low, length, value = floor.low_z, floor.high_z - floor.low_z, z
    if length <= 0.0:
        return floor.height
    return floor.height + floor.rise * min(max((value - low) / length, 0.0), 1.0)


cdef inline Vector normal_of(const Floor* floor) noexcept nogil:
    # The direction straight up from a floor.
    cdef double length, slope, size
    if floor.rise == 0.0:
        return Vector(0.0, 1.0, 0.0)
    length = floor.high_x - floor.low_x if floor.along == 0.0 else floor.high_z - floor.low_z
    slope = floor.rise / max(length, 1e-9)
    size = sqrt(1.0 + slope * slope)
    if floor.along == 0.0:
        return Vector(-slope / size, 1.0 / size, 0.0)
    return Vector(0.0, 1.0 / size, -slope / size)


cdef inline Py_ssize_t floor_at(const double[:, ::1] floors, double x, double y, double z, double above) noexcept nogil:
    # The highest floor under a point, not counting floors more than ``above`` (m) above it; −1: none.
    cdef Py_ssize_t n, found = -1
    cdef double high, best = -1e9
    for n in range(floors.shape[0]):
        if inside(row(floors, n), x, z):
            high = height_at(row(floors, n), x, z)
            if best < high <= y + above + edge():
                best, found = high, n
    return found
