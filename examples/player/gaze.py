"""What looks and what aims: how far a gaze is turned to a side and up, and how much of that counts."""

from __future__ import annotations

from math import asin, atan2, cos, degrees, hypot, radians, sin
from typing import TYPE_CHECKING, NamedTuple

from player.turns import Turn, Vector, around, minus, multiply, rotate, unit

if TYPE_CHECKING:
    from player.export import Export, Layer
    from player.fighter import Fighter
    from player.figure import Placed

BEHIND = 25.0
"""So much beyond its limit to a side nothing is looked at (degrees)."""
SIGHT, SHOULDER, CHEST = 0.9, 0.8, 0.6
"""Shares of a body's height: its eyes, where it aims from, where it is aimed at."""
STILL_STICK = 0.05


class Gaze(NamedTuple):
    """How far it is turned to the left and up (degrees), and how much of that counts."""

    side: float = 0.0
    up: float = 0.0
    weight: float = 0.0

    def on(self, side: float, up: float, want: float, ticks: int, most: float) -> Gaze:
        """A tick on, by ``most`` degrees, and in or out over ``ticks``; what was not seen comes in where it points."""
        pull = 1.0 / (ticks + 1)
        weight = self.weight + min(max(want - self.weight, -pull), pull)
        if self.weight > 0.0:
            side = self.side + min(max(side - self.side, -most), most)
            up = self.up + min(max(up - self.up, -most), most)
        return Gaze(side, up, weight)


AHEAD = Gaze()


def look_for(export: Export, f: Fighter, everybody: list[Fighter]) -> Vector | None:
    """Where the head of the nearest other is."""
    there = [o for o in everybody if o is not f and not o.down]
    near = min(there, key=lambda o: sum((a - b) ** 2 for a, b in zip(o.position, f.position)), default=None)
    if near is None:
        return None
    x, y, z = near.position
    return x, y + SIGHT * export.figure.height, z


# The look


def chain(export: Export) -> list[tuple[int, float]]:
    """The joints that look, parents first, with their shares."""
    index = export.figure.index
    return sorted((index[s["joint"]], s["share"]) for s in export.ground["look"]["joints"] if s["joint"] in index)


def look(export: Export, f: Fighter, joints: list[Placed]) -> None:
    """Bring the gaze a tick on. The last joint that is named looks, along what is ahead of it at rest."""
    figure, said = export.figure, export.ground["look"]
    side, up, want = f.gaze.side, f.gaze.up, 0.0
    named = [figure.index[s["joint"]] for s in said["joints"] if s["joint"] in figure.index]
    if f.sees is not None and named:
        head = named[-1]
        rest = figure.placed(figure.rest)[head][0]
        looks = rotate(joints[head][0], rotate((-rest[0], -rest[1], -rest[2], rest[3]), (0.0, 0.0, 1.0)))
        turn = radians(f.facing)
        x, y, z = minus(f.sees, f.position)
        about = cos(turn) * x - sin(turn) * z, y, cos(turn) * z + sin(turn) * x
        way = unit(minus(about, joints[head][1]))
        to = degrees(atan2(way[0], way[2]))
        if abs(to) <= said["side"] + BEHIND:
            aside = around(to - degrees(atan2(looks[0], looks[2])))
            above = degrees(asin(min(max(way[1], -1.0), 1.0)) - asin(min(max(looks[1], -1.0), 1.0)))
            side, up = min(max(aside, -said["side"]), said["side"]), min(max(above, -said["up"]), said["up"])
            free = not f.down and within_any(export, f.steps[-1].state, said["states"]) and f.is_on("aim")
            want = said["weight"] if free else 0.0
    f.gaze = f.gaze.on(side, up, want, said["ticks"], said["rate"] / export.rate)


def look_turns(export: Export, f: Fighter) -> list[tuple[int, Turn]]:
    """The turns of the chain about the body: to a side, then up about what then lies across."""
    side, up, weight = f.gaze
    if weight <= 0.0:
        return []
    half = radians(side) / 2.0
    across = rotate((0.0, sin(half), 0.0, cos(half)), (1.0, 0.0, 0.0))
    out = []
    for joint, share in chain(export):
        a, b = radians(side * share * weight) / 2.0, radians(-up * share * weight) / 2.0
        lift = across[0] * sin(b), across[1] * sin(b), across[2] * sin(b), cos(b)
        out.append((joint, multiply(lift, (0.0, sin(a), 0.0, cos(a)))))
    return out


def within_any(export: Export, state: str, names: list[str]) -> bool:
    """Whether a state is one of those named, or in a group that is; nothing named is everything."""
    return not names or any(export.chart.within(state, name) for name in names)


# Aims


def aim(export: Export, f: Fighter) -> None:
    """Bring the aims of layers a tick on."""
    for layer in export.layers.values():
        said = layer.row["aim"]
        if said is None or not said["points"]:
            continue
        was = f.aims.get(layer.name, AHEAD)
        side, up, want = was.side, was.up, 0.0
        found = _wanted(export, f, said["towards"])
        if found is not None and abs(found[0]) <= said["side"] + BEHIND:
            side = min(max(found[0], -said["side"]), said["side"])
            up = min(max(found[1], -said["up"]), said["up"])
            may = layer.rule(f.steps[-1].state) == "may" and f.is_on("aim") and not f.down
            want = said["weight"] * layer_weight(f, layer) if may else 0.0
        f.aims[layer.name] = was.on(side, up, want, said["ticks"], said["rate"] / export.rate)


def layer_weight(f: Fighter, layer: Layer) -> float:
    return layer.weight(f.parameter(layer.row["by"]) if layer.row["by"] else 1.0)


def _wanted(export: Export, f: Fighter, towards: str) -> tuple[float, float] | None:
    """Where it would point: degrees to the left of ahead, and up; None at nothing."""
    if towards == "stick":
        x, z = f.stick
        return (around(degrees(atan2(x, z)) - f.facing), 0.0) if hypot(x, z) >= STILL_STICK else None
    if f.sees is None:
        return None
    x, y, z = minus(f.sees, f.position)
    y += (CHEST - SIGHT - SHOULDER) * export.figure.height
    far = hypot(x, z)
    return around(degrees(atan2(x, z)) - f.facing) if far > 1e-6 else 0.0, degrees(atan2(y, far))
