"""Loading what a project's clips and figure hold."""

from __future__ import annotations

from pathlib import Path

from veergust.core.files.beneath import Missing, reference
from veergust.core.files.fitting import fitted
from veergust.core.files.gltf_mesh import read_prop
from veergust.core.files.reading import Progress, bind, no_progress, read_motion
from veergust.core.model import Project
from veergust.core.motion.figure import EMPTY, Assets, Mesh
from veergust.core.motion.sampling import Motion
from veergust.core.trouble import Trouble


def load_assets(
    project: Project, folder: Path, progress: Progress = no_progress, known: Assets | None = None
) -> tuple[Assets, list[str]]:
    """The skeleton, mesh, motions and props of a project, and a sentence for each file that is not there.

    Files that ``known`` holds already are not read again, unless the mappings have changed. A file that is there and
    damaged raises ``Trouble``.
    """
    if not project.rig.figure:
        return EMPTY, []
    figure_path = folder / reference(project.rig.figure, file=folder.name, field="rig.figure")
    figure = fitted(read_motion(figure_path, within=folder), project.rig)
    motions: dict[tuple[str, str], Motion] = {}
    foreign: set[str] = set()
    missing: list[str] = []
    files = list(dict.fromkeys(clip.file for clip in project.clips if clip.file))
    for i, file in enumerate(files):
        if known is not None and _still_good(known, file, project):
            motions |= {key: motion for key, motion in known.motions.items() if key[0] == file}
            foreign |= {file} & known.foreign
            continue
        path = folder / reference(file, file=folder.name, field="clips")
        progress(f"Reading {path.name}", i / len(files))
        try:
            content = read_motion(path, within=folder, mesh=False)
        except Missing:
            missing.append(f"{file} is not in the folder")
            continue
        try:
            bound = bind(content, figure.skeleton, project.rig, project.sources)
        except Trouble as trouble:
            raise Trouble(trouble.says, file=path.name, field=trouble.field, do=trouble.do) from trouble
        foreign |= {file} if bound.foreign else set()
        motions |= {(file, motion.name): motion for motion in bound.motions}
    props: dict[str, Mesh] = {}
    for file in dict.fromkeys(prop.file for prop in project.rig.props):
        path = folder / reference(file, file=folder.name, field="rig.props")
        try:
            props[file] = read_prop(path, within=folder)
        except Missing:
            missing.append(f"{file} is not in the folder")
    return Assets(figure.skeleton, figure.mesh, motions, props, frozenset(foreign), project.sources), missing


def _still_good(known: Assets, file: str, project: Project) -> bool:
    return file in known.files and (file not in known.foreign or known.sources == project.sources)
