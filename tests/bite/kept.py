"""Changes of what is kept of bouts, of stages, and of pads."""

from __future__ import annotations

from tests.bite.mutant import Mutant

HISTORY, LONG = "core/play/take/history.py", "tests/core/play/test_long_takes.py"
STAGES, ON = "core/edit/stages.py", "tests/core/edit/test_stages.py"
TAKES = "core/study/takes.py"
DRIVING, PADS, ON_PADS = "desk/frame/driving.py", "desk/pads/pads.py", "tests/desk/test_pads.py"
ANEW = f"{ON}::test_a_kept_take_is_the_same_after_a_save_and_tells_what_an_edit_made_otherwise"
KEPT: tuple[Mutant, ...] = (
    Mutant("a cut within a pack keeps what is before it", HISTORY,
           "del self.fresh[max(length - len(self.packs) * PACKED, 0) :]", "del self.fresh[length:]",
           f"{LONG}::test_cut_anywhere_it_is_the_beginning_and_grows_on"),
    Mutant("what is read again after a cut is not of the old packs", HISTORY,
           "for n, rows in self._read.items() if n < packs", "for n, rows in self._read.items()",
           f"{LONG}::test_cut_anywhere_it_is_the_beginning_and_grows_on"),
    Mutant("what is read is of the packs that are left", HISTORY, "            self._read.clear()\n", "",
           f"{LONG}::test_the_oldest_are_let_go_of_by_whole_packs"),
    Mutant("what a project is made of is pointed to", HISTORY,
           "kinds = (CompiledAction, Action, Event, Fighter, Strike, Thrown)", "kinds = (Action, Event, Fighter)",
           f"{LONG}::test_what_is_read_again_is_what_was_played"),
    Mutant("play goes on from where the joints were", "core/play/simulation.py",
           "old = before.fighters if before is not None else record.fighters", "old = record.fighters",
           f"{LONG}::test_a_touch_comes_where_it_did_when_play_goes_on_just_before_it"),
    Mutant("drills stay where they were made", STAGES, "replace(d, stage=d.stage or shown.name) for d in",
           "replace(d, stage=d.stage) for d in", f"{ON}::test_drills_stay_on_the_stage_they_were_made_on"),
    Mutant("a drill is played on its stage", "core/play/take/drills.py",
           "drill, build.ask(standing_on, drill.stage)", "drill, build",
           f"{ON}::test_drills_stay_on_the_stage_they_were_made_on"),
    Mutant("a stage in use stays", STAGES, "    if users:\n", "    if False:\n",
           f"{ON}::test_a_stage_renamed_takes_its_drills_along_and_one_in_use_stays"),
    Mutant("whose health is otherwise is told", TAKES,
           "if name in after and after[name][1] != left:", "if name not in after:", ANEW),
    Mutant("a renamed fighter is so in what came", "core/edit/staging.py",
           "word.sub(lambda _: new, line.says)", "line.says",
           f"{ON}::test_a_renamed_fighter_goes_along_in_takes_and_one_who_plays_there_stays"),
    Mutant("a pad that goes lets go of the stick", PADS, "        self.moved.emit(at, 0.0, 0.0)\n", "",
           f"{ON_PADS}::test_bind_play_a_string_unplug_plug_in_play_on"),
    Mutant("what is bound is not played", DRIVING, "or self.pads.taken", "",
           f"{ON_PADS}::test_bind_play_a_string_unplug_plug_in_play_on"),
    Mutant("the first of two pads is the first player's", DRIVING, "(pad == 0 and len(self.pads.there) > 1)", "False",
           f"{ON_PADS}::test_a_second_player_has_a_pad_or_keys_of_their_own"),
    Mutant("a stick is counted from its dead zone", "core/kinds/stick.py", "(far - dead) / (1.0 - dead)", "far",
           f"{ON_PADS}::test_the_stick_has_a_dead_zone_a_curve_and_its_own_way"),
    Mutant("pads are heard only where they drive", DRIVING,
           "if not self.hears or (down and self._elsewhere()):", "if down and self._elsewhere():",
           f"{ON_PADS}::test_pads_are_heard_only_where_they_drive"),
    Mutant("the camera stays while something is held", "desk/spar/bench.py",
           " and not self.standing.tool.holds", "",
           "tests/desk/test_stages.py::test_a_stage_is_made_and_what_stands_on_it_moved_by_mouse"),
    Mutant("a take stays when another one is kept", "desk/frame/session.py",
           'apart = {"takes", "stages", "known_events", "name"}', "apart = set[str]()",
           "tests/desk/test_stages.py::test_a_take_is_kept_saved_played_and_told_of"),
)  # fmt: skip
