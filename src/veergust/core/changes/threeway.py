"""Two values that come from one, put together field by field and span by span."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Any, Literal

import msgspec

from veergust.core.changes.matching import key_of, pairs
from veergust.core.model import Pin, Span

Side = Literal["ours", "theirs"]
_NOT_THERE = object()


@dataclass
class ThreeWay:
    """How two are put together: whose counts where both changed the same, and where that was."""

    side: Side
    clashes: list[tuple[str, ...]] = field(default_factory=list)

    def of(self, base: Any, ours: Any, theirs: Any, way: tuple[str, ...] = ()) -> Any:
        """What both made of ``base``."""
        if ours in (base, theirs):
            return theirs
        if theirs == base:
            return ours
        alike = type(ours) is type(theirs)
        if alike and isinstance(ours, msgspec.Struct) and not isinstance(ours, Pin) and type(base) is type(ours):
            return self._struct(base, ours, theirs, way)
        lists = [rows if isinstance(rows, tuple) else () for rows in (base, ours, theirs)]
        if alike and isinstance(ours, tuple) and all(_listed(rows) for rows in lists):
            return self._list(lists[0], lists[1], lists[2], way)
        return self._clash(ours, theirs, way)

    def _clash(self, ours: Any, theirs: Any, way: tuple[str, ...]) -> Any:
        self.clashes.append(way)
        return ours if self.side == "ours" else theirs

    def _struct(self, base: Any, ours: Any, theirs: Any, way: tuple[str, ...]) -> Any:
        known = len(self.clashes)
        fields = {
            name: self.of(getattr(base, name), getattr(ours, name), getattr(theirs, name), (*way, name))
            for name in base.__struct_fields__
        }
        made = msgspec.structs.replace(ours, **fields)
        if isinstance(made, Span) and made.end <= made.start < max(ours.end, theirs.end):
            # Either edge was moved past the other: a span that lies nowhere is neither's.
            del self.clashes[known:]
            return self._clash(ours, theirs, way)
        return made

    def _list(self, base: Sequence[Any], ours: Sequence[Any], theirs: Sequence[Any], way: tuple[str, ...]) -> Any:
        mine, other = _answers(base, ours), _answers(base, theirs)
        kept: dict[int, Any] = {}
        for at, one in enumerate(base):
            a = ours[mine[at]] if at in mine else _NOT_THERE
            b = theirs[other[at]] if at in other else _NOT_THERE
            here = (*way, str(key_of(one) if not isinstance(one, str | tuple) else one))
            if a is _NOT_THERE or b is _NOT_THERE:
                left = b if a is _NOT_THERE else a
                if left is not _NOT_THERE and left != one:
                    made = self._clash(a, b, here)  # taken away by one, changed by the other
                    if made is not _NOT_THERE:
                        kept[at] = made
            else:
                kept[at] = self.of(one, a, b, here)
        return self._woven((base, ours, theirs), (mine, other), kept, way)

    def _woven(
        self,
        rows: tuple[Sequence[Any], Sequence[Any], Sequence[Any]],
        answers: tuple[dict[int, int], dict[int, int]],
        kept: dict[int, Any],
        way: tuple[str, ...],
    ) -> tuple[Any, ...]:
        """All that is left, in the order of the side that changed it, ours if both did; what is new on the other goes
        behind what it stands behind there."""
        _, ours, theirs = rows
        back_a, back_b = ({there: at for at, there in found.items()} for found in answers)
        old_order = [back_a[n] for n in range(len(ours)) if n in back_a] == sorted(back_a.values())
        lead, follow = ((theirs, back_b), (ours, back_a)) if old_order else ((ours, back_a), (theirs, back_b))
        out: list[tuple[object, Any]] = []
        for n, one in enumerate(lead[0]):
            at = lead[1].get(n)
            if at is None:
                out.append((("new", id(lead), n), one))
            elif at in kept:
                out.append((at, kept[at]))
        before: object = None
        for n, one in enumerate(follow[0]):
            at = follow[1].get(n)
            token: object = at if at is not None else ("new", id(follow), n)
            if at is None:
                new = (i for i, (known, x) in enumerate(out) if isinstance(known, tuple) and _twins(x, one))
                twin = next(new, None)
                if twin is not None:
                    known, there = out[twin]
                    if there != one:
                        mine_first = (one, there) if follow[0] is ours else (there, one)
                        out[twin] = known, self._clash(*mine_first, (*way, str(key_of(one))))
                    token = known
                else:
                    out.insert(_behind(out, before), (token, one))
            elif at in kept and at not in [known for known, _ in out]:
                out.insert(_behind(out, before), (at, kept[at]))
            before = token
        return tuple(one for _, one in out)


def _behind(out: list[tuple[object, Any]], before: object) -> int:
    return next((i + 1 for i, (known, _) in enumerate(out) if known == before), 0 if before is None else len(out))


def _twins(a: Any, b: Any) -> bool:
    """Whether two that are new on either side are the same thing."""
    if isinstance(a, msgspec.Struct):
        return type(a) is type(b) and key_of(a) is not None and key_of(a) == key_of(b)
    return bool(a == b or (isinstance(a, tuple) and isinstance(b, tuple) and a[:1] == b[:1]))


def _answers(base: Sequence[Any], new: Sequence[Any]) -> dict[int, int]:
    """The place in ``new`` of each of ``base`` that is there."""
    if any(isinstance(one, msgspec.Struct) for one in (*base, *new)):
        return {a: b for a, b in pairs(base, new) if a is not None and b is not None}
    key: Callable[[Any], Any] = lambda one: one[0] if isinstance(one, tuple) else one  # noqa: E731
    there = {key(one): n for n, one in enumerate(new)}
    return {n: there[key(one)] for n, one in enumerate(base) if key(one) in there}


def _listed(rows: Sequence[Any]) -> bool:
    """Whether it is a list, and not one value of several numbers."""
    if not rows:
        return True
    if all(isinstance(one, msgspec.Struct) for one in rows):
        return True
    if all(isinstance(one, str) for one in rows):
        return len(set(rows)) == len(rows)
    return all(isinstance(one, tuple) and one and isinstance(one[0], str) for one in rows)
