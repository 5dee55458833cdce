"""Bringing motion files into a project folder."""

from __future__ import annotations

from pathlib import Path

import msgspec

from veergust.core.files.folder import finish_save, project_files, slug, stage_save
from veergust.core.files.gltf_data import open_gltf
from veergust.core.files.gltf_read import GltfContent, read_gltf
from veergust.core.files.inside import inside
from veergust.core.model import Clip, Project, Rig
from veergust.core.trouble import Trouble

KINDS = (".glb", ".gltf")


def import_file(
    project: Project, folder: Path, source: Path, *, save: bool = True
) -> tuple[Project, list[str], list[str]]:
    """The project with the clips of ``source`` added and its file copied in.

    Gives the project, the names of the new clips and a sentence for each thing left out. The first file with a
    skeleton becomes the figure. Without ``save`` only the motion file is written, not the project. Raises
    ``Trouble`` before anything is written.
    """
    if source.suffix.lower() not in KINDS:
        raise Trouble("is not a .glb or .gltf file", file=source.name, do="export it as glTF 2.0")
    bones = None
    if project.rig.figure:
        figure = inside(project.rig.figure, folder, file=folder.name, field="rig.figure")
        bones = read_gltf(figure, within=folder, mesh=False).skeleton
    content = read_gltf(source, skeleton=bones)
    if bones is None and not content.motions and content.mesh is None and len(content.skeleton) < 2:
        raise Trouble("holds neither a figure nor an animation", file=source.name, do="export it again")
    if bones is not None and not content.motions:
        raise Trouble("holds no animation", file=source.name, do="export it with its keys")
    files = _copies(source, folder)
    main = f"clips/{source.name}"
    known = {clip.name for clip in project.clips}
    clips = []
    for motion in content.motions:
        name, n = slug(motion.name), 2
        while name in known:
            name, n = f"{slug(motion.name)}_{n}", n + 1
        known.add(name)
        clips.append(Clip(name=name, file=main, animation=motion.name))
    changed = msgspec.structs.replace(project, clips=(*project.clips, *clips))
    if bones is None:
        changed = msgspec.structs.replace(changed, rig=_rig(project.rig, content, main))
    if save:
        files |= project_files(changed)
    stage_save(folder, files, [])
    finish_save(folder)
    return changed, [clip.name for clip in clips], list(content.left_out)


def _rig(rig: Rig, content: GltfContent, file: str) -> Rig:
    names = content.skeleton.names
    lower = {name.lower(): name for name in reversed(names)}
    hips = next((lower[n] for n in ("hips", "pelvis", "hip") if n in lower), names[0])
    root = next((lower[n] for n in ("root", "origin") if n in lower), "")
    return msgspec.structs.replace(rig, figure=file, hips=hips, root=root)


def _copies(source: Path, folder: Path) -> dict[str, bytes]:
    """The file and the buffers it names, by where they go in the project."""
    document = open_gltf(source)
    out = {f"clips/{source.name}": source.read_bytes()}
    for i, entry in enumerate(document.items("buffers")):
        uri = entry.get("uri")
        if isinstance(uri, str) and not uri.startswith("data:"):
            path = inside(uri, source.parent, file=source.name, field=f"buffers[{i}].uri")
            out[f"clips/{uri}"] = path.read_bytes()
    for name, data in out.items():
        if (folder / name).exists() and (folder / name).read_bytes() != data:
            raise Trouble(
                f"a different file of that name is in the project ({name})",
                file=source.name,
                do="rename the file and import it again",
            )
    return out
