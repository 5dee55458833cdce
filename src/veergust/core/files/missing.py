"""Whether what a project names is there: clips its actions use, files its clips use."""

from __future__ import annotations

from veergust.core.files.as_files import action_path
from veergust.core.model import Action, Clip, Project
from veergust.core.motion import Assets, motion_of
from veergust.core.trouble import Trouble


def missing_clips(
    project: Project, assets: Assets, folder: str, actions: tuple[Action, ...] | None = None, locomotion: bool = True
) -> list[Trouble]:
    """A trouble for every cut of ``actions`` (all, unless given), and with ``ground`` for every state of locomotion,
    whose clip cannot be played."""
    clips = {clip.name: clip for clip in project.clips}
    out = []
    for action in project.actions if actions is None else actions:
        for s, section in enumerate(action.sections):
            for c, cut in enumerate(section.cuts):
                clip = clips.get(cut.clip)
                if motion_of(assets, clip) is not None:
                    continue
                file = f"{folder}/{action_path(project, action)}"
                out.append(_missing(cut.clip, clip, file, f"sections[{s}].cuts[{c}].clip"))
    for i, state in enumerate(project.locomotion.states if locomotion else ()):
        named = [("clip", state.clip)] if state.clip else []
        named += [(f"blend[{j}].clip", point.clip) for j, point in enumerate(state.blend)]
        for field, name in named:
            if motion_of(assets, clips.get(name)) is None:
                out.append(_missing(name, clips.get(name), f"{folder}/ground.json", f"states[{i}].{field}"))
    return out


def _missing(name: str, clip: Clip | None, file: str, field: str) -> Trouble:
    says = (
        f"names the clip {name!r}, which the project does not have"
        if clip is None
        else f"names the clip {name!r}, whose file {clip.file} is gone or lacks that animation"
    )
    return Trouble(says, file=file, field=field, do="import the clip, bring its file back, or choose another")
