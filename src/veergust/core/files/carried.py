"""Motions kept as they were bound to a figure, in the user's cache folder, so that opening a project with captures does
not carry them over again.

What is kept is found by the bytes of the file, the figure's rest pose, the mapping, and the version of what carries it;
whatever of that is another, it is worked out anew. What cannot be kept or read is done without.
"""

from __future__ import annotations

import contextlib
import hashlib
import io
import json
import os
from collections.abc import Mapping
from pathlib import Path
from typing import Any, cast

import msgspec
import numpy as np
import platformdirs
from msgspec.structs import astuple

from veergust.core.model import Rig, SourceRig
from veergust.core.motion import Interpolation, Motion, Pose, Skeleton, Track

VERSION = 2
"""Of the way motions are carried over; raised with every change of what comes out."""
MOST_BYTES = 2 << 30
"""So much is kept; the oldest goes first."""
SMALL = 1 << 20
"""A file of the figure's own skeleton is kept when it is larger than this; smaller ones are read as fast."""


def folder() -> Path:
    """Where they are kept."""
    return platformdirs.user_cache_path("veergust") / "carried"


def key_of(files: Mapping[str, bytes], figure: Skeleton, rig: Rig, mapping: SourceRig | None) -> str:
    """What the motions of a file (and those it names) are kept under, for a figure and a mapping."""
    out = hashlib.sha256()
    for name in sorted(files):
        out.update(f"{len(name)} {len(files[name])} ".encode())
        out.update(files[name])
    # As plain values: what is left out of a file because it is the default must not make a difference.
    answer = astuple(mapping) if mapping is not None else None
    made_from = (VERSION, figure.names, figure.parents, rig.unit, rig.turn, answer)
    out.update(msgspec.json.encode(made_from))
    out.update(figure.rest_rotation.tobytes() + figure.rest_translation.tobytes())
    return out.hexdigest()[:40]


def keep(key: str, motions: tuple[Motion, ...], left_out: tuple[str, ...], foreign: bool) -> None:
    """Keep bound motions."""
    arrays: dict[str, Any] = {}
    names: dict[int, str] = {}

    def put(values: Any) -> str:
        name = names.setdefault(id(values), f"a{len(arrays)}")
        arrays[name] = values
        return name

    head = {
        "left_out": left_out,
        "foreign": foreign,
        "motions": [
            {
                "name": m.name,
                "seconds": m.seconds,
                "fps": m.fps,
                "tracks": [[t.joint, t.path, t.interpolation, put(t.times), put(t.values)] for t in m.tracks],
                "rest": [put(m.rest.rotation), put(m.rest.translation)] if m.rest is not None else None,
            }
            for m in motions
        ],
    }
    out = io.BytesIO()
    np.savez(out, head=np.frombuffer(json.dumps(head).encode(), np.uint8), **arrays)
    with contextlib.suppress(OSError):
        place = folder()
        place.mkdir(parents=True, exist_ok=True)
        draft = place / f".{key}.{os.getpid()}"
        try:
            draft.write_bytes(out.getbuffer())
            draft.replace(place / f"{key}.npz")
        finally:
            draft.unlink(missing_ok=True)
        _make_room(place)


def find(key: str) -> tuple[tuple[Motion, ...], tuple[str, ...], bool] | None:
    """Motions, what was left out and whether the skeleton is a foreign one; None when they are not kept."""
    path = folder() / f"{key}.npz"
    try:
        with np.load(path, allow_pickle=False) as kept:
            head = json.loads(bytes(kept["head"]))
            arrays = {name: kept[name] for name in kept.files if name != "head"}
        with contextlib.suppress(OSError):
            os.utime(path)
        return tuple(_motion(m, arrays) for m in head["motions"]), tuple(head["left_out"]), bool(head["foreign"])
    except Exception:  # noqa: BLE001 - a cache that is damaged in whatever way is none
        return None


def _motion(head: dict[str, Any], arrays: dict[str, Any]) -> Motion:
    tracks = tuple(
        Track(joint, path, cast(Interpolation, kind), arrays[times], arrays[values])
        for joint, path, kind, times, values in head["tracks"]
    )
    rest = Pose(arrays[head["rest"][0]], arrays[head["rest"][1]]) if head["rest"] else None
    return Motion(head["name"], head["seconds"], head["fps"], tracks, rest)


def _make_room(place: Path) -> None:
    found = sorted((p.stat().st_mtime, p.stat().st_size, p) for p in place.glob("*.npz"))
    over = sum(size for _, size, _ in found) - MOST_BYTES
    for _, size, path in found:
        if over <= 0:
            return
        path.unlink(missing_ok=True)
        over -= size
