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
BOARD = "tests/core/play/test_hurts.py::test_a_board_in_a_hand_is_touched_where_it_is"
FAR = "tests/core/study/test_throws.py::test_a_target_is_touched_up_to_its_reach_and_no_farther"
FIRST = "tests/core/study/test_throws.py::test_who_acts_first_after_it_is_who_can_press_first"

SHOWN = (
    Mutant("posts that fell are not drawn", VIEW, "posts = posts_left(build, record.world)",
           "posts = build.project.stage.posts", RECORD),
    Mutant("what flies is drawn", VIEW, "    for thing in record.world.things:", "    for thing in ():", RECORD),
    Mutant("a guard's arc goes with the body", VIEW, "out.append(Path(points @ body[:3, :3].T + body[:3, 3]",
           "out.append(Path(points + body[:3, 3]", ARC),
    Mutant("a guard's deflecting ticks are drawn twice", VIEW, "if tick - shield.start < shield.deflects else (ARC,)",
           "", ARC),
    Mutant("hurtboxes are drawn by posture", VIEW, "build.hurt_shapes[posture]", 'build.hurt_shapes["standing"]',
           f"{SCENE}::test_the_hurtboxes_that_are_drawn_are_those_of_how_one_stands"),
    Mutant("a thing of the table is drawn as it flies", STAND_INS, "if thing is not None else _thrown(",
           "if False else _thrown(", FLOWN),
    Mutant("a thing is drawn for its life", STAND_INS, "n + 1 < thing.life", "True", FLOWN),
    Mutant("a thing is drawn as its event aims it", STAND_INS, "    thing = aimed(thing, event.payload)\n", "", FLOWN),
    Mutant("reach asks how the target stands", "core/study/reach.py", "build.hurt_shapes[posture]", 'build.hurt_shapes["standing"]',
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
    Mutant("a box is turned with its mount", "core/play/contact/hurts.py",
           "frames[:, :, :3, :3] = frames[:, :, :3, :3] @ turn", "pass", BOARD),
    Mutant("a box stands where its mount does", "core/play/compiled/hurting.py",
           "[:, :, 0] + frames[:, :3, 3])", "[:, :, 0])", BOARD),
    Mutant("a joint is meant before a mount", "core/play/compiled/hurting.py",
           "if name in joints else mount(name)", "if False else mount(name)",
           "tests/core/play/test_hurts.py::test_a_joint_is_meant_before_a_mount_of_its_name"),
    Mutant("what is on a mount is left when all is made anew", "core/edit/hurtboxes.py", "    kept += carried\n", "",
           "tests/core/edit/test_hurtboxes.py::test_one_on_the_weapons_base_goes_along_the_weapon"),
    Mutant("a weapon's hurtbox lies in its base", "core/edit/hurtboxes.py",
           "quat.rotate(quat.conjugate(quat.from_euler(base.turn)), way)", "way",
           "tests/core/edit/test_hurtboxes.py::test_one_on_the_weapons_base_goes_along_the_weapon"),
    Mutant("the reach of a throw is of its whole flight", "core/study/throws.py", "in flight[1:]], hurts", "in flight[1:4]], hurts",
           FAR),
    Mutant("a throw counts from when it leaves", "core/study/throws.py", "best + 1) if far", "best + 5) if far", FAR),
    Mutant("what is aimed is tried out", "core/study/throws.py", 'thing.aims == "target" or ', "", FAR),
    Mutant("what turns is tried out", "core/study/throws.py", "thing.turns > 0.0 or ", "", FAR),
    Mutant("a throw touches when it can first", "core/study/throws.py", "t.age > 0)", "t.age > 3)", FIRST),
    Mutant("a throw is guarded", "core/study/throws.py", '("hit", "guarded")]', '("hit", "hit")]', FIRST),
    Mutant("a throw that cannot be guarded has no number", "core/study/throws.py",
           'born.strike.guard == "none"', "False", FIRST),
    Mutant("what is in a panel does not change sides", "desk/widgets/sides.py",
           "                part.setLayoutDirection(Qt.LayoutDirection.LeftToRight)\n", "                pass\n",
           "tests/desk/test_sides.py::test_from_right_to_left_the_panels_change_sides_and_what_is_in_them_stays"),
    Mutant("panels change sides", "desk/shell/window.py", "        self.setLayoutDirection(QLocale.system().textDirection())\n", "",
           "tests/desk/test_sides.py::test_the_window_goes_the_way_of_the_systems_language"),
    Mutant("all pages of Spar fit a small window", "desk/spar/bench.py", "        # What goes has gone before what comes needs its place: a window does not become smaller again by itself.\n",
           "        self.drills.setFixedWidth(600)\n",
           "tests/desk/test_narrow.py::test_every_bench_fits_into_a_small_window_with_every_button_in_sight"),
    Mutant("a break is proposed in every section that goes on in the air", "core/study/timing.py", "for i in bare if i in firsts]",
           "for i in bare[:1] if i in firsts]",
           "tests/core/study/test_timing.py"
           "::test_a_break_is_proposed_where_an_action_would_go_on_in_the_air_and_taken_ends_it_there"),
    Mutant("a proposed break is there all the while", "core/edit/breaking.py", "end=compiled.sections[i].ticks", "end=1",
           "tests/core/study/test_timing.py"
           "::test_a_break_is_proposed_where_an_action_would_go_on_in_the_air_and_taken_ends_it_there"),
)  # fmt: skip
