"""Two actions that meet, and exits as they are asked for."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from player.export import Export
from player.fighter import Playing

Json = dict[str, Any]


def meeting(export: Export, newer_layer: str, older_layer: str, way: str) -> str:
    """What becomes of two actions: the table under *Layers*."""
    newer, older = export.layers[newer_layer], export.layers[older_layer]
    if newer is older:
        if way != "pressed" or older.row["taken"] == "takes over":
            return "older ends"
        return "newer is refused" if older.row["taken"] == "refused" else "newer waits"
    if newer.place > older.place:
        if not newer.covers(older):
            return "both play"
        if way == "forced" or older.row["covered"] == "ends":
            return "older ends"
        return "older waits" if older.row["covered"] == "waits" else "both play"
    if older.row["under"] == "both play":
        return "both play"
    if older.row["under"] == "ends this" or way == "forced":
        return "older ends"
    return "newer waits" if way == "pressed" else "both play"


def shows(p: Playing, above: Sequence[Playing]) -> bool:
    """Whether it still shows: it plays, fades out, or is under the one that covers it while that one shows."""
    if any(not v.ended and v.age > v.blend for v in above if v.layer == p.layer):
        return False
    if not p.ended or not p.covered:
        return not p.ended or p.faded <= p.action.row["blend_out"]
    return any(v.serial == p.covered for v in above)


def asks_of(exit_: Json) -> list[str]:
    """The commands an exit asks for in turn; none for a break."""
    if exit_["kind"] == "break":
        return []
    return exit_["sequence"] or ([exit_["command"]] if exit_["command"] else [])


def met(exit_: Json, contact: str) -> bool:
    """Whether an exit's wish for a contact is met."""
    return exit_["contact"] in ("any", contact)
