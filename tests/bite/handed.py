"""Changes of what is told of two states of a project, of putting them together, and of what is handed over."""

from __future__ import annotations

from tests.bite.mutant import Mutant

TOLD, MERGED = "tests/core/changes/test_telling.py", "tests/core/changes/test_merging.py"
CLIPS, WHOLE = "tests/core/export/test_clips.py", "tests/core/export/test_export.py"
THREE, WORDS = "core/changes/threeway.py", "core/changes/words.py"
OUT, WRITING = "core/export/clips.py", "core/export/writing.py"
HANDED: tuple[Mutant, ...] = (
    Mutant("a rename is followed", "core/changes/telling.py", "before = rename.to(before, rename.new).project", "pass",
           f"{TOLD}::test_an_edit_is_told_as_what_it_is"),
    Mutant("edges have words of their own", WORDS, '("strikes", "start"): "opens"', '("strikes", "start"): "starts"',
           f"{TOLD}::test_an_edit_is_told_as_what_it_is"),
    Mutant("what is gone is told", "core/changes/matching.py", "+ [(at, None) for at in left]", "",
           f"{TOLD}::test_an_edit_is_told_as_what_it_is"),
    Mutant("what was renamed keeps its identity before what is new", "core/edit/identity.py",
           "return not (row.identity and row.identity in there), row.name not in names",
           "return False, row.name not in names",
           f"{TOLD}::test_an_action_under_a_name_that_another_once_had_is_new"),
    Mutant("a clip that has the same keys moves alike", "core/changes/numbers.py",
           "and np.array_equal(x.values, y.values)", "",
           f"{TOLD}::test_a_clip_that_moves_otherwise_is_told_by_how_far_and_whose_numbers_it_changes"),
    Mutant("what only theirs changed is theirs", THREE, "if theirs == base:\n            return ours",
           "if True:\n            return ours",
           f"{MERGED}::test_what_two_did_in_different_places_is_what_one_would_have_done"),
    Mutant("edges do not cross", THREE, "made.end <= made.start < max(ours.end, theirs.end)", "False",
           f"{MERGED}::test_edges_that_would_cross_are_one_choice"),
    Mutant("what one took away and the other changed clashes", THREE, "left is not _NOT_THERE and left != one",
           "False",
           f"{MERGED}::test_what_one_took_away_and_the_other_changed_is_a_clash_and_what_both_added_alike_is_there_once"),
    Mutant("the name that ours gave stays", "core/changes/renames.py",
           "theirs = again.follow(theirs)", "pass",
           f"{MERGED}::test_both_called_it_otherwise_and_ours_stays_with_all_that_names_it"),
    Mutant("theirs is a version beside it", "core/files/merging.py", "project = _beside(project, clash)", "pass",
           f"{MERGED}::test_a_clash_leaves_ours_with_theirs_as_a_version_beside_it"),
    Mutant("the travel is on the topmost joint", OUT, "+ way.place", "",
           f"{CLIPS}::test_a_clip_moves_as_it_was_shot_wherever_that_was"),
    Mutant("the body's turn is on the topmost joint", OUT,
           "rotation[:, joint] = quat.multiply(turn, rotation[:, joint])", "pass",
           f"{CLIPS}::test_a_clip_moves_as_it_was_shot_wherever_that_was"),
    Mutant("a mirror turns the other way", "core/export/axes.py", "@ self.matrix.T * handed", "@ self.matrix.T",
           f"{CLIPS}::test_in_other_axes_every_joint_is_where_it_was_said_in_those"),
    Mutant("faces look outwards", OUT, "mesh.faces if handed > 0 else", "mesh.faces if True else",
           f"{CLIPS}::test_faces_look_outwards_in_any_axes"),
    Mutant("keys of a hitbox count from the section", "core/export/actions.py", "shape_at(box, tick, mirrored)",
           "shape_at(box, 0, mirrored)", f"{WHOLE}::test_a_hitbox_is_told_where_play_tests_it"),
    Mutant("what is no export's is not written over", WRITING, "if now is not None and path not in owned:",
           "if False:", f"{WHOLE}::test_a_file_in_the_way_that_is_no_exports_is_never_written_over"),
    Mutant("what was changed by hand is kept", WRITING, "if now is not None and now != owned[path]:", "if False:",
           f"{WHOLE}::test_what_somebody_changed_by_hand_is_kept_beside_or_left"),
    Mutant("what was cut off is ended first", WRITING,
           "    finish(place, ours=is_exported)  # one", "    # one",
           f"{WHOLE}::test_killed_in_the_middle_the_next_one_ends_it"),
    Mutant("a manifest owns no other folder", "core/export/manifest.py", "if not is_exported(file.path):", "if False:",
           f"{WHOLE}::test_a_folder_that_is_none_of_its_own_is_left_with_a_sentence"),
    Mutant("speeds are in the unit", "core/export/plain.py", "scale if f.name in lengths else 1.0", "1.0",
           f"{WHOLE}::test_axes_stay_as_they_were_asked_for_once"),
)  # fmt: skip
