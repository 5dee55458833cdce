"""The kinds of spans: a module for each, with a ``KIND`` in it.

A new one is a struct and the field of ``model.Section`` that holds them, a module here, and its line in ``ORDER``.
"""

from __future__ import annotations

from importlib import import_module
from typing import Any

from veergust.core.kinds.spans.kind import SpanKind

ORDER = (
    "strikes",
    "exits",
    "gates",
    "shields",
    "holds",
    "drives",
    "events",
)
SPANS: dict[str, SpanKind] = {name: import_module(f"{__name__}.{name}").KIND for name in ORDER}
"""By the field of ``Section`` that holds them, in the order of the sheet's columns."""
RANKED = tuple(sorted(SPANS.values(), key=lambda kind: kind.rank))
"""In the order of the Now card and of takes."""
_OF = {kind.struct: kind for kind in SPANS.values()}


def kind_of(span: Any) -> SpanKind:
    """What kind a span is of."""
    return _OF[type(span)]


def title(span: Any) -> str:
    """What a span is called in words."""
    return kind_of(span).title(span)
