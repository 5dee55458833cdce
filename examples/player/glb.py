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
        turns, places = [[turn] for turn in rest.turns], [[place] for place in rest.places]
        count = 1
        for channel in animation["channels"]:
            target = channel["target"]
            rows = _rows(document, buffer, animation["samplers"][channel["sampler"]]["output"])
            count, joint = max(count, len(rows)), joints[target["node"]]
            if joint >= 0 and target["path"] == "rotation":
                turns[joint] = [normal(axes.turn(q)) for q in rows]
            elif joint >= 0 and target["path"] == "translation":
                places[joint] = [axes.place(v) for v in rows]
        out[animation["name"]] = [Pose(_keys(turns, n), _keys(places, n)) for n in range(count)]
    return out


def _keys(rows: list[list[Any]], n: int) -> list[Any]:
    """The key of a tick in each row; one that has fewer holds its last."""
    return [row[n] if n < len(row) else row[-1] for row in rows]


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
