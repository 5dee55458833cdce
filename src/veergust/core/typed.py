"""Numbers as people type them: ``12``, ``f 12``, ``0.2 s``, ``15%``, ``+3``."""

from __future__ import annotations

import re

_TYPED = re.compile(r"(?P<frame>f\s*)?(?P<sign>[+-])?\s*(?P<number>\d+\.?\d*|\.\d+)\s*(?P<unit>%|[^\s\d.+%-]{1,4})?")
_BEGUN = re.compile(r"(f\s*)?[+-]?\s*\d*\.?\d*\s*(%|[^\s\d.+%-]{0,4})?")
_SCALES = {("ms", "s"): 0.001, ("cm", "m"): 0.01, ("mm", "m"): 0.001}
"""What one of a unit is in another."""


def may_become_number(text: str) -> bool:
    """Whether a text is the beginning of a number as it may be typed."""
    return _BEGUN.fullmatch(text.strip().replace(",", ".")) is not None


def typed_number(
    text: str, *, unit: str = "", now: float = 0.0, rate: float = 60.0, whole: tuple[float, float] | None = None,
    signed: bool = True,
) -> float | None:  # fmt: skip
    """The number that was typed into a field of a ``unit``; None when it is none.

    Seconds and frames (``rate`` of them a second) become each other. ``+3`` is three more than there is ``now``, and
    ``-3`` less where no number is below 0 (not ``signed``). ``15%`` is of the ``whole`` (from, to), or of ``now``.
    """
    match = _TYPED.fullmatch(text.strip().replace(",", "."))
    if match is None or (match["frame"] and unit != "f"):
        return None
    number, said = float(match["number"]), match["unit"] or unit
    more = match["sign"] == "+" or (match["sign"] == "-" and not signed)
    way = -1.0 if match["sign"] == "-" else 1.0
    if said == "%" and unit != "%":
        low, high = whole if whole is not None else (0.0, now)
        share = way * number / 100.0 * (high - low)
        return now + share if more else low + share
    scale = _scale(said, unit, rate)
    if scale is None:
        return None
    return now + way * number * scale if more else way * number * scale


def _scale(said: str, unit: str, rate: float) -> float | None:
    if said == unit:
        return 1.0
    if unit == "f" and said in ("s", "ms"):
        return rate * (0.001 if said == "ms" else 1.0)
    if unit == "s" and said == "f":
        return 1.0 / rate
    return _SCALES.get((said, unit))
