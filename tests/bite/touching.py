"""The changes of what a touch does: stun, poise, guards, pushes, groups, teams, what runs, and who answers."""

from __future__ import annotations

from tests.bite.mutant import Mutant

HERE = "tests/core/play/test_touching.py"
STUN, GUARD = f"{HERE}::test_a_stun_is_over_on_its_tick_whatever_the_reaction_lasts", f"{HERE}::test_a_guard_"
RUNS = f"{HERE}::test_what_a_strike_runs_goes_off_once_on_its_side"
ROWS, POSTURE = (
    f"{HERE}::test_a_row_may_ask_for_a_region_a_distance_and_conditions",
    f"{HERE}::test_how_one_stands_chooses_hurtboxes_and_rows",
)
STRING = f"{HERE}::test_the_touches_of_a_string_come_to_less_and_a_free_one_begins_anew"
BREAKS = f"{GUARD}breaks_when_what_it_stopped_comes_to_its_strength"
STILL = f"{HERE}::test_who_is_stunned_neither_walks_turns_nor_jumps"
DEFLECTS = f"{GUARD}deflects_on_its_first_ticks_and_both_answer"


def _m(rule: str, file: str, old: str, new: str, test: str) -> Mutant:
    return Mutant(rule, f"core/play/{file}", old, new, test)


APPLY, SHIELDS, FIND = "contact/applying.py", "contact/shielding.py", "contact/contacts.py"
TOUCHING = (
    _m(
        "a stun goes by ticks played",
        "rules/decide.py",
        "fighter.stun = max(fighter.stun - 1, 0)",
        "fighter.stun = max(fighter.stun - 2, 0)",
        STUN,
    ),
    _m("with a stun its reaction ends", "rules/decide.py", "if voice.serial == fighter.reels:", "if False:", STUN),
    _m(
        "a reaction holds its last frame through a stun",
        "rules/decide.py",
        "reels = fighter.stun > 0 and",
        "reels = False and",
        STUN,
    ),
    _m(
        "who is stunned takes no exit",
        "rules/decide.py",
        "                if self.fighter.stun:\n                    continue\n",
        "",
        STUN,
    ),
    _m(
        "who is stunned starts nothing", "rules/decide.py", "if fighter.down or fighter.stun:", "if fighter.down:", STUN
    ),
    _m(
        "a stun of none is as long as the reaction",
        APPLY,
        "stun = None if stun is None else max(stun, 1)",
        "stun = max(stun or 1, 1)",
        STUN,
    ),
    _m(
        "who is stunned does not walk",
        "body/move.py",
        "if fighter.down or fighter.stun else fighter.stick",
        "if fighter.down else fighter.stick",
        STILL,
    ),
    _m("who is stunned does not turn", "body/move.py", "or fighter.down or fighter.stun:", "or fighter.down:", STILL),
    _m("who is stunned does not jump", "locomotion/jump.py", "or fighter.stun ", "", STILL),
    _m(
        "a guard's stun is its own",
        APPLY,
        "None if contact.breaks else strike.guard_stun",
        "strike.stun",
        f"{GUARD}stuns_those_behind_it_for_its_own_ticks",
    ),
    _m(
        "an arc is half to either side",
        SHIELDS,
        "shield.arc / 2.0",
        "shield.arc",
        f"{GUARD}stops_what_comes_from_its_arc",
    ),
    _m("an arc has its middle", SHIELDS, "degrees - shield.toward", "degrees", f"{GUARD}stops_what_comes_from_its_arc"),
    _m(
        "a guard lets its share through",
        FIND,
        "strike.damage * (came.shield.lets if",
        "0.0 * (came.shield.lets if",
        f"{GUARD}stops_what_comes_from_its_arc",
    ),
    _m(
        "a guard deflects on its first ticks",
        SHIELDS,
        "voice.frame - shield.start < shield.deflects",
        "voice.frame - shield.start <= shield.deflects",
        DEFLECTS,
    ),
    _m("the whole action's guard deflects by its age", SHIELDS, "voice.age < shield.deflects", "False", DEFLECTS),
    _m(
        "a guard deflects on its first lap",
        SHIELDS,
        "voice.laps == 0 and ",
        "",
        f"{GUARD}in_a_loop_deflects_on_its_first_lap_only",
    ),
    _m("who is deflected answers", APPLY, "if name not in hit]", "if False]", DEFLECTS),
    _m(
        "what is deflected pushes nobody",
        APPLY,
        'pushed=contact.result not in ("deflected", "armoured")',
        "pushed=True",
        DEFLECTS,
    ),
    _m(
        "a guard breaks at its strength",
        SHIELDS,
        "0.0 < shield.strength <= worn",
        "0.0 < shield.strength < worn",
        BREAKS,
    ),
    _m("a guard wears", APPLY, "victim.worn + poise", "victim.worn", BREAKS),
    _m(
        "a broken guard is whole again",
        APPLY,
        "0.0 if contact.breaks else",
        "victim.worn + poise if contact.breaks else",
        f"{GUARD}raised_again_after_it_broke_is_whole",
    ),
    _m(
        "a broken guard guards no more",
        APPLY,
        "            _break_guard(victim)",
        "            pass",
        f"{HERE}::test_a_guard_that_breaks_without_a_row_is_over",
    ),
    _m(
        "a guard recovers",
        "simulation.py",
        "max(f.worn - back, 0.0)",
        "f.worn",
        f"{HERE}::test_what_a_guard_has_taken_goes_back_once_it_is_left_alone",
    ),
    _m(
        "a guard rests before it recovers",
        "simulation.py",
        "if f.rested > f.setup.rests:",
        "if True:",
        f"{HERE}::test_what_a_guard_has_taken_goes_back_once_it_is_left_alone",
    ),
    _m(
        "poise holds out until it is gone",
        SHIELDS,
        "for i in hits) < fighter.poise",
        "for i in hits) <= fighter.poise",
        f"{HERE}::test_poise_takes_touches_without_reeling_until_it_is_gone",
    ),
    _m(
        "poise is whole after it broke",
        APPLY,
        "victim.poise = victim.setup.poise",
        "victim.poise = 0.0",
        f"{HERE}::test_poise_takes_touches_without_reeling_until_it_is_gone",
    ),
    _m(
        "all of a tick weigh on poise together",
        SHIELDS,
        "0.0 < sum(out[i].strike.poise for i in hits)",
        "0.0 < max(out[i].strike.poise for i in hits)",
        f"{HERE}::test_two_at_once_break_a_poise_that_neither_would",
    ),
    _m(
        "away is away from the attacker",
        APPLY,
        'if contact.strike.push == "away":',
        "if False:",
        f"{HERE}::test_a_push_goes_the_way_it_says",
    ),
    _m(
        "a swing pushes its own way",
        FIND,
        "way = a1 + b1 - a0 - b0",
        "way = a0 + b0 - a1 - b1",
        f"{HERE}::test_a_push_along_the_swing_goes_as_the_hitbox_goes",
    ),
    _m(
        "a push has its own ticks",
        "body/move.py",
        "fighter.shove.age >= fighter.shove.ticks",
        "fighter.shove.age > fighter.shove.ticks",
        f"{HERE}::test_a_push_over_its_own_ticks_goes_as_far_as_its_curve",
    ),
    _m(
        "a push falls by its curve",
        "aftermath.py",
        '"even": 1.0 - part,',
        '"even": 1.0,',
        f"{HERE}::test_a_push_over_its_own_ticks_goes_as_far_as_its_curve",
    ),
    _m(
        "a victim has its own hit stop",
        APPLY,
        "if strike.victim_stop is None else strike.victim_stop",
        "",
        f"{HERE}::test_a_victim_may_stand_still_for_a_time_of_its_own",
    ),
    _m(
        "a repeat has its cap",
        FIND,
        "again and not 0 < strike.most <= len(last)",
        "again",
        f"{HERE}::test_a_repeat_has_its_cap",
    ),
    _m(
        "a group is one over sections",
        FIND,
        "(strike.group, victim) in voice.so_far.groups",
        "False",
        f"{HERE}::test_strikes_of_a_group_touch_each_once_together",
    ),
    _m(
        "a group is one on a tick",
        FIND,
        "            if mark in seen:",
        "            if False:",
        f"{HERE}::test_strikes_of_a_group_touch_each_once_together",
    ),
    _m(
        "nobody strikes his team",
        FIND,
        'if own != (strike.team == "own"):',
        "if False:",
        f"{HERE}::test_whom_a_strike_is_for",
    ),
    _m(
        "those of no team are strangers",
        FIND,
        'fighter.setup.team != "" and ',
        "",
        f"{HERE}::test_whom_a_strike_is_for",
    ),
    _m("what runs, runs at its moment", APPLY, "        if outcome.when == when:", "        if True:", RUNS),
    _m("a miss runs on every ending", "telling.py", "    if gone and f.swinging:", "    if False:", RUNS),
    _m("who has touched has not missed", APPLY, "s._replace(met=True) if", "s if", RUNS),
    _m("what runs sets its parameter", APPLY, "whose.set_parameter(outcome.name", "whose.parameter(outcome.name", RUNS),
    _m("a row is for its region", "contact/answers.py", 'and row.region in ("any", touch.region)', "", ROWS),
    _m("a row is for those near enough", "contact/answers.py", "touch.far <= row.far", "True", ROWS),
    _m("a row is for those far enough", "contact/answers.py", "and row.near <= touch.far", "", ROWS),
    _m("a row asks its conditions", "contact/answers.py", "not row.conditions or holds(", "True or holds(", ROWS),
    _m("a section says how one stands", "contact/answers.py", "and voice.part.section.posture:", "and False:", POSTURE),
    _m(
        "hurtboxes are there in their postures",
        "compiled/hurting.py",
        "if not h.postures or posture in h.postures",
        "",
        POSTURE,
    ),
    _m("a string comes to less", APPLY, "max(factor**before, min(least, 1.0))", "1.0", STRING),
    _m("a string has its least", APPLY, "max(factor**before, min(least, 1.0))", "factor**before", STRING),
    _m(
        "who is free begins a new string",
        "rules/decide.py",
        "            fighter.strung = 0",
        "            pass",
        STRING,
    ),
    _m(
        "a pool of reactions remembers",
        APPLY,
        "            chances.picked(row.action, name)",
        "            pass",
        f"{HERE}::test_a_row_may_name_a_pool_which_gives_none_twice_running",
    ),
)
