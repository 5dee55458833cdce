"""One pose over another, joint by joint or in body space, and the mean of several.

``F`` frames of ``J`` joints: rotations ``[F, J, 4]``, places ``[F, J, 3]``, weights ``[F, J]``; what has one frame, or one
weight, counts for all, and each weight by ``share``. ``way`` is which way round each joint went before (None: whichever is shorter), and ``goes`` which
it goes now. The rules are those of ``core.motion.blend`` and ``core.motion.layering``.
"""

from libc.math cimport acos, sqrt
from libc.stdlib cimport free

from veergust.core.motion.kernels.checks cimport room, rows_fit, tree
from veergust.core.motion.kernels.turns cimport (
    Turn, conjugate, four, multiply, negated, normal, partly, product, put_turn,
)

cdef double DEGREES = 57.29577951308232
cdef Turn STILL = Turn(0.0, 0.0, 0.0, 1.0)
cdef double KEEPS = 45.0, GOES = 150.0
# In body space the aim is kept while what the mask hangs on is turned by less than this (degrees) from where the pose
# above has it; beyond the second it is mixed joint by joint, for on hips that are upside down nobody aims.


cdef inline Turn same_way(Turn delta, const double* way) noexcept nogil:
    # A turn of the sign that goes the way round it went before, the shorter one where there is no before.
    cdef double side = delta.w if way == NULL else product(delta, four(way))
    return negated(delta) if side < 0.0 else delta


cdef inline Turn toward(Turn a, Turn b, Turn delta, double weight) noexcept nogil:
    # a turned on by a part of delta, which leads to b; at 0 or 1 one of them to the bit.
    if weight <= 0.0:
        return a
    if weight >= 1.0:
        return b
    return normal(multiply(a, partly(delta, weight)))


cdef inline const double* row(const double[:, :, ::1] values, Py_ssize_t f, Py_ssize_t j) noexcept nogil:
    if values is None:
        return NULL
    return &values[f if values.shape[0] > 1 else 0, j, 0]


cdef inline double much_of(const double[:, ::1] weight, double share, Py_ssize_t f, Py_ssize_t j) noexcept nogil:
    return weight[f if weight.shape[0] > 1 else 0, j if weight.shape[1] > 1 else 0] * share


cdef void about_body(const Py_ssize_t* parents, const double* rotation, Turn* out, Py_ssize_t joints) noexcept nogil:
    # Turns about the body of the local rotations of one frame.
    cdef Py_ssize_t j
    for j in range(joints):
        out[j] = four(rotation + 4 * j)
        if parents[j] >= 0:
            out[j] = multiply(out[parents[j]], out[j])


cdef void swayed(
    const Py_ssize_t* parents, const double* weight, const Turn* about, Turn* aims, Turn* sway, Py_ssize_t* held,
    bint* holds, Py_ssize_t joints,
) noexcept nogil:
    # Where joints aim about the body: as they do in the pose above while what holds them (the nearest joint over them
    # that the mask leaves alone) sways a little; the farther that is from its own turn in the pose above, the more
    # they go with it. A joint's aim is changed only once all that hang on it know of its sway.
    cdef Py_ssize_t j, p
    cdef Turn turn
    cdef double t
    for j in range(joints):
        p = parents[j]
        held[j] = -1 if p < 0 else held[p] if weight[p] > 0.0 else p
        holds[j] = False
        if held[j] >= 0 and weight[j] > 0.0:
            holds[held[j]] = True
    for j in range(joints):
        if not holds[j]:
            continue
        turn = multiply(about[j], conjugate(aims[j]))
        if turn.w < 0.0:
            turn = negated(turn)
        t = (2.0 * acos(min(max(turn.w, -1.0), 1.0)) * DEGREES - KEEPS) / (GOES - KEEPS)
        t = min(max(t, 0.0), 1.0)
        sway[j] = partly(turn, t * t * (3.0 - 2.0 * t))
    for j in range(joints):
        if held[j] >= 0 and weight[j] > 0.0:
            aims[j] = multiply(sway[held[j]], aims[j])


cdef void put_local(
    const Py_ssize_t* parents, const double* weight, const double* base, const double* pose, Turn* about, bint* under,
    double* out, Py_ssize_t joints,
) noexcept nogil:
    # Local rotations of turns about the body where the weight is above 0; those of the base elsewhere, and of the pose
    # (NULL: none that lays itself over) where it is wholly over what it hangs on, too.
    cdef Py_ssize_t j, p
    for j in range(joints):
        p = parents[j]
        under[j] = p >= 0 and (under[p] or weight[p] > 0.0)
        if weight[j] <= 0.0:
            if under[j]:
                about[j] = multiply(about[p], four(base + 4 * j))
            put_turn(out + 4 * j, four(base + 4 * j))
        elif p < 0:
            put_turn(out + 4 * j, about[j])
        elif pose != NULL and weight[j] >= 1.0 and weight[p] >= 1.0:
            put_turn(out + 4 * j, four(pose + 4 * j))
        else:
            put_turn(out + 4 * j, normal(multiply(conjugate(about[p]), about[j])))


cdef struct Room:
    # Where what is worked out of one frame about the body is put.
    Turn* about
    Turn* aims
    Turn* sway
    double* weight
    Py_ssize_t* held
    bint* under


cdef inline bint fits(
    const double[:, :, ::1] values, Py_ssize_t frames, Py_ssize_t joints, Py_ssize_t width
) noexcept:
    # Whether an array is of so many joints, and of so many frames or of one that counts for all.
    if values is None:
        return False
    return is_of(values, values.shape[0] if values.shape[0] == 1 else frames, joints, width)


cdef inline bint is_of(
    const double[:, :, ::1] values, Py_ssize_t frames, Py_ssize_t joints, Py_ssize_t width
) noexcept:
    return values.shape[0] == frames and values.shape[1] == joints and values.shape[2] == width


cdef inline bint weighs(const double[:, ::1] weight, Py_ssize_t frames, Py_ssize_t joints) noexcept:
    return (weight.shape[0] == frames or weight.shape[0] == 1) and (weight.shape[1] == joints or weight.shape[1] == 1)


cdef int misfit(Py_ssize_t frames, Py_ssize_t joints) except -1:
    raise ValueError(f"poses, weights or ways that are not all of {frames} frames and {joints} joints")


cdef inline int fit_out(
    const Py_ssize_t[::1] parents, const double[:, ::1] weight, const double[:, :, ::1] way,
    const double[:, :, ::1] out, const double[:, :, ::1] places, const double[:, :, ::1] goes,
) except -1:
    # What is mixed into and by what: all of the frames and joints that ``out`` has.
    cdef Py_ssize_t count = out.shape[0], joints = out.shape[1]
    tree(parents)
    if not (
        parents.shape[0] == joints and weighs(weight, count, joints) and is_of(out, count, joints, 4)
        and is_of(places, count, joints, 3) and is_of(goes, count, joints, 4)
        and (way is None or fits(way, count, joints, 4))
    ):
        misfit(count, parents.shape[0])
    return 0


cdef Room room_for(Py_ssize_t joints) except *:
    cdef Room out
    joints = max(joints, 1)
    out.about = <Turn*> room(joints * (3 * sizeof(Turn) + sizeof(double) + sizeof(Py_ssize_t) + sizeof(bint)))
    out.aims = out.about + joints
    out.sway = out.aims + joints
    out.weight = <double*> (out.sway + joints)
    out.held = <Py_ssize_t*> (out.weight + joints)
    out.under = <bint*> (out.held + joints)
    return out


def over(
    const Py_ssize_t[::1] parents not None,
    base,
    pose,
    const double[:, ::1] weight not None,
    double share,
    const double[:, :, ::1] way,
    double[:, :, ::1] out not None,
    double[:, :, ::1] places not None,
    double[:, :, ::1] goes not None,
    bint in_body,
):
    """``pose`` laid over ``base``: rotations ``out``, each the way round it began, and ``places``; one of the two to the
    bit where the weight is 0 or 1. Mixed joint by joint, or about the body."""
    cdef const double[:, :, ::1] a = base.rotation, b = pose.rotation, from_ = base.translation, to = pose.translation
    cdef Py_ssize_t f, j, k, count = out.shape[0], joints = out.shape[1]
    fit_out(parents, weight, way, out, places, goes)
    if not (
        fits(a, count, joints, 4) and fits(b, count, joints, 4)
        and fits(from_, count, joints, 3) and fits(to, count, joints, 3)
    ):
        misfit(count, joints)
    cdef Room at = room_for(joints)
    cdef Turn one, two, turn
    cdef double much
    cdef const double* was
    cdef const double* will
    with nogil:
        for f in range(count):
            for j in range(joints):
                much = at.weight[j] = much_of(weight, share, f, j)
                was, will = row(from_, f, j), row(to, f, j)
                for k in range(3):
                    places[f, j, k] = will[k] if much >= 1.0 else was[k] + (will[k] - was[k]) * much
            if in_body and joints:
                about_body(&parents[0], row(a, f, 0), at.about, joints)
                about_body(&parents[0], row(b, f, 0), at.aims, joints)
                swayed(&parents[0], at.weight, at.about, at.aims, at.sway, at.held, at.under, joints)
            for j in range(joints):
                if at.weight[j] <= 0.0:
                    # What is left alone goes no way.
                    put_turn(&goes[f, j, 0], STILL)
                    if not in_body:
                        put_turn(&out[f, j, 0], four(row(a, f, j)))
                    continue
                one = at.about[j] if in_body else four(row(a, f, j))
                two = at.aims[j] if in_body else four(row(b, f, j))
                turn = same_way(multiply(conjugate(one), two), row(way, f, j))
                put_turn(&goes[f, j, 0], turn)
                one = toward(one, two, turn, at.weight[j])
                if in_body:
                    at.about[j] = one
                else:
                    put_turn(&out[f, j, 0], one)
            if in_body and joints:
                put_local(
                    &parents[0], at.weight, row(a, f, 0), row(b, f, 0), at.about, at.under, &out[f, 0, 0], joints
                )
    free(at.about)


def added(
    const Py_ssize_t[::1] parents not None,
    base,
    pose,
    reference,
    const double[:, ::1] weight not None,
    double share,
    const double[:, :, ::1] way,
    double[:, :, ::1] out not None,
    double[:, :, ::1] places not None,
    double[:, :, ::1] goes not None,
    bint in_body,
):
    """``base`` with the difference from ``reference`` to ``pose`` added: rotations ``out`` and ``places``; ``base`` to the
    bit where the weight is 0. Joint by joint, or as turns about the body and about the body."""
    cdef const double[:, :, ::1] a = base.rotation, b = pose.rotation, c = reference.rotation
    cdef const double[:, :, ::1] from_ = base.translation, to = pose.translation, rest = reference.translation
    cdef Py_ssize_t f, j, k, count = out.shape[0], joints = out.shape[1]
    fit_out(parents, weight, way, out, places, goes)
    if not (
        fits(a, count, joints, 4) and fits(b, count, joints, 4) and fits(c, count, joints, 4)
        and fits(from_, count, joints, 3) and fits(to, count, joints, 3) and fits(rest, count, joints, 3)
    ):
        misfit(count, joints)
    cdef Room at = room_for(joints)
    cdef Turn own, turn
    cdef double much
    cdef const double* was
    with nogil:
        for f in range(count):
            for j in range(joints):
                much = at.weight[j] = much_of(weight, share, f, j)
                was = row(from_, f, j)
                for k in range(3):
                    places[f, j, k] = was[k] + (row(to, f, j)[k] - row(rest, f, j)[k]) * much if much > 0.0 else was[k]
            if in_body and joints:
                about_body(&parents[0], row(a, f, 0), at.about, joints)
                about_body(&parents[0], row(b, f, 0), at.aims, joints)
                about_body(&parents[0], row(c, f, 0), at.sway, joints)
            for j in range(joints):
                if at.weight[j] <= 0.0:
                    put_turn(&goes[f, j, 0], STILL)
                    if not in_body:
                        put_turn(&out[f, j, 0], four(row(a, f, j)))
                    continue
                if in_body:
                    turn = same_way(multiply(at.aims[j], conjugate(at.sway[j])), row(way, f, j))
                    at.about[j] = normal(multiply(partly(turn, at.weight[j]), at.about[j]))
                else:
                    turn = same_way(multiply(conjugate(four(row(c, f, j))), four(row(b, f, j))), row(way, f, j))
                    own = normal(multiply(four(row(a, f, j)), partly(turn, at.weight[j])))
                    put_turn(&out[f, j, 0], own)
                put_turn(&goes[f, j, 0], turn)
            if in_body and joints:
                put_local(
                    &parents[0], at.weight, row(a, f, 0), NULL, at.about, at.under, &out[f, 0, 0], joints
                )
    free(at.about)


def mean(list frames not None, double[:, ::1] rotation not None, double[:, ::1] translation not None):
    """The mean of moments of poses, (pose, which of its frames and how far towards the next, weight) each, into
    ``rotation`` ``[J, 4]`` and ``translation`` ``[J, 3]``. Rotations take the sign nearer to the first."""
    if not frames:
        raise ValueError("a mean of nothing")
    cdef const double[:, :, ::1] turn, place, first = frames[0][0].rotation
    cdef Py_ssize_t n, i, j, k, joints = rotation.shape[0], start
    cdef double at = frames[0][1], weight, share, much
    cdef Turn sum_
    rows_fit(rotation, joints, 4, "rotations")
    rows_fit(translation, joints, 3, "places")
    for pose, at, weight in frames:
        turn, place = pose.rotation, pose.translation
        if turn is None or place is None or not is_of(turn, turn.shape[0], joints, 4) \
                or not is_of(place, turn.shape[0], joints, 3) or not 0.0 <= at <= turn.shape[0] - 1:
            misfit(0 if turn is None else turn.shape[0], joints)
    start = <Py_ssize_t> <double> frames[0][1]
    rotation[:, :] = 0.0
    translation[:, :] = 0.0
    for pose, at, weight in frames:
        turn, place = pose.rotation, pose.translation
        n = <Py_ssize_t> at
        share = at - n
        for i in range(2):
            much = weight * (share if i else 1.0 - share)
            if much == 0.0:
                continue
            for j in range(joints):
                for k in range(3):
                    translation[j, k] += much * place[n + i, j, k]
                if product(four(&first[start, j, 0]), four(&turn[n + i, j, 0])) < 0.0:
                    for k in range(4):
                        rotation[j, k] -= much * turn[n + i, j, k]
                else:
                    for k in range(4):
                        rotation[j, k] += much * turn[n + i, j, k]
    for j in range(joints):
        sum_ = four(&rotation[j, 0])
        much = max(sqrt(product(sum_, sum_)), 1e-12)
        put_turn(&rotation[j, 0], Turn(sum_.x / much, sum_.y / much, sum_.z / much, sum_.w / much))
