"""Each foot of a figure on a tick: whether it stands and where, on which floor, and where that brings its ankle.

The rule is told in ``footing``. What is kept of a foot from tick to tick is a row of numbers, ``Foothold``; legs are
rows of their joints (thigh, shin, foot, ball) with the lengths of their bones (m).
"""

from libc.math cimport M_PI, acos, cos, fabs, sin, sqrt
from libc.stdlib cimport free

from veergust.core.motion.kernels.checks cimport counts, frames_of, in_reach, limbs_of, pose_of, room, rows_fit
from veergust.core.motion.kernels.limbs cimport Move, carry, place, reached
from veergust.core.motion.kernels.turns cimport (
    Turn, Vector, between, eased, minus, plus, rotate, size, times, unit,
)
from veergust.core.play.body.floors cimport FLOOR, Floor, edge, floor_at, height_at, normal_of, row

STRAIGHTEST = 0.975
COLUMNS = sizeof(Foothold) // sizeof(double)

cdef double EASES = 10.0
# Ticks over which a foot goes back to its pose.
cdef double STRAIGHT = STRAIGHTEST
# A leg is never brought straighter than this share of its length, or than it was.
cdef double STANDS = 0.022, LIFTED = 0.045
# A foot stands from where its ball is so near (of a leg's length) to the floor, until it is farther.
cdef double FARTHEST = 0.2
# So far (of a leg's length) from its pose a standing foot takes a step of its own.
cdef double STEP_HIGH = 0.3
# A step of its own rises by this share of how far it goes.
cdef double QUICK = 1.3
# A foot that goes faster (leg lengths a second) in the pose does not begin to stand.
cdef double LITTLE = 0.02
# A foot that is off by no more than this (of a leg's length) need not step.
cdef double SKATES = 0.055
# It is lifted by so much (of a leg's length).
cdef double TORN = 0.03
# A foot is let go where its leg would have to be so much longer (of its length) than it may be, and than it was.
cdef double CLIMBS = 0.04
# A foot is laid so much (m) higher or lower a tick at the most.
cdef double LIFTS = 0.055
# A foot that swings is lifted over what comes by so much (m) a tick at the most.
cdef double HIGHER = 0.2
# It goes over floors that are so much (m) higher than one it may stand on.
cdef double DRAWN_UP = 0.5
# The least of a leg's length that is between hip and ankle when it is drawn up over something.
cdef int LOOKS = 7
# It looks so many ticks ahead for what it has to go over.
cdef double SINKS = 0.02
# The pelvis is lowered, or comes up, by so much (m) a tick at the most.
cdef double LEAST = 1e-6
# Nothing is laid that is off by less (m).
cdef double SOON = 0.3
# The share of its way to the floor that a foot makes on a tick.
cdef Vector UPRIGHT = Vector(0.0, 1.0, 0.0)


cdef struct Foothold:
    # The place where its ball stands, while it ``stands``, and how far (m) it is laid off its pose.
    #
    # ``gone`` is how far it was off when it was let go, ``ticks`` ago; ``steps`` says that it goes back by a step of its
    # own. ``ball`` is where the pose had its ball, once ``seen``; ``up`` the direction up from its floor. ``high`` is
    # that floor's height in the world (m) while it is ``floored``, ``laid`` how far that is from the body's, ``rise`` how
    # much (m) it is lifted, ``press`` how much it is brought down to stand.
    Vector at
    Vector off
    Vector gone
    Vector ball
    Vector up
    double stands
    double ticks
    double steps
    double seen
    double floored
    double high
    double laid
    double rise
    double press


cdef Py_ssize_t FOOT = sizeof(Foothold) // sizeof(double)


cdef struct Body:
    # Where the body is (m), the sine and cosine of where it faces, and whether it is on the floor.
    Vector place
    double sine
    double cosine
    bint grounded


cdef struct Leg:
    Py_ssize_t thigh
    Py_ssize_t foot
    Py_ssize_t ball
    double size
    double ball_high


cdef struct Ground:
    # How much higher and lower (m) a floor may be than the body's, and how steep (degrees) a foot is turned to it.
    double raises
    double drops
    double turns


cdef inline Vector out_of(const Body* body, Vector v) noexcept nogil:
    # A direction about the body, in the world.
    return Vector(body.cosine * v.x + body.sine * v.z, v.y, body.cosine * v.z - body.sine * v.x)


cdef inline Vector into(const Body* body, Vector v) noexcept nogil:
    # A direction in the world, about the body.
    return Vector(body.cosine * v.x - body.sine * v.z, v.y, body.cosine * v.z + body.sine * v.x)


cdef inline double clamped(double value, double most) noexcept nogil:
    return min(max(value, -most), most)


cdef Vector left_of(const Foothold* hold, Vector gone, double ticks) noexcept nogil:
    # What is left of how far a foot was from its pose, so many ticks after it was let go.
    cdef double t = min(ticks / EASES, 1.0)
    cdef double much = 1.0 - t * t * (3.0 - 2.0 * t)
    return Vector(gone.x * much, 0.0, gone.z * much)


cdef bint torn(
    const double[:, :, ::1] joints, const Body* body, const Leg* leg, Vector at, Vector ball
) noexcept nogil:
    # Whether a foot stands farther off than its leg reaches.
    cdef Vector off = into(body, Vector(at.x - ball.x, 0.0, at.z - ball.z))
    cdef Vector hip = place(joints, leg.thigh), ankle = place(joints, leg.foot)
    cdef double was = size(minus(ankle, hip)), now = size(minus(plus(ankle, off), hip))
    return now > was + TORN * leg.size and now > (STRAIGHT + TORN) * leg.size


cdef double floor_of(
    const double[:, :, ::1] joints, const Body* body, const Leg* leg, const double[:, ::1] floors, const Ground* ground,
    double raises, double x, double z, Vector* up,
) noexcept nogil:
    # How high (m) the floor under a foot is, in the world, and its direction up.
    cdef double y = body.place.y, high, best = -1e9, steep
    cdef Vector toe = place(joints, leg.ball), back = minus(place(joints, leg.foot), toe)
    cdef Py_ssize_t n, found = -1
    cdef double px = x, pz = z
    back = out_of(body, times(back, 1.3))
    for _ in range(2):
        n = floor_at(floors, px, y, pz, raises)
        if n >= 0:
            high = height_at(row(floors, n), px, pz)
            if high >= y - ground.drops - edge() and high > best:
                best, found = high, n
        px, pz = x + back.x, z + back.z
    if found < 0:
        up[0] = UPRIGHT
        return y
    up[0] = normal_of(row(floors, found))
    steep = acos(min(max(up.y, -1.0), 1.0)) * 180.0 / M_PI
    if steep > ground.turns > 0.0:
        up[0] = unit(Vector(up.x * ground.turns / steep, 1.0, up.z * ground.turns / steep))
    high = height_at(row(floors, found), x, z)
    return min(max(high, y - ground.drops), y + raises)


cdef double floor_ahead(
    const double[:, :, ::1] joints, const Body* body, const Leg* leg, const double[:, ::1] floors, const Ground* ground,
    Vector at, Vector step,
) noexcept nogil:
    # The highest floor (m) that a swinging foot comes over in the next ticks, going on as it goes.
    cdef double best = -1e9
    cdef Vector up
    cdef int k
    for k in range(LOOKS + 1):
        best = max(best, floor_of(
            joints, body, leg, floors, ground, ground.raises + HIGHER, at.x + step.x * k, at.z + step.z * k, &up
        ))
    return best


cdef Foothold stepped(
    const double[:, :, ::1] joints, const Body* body, const Leg* leg, const Foothold* hold,
    const double[:, ::1] floors, const Ground* ground, bint on, double rate, double own,
) noexcept nogil:
    # A foot a tick on.
    cdef Foothold out = hold[0]
    cdef Vector ball = plus(body.place, out_of(body, place(joints, leg.ball)))
    cdef Vector flat, up = UPRIGHT
    cdef double over = joints[leg.ball, 1, 3] - leg.ball_high
    cdef bint low = over < (LIFTED if hold.stands else STANDS) * leg.size
    cdef double quick = size(minus(ball, hold.ball)) * rate / leg.size if hold.seen else 0.0
    cdef bint stands = on and low and own > 0.5 and (hold.stands or quick < QUICK)
    cdef bint steps = hold.steps and hold.ticks + 1.0 < EASES
    cdef double far, share, floor, rise, skates, press, reach, climbs = CLIMBS
    if hold.steps and hold.ticks < EASES:
        stands = False
    out.ticks = hold.ticks + 1.0
    if stands and not hold.stands:
        out.stands, out.at, steps = True, plus(ball, left_of(hold, hold.gone, hold.ticks)), False
    if out.stands:
        far = size(Vector(out.at.x - ball.x, 0.0, out.at.z - ball.z))
        if not stands or far > FARTHEST * leg.size or torn(joints, body, leg, out.at, ball):
            out.gone, out.ticks, out.stands = Vector(out.at.x - ball.x, 0.0, out.at.z - ball.z), 1.0, False
            steps = stands and size(out.gone) > LITTLE * leg.size
    if out.stands:
        flat = Vector(out.at.x - ball.x, 0.0, out.at.z - ball.z)
    else:
        flat = left_of(hold, out.gone, out.ticks)
    share = 0.6 if out.stands else SOON
    if body.grounded:
        # One that stands does not sink into its step while the body goes on down the stairs.
        floor = floor_of(
            joints, body, leg, floors, ground, ground.raises + (HIGHER if hold.stands else 0.0),
            ball.x + flat.x * own, ball.z + flat.z * own, &up,
        )
        if not out.stands and hold.seen and floors.shape[0] > 1:
            # What swings is over the step before it comes to it.
            floor = max(floor, floor_ahead(
                joints, body, leg, floors, ground, Vector(ball.x + flat.x * own, 0.0, ball.z + flat.z * own),
                minus(ball, hold.ball),
            ))
            climbs, share = (LIFTS, 0.45) if floor > hold.high else (CLIMBS, share)
        out.high = hold.high + clamped((floor - hold.high) * share, climbs) if hold.floored else floor
        out.laid, out.floored = out.high - body.place.y, True
        if not out.stands:
            # No higher than a leg can be drawn up.
            reach = place(joints, leg.thigh).y - place(joints, leg.foot).y - DRAWN_UP * leg.size - hold.rise
            out.laid = min(out.laid, max(reach, min(hold.laid, 0.0)))
            out.high = out.laid + body.place.y
    else:
        # In the air there is no floor to lay it on: what it was off by is eased away.
        out.laid, out.floored = hold.laid * (1.0 - SOON), False
    out.up = unit(plus(times(hold.up, 1.0 - share), times(up, share)))
    rise = 0.0
    if steps and not out.stands:
        rise = STEP_HIGH * size(out.gone) * sin(M_PI * min(out.ticks / EASES, 1.0))
    # A foot that goes along the floor faster than one can stand is lifted over it.
    skates = SKATES * leg.size if on and low and not out.stands and quick >= QUICK else 0.0
    out.rise = max(rise, hold.rise + (skates - hold.rise) * (0.6 if skates > 0.0 else SOON))
    # Mixed poses stand a little over the floor, or in it.
    press = -over if out.stands else max(-over, 0.0) if on and own > 0.5 else 0.0
    out.press = hold.press + (press - hold.press) * 0.5
    out.off = Vector(flat.x * own, out.laid + (out.rise + out.press) * own, flat.z * own)
    out.steps, out.ball, out.seen = steps, ball, True
    return out


cdef Vector ankle_of(
    const double[:, :, ::1] joints, const Body* body, const Leg* leg, const Foothold* foot, double weight, Turn* tilt
) noexcept nogil:
    # Where an ankle goes for its foot to be laid, and how the foot is tilted, about the body.
    #
    # The foot turns about the point of the floor under its ball.
    cdef Vector ball = place(joints, leg.ball), below = Vector(ball.x, 0.0, ball.z)
    cdef Vector arm = minus(place(joints, leg.foot), below)
    tilt[0] = Turn(0.0, 0.0, 0.0, 1.0)
    if foot.up.y < 1.0 - 1e-9:
        tilt[0] = eased(between(UPRIGHT, into(body, foot.up)), weight)
        arm = rotate(tilt[0], arm)
    return plus(plus(below, into(body, times(foot.off, weight))), arm)


cdef double short_of(
    const double[:, :, ::1] joints, const Body* body, const Leg* leg, const Foothold* foot, double behind
) noexcept nogil:
    # How much lower (m) the hip of a leg has to be for it to reach where its foot is laid.
    cdef Turn tilt
    cdef Vector hip = place(joints, leg.thigh), to = ankle_of(joints, body, leg, foot, 1.0, &tilt)
    cdef double long_ = size(minus(place(joints, leg.foot), hip))
    cdef double most = max(STRAIGHT * leg.size, min(long_, leg.size))
    cdef double flat = (to.x - hip.x) * (to.x - hip.x) + (to.z - hip.z) * (to.z - hip.z)
    return max(hip.y + behind - to.y - sqrt(max(most * most - flat, 0.0)), 0.0)


cdef inline Leg leg_of(
    const Py_ssize_t[:, ::1] legs, const double[:, ::1] lengths, const double[::1] high, Py_ssize_t n
) noexcept nogil:
    return Leg(legs[n, 0], legs[n, 2], legs[n, 3], lengths[n, 0] + lengths[n, 1], high[n])


cdef void laid(
    const Py_ssize_t[::1] parents, double[:, ::1] rotation, double[:, ::1] translation, double[:, :, ::1] joints,
    const Py_ssize_t[:, ::1] legs, const double[:, ::1] lengths, const double[:, ::1] feet, const Body* body,
    Py_ssize_t hips, double shift, double weight,
):
    # Feet laid on the floor by a weight, with the pelvis raised by a shift (m).
    cdef Py_ssize_t n, k, count = legs.shape[0], joint_count = parents.shape[0]
    cdef size_t each = 4 * sizeof(Move) + sizeof(Vector) + sizeof(Turn)
    cdef Move* moves = <Move*> room(count * each + joint_count * sizeof(Py_ssize_t))
    cdef Vector* targets = <Vector*> (moves + 4 * count)
    cdef Turn* tilts = <Turn*> (targets + count)
    cdef Py_ssize_t* nearest = <Py_ssize_t*> (tilts + count)
    cdef Leg leg
    for n in range(count):
        leg = Leg(legs[n, 0], legs[n, 2], legs[n, 3], 0.0, 0.0)
        targets[n] = ankle_of(joints, body, &leg, <const Foothold*> &feet[n, 0], weight, tilts + n)
    for k in range(joint_count):
        nearest[k] = -1
    n = parents[hips]
    for k in range(3):
        translation[hips, k] += joints[n, 1, k] * shift if n >= 0 else shift if k == 1 else 0.0
    nearest[hips] = 0
    for k in range(hips, joint_count):
        if k > hips and parents[k] >= 0:
            nearest[k] = nearest[parents[k]]
        if nearest[k] == 0:
            joints[k, 1, 3] += shift
    if weight > 0.0:
        for k in range(joint_count):
            nearest[k] = -1
        for n in range(count):
            reached(
                parents, rotation, joints, &legs[n, 0], lengths[n, 0], lengths[n, 1], targets[n], tilts[n], STRAIGHT,
                moves + 3 * n,
            )
            for k in range(3):
                nearest[legs[n, k]] = 3 * n + k
        carry(parents, joints, nearest, moves)
    free(moves)


cdef bint off(const double[:, ::1] feet) noexcept:
    # Whether any foot is laid off its pose, or tilted.
    cdef const Foothold* foot
    cdef Py_ssize_t n
    for n in range(feet.shape[0]):
        foot = <const Foothold*> &feet[n, 0]
        if size(foot.off) > LEAST or foot.up.y < 1.0 - LEAST:
            return True
    return False


def lay(
    const Py_ssize_t[::1] parents not None,
    double[:, ::1] rotation not None,
    double[:, ::1] translation not None,
    double[:, :, ::1] joints not None,
    const Py_ssize_t[:, ::1] legs not None,
    const double[:, ::1] lengths not None,
    const double[:, ::1] feet not None,
    Py_ssize_t hips,
    double facing,
    double lower,
    double behind,
    double weight,
):
    """Lay feet on the floor by their rows, with the pelvis as much ``lower`` and the figure as far ``behind`` (m) as it is.

    Local ``rotation`` ``[J, 4]`` and ``translation`` ``[J, 3]``, and ``joints`` ``[J, 4, 4]`` about the body, which faces
    ``facing`` (radians), are changed in place.
    """
    pose_of(parents, rotation, joints)
    rows_fit(translation, parents.shape[0], 3, "places")
    limbs_of(legs, lengths, parents.shape[0])
    rows_fit(feet, legs.shape[0], FOOT, "feet")
    in_reach(hips, parents.shape[0], "joint")
    cdef Body body = Body(Vector(0.0, 0.0, 0.0), sin(facing), cos(facing), True)
    if not (weight > 0.0 and off(feet)) and fabs(behind) <= LEAST and lower <= LEAST:
        return
    laid(
        parents, rotation, translation, joints, legs, lengths, feet, &body, hips, behind - lower * weight, weight
    )


def step(
    const double[:, :, ::1] joints not None,
    const Py_ssize_t[:, ::1] legs not None,
    const double[:, ::1] lengths not None,
    const double[::1] high not None,
    const double[:, ::1] floors not None,
    const double[:, ::1] before not None,
    double[:, ::1] after not None,
    own,
    tuple place not None,
    double facing,
    bint grounded,
    bint on,
    double rate,
    tuple ground not None,
    double lower,
    double behind,
):
    """Bring the rows ``before`` of all feet a tick on, into ``after``; gives how much lower (m) the pelvis is then.

    ``joints`` ``[J, 4, 4]`` are about the body, which is at a ``place``, faces ``facing`` (radians) and trails ``behind``
    (m). ``own`` is how much of each foot locomotion moves, ``high`` how high (m) each ball is over the floor at rest,
    ``ground`` how much higher and lower (m) than the body's a floor may be, and how steep (degrees).
    """
    frames_of(joints, joints.shape[0])
    limbs_of(legs, lengths, joints.shape[0])
    counts(high.shape[0], legs.shape[0], "heights")
    rows_fit(floors, -1, FLOOR, "a floor")
    rows_fit(before, legs.shape[0], FOOT, "feet")
    rows_fit(after, legs.shape[0], FOOT, "feet")
    counts(len(own), legs.shape[0], "shares of feet")
    counts(len(place), 3, "numbers of a place")
    counts(len(ground), 3, "numbers of a ground")
    cdef Body body = Body(Vector(place[0], place[1], place[2]), sin(facing), cos(facing), grounded)
    cdef Ground about = Ground(ground[0], ground[1], ground[2])
    cdef Leg leg
    cdef Py_ssize_t n
    cdef double most = 0.0
    for n in range(legs.shape[0]):
        leg = leg_of(legs, lengths, high, n)
        (<Foothold*> &after[n, 0])[0] = stepped(
            joints, &body, &leg, <const Foothold*> &before[n, 0], floors, &about, on, rate, own[n]
        )
        # The pelvis goes down as far as the leg that has the farthest to reach needs it to.
        most = max(most, short_of(joints, &body, &leg, <const Foothold*> &after[n, 0], behind))
    return lower + clamped(min(most, about.drops) - lower, SINKS)


def take_along(double[:, ::1] feet not None, double x, double y, double z):
    """Take rows of feet along by so much (m), as what they stand on and the body go: in place."""
    rows_fit(feet, -1, FOOT, "feet")
    cdef Foothold* foot
    cdef Vector by = Vector(x, y, z)
    cdef Py_ssize_t n
    for n in range(feet.shape[0]):
        foot = <Foothold*> &feet[n, 0]
        foot.at = plus(foot.at, by)
        foot.ball = plus(foot.ball, by)
        foot.high += y


def fresh(double[:, ::1] feet not None):
    """Rows of feet that have not stood yet."""
    rows_fit(feet, -1, FOOT, "feet")
    cdef Foothold* foot
    cdef Py_ssize_t n
    feet[:, :] = 0.0
    for n in range(feet.shape[0]):
        foot = <Foothold*> &feet[n, 0]
        foot.up, foot.ticks = UPRIGHT, EASES
