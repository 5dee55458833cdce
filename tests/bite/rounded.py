"""Changes that let play hang on the last digit, or hand over something else than what is played."""

from __future__ import annotations

from tests.bite.mutant import Mutant

ROUNDING, REFEREE = "tests/core/play/test_rounding.py", "tests/referee/test_referee.py"
GO, PLAYING = "core/play/compiled/trajectory.py", "core/play/locomotion/playing.py"
WHATEVER = f"{REFEREE}::test_whatever_two_do_it_is_the_same_take"
DRILLS = f"{REFEREE}::test_every_drill_of_the_demo_is_the_same_take"
ROUNDED: tuple[Mutant, ...] = (
    Mutant("what creeps is not braked", GO, "CREEPS = 1e-3", "CREEPS = 0.0",
           f"{ROUNDING}::test_what_is_left_of_a_motion_does_not_brake_a_body_that_begins_to_walk"),
    Mutant("along a wall nobody is braked", GO, "SLOWER = 1.0 - 1e-6", "SLOWER = 1.0",
           f"{ROUNDING}::test_a_hair_away_it_is_the_same_bout"),
    Mutant("a body that begins to walk turns as fast on every heading", "core/play/body/move.py", "SLOW = 0.3 - 1e-6",
           "SLOW = 0.3", f"{ROUNDING}::test_whichever_way_it_faces_a_body_turns_as_fast_as_it_begins_to_walk"),
    Mutant("half way is of the earlier frame", PLAYING, "HALF = 0.5 - 1e-6", "HALF = 0.5",
           f"{ROUNDING}::test_between_two_frames_the_feet_are_where_the_earlier_has_them"),
    Mutant("of phases that fit as well the first", PLAYING, "AS_WELL = 1e-6", "AS_WELL = 0.0",
           f"{ROUNDING}::test_of_phases_that_fit_as_well_the_first_is_taken"),
    Mutant("a drive's scale weighs root motion", "core/play/body/move.py", "much = share.drive.scale * share.own",
           "much = share.own",
           WHATEVER),
    Mutant("hit stop is both sides'", "core/play/contact/applying.py",
           "attacker.frozen = max(attacker.frozen, strike.hit_stop)", "pass", DRILLS),
    Mutant("poses past the end of a section are handed over", "core/export/poses.py", "for p in (part.pose, part.tail)]",
           "for p in (part.pose, part.pose)]", f"{REFEREE}::test_a_pose_is_handed_over_as_it_is_played"),
    Mutant("a mount has another on the other side", "core/export/figure.py", '"other": _mount(build, m.name, axes, True)',
           '"other": _mount(build, m.name, axes)', f"{REFEREE}::test_a_mount_of_a_mirrored_pose_is_where_play_has_it"),
)  # fmt: skip
