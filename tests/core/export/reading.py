"""An export read with plain Python and SciPy, as a game would: nothing of the program is used."""

from __future__ import annotations

import json
import struct
from pathlib import Path
from typing import Any

import numpy as np
from scipy.spatial.transform import Rotation

SIZES = {"SCALAR": 1, "VEC3": 3, "VEC4": 4, "MAT4": 16}


def read_glb(data: bytes) -> tuple[dict[str, Any], bytes]:
    """The JSON and the buffer of a GLB."""
    (length,) = struct.unpack_from("<I", data, 12)
    return json.loads(data[20 : 20 + length]), data[28 + length :]


def rows(document: dict[str, Any], buffer: bytes, at: int) -> np.ndarray:
    """An accessor of floats."""
    accessor = document["accessors"][at]
    view = document["bufferViews"][accessor["bufferView"]]
    wide = SIZES[accessor["type"]]
    assert accessor["componentType"] == 5126
    found = np.frombuffer(buffer, "<f4", accessor["count"] * wide, view.get("byteOffset", 0))
    return found.reshape(-1, wide).astype(float)


def joints_over(path: Path, rate: float) -> tuple[dict[str, np.ndarray], int]:
    """Where every joint is in the world on each tick ``[N, 3]``, by name, and how many ticks there are."""
    document, buffer = read_glb(path.read_bytes())
    nodes = document["nodes"]
    (animation,) = document["animations"]
    keyed: dict[tuple[int, str], tuple[np.ndarray, np.ndarray]] = {}
    for channel in animation["channels"]:
        sampler = animation["samplers"][channel["sampler"]]
        keyed[channel["target"]["node"], channel["target"]["path"]] = (
            rows(document, buffer, sampler["input"])[:, 0],
            rows(document, buffer, sampler["output"]),
        )
    count = max(len(times) for times, _ in keyed.values())
    parent = {child: n for n, node in enumerate(nodes) for child in node.get("children", ())}

    def local(n: int) -> tuple[Rotation, np.ndarray]:
        out = []
        for path, usual in (("rotation", [0.0, 0, 0, 1]), ("translation", [0.0, 0, 0])):
            times, values = keyed.get((n, path), (np.zeros(1), np.array([nodes[n].get(path, usual)], dtype=float)))
            assert np.allclose(times, np.arange(len(times)) / rate, atol=1e-5)
            out.append(np.repeat(values, count, axis=0) if len(values) == 1 else values)
        return Rotation.from_quat(out[0]), out[1]

    world: dict[int, tuple[Rotation, np.ndarray]] = {}

    def placed(n: int) -> tuple[Rotation, np.ndarray]:
        if n not in world:
            turn, place = local(n)
            if n in parent:
                over_turn, over = placed(parent[n])
                world[n] = over_turn * turn, over + over_turn.apply(place)
            else:
                world[n] = turn, place
        return world[n]

    return {node["name"]: placed(n)[1] for n, node in enumerate(nodes) if "mesh" not in node}, count
