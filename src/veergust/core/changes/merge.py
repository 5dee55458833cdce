"""Two states of a project that come from one: what each changed, in the animator's words, and both put together.

A project is taken apart into parts that are changed one by one: each action, clip, state, transition, fighter … by
its name, and the fields that are no list. A part that only one side changed is that side's; one that both changed is
put together field by field and span by span (``threeway``). Where both changed the same otherwise, that is a
difference, to be settled part by part.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import cache
from typing import Any

import msgspec
from msgspec.structs import replace

from veergust.core.changes.renames import alike
from veergust.core.changes.threeway import Side, ThreeWay
from veergust.core.model import Project
from veergust.core.wording import listed

Key = tuple[str, ...]
"""Where a part lies: the fields that lead to it and, in a list, its name there."""
_NAMED: dict[Key, tuple[str, Callable[[Any], str]]] = {
    ("actions",): ("action", lambda a: str(a.name)),
    ("clips",): ("clip", lambda c: str(c.name)),
    ("locomotion", "states"): ("state", lambda s: str(s.name)),
    ("locomotion", "groups"): ("group", lambda g: str(g.name)),
    ("locomotion", "parameters"): ("parameter", lambda p: str(p.name)),
    ("locomotion", "transitions"): ("transition", lambda t: f"{t.start} → {t.to}"),
    ("layers",): ("layer", lambda v: str(v.name)),
    ("masks",): ("mask", lambda m: str(m.name)),
    ("commands",): ("command", lambda c: str(c.name)),
    ("thrown",): ("thrown thing", lambda t: str(t.name)),
    ("pools",): ("pool", lambda p: str(p.name)),
    ("drills",): ("drill", lambda d: str(d.name)),
    ("takes",): ("take", lambda t: str(t.name)),
    ("stages",): ("stage", lambda s: str(s.name)),
    ("sources",): ("mapping of the skeleton", lambda s: str(s.name or s.fingerprint)),
    ("stage", "fighters"): ("fighter", lambda f: str(f.name)),
    ("stage", "posts"): ("post", lambda p: str(p.name)),
}
"""Lists whose entries are parts of their own: what one is called, and its name."""
_INNER = ("locomotion", "stage")
_all_of = cache(msgspec.structs.fields)


@dataclass(frozen=True)
class Difference:
    """A part that both sides changed, each its own way; None where a side has removed it."""

    key: Key
    ours: Any
    theirs: Any
    clashes: tuple[tuple[str, ...], ...] = ()
    """Where in it both changed the same; ``ours`` and ``theirs`` are alike but for that. None: all of it."""

    @property
    def says(self) -> str:
        """What it is, in the animator's words, and where in it."""
        inside = [" › ".join(step.replace("_", " ") for step in way) for way in self.clashes if way]
        return f"{in_words(self.key)} ({listed(inside, 3)})" if inside else in_words(self.key)

    def side(self, side: Side) -> str:
        """What a side did to it."""
        return "removed" if (self.ours if side == "ours" else self.theirs) is None else "changed"


@dataclass(frozen=True)
class Merged:
    """Both sides put together, what came from theirs, and what is still to be settled (ours, until it is)."""

    project: Project
    taken: tuple[str, ...]
    differences: tuple[Difference, ...]


def merge(base: Project, ours: Project, theirs: Project) -> Merged:
    """What ours and theirs made of ``base``, together. What either called otherwise is called so in all."""
    base, ours, theirs = alike(base, ours, theirs)
    a, b, c = parts_of(base), parts_of(ours), parts_of(theirs)
    out: dict[Key, Any] = {}
    taken: list[str] = []
    differences: list[Difference] = []
    for key in dict.fromkeys((*b, *c, *a)):
        old, mine, other = a.get(key), b.get(key), c.get(key)
        if mine == old and other != old:
            out[key] = other
            taken.append(in_words(key))
        else:
            out[key] = mine
            if mine != other and other != old:
                one, clash = _together(key, old, mine, other)
                out[key] = one
                if clash is not None:
                    differences.append(clash)
                else:
                    taken.append(in_words(key))
    return Merged(put_together(out, base, ours, theirs), tuple(taken), tuple(differences))


def _together(key: Key, old: Any, mine: Any, other: Any) -> tuple[Any, Difference | None]:
    """What both made of a part, ours where that cannot be both; and what is to be settled of it."""
    if mine is None or other is None:
        return mine, Difference(key, mine, other)
    ours, theirs = ThreeWay("ours"), ThreeWay("theirs")
    made, else_ = ours.of(old, mine, other), theirs.of(old, mine, other)
    return made, Difference(key, made, else_, tuple(ours.clashes)) if ours.clashes else None


def settle(merged: Merged, sides: Mapping[Key, Side], theirs: Project) -> Project:
    """The merged project with each difference from the side chosen for it; ours where none is."""
    parts = parts_of(merged.project)
    for difference in merged.differences:
        if sides.get(difference.key) == "theirs":
            parts[difference.key] = difference.theirs
    return put_together(parts, merged.project, merged.project, theirs)


def in_words(key: Key) -> str:
    kind = _NAMED.get(key[:-1])
    if kind is not None:
        return f"the {kind[0]} {key[-1]}"
    name = key[-1].replace("_", " ")
    in_files = {field.name: field.encode_name for field in _all_of(Project)}
    return f"{name} of the {in_files[key[0]]}" if len(key) > 1 else f"the {name}"


def parts_of(project: Project) -> dict[Key, Any]:
    out: dict[Key, Any] = {}
    for key, value in _fields(project):
        if key in _NAMED:
            for row in value:
                out[_free(out, (*key, _NAMED[key][1](row)))] = row
        else:
            out[key] = value
    return out


def _free(out: Mapping[Key, Any], key: Key) -> Key:
    n, free = 2, key
    while free in out:
        n, free = n + 1, (*key[:-1], f"{key[-1]} ({n})")
    return free


def _fields(project: Project) -> list[tuple[Key, Any]]:
    rows: list[tuple[Key, Any]] = []
    for field in _all_of(type(project)):
        value = getattr(project, field.name)
        if field.name in _INNER:
            rows += [((field.name, inner.name), getattr(value, inner.name)) for inner in _all_of(value.__class__)]
        else:
            rows.append(((field.name,), value))
    return rows


def put_together(parts: Mapping[Key, Any], base: Project, ours: Project, theirs: Project) -> Project:
    """The project of parts; lists are in the order of the side that changed it, ours if both did."""
    orders = [{k: _keys(v) for k, v in _rows(p).items()} for p in (base, ours, theirs)]
    values: dict[Key, Any] = {}
    for key, _ in _fields(ours):
        if key not in _NAMED:
            values[key] = parts[key]
            continue
        was, mine, other = (order[key] for order in orders)
        here = [k for k in _woven(mine, other, was) if parts.get((*key, k)) is not None]
        values[key] = tuple(parts[*key, k] for k in here)
    inner = {name: {k[1]: v for k, v in values.items() if len(k) > 1 and k[0] == name} for name in _INNER}
    top = {k[0]: v for k, v in values.items() if len(k) == 1}
    return replace(
        ours,
        **top,
        locomotion=replace(ours.locomotion, **inner["locomotion"]),
        stage=replace(ours.stage, **inner["stage"]),
    )


def _rows(project: Project) -> dict[Key, dict[Key, Any]]:
    parts = parts_of(project)
    return {key: {k: v for k, v in parts.items() if k[:-1] == key} for key in _NAMED}


def _keys(rows: Mapping[Key, Any]) -> list[str]:
    return [key[-1] for key in rows]


def _woven(ours: Sequence[str], theirs: Sequence[str], base: Sequence[str]) -> list[str]:
    """The names of both lists: in the order of theirs where ours kept the old one, each new one after the name
    before it."""
    lead, other = (theirs, ours) if list(ours) == list(base) else (ours, theirs)
    out = list(lead)
    for i, name in enumerate(other):
        if name not in out:
            before = next((n for n in reversed(other[:i]) if n in out), None)
            out.insert(out.index(before) + 1 if before is not None else 0, name)
    return out
