"""What a running game is given of a project: the files of its export that are played, and what of them is otherwise."""

from __future__ import annotations

import base64
import time
from collections.abc import Mapping
from importlib.metadata import version
from typing import Any

import msgspec
import numpy as np

from veergust.core.export import MANIFEST, Axes, MadeBefore, documents, make_manifest, to_json
from veergust.core.files import digest
from veergust.core.play import CompiledProject
from veergust.core.study import Store, findings

MIDDLE = 0xC0
"""These bits of a byte tell whether a character of UTF-8 goes on with it: then they are 0x80."""


class Handing:
    """Makes the files of a project, each anew only when something of it is."""

    def __init__(self, axes: Axes | None = None) -> None:
        self.axes = axes or Axes()
        self._kept = MadeBefore()
        self._program = version("veergust")
        self._marks: dict[int, tuple[bytes, str]] = {}

    def files(self, build: CompiledProject) -> dict[str, bytes]:
        """The files that are played, by their paths, the manifest among them."""
        made = documents(build, self.axes, mesh=False, clips=False, kept=self._kept)
        # What is not made any more is forgotten, with its mark.
        self._marks = {id(data): there for data in made.values() if (there := self._marks.get(id(data))) is not None}
        manifest = make_manifest(build.project, self.axes, made, self._program, self.mark)
        return made | {MANIFEST: to_json(msgspec.to_builtins(manifest))}

    def mark(self, data: bytes) -> str:
        """The digest of a file, which is worked out once for each that is made."""
        there = self._marks.get(id(data))
        if there is None or there[0] is not data:
            there = self._marks[id(data)] = data, digest(data)
        return there[1]

    def marks(self, files: Mapping[str, bytes]) -> dict[str, str]:
        """The digest of each file."""
        return {path: self.mark(data) for path, data in files.items()}


def update_of(
    files: Mapping[str, bytes], marks: Mapping[str, str], there: Mapping[str, str], has: Mapping[str, bytes]
) -> dict[str, Any]:
    """What is otherwise than in a game that has files of these digests, as it is sent: text of the documents that it
    has (only the part that is otherwise, of those in ``has``), bytes of poses in base64, nothing where a file goes."""
    out: dict[str, Any] = {}
    for path, data in files.items():
        text = not path.endswith(".glb")
        if there.get(path) != marks[path] and (path in there or not text):
            before = has.get(path)
            if not text:
                out[path] = {"base64": base64.b64encode(data).decode()}
            else:
                out[path] = part_of(before, data) if before is not None else {"text": data.decode()}
    out |= {path: None for path in there if path not in files and path.endswith(".glb")}
    return out


def part_of(before: bytes, now: bytes) -> dict[str, Any]:
    """The part of a text that is otherwise: the bytes ``from`` … ``to`` of what it was are ``text`` now."""
    short = min(len(before), len(now))
    old, new = (np.frombuffer(data, np.uint8) for data in (before, now))
    other = np.flatnonzero(old[:short] != new[:short])
    first = int(other[0]) if len(other) else short
    left = short - first  # what both end alike in may not reach into what they begin alike with
    other = np.flatnonzero(old[len(old) - left :][::-1] != new[len(new) - left :][::-1])
    last = int(other[0]) if len(other) else left
    while first and first < len(now) and now[first] & MIDDLE == 0x80:
        first -= 1
    while last and now[len(now) - last] & MIDDLE == 0x80:
        last -= 1
    return {"from": first, "to": len(before) - last, "text": now[first : len(now) - last].decode()}


def faulty(build: CompiledProject, store: Store | None = None) -> str:
    """What is wrong with a project, so that no game is to have it: its first error among the findings (empty: none)."""
    bad = [f for f in findings(build, store) if f.level == "error"]
    more = f", and {len(bad) - 1} more" if len(bad) > 1 else ""
    return f"{bad[0].where} {bad[0].says}{more}" if bad else ""


def version_now(build: CompiledProject, count: int) -> str:
    """What a state of a project is called on the line: its name, a number, the time."""
    return f"{build.project.name} {count}, {time.strftime('%H:%M:%S')}"
