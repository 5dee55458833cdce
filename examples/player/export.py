"""An export as it is played: its documents in metres, with poses and clips read from their files.

Spans stay as they stand in ``actions.json``: their fields have the names of the page on handing over.
"""

from __future__ import annotations

import json
from collections.abc import Mapping
from functools import cached_property
from pathlib import Path
from typing import Any

from player.axes import Axes
from player.blends import Blend
from player.chart import Chart
from player.clips import GroundClip
from player.figure import Figure
from player.glb import Pose, read_poses
from player.poses import at_share, mean
from player.touch import Shape
from player.turns import of_rows

Json = dict[str, Any]
FORMAT = 1


class Box:
    """A hitbox on the open ticks of its strike: by tick the joint it rides on and its shape there."""

    def __init__(self, row: Json, figure: Figure, axes: Axes) -> None:
        self.share: float = row["share"]
        self.ticks: dict[int, tuple[int, Shape]] = {}
        self.leaps = {at["tick"] for at in row["ticks"] if at["leaps"]}
        """The ticks on which it is somewhere else all at once, and was never between."""
        for at in row["ticks"]:
            joint = figure.index[at["joint"]]
            if "half" in at:
                middle, half = axes.place(at["middle"]), axes.halves(at["half"])
                shape = Shape(middle, middle, 0.0, half, of_rows(axes.rows(at["turn"])))
            else:
                shape = Shape(axes.place(at["from"]), axes.place(at["to"]), at["radius"] / axes.scale)
            self.ticks[at["tick"]] = joint, shape


class Strike:
    """A strike: its row, its hitboxes, and how it pushes (m/s: to the left, up, ahead)."""

    def __init__(self, row: Json, name: str, figure: Figure, axes: Axes) -> None:
        self.row, self.name = row, name
        self.boxes = [Box(box, figure, axes) for box in row["boxes"]]
        push = row["knockback"]
        self.knockback = tuple(push[way] / axes.scale for way in ("left", "up", "ahead"))


class Section:
    """A section of an action: its row, its strikes, where it takes the body, and its poses, those past its end too."""

    def __init__(self, row: Json, poses: list[Pose], figure: Figure, axes: Axes) -> None:
        self.row, self.poses = row, poses
        self.name: str = row["name"]
        self.ticks: int = row["ticks"]
        self.place = [axes.place(v) for v in row["travel"]["place"]]
        self.turn: list[float] = row["travel"]["turn"]
        self.strikes = [Strike(s, s["name"], figure, axes) for s in row["strikes"]]
        self.offsets = [axes.place(e["offset"]) for e in row["events"]]

    def pose(self, tick: int) -> Pose:
        """The pose of a tick; past the end it plays on for a while and then holds."""
        return self.poses[min(tick, len(self.poses) - 1)]

    def cut(self, tick: int) -> Json:
        """The cut that shows a tick."""
        at = min(max(tick, 0), self.ticks)
        return next((c for c in reversed(self.row["cuts"]) if c["first"] <= at), {})

    def mirrored(self, tick: int) -> bool:
        return bool(self.cut(tick).get("mirrored"))


class Action:
    """An action: its row, and its sections in their order."""

    def __init__(self, row: Json, poses: dict[str, list[Pose]], figure: Figure, axes: Axes) -> None:
        self.row, self.poses = row, poses
        self.name: str = row["name"]
        self.layer: str = row["layer"]
        self.sections = [Section(s, poses[s["name"]], figure, axes) for s in row["sections"]]
        self.index = {s.name: n for n, s in enumerate(self.sections)}
        self.entry = self.index.get(row["entry"], 0)
        self.start: Json = row["start"]

    def made_of(self, row: Json, poses: dict[str, list[Pose]]) -> bool:
        """Whether it would be the same of these."""
        return self.poses is poses and self.row == row


class Layer:
    """A layer: its row, its place from the bottom up, by how much it speaks for each joint, its rule in each state."""

    def __init__(self, row: Json, place: int, export: Export) -> None:
        self.row, self.place = row, place
        self.name: str = row["name"]
        self.mask = [row["joints"].get(name, 0.0) for name in export.figure.names]
        self.additive = row["mode"] == "additive"
        self.even = len(set(self.mask)) == 1
        self.root = self.mask[export.figure.root] if row["root"] and not self.additive else 0.0
        self.hides = not self.additive and row["weight"] >= 1.0 - 1e-9 and any(w >= 1.0 - 1e-9 for w in self.mask)
        self.whole = self.hides and self.even
        said = {s["state"]: s["rule"] for s in row["scope"]}
        chart = export.chart
        self.rules = {
            state: next((said[n] for n in (state, *chart.around[state]) if n in said), row["elsewhere"])
            for state in chart.states
        }

    def rule(self, state: str) -> str:
        """What it does in a state of locomotion."""
        return str(self.rules.get(state, self.row["elsewhere"]))

    def weight(self, parameter: float) -> float:
        """How much it counts, with its parameter as it is."""
        much = float(self.row["weight"])
        return much * min(max(parameter, 0.0), 1.0) if self.row["by"] else much

    def covers(self, other: Layer) -> bool:
        """Whether it speaks wholly for every joint that a layer under it speaks for."""
        speaks = [mine for mine, theirs in zip(self.mask, other.mask) if theirs > 0.0]
        return self.hides and self.place > other.place and bool(speaks) and min(speaks) >= 1.0 - 1e-9


class AimField:
    """The poses of a layer's aim, the one ahead, and where among them it points."""

    def __init__(self, row: Json, export: Export) -> None:
        points = row["aim"]["points"]
        self.blend = Blend(("side", "up"), [(p["side"], p["up"]) for p in points], row["aim_mesh"])
        self.poses = []
        for p in points:
            clip = export.clip(p["clip"])
            share = p["time"] / clip.seconds if clip.seconds > 0.0 else 0.0
            self.poses.append(at_share(clip, min(max(share, 0.0), 1.0), False))
        self.ahead = self.pose(0.0, 0.0)

    def pose(self, side: float, up: float) -> Pose:
        """The mean of the poses around a direction (degrees)."""
        rows = self.blend.weights((side, up))
        if len(rows) == 1:
            return self.poses[rows[0][0]]
        return mean([(self.poses[n], self.poses[n], 0.0, w) for n, w in rows])


class Export:
    """All of an export that is played: of a folder, or of its files by their paths. What was read before of the same
    bytes is taken from an export that is ``known``."""

    def __init__(self, folder: Path | Mapping[str, bytes], known: Export | None = None) -> None:
        def data(path: str) -> bytes:
            return (folder / path).read_bytes() if isinstance(folder, Path) else folder[path]

        manifest = json.loads(data("manifest.json"))
        if manifest["format"] != FORMAT:
            raise ValueError(f"the export is of format {manifest['format']}, and this player reads {FORMAT}")
        names = ("actions", "clips", "ground", "layers", "commands", "figure", "stage", "reactions")
        files: Json = {name: json.loads(data(f"{name}.json")) for name in names}
        self.axes = axes = Axes(manifest["axes"])
        axes.in_metres(files)
        self.rate: int = manifest["rate"]
        self.figure = figure = Figure(files["figure"], axes)

        self.stands_on = manifest["axes"], data("figure.json")
        same = known is not None and known.stands_on == self.stands_on
        self.poses: dict[str, tuple[bytes, dict[str, list[Pose]]]] = {}

        def read(path: str) -> dict[str, list[Pose]]:
            own = data(path)
            there = known.poses.get(path) if known is not None and same else None
            if there is None or there[0] != own:
                there = own, read_poses(own, figure.rest, figure.index, axes)
            self.poses[path] = there
            return there[1]

        self.ground: Json = files["ground"]
        self.chart = Chart(self.ground)
        before: dict[str, Action] = known.actions if known is not None and same else {}

        def action(row: Json) -> Action:
            there, poses = before.get(row["name"]), read(row["file"])
            return there if there is not None and there.made_of(row, poses) else Action(row, poses, figure, axes)

        self.actions: dict[str, Action] = {row["name"]: action(row) for row in files["actions"]["actions"]}
        self.pools: dict[str, Json] = {p["name"]: p for p in files["actions"]["pools"]}
        self.thrown: dict[str, Json] = {t["name"]: t for t in files["actions"]["thrown"]}
        self.thrown_strikes = {n: Strike(t["strike"], n, figure, axes) for n, t in self.thrown.items()}
        self.clips = {
            c["name"]: GroundClip(c, read(c["ground"]["file"])[c["name"]], axes, drawn=figure.picture >= 0)
            for c in files["clips"]["clips"]
            if c["ground"] is not None
        }
        self.at_rest = GroundClip(REST, [figure.rest], axes)
        self.blends = {s["name"]: Blend(s["over"], [p["at"] for p in s["blend"]], s["mesh"])
                       for s in self.ground["states"] if s["blend"]}  # fmt: skip
        self.layers = {row["name"]: Layer(row, n, self) for n, row in enumerate(files["layers"]["layers"])}
        self.aims = {
            name: AimField(layer.row, self)
            for name, layer in self.layers.items()
            if (layer.row["aim"] or {}).get("points")
        }
        self.grips: list[Json] = files["layers"]["grips"]
        self.buffer: int = files["commands"]["buffer"]
        self.commands: dict[str, Json] = {c["name"]: c for c in files["commands"]["commands"]}
        self.order = {name: n for n, name in enumerate(self.commands)}
        self.stage: Json = files["stage"]["stages"][0]
        self.reactions: list[Json] = files["reactions"]["reactions"]
        self.scaling: Json = files["reactions"]["scaling"]
        self.momentary = {p["name"] for p in self.ground["parameters"] if p["kind"] == "momentary"}

    def clip(self, name: str) -> GroundClip:
        """A clip of locomotion; the figure at rest for one that is not there."""
        return self.clips.get(name, self.at_rest)

    def tagged(self, tag: str) -> list[str]:
        """The actions that have a tag."""
        return [a.name for a in self.actions.values() if tag in a.row["tags"]]

    def buffer_of(self, command: str) -> int:
        """For how many ticks a press of a command is remembered."""
        own = self.commands[command]["buffer"] if command in self.commands else None
        return self.buffer if own is None else int(own)

    @cached_property
    def exits(self) -> list[Json]:
        """Every exit there is."""
        return [
            e
            for a in self.actions.values()
            for e in (*a.row["exits"], *(x for s in a.sections for x in s.row["exits"]))
        ]

    @cached_property
    def longest_buffer(self) -> int:
        """For how many ticks any press may count."""
        own = [e["buffer"] for e in self.exits if e["buffer"] is not None]
        return int(max([self.buffer, *(self.buffer_of(c) for c in self.commands), *own]))

    @cached_property
    def furthest_press(self) -> int:
        """For how many ticks a press may count as the first of a sequence."""
        longest = max((len(e["sequence"]) for e in self.exits), default=0)
        return max(self.longest_buffer, 1) + max(longest - 1, 0) * (self.buffer + 1)


REST: Json = {"loop": True, "ground": {"seconds": 1.0, "pace": {"left": 0.0, "ahead": 0.0}, "beat": None}}
