"""Spans of every kind the model has, drawn by the types of their fields: a new kind, or a new field, is in them at once."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any, Literal, get_args, get_origin, get_type_hints

import msgspec
from hypothesis import strategies as st

from veergust.core.kinds.conditions import CONDITIONS
from veergust.core.kinds.spans import SPANS
from veergust.core.model import Condition, Event


def conditions(names: Mapping[str, Sequence[Any]]) -> st.SearchStrategy[Condition]:
    """One of every test there is, its name one of what such a test names."""

    def made(test: str, pick: int, op: Any, value: float) -> Condition:
        of = CONDITIONS[test].of
        there = names.get(of, ("",)) if of else ("",)
        return Condition(test=test, name=there[pick % len(there)], op=op, value=value)  # type: ignore[arg-type]

    ops = st.sampled_from(["<", "<=", "==", "!=", ">=", ">"])
    values = st.sampled_from([0.0, 0.5, 1.0, 3.0])
    return st.builds(made, st.sampled_from(sorted(CONDITIONS)), st.integers(0, 5), ops, values)


def numbers(hint: Any) -> list[Any]:
    """What the values of a hint may be that may also be none; nothing of one that has to have a value."""
    some = get_args(hint)
    return [get_args(one)[0] if hasattr(one, "__metadata__") else one for one in some] if type(None) in some else []


@st.composite
def any_span(draw: st.DrawFn, struct: type[Any], ticks: int, names: Mapping[str, Sequence[Any]]) -> Any:
    """A span of a kind within ``ticks``. ``names`` has, by field, what it may name or be; by what a condition names,
    that."""
    hints = get_type_hints(struct, include_extras=True)
    fields: dict[str, Any] = {}
    for field in msgspec.structs.fields(struct):
        hint, name = hints[field.name], field.name
        plain = get_args(hint)[0] if get_origin(hint) is not None and hasattr(hint, "__metadata__") else hint
        if name in names:
            fields[name] = draw(st.sampled_from(list(names[name])))
        elif name == "conditions":
            fields[name] = tuple(draw(st.lists(conditions(names), max_size=2)))
        elif get_origin(plain) is Literal:
            fields[name] = draw(st.sampled_from(get_args(plain)))
        elif plain is bool:
            fields[name] = draw(st.booleans())
        elif int in numbers(plain) and name not in ("start", "end", "tick"):
            fields[name] = draw(st.sampled_from([None, 0, 4, 25]))
        elif plain in (int, float) and name not in ("start", "end", "tick"):
            fields[name] = draw(st.sampled_from([plain(0), plain(1), plain(3), field.default]))
    if struct is Event:
        return struct(**fields, tick=draw(st.integers(0, ticks - 1)))
    start = draw(st.integers(0, ticks - 1))
    return struct(**fields, start=start, end=draw(st.integers(start + 1, ticks)))


@st.composite
def any_spans(
    draw: st.DrawFn, ticks: int, names: Mapping[str, Mapping[str, Sequence[Any]]]
) -> dict[str, tuple[Any, ...]]:
    """None, one or two spans of every kind, as fields of a section of ``ticks``; ``names`` by kind, and for all by an
    empty one."""
    out = {}
    for key, kind in SPANS.items():
        many = draw(st.sampled_from([0, 0, 1, 2]))
        own = {**names.get("", {}), **names.get(key, {})}
        out[key] = tuple(draw(any_span(kind.struct, ticks, own)) for _ in range(many))
    return out
