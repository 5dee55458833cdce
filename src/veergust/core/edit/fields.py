"""What can be set on each kind of span, with unit, range and choices, and setting it on one or on several."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal

from msgspec.structs import replace

from veergust.core.edit.cuts import with_section
from veergust.core.edit.spans import Edit, SpanRef, action_of, span_of, title
from veergust.core.model import Event, Exit, Pin, Project
from veergust.core.trouble import Trouble

Widget = Literal["number", "choice", "text", "flag", "vector", "conditions", "list", "pairs"]
NOWHERE = "none"


@dataclass(frozen=True)
class Field:
    """One field of a span: its name in the model, its label, and how it is set.

    ``low`` and ``high`` bound numbers, ``whole`` ones have no fraction; ``of`` says where the choices of a choice
    come from, ``given`` lists them when they are always the same.
    """

    name: str
    label: str
    widget: Widget
    unit: str = ""
    low: float = 0.0
    high: float = 1e5
    step: float = 1.0
    whole: bool = False
    of: str = ""
    given: tuple[str, ...] = ()
    tip: str = ""


def _number(name: str, label: str, unit: str = "", high: float = 1e4, step: float = 1.0, **more: Any) -> Field:
    return Field(name, label, "number", unit, high=high, step=step, **more)


def _choice(name: str, label: str, of: str = "", given: tuple[str, ...] = (), tip: str = "") -> Field:
    return Field(name, label, "choice", of=of, given=given, tip=tip)


CONDITIONS = Field("conditions", "When", "conditions")
FIELDS: dict[str, tuple[Field, ...]] = {
    "strikes": (
        Field("name", "Name", "text"),
        _number("damage", "Damage", tip="Taken from health on a hit"),
        Field(
            "knockback", "Knockback", "vector", "m/s", -50, 50, 0.5, tip="To the side, up, and ahead of the attacker"
        ),
        _number("hit_stop", "Hit stop", "f", 60, whole=True, tip="Both time lines stand still so long"),
        _choice("guard", "Guard", given=("any", "high", "low", "none"), tip="Which guard stops it"),
        Field("strength", "Strength", "text", tip="What the reaction table looks up"),
        _number("poise", "Poise", tip="How much armour it breaks"),
        _number("repeat", "Again every", "f", 600, whole=True, tip="Touches one victim again; 0 is once an opening"),
    ),
    "exits": (
        _choice("kind", "Kind", given=("combo", "cancel", "break")),
        _choice("command", "Command", "commands", tip="What the player presses; a break has none"),
        Field("sequence", "In turn", "list", of="commands", tip="Several commands in turn, instead of the one"),
        _choice("to_kind", "Leads to", given=("action", "tag", "pool", "ground")),
        _choice("to", "Which", "targets"),
        _choice("section", "Begins with", "target sections", tip="A section of it, if not its usual first one"),
        _choice(
            "contact", "Contact", given=("any", "hit", "guarded", "none"), tip="What must have been touched so far"
        ),
        CONDITIONS,
        _number("blend", "Crossfade", "f", 120, whole=True),
        Field("priority", "Priority", "number", low=-100, high=100, whole=True, tip="The higher one is taken"),
        Field("early", "early presses count", "flag", tip="A press remembered from before fires on its first frame"),
    ),
    "gates": (
        _choice("to", "Leads to", "sections"),
        CONDITIONS,
        _number("blend", "Crossfade", "f", 120, whole=True, tip="0: as the first cut of where it leads says"),
    ),
    "shields": (
        _choice("kind", "Kind", given=("invulnerable", "armour", "guard")),
        _choice("height", "Guards", given=("any", "high", "low"), tip="Which strikes a guard stops"),
        _number("strength", "Strength", tip="How much poise armour takes before it breaks"),
        Field("hurtboxes", "Only over", "list", of="hurtboxes", tip="None chosen: the whole body"),
    ),
    "holds": (
        _choice("setting", "Setting", "settings"),
        Field("value", "Value", "number", low=-1e4, high=1e4, step=0.1, tip="0 takes it away"),
    ),
    "drives": (
        _choice("kind", "Kind", given=("root", "stick", "none", "ballistic"), tip="What moves the body"),
        Field("scale", "Multiplier", "number", "×", -10, 10, 0.1),
        _choice("turn", "Turns", given=("usual", "not", "stick", "target"), tip="What it turns the body to"),
        _number("turn_rate", "At most", "°/s", 3600, tip="How fast it turns with the stick or to the target"),
    ),
    "events": (
        _choice("kind", "Kind", given=("effect", "sound", "spawn", "message")),
        _choice("name", "Name", "events", tip="From the project's list; type a new one below"),
        _choice("mount", "Mount", "mounts"),
        Field("offset", "Offset", "vector", "m", -20, 20, 0.05),
        _choice("facing", "Faces", given=("body", "mount", "world")),
        Field("payload", "Payload", "pairs", tip="Handed to the game as it is"),
    ),
}
SETTINGS = ("turn", "gravity", "push", "guard")
"""Settings a hold may override: what play asks for (``play.move``, ``play.contact``)."""


def choices(project: Project, ref: SpanRef, field: Field) -> list[tuple[str, str]]:
    """(words, value) a choice offers."""
    if field.given:
        return [(v, v) for v in field.given]
    action = action_of(project, ref.action)
    span = span_of(project, ref)
    match field.of:
        case "commands":
            return [(NOWHERE, ""), *((c.name, c.name) for c in project.commands)]
        case "sections":
            own = [(s.name, s.name) for s in action.sections]
            return [*own, *((f"one of {p.name}", p.name) for p in project.pools)]
        case "hurtboxes":
            return [(h.name, h.name) for h in project.rig.hurtboxes]
        case "target sections":
            target = next((a for a in project.actions if a.name == getattr(span, "to", "")), None)
            named = target.sections if target is not None and getattr(span, "to_kind", "") == "action" else ()
            return [("first section", ""), *((s.name, s.name) for s in named)]
        case "mounts":
            return [("the body", ""), *((m.name, m.name) for m in project.rig.mounts)]
        case "settings":
            used = [h.setting for a in project.actions for s in a.sections for h in s.holds]
            return [(n, n) for n in dict.fromkeys((*SETTINGS, *used))]
        case "events":
            used = [e.name for a in project.actions for s in a.sections for e in s.events if e.name]
            return [(NOWHERE, ""), *((n, n) for n in dict.fromkeys((*project.known_events, *used)))]
        case "targets":
            kind = getattr(span, "to_kind", "action")
            if kind == "action":
                return [(a.name, a.name) for a in project.actions]
            if kind == "pool":
                return [(p.name, p.name) for p in project.pools]
            if kind == "tag":
                return [(t, t) for t in dict.fromkeys(t for a in project.actions for t in a.tags)]
            return [("locomotion", "")]
    return []


def shared(project: Project, refs: list[SpanRef], field: Field) -> tuple[Any, bool]:
    """The value of a field on the first span, and whether all of them have it."""
    values = [getattr(span_of(project, ref), field.name) for ref in refs]
    return values[0], all(v == values[0] for v in values)


def set_fields(project: Project, refs: list[SpanRef], **values: Any) -> Edit:
    """Fields set on one span or on several of a kind. Raises ``Trouble`` for a value out of its range."""
    if not refs:
        raise Trouble("nothing is selected", field="span", do="choose a span first")
    for field in FIELDS[refs[0].kind]:
        if field.name in values and field.widget == "number" and not field.low <= values[field.name] <= field.high:
            raise Trouble(
                f"{values[field.name]:g} is not between {field.low:g} and {field.high:g}",
                field=field.label.lower(),
                do="type another number",
            )
    names = []
    for ref in refs:
        span = span_of(project, ref)
        if span is None:
            continue
        names.append(title(span))
        changed = values
        if "to_kind" in values and values["to_kind"] != span.to_kind:
            probe = replace(span, to_kind=values["to_kind"])
            changed = {**values, "to": _first_target(project, ref, probe)}
        made = replace(span, **changed)
        if isinstance(made, Exit) and "section" not in changed and made.to != span.to:
            made = replace(made, section="")  # a section of the old target
        project = _with_span(project, ref, made)
        if isinstance(span, Event) and values.get("name") and values["name"] not in project.known_events:
            project = replace(project, known_events=(*project.known_events, values["name"]))
    who = names[0] if len(names) == 1 else f"{len(names)} {refs[0].kind}"
    said = ", ".join(_says(refs[0].kind, name, value) for name, value in values.items())
    return Edit(project, f"{who}: {said}")


def _first_target(project: Project, ref: SpanRef, probe: Any) -> str:
    kinds = {"action": [a.name for a in project.actions], "pool": [p.name for p in project.pools], "ground": [""],
             "tag": [t for a in project.actions for t in a.tags]}  # fmt: skip
    found = kinds[probe.to_kind]
    return found[0] if found else ""


def _with_span(project: Project, ref: SpanRef, span: Any) -> Project:
    section = action_of(project, ref.action).sections[ref.section]
    items = tuple(span if i == ref.index else s for i, s in enumerate(getattr(section, ref.kind)))
    return with_section(project, ref.action, ref.section, replace(section, **{ref.kind: items}))


def _says(kind: str, name: str, value: Any) -> str:
    field = next((f for f in FIELDS[kind] if f.name == name), None)
    label = field.label.lower() if field else name
    if isinstance(value, bool):
        return f"{label}: {'yes' if value else 'no'}"
    if isinstance(value, tuple):
        return label
    return f"{label} {value:g}" if isinstance(value, int | float) else f"{label} {value or NOWHERE}"


def turn_pin(project: Project, ref: SpanRef, edge: str) -> Edit:
    """An edge (``start``, ``end``; an event has one) pinned to the frame instead of the pose, or back."""
    span = span_of(project, ref)
    field = "pin" if isinstance(span, Event) else f"{edge}_pin"
    pin = getattr(span, field)
    to: Literal["pose", "frame"] = "frame" if pin.to == "pose" else "pose"
    verb = "fires" if isinstance(span, Event) else "opens" if edge == "start" else "closes"
    return Edit(_with_span(project, ref, replace(span, **{field: Pin(to=to)})), f"{title(span)}: {verb} by the {to}")
