"""Three states of a project put together: what both did in different places is both, and what clashes is named."""

from __future__ import annotations

import random
from collections.abc import Callable
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from tools.made import DEMO
from tools.made.edits import action, replace, with_action

from tests.conftest import OSSA, TARN
from veergust.cli.main import main
from veergust.core.changes.merge import merge, settle
from veergust.core.changes.threeway import ThreeWay
from veergust.core.edit.actions import rename_action
from veergust.core.edit.clips import rename_clip
from veergust.core.edit.fields import set_fields
from veergust.core.edit.layers import set_layer
from veergust.core.edit.sections import rename_section
from veergust.core.edit.spans import SpanRef, add, remove
from veergust.core.edit.staging import set_fighter
from veergust.core.files.as_files import project_files
from veergust.core.files.folder import open_project
from veergust.core.files.saving import save_project
from veergust.core.model import Exit, Hold, Project

Deed = Callable[[Project], Project]
SWEEP = SpanRef("Low sweep", 1, "strikes", 0)
DEEDS: list[Deed] = [
    lambda p: set_fields(p, [SWEEP], damage=21.0).project,
    lambda p: set_fields(p, [SWEEP], hit_stop=9).project,
    lambda p: set_fields(p, [SpanRef("Thrust", 1, "strikes", 0)], damage=3.0).project,
    lambda p: set_fields(p, [SpanRef("Low sweep", 1, "exits", 0)], blend=7).project,
    lambda p: with_action(p, "Low sweep", blend_in=9),
    lambda p: with_action(p, "Low sweep", tags=(*action(p, "Low sweep").tags, "wide")),
    lambda p: add(p, SpanRef("Low sweep", 0, "holds", 0), 1, 4)[0].project,
    lambda p: add(p, SpanRef("Low sweep", 2, "shields", 0), 1, 4)[0].project,
    lambda p: set_fighter(p, TARN, position=(1.4, 0.0, 0.2)).project,
    lambda p: set_fighter(p, OSSA, health=55.0).project,
    lambda p: set_layer(p, "Arms", "weight", weight=0.5).project,
    lambda p: replace(p, locomotion=replace(p.locomotion, gravity=5.0)),
    lambda p: replace(p, known_events=(*p.known_events, "splash")),
    lambda p: replace(p, settings=replace(p.settings, buffer=5)),
    lambda p: rename_clip(p, "slide", "skid").project,
    lambda p: rename_action(p, "Duck roll", "Roll").project,
    lambda p: rename_action(p, "Overhead hook", "Hook").project,
    lambda p: remove(p, SpanRef("Thrust", 1, "exits", 0)).project,
]
"""Each in a place of its own."""


@given(st.sets(st.integers(0, len(DEEDS) - 1)), st.sets(st.integers(0, len(DEEDS) - 1)), st.randoms())
def test_what_two_did_in_different_places_is_what_one_would_have_done(
    quay: Project, mine: set[int], other: set[int], draw: random.Random
) -> None:
    mine = mine - other

    def done(project: Project, deeds: set[int]) -> Project:
        for n in sorted(deeds):
            project = DEEDS[n](project)
        return project

    merged = merge(quay, done(quay, mine), done(quay, other))
    assert merged.differences == ()
    assert project_files(merged.project) == project_files(done(quay, mine | other))


def test_a_span_that_both_changed_otherwise_is_one_choice_and_all_else_is_both(quay: Project) -> None:
    ours = set_fields(set_fields(quay, [SWEEP], damage=21.0).project, [SWEEP], hit_stop=9).project
    theirs = set_fields(set_fields(quay, [SWEEP], damage=30.0).project, [SWEEP], strength="heavy").project
    merged = merge(quay, ours, theirs)
    (one,) = merged.differences
    assert one.says == "the action Low sweep (sections › Swing › strikes › Sweep › damage)"
    for side, damage in (("ours", 21.0), ("theirs", 30.0)):
        chosen = settle(merged, {one.key: side}, theirs)  # type: ignore[dict-item]
        (strike,) = action(chosen, "Low sweep").sections[1].strikes
        assert (strike.damage, strike.hit_stop, strike.strength) == (damage, 9, "heavy")


def test_both_called_it_otherwise_and_ours_stays_with_all_that_names_it(quay: Project) -> None:
    ours, theirs = (rename_action(quay, "Duck roll", name).project for name in ("Roll", "Tumble"))
    theirs = with_action(theirs, "Tumble", blend_in=2)
    merged = merge(quay, ours, theirs)
    assert merged.differences == ()
    assert merged.project == with_action(ours, "Roll", blend_in=2)
    sections = (
        rename_section(quay, "Low sweep", 1, "Round").project,
        rename_section(quay, "Low sweep", 1, "Arc").project,
    )
    assert merge(quay, *sections).project == sections[0]


def test_what_one_took_away_and_the_other_changed_is_a_clash_and_what_both_added_alike_is_there_once(
    quay: Project,
) -> None:
    gone, changed = remove(quay, SWEEP).project, set_fields(quay, [SWEEP], damage=1.0).project
    for ours, theirs in ((gone, changed), (changed, gone)):
        merged = merge(quay, ours, theirs)
        assert len(merged.differences) == 1
        assert len(action(merged.project, "Low sweep").sections[1].strikes) == len(
            action(ours, "Low sweep").sections[1].strikes
        )
    assert merge(quay, gone, gone).differences == ()
    added = add(quay, SpanRef("Low sweep", 0, "holds", 0), 1, 4)[0].project
    assert merge(quay, added, added).project == added
    hold = Hold(start=1, end=4)
    together = ThreeWay("ours")
    made = together.of((), (hold,), (replace(hold, end=6),))
    assert (made, together.clashes) == ((hold,), [("feet",)])


def test_edges_that_would_cross_are_one_choice(quay: Project) -> None:
    base = Exit(start=2, end=10)
    together = ThreeWay("ours")
    made = together.of(base, replace(base, end=4), replace(base, start=6))
    assert (made.start, made.end) == (2, 4)
    assert together.clashes == [()]
    other = ThreeWay("theirs")
    assert (other.of(base, replace(base, end=4), replace(base, start=6)).start) == 6
    fine = ThreeWay("ours")
    assert fine.of(base, replace(base, end=8), replace(base, start=6)) == replace(base, start=6, end=8)
    assert fine.clashes == []


@pytest.mark.parametrize(
    ("ours", "theirs", "made"),
    [
        (("a", "b", "c"), ("x", "a", "b"), ("x", "a", "b", "c")),
        (("a",), ("a", "b", "d"), ("a", "d")),
        (("b", "a"), ("a", "b", "c"), ("b", "c", "a")),
        ((), ("a",), ()),
        (("a", "z", "b"), ("a", "z", "b"), ("a", "z", "b")),
    ],
)
def test_lists_of_words_have_what_either_added_and_neither_took_away(
    ours: tuple[str, ...], theirs: tuple[str, ...], made: tuple[str, ...]
) -> None:
    together = ThreeWay("ours")
    assert together.of(("a", "b"), ours, theirs) == made
    assert together.clashes == []


# On the disk


def run(*words: object) -> int:
    with pytest.raises(SystemExit) as end:
        main(list(map(str, words)))
    return int(end.value.code or 0)


def copied(quay: Project, tmp_path: Path, ours: Deed, theirs: Deed) -> list[Path]:
    """Three folders with nothing in them but the project's own files."""
    out = []
    deeds: list[tuple[str, Deed]] = [("base", lambda p: p), ("ours", ours), ("theirs", theirs)]
    for name, deed in deeds:
        folder = tmp_path / f"{name}.veergust"
        (folder / "clips").mkdir(parents=True)
        for file in (DEMO / "clips").iterdir():
            (folder / "clips" / file.name).write_bytes(file.read_bytes())
        save_project(deed(quay), folder)
        out.append(folder)
    return out


def test_folders_are_put_together_where_ours_is(quay: Project, tmp_path: Path, capsys: pytest.CaptureFixture) -> None:  # type: ignore[type-arg]
    base, ours, theirs = copied(quay, tmp_path, DEEDS[0], DEEDS[15])
    assert run("merge", base, ours, theirs) == 0
    assert open_project(ours) == DEEDS[15](DEEDS[0](quay))
    assert open_project(theirs) == DEEDS[15](quay)
    assert run("diff", base, ours) == 0
    told = capsys.readouterr().out
    assert "Roll: renamed Duck roll → Roll" in told
    assert "Sweep damage 13 → 21" in told


def test_a_clash_leaves_ours_with_theirs_as_a_version_beside_it(quay: Project, tmp_path: Path) -> None:
    base, ours, theirs = copied(
        quay, tmp_path, DEEDS[0], lambda p: set_fields(p, [SWEEP], damage=30.0, hit_stop=2).project
    )
    assert run("merge", base, ours, theirs) == 1
    made = action(open_project(ours), "Low sweep")
    (strike,) = made.sections[1].strikes
    assert (strike.damage, strike.hit_stop) == (21.0, 2)
    kept = made.kept[-1]
    assert kept.name == "theirs"
    assert len(made.kept) == len(action(quay, "Low sweep").kept) + 1
    assert kept.action.sections[1].strikes[0].damage == 30.0


@pytest.mark.parametrize(
    ("file", "ours", "theirs", "clashes"),
    [
        ("actions/low_sweep.json", DEEDS[0], DEEDS[4], 0),
        ("actions/low_sweep.json", DEEDS[0], lambda p: set_fields(p, [SWEEP], damage=30.0).project, 1),
        ("stage.json", DEEDS[8], DEEDS[9], 0),
        ("ground.json", DEEDS[11], lambda p: replace(p, locomotion=replace(p.locomotion, friction=9.0)), 0),
        ("project.json", DEEDS[10], DEEDS[13], 0),
        ("project.json", DEEDS[13], lambda p: replace(p, settings=replace(p.settings, buffer=4)), 1),
    ],
)
def test_files_are_put_together_as_git_asks_for_it(
    quay: Project, tmp_path: Path, file: str, ours: Deed, theirs: Deed, clashes: int
) -> None:
    """Under the names of git's own, without an ending."""
    paths = []
    for name, project in (("base", quay), ("ours", ours(quay)), ("theirs", theirs(quay))):
        paths.append(tmp_path / f".merge_file_{name}")
        paths[-1].write_bytes(project_files(project)[file])
    assert run("merge", *paths) == clashes
    if not clashes:
        assert paths[1].read_bytes() == project_files(theirs(ours(quay)))[file]
    elif file.startswith("actions"):
        assert b'"theirs"' in paths[1].read_bytes()
    else:
        assert paths[1].read_bytes() == project_files(ours(quay))[file]


def test_what_is_no_file_of_a_project_is_said_and_left(tmp_path: Path, capsys: pytest.CaptureFixture) -> None:  # type: ignore[type-arg]
    paths = [tmp_path / name for name in "abc"]
    for path in paths:
        path.write_text('{"what": 1}')
    assert run("merge", *paths) == 2
    assert "is no file of a project" in capsys.readouterr().err
    assert paths[1].read_text() == '{"what": 1}'
    assert run("merge", tmp_path, paths[1], paths[2]) == 2
    assert "three project folders, or three files" in capsys.readouterr().err
