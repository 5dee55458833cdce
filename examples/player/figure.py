"""The figure: its joints, what is mounted on them, where it can be touched, its legs."""

from __future__ import annotations

from typing import Any, NamedTuple

from player.axes import Axes
from player.glb import Pose
from player.turns import STILL, Turn, Vector, minus, multiply, of_rows, plus, rotate, size

Placed = tuple[Turn, Vector]
"""A frame: how it is turned and where it is."""
HERE: Placed = (STILL, (0.0, 0.0, 0.0))


def on(frame: Placed, at: Vector) -> Vector:
    """A place of a frame, outside of it."""
    return plus(rotate(frame[0], at), frame[1])


def inside(frame: Placed, own: Placed) -> Placed:
    """A frame within a frame, outside of it."""
    return multiply(frame[0], own[0]), on(frame, own[1])


class Mount(NamedTuple):
    """The joint a mount is on and its frame there; on the other side of a mirrored pose, ``other``."""

    joint: int
    frame: Placed
    other_joint: int
    other_frame: Placed

    def at(self, mirrored: bool) -> tuple[int, Placed]:
        return (self.other_joint, self.other_frame) if mirrored else (self.joint, self.frame)


class Hurtbox(NamedTuple):
    """A capsule (``half`` is None) or a box on a joint; one of a drawing that ``spans`` to another joint is as large as
    the two are apart."""

    name: str
    joint: int
    region: str
    postures: tuple[str, ...]
    a: Vector
    b: Vector
    radius: float
    half: Vector | None
    turn: Turn
    spans: int = -1


class Leg(NamedTuple):
    """The joints of a leg, the lengths of its bones, how high the ball of its foot is over the floor at rest."""

    thigh: int
    shin: int
    foot: int
    ball: int
    upper: float
    lower: float
    ball_height: float


class Figure:
    """The figure of an export."""

    def __init__(self, file: dict[str, Any], axes: Axes) -> None:
        joints = file["joints"]
        self.names = [j["name"] for j in joints]
        self.index = {name: n for n, name in enumerate(self.names)}
        self.parents = [self.index[j["parent"]] if j["parent"] is not None else -1 for j in joints]
        self.other = [self.index[j["other"]] for j in joints]
        self.rest = Pose([axes.turn(j["turn"]) for j in joints], [axes.place(j["place"]) for j in joints])
        self.root, self.hips = self.index[file["root"]], self.index[file["hips"]]
        self.picture = self.index[file["picture"]] if file["picture"] is not None else -1
        self.feet = [self.index[name] for name in file["feet"]]
        self.legs = [self._leg(row, axes) for row in file["legs"]]
        self.mounts = {m["name"]: self._mount(m, axes) for m in file["mounts"]}
        self.hurtboxes = [self._hurtbox(row, axes) for row in file["hurtboxes"]]
        self.factors = {row["name"]: row["factor"] for row in file["regions"]}
        self.radius = file["capsule"]["radius"] / axes.scale
        self.height = file["capsule"]["height"] / axes.scale

    def __len__(self) -> int:
        return len(self.names)

    def _leg(self, row: dict[str, Any], axes: Axes) -> Leg:
        joints = (self.index[row[name]] for name in ("thigh", "shin", "foot", "ball"))
        return Leg(*joints, *(row[name] / axes.scale for name in ("upper", "lower", "ball_height")))

    def _mount(self, row: dict[str, Any], axes: Axes) -> Mount:
        other = row["other"]
        return Mount(
            self.index[row["joint"]],
            _frame(row["frame"], axes),
            self.index[other["joint"]],
            _frame(other["frame"], axes),
        )

    def _hurtbox(self, row: dict[str, Any], axes: Axes) -> Hurtbox:
        own = row["name"], self.index[row["joint"]], row["region"], tuple(row["postures"])
        if row["shape"] == "span":
            origin, deep = (0.0, 0.0, 0.0), row["deep"] / axes.scale
            return Hurtbox(*own, origin, origin, deep, None, STILL, self.index[row["to_joint"]])
        if row["shape"] == "box":
            middle, half = axes.place(row["middle"]), axes.halves(row["half"])
            return Hurtbox(*own, middle, middle, 0.0, half, of_rows(axes.rows(row["turn"])))
        return Hurtbox(*own, axes.place(row["from"]), axes.place(row["to"]), row["radius"] / axes.scale, None, STILL)

    def mount(self, name: str, mirrored: bool) -> tuple[int, Placed] | None:
        """The joint and the frame of a mount, or of a joint of that name."""
        if name in self.mounts:
            return self.mounts[name].at(mirrored)
        joint = self.index.get(name)
        if joint is None:
            return None
        return (self.other[joint] if mirrored else joint), HERE

    def placed(self, pose: Pose) -> list[Placed]:
        """Where the joints of a pose are about the body."""
        out: list[Placed] = []
        for parent, turn, place in zip(self.parents, pose.turns, pose.places):
            out.append((turn, place) if parent < 0 else inside(out[parent], (turn, place)))
        return out

    def place_of(self, pose: Pose, joint: int) -> Vector:
        """Where one joint of a pose is about the body."""
        at: Vector = (0.0, 0.0, 0.0)
        while joint >= 0:
            at = plus(rotate(pose.turns[joint], at), pose.places[joint])
            joint = self.parents[joint]
        return at

    def hangs_on(self, joint: int, above: int) -> bool:
        """Whether a joint is another, or hangs on it."""
        while joint >= 0 and joint != above:
            joint = self.parents[joint]
        return joint == above

    def apart(self, a: int, b: int) -> float:
        """How far two joints are from each other at rest."""
        return size(minus(self.place_of(self.rest, a), self.place_of(self.rest, b)))


def _frame(rows: list[list[float]], axes: Axes) -> Placed:
    return of_rows(axes.rows(rows)), axes.place([row[3] for row in rows[:3]])
