"""Many edits in a row: every step back and forth gives the same bytes, and nothing ever lies outside its section."""

from __future__ import annotations

from hypothesis import given, settings
from hypothesis import strategies as st
from tools.made.storm import storm

from tests.core.edit.test_cuts import inside
from veergust.core.files.as_files import project_files, project_from_files
from veergust.core.model import Project
from veergust.core.motion.figure import Assets


@settings(max_examples=12)
@given(seed=st.integers(0, 2**32))
def test_edits_undone_and_done_again_give_the_same_bytes(quay: Project, assets: Assets, seed: int) -> None:
    steps = [quay]
    kept = [project_files(quay)]
    for edit in storm(quay, assets, seed, 25):
        steps.append(edit.project)
        kept.append(project_files(edit.project))
        assert edit.words
    # Values are never changed in place: every step, back and forth, is still what it was.
    for project, files in [*reversed(list(zip(steps, kept))), *zip(steps, kept)]:
        assert project_files(project) == files
    last = steps[-1]
    assert project_from_files(kept[-1], "x.veergust") == last
    for action in last.actions:
        assert inside(last, assets, action.name), action.name
