"""Changes of what hands, presses and partners do, and the test that must notice each."""

from __future__ import annotations

from tests.bite.mutant import Mutant

HANDS, LOST, OTHERS = "core/play/hands.py", "core/study/presses.py", "core/play/partner.py"
MADE, FATES, DOES = (
    "tests/core/play/test_gestures.py", "tests/core/study/test_presses.py", "tests/core/play/test_partners.py",
)  # fmt: skip
MOTION = f"{MADE}::test_a_motion_is_found_where_any_choice_of_its_parts_is_one"
DOWN = f"{MADE}::test_held_let_go_double_and_together_by_what_is_down"
STARTS = f"{MADE}::test_a_gesture_starts_what_it_is_for_and_its_parts_start_nothing"
PARTS = f"{MADE}::test_of_two_that_one_press_completes_the_one_of_more_parts_is_meant"
WINDOW = f"{FATES}::test_each_press_about_a_window_is_told_by_its_frame"
NEAR = f"{FATES}::test_a_gesture_that_was_nearly_made_says_by_how_much"

DRILLS, KEPT = "core/play/take/drills.py", "core/edit/drills.py"
RANGED = "tests/core/play/test_drills.py::test_a_drill_over_distances_holds_where_the_same_by_hand_does"
LATER = "tests/core/play/test_drills.py::test_the_last_press_and_what_lets_it_go_come_later"
MEASURED = "tests/core/play/test_drills.py::test_what_is_measured_is_what_the_take_has"
TAKEN = "tests/core/edit/test_drills.py::test_a_drill_of_a_take_holds_of_it_and_breaks_where_a_touch_moves"

OF_HANDS = (
    Mutant("a way is met within its time", HANDS, "if by - until > gesture.within:", "if False:", MOTION),
    Mutant("time counts from when a way was left", HANDS, "if by - until > gesture.within:",
           "if by - here.tick > gesture.within:", MOTION),
    Mutant("nothing comes between strict ways", HANDS, 'if gesture.strict and here.what != "centre":', "if False:",
           MOTION),
    Mutant("the centre may come between strict ways", HANDS, 'if gesture.strict and here.what != "centre":',
           "if gesture.strict:", MOTION),
    Mutant("wide ways are met by those beside", HANDS, "return apart in (0, 1, 7)", "return apart == 0", MOTION),
    Mutant("a motion without a press ends on its last way", HANDS, "or here.tick == tick) and left", "or True) and left",
           MOTION),
    Mutant("held is told once", HANDS, "if long == gesture.ticks and long >= 0", "if long >= gesture.ticks", DOWN),
    Mutant("let go is told after its ticks", HANDS, "if long >= gesture.ticks else None\n    free",
           "if long > gesture.ticks else None\n    free", DOWN),
    Mutant("a press of a double is not of the next", HANDS, "free = [p for p in hands.presses if p not in hands.taken]",
           "free = list(hands.presses)", DOWN),
    Mutant("together is within its ticks", HANDS, "whole and tick - min(p.tick for p in there) <= gesture.within", "whole",
           DOWN),
    Mutant("what is taken is together with nothing", HANDS, "if p is not None and p not in hands.taken]",
           "if p is not None]", DOWN),
    Mutant("a stick hardly out lies in the centre", HANDS, "if hypot(x, z) < DEAD:", "if hypot(x, z) < 0.01:", STARTS),
    Mutant("a body that turns turns no ways", HANDS, "ahead = facing if hands.rests >= REST else hands.ahead",
           "ahead = facing", STARTS),
    Mutant("ways are counted from where the body looks", HANDS, "- ahead) % 360.0", ") % 360.0", STARTS),
    Mutant("about the target is about the target", HANDS,
           'hands.about_body if gesture.about == "body" else hands.about_target', "hands.about_body",
           f"{MADE}::test_ways_about_the_target_are_counted_from_where_it_is"),
    Mutant("the gesture of more parts is meant", HANDS, "key=lambda m: -m.parts", "key=lambda m: 0", PARTS),
    Mutant("one press makes one gesture", HANDS, "if not taken & set(one.takes):", "if True:", PARTS),
    Mutant("a gesture takes its presses", "core/play/simulation.py",
           "            use(f, [Press(moment.what, made=moment.tick) for moment in takes])\n", "",
           f"{MADE}::test_what_two_fingers_press_a_little_apart_is_one_thing"),
    Mutant("levels are counted", HANDS, "self.down >= ticks for ticks", "self.down > ticks for ticks",
           f"{MADE}::test_how_long_it_was_held_is_told_to_a_parameter_and_asked_by_a_gate"),
    Mutant("what is held long enough stays held", HANDS, "tick - m.tick >= gesture.ticks for m in hands.down",
           "tick - m.tick == gesture.ticks for m in hands.down",
           f"{MADE}::test_what_is_held_long_enough_stays_held_until_it_is_let_go"),
    Mutant("too early is told by frames", LOST, "gap = first + exit_.start - frame - max(held, 1) + 1",
           "gap = first + exit_.start - frame - max(held, 1)", WINDOW),
    Mutant("too late is told by frames", LOST, "gap = frame - first - exit_.end + 1", "gap = frame - first - exit_.end",
           WINDOW),
    Mutant("what a press began is told", LOST, "if v.age == 0]", "if v.age >= 0]",
           f"{FATES}::test_a_press_that_is_refused_is_lost_though_something_plays"),
    Mutant("a touch that is asked for is told", LOST, "if not touched(exit_, voice.contact):", "if False:",
           f"{FATES}::test_what_the_window_asks_for_is_told"),
    Mutant("a cooldown is told", LOST, "if left > 0:", "if False:",
           f"{FATES}::test_what_keeps_an_action_from_starting_is_told"),
    Mutant("who is down is told", LOST, "if now.down:", "if False:",
           f"{FATES}::test_who_is_stunned_or_down_is_told_so"),
    Mutant("who is stunned is told", LOST, "if now.stun and last.stun:", "if False:",
           f"{FATES}::test_who_is_stunned_or_down_is_told_so"),
    Mutant("late is told by how much", LOST, "within=gesture.within + late", "within=gesture.within + 1 + late", NEAR),
    Mutant("too soon is told by how much", LOST, "let go {_frames(gesture.ticks - long)} too soon",
           "let go {_frames(gesture.ticks - long + 1)} too soon", NEAR),
    Mutant("who hits back waits for a touch", OTHERS, "if p.fighter.reeling:", "if True:",
           f"{DOES}::test_who_hits_back_does_so_on_the_first_tick_on_which_it_can"),
    Mutant("who guards once touched waits for it", OTHERS, "    if p.touched:\n", "    if True:\n",
           f"{DOES}::test_who_guards_holds_it_from_the_first_tick_or_from_the_first_touch"),
    Mutant("who walks in stops", OTHERS, "if p.far > p.fighter.setup.near:", "if p.far > 0.0:",
           f"{DOES}::test_who_walks_in_comes_as_near_as_it_says_and_presses_there"),
    Mutant("who keeps off stops", OTHERS, "if p.far < p.fighter.setup.near else p.go(0.0, 0.0)", "",
           f"{DOES}::test_who_walks_away_keeps_off"),
    Mutant("chance is of the seed", OTHERS, "chance(p.seed, p.tick, f.name, what)",
           "chance(id(p), p.tick, f.name, what)",
           f"{DOES}::test_chance_is_of_the_seed_and_touches_everything"),
    Mutant("a replay is of one fighter", OTHERS, "if s.fighter == found.steps[0].fighter", "if True",
           f"{DOES}::test_who_replays_is_given_what_the_drill_gives_whom_it_begins_with"),
    Mutant("play makes up for what is late", "desk/frame/running.py", "ticks = min(ticks, most)",
           "ticks = min(ticks, 4.0)",
           "tests/desk/test_spar.py::test_however_long_a_picture_takes_play_keeps_real_time"),
    Mutant("parts of a millisecond count", "desk/frame/timed.py", "self.clock.nsecsElapsed() / 1e9",
           "self.clock.elapsed() / 1e3",
           "tests/desk/test_spar.py::test_however_long_a_picture_takes_play_keeps_real_time"),
    Mutant("a key counts from when it went down", "desk/frame/driving.py", "self.after = self.owed(ahead - self.ahead)",
           "self.after = self.owed(0.0)", "tests/desk/test_spar.py::test_a_key_counts_from_when_it_went_down"),
    Mutant("others are put on the line", DRILLS, "x + dx / far * distance", "x + distance", RANGED),
    Mutant("every place of a range is tried", DRILLS, "for n in range(min(count, MOST_CELLS))", "for n in range(1)",
           RANGED),
    Mutant("what lets the last press go is later too", DRILLS, "n > presses[-1] and s.command", "False and s.command", LATER),
    Mutant("only the last press is later", DRILLS, "if n == presses[-1] or", "if n in presses or", LATER),
    Mutant("distance is of the nearest", DRILLS, "if f.name != e.fighter), default=inf)", "), default=inf)", MEASURED),
    Mutant("how far it has come is from its first tick", DRILLS, "_apart(here, first.fighter(e.fighter))",
           "_apart(here, here)", MEASURED),
    Mutant("a kept touch is expected on its tick", KEPT,
           "Expectation(fighter=c.attacker, tick=at, since=at, contact", "Expectation(fighter=c.attacker, tick=at + 30, contact",
           TAKEN),
    Mutant("where all ended is expected", KEPT, "Expectation(fighter=f.name, tick=last, since=last, locomotion",
           "Expectation(fighter=f.name, tick=last, since=last, action", TAKEN),
    Mutant("a replay is of the whole take", "desk/frame/session.py", "self.whole_take or (", "(",
           "tests/desk/test_spar.py::test_a_take_is_replayed_with_a_change_and_says_what_is_otherwise"),
    Mutant("a take that is played on is the whole take", "desk/frame/session.py",
           "        self.whole_take = None\n        inputs", "        inputs",
           "tests/desk/test_spar.py::test_a_take_is_replayed_with_a_change_and_says_what_is_otherwise"),
    Mutant("takes differ by where anybody is", "core/study/takes.py", "> APART:", "> 1e9:",
           "tests/core/study/test_takes.py::test_takes_differ_from_the_tick_on_which_anybody_is_elsewhere"),
    Mutant("what no longer comes is told", "core/study/takes.py", "range(max(len(a), len(b)))", "range(min(len(a), len(b)))",
           "tests/core/study/test_takes.py::test_what_no_longer_comes_and_what_is_new_are_told"),
)  # fmt: skip
