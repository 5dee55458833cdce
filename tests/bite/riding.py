"""Changes of what platforms do to those who are on them or in their way."""

from __future__ import annotations

from tests.bite.mutant import Mutant

HERE = "tests/core/play/test_platforms.py"
RIDES, WHERE, MOVES = "core/play/body/riding.py", "core/play/body/platforms.py", "core/play/body/move.py"
AS_STILL = f"{HERE}::test_any_figure_stands_walks_runs_and_strikes_on_a_platform_as_on_a_floor"
FIGHT = f"{HERE}::test_such_fights_come_to_touches_and_hit_stop"
LEAVES = f"{HERE}::test_who_leaves_a_platform_has_its_speed"
RIDING = (
    Mutant("a platform goes softly", WHERE, "much = t * t * (3.0 - 2.0 * t)", "much = t",
           f"{HERE}::test_where_a_platform_is_goes_as_an_independent_curve"),
    Mutant("a platform rests first", WHERE, "at % half - floor.rests", "at % half",
           f"{HERE}::test_where_a_platform_is_goes_as_an_independent_curve"),
    Mutant("feet go along with what they stand on", RIDES, "        feet.take_along(rows, place[0] - x, by[1], place[2] - z)\n",
           "", AS_STILL),
    Mutant("a rise of the floor is no step of the stairs", RIDES, "footing.height + by[1] if", "footing.height if", AS_STILL),
    Mutant("who stands on a platform goes with it", RIDES, "        by = platforms.by[on]\n", "", AS_STILL),
    Mutant("platforms go on in hit stop", "core/play/simulation.py",
           "            radius = build.project.rig.capsule.radius\n            carried",
           "            radius = build.project.rig.capsule.radius\n            if f.frozen:\n                continue\n            carried",
           FIGHT),
    Mutant("who leaves a platform has its speed", MOVES, "        if carried != NOWHERE:", "        if False:", LEAVES),
    Mutant("a platform pushes who is in its way", RIDES, "            _push(platforms, n, fighter, radius, round_it)\n",
           "            pass\n", f"{HERE}::test_no_platform_goes_through_somebody"),
    Mutant("walls stop who is taken along", RIDES, "radius, platforms.now, round_it)\n        fighter", "radius, platforms.now[:1], NOTHING_ROUND)\n        fighter",
           f"{HERE}::test_a_wall_and_a_post_stop_who_is_taken_along"),
    Mutant("walls stop who is pushed", RIDES, "    others = np.delete(platforms.now, platforms.which[n], axis=0)\n",
           "    others = platforms.now[:1]\n", f"{HERE}::test_a_wall_and_a_post_stop_who_is_taken_along"),
    Mutant("who falls meets a platform that comes up", RIDES, "up = 0.0 if fighter.grounded else by", "up = 0.0",
           f"{HERE}::test_who_falls_lands_on_a_platform_wherever_it_is_by_then"),
    Mutant("what flies meets a platform where it is", "core/play/simulation.py", "fly(self.build, self.world, self.fighters, floors)",
           "fly(self.build, self.world, self.fighters, self.build.floors)",
           f"{HERE}::test_a_thing_ends_on_a_platform_where_it_is_on_that_tick"),
    Mutant("platforms are drawn where they are", "core/scene/view.py", "moved(floor, record.tick) for floor", "moved(floor, 0) for floor",
           "tests/desk/test_stages.py::test_a_platform_is_made_and_ridden_and_the_camera_rises_with_it_and_not_with_a_jump"),
    Mutant("the camera rises with the floor", "desk/spar/following.py", "f.position[1] - f.above", "f.position[1]",
           "tests/desk/test_stages.py::test_a_platform_is_made_and_ridden_and_the_camera_rises_with_it_and_not_with_a_jump"),
    Mutant("a take shares with the one before only what is the same", "core/play/take/drills.py",
           "if inputs.get(n, []) != self._inputs.get(n, [])), len(had))", "if False), len(had))",
           "tests/core/play/test_drills.py::test_takes_that_share_their_beginning_are_as_if_each_was_played_alone"),
    Mutant("a take goes on from where it is the same no more", "core/play/take/drills.py", "resume(had[same - 1], had[same - 2] if same > 1 else None)",
           "resume(had[-1], had[-2] if same > 1 else None)",
           "tests/core/play/test_drills.py::test_takes_that_share_their_beginning_are_as_if_each_was_played_alone"),
    Mutant("what came is of the first cell of a drill", "core/play/take/drills.py", "came = came_of(records) if cell == every[0] else came",
           "came = came or came_of(records)", "tests/core/play/test_drills.py::test_what_missed_stands_with_its_cell_and_what_came_is_of_the_first"),
)  # fmt: skip
