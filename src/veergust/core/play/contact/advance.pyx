"""Conservative advancement of capsules and boxes, one pair after the other, as ``sweep`` describes it.

A box is met in its own frame, and two boxes by the edges of each.
"""

from libc.math cimport INFINITY, M_PI, ceil, fabs, fmax, fmin, sqrt

from veergust.core.motion.kernels.checks cimport counts, in_reach, rows_fit
from veergust.core.motion.kernels.axes cimport Frame, frame_of, into, out_of, turn_between, turned
from veergust.core.motion.kernels.turns cimport Vector, dot, minus, plus, size, three, times as scaled

cdef double CLOSE = 1e-4
cdef int STEPS = 200
cdef int HALVINGS = 40
# So much (m) a way may be off its chord.
cdef double BEND = 1e-3
# The moment of a touch is found to this part of the tick.
cdef double FINE = 1e-8


cdef struct Nearest:
    double distance
    Vector mine, theirs


cdef inline double within(double x) noexcept nogil:
    return fmin(fmax(x, 0.0), 1.0)


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


cdef struct Touch:
    double time
    Vector place


cdef inline Touch none() noexcept nogil:
    return Touch(INFINITY, Vector(0.0, 0.0, 0.0))


cdef struct Search:
    # When it did not touch yet, and when it did (above 1: never so far).
    double low, high


cdef bint goes_on(Nearest near, double wide, double rate, double* t, Search* search, Touch* touch) noexcept nogil:
    # Step ahead as far as nothing can be passed over, then between a step before and one after a touch to its moment.
    cdef double gap = near.distance - wide
    if gap <= CLOSE:
        if t[0] - search.low <= FINE:
            touch.time = t[0]
            touch.place = on_way(near.mine, minus(near.theirs, near.mine), within(wide / fmax(near.distance, 1e-9)) * 0.5)
            return False
        search.high = t[0]
        t[0] = (search.low + search.high) / 2.0
        return True
    search.low = t[0]
    if search.high <= 1.0:
        t[0] = search.high if search.high - search.low <= FINE else (search.low + search.high) / 2.0
        return True
    if gap - rate * (1.0 - t[0]) > CLOSE or not (t[0] < 1.0 and rate > 1e-12):
        return False
    t[0] = fmin(t[0] + fmax(gap, CLOSE) / rate, 1.0)
    return True


cdef inline Vector way_of(Nearest near) noexcept nogil:
    # From the one to the other.
    return scaled(minus(near.theirs, near.mine), 1.0 / fmax(near.distance, 1e-12))


cdef inline double widens(Vector grows, Vector way) noexcept nogil:
    # How fast a box that grows comes out along a direction.
    return fabs(way.x) * grows.x + fabs(way.y) * grows.y + fabs(way.z) * grows.z


cdef Touch of_capsules(
    Vector a, Vector b, Vector da, Vector db, Vector c, Vector d, Vector dc, Vector dd, double wide, double grows
) noexcept nogil:
    # Capsules a–b and c–d, which go by da … dd; ``wide`` is the sum of their radii.
    cdef double t = 0.0, rate
    cdef Touch touch = none()
    cdef Search search = Search(0.0, 2.0)
    cdef Nearest near
    cdef Vector way
    cdef int step
    for step in range(STEPS):
        near = between_segments(on_way(a, da, t), on_way(b, db, t), on_way(c, dc, t), on_way(d, dd, t))
        way = way_of(near)
        rate = fmax(dot(da, way), dot(db, way)) - fmin(dot(dc, way), dot(dd, way)) + grows
        if not goes_on(near, wide + grows * t, rate, &t, &search, &touch):
            break
    return touch


cdef Touch of_box(
    Vector half, Vector dh, Vector c, Vector d, Vector dc, Vector dd, double wide, double grows
) noexcept nogil:
    # A box at the origin, which grows, and a capsule in its frame.
    cdef double t = 0.0, rate
    cdef Touch touch = none()
    cdef Search search = Search(0.0, 2.0)
    cdef Nearest near
    cdef Vector way
    cdef int step
    for step in range(STEPS):
        near = between_box(on_way(half, dh, t), on_way(c, dc, t), on_way(d, dd, t))
        way = way_of(near)
        rate = widens(dh, way) - fmin(dot(dc, way), dot(dd, way)) + grows
        if not goes_on(near, wide + grows * t, rate, &t, &search, &touch):
            break
    return touch


cdef struct Side:
    # One of two that may touch, at the beginning and at the end of a piece: a capsule by its ends and its radius, or a
    # box by its middle (both ends), its half extents and its frames.
    Vector a, b, da, db, half, dhalf
    double radius, grows
    Frame frame, frame_end
    bint box


cdef void stood_at(Side* box, Touch* touch) noexcept nogil:
    # A place in a box's frame, in the world that it was in at the time of the touch.
    cdef Frame then = turned(&box.frame, &box.frame_end, touch.time)
    touch.place = plus(out_of(&then, touch.place), on_way(box.a, box.da, touch.time))


cdef Touch with_box(Side* hit, Side* hurt) noexcept nogil:
    # At least one of the two is a box.
    cdef Side* box
    cdef Side* other
    cdef Touch touch
    if hit.box and hurt.box:
        return of_two_boxes(hit, hurt)
    box, other = (hit, hurt) if hit.box else (hurt, hit)
    cdef Vector c = into(&box.frame, minus(other.a, box.a)), d = into(&box.frame, minus(other.b, box.a))
    cdef Vector middle = plus(box.a, box.da)
    touch = of_box(
        box.half, box.dhalf, c, d,
        minus(into(&box.frame_end, minus(plus(other.a, other.da), middle)), c),
        minus(into(&box.frame_end, minus(plus(other.b, other.db), middle)), d),
        other.radius, other.grows,
    )
    if touch.time <= 1.0:
        stood_at(box, &touch)
    return touch


cdef inline Vector corner(Vector half, int n) noexcept nogil:
    return Vector(half.x if n & 1 else -half.x, half.y if n & 2 else -half.y, half.z if n & 4 else -half.z)


cdef void corners(Side* box, Side* of, Vector* first, Vector* step) noexcept nogil:
    # The eight corners of a box in the frame of another, and how they go there.
    cdef int n
    cdef Vector at, here = minus(box.a, of.a), there = minus(plus(box.a, box.da), plus(of.a, of.da))
    cdef Vector half_end = plus(box.half, box.dhalf)
    for n in range(8):
        first[n] = into(&of.frame, plus(here, out_of(&box.frame, corner(box.half, n))))
        at = into(&of.frame_end, plus(there, out_of(&box.frame_end, corner(half_end, n))))
        step[n] = minus(at, first[n])


cdef Nearest edges(Vector half, Vector* first, Vector* step, double t) noexcept nogil:
    # The least distance of a box at the origin from the twelve edges of another.
    cdef Nearest best, found
    cdef int n, along
    best.distance = INFINITY
    for n in range(8):
        for along in range(3):
            if not n & (1 << along):
                found = between_box(
                    half, on_way(first[n], step[n], t), on_way(first[n | (1 << along)], step[n | (1 << along)], t)
                )
                if found.distance < best.distance:
                    best = found
    return best


cdef Touch of_two_boxes(Side* hit, Side* hurt) noexcept nogil:
    # Two boxes are as near as the edges of each are to the other.
    cdef Vector hurt_first[8]
    cdef Vector hurt_step[8]
    cdef Vector hit_first[8]
    cdef Vector hit_step[8]
    cdef double t = 0.0, rate
    cdef Touch touch = none()
    cdef Search search = Search(0.0, 2.0)
    cdef Nearest near, other
    cdef Vector way
    cdef Vector* steps
    cdef Side* box
    cdef int n, step
    corners(hurt, hit, hurt_first, hurt_step)
    corners(hit, hurt, hit_first, hit_step)
    for step in range(STEPS):
        near = edges(on_way(hit.half, hit.dhalf, t), hurt_first, hurt_step, t)
        other = edges(on_way(hurt.half, hurt.dhalf, t), hit_first, hit_step, t)
        box, steps = hit, hurt_step
        if other.distance < near.distance:
            near, box, steps = other, hurt, hit_step
        way = way_of(near)
        rate = -INFINITY
        for n in range(8):
            rate = fmax(rate, -dot(steps[n], way))
        if not goes_on(near, 0.0, rate + widens(box.dhalf, way), &t, &search, &touch):
            break
    if touch.time <= 1.0:
        stood_at(box, &touch)
    return touch


cdef Side side_of(
    const double[:, :, ::1] ends, Py_ssize_t n, bint box, const double[:, :, :, ::1] frames, const double[:, :, ::1] half,
) noexcept nogil:
    # As it is over the whole of the time that its rows tell of.
    cdef Side out
    out.a, out.b = three(&ends[0, n, 0]), three(&ends[1, n, 0])
    out.da, out.db = minus(three(&ends[2, n, 0]), out.a), minus(three(&ends[3, n, 0]), out.b)
    out.radius = out.grows = 0.0
    out.half = out.dhalf = Vector(0.0, 0.0, 0.0)
    out.box = box
    if box:
        out.half = three(&half[0, n, 0])
        out.dhalf = minus(three(&half[1, n, 0]), out.half)
        out.frame, out.frame_end = frame_of(frames[0, n]), frame_of(frames[1, n])
    return out


cdef Side part_of(Side* whole, double begins, double ends, bint rounded) noexcept nogil:
    # As it is between two parts of its time.
    cdef Side out = whole[0]
    cdef double share = ends - begins
    out.a, out.b = on_way(whole.a, whole.da, begins), on_way(whole.b, whole.db, begins)
    out.da, out.db = scaled(whole.da, share), scaled(whole.db, share)
    out.radius, out.grows = whole.radius + whole.grows * begins, whole.grows * share
    if whole.box:
        out.half, out.dhalf = on_way(whole.half, whole.dhalf, begins), scaled(whole.dhalf, share)
        if rounded:
            out.frame = turned(&whole.frame, &whole.frame_end, begins)
            out.frame_end = turned(&whole.frame, &whole.frame_end, ends)
    return out


cdef int laid_out(
    const double[:, :, ::1] ends, const double[:, :, ::1] half, const double[:, :, :, ::1] frames,
    const unsigned char[::1] boxes, Py_ssize_t count,
) except -1:
    cdef Py_ssize_t n
    counts(ends.shape[0], 4, "ends"), counts(ends.shape[1], count, "ends"), counts(ends.shape[2], 3, "numbers of an end")
    counts(boxes.shape[0], count, "boxes")
    for n in range(count):
        if boxes[n]:
            counts(half.shape[0], 2, "sizes"), counts(half.shape[1], count, "sizes")
            counts(half.shape[2], 3, "numbers of a size")
            counts(frames.shape[0], 2, "frames"), counts(frames.shape[1], count, "frames")
            counts(frames.shape[2], 4, "rows of a frame"), counts(frames.shape[3], 4, "columns of a frame")
            break
    return 0


cdef Py_ssize_t parts_of(Side* hit, Side target) noexcept nogil:
    # How many straight parts what goes by a box that turns is cut into: seen from the box its way bends by this much.
    cdef double bends = 0.0, turns, far, goes
    cdef Vector here = minus(target.a, hit.a), goes_by = minus(target.da, hit.da)
    goes = fmax(size(goes_by), size(minus(target.db, hit.db)))
    far = fmax(size(here), size(plus(here, goes_by))) + size(minus(target.b, target.a)) + size(minus(hit.b, hit.a))
    if hit.box:
        turns = turn_between(&hit.frame, &hit.frame_end) * M_PI / 180.0
        bends = turns * (goes / 4.0 + turns * far / 8.0)
    if target.box:
        turns = turn_between(&target.frame, &target.frame_end) * M_PI / 180.0
        bends += turns * (goes / 4.0 + turns * far / 8.0)
    return <Py_ssize_t> fmin(fmax(ceil(sqrt(bends / BEND)), 1.0), 64.0)


cdef inline void tell(Touch touch, double[::1] times, double[:, ::1] places, Py_ssize_t n) noexcept nogil:
    times[n] = touch.time
    places[n, 0], places[n, 1], places[n, 2] = touch.place.x, touch.place.y, touch.place.z


def pairs(
    const Py_ssize_t[::1] rows, const Py_ssize_t[::1] hurt,
    const double[:, ::1] spans, const double[:, :, ::1] hit_ends, const double[:, ::1] hit_radii,
    const double[:, :, ::1] hit_half, const double[:, :, :, ::1] hit_frames, const unsigned char[::1] hit_boxes,
    const double[:, :, ::1] hurt_ends, const double[::1] hurt_radius,
    const double[:, :, ::1] hurt_half, const double[:, :, :, ::1] hurt_frames, const unsigned char[::1] hurt_boxes,
    double[::1] times, double[:, ::1] places,
):
    """When in the tick (0…1, inf: never) piece ``rows[i]`` touches hurtbox ``hurt[i]``, and where.

    Pieces are as ``cutting.cut`` makes them. Hurtboxes go from their ends at the last tick to those now ``[4, H, 3]``;
    boxes among them turn evenly from frame to frame ``[2, H, 4, 4]``.
    """
    cdef Py_ssize_t i, p, h, count = times.shape[0], pieces = spans.shape[1], hurts = hurt_radius.shape[0]
    cdef Py_ssize_t part, parts
    cdef double begins, ends, low, high
    cdef Side hit, target, mine, theirs
    cdef Touch touch
    cdef Vector a, b, c, d, dc, dd
    counts(rows.shape[0], count, "pieces"), counts(hurt.shape[0], count, "hurtboxes")
    rows_fit(places, count, 3, "places")
    counts(spans.shape[0], 2, "times"), counts(hit_radii.shape[0], 2, "radii"), counts(hit_radii.shape[1], pieces, "radii")
    laid_out(hit_ends, hit_half, hit_frames, hit_boxes, pieces)
    laid_out(hurt_ends, hurt_half, hurt_frames, hurt_boxes, hurts)
    for i in range(count):
        in_reach(rows[i], pieces, "piece"), in_reach(hurt[i], hurts, "hurtbox")
    with nogil:
        for i in range(count):
            p, h = rows[i], hurt[i]
            begins, ends = spans[0, p], spans[1, p]
            if not hit_boxes[p] and not hurt_boxes[h]:
                a, b, c, d = three(&hit_ends[0, p, 0]), three(&hit_ends[1, p, 0]), three(&hurt_ends[0, h, 0]), three(&hurt_ends[1, h, 0])
                dc, dd = minus(three(&hurt_ends[2, h, 0]), c), minus(three(&hurt_ends[3, h, 0]), d)
                touch = of_capsules(
                    a, b, minus(three(&hit_ends[2, p, 0]), a), minus(three(&hit_ends[3, p, 0]), b),
                    on_way(c, dc, begins), on_way(d, dd, begins), scaled(dc, ends - begins), scaled(dd, ends - begins),
                    hit_radii[0, p] + hurt_radius[h], hit_radii[1, p] - hit_radii[0, p],
                )
                touch.time = begins + touch.time * (ends - begins)
                tell(touch, times, places, i)
                continue
            hit = side_of(hit_ends, p, hit_boxes[p], hit_frames, hit_half)
            hit.radius, hit.grows = hit_radii[0, p], hit_radii[1, p] - hit_radii[0, p]
            if hit.box:
                hit.radius = hit.grows = 0.0
            target = side_of(hurt_ends, h, hurt_boxes[h], hurt_frames, hurt_half)
            target.radius = 0.0 if target.box else hurt_radius[h]
            parts = parts_of(&hit, part_of(&target, begins, ends, True))
            for part in range(parts):
                low, high = (<double> part) / parts, (part + 1.0) / parts
                theirs = part_of(&target, begins + (ends - begins) * low, begins + (ends - begins) * high, True)
                mine = part_of(&hit, low, high, parts > 1)
                touch = with_box(&mine, &theirs)
                if touch.time <= 1.0:
                    touch.time = begins + (low + touch.time * (high - low)) * (ends - begins)
                    break
            tell(touch, times, places, i)
