"""Hitboxes proposed for what a strike sweeps: the fewest capsules that cover enough of it with the least excess."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from veergust.core.model import Hitbox, Strike
from veergust.core.motion import Array
from veergust.core.play import CompiledAction, CompiledProject, box_frame
from veergust.core.study.coverage import striking_mount
from veergust.core.study.striking import Striking, striking
from veergust.core.trouble import Trouble

SHARE = 0.9
MOST = 4
"""No more capsules than this."""
WORTH = 0.75
"""One more has to bring the volume below this part of what it is."""
NO_BETTER = 0.98
RIGID = 0.002
LEAST = 0.02
"""The thinnest capsule (m)."""
ROUNDS = 12


@dataclass(frozen=True)
class Fitted:
    """Proposed hitboxes, and the share of what strikes that they cover over the strike."""

    boxes: tuple[Hitbox, ...]
    share: float
    what: str


@dataclass(frozen=True, eq=False)
class TightCapsule:
    """A capsule from ``a`` to ``b``."""

    a: Array
    b: Array
    radius: float

    @property
    def volume(self) -> float:
        """m³."""
        along = float(np.linalg.norm(self.b - self.a))
        return float(np.pi * self.radius**2 * (along + 4.0 / 3.0 * self.radius))

    def holds(self, points: Array) -> NDArray[np.bool_]:
        """Which of ``[N, 3]`` points lie in it."""
        way = self.b - self.a
        t = np.clip((points - self.a) @ way / max(float(way @ way), 1e-12), 0.0, 1.0)
        inside = np.linalg.norm(points - self.a - t[:, None] * way, axis=1) <= self.radius + 1e-9
        return np.asarray(inside)


def fitted(
    build: CompiledProject,
    compiled: CompiledAction,
    section: int,
    strike: Strike,
    *,
    share: float = SHARE,
    mount: str = "",
) -> Fitted:
    """Hitboxes for a strike on a ``mount`` (empty: the one it has, or the limb or weapon that strikes there).

    Raises:
        Trouble: the figure has nothing there that could strike.
    """
    first = compiled.start_of(section)
    mount = mount or next((b.mount for b in strike.boxes if b.mount), "")
    mount = mount or striking_mount(build, compiled, first + strike.start, first + strike.end)
    points, far, found = swept_points(build, compiled, section, strike, mount)
    if found is None or not len(points):
        raise Trouble("nothing there strikes", field="hitbox", do="choose a mount on the limb or weapon that does")
    made = capsules(points, far, min(max(share, 0.05), 1.0))
    inside = np.any([c.holds(points) for c in made], axis=0)
    boxes = tuple(_box(mount, c, found.thick) for c in made)
    return Fitted(boxes, float((inside * far).sum() / far.sum()), found.what)


def swept_points(
    build: CompiledProject, compiled: CompiledAction, section: int, strike: Strike, mount: str
) -> tuple[Array, Array, Striking | None]:
    """Points ``[N, 3]`` of what strikes on a mount over a strike's ticks, in the mount's own frame, and how far each
    goes ``[N]`` (m)."""
    part, world = compiled.sections[section], compiled.world_of(section)
    places: list[Array] = []
    ways: list[Array] = []
    what: Striking | None = None
    for tick in range(max(strike.start, 0), min(strike.end, part.ticks)):
        mirrored = part.mirrored(tick)
        found = striking(build, mount, mirrored)
        frame = box_frame(build, Hitbox(mount=mount), world[tick], mirrored)
        if found is None or frame is None:
            continue
        what, now = found, found.at(world[tick])
        way = np.linalg.norm(now - found.at(world[tick - 1 if tick else min(1, part.ticks - 1)]), axis=1)
        local = (now - frame[:3, 3]) @ frame[:3, :3]
        local = local * [-1.0, 1.0, 1.0] if mirrored else local
        # What is stiff lies the same on every tick.
        same = next((i for i, old in enumerate(places) if _same(local, old)), None)
        if same is None:
            places.append(local)
            ways.append(way)
        else:
            ways[same] = ways[same] + way
    if not places:
        return np.zeros((0, 3)), np.zeros(0), what
    far = np.concatenate(ways)
    return np.concatenate(places), far if far.sum() > 1e-6 else np.ones(len(far)), what


def _same(local: Array, old: Array) -> bool:
    return local.shape == old.shape and bool(np.abs(local - old).max() < RIGID)


def capsules(points: Array, far: Array, share: float) -> list[TightCapsule]:
    """The fewest capsules that hold a share of ``[N, 3]`` points, each counted by how ``far`` it goes ``[N]``, as long
    as one more would not be much less excess."""
    best = [capsule_about(points, far, share)]
    for count in range(2, MOST + 1):
        parts = [rows for rows in _clusters(points, count) if len(rows)]
        if len(parts) < count or min(map(len, parts)) < 2:
            break
        made = [capsule_about(points[rows], far[rows], share) for rows in parts]
        if sum(c.volume for c in made) >= WORTH * sum(c.volume for c in best):
            break
        best = made
    return best


def capsule_about(points: Array, far: Array, share: float) -> TightCapsule:
    """A small capsule that holds at least a share of points, each counted by how ``far`` it goes: along their longest
    axis, as thin as it pays. It leads away from the origin."""
    axis = _axis(points)
    middle = points.mean(axis=0)
    across = (points - middle) - np.outer((points - middle) @ axis, axis)
    middle = middle + (across.max(axis=0) + across.min(axis=0)) / 2
    along = (points - middle) @ axis
    wide = np.linalg.norm(points - middle - np.outer(along, axis), axis=1)
    if abs(float(middle @ axis) + float(along.min())) > abs(float(middle @ axis) + float(along.max())):
        axis, along = -axis, -along
    far = np.maximum(far, 1e-9 * max(float(far.max()), 1e-9))
    need = share * float(far.sum()) * (1.0 - 1e-9)
    best: TightCapsule | None = None
    for radius in np.unique(np.maximum(np.quantile(wide, np.linspace(0.0, 1.0, 17)), 1e-4)):
        rows = wide <= radius + 1e-12
        spare = float(far[rows].sum()) - need
        if spare < 0.0:
            continue
        # Each point lies in the capsule where its middle line comes as near as the cap allows.
        cap = np.sqrt(np.maximum(radius**2 - wide[rows] ** 2, 0.0))
        low, high = along[rows] + cap, along[rows] - cap
        for left in (spare, spare / 2, 0.0):  # sooner what is near the hand than the tip
            start, end = _without(low, far[rows], left), -_without(-high, far[rows], spare - left)
            start, end = (start, end) if start <= end else ((start + end) / 2,) * 2
            made = TightCapsule(middle + start * axis, middle + end * axis, float(radius))
            enough = float(far[made.holds(points)].sum()) >= need
            if enough and (best is None or made.volume < NO_BETTER * best.volume):
                best = made
    if best is None:
        ends = middle + along.min() * axis, middle + along.max() * axis
        best = TightCapsule(*ends, float(wide.max()) + 1e-6)
    return best


def _without(values: Array, far: Array, spare: float) -> float:
    """The least value once those before it, counted by ``far``, that ``spare`` allows are left out."""
    order = np.argsort(values, kind="stable")
    gone = np.searchsorted(np.cumsum(far[order]), spare + 1e-12, side="right")
    return float(values[order][min(int(gone), len(values) - 1)])


def _axis(points: Array) -> Array:
    """The direction in which points are spread most."""
    away = points - points.mean(axis=0)
    axis: Array = np.linalg.svd(away, full_matrices=False)[2][0]
    return axis


def _clusters(points: Array, count: int) -> list[NDArray[np.intp]]:
    """Points in groups that lie together (Lloyd's rounds from the points farthest from each other)."""
    centres = [points[int(np.argmin(points[:, int(np.argmax(np.ptp(points, axis=0)))]))]]
    for _ in range(count - 1):
        far = np.min([np.linalg.norm(points - c, axis=1) for c in centres], axis=0)
        centres.append(points[int(np.argmax(far))])
    middle = np.array(centres)
    of = np.zeros(len(points), dtype=np.intp)
    for _ in range(ROUNDS):
        of = np.argmin(np.linalg.norm(points[:, None] - middle[None], axis=-1), axis=1)
        middle = np.array([points[of == n].mean(axis=0) if (of == n).any() else middle[n] for n in range(count)])
    return [np.flatnonzero(of == n) for n in range(count)]


def _box(mount: str, made: TightCapsule, thick: float) -> Hitbox:
    ax, ay, az = (round(float(v), 4) for v in made.a)
    bx, by, bz = (round(float(v), 4) for v in made.b)
    radius = round(max(made.radius + thick, LEAST) + 5e-4, 3)
    shape = "sphere" if np.linalg.norm(made.b - made.a) < 0.01 else "capsule"
    return Hitbox(mount=mount, shape=shape, offset=(ax, ay, az), to=(bx, by, bz), radius=radius)  # type: ignore[arg-type]
