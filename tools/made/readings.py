"""A clip read on its own, outside of any project."""

from __future__ import annotations

from veergust.core.model import Clip, Project, Rig
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.study.clip_reading import Reading, reading_of


def read_clip(assets: Assets, clip: Clip, root: str = "") -> Reading:
    """``root`` is the joint that stands for the body."""
    found = reading_of(CompiledProject(Project(rig=Rig(root=root), clips=(clip,)), assets), clip.name)
    assert found is not None
    return found
