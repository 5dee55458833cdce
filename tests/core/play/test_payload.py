"""Payloads as pairs: what was written is read, and other text is left alone."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from veergust.core.play.take.payload import read_pairs, write_pairs

WORD = st.text(st.characters(blacklist_characters="=:,; \t\n\r\x0b\x0c\x1c\x1d\x1e\x1f\x85\u2028\u2029",
                             blacklist_categories=("Zs", "Cc", "Cs")), min_size=1, max_size=8)  # fmt: skip


@given(st.lists(st.tuples(WORD, WORD), max_size=5))
def test_pairs_come_back(pairs: list[tuple[str, str]]) -> None:
    assert read_pairs(write_pairs(pairs)) == pairs


@pytest.mark.parametrize(
    ("payload", "pairs"),
    [
        ("", []),
        ("speed=5, up: 3 gravity=10", [("speed", "5"), ("up", "3"), ("gravity", "10")]),
        ("Ready for the bell!", None),
        ("speed=5 and more", None),
        ("speed=", None),
    ],
)
def test_a_payload_is_read_as_pairs_or_not_at_all(payload: str, pairs: list[tuple[str, str]] | None) -> None:
    assert read_pairs(payload) == pairs


def test_what_would_part_a_name_or_value_is_replaced_and_the_empty_left_out() -> None:
    assert write_pairs([("hot colour", "red, dark"), ("", "1"), ("size", "")]) == "hot_colour=red_dark"
