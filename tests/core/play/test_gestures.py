"""Commands that are made by more than a press: held, let go, double, together, motions of the stick."""

from __future__ import annotations

from itertools import combinations, product
from typing import Any, Literal

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tools.made.edits import replace, section

from tests.conftest import OSSA
from tests.core.play.test_made_plain import quiet, struck
from tests.core.play.test_rules import FLOOR, made, opposite, plays, run
from veergust.core.model import Command, Condition, Exit, Gate, Gesture, Layer, Mask, Project, StartRule, Strike
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.hands import STILL, WAYS, gone_on
from veergust.core.play.hands import made as recognised
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import Input
from veergust.core.play.take.record import Record

ANGLES: dict[str, float] = {way: n * 45.0 for n, way in enumerate(WAYS)}
BASE = tuple(Command(name=name) for name in ("light", "heavy"))


def stick(way: str, facing: float = 0.0, out: float = 1.0) -> tuple[float, float]:
    if way == "centre":
        return 0.0, 0.0
    at = np.radians(ANGLES[way] + facing)
    return float(out * np.sin(at)), float(out * np.cos(at))


def fires(gesture: Gesture, ways: list[str], down: list[set[str]]) -> list[int]:
    """The ticks on which one gesture is complete, of where the stick lies and what is down on every tick."""
    command, hands, out, before = Command(name="it", gesture=gesture), STILL, [], set[str]()
    for tick, (way, now) in enumerate(zip(ways, down)):
        hands, up = gone_on(hands, sorted(now - before), sorted(before - now), stick(way), 0.0, 0.0, tick)
        found = recognised([command], hands, up, tick)
        hands = hands._replace(taken=(*(m for one in found for m in one.takes), *hands.taken))
        out += [tick] * len(found)
        before = now
    return out


def runs(ways: list[str]) -> list[tuple[str, int, int]]:
    """(way, first tick, first tick after it)."""
    out: list[tuple[str, int, int]] = []
    for tick, way in enumerate(ways):
        if out and out[-1][0] == way:
            out[-1] = way, out[-1][1], tick + 1
        else:
            out.append((way, tick, tick + 1))
    return out


def motion_by_all_ways(gesture: Gesture, ways: list[str], presses: list[int] | None) -> list[int]:
    """As ``fires`` of a motion, by trying every choice of stretches of the stick."""
    out = []
    for t in range(len(ways)):
        there = runs(ways[: t + 1])
        if presses is not None and t not in presses:
            continue
        for chosen in combinations(range(len(there)), len(gesture.ways)):
            rows = [there[i] for i in chosen]
            if not all(fits(gesture, wish, row[0]) for wish, row in zip(gesture.ways, rows)):
                continue
            if presses is None and rows[-1][1] != t:
                continue
            # From the tick on which one way was left for another to that on which the next was there.
            left = [min(row[2], t) for row in rows]
            near = all(rows[n + 1][1] - left[n] <= gesture.within for n in range(len(rows) - 1))
            last = t - left[-1] <= gesture.within
            between = [there[i][0] for i in range(chosen[0] + 1, len(there)) if i not in chosen]
            clear = not gesture.strict or all(way == "centre" for way in between)
            if near and last and clear:
                out.append(t)
                break
    return out


def fits(gesture: Gesture, wish: str, way: str) -> bool:
    if wish == way:
        return True
    if not gesture.wide or "centre" in (wish, way):
        return False
    return abs((ANGLES[wish] - ANGLES[way] + 180.0) % 360.0 - 180.0) < 46.0


way_names = st.sampled_from([*WAYS, "centre"])
stretches = st.lists(st.tuples(way_names, st.integers(1, 6)), min_size=1, max_size=9)


@settings(max_examples=150)
@given(
    stretches=stretches,
    chosen=st.lists(st.integers(0, 8), min_size=1, max_size=3, unique=True).map(sorted),
    within=st.integers(1, 8),
    wide=st.booleans(),
    strict=st.booleans(),
    presses=st.none() | st.sets(st.integers(0, 40), max_size=4),
)
def test_a_motion_is_found_where_any_choice_of_its_parts_is_one(
    stretches: list[tuple[str, int]], chosen: list[int], within: int, wide: bool, strict: bool,
    presses: set[int] | None,
) -> None:  # fmt: skip
    ways = [way for way, long in stretches for _ in range(long)]
    # What is wished for is mostly there, but for how long it takes and what lies between.
    wished: list[Any] = [stretches[i % len(stretches)][0] for i in chosen]
    of = () if presses is None else ("light",)
    gesture = Gesture(kind="motion", of=of, ways=tuple(wished), within=within, wide=wide, strict=strict)
    down = [{"light"} if presses and t in presses else set[str]() for t in range(len(ways))]
    # What is down on two ticks running is one press.
    made_ = None if presses is None else [t for t in presses if t < len(ways) and t - 1 not in presses]
    assert fires(gesture, ways, down) == motion_by_all_ways(gesture, ways, made_)


@settings(max_examples=80)
@given(st.lists(st.sets(st.sampled_from(["light", "heavy"])), max_size=40), st.integers(1, 9), st.integers(0, 9))
def test_held_let_go_double_and_together_by_what_is_down(down: list[set[str]], within: int, ticks: int) -> None:
    still = ["centre"] * len(down)
    begins = {name: [t for t in range(len(down)) if name in down[t] and (t == 0 or name not in down[t - 1])]
              for name in ("light", "heavy")}  # fmt: skip
    long = {}
    for t in begins["light"]:
        end = next((e for e in range(t, len(down)) if "light" not in down[e]), None)
        long[t] = (end if end is not None else len(down)) - t, end
    held = [t + ticks for t, (n, _) in long.items() if n > ticks]
    assert fires(Gesture(kind="held", of=("light",), ticks=ticks), still, down) == held
    up = [end for n, end in long.values() if end is not None and n >= ticks]
    assert fires(Gesture(kind="let go", of=("light",), ticks=ticks), still, down) == up
    double, last = [], None
    for t in begins["light"]:
        if last is not None and t - last <= within:
            double.append(t)
            last = None
        else:
            last = t
    assert fires(Gesture(kind="double", of=("light",), within=within), still, down) == double
    both, spent = [], {"light": -1, "heavy": -1}
    for t in range(len(down)):
        late = {name: max((b for b in begins[name] if b <= t), default=-1) for name in begins}
        fresh = all(late[n] > spent[n] for n in late)
        if fresh and max(late.values()) == t and t - min(late.values()) <= within:
            both.append(t)
            spent = late
    assert fires(Gesture(kind="together", of=("light", "heavy"), within=within), still, down) == both


def bout(quay: Project, *gestures: Command, **fields: Any) -> Project:
    """Two who face each other; an action for each command, by its name."""
    commands = (*gestures, *BASE)
    actions = [made(c.name.title(), section("idle", 0.5), start=StartRule(commands=(c.name,))) for c in commands]
    project = replace(opposite(quiet(quay), *actions), commands=commands, layers=(Layer(name="Body"),))
    return replace(project, **fields)


def script(*steps: tuple[int, Any]) -> dict[int, list[Input]]:
    """Inputs by tick: a name pressed, "-name" let go, a way of the stick."""
    out: dict[int, list[Input]] = {}
    for tick, what in steps:
        if isinstance(what, tuple):
            given_ = Input(OSSA, axis="move", value=what)
        else:
            given_ = Input(OSSA, what.lstrip("-"), press=not what.startswith("-"))
        out.setdefault(tick, []).append(given_)
    return out


def started(records: list[Record]) -> list[tuple[int, str]]:
    """When anything began, and what."""
    return [(r.tick, a) for r in records for a, _, frame in plays(r) if frame == 0]


BOTH = Command(name="both", gesture=Gesture(kind="together", of=("light", "heavy"), within=3))
QUICK = Command(name="quick", gesture=Gesture(kind="motion", of=("light",), ways=("back", "forward"), within=8))
STEP = Command(name="step", gesture=Gesture(kind="motion", ways=("left", "centre", "left"), within=8))


@pytest.mark.parametrize("facing", [0.0, 140.0])
def test_a_gesture_starts_what_it_is_for_and_its_parts_start_nothing(
    quay: Project, assets: Assets, facing: float
) -> None:
    project = bout(quay, BOTH, QUICK, STEP)
    me, you = project.stage.fighters
    turned = replace(project, stage=replace(project.stage, fighters=(replace(me, facing=facing), you), floors=FLOOR))

    def way(name: str, out: float = 0.9) -> tuple[float, float]:
        return stick(name, facing, out)

    same = script((5, "light"), (5, "heavy"))
    assert started(run(turned, assets, same, 20)) == [(5, "Both")]
    after = script((5, "heavy"), (8, "light"))
    # The first had begun by itself; the second is part of what both are.
    assert started(run(turned, assets, after, 20)) == [(5, "Heavy")]
    there = script((3, way("back")), (6, way("forward")), (8, "light"), (9, (0.0, 0.0)))
    assert started(run(turned, assets, there, 20)) == [(8, "Quick")]
    late = script((3, way("back")), (6, way("forward")), (7, (0.0, 0.0)), (16, "light"))
    assert started(run(turned, assets, late, 24)) == [(16, "Light")]
    twice = script((3, way("left")), (5, (0.0, 0.0)), (8, way("left")), (9, (0.0, 0.0)))
    assert started(run(turned, assets, twice, 20)) == [(8, "Step")]
    walked = script((3, way("left", 0.3)), (5, (0.0, 0.0)), (8, way("left", 0.3)), (9, (0.0, 0.0)))
    assert started(run(turned, assets, walked, 20)) == [(8, "Step")]
    small = script((3, way("left", 0.15)), (5, (0.0, 0.0)), (8, way("left", 0.15)))
    assert started(run(turned, assets, small, 20)) == []


def test_ways_about_the_target_are_counted_from_where_it_is(quay: Project, assets: Assets) -> None:
    """The other stands on the left: towards it is forward about it, and left about the body."""
    about = Gesture(kind="motion", of=("light",), ways=("forward",), within=2, about="target")
    project = bout(quay, Command(name="to", gesture=about))
    me, you = project.stage.fighters
    project = replace(project, stage=replace(project.stage, fighters=(me, replace(you, position=(2.0, 0.0, 0.0)))))
    for way, wanted in (("left", "To"), ("forward", "Light"), ("right", "Light")):
        assert started(run(project, assets, script((4, stick(way, 0.0, 0.5)), (5, "light")), 12)) == [(5, wanted)]


def test_how_long_it_was_held_is_told_to_a_parameter_and_asked_by_a_gate(quay: Project, assets: Assets) -> None:
    charge = Gesture(kind="let go", of=("heavy",), ticks=6, levels=(10, 20), sets="charge")
    project = bout(quay, Command(name="smash", gesture=charge))
    smash = made("Smash", section("idle", 0.1, gates=(Gate(start=1, end=3, to="big", conditions=(
        Condition(test="parameter", name="charge", op=">=", value=2.0),)),)), replace(section("idle", 0.2), name="big"),
        start=StartRule(commands=("smash",)))  # fmt: skip
    heavy = replace(next(a for a in project.actions if a.name == "Heavy"), start=StartRule())
    project = replace(project, actions=(smash, heavy))
    for long, level in ((5, None), (6, 0.0), (12, 1.0), (20, 2.0), (31, 2.0)):
        records = run(project, assets, script((2, "heavy"), (2 + long, "-heavy")), 60)
        assert [t for t, _ in started(records)[:1]] == ([2 + long] if level is not None else [])
        if level is not None:
            assert records[2 + long].fighter(OSSA).parameter("charge") == level
            went_big = any(part == "big" for r in records for _, part, _ in plays(r))
            assert went_big == (level == 2.0)


def test_what_is_held_long_enough_stays_held_until_it_is_let_go(quay: Project, assets: Assets) -> None:
    project = bout(quay, Command(name="ward", gesture=Gesture(kind="held", of=("light",), ticks=4)))
    records = run(project, assets, script((3, "light"), (12, "-light")), 20)
    assert [r.tick for r in records if "ward" in r.fighter(OSSA).held] == list(range(7, 12))
    assert records[12].fighter(OSSA).let_go == ("light", "ward")
    # The press itself has started what it starts; the held one is remembered as any press is.
    assert started(records)[0] == (3, "Light")


ASKS: tuple[tuple[str, Literal["any", "hit"]], ...] = (("both", "hit"), ("heavy", "any"), ("light", "any"))


def test_what_two_fingers_press_a_little_apart_is_one_thing(quay: Project, assets: Assets) -> None:
    """What it is for asks for a hit that never came: the first finger's press alone starts nothing either."""
    ways = tuple(Exit(start=12, end=30, kind="combo", command=c, to=c.title(), contact=asked)
                 for c, asked in ASKS)  # fmt: skip
    first = made("Blow", section("idle", 0.7, exits=ways))
    project = replace(bout(quay, BOTH), settings=replace(quay.settings, buffer=20))
    project = replace(project, actions=(*project.actions, first))
    for keys, wanted in (((8, "heavy"), (10, "light")), []), (((8, "heavy"),), ["Heavy"]):
        records = run(project, assets, {2: [Input(OSSA, action="Blow")], **script(*keys)}, 30)
        assert [name for _, name in started(records) if name != "Blow"] == wanted


@pytest.mark.parametrize(("pressed", "layers"), list(product((16, 18, 20), (1, 2))))
def test_a_gesture_made_in_hit_stop_is_made_and_used_once(
    quay: Project, assets: Assets, pressed: int, layers: int
) -> None:
    """Contact on 14 with five ticks of hit stop; both pressed within it, on one layer and on two, over a border."""
    blow = Strike(start=0, end=1, damage=1.0, hit_stop=5, knockback=(0, 0, 0))
    first = made("Blow", section("idle", 10 / 60, strikes=(replace(blow, start=9, end=10),), then="on"),
                 replace(section("idle", 0.5, exits=(Exit(start=0, end=20, kind="combo", command="both", to="Both"),)),
                         name="on"))  # fmt: skip
    project = bout(quay, BOTH)
    project = replace(project, actions=(*project.actions, first))
    if layers == 2:
        mask = Mask(name="arms", weights=(("upper_arm_left", 1.0),))
        arms = Layer(name="Arms", mask="arms")
        heavy = next(a for a in project.actions if a.name == "Heavy")
        project = replace(project, masks=(mask,), layers=(*project.layers, arms),
                          actions=tuple(replace(a, layer="Arms") if a is heavy else a for a in project.actions))  # fmt: skip
    simulation = Simulation(CompiledProject(project, assets), touches=struck("hit", 14, blow))
    given_ = {5: [Input(OSSA, action="Blow")], pressed: [Input(OSSA, "light"), Input(OSSA, "heavy")]}
    records = [simulation.tick(given_.get(t, [])) for t in range(60)]
    assert [name for _, name in started(records) if name != "Blow"][:1] == ["Both"]
    assert sum(name in ("Both", "Light", "Heavy") for _, name in started(records)) == 1


def test_of_two_that_one_press_completes_the_one_of_more_parts_is_meant(quay: Project, assets: Assets) -> None:
    longer = replace(QUICK, name="long", gesture=Gesture(kind="motion", of=("light",), within=8,
                                                         ways=("left", "back", "forward")))  # fmt: skip
    there = script((2, stick("left")), (4, stick("back")), (6, stick("forward")), (8, "light"))
    for commands in ((QUICK, longer), (longer, QUICK)):
        assert started(run(bout(quay, *commands), assets, there, 20)) == [(8, "Long")]
    twin = replace(QUICK, name="twin")
    short = script((4, stick("back")), (6, stick("forward")), (8, "light"))
    assert started(run(bout(quay, twin, QUICK), assets, short, 20)) == [(8, "Twin")]
    assert started(run(bout(quay, QUICK, twin), assets, short, 20)) == [(8, "Quick")]
