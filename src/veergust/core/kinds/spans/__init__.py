"""The kinds of spans: a module for each, with a ``KIND`` in it, in the order of the sheet's columns.

A new one is a field of ``model.Section`` that holds them, a module here, and its line in ``SPANS``.
"""

from __future__ import annotations

from typing import Any

from veergust.core.kinds.spans import drives, events, exits, gates, holds, shields, strikes
from veergust.core.kinds.spans.kind import SpanKind
from veergust.core.model import Drive, Event, Exit, Gate, Hold, Shield, Strike

SPANS: dict[str, SpanKind] = {
    module.KIND.key: module.KIND for module in (strikes, exits, gates, shields, holds, drives, events)
}
"""By the field of ``Section`` that holds them."""
MADE: dict[type[Any], SpanKind] = {
    Strike: strikes.KIND,
    Exit: exits.KIND,
    Gate: gates.KIND,
    Shield: shields.KIND,
    Hold: holds.KIND,
    Drive: drives.KIND,
    Event: events.KIND,
}


def title(span: Any) -> str:
    """What a span is called in words."""
    return MADE[type(span)].title(span)
