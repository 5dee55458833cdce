"""Changes in the animator's words: what is called how, what a field is, and how its values are written."""

from __future__ import annotations

from inspect import get_annotations
from typing import Any

import msgspec

from veergust.core.changes.walking import FieldChange, WayStep
from veergust.core.kinds import SPANS, kind_of
from veergust.core.model import (
    Action,
    Condition,
    Cut,
    DrillStep,
    Exit,
    Expectation,
    Floor,
    Gate,
    Hitbox,
    HitboxKey,
    PoolItem,
    Project,
    Reaction,
    Setting,
    Transition,
)

SPAN_TYPES = {kind.struct for kind in SPANS.values()}
EDGES = {
    ("strikes", "start"): "opens",
    ("strikes", "end"): "closes",
    ("events", "tick"): "goes off on",
    "start": "from",
    "end": "until",
}
"""What the edges of spans are called; those of most kinds alike."""
LABELS = {
    "locomotion": "locomotion",
    "blend_in": "fades in over",
    "blend_out": "fades out over",
    "then": "goes on to",
    "start": "start",
    "end": "out",
    "stun": "stun",
    "over": "must hold over",
    "of": "made of",
    "rig": "body",
    "known_events": "events there are",
}
UNITS = {"Ticks": "f", "Frame": "f", "Seconds": "s", "Metres": "m", "Size": "m", "Degrees": "°", "Hertz": "Hz"}
"""Units by the names of the model's types."""
ONE = {
    "actions": "action", "clips": "clip", "states": "state", "groups": "group", "transitions": "transition",
    "parameters": "parameter", "layers": "layer", "masks": "mask", "commands": "command", "pools": "pool",
    "thrown": "thrown thing", "drills": "drill", "takes": "take", "stages": "stage", "fighters": "fighter",
    "posts": "post", "floors": "floor", "reactions": "reaction", "sections": "section", "cuts": "cut",
    "boxes": "hitbox", "keys": "key", "kept": "version", "mounts": "mount", "hurtboxes": "hurtbox",
    "regions": "region", "props": "prop", "sources": "mapping", "items": "choice", "steps": "input",
    "expect": "expectation", "poses": "pose", "marks": "mark", "contacts": "foot on the floor", "scope": "rule",
    "conditions": "condition", "points": "point", "grips": "grip", "came": "line", "blend": "clip of the blend",
    "runs": "outcome", "choices": "choice", "gates": "gate", "joints": "joint", "things": "thing",
}  # fmt: skip
"""What one of a list is called."""


def title(step: WayStep) -> str:
    """What a step of the way to a change is called."""
    one = step.one
    if isinstance(one, str):
        return one
    if type(one) in SPAN_TYPES:
        return span_title(one)
    named = _TITLES.get(type(one))
    if named is not None:
        return str(named(one))
    name = getattr(one, "name", "")
    if name:
        return str(name)
    return ONE.get(step.field, label(step.holder, step.field))


def span_title(span: Any) -> str:
    """What a span is called in a sentence."""
    if isinstance(span, Exit):
        return f"{_pressed(span)} may lead to {span.to or 'locomotion'}"
    if isinstance(span, Gate):
        return f"gate to {span.to}"
    words, one = kind_of(span).title(span), kind_of(span).one
    return words[:1].lower() + words[1:] if words.lower().startswith(one) else words


def _pressed(span: Exit) -> str:
    return " ".join(span.sequence) or span.command or span.kind


_TITLES: dict[type, Any] = {
    Cut: lambda c: f"cut of {c.clip}",
    Transition: lambda t: f"{'anywhere' if t.start == '*' else t.start} → {t.to}",
    Hitbox: lambda b: b.name or f"hitbox on {b.mount or 'the body'}",
    HitboxKey: lambda k: f"key on {k.tick}",
    Reaction: lambda r: " ".join(
        ["reaction", "to", *(w for w in (r.situation, r.side, r.strength, r.region) if w != "any")]
    ).removesuffix(" to"),
    Condition: lambda c: " ".join(filter(None, (c.test.replace("_", " "), c.name))),
    Setting: lambda s: s.setting,
    DrillStep: lambda s: f"{s.command or s.action or s.axis or s.parameter} on {s.tick}",
    Expectation: lambda e: f"what is expected of {e.fighter} by {e.tick}",
    PoolItem: lambda i: i.name,
    Floor: lambda f: f.name,
}


def label(holder: Any, field: str) -> str:
    """What a field is called: as on its page where it has one."""
    if type(holder) in SPAN_TYPES:
        kind = kind_of(holder)
        edge = EDGES.get((kind.key, field)) or (EDGES.get(field) if hasattr(holder, "start") else None)
        if edge:
            return edge
        found = next((f for f in kind.fields if f.name == field), None)
        if found is not None:
            return found.label.lower()
    if isinstance(holder, Cut) and field in ("start", "end"):
        return {"start": "in", "end": "out"}[field]
    if isinstance(holder, Action) and field == "start":
        return "start rule"
    return LABELS.get(field, field.replace("_", " "))


def unit(holder: Any, field: str) -> str:
    """The unit of a field; nothing where it has none."""
    if type(holder) in SPAN_TYPES:
        found = next((f for f in kind_of(holder).fields if f.name == field), None)
        if found is not None and found.unit:
            return found.unit
    for base in type(holder).__mro__:
        said = str(get_annotations(base).get(field, "")).removesuffix(" | None")
        if said:
            return UNITS.get(said, "")
    return ""


def value(one: Any) -> str:
    """A value as it is written."""
    if one is None or one == "" or one == ():
        return "–"
    if isinstance(one, bool):
        return "yes" if one else "no"
    if isinstance(one, float):
        return f"{one:.4g}"
    if isinstance(one, tuple):
        return ", ".join(value(part) for part in one) if len(one) <= 6 else f"{len(one)} of them"
    if isinstance(one, msgspec.Struct):
        return title(WayStep(None, "", one, one))
    return str(one)


def sentence(change: FieldChange) -> str:
    """What became of a field or a thing, without the action, clip … that it is of."""
    way = own_way(change)
    subject = title(way[-1]) if len(way) > 1 and not _plain(change) else ""
    if isinstance(change.holder, Exit) and change.field == "to":
        return f"{_pressed(change.holder)} leads to {value(change.old)} → {value(change.new)}"
    if change.kind in ("added", "removed"):
        what = title(way[-1])
        one = ONE.get(change.field, SPANS[change.field].one if change.field in SPANS else "")
        words = f"{one} {what}" if one and one not in what.lower() and "may lead" not in what else what
        if len(way) == 1:
            return "new" if change.kind == "added" else "removed"
        return f"new: {words}" if change.kind == "added" else f"{words} is gone"
    if change.kind == "renamed":
        return f"renamed {value(change.old)} → {value(change.new)}"
    if change.kind == "moved":
        return f"{subject} {change.field} in another order".strip()
    what, each = label(change.holder, change.field), unit(change.holder, change.field)
    if isinstance(change.old, tuple) and isinstance(change.new, tuple) and _words(change.old) and _words(change.new):
        gone, come = ([w for w in a if w not in b] for a, b in ((change.old, change.new), (change.new, change.old)))
        if gone or come:
            return " ".join(filter(None, (subject, what, *(f"−{w}" for w in gone), *(f"+{w}" for w in come))))
    ends = " f" if each == "f" and what not in EDGES.values() else f" {each}" if each not in ("", "f") else ""
    return " ".join(filter(None, (subject, what, f"{value(change.old)} → {value(change.new)}{ends}")))


def _plain(change: FieldChange) -> bool:
    """Whether the way ends in the thing that the whole sentence is about."""
    return isinstance(change.way[-1].one, str) and change.way[-1].one == ""


def _words(values: tuple[Any, ...]) -> bool:
    return all(isinstance(v, str) for v in values)


def own_way(change: FieldChange) -> tuple[WayStep, ...]:
    """The way to a change from the thing that it is of: a state, and not locomotion; a fighter, and not the stage."""
    way = change.way
    shown = len(way) > 1 and way[0].field in ("locomotion", "stage") and way[1].field in ONE
    return way[1:] if shown else way


def where(change: FieldChange) -> tuple[str, ...]:
    """The way to a change in words, from what of the project it is of."""
    way = own_way(change)
    steps = [title(step) for step in way]
    if not steps:
        return ("project",)
    first = way[0]
    if isinstance(first.holder, Project) and not isinstance(first.one, msgspec.Struct):
        return (label(first.holder, first.field), *steps)
    return tuple(steps)
