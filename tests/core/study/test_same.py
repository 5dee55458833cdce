"""What counts as equal only to itself."""

from __future__ import annotations

import gc
import weakref

import numpy as np

from veergust.core.model import Rig
from veergust.core.study.coverage import Same


def test_only_the_very_same_thing_is_the_same_and_equal_ones_are_not() -> None:
    one, other = np.zeros(3), np.zeros(3)
    assert Same(one) == Same(one)
    assert hash(Same(one)) == hash(Same(one))
    assert Same(one) != Same(other)
    assert Same(None) == Same(None)
    rig = Rig()
    assert Same(rig) == Same(rig)
    assert Same(Rig(unit=2.0)) != Same(Rig(unit=2.0))


def test_a_thing_that_is_asked_about_is_not_kept_and_nothing_is_taken_for_it_later() -> None:
    kept: dict[Same, int] = {}
    for n in range(300):
        thing = np.full(400, n)
        assert Same(thing) not in kept, "it has the place in memory of one that has gone, and is another"
        kept[Same(thing)] = n
    left = weakref.ref(thing)
    del thing
    gc.collect()
    assert left() is None
