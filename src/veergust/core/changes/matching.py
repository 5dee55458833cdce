"""What of one list answers to what of another: by identity or name, else by what it is for, else by its place."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Callable, Hashable, Sequence
from typing import Any

import msgspec

from veergust.core.kinds import LASTING, identity
from veergust.core.model import (
    BlendPoint,
    Condition,
    Cut,
    DrillStep,
    Drive,
    Event,
    Exit,
    Expectation,
    FootSpan,
    Gate,
    Grip,
    Hold,
    JointShare,
    Mark,
    PoseKey,
    Reaction,
    Setting,
    Shield,
    SourceRig,
    Transition,
)

Pair = tuple[int | None, int | None]
"""The place of what was and of what is; None where there is none."""
Known = tuple[type, Hashable]
FOR: dict[type, Callable[[Any], Hashable]] = {
    Exit: lambda e: (e.kind, e.command, e.sequence, e.to_kind, e.to, e.section),
    Gate: lambda g: g.to,
    Shield: lambda s: s.kind,
    Hold: lambda h: h.setting,
    Setting: lambda s: s.setting,
    Drive: lambda d: d.kind,
    Event: lambda e: (e.kind, e.name, e.mount),
    Cut: lambda c: c.clip,
    Transition: lambda t: (t.start, t.to),
    BlendPoint: lambda p: p.clip,
    JointShare: lambda j: j.joint,
    Grip: lambda g: (g.hand, g.mount),
    Reaction: lambda r: (r.side, r.strength, r.situation, r.region, r.near, r.far, r.conditions),
    SourceRig: lambda s: s.fingerprint,
    Mark: lambda m: m.time,
    PoseKey: lambda k: k.time,
    FootSpan: lambda f: (f.joint, f.start),
    DrillStep: lambda s: (s.tick, s.fighter, s.command, s.action, s.axis, s.press),
    Expectation: lambda e: (e.fighter, e.action, e.contact, e.victim, e.event, e.measure, e.locomotion),
    Condition: lambda c: (c.test, c.name, c.op),
}
"""What those without a name are for."""


def key_of(one: Any) -> Hashable:
    """What one is known by; None where it is known by its place alone."""
    if isinstance(one, LASTING):
        return identity(one)
    if type(one) in FOR:
        return FOR[type(one)](one)
    for field in ("name", "state", "tick"):
        if isinstance(value := getattr(one, field, None), str | int) and value != "":
            return value
    return None


def nameless(one: Any) -> Any:
    """One without what it is called."""
    fields = {f: "" for f in ("name", "identity") if hasattr(one, f)}
    return msgspec.structs.replace(one, **fields) if fields else one


def pairs(old: Sequence[Any], new: Sequence[Any]) -> list[Pair]:
    """What answers to what, by its places, in the order of ``new``, with what is gone at its end."""
    left, right = dict.fromkeys(range(len(old))), dict.fromkeys(range(len(new)))
    found: dict[int, int] = {}
    mine, theirs = ([(type(one), key_of(one)) for one in rows] for rows in (old, new))
    many = {key for keys in (mine, theirs) for key, count in Counter(keys).items() if count > 1}

    def take(like: Callable[[Any, Known], Hashable], of: Callable[[Any, Known], bool]) -> None:
        there: dict[Hashable, list[int]] = defaultdict(list)
        for at in left:
            if of(old[at], mine[at]):
                there[like(old[at], mine[at])].append(at)
        for at in list(right):
            rows = there.get(like(new[at], theirs[at])) if there and of(new[at], theirs[at]) else None
            if rows:
                found[at] = rows.pop(0)
                del right[at], left[found[at]]

    take(lambda one, key: (key, _mark(one)), lambda _, key: key in many)
    take(lambda _, key: key, lambda _, key: key[1] is not None)
    take(lambda one, key: (key[0], _mark(nameless(one))), lambda *_: True)
    take(lambda _, key: key[0], lambda one, key: key[0] in FOR or key[1] is None)
    return [(found.get(at), at) for at in range(len(new))] + [(at, None) for at in left]


def reordered(paired: Sequence[Pair]) -> bool:
    """Whether what is in both lists stands in another order."""
    was = [a for a, b in paired if a is not None and b is not None]
    return was != sorted(was)


def _mark(one: Any) -> bytes:
    """All that one is."""
    return msgspec.json.encode(one)
