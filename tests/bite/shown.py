"""Changes of what is drawn, told and renamed of touches, and the test that must notice each."""

from __future__ import annotations

from tests.bite.mutant import Mutant

VIEW, STAND_INS = "core/scene/view.py", "core/scene/stand_ins.py"
SCENE, BALLS = "tests/core/scene/test_scene.py", "tests/core/scene/test_stand_ins.py"
RECORD = f"{SCENE}::test_a_record_shows_what_flies_where_it_is_and_only_the_posts_that_stand"
ARC = f"{SCENE}::test_the_arc_of_a_guard_lies_about_the_body_on_the_ticks_it_is_up"
FLOWN = f"{BALLS}::test_a_thing_of_the_table_is_drawn_where_play_has_it"
NOT_FOUND = "tests/core/study/test_checks.py::test_nothing_is_found_where_nothing_is_wrong"
SHADOWED = "core/study/checks/shadowed.py"
SHOWN = (
    Mutant("posts that fell are not drawn", VIEW, "posts = posts_left(build, record.world)",
           "posts = build.project.stage.posts", RECORD),
    Mutant("what flies is drawn", VIEW, "    for thing in record.world.things:", "    for thing in ():", RECORD),
    Mutant("a guard's arc goes with the body", VIEW, "out.append(Path(points @ body[:3, :3].T + body[:3, 3]",
           "out.append(Path(points + body[:3, 3]", ARC),
    Mutant("a guard's deflecting ticks are drawn twice", VIEW, "if tick - shield.start < shield.deflects else (ARC,)",
           "", ARC),
    Mutant("hurtboxes are drawn by posture", VIEW, "if not h.postures or posture in h.postures)", "if True)",
           f"{SCENE}::test_the_hurtboxes_that_are_drawn_are_those_of_how_one_stands"),
    Mutant("a thing of the table is drawn as it flies", STAND_INS, "if thing is not None else _thrown(",
           "if False else _thrown(", FLOWN),
    Mutant("a thing is drawn for its life", STAND_INS, "n + 1 < thing.life", "True", FLOWN),
    Mutant("a thing is drawn as its event aims it", STAND_INS, "    thing = aimed(thing, event.payload)\n", "", FLOWN),
    Mutant("reach asks how the target stands", "core/study/reach.py", " if not h.postures or posture in h.postures", "",
           "tests/core/study/test_reach.py::test_a_hurtbox_of_another_posture_is_not_reached"),
    Mutant("the map asks how the target stands", "core/study/floor_map.py",
           "build.hurt_shapes[posture_in(build, stance)]", 'build.hurt_shapes["standing"]',
           "tests/core/study/test_floor_map.py::test_a_target_is_touched_on_the_hurtboxes_of_how_it_stands"),
    Mutant("a row for a region hides none for all", SHADOWED, 'first.region not in ("any", other.region) or', "",
           NOT_FOUND),
    Mutant("a row for a distance hides none for all", SHADOWED, " or not far or", " or", NOT_FOUND),
    Mutant("a row that asks hides none that does not", SHADOWED,
           "or not set(first.conditions) <= set(other.conditions)", "", NOT_FOUND),
    Mutant("what a touch sets is renamed", "core/edit/parameters.py", "Event | Outcome)", "Event)",
           "tests/core/edit/test_locomotion.py::test_a_parameter_is_renamed_wherever_it_is_set_or_asked_for"),
    Mutant("what a row asks of is renamed", "core/edit/actions.py", "reactions=through(",
           "reactions=(lambda v, c: v)(",
           "tests/core/edit/test_edit.py::test_a_row_that_asks_whether_an_action_plays_asks_for_its_new_name"),
    Mutant("who dies is stunned no more", "core/play/contact/applying.py", "or dead or row is not None",
           "or row is not None",
           "tests/core/play/test_touching.py::test_who_dies_behind_its_guard_lies_and_is_stunned_no_more"),
    Mutant("who is stunned enters no state with an action", "core/play/locomotion/machine.py", "not fighter.stun and",
           "", "tests/core/play/test_touching.py::test_who_is_stunned_enters_no_state_that_runs_an_action"),
    Mutant("who is put back begins anew", "core/play/body/move.py",
           "fighter.shove, fighter.stun, fighter.reels, fighter.strung = None, 0, 0, 0", "pass",
           "tests/core/play/test_touching.py::test_stun_ends_with_whoever_is_put_back_or_killed"),
    Mutant("a parameter is set to a number", "core/kinds/spans/events.py",
           "return value if isfinite(value) else 1.0", "return value",
           "tests/core/play/test_touching.py::test_a_parameter_is_set_to_a_number_and_to_nothing_else"),
)  # fmt: skip
