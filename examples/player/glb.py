"""Poses out of a GLB: the rotation and the place of every joint on every key of its animations."""

from __future__ import annotations

import json
from array import array
from struct import unpack_from
from sys import byteorder
from typing import Any

from player.axes import Axes
from player.turns import Turn, Vector, normal

WIDE = {"SCALAR": 1, "VEC3": 3, "VEC4": 4}


class Pose:
    """Turns and places of joints, each in what it hangs on."""

    __slots__ = ("places", "turns")

    def __init__(self, turns: list[Turn], places: list[Vector]) -> None:
        self.turns, self.places = turns, places


def read_poses(data: bytes, rest: Pose, index: dict[str, int], axes: Axes) -> dict[str, list[Pose]]:
    """The poses of each animation of a file, by its name; what is not keyed rests."""
    (length,) = unpack_from("<I", data, 12)
    document = json.loads(data[20 : 20 + length])
    buffer = data[28 + length :]
    joints = [index[node["name"]] if node.get("name") in index else -1 for node in document["nodes"]]
    out = {}
    for animation in document["animations"]:
        keyed: dict[tuple[int, str], list[Any]] = {}
        for channel in animation["channels"]:
            target = channel["target"]
            rows = _rows(document, buffer, animation["samplers"][channel["sampler"]]["output"])
            keyed[joints[target["node"]], target["path"]] = rows
        count = max(len(rows) for rows in keyed.values())
        turns = [[_key(keyed, (j, "rotation"), n) for j in range(len(index))] for n in range(count)]
        places = [[_key(keyed, (j, "translation"), n) for j in range(len(index))] for n in range(count)]
        out[animation["name"]] = [
            Pose(
                [rest.turns[j] if q is None else normal(axes.turn(q)) for j, q in enumerate(turns[n])],
                [rest.places[j] if v is None else axes.place(v) for j, v in enumerate(places[n])],
            )
            for n in range(count)
        ]
    return out


def _key(keyed: dict[tuple[int, str], list[Any]], what: tuple[int, str], n: int) -> Any:
    rows = keyed.get(what)
    return None if rows is None else rows[min(n, len(rows) - 1)]


def _rows(document: dict[str, Any], buffer: bytes, at: int) -> list[Any]:
    """An accessor of floats, row by row."""
    accessor = document["accessors"][at]
    view = document["bufferViews"][accessor["bufferView"]]
    wide = WIDE[accessor["type"]]
    start = view.get("byteOffset", 0) + accessor.get("byteOffset", 0)
    values = array("f", buffer[start : start + 4 * wide * accessor["count"]])
    if byteorder == "big":
        values.byteswap()
    return [tuple(values[n : n + wide]) for n in range(0, len(values), wide)]
