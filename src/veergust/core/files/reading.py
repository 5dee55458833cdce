"""Any motion file in, and its motions brought onto the figure."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import partial
from importlib import import_module
from pathlib import Path

import numpy as np

from veergust.core.files.fitting import fitted
from veergust.core.files.formats import FORMATS, SUFFIXES, spoken
from veergust.core.files.motion_file import MotionFile, Reader, fingerprint
from veergust.core.files.progress import Progress, no_progress
from veergust.core.model import Rig, SourceRig
from veergust.core.motion import Motion, Skeleton, Track, on_sheet, propose, quat, shares_nothing, transfer
from veergust.core.trouble import Trouble

SAME_PLACE = 0.02
SAME_TURN = 2.0


def reader_of(path: Path) -> Reader:
    """What reads a file. Raises ``Trouble`` when nothing does."""
    found = SUFFIXES.get(path.suffix.lower())
    if found is None:
        formats = " or ".join(f.name for f in FORMATS)
        raise Trouble(f"is not a {spoken(SUFFIXES)} file", file=path.name, do=f"export it as {formats}")
    reader: Reader = import_module(f"{__package__}.{found.module}").READER
    return reader


def read_motion(path: Path, *, within: Path | None = None, mesh: bool = True, moved: bool = True) -> MotionFile:
    """Read a file of any format there is a reader for, with its mesh and its motions unless they are not wanted.

    Raises ``Trouble`` naming file and field.
    """
    return reader_of(path).read(path, within, mesh, moved)


@dataclass(frozen=True, eq=False)
class Bound:
    """A file's motions for the figure, what was left out, whether its skeleton is a foreign one, and how many bytes it
    and what it names have, where that was asked."""

    motions: tuple[Motion, ...]
    left_out: tuple[str, ...]
    foreign: bool
    size: int = 0


def bind(
    content: MotionFile,
    figure: Skeleton,
    rig: Rig,
    sources: tuple[SourceRig, ...],
    progress: Progress = no_progress,
) -> Bound:
    """The motions of ``content`` on ``figure``: joint by joint when it is the same skeleton, else carried over by
    the mapping kept for it, or by a proposed one. A sheet of drawings is only for a figure that is drawn, which takes
    it point by point."""
    if content.drawn is not None or figure.picture >= 0:
        return _drawn(content, figure, rig)
    if is_same(content.skeleton, figure):
        return _by_name(content, figure)
    of_size = fitted(content, rig)
    if is_same(of_size.skeleton, figure):
        return _by_name(of_size, figure)
    answer = source_rig(content.skeleton, figure, sources)
    if shares_nothing(content.skeleton, figure, answer.joints):
        says = f"has a skeleton that shares too little with the figure's ({len(answer.joints)} joints answer)"
        raise Trouble(says, field="joints", do="map its joints by hand, or bring it in as a figure of its own")
    if not 1e-5 < answer.scale < 1e5:
        says = f"would be scaled by {answer.scale:g} to fit the figure"
        raise Trouble(says, field="scale", do="export it in a usual unit, or set its scale on the mapping page")
    names = {s for s, _ in answer.joints}
    moved = {content.skeleton.names[t.joint] for m in content.motions for t in m.tracks}
    lost = tuple(f"joint {n!r} answers to none of the figure's" for n in content.skeleton.names if n in moved - names)
    out = []
    for i, motion in enumerate(content.motions):
        says, count = f"Carrying {motion.name} over", len(content.motions)
        out.append(transfer(content.skeleton, motion, figure, answer, partial(_share, progress, says, i, count)))
    return Bound(tuple(out), (*content.left_out, *lost), True)


def _share(progress: Progress, says: str, done: int, count: int, share: float) -> None:
    progress(says, (done + share) / count)


def source_rig(skeleton: Skeleton, figure: Skeleton, sources: tuple[SourceRig, ...]) -> SourceRig:
    """What is kept for a foreign skeleton, or a proposal for it."""
    mark = fingerprint(skeleton)
    kept = next((s for s in sources if s.fingerprint == mark), None)
    if kept is not None:
        return kept
    found = propose(skeleton, figure)
    return SourceRig(
        fingerprint=mark,
        name=skeleton.names[0],
        joints=tuple((p.source, p.figure) for p in found.pairs),
        turn=found.turn,
        scale=float(f"{found.scale:.6g}"),
    )


def is_same(skeleton: Skeleton, figure: Skeleton) -> bool:
    """Whether this is the figure's own skeleton, or a part of it: joints of its names at rest in its places."""
    shared = [(skeleton.index[n], figure.index[n]) for n in skeleton.names if n in figure.index]
    if not shared or len(shared) < 0.5 * min(len(skeleton), len(figure)):
        return False
    ours = [f for _, f in shared]
    theirs = [s for s, _ in shared]
    size = max(float(np.ptp(figure.rest_world[:, :3, 3], axis=0).max()), 1e-9)
    gap = np.linalg.norm(skeleton.rest_world[theirs, :3, 3] - figure.rest_world[ours, :3, 3], axis=-1)
    turned = quat.angle_between(skeleton.rest_rotation[theirs], figure.rest_rotation[ours])
    return bool(gap.max() < SAME_PLACE * size and turned.max() < SAME_TURN)


def _drawn(content: MotionFile, figure: Skeleton, rig: Rig) -> Bound:
    """A sheet of drawings on a drawn figure: its points go by name, its cells by which of the figure's sheets it is."""
    if content.drawn is None:
        says = "holds joints, and the figure of this project is drawn"
        raise Trouble(says, field="joints", do="bring it into a project of its own, or make a flipbook of it there")
    if figure.picture < 0:
        says = "is a sheet of drawings, and the figure of this project has a skeleton"
        raise Trouble(says, field="image", do="bring it into a project of its own")
    number = next((n for n, file in enumerate(rig.sheets) if Path(file).name == content.drawn_in), 0)
    bound = _by_name(content, figure)
    motions = tuple(replace(m, tracks=tuple(_of_sheet(t, figure, number) for t in m.tracks)) for m in bound.motions)
    return Bound(motions, bound.left_out, False)


def _of_sheet(track: Track, figure: Skeleton, number: int) -> Track:
    return replace(track, values=on_sheet(track.values, number)) if track.joint == figure.picture else track


def _by_name(content: MotionFile, figure: Skeleton) -> Bound:
    names = content.skeleton.names
    to = {j: figure.index[n] for j, n in enumerate(names) if n in figure.index}
    lost = tuple(f"joint {n!r} is not in the figure" for j, n in enumerate(names) if j not in to)
    motions = []
    left_out = [*content.left_out, *lost]
    for motion in content.motions:
        tracks = tuple(
            Track(to[t.joint], t.path, t.interpolation, t.times, t.values) for t in motion.tracks if t.joint in to
        )
        if tracks:
            motions.append(Motion(motion.name, motion.seconds, motion.fps, tracks))
        else:
            left_out.append(f"{motion.name!r} has no keys for any joint of the figure")
    return Bound(tuple(motions), tuple(left_out), False)
