"""The closest of many rows, against SciPy's distances, with rows that are there twice."""

from __future__ import annotations

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial.distance import cdist

from veergust.core.study.preparing import closest, distances


@given(seed=st.integers(0, 2**32), rows=st.integers(1, 40), others=st.integers(1, 40), twice=st.booleans())
def test_the_closest_rows_are_the_first_of_those_that_are_closest(
    seed: int, rows: int, others: int, twice: bool
) -> None:
    rng = np.random.default_rng(seed)
    width = int(rng.integers(1, 200))
    a, b = rng.normal(0, 1.5, (rows, width)), rng.normal(0, 1.5, (others, width))
    if twice:  # as in a clip that comes round again, held against itself
        b = np.concatenate([b, a[rng.integers(0, rows, 6)]])
        a = np.concatenate([a, a])
    far = cdist(a, b)
    assert closest(a, b) == np.unravel_index(int(np.argmin(far)), far.shape)
    assert np.abs(distances(a, b) - far).max() < 1e-6
