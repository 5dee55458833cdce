"""Joints from a table (CSV, RFC 4180): where each one is on every frame, as trackers and spreadsheets write them.

The first row names the columns: ``time`` (s) and ``<joint>.x``, ``.y``, ``.z`` (lengths in any unit, y up). The second
begins with ``parent`` and says under each ``.x`` on which joint that one hangs; nothing where it is a root. Then come
the frames, a row each. An empty field is a place that was not seen; it is filled in between its neighbours.
"""

from __future__ import annotations

import csv
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from veergust.core.files.fetch import fetch
from veergust.core.files.motion_file import LARGEST, LONGEST_MOTION, MOST_JOINTS, MotionFile, Reader
from veergust.core.motion import Array, Motion, Skeleton, Track, quat
from veergust.core.trouble import Trouble

AXES = (".x", ".y", ".z")
FLAT = 1e-3
"""Children that lie on one line up to this share say nothing of how the joint turns about it."""


def read_csv(path: Path, *, within: Path | None = None, moved: bool = True) -> MotionFile:
    """Read a table of joints, which must lie beneath ``within`` if that is given; its motion is called as the file.

    Joints rest as on the first frame, and turn with what hangs on them. Raises ``Trouble`` naming the file and the row.
    """
    file = path.name
    try:
        rows = list(csv.reader(fetch(path, within).decode("utf-8-sig", errors="replace").splitlines()))
    except csv.Error as error:
        raise _trouble(file, "table", f"is no table: {error}") from error
    rows = [row for row in rows if any(word.strip() for word in row)]
    if len(rows) < 2 or not rows[0][0].strip().lower() == "time":
        raise _trouble(file, "row 1", "should begin with time, and name the columns")
    columns = {word.strip(): i for i, word in enumerate(rows[0])}
    names = [name[:-2] for name in columns if name.endswith(".x")]
    missing = next((n + axis for n in names for axis in AXES if n + axis not in columns), "")
    if missing or not names or len(columns) != len(rows[0]):
        says = f"has no column {missing}" if missing else "names no joint" if not names else "names a column twice"
        raise _trouble(file, "row 1", says)
    if len(names) > MOST_JOINTS:
        raise _trouble(file, "row 1", f"has more than {MOST_JOINTS} joints", "export it in parts")
    order, parents = _hung(rows[1], names, columns, file)
    picked = [0, *(columns[n + axis] for n in order for axis in AXES)]
    numbers = _numbers(rows[2:] if moved else rows[2:3], picked, len(rows[0]), file)
    times, places = numbers[:, 0] - numbers[0, 0], numbers[:, 1:].reshape(len(numbers), -1, 3)
    left_out = _fill(times, places, order, file)
    apart = [p - places[0, parents[j]] if parents[j] >= 0 else p for j, p in enumerate(places[0])]
    skeleton = Skeleton(tuple(order), tuple(parents), np.tile(quat.IDENTITY, (len(order), 1)), np.array(apart))
    if not moved:
        return MotionFile(skeleton, None, ())
    if len(times) > 1 and ((np.diff(times) <= 0).any() or times[-1] > LONGEST_MOTION):
        row = int(np.argmax(np.diff(times) <= 0)) + 4
        late = times[-1] > LONGEST_MOTION
        raise _trouble(file, f"row {row}", f"lasts longer than {LONGEST_MOTION:g} s" if late else "goes back in time")
    fps = round(1.0 / float(np.median(np.diff(times))), 3) if len(times) > 1 else 30.0
    motion = Motion(path.stem, float(times[-1]), float(np.clip(fps, 1.0, 1000.0)), _tracks(skeleton, times, places))
    return MotionFile(skeleton, None, (motion,), tuple(left_out))


def _trouble(file: str, field: str, says: str, do: str = "write the table as docs/formats.md says") -> Trouble:
    return Trouble(says, file=file, field=field, do=do)


def _hung(row: list[str], names: list[str], columns: dict[str, int], file: str) -> tuple[list[str], list[int]]:
    """The joints, parents first, and the parent of each (−1: none)."""
    if row[0].strip().lower() != "parent":
        raise _trouble(file, "row 2", "should begin with parent, and say what each joint hangs on")
    above = {n: row[columns[n + ".x"]].strip() if columns[n + ".x"] < len(row) else "" for n in names}
    stranger = next((n for n in names if above[n] and above[n] not in above), None)
    if stranger is not None:
        raise _trouble(file, "row 2", f"hangs {stranger!r} on {above[stranger]!r}, which has no columns")
    order = [n for n in names if not above[n]]
    for name in order:  # grows as it is walked
        order += [n for n in names if above[n] == name]
    if len(order) < len(names):
        raise _trouble(file, "row 2", "hangs joints on each other in a circle")
    return order, [order.index(above[n]) if above[n] else -1 for n in order]


def _numbers(rows: list[list[str]], picked: list[int], wide: int, file: str) -> Array:
    """The fields of these columns ``[rows, columns]``, not a number where one is empty."""
    if not rows:
        raise _trouble(file, "row 3", "holds no frames", "export it with its frames")
    out = np.full((len(rows), len(picked)), np.nan)
    for i, row in enumerate(rows):
        if len(row) != wide:
            raise _trouble(file, f"row {i + 3}", f"has {len(row)} fields, and row 1 has {wide}")
        try:
            out[i] = [float(row[k]) if row[k].strip() else np.nan for k in picked]
        except ValueError as error:
            raise _trouble(file, f"row {i + 3}", f"holds what is no number ({error})") from error
    bad = (np.abs(out) > LARGEST).any(axis=1) | np.isnan(out[:, 0])
    if bad.any():
        raise _trouble(file, f"row {int(np.argmax(bad)) + 3}", "holds what is no time or no length")
    return out


def _fill(times: Array, places: Array, names: list[str], file: str) -> list[str]:
    """Fill places that were not seen, and say which."""
    said = []
    for j, name in enumerate(names):
        unseen = np.isnan(places[:, j]).any(axis=1)
        if unseen.all():
            raise _trouble(file, f"{name}.x", "is seen on no frame", "take its columns out")
        if unseen.any():
            for axis in range(3):
                places[unseen, j, axis] = np.interp(times[unseen], times[~unseen], places[~unseen, j, axis])
            said.append(f"{name} is not seen on {int(unseen.sum())} frames; it is filled in between")
    return said


def _tracks(skeleton: Skeleton, times: Array, places: Array) -> tuple[Track, ...]:
    """Turns and places by which every joint is where the table has it ``[T, J, 3]``."""
    turns = np.tile(quat.IDENTITY, (len(times), len(skeleton), 1))
    out: list[Track] = []
    for j, parent in enumerate(skeleton.parents):
        above = turns[:, parent] if parent >= 0 else np.tile(quat.IDENTITY, (len(times), 1))
        below = np.flatnonzero(skeleton.above == j)
        turns[:, j] = _turned(skeleton.rest_translation[below], places[:, below] - places[:, j, None], above)
        back = quat.conjugate(above)
        from_parent = places[:, j] - (places[:, parent] if parent >= 0 else 0.0)
        out.append(Track(j, "rotation", "LINEAR", times, quat.normalize(quat.multiply(back, turns[:, j]))))
        out.append(Track(j, "translation", "LINEAR", times, quat.rotate(back, from_parent)))
    return tuple(out)


def _turned(rest: Array, now: Array, above: Array) -> NDArray[np.float64]:
    """Turns ``[T, 4]`` that bring the children's rest offsets ``[C, 3]`` onto ``now`` ``[T, C, 3]``.

    With children to several sides the best one for all (W. Kabsch, Acta Cryst. A32, 1976); else the shortest from how
    the parent turns, ``above``.
    """
    spread = np.linalg.svd(rest, compute_uv=False) if len(rest) > 1 else np.zeros(2)
    if spread[1] > FLAT * spread[0]:
        u, _, v = np.linalg.svd(np.einsum("ci,tcj->tij", rest, now))
        sign = np.where(np.linalg.det(u) * np.linalg.det(v) < 0, -1.0, 1.0)
        u[..., -1] *= sign[:, None]
        return quat.from_matrix(np.swapaxes(u @ v, -1, -2))
    longest = int(np.argmax(np.linalg.norm(rest, axis=-1))) if len(rest) else -1
    if longest < 0 or np.linalg.norm(rest[longest]) < 1e-9:
        return above
    aimed = quat.rotate(above, np.broadcast_to(rest[longest], now[:, longest].shape))
    return quat.multiply(quat.between(aimed, now[:, longest]), above)


READER = Reader(lambda path, within, mesh, moved: read_csv(path, within=within, moved=moved))
