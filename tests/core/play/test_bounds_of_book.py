"""What a book keeps compiled stays within bounds, however long somebody drags."""

from __future__ import annotations

from tools.made.edits import replace, with_section

from veergust.core.model import Project
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import SPARE, CompiledProject


def test_a_long_drag_keeps_no_more_than_a_project_and_some(quay: Project, assets: Assets) -> None:
    build = CompiledProject(quay, assets)
    build.prepare()
    part = quay.actions[0].sections[1]
    many = sum(len(a.sections) for a in quay.actions)
    for n in range(3 * SPARE + 2 * many):
        cut = replace(part.cuts[0], rate=1.0 + n / 1000)
        build = build.renew(with_section(build.project, quay.actions[0].name, 1, cuts=(cut,)))
        assert build.action(quay.actions[0].name) is not None
    assert len(build._sections) <= SPARE + 2 * many
    assert len(assets.tracks) < 200
