"""Floors of the stage: how high they are where, and which one lies under a point."""

import numpy as np

from libc.math cimport INFINITY

from veergust.core.motion.kernels.checks cimport in_reach, rows_fit

STEP_UP = 0.25


def rows_of(floors):
    """Floors as rows ``[n, 7]``, as all that is asked of them takes them."""
    rows = [(*f.low, *f.high, f.height, f.rise, 0.0 if f.along == "x" else 1.0) for f in floors]
    return np.array(rows, dtype=np.float64).reshape(-1, 7)


def height_under(const double[:, ::1] floors not None, double x, double y, double z, double above=0.25):
    """The height (m) of the highest floor under a point, not counting floors more than a step (or ``above``, m) above it;
    minus infinity where there is none."""
    rows_fit(floors, -1, FLOOR, "a floor")
    cdef Py_ssize_t n = floor_at(floors, x, y, z, above)
    return -INFINITY if n < 0 else height_at(row(floors, n), x, z)


def height_of(const double[:, ::1] floors not None, Py_ssize_t index, double x, double z):
    """The height (m) of one floor at a point; beyond its rim, that of the rim."""
    rows_fit(floors, -1, FLOOR, "a floor")
    in_reach(index, floors.shape[0], "floor")
    return height_at(row(floors, index), x, z)
