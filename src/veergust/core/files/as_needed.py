"""A project's motions, each file of which is read when something of it is first asked for."""

from __future__ import annotations

from pathlib import Path

from veergust.core.files.assets import bound_to, figure_of, sheets_of
from veergust.core.files.beneath import Missing, reference
from veergust.core.files.guests import guests_of
from veergust.core.model import Project
from veergust.core.motion import EMPTY, Assets, Motion


class MotionsAsNeeded(dict[tuple[str, str], Motion]):
    """Motions by file and name; of a file without a name the first. What is not there, is not there."""

    def __init__(self, project: Project, folder: Path, figure: Assets) -> None:
        super().__init__()
        self.project, self.folder, self.figure = project, folder, figure
        self._asked: set[str] = set()

    def __missing__(self, key: tuple[str, str]) -> Motion:
        file = key[0]
        if file not in self._asked:
            self._asked.add(file)
            path = self.folder / reference(file, file=self.folder.name, field="clips")
            try:
                found = bound_to(path, self.folder, self.figure.skeleton, self.project).motions
            except Missing:
                found = ()
            self.update({(file, ""): found[0]} if found else {})
            self.update({(file, motion.name): motion for motion in found})
            if key in self:
                return self[key]
        raise KeyError(key)


def assets_as_needed(project: Project, folder: Path) -> Assets:
    """What a project's files hold, as ``load_assets`` gives it, but read file by file as it is asked for.

    For whoever asks for little of it and goes away again. A damaged file raises ``Trouble`` when it is asked for.
    """
    if not project.rig.figure:
        return EMPTY
    figure = figure_of(project, folder)
    here = Assets(figure.skeleton, figure.mesh, sources=project.sources)
    motions = MotionsAsNeeded(project, folder, here)
    sheets = sheets_of(project, folder)[0]
    guests = guests_of(project, folder, assets_as_needed)[0]
    return Assets(here.skeleton, here.mesh, motions, sources=project.sources, sheets=sheets, guests=guests)
