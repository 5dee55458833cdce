"""The body's capsule swept over the stage: along a tick it meets walls, posts and bodies, and floors under it.

A capsule seen from above is a disc. A point against a shape grown by the disc's radius is the same as the disc
against the shape, and a point on a line meets a circle or a rectangle at a time that is worked out, so that nothing
is passed through at any speed (C. Ericson, *Real-Time Collision Detection*, 2005, sections 5.3 and 5.5).
"""

from libc.math cimport INFINITY, fabs, hypot, sqrt

from veergust.core.motion.kernels.checks cimport counts, rows_fit
from veergust.core.play.body.floors cimport FLOOR, Floor, edge, height_at, inside, row

cdef double GAP = 1e-7
# What is so near (m) touches: whoever leans on a thing is stopped by it at once, whatever the rounding.
cdef double TOUCHES = 1.05e-6
# What goes against a thing by less (m) goes along it.
cdef double ALONG = 1e-12
cdef double STEP_UP = 0.25
cdef enum:
    SLIDES = 5


cdef struct Hit:
    # When (0…1; more: never) a point meets a thing, and the direction away from it there.
    double when
    double x
    double z


cdef Hit NEVER = Hit(2.0, 0.0, 0.0)


cdef struct Way:
    # The bends of a way, two more than there are slides: when (0…1) each is reached.
    int bends
    double at[7]
    double x[7]
    double z[7]


def sweep(
    const double[::1] position not None, const double[::1] step not None, double radius,
    const double[:, ::1] floors not None, const double[:, ::1] discs not None,
):
    """Move a body by ``step`` ``[3]`` (m) from ``position`` ``[3]``: it slides along what it meets and lands on the first floor it falls on.

    ``discs`` ``[n, 5]`` are round things in the way: x, z, radius, from which height to which (m). Gives where it came
    to, the directions (x, z) away from what stopped it, and whether it landed.
    """
    counts(position.shape[0], 3, "numbers of a place")
    counts(step.shape[0], 3, "numbers of a step")
    rows_fit(floors, -1, FLOOR, "a floor")
    rows_fit(discs, -1, 5, "a disc")
    cdef double x = position[0], y = position[1], z = position[2], dx = step[0], dy = step[1], dz = step[2]
    cdef Way way
    cdef Hit first
    cdef double at = 0.0, rest, into, height
    cdef bint corner
    walls = []
    way.bends, way.at[0], way.x[0], way.z[0] = 1, 0.0, x, z
    for _ in range(SLIDES):
        if hypot(dx, dz) < 1e-12 or at >= 1.0:
            break
        rest = 1.0 - at
        first = soonest(x, z, dx, dz, radius, floors, discs, y + dy * at, dy * rest)
        x, z, at = x + dx * min(first.when, 1.0), z + dz * min(first.when, 1.0), at + rest * min(first.when, 1.0)
        way.at[way.bends], way.x[way.bends], way.z[way.bends] = at, x, z
        way.bends += 1
        if first.when >= 1.0:
            break
        x, z = x + first.x * GAP, z + first.z * GAP
        dx, dz = dx * (1.0 - first.when), dz * (1.0 - first.when)
        into = min(dx * first.x + dz * first.z, 0.0)
        dx, dz = dx - into * first.x, dz - into * first.z
        walls.append((first.x, first.z))
        # In a corner the way along one wall leads into the other: there it stops.
        corner = False
        for a, b in walls:
            corner = corner or dx * <double> a + dz * <double> b < -ALONG
        if corner:
            break
    if way.at[way.bends - 1] < 1.0:
        way.at[way.bends], way.x[way.bends], way.z[way.bends] = 1.0, x, z
        way.bends += 1
    height = landing(&way, y, dy, floors)
    return (x, y + dy if height == -INFINITY else height, z), walls, height != -INFINITY


cdef double landing(const Way* way, double y, double dy, const double[:, ::1] floors) noexcept:
    # The height of the first floor that a falling body meets on its way; minus infinity when it meets none.
    cdef double when, x = 0.0, z = 0.0, best = INFINITY, height = -INFINITY
    cdef Py_ssize_t n
    if dy >= 0.0:
        return height
    for n in range(floors.shape[0]):
        when = meets(way, y, dy, row(floors, n))
        if when < best:
            on_way(way, when, &x, &z)
            best, height = when, height_at(row(floors, n), x, z)
    return height


cdef double meets(const Way* way, double y, double dy, const Floor* floor) noexcept:
    # When (0…1; infinity: never) a falling body meets a floor. One it stands on, or a little above its feet, at once.
    cdef double gap, later, when, x = 0.0, z = 0.0, a, b
    cdef int n
    for n in range(way.bends - 1):
        a, b = way.at[n], way.at[n + 1]
        gap = y + dy * a - height_at(floor, way.x[n], way.z[n])
        later = y + dy * b - height_at(floor, way.x[n + 1], way.z[n + 1])
        if -STEP_UP - edge() <= gap <= 0.0:
            when = a
        elif gap > 0.0 and later <= 0.0:
            when = a + (b - a) * gap / (gap - later)
        else:
            continue
        on_way(way, when, &x, &z)
        if inside(floor, x, z):
            return when
    return INFINITY


cdef void on_way(const Way* way, double when, double* x, double* z) noexcept:
    # Where it is on its way then.
    cdef int n
    cdef double t
    for n in range(way.bends - 1):
        if when <= way.at[n + 1]:
            t = (when - way.at[n]) / (way.at[n + 1] - way.at[n]) if way.at[n + 1] > way.at[n] else 1.0
            x[0] = way.x[n] + (way.x[n + 1] - way.x[n]) * t
            z[0] = way.z[n] + (way.z[n + 1] - way.z[n]) * t
            return
    x[0], z[0] = way.x[way.bends - 1], way.z[way.bends - 1]


cdef Hit soonest(
    double x, double z, double dx, double dz, double radius, const double[:, ::1] floors, const double[:, ::1] discs,
    double y, double dy,
) noexcept:
    # What a point going by (dx, dz) meets first; its time is 1 or more where nothing is in the way.
    cdef Hit hit, out = Hit(1.0, 0.0, 0.0)
    cdef const Floor* floor
    cdef double high
    cdef Py_ssize_t n
    for n in range(discs.shape[0]):
        hit = circle(x - discs[n, 0], z - discs[n, 1], dx, dz, discs[n, 2] + radius)
        if hit.when < out.when and discs[n, 3] < y + dy * hit.when < discs[n, 4]:
            out = hit
    for n in range(floors.shape[0]):
        floor = row(floors, n)
        if max(floor.height, floor.height + floor.rise) <= min(y, y + dy) + STEP_UP + edge():
            continue
        hit = rectangle(x, z, dx, dz, floor, radius)
        if hit.when >= out.when:
            continue
        # A ramp is a wall only where its side is higher than a step.
        high = height_at(floor, x + dx * hit.when, z + dz * hit.when)
        if high > y + dy * hit.when + STEP_UP + edge():
            out = hit
    return out


cdef Hit circle(double x, double z, double dx, double dz, double radius) noexcept:
    # A point against a circle about the origin. One that is inside is stopped only from going deeper.
    cdef double far = hypot(x, z), toward = x * dx + z * dz, a, c, root, t
    if toward >= -ALONG:
        return NEVER
    if far <= radius + TOUCHES:
        return Hit(0.0, x / far, z / far) if far > 1e-9 else Hit(0.0, 0.0, -1.0)
    a = dx * dx + dz * dz
    c = far * far - radius * radius
    root = toward * toward - a * c
    if root < 0.0:
        return NEVER
    t = (-toward - sqrt(root)) / a
    if not 0.0 <= t <= 1.0:
        return NEVER
    return Hit(t, (x + dx * t) / radius, (z + dz * t) / radius)


cdef inline Hit sooner(Hit a, Hit b) noexcept:
    # Of two at one time the one with the lesser direction, so that their order does not count.
    if b.when < a.when or (b.when == a.when and (b.x < a.x or (b.x == a.x and b.z < a.z))):
        return b
    return a


cdef Hit inward(double dx, double dz, double x, double z) noexcept:
    # Met at once by what goes against (x, z), and not by what goes out.
    return Hit(0.0, x, z) if dx * x + dz * z < -ALONG else NEVER


cdef Hit rectangle(double x, double z, double dx, double dz, const Floor* floor, double radius) noexcept:
    # A point against a rectangle grown by a radius: two crossed rectangles and a circle on each corner.
    cdef double lx = floor.low_x, lz = floor.low_z, hx = floor.high_x, hz = floor.high_z
    cdef double away_x = x - min(max(x, lx), hx), away_z = z - min(max(z, lz), hz)
    cdef double gap = hypot(away_x, away_z)
    cdef Hit out
    if gap <= 1e-9:  # within it: out by the nearest side
        out = sooner(
            sooner(Hit(x - lx, -1.0, 0.0), Hit(hx - x, 1.0, 0.0)), sooner(Hit(z - lz, 0.0, -1.0), Hit(hz - z, 0.0, 1.0))
        )
        return inward(dx, dz, out.x, out.z)
    if gap <= radius + TOUCHES:
        return inward(dx, dz, away_x / gap, away_z / gap)
    out = sooner(
        slabs(x, z, dx, dz, lx - radius, lz, hx + radius, hz), slabs(x, z, dx, dz, lx, lz - radius, hx, hz + radius)
    )
    out = sooner(out, circle_at(x, z, dx, dz, lx, lz, radius))
    out = sooner(out, circle_at(x, z, dx, dz, lx, hz, radius))
    out = sooner(out, circle_at(x, z, dx, dz, hx, lz, radius))
    return sooner(out, circle_at(x, z, dx, dz, hx, hz, radius))


cdef inline Hit circle_at(double x, double z, double dx, double dz, double cx, double cz, double radius) noexcept:
    return circle(x - cx, z - cz, dx, dz, radius)


cdef Hit slabs(
    double x, double z, double dx, double dz, double lx, double lz, double hx, double hz
) noexcept:
    # A point against a rectangle: it is in it while it is between both pairs of sides.
    cdef double[2] at, go, low, high
    cdef double near = 0.0, far = 1.0, a, b
    cdef int axis, met = -1
    at[0], at[1], go[0], go[1] = x, z, dx, dz
    low[0], low[1], high[0], high[1] = lx, lz, hx, hz
    for axis in range(2):
        if fabs(go[axis]) < 1e-15:
            if not low[axis] < at[axis] < high[axis]:
                return NEVER
            continue
        a, b = (low[axis] - at[axis]) / go[axis], (high[axis] - at[axis]) / go[axis]
        if min(a, b) > near:
            near, met = min(a, b), axis
        far = min(far, max(a, b))
        if near > far:
            return NEVER
    if met < 0:
        return NEVER
    if met == 0:
        return Hit(near, 1.0 if dx < 0.0 else -1.0, 0.0)
    return Hit(near, 0.0, 1.0 if dz < 0.0 else -1.0)
