"""JSON Schemas (2020-12) of the documents of an export, from the project's own types and what is made of them."""

from __future__ import annotations

from functools import cache
from typing import Any

import msgspec

from veergust.core.export.documents import to_json
from veergust.core.export.manifest import Manifest
from veergust.core.export.plain import OURS
from veergust.core.model import (
    Action,
    Command,
    Drive,
    Event,
    Exit,
    Fighter,
    Gate,
    Grip,
    Hold,
    Layer,
    Locomotion,
    Pool,
    Reaction,
    Region,
    Scaling,
    Shield,
    State,
    Strike,
    Thrown,
)  # fmt: skip

DRAFT = "https://json-schema.org/draft/2020-12/schema"
NUMBER: dict[str, Any] = {"type": "number"}
WORD: dict[str, Any] = {"type": "string"}
TICK: dict[str, Any] = {"type": "integer"}
TRUTH: dict[str, Any] = {"type": "boolean"}
PLACE: dict[str, Any] = {"type": "array", "items": NUMBER, "minItems": 3, "maxItems": 3}
ROWS: dict[str, Any] = {"type": "array", "items": PLACE, "minItems": 3, "maxItems": 3}
QUAT: dict[str, Any] = {"type": "array", "items": NUMBER, "minItems": 4, "maxItems": 4}
FRAME: dict[str, Any] = {"type": "array", "items": QUAT, "minItems": 4, "maxItems": 4}
WORDS: dict[str, Any] = {"type": "array", "items": WORD}


def listed(items: dict[str, Any]) -> dict[str, Any]:
    """A list of them."""
    return {"type": "array", "items": items}


def thing(**properties: dict[str, Any]) -> dict[str, Any]:
    """An object that has just these fields; ``from_`` is ``from``."""
    made = {name.rstrip("_"): schema for name, schema in properties.items()}
    return {"type": "object", "properties": made, "required": list(made), "additionalProperties": False}


def schemas(drawn: bool = False) -> dict[str, bytes]:
    """The schema of each document, by its path; of the sheets where the figure is ``drawn``."""
    return dict(_written(drawn))


@cache
def _written(drawn: bool) -> tuple[tuple[str, bytes], ...]:
    """They follow from the program's own types, and take a quarter of a second to work out."""
    wanted = ((name, document) for name, document in _documents().items() if drawn or name != "sheets")
    made = {name: _schema(name, document) for name, document in wanted}
    made["manifest"] = msgspec.json.schema(Manifest) | {"$schema": DRAFT, "title": "manifest.json"}
    return tuple((f"schemas/{name}.schema.json", to_json(document)) for name, document in made.items())


KINDS = (
    Action, Command, Drive, Event, Exit, Fighter, Gate, Grip, Hold, Layer, Locomotion, Pool, Reaction, Region, Scaling,
    Shield, State, Strike, Thrown,
)  # fmt: skip


@cache
def _defined() -> dict[str, Any]:
    """The schema of every kind that is handed over, and of what they are of, by name."""
    return msgspec.json.schema_components(KINDS, ref_template="#/$defs/{name}")[1]


def _schema(name: str, document: dict[str, Any]) -> dict[str, Any]:
    used: dict[str, Any] = {}
    todo = [document]
    while todo:
        for ref in _refs(todo.pop()):
            if ref not in used:
                used[ref] = _whole(_defined()[ref])
                todo.append(used[ref])
    return {"$schema": DRAFT, "title": f"{name}.json", **document, "$defs": dict(sorted(used.items()))}


def _refs(value: Any) -> list[str]:
    if isinstance(value, dict):
        own = [value["$ref"].rpartition("/")[2]] if isinstance(value.get("$ref"), str) else []
        return own + [ref for part in value.values() for ref in _refs(part)]
    return [ref for part in value for ref in _refs(part)] if isinstance(value, list) else []


def _whole(schema: dict[str, Any]) -> dict[str, Any]:
    """A type's schema as it is handed over: with every field, and without those that only editing needs."""
    if "properties" not in schema:
        return schema
    properties = {name: _unbound(part) for name, part in schema["properties"].items() if name not in OURS}
    return {**schema, "properties": properties, "required": list(properties)}


def _unbound(part: Any) -> Any:
    """A type without what its numbers are by default and how large they may be with us, in metres."""
    if isinstance(part, dict):
        return {k: _unbound(v) for k, v in part.items() if k not in ("default", "minimum", "maximum")}
    return [_unbound(one) for one in part] if isinstance(part, list) else part


def _of(kind: type, **other: dict[str, Any]) -> dict[str, Any]:
    """A type's fields with some of them otherwise, or more of them."""
    own = _whole(_defined()[kind.__name__])
    properties = own["properties"] | other
    return {"type": "object", "properties": properties, "required": list(properties), "additionalProperties": False}


def _or_null(schema: dict[str, Any]) -> dict[str, Any]:
    return {"anyOf": [schema, {"type": "null"}]}


def _ref(kind: type) -> dict[str, Any]:
    return {"$ref": f"#/$defs/{kind.__name__}"}


def _documents() -> dict[str, dict[str, Any]]:
    capsule: dict[str, dict[str, Any]] = {"from_": PLACE, "to": PLACE, "radius": NUMBER}
    box: dict[str, dict[str, Any]] = {"middle": PLACE, "half": PLACE, "turn": ROWS}
    at: dict[str, dict[str, Any]] = {"tick": TICK, "joint": WORD, "leaps": TRUTH}
    opened = thing(
        name=WORD, mount=WORD, shape={"enum": ["sphere", "capsule", "box"]}, share=NUMBER,
        ticks=listed({"anyOf": [thing(**at, **capsule), thing(**at, **box)]}),
    )  # fmt: skip
    push = thing(left=NUMBER, up=NUMBER, ahead=NUMBER)
    strike = _of(Strike, boxes=listed(opened), knockback=push)
    thrown = _of(Thrown, strike=strike)
    cut = thing(clip=WORD, first=TICK, ticks=TICK, from_=NUMBER, to=NUMBER, mirrored=TRUTH, swaps=TRUTH, climbs=TRUTH)
    section = thing(
        identity=WORD, name=WORD, ticks=TICK, then=WORD, posture=WORD, blend=TICK, cuts=listed(cut),
        drawings=listed({"type": "array", "items": TICK, "minItems": 3, "maxItems": 3}),
        travel=thing(place=listed(PLACE), turn=listed(NUMBER)), strikes=listed(strike), gates=listed(_ref(Gate)),
        exits=listed(_ref(Exit)), shields=listed(_ref(Shield)), holds=listed(_ref(Hold)), drives=listed(_ref(Drive)),
        events=listed(_of(Event, offset=PLACE)),
    )  # fmt: skip
    action = _of(Action, identity=WORD, file=WORD, sections=listed(section))
    for field in ("speed", "root"):
        del action["properties"][field]
    action["required"] = list(action["properties"])
    ground = thing(
        file=WORD, frames=TICK, seconds=NUMBER, pace=thing(left=NUMBER, ahead=NUMBER),
        beat=_or_null(thing(laps=TICK, half_steps=listed(NUMBER))),
    )  # fmt: skip
    clip = thing(
        identity=WORD, name=WORD, file=WORD, animation=WORD, ticks=TICK, loop=TRUTH, tags=WORDS, joints=TICK,
        ground=_or_null(ground),
    )  # fmt: skip
    joint = thing(name=WORD, parent={"type": ["string", "null"]}, other=WORD, turn=QUAT, place=PLACE)
    held = thing(joint=WORD, frame=FRAME)
    leg = thing(thigh=WORD, shin=WORD, foot=WORD, ball=WORD, upper=NUMBER, lower=NUMBER, ball_height=NUMBER)
    corners, ends = ({"type": "array", "items": TICK, "minItems": n, "maxItems": n} for n in (3, 2))
    mesh = _or_null(thing(triangles=listed(corners), rim=listed(ends), along=listed(NUMBER)))
    hurt: dict[str, dict[str, Any]] = {"name": WORD, "joint": WORD, "region": WORD, "postures": WORDS}
    hurtbox = {
        "anyOf": [
            thing(**hurt, shape={"const": "capsule"}, **capsule),
            thing(**hurt, shape={"const": "box"}, **box),
            thing(**hurt, shape={"const": "span"}, to_joint=WORD, deep=NUMBER),
        ]
    }
    pixels = {n: {"type": "array", "items": NUMBER, "minItems": n, "maxItems": n} for n in (2, 4)}
    cell = thing(
        at=pixels[2], size=pixels[2], feet=pixels[2], points={"type": "object", "additionalProperties": pixels[2]},
        boxes=listed(thing(kind={"const": "hurt"}, name=WORD, rect=pixels[4])),
    )  # fmt: skip
    sheet = thing(
        image=WORD, pixels_per_metre=NUMBER, looks={"enum": ["left", "right"]}, edges={"enum": ["crisp", "smooth"]},
        cells=listed(cell),
    )  # fmt: skip
    stage = thing(
        name=WORD,
        floors=listed(
            thing(
                name=WORD,
                corners={"type": "array", "items": PLACE, "minItems": 4, "maxItems": 4},
                goes=PLACE,
                takes={"type": "integer", "minimum": 1},
                rests={"type": "integer", "minimum": 0},
            )
        ),
        posts=listed(thing(name=WORD, position=PLACE, radius=NUMBER, height=NUMBER, health=NUMBER, falls=WORD)),
        fighters=listed(_of(Fighter, position=PLACE)),
        put_back_below=NUMBER,
    )
    weights = {"type": "object", "additionalProperties": NUMBER}
    return {
        "actions": thing(
            actions=listed(action), pools=listed(_ref(Pool)), thrown=listed(thrown)
        ),
        "clips": thing(clips=listed(clip)),
        "ground": _of(Locomotion, states=listed(_of(State, mesh=mesh))),
        "layers": thing(layers=listed(_of(Layer, joints=weights, aim_mesh=mesh)), grips=listed(_ref(Grip))),
        "commands": thing(rate=TICK, buffer=TICK, commands=listed(_ref(Command))),
        "figure": thing(
            root=WORD, hips=WORD, picture={"type": ["string", "null"]}, joints=listed(joint), feet=WORDS,
            legs=listed(leg),
            mounts=listed(thing(name=WORD, joint=WORD, frame=FRAME, other=held)), hurtboxes=listed(hurtbox),
            regions=listed(_ref(Region)), capsule=thing(radius=NUMBER, height=NUMBER),
        ),
        "sheets": thing(sheets=listed(sheet)),
        "stage": thing(stages=listed(stage)),
        "reactions": thing(reactions=listed(_of(Reaction, identity=WORD)), scaling=_ref(Scaling)),
    }  # fmt: skip
