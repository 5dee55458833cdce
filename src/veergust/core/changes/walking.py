"""Two values of a project gone through field by field: every leaf that is another, and where it lies."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any, Literal

import msgspec

from veergust.core.changes.matching import pairs, reordered
from veergust.core.model import Pin

Kind = Literal["changed", "added", "removed", "renamed", "moved"]


@dataclass(frozen=True)
class WayStep:
    """One step of the way to a change: the field, and what of a list in it; ``holder`` is what the field is of."""

    holder: Any
    field: str
    old: Any = None
    new: Any = None

    @property
    def one(self) -> Any:
        """What is there, as it is now, or was where it is gone."""
        return self.new if self.new is not None else self.old


@dataclass(frozen=True)
class FieldChange:
    """A leaf that is another: the way to it, and its last field with what it was and is."""

    way: tuple[WayStep, ...]
    kind: Kind
    holder: Any
    field: str
    old: Any
    new: Any
    at: int = 0
    """Of what is gone, the place it had in its list."""


def differences(old: Any, new: Any, way: tuple[WayStep, ...] = ()) -> Iterator[FieldChange]:
    """All that is otherwise in a struct, in the order of its fields. Pins follow their edges and are not told."""
    if old is new or old == new:
        return
    for field in new.__struct_fields__:
        was, now = getattr(old, field), getattr(new, field)
        if was is now or was == now or field == "identity":
            continue
        yield from _of_field(new, field, was, now, way)


def _of_field(holder: Any, field: str, was: Any, now: Any, way: tuple[WayStep, ...]) -> Iterator[FieldChange]:
    if isinstance(now, Pin) and isinstance(was, Pin):
        if was.to != now.to:
            yield FieldChange(way, "changed", holder, field, was.to, now.to)
    elif field == "name":
        yield FieldChange(way, "renamed", holder, field, was, now)
    elif isinstance(was, msgspec.Struct) and type(was) is type(now):
        yield from differences(was, now, (*way, WayStep(holder, field, was, now)))
    elif _structs(was) or _structs(now):
        yield from _of_list(holder, field, was or (), now or (), way)
    elif _weighed(was) or _weighed(now):
        before, after = dict(was), dict(now)
        for name in dict.fromkeys((*before, *after)):
            if before.get(name) != after.get(name):
                step = WayStep(holder, field, name, name)
                yield FieldChange((*way, step), "changed", holder, field, before.get(name), after.get(name))
    else:
        yield FieldChange(way, "changed", holder, field, was, now)


def _of_list(
    holder: Any, field: str, was: tuple[Any, ...], now: tuple[Any, ...], way: tuple[WayStep, ...]
) -> Iterator[FieldChange]:
    paired = pairs(was, now)
    for a, b in paired:
        old, new = was[a] if a is not None else None, now[b] if b is not None else None
        here = (*way, WayStep(holder, field, old, new))
        if old is None or new is None:
            yield FieldChange(here, "added" if old is None else "removed", holder, field, old, new, a or 0)
        else:
            yield from differences(old, new, here)
    if reordered(paired):
        yield FieldChange(way, "moved", holder, field, was, now)


def _structs(value: Any) -> bool:
    return isinstance(value, tuple) and bool(value) and all(isinstance(one, msgspec.Struct) for one in value)


def _weighed(value: Any) -> bool:
    """Whether it is pairs of a name and what goes with it."""
    return (
        isinstance(value, tuple)
        and bool(value)
        and all(isinstance(one, tuple) and len(one) == 2 and isinstance(one[0], str) for one in value)
        and len({one[0] for one in value}) == len(value)
    )
