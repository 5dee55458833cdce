"""Results that are kept: which stay, which go, and what they cost."""

from __future__ import annotations

from functools import partial
from math import inf

from hypothesis import given
from hypothesis import strategies as st

from veergust.core.results import Results


@given(st.lists(st.integers(0, 9), max_size=60), st.integers(1, 6))
def test_the_ones_asked_for_last_stay_and_are_worked_out_once(asked: list[int], most: int) -> None:
    kept, worked = Results[int, str](most), list[int]()

    def work(key: int) -> str:
        worked.append(key)
        return str(key)

    model: list[int] = []
    for key in asked:
        before = len(worked)
        assert kept.of(key, partial(work, key)) == str(key)
        assert (len(worked) > before) == (key not in model)
        model = [*(k for k in model if k != key), key][-most:]
    assert len(kept) == len(model) == kept.size


def test_they_are_kept_by_what_they_weigh_and_the_last_one_stays_whatever_it_weighs() -> None:
    kept = Results[str, bytes](inf, len)
    for word in ("one", "three", "seventeen"):
        kept.of(word, word.encode)
    assert kept.size == 17
    kept.keep(14)
    assert (kept.size, len(kept)) == (14, 2)
    kept.keep(3)
    assert (kept.size, len(kept)) == (9, 1)


def test_without_some_keys_the_rest_is_there_and_what_was_is_untouched() -> None:
    kept = Results[int, str](9)
    for key in range(5):
        kept.of(key, partial(str, key))
    some = kept.without(lambda key: key % 2 == 0)
    assert (len(kept), len(some), some.size) == (5, 2, 2)
    assert some.of(1, lambda: "anew") == "1"
    assert some.of(2, lambda: "anew") == "anew"
    assert kept.of(2, lambda: "anew") == "2"


def test_what_a_key_tells_by_identity_lives_as_long_as_the_result() -> None:
    kept = Results[int, int](4)
    for n in range(200):
        thing = [n]
        assert kept.of(id(thing), partial(int, n), thing) == n, "nothing else has come to have its identity"
