"""One pose over another, joint by joint or in body space, and the mean of several.

``F`` frames of ``J`` joints: rotations ``[F, J, 4]``, places ``[F, J, 3]``, weights ``[F, J]``. ``way`` is which way round
each joint went before (None: whichever is shorter), and ``goes`` which it goes now. The rules are those of
``core.motion.blend`` and ``core.motion.layering``.
"""

from libc.math cimport acos, sqrt
from libc.stdlib cimport free, malloc

from veergust.core.motion.kernels.turns cimport (
    Turn, conjugate, four, multiply, negated, normal, partly, product, put_turn,
)

cdef double DEGREES = 57.29577951308232
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


cdef inline const double* row(const double[:, :, ::1] way, Py_ssize_t f, Py_ssize_t j) noexcept nogil:
    return NULL if way is None else &way[f, j, 0]


def turned_on(
    const double[:, :, ::1] a,
    const double[:, :, ::1] b,
    const double[:, ::1] weight,
    const double[:, :, ::1] way,
    double[:, :, ::1] out,
    double[:, :, ::1] goes,
):
    """Rotations ``out`` from ``a`` towards ``b``, each the way round it began."""
    cdef Py_ssize_t f, j
    cdef Turn one, two, turn
    with nogil:
        for f in range(a.shape[0]):
            for j in range(a.shape[1]):
                one, two = four(&a[f, j, 0]), four(&b[f, j, 0])
                turn = same_way(multiply(conjugate(one), two), row(way, f, j))
                put_turn(&goes[f, j, 0], turn)
                put_turn(&out[f, j, 0], toward(one, two, turn, weight[f, j]))


def moved_on(
    const double[:, :, ::1] a, const double[:, :, ::1] b, const double[:, ::1] weight, double[:, :, ::1] out
):
    """Places ``out`` from ``a`` towards ``b``; ``a`` or ``b`` to the bit at 0 or 1."""
    cdef Py_ssize_t f, j, k
    with nogil:
        for f in range(a.shape[0]):
            for j in range(a.shape[1]):
                for k in range(3):
                    if weight[f, j] >= 1.0:
                        out[f, j, k] = b[f, j, k]
                    else:
                        out[f, j, k] = a[f, j, k] + (b[f, j, k] - a[f, j, k]) * weight[f, j]


cdef void about_body(const Py_ssize_t* parents, const double* rotation, Turn* out, Py_ssize_t joints) noexcept nogil:
    # Turns about the body of the local rotations of one frame.
    cdef Py_ssize_t j
    for j in range(joints):
        out[j] = four(rotation + 4 * j)
        if parents[j] >= 0:
            out[j] = multiply(out[parents[j]], out[j])


cdef void swayed(
    const Py_ssize_t* parents, const double* weight, const Turn* about, Turn* aims, Turn* sway, Py_ssize_t* held,
    Py_ssize_t joints,
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
        if weight[j] > 0.0:
            continue
        turn = multiply(about[j], conjugate(aims[j]))
        if turn.w < 0.0:
            turn = negated(turn)
        t = (2.0 * acos(min(max(turn.w, -1.0), 1.0)) * DEGREES - KEEPS) / (GOES - KEEPS)
        t = min(max(t, 0.0), 1.0)
        sway[j] = partly(turn, t * t * (3.0 - 2.0 * t))
    for j in range(joints):
        if held[j] >= 0:
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


def over_about(
    const Py_ssize_t[::1] parents,
    const double[:, :, ::1] base,
    const double[:, :, ::1] pose,
    const double[:, ::1] weight,
    const double[:, :, ::1] way,
    double[:, :, ::1] out,
    double[:, :, ::1] goes,
):
    """Rotations ``out`` of a pose over another, mixed about the body."""
    cdef Py_ssize_t f, j, joints = base.shape[1]
    cdef Turn one, turn
    if not base.shape[0] * joints:
        return
    cdef Turn* about = <Turn*> malloc(3 * joints * sizeof(Turn))
    cdef Py_ssize_t* held = <Py_ssize_t*> malloc(joints * (sizeof(Py_ssize_t) + sizeof(bint)))
    cdef Turn* aims = about + joints
    cdef Turn* sway = aims + joints
    cdef bint* under = <bint*> (held + joints)
    with nogil:
        for f in range(base.shape[0]):
            about_body(&parents[0], &base[f, 0, 0], about, joints)
            about_body(&parents[0], &pose[f, 0, 0], aims, joints)
            swayed(&parents[0], &weight[f, 0], about, aims, sway, held, joints)
            for j in range(joints):
                one = about[j]
                turn = same_way(multiply(conjugate(one), aims[j]), row(way, f, j))
                put_turn(&goes[f, j, 0], turn)
                about[j] = toward(one, aims[j], turn, weight[f, j])
            put_local(
                &parents[0], &weight[f, 0], &base[f, 0, 0], &pose[f, 0, 0], about, under, &out[f, 0, 0], joints
            )
    free(about)
    free(held)


def added(
    const double[:, :, ::1] base,
    const double[:, :, ::1] pose,
    const double[:, :, ::1] rest,
    const double[:, ::1] weight,
    const double[:, :, ::1] way,
    double[:, :, ::1] out,
    double[:, :, ::1] goes,
):
    """Rotations ``out``: ``base`` turned on by the difference from ``rest`` to ``pose``."""
    cdef Py_ssize_t f, j
    cdef Turn own, turn
    with nogil:
        for f in range(base.shape[0]):
            for j in range(base.shape[1]):
                own = four(&base[f, j, 0])
                turn = multiply(conjugate(four(&rest[f, j, 0])), four(&pose[f, j, 0]))
                turn = same_way(turn, row(way, f, j))
                put_turn(&goes[f, j, 0], turn)
                if weight[f, j] > 0.0:
                    own = normal(multiply(own, partly(turn, weight[f, j])))
                put_turn(&out[f, j, 0], own)


def added_about(
    const Py_ssize_t[::1] parents,
    const double[:, :, ::1] base,
    const double[:, :, ::1] pose,
    const double[:, :, ::1] rest,
    const double[:, ::1] weight,
    const double[:, :, ::1] way,
    double[:, :, ::1] out,
    double[:, :, ::1] goes,
):
    """As ``added``, of turns about the body and about the body."""
    cdef Py_ssize_t f, j, joints = base.shape[1]
    cdef Turn turn
    if not base.shape[0] * joints:
        return
    cdef Turn* about = <Turn*> malloc(3 * joints * sizeof(Turn))
    cdef bint* under = <bint*> malloc(joints * sizeof(bint))
    cdef Turn* aims = about + joints
    cdef Turn* was = aims + joints
    with nogil:
        for f in range(base.shape[0]):
            about_body(&parents[0], &base[f, 0, 0], about, joints)
            about_body(&parents[0], &pose[f, 0, 0], aims, joints)
            about_body(&parents[0], &rest[f, 0, 0], was, joints)
            for j in range(joints):
                turn = same_way(multiply(aims[j], conjugate(was[j])), row(way, f, j))
                put_turn(&goes[f, j, 0], turn)
                about[j] = normal(multiply(partly(turn, weight[f, j]), about[j]))
            put_local(&parents[0], &weight[f, 0], &base[f, 0, 0], NULL, about, under, &out[f, 0, 0], joints)
    free(about)
    free(under)


def mean(list frames, double[:, ::1] rotation, double[:, ::1] translation):
    """The mean of frames of poses, (pose, index of the frame, weight) each, into ``rotation`` ``[J, 4]`` and
    ``translation`` ``[J, 3]``. Rotations take the sign nearer to the first."""
    cdef const double[:, :, ::1] turn, place, first = frames[0][0].rotation
    cdef Py_ssize_t n, j, k, at = frames[0][1]
    cdef double weight, much
    cdef Turn sum_
    rotation[:, :] = 0.0
    translation[:, :] = 0.0
    for pose, n, weight in frames:
        turn, place = pose.rotation, pose.translation
        for j in range(rotation.shape[0]):
            much = -weight if product(four(&first[at, j, 0]), four(&turn[n, j, 0])) < 0.0 else weight
            for k in range(4):
                rotation[j, k] += much * turn[n, j, k]
            for k in range(3):
                translation[j, k] += weight * place[n, j, k]
    for j in range(rotation.shape[0]):
        sum_ = four(&rotation[j, 0])
        much = max(sqrt(product(sum_, sum_)), 1e-12)
        put_turn(&rotation[j, 0], Turn(sum_.x / much, sum_.y / much, sum_.z / much, sum_.w / much))
