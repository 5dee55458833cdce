"""Numbers as people type them."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from veergust.core.typed import may_become_number, typed_number


@pytest.mark.parametrize(
    ("text", "said", "read"),
    [
        ("12", {"unit": "f"}, 12.0),
        ("12 f", {"unit": "f"}, 12.0),
        ("f 12", {"unit": "f"}, 12.0),
        ("f12", {"unit": "f"}, 12.0),
        ("0.2 s", {"unit": "f"}, 12.0),
        ("0,2s", {"unit": "f", "rate": 30.0}, 6.0),
        ("200ms", {"unit": "f"}, 12.0),
        ("30 f", {"unit": "s"}, 0.5),
        ("40 cm", {"unit": "m"}, 0.4),
        ("+3", {"unit": "f", "now": 9.0}, 12.0),
        ("+0.1 s", {"unit": "f", "now": 9.0}, 15.0),
        ("-3", {"unit": "f", "now": 9.0, "signed": False}, 6.0),
        ("-3", {"unit": "f", "now": 9.0}, -3.0),
        ("15%", {"unit": "f", "now": 40.0}, 6.0),
        ("15%", {"unit": "f", "whole": (20.0, 60.0)}, 26.0),
        ("+10%", {"unit": "f", "now": 30.0, "whole": (20.0, 60.0)}, 34.0),
        ("50%", {"unit": "%", "now": 10.0}, 50.0),
        ("1.5", {"unit": "×"}, 1.5),
        ("f 12", {"unit": "m"}, None),
        ("12 m", {"unit": "f"}, None),
        ("3 s", {"unit": ""}, None),
        ("", {"unit": "f"}, None),
        ("one", {"unit": "f"}, None),
        ("1.2.3", {"unit": ""}, None),
        ("--3", {"unit": "f"}, None),
        ("1e9", {"unit": "f"}, None),
    ],
)
def test_a_number_is_read_as_people_have_it(text: str, said: dict[str, Any], read: float | None) -> None:
    found = typed_number(text, **said)
    assert found == (None if read is None else pytest.approx(read))


@given(st.from_regex(r"(f ?)?[+-]?[0-9]{1,4}([.,][0-9]{1,3})? ?(%|s|ms|f|cm)?", fullmatch=True), st.sampled_from("fsm"))
def test_what_can_be_read_can_be_typed_letter_by_letter(text: str, unit: str) -> None:
    if typed_number(text, unit=unit) is not None:
        assert all(may_become_number(text[:n]) for n in range(len(text) + 1))
