"""Bringing motion files into a project folder."""

from __future__ import annotations

import re
from dataclasses import dataclass
from dataclasses import replace as with_
from pathlib import Path

from msgspec.structs import replace

from veergust.core.edit import Edit, add_prop, before_stand, outfit
from veergust.core.files import assets
from veergust.core.files.as_files import check_change, slug
from veergust.core.files.assets import keep_bound
from veergust.core.files.beneath import Beneath, Missing
from veergust.core.files.drawings.outfitting import drawn_clip, drawn_rig, with_sheet, with_strikes
from veergust.core.files.drawings.packing import AS_FOUND, Draft, How, drafted, is_bare
from veergust.core.files.drawings.read import strips_of
from veergust.core.files.fetch import fetch
from veergust.core.files.fitting import fitted, unit_of, upright_turn
from veergust.core.files.formats import PICTURES
from veergust.core.files.gltf_mesh import read_prop
from veergust.core.files.lock import Lock
from veergust.core.files.motion_file import MotionFile, fingerprint
from veergust.core.files.progress import Progress, no_progress
from veergust.core.files.reading import bind, is_same, read_motion, reader_of, source_rig
from veergust.core.files.saving import Digests, add_files, save_project
from veergust.core.files.wav_read import read_wav
from veergust.core.model import Clip, Project, Rig, SourceRig
from veergust.core.motion import Assets, Skeleton, parts_of, propose, united
from veergust.core.trouble import Trouble


@dataclass(frozen=True, eq=False)
class Arrival:
    """A motion file that was read and not yet taken in: its content, where it lies, and the mapping it needs.

    ``rig`` is None when the file has the figure's own skeleton, or brings the figure. Of bare pictures there is a
    ``draft``: where their cells are and what is on them is proposed.
    """

    source: Path
    content: MotionFile
    rig: SourceRig | None
    known: bool
    draft: Draft | None = None


@dataclass(frozen=True)
class Imported:
    """The project with the new clips, their names, and a sentence for each thing left out or taken for granted.

    ``known`` are the digests of the project's files if it was saved with them.
    """

    project: Project
    clips: tuple[str, ...]
    left_out: tuple[str, ...]
    known: Digests | None = None


def held_name(name: str) -> tuple[str, str]:
    """The name a file is called by in a project, and a sentence when that is another than its own."""
    stem, dot, kind = name.rpartition(".")
    plain = re.sub(r"[\x00-\x1f\x7f-\x9f/\\:*?\"<>|\ud800-\udfff]+", "-", stem).strip(" .-")
    held = f"{plain[:80] or 'file'}{dot}{kind}"
    return held, "" if held == name else f"it is called {held} in the project"


def figure_of(project: Project, folder: Path) -> Skeleton | None:
    """The skeleton of a project's figure, if it has one."""
    return assets.figure_of(project, folder, mesh=False).skeleton if project.rig.figure else None


def said_file(source: Path) -> Path:
    """What is said beside a sheet, where a picture was named and it lies beside it; else the file itself."""
    beside = source.with_suffix(".json")
    return beside if source.suffix.lower() in PICTURES and beside.is_file() else source


def arrive(project: Project, folder: Path, source: Path, how: How = AS_FOUND) -> Arrival:
    """Read ``source`` and see how its skeleton answers to the figure's; bare pictures are cut as ``how`` says. Changes
    nothing; raises ``Trouble``."""
    if is_bare(source):
        return of_draft(project, folder, drafted(source, how))
    source = said_file(source)
    content = read_motion(source)
    bones = figure_of(project, folder)
    if content.drawn is not None or (bones is not None and bones.picture >= 0):
        if bones is not None:
            bind(content, bones, project.rig, project.sources)  # says why, where it cannot be
        return Arrival(source, content, None, True)
    if bones is None:
        if not content.motions and content.mesh is None and len(content.skeleton) < 2:
            raise Trouble("holds neither a figure nor an animation", file=source.name, do="export it again")
        return Arrival(source, content, None, True)
    if not content.motions:
        raise Trouble("holds no animation", file=source.name, do="export it with its keys")
    if is_same(content.skeleton, bones) or is_same(fitted(content, project.rig).skeleton, bones):
        return Arrival(source, content, None, True)
    mark = fingerprint(content.skeleton)
    known = any(s.fingerprint == mark for s in project.sources)
    return Arrival(source, content, source_rig(content.skeleton, bones, project.sources), known)


def of_draft(project: Project, folder: Path, draft: Draft) -> Arrival:
    """A sheet on its way in as it is said to be now. Raises ``Trouble``."""
    arrival = arrive(project, folder, draft.written())
    return with_(
        arrival, content=with_(arrival.content, left_out=(*draft.notes, *arrival.content.left_out)), draft=draft
    )


def take_in(
    project: Project,
    folder: Path,
    arrival: Arrival,
    *,
    save: bool = True,
    progress: Progress = no_progress,
    lock: Lock | None = None,
    known: Digests | None = None,
) -> Imported:
    """The project with the clips of an arrival, its file copied in and its mapping kept.

    The first file with a skeleton becomes the figure. Without ``save`` only the motion file is written, not the
    project; ``lock`` and ``known`` are as for ``save_project``. Raises ``Trouble`` (or what ``progress`` raises)
    before anything is written.
    """
    source, content = arrival.source, arrival.content
    held, renamed = held_name(source.name)
    main = f"clips/{held}"
    left_out = list(content.left_out)
    bones = figure_of(project, folder)
    motions = content.motions
    changed = project
    if bones is None:
        changed = replace(project, rig=_rig(project.rig, content, main, left_out))
    else:
        if content.drawn is not None:
            bones = united([bones, content.skeleton])
            changed = replace(project, rig=with_sheet(project.rig, content.drawn, main))
        if arrival.rig is not None:
            kept = tuple(s for s in project.sources if s.fingerprint != arrival.rig.fingerprint)
            changed = replace(project, sources=(*kept, arrival.rig))
        bound = bind(content, bones, changed.rig, changed.sources, progress)
        motions = bound.motions
        left_out = list(bound.left_out)
        if not motions:
            raise Trouble(
                "holds no keys for any joint of the figure", file=source.name, do="map its joints, or export it again"
            )
    left_out += trusted(content.skeleton, bones, arrival) if bones is not None else []
    left_out += [renamed] if renamed else []
    files = _copies(source, folder, main)
    if bones is not None:
        keep_bound({Path(name).name: data for name, data in files.items()}, content.skeleton, bones, changed, bound)
    taken = {clip.name for clip in project.clips}
    # A skeleton without a root of its own leaves the figure's still: the hips carry the body then.
    rootless = (
        arrival.rig is not None and project.rig.root and project.rig.root not in {f for _, f in arrival.rig.joints}
    )
    clips = []
    for motion in motions:
        name, n = slug(motion.name), 2
        while name in taken:
            name, n = f"{slug(motion.name)}_{n}", n + 1
        taken.add(name)
        root = changed.rig.hips if rootless else ""
        clip = Clip(name=name, file=main, animation=motion.name, root_joint=root)
        clips.append(clip if content.drawn is None else drawn_clip(clip, content.drawn))
    changed = replace(changed, clips=before_stand(changed.clips, tuple(clips)))
    if content.drawn is not None:
        strips = strips_of(content.drawn, source.stem)
        changed = with_strikes(changed, content.drawn, list(zip(strips, [c.name for c in clips])))
    if bones is None:
        new = fitted(content, changed.rig)
        bones, motions = new.skeleton, new.motions
    changed = outfit(changed, Assets(bones, None, {(main, motion.name): motion for motion in motions}))
    progress("Writing", 1.0)
    try:
        check_change(project, changed)
    except Trouble as trouble:
        says = f"brings what a project cannot hold: {trouble.field} {trouble.says}"
        raise Trouble(says, file=source.name, do="export it in a usual unit") from trouble
    if save:
        known = save_project(changed, folder, also=files, lock=lock, known=known)
    else:
        add_files(folder, files, lock=lock)
    return Imported(changed, tuple(clip.name for clip in clips), tuple(dict.fromkeys(left_out)), known)


def trusted(skeleton: Skeleton, figure: Skeleton, arrival: Arrival) -> list[str]:
    """What is taken on trust of a skeleton that is mapped for the first time, in sentences."""
    rig = arrival.rig
    if rig is None or arrival.known:
        return []
    out = []
    if any(rig.turn):
        turned = ", ".join(f"{a:g}° about {axis}" for a, axis in zip(rig.turn, "xyz") if a)
        out.append(f"which way it stands and looks is guessed: it is turned {turned}")
    by_place = [p.source for p in propose(skeleton, figure).pairs if p.reason == "position"]
    chosen = {s for s, _ in rig.joints}
    unsure = [name for name in by_place if name in chosen]
    if unsure:
        some = ", ".join(unsure[:4]) + (", …" if len(unsure) > 4 else "")
        out.append(f"{len(unsure)} joints are matched only by where they stand: {some}")
    return out


def import_file(
    project: Project,
    folder: Path,
    source: Path,
    *,
    how: How = AS_FOUND,
    save: bool = True,
    lock: Lock | None = None,
    known: Digests | None = None,
) -> Imported:
    """``arrive`` and ``take_in`` in one, with the mapping as it is kept or proposed."""
    return take_in(project, folder, arrive(project, folder, source, how), save=save, lock=lock, known=known)


def _rig(rig: Rig, content: MotionFile, file: str, left_out: list[str]) -> Rig:
    if content.drawn is not None:
        left_out += content.left_out
        return drawn_rig(rig, content.drawn, file)
    turn = upright_turn(content.skeleton)
    unit, trusted = unit_of(content.skeleton)
    if trusted:
        left_out.append(trusted)
    if any(turn):
        left_out.append("the figure is turned to stand upright and look along +Z")
    names = content.skeleton.names
    parts = parts_of(content.skeleton)
    hips = next((n for n, p in zip(names, parts) if p.kind == "hips" and not p.side), names[0])
    root = next((n for n, p in zip(names, parts) if p.kind == "root" and n != hips), "")
    return replace(rig, figure=file, unit=unit, turn=turn, hips=hips, root=root)


def _copies(source: Path, folder: Path, main: str) -> dict[str, bytes]:
    """The file and the buffers it names, by where they go in the project."""
    out = {main: fetch(source)}
    out |= {f"clips/{name}": data for name, data in reader_of(source).beside(source, None, False).items()}
    with Beneath(folder) as place:
        for name, data in out.items():
            try:
                there = place.read(name)
            except Missing:
                continue
            if there != data:
                raise Trouble(
                    f"a different file of that name is in the project ({name})",
                    file=source.name,
                    do="rename the file and import it again",
                )
    return out


def stands_in_the_way(folder: Path, source: Path) -> str:
    """The file of a project that has the name of one that comes in, and is another; nothing when none has."""
    main = f"clips/{held_name(source.name)[0]}"
    with Beneath(folder) as place:
        # What is no ordinary file, such as a link, is refused when it comes to writing.
        return main if place.kind(main) == "file" and place.read(main) != fetch(source) else ""


def put_in_place(folder: Path, source: Path, lock: Lock | None = None) -> tuple[list[str], str]:
    """Have a file take the place of the one of its name; its clips play what it has now. Gives the files that are to
    be read again, and what the old one is called from now on, for it is kept.

    Raises ``Trouble`` before anything is written: when it cannot be read, or its skeleton is another one.
    """
    main = f"clips/{held_name(source.name)[0]}"
    new = read_motion(source)
    old = read_motion(folder / main, within=folder)
    if fingerprint(new.skeleton) != fingerprint(old.skeleton):
        says = f"has another skeleton than {main}, whose place it would take"
        raise Trouble(says, file=source.name, do="rename the file and import it")
    files = {main: fetch(source)}
    files |= {f"clips/{name}": data for name, data in reader_of(source).beside(source, None, False).items()}
    stem, dot, kind = main.rpartition(".")
    with Beneath(folder) as place:
        for name, data in files.items():
            if name != main and place.kind(name) and place.read(name) != data:
                says = f"brings a {name} of its own, and what is kept of the old file needs the one that is there"
                raise Trouble(says, file=source.name, do="export it as one .glb, or rename both")
        n = 1
        while place.kind(aside := f"{stem} (before {n}){dot}{kind}"):
            n += 1
        files[aside] = place.read(main)
    add_files(folder, files, lock=lock)
    return [name for name in files if name != aside], aside


def bring_prop(project: Project, folder: Path, source: Path, mount: str, lock: Lock | None = None) -> tuple[Edit, str]:
    """Copy a glTF mesh into the project and put it on a mount; the edit and the prop's name.

    Raises ``Trouble`` before anything is written.
    """
    if source.suffix.lower() not in (".glb", ".gltf"):
        raise Trouble("is not a .glb or .gltf file", file=source.name, do="export the prop as glTF 2.0")
    read_prop(source)
    main = f"clips/{held_name(source.name)[0]}"
    add_files(folder, _copies(source, folder, main), lock=lock)
    return add_prop(project, main, mount, source.stem)


def bring_sounds(project: Project, folder: Path, sources: list[Path], lock: Lock | None = None) -> Edit:
    """Copy WAV files into the project's ``sounds``; events may name them from then on.

    Raises ``Trouble`` before anything is written.
    """
    files = {}
    names = []
    for source in sources:
        read_wav(source)
        name = held_name(f"{source.stem}.wav")[0]
        names.append(name.removesuffix(".wav"))
        files[f"sounds/{name}"] = fetch(source)
    add_files(folder, files, lock=lock)
    known = tuple(dict.fromkeys((*project.known_events, *names)))
    return Edit(replace(project, known_events=known), f"Sounds {', '.join(names)}")
