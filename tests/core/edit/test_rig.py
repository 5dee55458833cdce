"""Props and mounts, set one at a time."""

from __future__ import annotations

from veergust.core.edit.rig import add_prop, set_prop
from veergust.core.model import Project


def test_a_prop_is_set_and_no_other() -> None:
    edit, one = add_prop(Project(name="harbour"), "clips/a.glb", "palm", "lamp")
    edit, two = add_prop(edit.project, "clips/b.glb", "palm", "hook")
    set_ = set_prop(edit.project, two, scale=0.5)
    assert [(p.name, p.scale) for p in set_.project.rig.props] == [(one, 1.0), (two, 0.5)]
    assert set_.words == "Prop hook: scale"
