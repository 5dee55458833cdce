"""Changes of what goes over a bad connection, and of flipbooks."""

from __future__ import annotations

from tests.bite.mutant import Mutant

PLAYED, FLIP = "tests/core/rehearse/test_rehearsal.py", "tests/report/test_flipbook.py"
LINE, ENDS, CELLS = "core/rehearse/line.py", "core/rehearse/ends.py", "core/scene/cells.py"
AGREE = f"{PLAYED}::test_over_any_line_the_others_come_to_agree_and_nothing_is_done_twice"
LATE = f"{PLAYED}::test_what_is_late_and_what_never_was_is_said_of_each_screen"
ONCE = f"{PLAYED}::test_an_event_is_told_once_on_every_screen_that_it_is_for_and_on_no_other"
REHEARSED: tuple[Mutant, ...] = (
    Mutant("what may not have arrived goes along again", LINE, "tuple(self.unsure)))", "tuple(self.unsure[-1:])))",
           f"{PLAYED}::test_over_an_even_line_each_comes_as_late_as_the_line_is"),
    Mutant("what arrives twice counts once", LINE, "if number not in self.got}", "}",
           f"{PLAYED}::test_a_line_brings_everything_once_however_late"),
    Mutant("what was guessed wrongly is put right", ENDS, "            self.guessed, self.used = [], []\n            if before",
           "            if before", AGREE),
    Mutant("an event is told once on a screen", "core/rehearse/hearing.py", "            told.setdefault(sure.pop(0)[1], tick)",
           "            told[sure.pop(0)[1]] = tick", LATE),
    Mutant("what a guess goes over is told with it", "core/rehearse/hearing.py", "in _events(guessed, player.name)",
           "in _events(guessed[-1:], player.name)", LATE),
    Mutant("an event of its owner is on no other screen", "core/rehearse/hearing.py",
           'event.whom == "owner" and event.fighter == player', 'event.whom == "owner"', ONCE),
    Mutant("what is known is told though no picture went over it", "core/rehearse/hearing.py", "while sure and sure[0][0] < known",
           "while False", ONCE),
    Mutant("events of two laps are two", "core/play/telling.py", "lap {voice.laps}\"\n    told", "lap\"\n    told", ONCE),
    Mutant("what nothing tells apart is not told on a guess", "core/rehearse/hearing.py",
           "            if not which.mark.startswith(NTH):", "            if which.mark:", ONCE),
    Mutant("a guest's body is as high as it is under what hangs", "core/play/simulation.py", "seen, posts[f.setup.project], floors)",
           'seen, posts[""], floors)', "tests/core/play/test_drawn.py::test_a_guest_goes_under_what_it_is_low_enough_for"),
    Mutant("what one touch runs is not what another runs", "core/play/contact/applying.py",
           'f"{when} {contact.attacker} {contact.serial} {contact.key} {contact.victim}"', 'f"{when}"', ONCE),
    Mutant("what a swing runs is not what the next one runs", "core/play/telling.py",
           'mark=f"{outcome.when} {of[0]} {of[1]}"', 'mark=f"{outcome.when}"', ONCE),
    Mutant("a message for the decider is for it everywhere", "core/kinds/spans/events.py",
           'if e.kind == "message" and e.whom == "decider"', 'if e.whom == "nobody"',
           "tests/core/study/test_checks.py::test_it_is_found_and_says_what_to_do"),
    Mutant("what is held back is meant for later", "core/rehearse/rehearsal.py", "tick + held_back, i)", "tick, i)",
           f"{PLAYED}::test_a_delay_is_seen_and_holding_back_by_as_much_takes_it_away"),
    Mutant("holds are shared out evenly", CELLS, "edges = [round(n * ticks / cells) for n in range(cells + 1)]",
           "edges = [*range(cells), ticks]", f"{FLIP}::test_holds_share_out_the_frames_whole"),
    Mutant("a cell is struck with while it is held", CELLS, "_hit(build, cells, range(first, first + hold))",
           "_hit(build, cells, range(first, first + 1))",
           f"{FLIP}::test_it_strikes_on_the_cells_that_are_held_while_it_does"),
    Mutant("a body that looks ahead looks to the right from its right", CELLS, '"left": 90.0, "right": -90.0',
           '"left": -90.0, "right": 90.0', f"{FLIP}::test_the_figure_is_drawn_where_its_joints_are_over_its_feet"),
    Mutant("two actions are rehearsed so many frames apart", "desk/spar/rehearsing.py", "int(self.after.value())) if there",
           "0) if there", "tests/desk/test_rehearsing.py::test_two_actions_are_rehearsed_against_each_other"),
    Mutant("a press is told on its tick", "desk/spar/presses.py", "records.marked(PRESSED, first, at + 1)",
           "records.marked(PRESSED, first, at)",
           "tests/desk/test_spar.py::test_a_press_that_is_lost_says_why_and_leads_to_its_place"),
    Mutant("a gesture that was nearly made is told", "desk/spar/presses.py", "if known and build.ask(made_by_hand) else",
           "if False else", "tests/desk/test_spar.py::test_a_gesture_that_was_nearly_made_is_told_among_the_presses"),
    Mutant("a guest as wide as it is is in the way", "core/play/compiled/project.py",
           "for made in (self, *self.guests.values()))", "for made in (self,))",
           "tests/core/play/test_drawn.py::test_a_guests_own_body_is_in_the_way"),
    Mutant("a pair parts from where the pairs before left it", "core/play/body/move.py",
           "                    places[i], places[j] = a.position.tolist(), b.position.tolist()\n", "",
           "tests/core/play/test_hits.py::test_of_many_in_one_place_each_pair_parts_from_where_the_pairs_before_left_it"),
    Mutant("a screen that is chosen is on the stage", "desk/spar/rehearsing.py",
           "next((p.shown for p in self.made.players if p.name == whose), self.made.records)", "self.made.records",
           "tests/desk/test_rehearsing.py::test_each_screen_is_looked_at_and_what_differs_is_gone_to"),
    Mutant("a take that was laid out is played on", "desk/frame/session.py",
           "        self.simulation.resume(self.records[-1], self.records[-2] if len(records) > 1 else None)\n\n    def use",
           "\n    def use", "tests/desk/test_rehearsing.py::test_each_screen_is_looked_at_and_what_differs_is_gone_to"),
    Mutant("news and answer both take their time", "core/rehearse/carrying.py",
           "return startup - late - max(late, held_back)", "return startup - 2 * late",
           "tests/core/rehearse/test_carrying.py::test_so_many_frames_are_left_as_answers_that_counted_in_time"),
    Mutant("an answer comes so many frames after the attack", "core/rehearse/carrying.py",
           "DrillStep(BEGINS + after, who[1]", "DrillStep(BEGINS, who[1]",
           "tests/core/rehearse/test_carrying.py::test_a_pair_is_an_attack_and_so_many_frames_later_its_answer"),
    Mutant("a pair is played to the end of both", "core/rehearse/carrying.py", "ticks = max(ticks, at + (made.total",
           "ticks = min(ticks, at + (made.total",
           "tests/core/rehearse/test_carrying.py::test_a_pair_is_an_attack_and_so_many_frames_later_its_answer"),
    Mutant("a lossy line is tried with several seeds", "core/rehearse/carrying.py", "tries = [MANY if", "tries = [1 if",
           "tests/core/rehearse/test_carrying.py::test_over_many_lines_it_is_what_each_rehearsal_says"),
    Mutant("what follows is said of lines that lose nothing more than the best", "core/rehearse/carrying.py",
           "if r.loss == calm and", "if", "tests/core/rehearse/test_carrying.py"
           "::test_what_follows_is_said_from_the_first_delay_on_which_it_holds"),
    Mutant("what the others saw is of the tick that is looked at", "desk/spar/rehearsing.py", "rows[min(at, len(rows) - 1)]", "rows[-1]",
           "tests/desk/test_rehearsing.py"
           "::test_all_three_are_seen_from_one_camera_as_long_as_the_stage_has_the_rehearsal"),
    Mutant("a take that is played on is no rehearsal any more", "desk/frame/session.py",
           "        self._go_back_to_view()\n        self.laid_out = False\n", "        self._go_back_to_view()\n",
           "tests/desk/test_rehearsing.py"
           "::test_all_three_are_seen_from_one_camera_as_long_as_the_stage_has_the_rehearsal"),
    Mutant("all are seen from one camera", "desk/spar/seen_stages.py", "own.set_camera(v.camera)", "None",
           "tests/desk/test_rehearsing.py"
           "::test_all_three_are_seen_from_one_camera_as_long_as_the_stage_has_the_rehearsal"),
    Mutant("what follows is of all attacks that are played", "core/rehearse/carrying.py", "for f in fighters for name in f.playing()",
           "for f in list(fighters)[:30] for name in f.playing()", "tests/core/rehearse/test_carrying.py"
           "::test_a_kept_take_is_rehearsed_as_it_was_played_with_what_follows_of_each_of_its_attacks"),
)  # fmt: skip
