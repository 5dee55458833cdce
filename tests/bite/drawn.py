"""Changes of what is drawn, and of guests."""

from __future__ import annotations

from tests.bite.mutant import Mutant

IN, PLAY = "tests/core/files/test_drawings.py", "tests/core/play/test_drawn.py"
READ, CUT, MADE = ("core/files/drawings/" + name for name in ("read.py", "cutting.py", "outfitting.py"))
ONE = f"{PLAY}::test_in_every_fade_one_drawing_is_seen_and_nothing_between_two"
BOX = f"{PLAY}::test_a_box_is_tested_where_it_is_drawn_on_each_cell_and_nowhere_between"
GUEST = f"{PLAY}::test_a_guest_has_its_own_figure_moves_and_reactions"
ENDS = "tests/core/play/test_rounding.py::test_a_state_has_ended_when_its_clip_has_been_played_whatever_its_length"
DRAWN: tuple[Mutant, ...] = (
    Mutant("drawings are chosen in a fade of locomotion", "core/play/locomotion/playing.py",
           "return strongest(moments) if build.assets.skeleton.picture >= 0 else mean(moments)",
           "return mean(moments)", ONE),
    Mutant("drawings are chosen in a fade of actions", "core/motion/layering.py",
           "    if bones.picture >= 0:\n        return _chosen(bones, base, pose, weight, share)\n    out, places",
           "    out, places", ONE),
    Mutant("that one is chosen that shows more", "core/motion/layering.py", "much > HALF", "much > 0.0",
           f"{PLAY}::test_of_two_drawings_that_are_mixed_the_one_that_shows_more_is_chosen"),
    Mutant("a point is held until the next cell", READ, 'way: Interpolation = "LINEAR" if name in said.eased else "STEP"',
           'way: Interpolation = "LINEAR"', ONE),
    Mutant("a box is mirrored with what looks to the left", READ, "ahead if said.right else -ahead\n\n\ndef hurt_names",
           "ahead\n\n\ndef hurt_names", BOX),
    Mutant("a box that a cell has not is not there", "core/play/contact/hurts.py",
           "    if half[1] < FLAT or half[2] < FLAT:\n        return AWAY, np.zeros(3)\n", "", BOX),
    Mutant("a box that leaps was never between", "core/play/contact/volumes.py",
           "if fresh or not box.keys or leaps(box, tick) else", "if fresh or not box.keys else",
           f"{PLAY}::test_a_drawn_strike_touches_what_its_rectangle_reaches_and_not_what_it_would_sweep"),
    Mutant("what strikes opens on its first cell", MADE, "yield Strike(start=starts[rows[0]],", "yield Strike(start=0,",
           f"{IN}::test_what_strikes_on_its_cells_is_an_action_with_the_same_numbers"),
    Mutant("the least of all cells that hold what is drawn", CUT, "best = min(best, (size, step, low))",
           "best = (size, step, low)",
           f"{IN}::test_a_hundred_sheets_cut_by_their_gutters_give_back_the_cells_they_were_made_from"),
    Mutant("a cut begins with a drawing, and not with the end of the one before", "core/edit/whole_cells.py",
           "return [*(frame / motion.fps for", "return [*(round(frame / motion.fps, 4) for",
           "tests/core/edit/test_whole_cells.py::test_holds_are_shared_out_whole_for_any_rate"),
    Mutant("what was out before strikes no more", CUT, "new = ink if before is None else ink & ~before", "new = ink",
           f"{IN}::test_a_bare_sheet_is_proposed_with_feet_size_and_what_can_be_struck"),
    Mutant("cells are of the sheet they are on", "core/files/reading.py", "values=on_sheet(track.values, number)",
           "values=on_sheet(track.values, 0)", f"{IN}::test_several_sheets_make_one_figure"),
    Mutant("a guest is struck as its own project says", "core/play/contact/contacts.py",
           "shapes = [self.build.of(f.setup).hurt_shapes[f.posture] for f in there]",
           "shapes = [self.build.hurt_shapes[f.posture] for f in there]", GUEST),
    Mutant("a guest reacts as its own project says", "core/play/contact/applying.py",
           "return choose_reaction(self._of(reacting), touch, holds)",
           "return choose_reaction(self.build, touch, holds)", GUEST),
    Mutant("a clip ends with its last frame", "core/play/locomotion/machine.py", "voice.phase >= OVER", "voice.phase >= 1.0",
           ENDS),
    Mutant("a guest decides by its own project", "core/play/simulation.py", "Decider(build, f, seen",
           "Decider(self.build, f, seen", GUEST),
)  # fmt: skip
