"""Who wins: what becomes of two actions, one that is to start and one that plays, by the layers they are on.

The whole table is in docs/semantics.md, written by its test (``tests/core/play/test_pairs.py``).
"""

from __future__ import annotations

from typing import Literal

from veergust.core.model import Action
from veergust.core.play.compiled.layering import CompiledLayer
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.state import EndKind, FighterState, Voice, end

Way = Literal["pressed", "exit", "forced"]
"""What starts the newer action: a start rule's press; an exit, or a locomotion state that runs it; or it is forced, by
a hit or by being asked for by name."""
Meeting = Literal["both play", "older ends", "older waits", "newer waits", "newer is refused"]


def meeting(newer: CompiledLayer, older: CompiledLayer, way: Way) -> Meeting:
    """What becomes of an action on the layer ``older`` and one that is to start on ``newer``."""
    if newer.place == older.place:
        return _on_one(older, way)
    if newer.place > older.place:
        return _above(newer, older, way)
    if older.layer.under == "both play":
        return "both play"
    if older.layer.under == "ends this" or way == "forced":
        return "older ends"
    return "newer waits" if way == "pressed" else "both play"


def _on_one(layer: CompiledLayer, way: Way) -> Meeting:
    if way != "pressed" or layer.layer.taken == "takes over":
        return "older ends"
    return "newer is refused" if layer.layer.taken == "refused" else "newer waits"


def _above(newer: CompiledLayer, older: CompiledLayer, way: Way) -> Meeting:
    if not newer.covers(older):
        return "both play"
    if way == "forced" or older.layer.covered == "ends":
        return "older ends"
    return "older waits" if older.layer.covered == "waits" else "both play"


def may_start(build: CompiledProject, fighter: FighterState, action: Action) -> Meeting:
    """What a press for an action meets among all that plays: whether it may start, waits or is refused. No action
    starts anew by its own command while it plays."""
    newer = build.layers.get(action.layer)
    if newer is None:
        return "newer is refused"
    met: list[Meeting] = []
    for voice in fighter.live():
        older = build.layers.get(voice.layer)
        if older is not None:
            itself = voice.compiled.action.name == action.name
            met.append("newer waits" if itself else meeting(newer, older, "pressed"))
    return next((m for m in met if m in ("newer is refused", "newer waits")), "both play")


def give_way(build: CompiledProject, fighter: FighterState, action: Action, way: Way, kind: EndKind) -> bool:
    """End what gives way to an action that starts now; whether anything did."""
    newer = build.layers.get(action.layer)
    ended = False
    for voice in fighter.live():
        older = build.layers.get(voice.layer)
        if voice.layer == action.layer or older is None or newer is None:
            gives = voice.layer == action.layer or way == "forced"
        else:
            gives = meeting(newer, older, way) == "older ends"
        if gives:
            end(fighter, voice, kind)
            ended = True
    return ended


def waits(build: CompiledProject, fighter: FighterState, voice: Voice) -> bool:
    """Whether an action waits, because one above that plays speaks for all its joints and its layer says so."""
    own = build.layers.get(voice.layer)
    if own is None or own.layer.covered != "waits":
        return False
    over = (build.layers.get(other.layer) for other in fighter.live())
    return any(layer is not None and layer.covers(own) for layer in over)
