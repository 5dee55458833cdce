"""Changes of the line to a running game."""

from __future__ import annotations

from tests.bite.mutant import Mutant

LINE, SEEN = "tests/live/test_live.py", "tests/live/test_watched.py"
MADE_ANEW = f"{LINE}::test_whatever_is_edited_the_files_are_those_made_anew"
LIVE: tuple[Mutant, ...] = (
    Mutant("a text document that the game has not is not sent", "core/live/handed.py",
           "and (path in there or not text)", "", f"{LINE}::test_only_what_is_otherwise_is_sent"),
    Mutant("poses that go are told", "core/live/handed.py",
           'for path in there if path not in files and path.endswith(".glb")', "for path in ()",
           f"{LINE}::test_only_what_is_otherwise_is_sent"),
    Mutant("a part ends before what both begin alike with", "core/live/handed.py", "left = short - first ", "left = short ",
           f"{LINE}::test_a_part_of_a_text_in_its_place_is_the_text"),
    Mutant("a part begins with a whole character", "core/live/handed.py", "now[first] & MIDDLE == 0x80", "False",
           f"{LINE}::test_a_part_of_a_text_in_its_place_is_the_text"),
    Mutant("a part ends with a whole character", "core/live/handed.py", "now[len(now) - last] & MIDDLE == 0x80", "False",
           f"{LINE}::test_a_part_of_a_text_in_its_place_is_the_text"),
    Mutant("only a game that says so is sent parts", "core/live/line.py", 'game.pop("parts", False) is True', "True",
           f"{LINE}::test_parts_are_sent_to_a_game_that_takes_them_of_what_it_is_known_to_have"),
    Mutant("a game that was found anew is sent whole documents", "core/live/line.py", "        self._has = {}\n        self._parts =",
           "        self._parts =", f"{LINE}::test_parts_are_sent_to_a_game_that_takes_them_of_what_it_is_known_to_have"),
    Mutant("two who ask at once have it worked out once", "core/study/store.py", "        with self._lock:\n", "        if True:\n",
           "tests/core/study/test_store.py::test_two_who_ask_at_once_have_it_worked_out_once"),
    Mutant("a project with an error is not sent", "core/live/line.py", "        if bad:\n", "        if False:\n",
           f"{LINE}::test_a_project_with_an_error_is_not_sent_and_another_is_refused"),
    Mutant("a game that went away is looked for", "core/live/line.py",
           "            self._set(even=False)\n            self._over.wait", "            return\n            self._over.wait",
           f"{LINE}::test_killed_and_started_again_it_is_found_again_and_has_what_was_sent"),
    Mutant("a file that is made of the same is the same", "core/export/documents.py",
           "if there is None or len(there[0]) != len(of) or any(", "if there is None and any(",
           f"{LINE}::test_only_what_is_otherwise_is_sent"),
    Mutant("a bout that begins anew is another", "core/live/watched.py", "told.tick <= self.ticks[-1].tick",
           "told.tick < 0", f"{SEEN}::test_what_is_no_tick_is_passed_over_and_a_bout_begun_anew_is_another"),
    Mutant("touches are held against touches", "core/live/watched.py", "if touched != ours:", "if False:",
           f"{SEEN}::test_the_same_bout_is_the_same_and_what_is_otherwise_is_told_at_its_first_tick"),
    Mutant("where somebody stands on the ground is held against it", "core/live/watched.py",
           "if f.ground != mine.locomotion[-1].state:", "if False:",
           f"{SEEN}::test_the_same_bout_is_the_same_and_what_is_otherwise_is_told_at_its_first_tick"),
    Mutant("a bout without its beginning is not brought", "core/live/watched.py", "if given.first > 0:", "if False:",
           f"{SEEN}::test_what_was_given_is_read_or_refused_in_words"),
    Mutant("a key that others can read is refused", "core/live/key.py", "& 0o077", "& 0o000",
           f"{LINE}::test_the_key_is_the_persons_own_and_no_others"),
    Mutant("poses that are called otherwise are written anew", "core/export/documents.py",
           "(section.pose, section.section.name)]", "(section.pose,)]", MADE_ANEW),
    Mutant("a layer's joints go by its mask", "core/export/documents.py", "project.layers, project.masks, project.grips,",
           "project.layers, project.grips,", MADE_ANEW),
    Mutant("the chart is called as the project is", "core/export/documents.py", "once.made(\"chart\", chart, partial",
           "once.made(\"chart\", chart[:1], partial", MADE_ANEW),
    Mutant("locomotion that moves otherwise is written anew", "core/export/documents.py",
           "once.made(\"ground\", moves, lambda", "once.made(\"ground\", moves[1:], lambda", MADE_ANEW),
)  # fmt: skip
