"""The changes that break what ``docs/safety.md`` promises, each with the test that the promise names."""

from __future__ import annotations

from tests.bite.mutant import Mutant

SAFE, LINKS, LENGTHS = (f"tests/core/files/test_{name}.py" for name in ("safe", "links", "lengths"))
DESK, HOSTILE, DAMAGE = "tests/desk/test_safe.py", "tests/cli/test_hostile.py", "tests/core/files/test_damage.py"


def _m(rule: str, file: str, old: str, new: str, test: str) -> Mutant:
    return Mutant(rule, f"core/files/{file}", old, new, test)


FIRST = "tests/desk/test_first.py"
SAVES = (
    _m(
        "a draft with work that a crash left stays",
        "drafts.py",
        "if is_draft(folder) and not left_behind(folder):",
        "if is_draft(folder):",
        f"{FIRST}::test_looking_at_a_draft_and_leaving_it_unanswered_keeps_it",
    ),
    _m(
        "what a file takes the place of is kept beside it",
        "importing.py",
        "        files[aside] = place.read(main)",
        "        files[aside] = fetch(source)",
        f"{FIRST}::test_a_file_of_a_name_that_is_there_asks_whether_it_takes_its_place",
    ),
    _m(
        "a save is the old or the new whenever it is killed",
        "plan.py",
        'place.move(f"{SAVING}/{name}", name)',
        '(place.remove(name), place.move(f"{SAVING}/{name}", name))',
        f"{SAFE}::test_killed_at_any_call_a_save_is_the_old_or_the_new",
    ),
    _m(
        "what is saved is synced before it counts",
        "beneath.py",
        "                os.fsync(out)\n",
        "                pass\n",
        f"{SAFE}::test_power_lost_at_any_call_leaves_the_old_or_the_new",
    ),
    _m(
        "what gave out when it was certain is told as that",
        "plan.py",
        "        place.sync(SAVING)\n    except OSError as error:\n        raise _unfinished(place, error) from error\n"
        "\n\ndef _unfinished",
        "        place.sync(SAVING)\n    except OSError as error:\n        raise error\n\n\ndef _unfinished",
        f"{SAFE}::test_a_full_disk_at_any_call_loses_nothing_and_is_told_as_what_it_is",
    ),
    _m(
        "a new project that cannot be written leaves no folder",
        "saving.py",
        "                        step.rmdir()",
        "                        pass",
        f"{SAFE}::test_a_new_project_that_cannot_be_written_leaves_nothing",
    ),
    _m(
        "a save that is certain is the state the next is laid on",
        "opened.py",
        "        except Unfinished:\n            self._saved(project)\n            raise",
        "        except Unfinished:\n            raise",
        f"{SAFE}::test_after_a_save_that_failed_the_next_one_finds_no_change_but_its_own",
    ),
    _m(
        "while the save before is not in place nothing counts as saved",
        "saving.py",
        "    except Unfinished as error:\n        raise Trouble(",
        "    except ZeroDivisionError as error:\n        raise Trouble(",
        f"{SAFE}::test_after_a_save_that_failed_the_next_one_finds_no_change_but_its_own",
    ),
    _m(
        "a long save says how far it is",
        "saving.py",
        '        progress("Saving", next(steps) / in_all)',
        "        next(steps)",
        f"{DESK}::test_a_save_that_takes_longer_than_a_moment_says_how_far_it_is",
    ),
    _m(
        "who may read and write a file stays as it is",
        "beneath.py",
        "os.fchmod(out, mode & 0o666)",
        "pass",
        f"{SAFE}::test_rights_and_a_linked_folder_are_kept",
    ),
    _m(
        "save as takes along what a clip has beside it",
        "saving.py",
        "                    out |= reader_of(clips_from / name).beside(clips_from / name, clips_from, True)",
        "                    pass",
        "tests/core/files/test_folder.py::test_what_a_clip_has_beside_it_goes_along",
    ),
    _m(
        "a name the project cannot hold is refused before anything is written",
        "plan.py",
        "    for name in files:\n        _check(place, name, ours)\n",
        "",
        f"{SAFE}::test_a_name_the_project_cannot_hold_is_refused_before_anything_is_written",
    ),
    Mutant(
        "a file may be in any unit",
        "core/model/base.py",
        "Meta(ge=1e-6, le=1e6)",
        "Meta(ge=0.001, le=1000)",
        "tests/core/files/test_units.py::test_a_figure_of_any_size_opens_again_or_nothing_is_written",
    ),
    Mutant(
        "a number that could not be opened again is never made",
        "desk/document/document.py",
        "or self._cannot_be(before, edit.project):",
        "or False:",
        f"{DESK}::test_what_could_not_be_opened_again_is_never_made",
    ),
)

OTHERS = (
    _m(
        "one writes at a time",
        "lock.py",
        "fcntl.LOCK_EX | fcntl.LOCK_NB",
        "fcntl.LOCK_SH | fcntl.LOCK_NB",
        f"{SAFE}::test_one_writes_at_a_time_and_the_holder_is_named",
    ),
    _m(
        "a lock that a crash left holds nobody up",
        "lock.py",
        "if time.monotonic() >= end or (",
        "if True or (",
        f"{SAFE}::test_no_import_is_lost_among_others_and_readers",
    ),
    _m(
        "a lock file with another name elsewhere is not ours",
        "lock.py",
        "found.st_nlink > 1 or ",
        "",
        f"{SAFE}::test_a_lock_file_that_is_not_ours_is_never_written",
    ),
    _m(
        "what keeps a project to look at is said as it is",
        "opened.py",
        "            self.why_not = cannot.why\n",
        '            self.why_not = "the folder can only be read"\n',
        f"{SAFE}::test_a_lock_file_that_is_not_ours_is_never_written",
    ),
    _m(
        "a full disk at opening is over when there is room",
        "opened.py",
        "        if self.lock is None:\n            self._take_lock()\n            if self.lock is not None:",
        "        if self.lock is None:\n            if self.lock is not None:",
        f"{SAFE}::test_a_full_disk_at_opening_is_said_and_gone_when_there_is_room",
    ),
    _m(
        "what somebody else wrote is not overwritten",
        "saving.py",
        "        if foreign:\n",
        "        if False:\n",
        f"{SAFE}::test_what_somebody_else_wrote_is_neither_overwritten_nor_removed",
    ),
    _m(
        "a save that is certain is seen by who reads",
        "folder.py",
        "            elif name not in files or digest(files[name]) != change.brings:",
        "            elif False:",
        f"{SAFE}::test_a_save_that_fits_is_finished_by_a_writer_and_seen_by_a_reader",
    ),
    Mutant(
        "what both changed is asked part by part",
        "core/changes/merge.py",
        "            if mine != other and other != old:",
        "            if False:",
        f"{DESK}::test_what_both_changed_is_asked_part_by_part_before_it_is_saved",
    ),
    Mutant(
        "what others changed is no step of one's own",
        "desk/document/document.py",
        "        project, theirs = self.round_theirs(project, known)\n",
        "        theirs: list[str] = []\n",
        f"{DESK}::test_what_changed_on_disk_comes_in_when_the_window_comes_to_the_front",
    ),
    Mutant(
        "a part that both changed stays as it is on disk",
        "desk/document/keeping.py",
        '{d.key: "theirs" for d in merged.differences}',
        "{}",
        f"{DESK}::test_undo_of_what_others_changed_as_well_leaves_theirs_and_says_so",
    ),
    Mutant(
        "a clip that was exported anew is read again",
        "desk/shell/ondisk.py",
        "            if found.changed:\n",
        "            if False:\n",
        f"{DESK}::test_a_clip_that_was_exported_anew_is_read_again",
    ),
    _m(
        "a clip that was renamed on disk is told",
        "opened.py",
        "gone = self._gone([n for n in named if now.get(n) is None and self._stamps.get(n) is not None])",
        "gone: dict[str, str] = {}",
        f"{DESK}::test_a_clip_that_was_renamed_on_disk_is_told_and_followed",
    ),
    _m(
        "a folder that was moved is said",
        "opened.py",
        "        if not self.folder.is_dir():\n            raise _gone(self.folder)\n        now = ",
        "        now = ",
        f"{DESK}::test_a_folder_that_was_moved_is_said_and_can_be_saved_elsewhere",
    ),
)

UNSAVED = (
    _m(
        "what was taken in from disk reaches the journal",
        "opened.py",
        "        self.journal.lies_on(self.files)\n        self._stamps = dict(disk.stamps)",
        "        self._stamps = dict(disk.stamps)",
        f"{DESK}::test_after_a_change_on_disk_was_taken_in_a_crash_loses_nothing",
    ),
    Mutant(
        "no work is lost whatever is mixed: undo is kept as well",
        "desk/document/document.py",
        '{listed(theirs)}.", False)\n        self._show(project)\n        self._write_journal(words, project)',
        '{listed(theirs)}.", False)\n        self._show(project)',
        "tests/desk/test_crashes.py::test_no_work_is_lost_whatever_is_mixed",
    ),
    Mutant(
        "nobody's work is taken whatever is mixed",
        "desk/document/document.py",
        "self.done.append(Step(edit.words, before, edit.project, len(self.taken)))",
        "self.done.append(Step(edit.words, before, edit.project, len(self.taken) + 1))",
        "tests/desk/test_crashes.py::test_no_work_is_lost_whatever_is_mixed",
    ),
    _m(
        "no step of a crash is lost with another",
        "journal.py",
        "            before = self._saved if anew else self._last",
        "            before = self._last",
        f"{SAFE}::test_a_journal_that_grew_long_starts_anew_with_all_that_changed",
    ),
    Mutant(
        "a project without a folder keeps a journal",
        "desk/app.py",
        "        window.say_what_was_found()",
        "        pass",
        f"{DESK}::test_what_was_never_given_a_folder_is_offered_at_the_next_start",
    ),
    Mutant(
        "steps are compared part by part",
        "core/changes/replay.py",
        "if key not in mine and _differ(there.get(key), found.get(key)) and ",
        "if key not in mine and there != found and ",
        f"{SAFE}::test_a_step_fits_although_others_changed_something_else_in_the_same_file",
    ),
    Mutant(
        "a step that does not fit keeps out",
        "core/changes/replay.py",
        "if key not in other]",
        "]",
        f"{SAFE}::test_steps_that_do_not_fit_a_project_that_went_on_are_told",
    ),
    _m(
        "what a crash left stays until it is answered",
        "left.py",
        '        return done.project == project_from_files(files, "")',
        "        return True",
        f"{DESK}::test_work_left_stays_until_it_is_answered_by_name",
    ),
    _m(
        "a journal of a run that goes on is nobody's to take",
        "left.py",
        "        return not held_by_us(fd)",
        "        return False",
        f"{SAFE}::test_a_journal_gives_back_what_was_not_saved_and_belongs_to_its_run",
    ),
    _m(
        "a journal is not emptied while work is taken back",
        "journal.py",
        "            _append(fd, line)\n            os.replace(draft, self.path)",
        "            os.replace(draft, self.path)",
        f"{SAFE}::test_killed_at_any_call_of_taking_it_back_the_work_is_still_there",
    ),
    _m(
        "damage costs the step it hits",
        "left.py",
        "        if zlib.crc32(body) != int(begin[1], 16):\n            continue",
        "        if zlib.crc32(body) != int(begin[1], 16):\n            break",
        f"{DAMAGE}::test_a_flip_of_any_byte_of_a_journal_costs_one_step_at_most",
    ),
    Mutant(
        "a journal that cannot be written is said once",
        "desk/document/keeping.py",
        "            if self._journal_fine:\n                self.said",
        "            if True:\n                self.said",
        f"{DESK}::test_a_journal_that_cannot_be_written_is_said_once",
    ),
)

STRANGERS = (
    _m(
        "nothing is written through a link",
        "beneath.py",
        "                if not links:\n",
        "                if False:\n",
        "tests/core/files/test_text.py::test_links_are_followed_inside_and_never_out",
    ),
    _m(
        "a plan that leads through a link does not fit",
        "plan.py",
        "return digest(place.read(name, links=False))",
        "return digest(place.read(name))",
        f"{LINKS}::test_a_plan_in_a_clone_moves_nothing_through_a_link_and_makes_nothing_executable",
    ),
    _m(
        "what is laid ready is moved without the rights of a program",
        "beneath.py",
        "                _plain_rights(old, a)\n",
        "                pass\n",
        f"{LINKS}::test_what_a_stranger_left_unfinished_is_shown_and_finished_only_by_name",
    ),
    _m(
        "a stranger's save is finished only by name",
        "plan.py",
        "    if plan is not None and not (strange or plan.is_own):",
        "    if False:",
        f"{LINKS}::test_what_a_stranger_left_unfinished_is_shown_and_finished_only_by_name",
    ),
    Mutant(
        "a stranger's save is shown in the window",
        "desk/shell/ondisk.py",
        "        elif kept.unfinished.says:\n",
        "        elif False:\n",
        f"{DESK}::test_a_save_that_came_with_the_folder_is_finished_only_by_name",
    ),
    _m(
        "a secret that others can read is none",
        "own.py",
        " or found.st_mode & 0o077",
        "",
        f"{LINKS}::test_a_secret_that_others_could_have_made_is_none",
    ),
    _m(
        "one file under many names is looked at once",
        "assets.py",
        "            looked_at[stamp] = bound\n",
        "",
        f"{LENGTHS}::test_one_file_under_many_names_is_looked_at_once",
    ),
    _m(
        "buffers are bounded in all",
        "assets.py",
        "            in_all += bound.size\n",
        "",
        f"{LENGTHS}::test_buffers_that_many_clips_share_are_bounded_in_all",
    ),
    _m(
        "the same text under many names counts for each",
        "folder.py",
        "LONGEST_TEXTS, each=True)",
        "LONGEST_TEXTS)",
        f"{LENGTHS}::test_texts_that_are_too_long_together_are_not_read",
    ),
    _m(
        "nothing outside the folder is opened",
        "beneath.py",
        '            if not (link + "/").startswith(self._real + "/"):',
        "            if False:",
        f"{HOSTILE}::test_no_command_opens_changes_or_is_hung_by_anything",
    ),
    _m(
        "numbers have bounds",
        "folder.py",
        "    check_bounds(project, folder.name, lambda action: action_path(project, action))\n",
        "",
        "tests/core/files/test_bounds.py::test_what_cannot_be_is_refused_with_file_and_field",
    ),
    Mutant(
        "nothing is changed by being looked at",
        "desk/clips/cards/prepare.py",
        "field.show_most(top)",
        "field.setMaximum(top)",
        "tests/desk/test_looking.py::test_opening_any_clip_on_any_page_edits_none",
    ),
    Mutant(
        "nothing else is done while a project is on its way in",
        "desk/widgets/only.py",
        "        if event.type() == Kind.Shortcut:\n",
        "        if event.type() != Kind.None_:\n            return False\n        if event.type() == Kind.Shortcut:\n",
        "tests/desk/test_safe.py::test_opening_can_be_given_up_and_nothing_else_done_meanwhile",
    ),
    Mutant(
        "numbers that would be wrong without a clip are not given",
        "cli/given.py",
        "locomotion=locomotion) if whole else ():",
        "locomotion=locomotion) if False else ():",
        f"{HOSTILE}::test_what_is_missing_is_never_left_out_in_silence",
    ),
    Mutant(
        "names are shown as they are",
        "desk/widgets/label.py",
        "        self.setTextFormat(Qt.TextFormat.PlainText)\n",
        "",
        f"{DESK}::test_names_are_shown_as_they_are_and_never_as_markup",
    ),
    Mutant(
        "an error nobody foresaw is said",
        "desk/shell/mishaps.py",
        "        say(note(error))",
        "        note(error)",
        f"{DESK}::test_an_error_nobody_foresaw_is_said_kept_and_work_goes_on",
    ),
    Mutant(
        "no display is a sentence",
        "desk/shell/mishaps.py",
        "            print(no_window(), file=sys.stderr, flush=True)\n            os._exit(2)",
        "            os._exit(2)",
        f"{DESK}::test_no_display_is_a_sentence_and_no_core_dump",
    ),
)

TAKES = "tests/desk/test_takes.py"
PAINT = "tests/desk/test_paint.py::test_a_sheet_drawn_again_in_part_is_the_sheet_drawn_whole"
ASIDE = "tests/desk/test_aside.py"
BESIDE = (
    Mutant(
        "what nobody holds is taken down on the windows' thread",
        "desk/running/tidying.py",
        "        gc.disable()\n",
        "",
        f"{ASIDE}::test_what_nobody_holds_goes_on_the_thread_of_the_windows_only",
    ),
    Mutant(
        "everything is searched only while nothing plays",
        "desk/running/tidying.py",
        " and not in_the_middle()",
        "",
        f"{ASIDE}::test_the_young_are_searched_often_and_everything_only_while_nothing_plays",
    ),
    Mutant(
        "of a curve the lowest is drawn",
        "desk/clips/curves.py",
        "(np.argmin, np.argmax)",
        "(np.argmax,)",
        f"{TAKES}::test_what_is_drawn_of_a_curve_has_its_peaks_and_is_no_more_than_there_is_room_for",
    ),
    Mutant(
        "of a curve the last is drawn",
        "desk/clips/curves.py",
        "rows[[0, -1]]",
        "rows[:1]",
        f"{TAKES}::test_what_is_drawn_of_a_curve_has_its_peaks_and_is_no_more_than_there_is_room_for",
    ),
    Mutant(
        "curves are drawn again for what is seen of the take",
        "desk/clips/curves.py",
        "line.low, line.high, self.size()",
        "self.size()",
        f"{TAKES}::test_curves_are_drawn_once_while_the_playhead_moves",
    ),
    Mutant(
        "a stamp is of one place on the grid",
        "desk/sheet/paint/stamps.py",
        "box.left() - left, box.top() - top, ",
        "",
        PAINT,
    ),
    Mutant(
        "a stamp is of one choice",
        "desk/sheet/paint/ink.py",
        "small, chosen, pins, self.theme.look.name)",
        "small, pins, self.theme.look.name)",
        PAINT,
    ),
    Mutant(
        "a stamp lies on whole pixels of the screen",
        "desk/sheet/paint/stamps.py",
        "grid = 1 if ratio == int(ratio) else FINE",
        "grid = 1",
        PAINT,
    ),
    Mutant(
        "words that pass move nothing",
        "desk/widgets/notice.py",
        "0 if self.passes else height",
        "height",
        "tests/desk/test_window.py::test_words_that_pass_move_nothing_and_words_that_stay_hide_nothing",
    ),
    Mutant(
        "words that stay hide nothing",
        "desk/widgets/notice.py",
        "0 if self.passes else height",
        "0",
        "tests/desk/test_window.py::test_words_that_pass_move_nothing_and_words_that_stay_hide_nothing",
    ),
    Mutant(
        "a page that is seen again shows what there is",
        "desk/spar/bench.py",
        "        self._name_open()\n        self._renew_page()\n",
        "        self._name_open()\n",
        "tests/desk/test_spar.py::test_a_page_that_comes_to_be_seen_again_shows_what_there_is_by_then",
    ),
    Mutant(
        "who edits is not held up",
        "desk/running/tidying.py",
        " and calm and",
        " and",
        f"{ASIDE}::test_the_young_are_searched_often_and_everything_only_while_nothing_plays",
    ),
    Mutant(
        "what has been due for long is done",
        "desk/running/tidying.py",
        " or now >= self.due + WHOLE",
        "",
        f"{ASIDE}::test_the_young_are_searched_often_and_everything_only_while_nothing_plays",
    ),
    Mutant(
        "what was frozen is searched with everything",
        "desk/running/tidying.py",
        "        gc.unfreeze()\n",
        "",
        f"{ASIDE}::test_the_young_are_searched_often_and_everything_only_while_nothing_plays",
    ),
    Mutant(
        "an owner that is gone hears no more",
        "desk/running/work.py",
        "if not isValid(self.owner):",
        "if False:",
        f"{ASIDE}::test_an_owner_that_goes_while_something_is_made_for_it_hears_no_more_and_takes_nothing_down",
    ),
    Mutant(
        "a strip is told on the windows' thread",
        "desk/clips/strips.py",
        "self._box.post(tell)",
        "tell()",
        f"{ASIDE}::test_an_owner_that_goes_while_something_is_made_for_it_hears_no_more_and_takes_nothing_down",
    ),
)

SAFETY = (*SAVES, *OTHERS, *UNSAVED, *STRANGERS, *BESIDE)
