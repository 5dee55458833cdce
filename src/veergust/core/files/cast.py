"""Loading what a project's clips and figure hold."""

from __future__ import annotations

from pathlib import Path

from veergust.core.files.gltf_read import read_gltf
from veergust.core.files.inside import inside
from veergust.core.model import Project
from veergust.core.motion.figure import EMPTY, Cast
from veergust.core.motion.sampling import Motion


def load_cast(project: Project, folder: Path) -> tuple[Cast, list[str]]:
    """The skeleton, mesh and motions of a project, and a sentence for each clip file that is not there.

    A file that is there and damaged raises ``Trouble``.
    """
    if not project.rig.figure:
        return EMPTY, []
    figure_path = inside(project.rig.figure, folder, file=folder.name, field="rig.figure")
    figure = read_gltf(figure_path, within=folder)
    motions: dict[tuple[str, str], Motion] = {}
    missing: list[str] = []
    for file in dict.fromkeys(clip.file for clip in project.clips):
        path = inside(file, folder, file=folder.name, field="clips")
        if not path.is_file():
            missing.append(f"{file} is not in the folder")
            continue
        content = read_gltf(path, within=folder, skeleton=figure.skeleton, mesh=False)
        motions |= {(file, motion.name): motion for motion in content.motions}
    return Cast(figure.skeleton, figure.mesh, motions), missing
