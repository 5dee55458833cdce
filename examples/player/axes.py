"""The axes and units of an export, and those of this player: x to the left, y up, z ahead, in metres."""

from __future__ import annotations

from typing import Any

from player.turns import Turn, Vector, dot

METRES = {"m": 1.0, "cm": 100.0}
GROUND = ("walk_speed", "run_speed", "acceleration", "braking", "gravity", "falling", "friction")
TESTS = ("speed", "wanted_speed", "rising", "height", "above_floor", "distance", "feet_apart")
"""Conditions whose value is a length or a speed."""
MEASURES = ("speed", "ahead", "left", "wanted speed", "rising", "above the floor")
"""What a blend may be over that is one."""


class Axes:
    """Brings places, turns and lengths of an export into the player's, and places back."""

    def __init__(self, said: dict[str, Any]) -> None:
        self.left: Vector = tuple(said["left"])
        self.up: Vector = tuple(said["upward"])
        self.ahead: Vector = tuple(said["ahead"])
        self.scale = METRES[said["unit"]]
        # In left-handed axes a turn goes the other way round.
        self.handed = 1.0 if said["hand"] == "right" else -1.0

    def way(self, v: Any) -> Vector:
        """A direction."""
        return dot(v, self.left), dot(v, self.up), dot(v, self.ahead)

    def place(self, v: Any) -> Vector:
        """A place."""
        x, y, z = self.way(v)
        return x / self.scale, y / self.scale, z / self.scale

    def halves(self, v: Any) -> Vector:
        """Half extents."""
        x, y, z = self.place(v)
        return abs(x), abs(y), abs(z)

    def turn(self, q: Any) -> Turn:
        """A turn."""
        x, y, z = self.way(q[:3])
        return x * self.handed, y * self.handed, z * self.handed, q[3]

    def rows(self, matrix: list[list[float]]) -> list[list[float]]:
        """A matrix of a turn, by its rows."""
        ways = (self.left, self.up, self.ahead)
        carried = [[sum(row[k] * way[k] for k in range(3)) for way in ways] for row in matrix[:3]]
        return [[sum(way[k] * carried[k][n] for k in range(3)) for n in range(3)] for way in ways]

    def out(self, v: Vector) -> Vector:
        """A place of the player's as the export has it."""
        x, y, z = v
        return tuple((x * a + y * b + z * c) * self.scale for a, b, c in zip(self.left, self.up, self.ahead))  # type: ignore[return-value]

    def in_metres(self, files: dict[str, Any]) -> None:
        """Change lengths and speeds of the documents to metres, in place."""
        if self.scale == 1.0:
            return
        self._conditions(files)
        ground = files["ground"]
        self._shrink(ground, *GROUND)
        self._shrink(ground["jump"], "height", "tap")
        self._shrink(ground["feet"], "raises", "drops")
        for state in ground["states"]:
            self._shrink(state, "matched", "most")
            for point in state["blend"]:
                long = [over in MEASURES for over in state["over"]]
                point["at"] = [v / self.scale if n < len(long) and long[n] else v for n, v in enumerate(point["at"])]
        for row in files["reactions"]["reactions"]:
            self._shrink(row, "near", "far")
        for thing in files["actions"]["thrown"]:
            self._shrink(thing, "speed", "up", "gravity", "radius")
        for stage in files["stage"]["stages"]:
            for fighter in stage["fighters"]:
                self._shrink(fighter, "near")

    def _shrink(self, row: dict[str, Any], *names: str) -> None:
        for name in names:
            if row[name] is not None:
                row[name] /= self.scale

    def _conditions(self, value: Any) -> None:
        if isinstance(value, dict):
            if value.get("test") in TESTS:
                value["value"] /= self.scale
            for part in value.values():
                self._conditions(part)
        elif isinstance(value, list):
            for part in value:
                self._conditions(part)
