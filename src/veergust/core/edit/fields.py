"""What can be set on each kind of span, with unit, range and choices, and setting it on one or on several."""

from __future__ import annotations

from typing import Any, Literal

from msgspec.structs import replace

from veergust.core.edit.spans import Edit, SpanRef, action_of, items_of, span_of, with_items
from veergust.core.kinds import NOWHERE, SOURCES, SPANS, Field, targets, title
from veergust.core.model import Event, Exit, Pin, Project
from veergust.core.trouble import Trouble


def choices(project: Project, ref: SpanRef, field: Field) -> list[tuple[str, str]]:
    """(words, value) a choice offers."""
    if field.given:
        return [(v, v) for v in field.given]
    action = action_of(project, ref.action)
    span = span_of(project, ref)
    return SOURCES[field.of](project, action, span)


def shared(project: Project, refs: list[SpanRef], field: Field) -> tuple[Any, bool]:
    """The value of a field on the first span, and whether all of them have it."""
    values = [getattr(span_of(project, ref), field.name) for ref in refs]
    return values[0], all(v == values[0] for v in values)


def set_fields(project: Project, refs: list[SpanRef], **values: Any) -> Edit:
    """Fields set on one span or on several of a kind. Raises ``Trouble`` for a value out of its range."""
    if not refs:
        raise Trouble("nothing is selected", field="span", do="choose a span first")
    for field in SPANS[refs[0].kind].fields:
        value: Any = values.get(field.name)
        if value is None and field.nothing:
            continue  # it has none of its own
        if field.name in values and field.widget == "number" and not field.low <= value <= field.high:
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
            changed = {**values, "to": _first_target(project, probe)}
        made = replace(span, **changed)
        if isinstance(made, Exit) and "section" not in changed and made.to != span.to:
            made = replace(made, section="")  # a section of the old target
        project = _with_span(project, ref, made)
        if isinstance(span, Event) and values.get("name") and values["name"] not in project.known_events:
            project = replace(project, known_events=(*project.known_events, values["name"]))
    who = names[0] if len(names) == 1 else f"{len(names)} {refs[0].kind}"
    said = ", ".join(_says(refs[0].kind, name, value) for name, value in values.items())
    return Edit(project, f"{who}: {said}")


def _first_target(project: Project, probe: Any) -> str:
    found = targets(project, probe.to_kind)
    return found[0][1] if found else ""


def _with_span(project: Project, ref: SpanRef, span: Any) -> Project:
    items = tuple(span if i == ref.index else s for i, s in enumerate(items_of(project, ref)))
    return with_items(project, ref, items)


def _says(kind: str, name: str, value: Any) -> str:
    field = next((f for f in SPANS[kind].fields if f.name == name), None)
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
