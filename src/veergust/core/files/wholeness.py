"""Whether what a project names is there: clips its actions use, files its clips use."""

from __future__ import annotations

from veergust.core.files.folder import action_path
from veergust.core.model import Action, Project
from veergust.core.motion.figure import Cast
from veergust.core.motion.prepared import motion_of
from veergust.core.trouble import Trouble


def missing_clips(
    project: Project, cast: Cast, folder: str, actions: tuple[Action, ...] | None = None
) -> list[Trouble]:
    """A trouble for every cut of ``actions`` (all, unless given) whose clip cannot be played."""
    clips = {clip.name: clip for clip in project.clips}
    out = []
    for action in project.actions if actions is None else actions:
        for s, section in enumerate(action.sections):
            for c, cut in enumerate(section.cuts):
                clip = clips.get(cut.clip)
                if motion_of(cast, clip) is not None:
                    continue
                says = (
                    f"names the clip {cut.clip!r}, which the project does not have"
                    if clip is None
                    else f"names the clip {cut.clip!r}, whose file {clip.file} is gone or lacks that animation"
                )
                out.append(
                    Trouble(
                        says,
                        file=f"{folder}/{action_path(project, action)}",
                        field=f"sections[{s}].cuts[{c}].clip",
                        do="import the clip, bring its file back, or choose another",
                    )
                )
    return out
