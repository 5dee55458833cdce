"""Loading what a project's clips and figure hold."""

from __future__ import annotations

import contextlib
import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from pathlib import Path

from veergust.core.files import carried
from veergust.core.files.beneath import MOST_IN_ALL, Beneath, Missing, Stamp, reference
from veergust.core.files.drawings.document import MOST_PIXELS
from veergust.core.files.fetch import fetch
from veergust.core.files.fitting import fitted
from veergust.core.files.gltf_mesh import read_prop
from veergust.core.files.guests import guests_of
from veergust.core.files.motion_file import MotionFile, fingerprint
from veergust.core.files.progress import Progress, no_progress
from veergust.core.files.reading import Bound, bind, is_same, read_motion, reader_of
from veergust.core.model import Project, Rig, SourceRig
from veergust.core.motion import EMPTY, Assets, DrawnSheet, Mesh, Motion, Skeleton, united
from veergust.core.trouble import Trouble


def load_assets(
    project: Project,
    folder: Path,
    progress: Progress = no_progress,
    known: Assets | None = None,
    *,
    guests: bool = True,
) -> tuple[Assets, list[str]]:
    """The skeleton, mesh, motions and props of a project, and a sentence for each file that is not there.

    Files that ``known`` holds already are not read again, unless the mappings have changed. A file that is there and
    damaged raises ``Trouble``. Projects of which fighters are ``guests`` are read too, unless they are not wanted.
    """
    already = known.guests if known is not None else {}
    visiting, absent = guests_of(project, folder, _alone, already) if guests else ({}, [])
    if not project.rig.figure:
        return replace(EMPTY, guests=visiting) if visiting else EMPTY, absent
    figure = figure_of(project, folder)
    motions: dict[tuple[str, str], Motion] = {}
    foreign: set[str] = set()
    missing: list[str] = []
    files = list(dict.fromkeys(clip.file for clip in project.clips if clip.file))
    looked_at: dict[Stamp, Bound] = {}
    in_all = 0
    stamps = _stamps(folder, files)
    for i, file in enumerate(files):
        if known is not None and _still_good(known, file, project):
            motions |= {key: motion for key, motion in known.motions.items() if key[0] == file}
            foreign |= {file} & known.foreign
            continue
        path = folder / reference(file, file=folder.name, field="clips")
        stamp = stamps.get(file)
        progress(f"Reading {path.name}", i / len(files))
        try:
            # The same file under another name is looked at once.
            bound = looked_at.get(stamp) if stamp is not None else None
            bound = bound or bound_to(path, folder, figure.skeleton, project, progress)
        except Missing:
            missing.append(f"{file} is not in the folder")
            continue
        if stamp is not None and stamp not in looked_at:
            looked_at[stamp] = bound
            in_all += bound.size
            if in_all > MOST_IN_ALL:
                says = f"names files of more than {MOST_IN_ALL >> 30} GB in all"
                raise Trouble(says, file=folder.name, do="take out what is not needed, or split the project")
        foreign |= {file} if bound.foreign else set()
        motions |= {(file, motion.name): motion for motion in bound.motions}
    props: dict[str, Mesh] = {}
    for file in dict.fromkeys(prop.file for prop in project.rig.props):
        path = folder / reference(file, file=folder.name, field="rig.props")
        try:
            props[file] = read_prop(path, within=folder)
        except Missing:
            missing.append(f"{file} is not in the folder")
    sheets, lost = sheets_of(project, folder, known.sheets if known is not None else {})
    read = Assets(figure.skeleton, figure.mesh, motions, props, frozenset(foreign), project.sources)
    return replace(read, sheets=sheets, guests=visiting), list(dict.fromkeys([*missing, *lost, *absent]))


def _alone(project: Project, folder: Path) -> Assets:
    """What a guest's files hold. Guests of guests are not asked for."""
    return load_assets(project, folder, guests=False)[0]


def gone(missing: Iterable[str]) -> set[str]:
    """What is not there, of what ``load_assets`` says of it."""
    return {re.split(" is not in the folder| cannot be read: | plays at ", words)[0] for words in missing}


MOST_DRAWN = 2 * MOST_PIXELS
"""The sheets of a figure have no more pixels in all: some 400 MB."""


def sheets_of(
    project: Project, folder: Path, known: Mapping[str, DrawnSheet] = {}
) -> tuple[dict[str, DrawnSheet], list[str]]:
    """The sheets of a figure that is drawn, by file, and a sentence for each that is not there. Raises ``Trouble``."""
    out: dict[str, DrawnSheet] = {}
    missing = []
    for file in project.rig.sheets:
        path = folder / reference(file, file=folder.name, field="rig.sheets")
        try:
            sheet = known.get(file) or read_motion(path, within=folder, moved=False).sheet
        except Missing:
            missing.append(f"{file} is not in the folder")
            continue
        out |= {file: sheet} if sheet is not None else {}
        if sum(s.pixels.size // 4 for s in out.values()) > MOST_DRAWN:
            says = f"has sheets of more than {MOST_DRAWN // 1_000_000} million pixels in all"
            raise Trouble(says, file=folder.name, do="take out what is not needed, or make them smaller")
    return out, missing


def _stamps(folder: Path, files: Sequence[str]) -> dict[str, Stamp]:
    """The stamps of files that are there. Raises ``Trouble`` when they are too long together, before any is read."""
    with Beneath(folder) as place:
        place.check_sizes(files, MOST_IN_ALL)
        out: dict[str, Stamp] = {}
        for file in files:
            with contextlib.suppress(Trouble):  # what leads out is said when it is read
                stamp = place.stamp(file)
                out |= {file: stamp} if stamp is not None else {}
    return out


def figure_of(project: Project, folder: Path, *, mesh: bool = True) -> MotionFile:
    """The skeleton of a project that names a file for it, and its mesh if that is wanted; of a figure that is drawn the
    points of all its sheets that are there."""
    path = folder / reference(project.rig.figure, file=folder.name, field="rig.figure")
    drawn = bool(project.rig.sheets)
    first = fitted(read_motion(path, within=folder, mesh=mesh and not drawn, moved=False), project.rig)
    if not drawn:
        return first
    parts = [first.skeleton]
    for file in project.rig.sheets[1:]:
        with contextlib.suppress(Missing):
            named = folder / reference(file, file=folder.name, field="rig.sheets")
            parts.append(read_motion(named, within=folder, mesh=False, moved=False).skeleton)
    return replace(first, skeleton=united(parts, drawn_joints(project.rig)))


def drawn_joints(rig: Rig) -> tuple[str, ...]:
    """The joints that mounts and hurtboxes name: those of a drawn figure that no sheet has are put on by hand."""
    named = [*(m.joint for m in rig.mounts), *(j for h in rig.hurtboxes if h.spans for j in (h.joint, h.spans))]
    return tuple(dict.fromkeys(named))


def bound_to(path: Path, folder: Path, figure: Skeleton, project: Project, progress: Progress = no_progress) -> Bound:
    """The motions of a file on the figure, as they are kept or worked out now."""
    files = {path.name: fetch(path, folder)}
    with contextlib.suppress(Trouble, ValueError):  # what is wrong with it is said when it is read
        files |= reader_of(path).beside(path, folder, False)
    # A large file is looked into for its skeleton first: what is kept of it need not be read.
    content = read_motion(path, within=folder, mesh=False) if _size(files) <= carried.SMALL else None
    key = ""
    with contextlib.suppress(Trouble, ValueError):
        bones = (content or read_motion(path, within=folder, mesh=False, moved=False)).skeleton
        if content is None or not is_same(bones, figure):
            key = carried.key_of(files, figure, project.rig, _mapping(bones, project))
    kept = carried.find(key) if key else None
    if kept is not None:
        return Bound(*kept, size=_size(files))
    content = content or read_motion(path, within=folder, mesh=False)
    try:
        bound = bind(content, figure, project.rig, project.sources, progress)
    except Trouble as trouble:
        raise Trouble(trouble.says, file=path.name, field=trouble.field, do=trouble.do) from trouble
    keep_bound(files, content.skeleton, figure, project, bound)
    return replace(bound, size=_size(files))


def keep_bound(
    files: Mapping[str, bytes], skeleton: Skeleton, figure: Skeleton, project: Project, bound: Bound
) -> None:
    """Keep the motions of a file (its bytes and those of the files it names) as they were bound to the figure."""
    if bound.foreign or _size(files) > carried.SMALL:
        key = carried.key_of(files, figure, project.rig, _mapping(skeleton, project))
        carried.keep(key, bound.motions, bound.left_out, bound.foreign)


def _size(files: Mapping[str, bytes]) -> int:
    return sum(map(len, files.values()))


def _mapping(skeleton: Skeleton, project: Project) -> SourceRig | None:
    """The mapping a project has for a skeleton, if it has one."""
    mark = fingerprint(skeleton)
    return next((s for s in project.sources if s.fingerprint == mark), None)


def _still_good(known: Assets, file: str, project: Project) -> bool:
    return file in known.files and (file not in known.foreign or known.sources == project.sources)
