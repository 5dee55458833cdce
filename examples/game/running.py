"""What runs: a bout of an export, and edits that come in while it goes on."""

from __future__ import annotations

import hashlib
import json
from collections import deque
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from player.bout import Bout
from player.export import Export
from player.take import line

Json = dict[str, Any]
KEPT = 36_000
"""So many ticks of what was played and given are kept: ten minutes at 60 a second."""
PLAYED = ("manifest.json", "actions.json", "clips.json", "ground.json", "layers.json", "commands.json", "figure.json",
          "stage.json", "reactions.json")  # fmt: skip
"""The documents that are played."""
POSES = ("actions", "ground")
"""The folders of poses."""


def played(path: str) -> bool:
    """Whether a file of an export is one that is played: one of the documents, or poses."""
    folder, _, name = path.rpartition("/")
    return path in PLAYED or (folder in POSES and name.endswith(".glb"))


def digest(data: bytes) -> str:
    """The mark of a file's bytes."""
    return hashlib.sha256(data).hexdigest()


def files_in(folder: Path) -> dict[str, bytes]:
    """The files of an export that are played."""
    out = {name: (folder / name).read_bytes() for name in PLAYED}
    for part in POSES:
        for path in sorted((folder / part).glob("*.glb")):
            out[f"{part}/{path.name}"] = path.read_bytes()
    return out


class Waiting:
    """An edit that is read and waits for a tick on which it can be taken."""

    def __init__(self, version: str, export: Export, files: Mapping[str, bytes], changed: set[str], when: str) -> None:
        self.version, self.export, self.files, self.changed, self.when = version, export, files, changed, when


class Running:
    """A bout that goes on, of files that may change."""

    def __init__(self, files: Mapping[str, bytes], seed: int = 1) -> None:
        self.files = dict(files)
        self.export = Export(self.files)
        self.seed = seed
        self.version = "as it was loaded"
        self.stopped = False
        self.steps = 0
        """Ticks that are still to be played while it is stopped."""
        self.given: list[Json] = []
        self.waiting: Waiting | None = None
        self.lines: deque[Json] = deque(maxlen=KEPT)
        self.bout = Bout(self.export, seed)

    @property
    def project(self) -> str:
        """What the project that runs is called."""
        return str(json.loads(self.files["manifest.json"])["project"])

    @property
    def latest(self) -> Mapping[str, bytes]:
        """The files as they will be once what waits is taken."""
        return self.waiting.files if self.waiting is not None else self.files

    def digests(self) -> dict[str, str]:
        """The mark of each file that it has."""
        return {path: digest(data) for path, data in self.files.items()}

    def prepared(self, changes: Mapping[str, bytes | None], version: str, when: str) -> Waiting:
        """An edit, read: it is not taken yet, and nothing of what runs has changed.

        Raises:
            ValueError, KeyError, TypeError, IndexError, struct.error: what came is no export that can be played.
        """
        files = {path: data for path, data in {**self.latest, **changes}.items() if data is not None}
        export = Export(files, self.waiting.export if self.waiting is not None else self.export)
        if export.rate != self.export.rate:
            raise ValueError(f"it plays at {export.rate} ticks a second, and what runs at {self.export.rate}")
        old, new = self.export.actions, export.actions
        changed = {name for name in old if name not in new or _differs(self.files, files, old[name].row, new[name].row)}
        if self.waiting is not None:
            changed |= self.waiting.changed
        return Waiting(version, export, files, changed, when)

    def ready(self) -> bool:
        """Whether the edit that waits can be taken on this tick: at once by pose, else when nobody plays what it
        changes."""
        waits = self.waiting
        if waits is None:
            return False
        if waits.when == "pose":
            return True
        playing = {p.action.name for f in self.bout.fighters for p in f.playing}
        return not playing & waits.changed

    def take(self) -> str:
        """Take the edit that waits in before the next tick, if it can be; its version (nothing: none was taken)."""
        if not self.ready():
            return ""
        waits, self.waiting = self.waiting, None
        assert waits is not None
        self.files, self.export, self.version = dict(waits.files), waits.export, waits.version
        self.bout.use(self.export)
        return waits.version

    def tick(self) -> tuple[Json | None, str]:
        """Play a tick unless it is stopped: its line of the take with what was given, and the version that was taken in
        before it (nothing: none was)."""
        taken = self.take()
        if self.stopped and self.steps <= 0:
            return None, taken
        self.steps = max(self.steps - 1, 0)
        given, self.given = self.given, []
        out = line(self.bout.tick(given), self.export.axes) | {"inputs": given}
        self.lines.append(out)
        return out, taken

    def start_over(self) -> None:
        """Begin again from the first tick."""
        self.bout = Bout(self.export, self.seed)
        self.lines.clear()
        self.given = []


def _differs(old: Mapping[str, bytes], new: Mapping[str, bytes], was: Json, now: Json) -> bool:
    """Whether an action is another: what is said of it, or its poses."""
    return was != now or old[was["file"]] != new[now["file"]]
