"""Layers in play: what shows against the same written out with SciPy's rotations, and what each layer lets happen."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from scipy.spatial.transform import Rotation
from tools.made.edits import WIDE, adding, alone, section

from tests.conftest import OSSA
from tests.core.motion.test_layering import apart, plain_added, plain_over
from veergust.core.model import (
    Action,
    Clip,
    Ending,
    Event,
    FeetToFloor,
    Layer,
    Look,
    Mask,
    Parameter,
    PoseKey,
    Project,
    RootUse,
    Setting,
    Speaks,
    StartRule,
)
from veergust.core.motion.figure import Assets
from veergust.core.motion.quat import Array, angle_between
from veergust.core.motion.skeleton import Skeleton
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.pose.posing import voice_pose
from veergust.core.play.pose.speaking import joint_shares
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import Input, end

ABOVE = ("waist", "spine", "chest", "neck", "head", "upper_arm_left", "forearm_left", "upper_arm_right", "hand_right")


def held_pose(rng: np.random.Generator, name: str) -> Clip:
    """A clip that holds one pose, with joints of the upper body turned a little: even the whole chain by less than half a circle."""
    turned = Rotation.from_rotvec(rng.uniform(-0.12, 0.12, (len(ABOVE), 3))).as_quat()
    turns = tuple((joint, tuple(float(v) for v in q)) for joint, q in zip(ABOVE, turned))
    return Clip(name=name, poses=(PoseKey(time=0.0, turns=turns), PoseKey(time=2.0, turns=turns)))  # type: ignore[arg-type]


def posed(assets: Assets, clip: Clip) -> Array:
    """The pose of such a clip, written out: every joint at rest, turned on by what its key says."""
    rest = assets.skeleton.rest_rotation.copy()
    for name, turn in clip.poses[0].turns:
        j = assets.skeleton.index[name]
        rest[j] = (Rotation.from_quat(rest[j]) * Rotation.from_quat(turn)).as_quat()
    return rest


def bare(quay: Project) -> Project:
    """One fighter on wide ground, without what corrects locomotion."""
    ground = replace(quay.locomotion, feet=FeetToFloor(), look=Look())
    return alone(replace(quay, locomotion=ground), floors=WIDE)


def smooth(t: float) -> float:
    t = min(max(t, 0.0), 1.0)
    return 3 * t * t - 2 * t * t * t


def weights(assets: Assets, mask: Mask) -> Array:
    bones = assets.skeleton
    out = np.zeros(len(bones))
    for j in range(len(bones)):
        deep, at = 0, j
        while at >= 0 and bones.names[at] != mask.joint:
            deep, at = deep + 1, bones.parents[at]
        out[j] = min(1.0, (deep + 1) / (mask.feather + 1)) if at >= 0 or not mask.joint else 0.0
    return out if mask.joint else np.ones(len(bones))


def random_stack(rng: np.random.Generator, quay: Project) -> tuple[Project, list[Clip], Clip]:
    still = held_pose(rng, "level")
    layers, clips, actions, masks = [], [], [], []
    for n in range(int(rng.integers(1, 5))):
        masks.append(
            Mask(name=f"m{n}", joint=str(rng.choice(["", "waist", "chest", "neck"])), feather=int(rng.integers(4)))
        )
        layers.append(
            Layer(
                name=f"L{n}",
                mask=f"m{n}",
                mode=str(rng.choice(["override", "additive"])),  # type: ignore[arg-type]
                space=str(rng.choice(["joint", "body"])),  # type: ignore[arg-type]
                weight=float(rng.choice([0.4, 1.0])),
                by=str(rng.choice(["", "loud"])),
                reference="level",
                under="both play",
            )
        )
        clips.append(held_pose(rng, f"c{n}"))
        actions.append(
            Action(
                name=f"A{n}",
                layer=f"L{n}",
                sections=(section(f"c{n}", float(rng.uniform(0.2, 0.6))),),
                blend_in=int(rng.integers(0, 14)),
                blend_out=int(rng.integers(0, 14)),
            )
        )
    ground = replace(quay.locomotion, parameters=(Parameter(name="loud", default=0.6),))
    project = replace(
        quay,
        clips=(*quay.clips, still, *clips),
        layers=tuple(layers),
        masks=tuple(masks),
        actions=tuple(actions),
        locomotion=ground,
        drills=(),
    )
    return bare(project), clips, still


def written_out(tick: int, changes: tuple[int, ...]) -> bool:
    """Around whatever begins or ends, and on every eighth tick between."""
    return tick % 8 == 0 or any(abs(tick - other) <= 1 for other in changes)


@settings(max_examples=8)
@given(seed=st.integers(0, 1 << 30))
def test_a_stack_of_actions_is_what_it_is_written_out_tick_by_tick(seed: int, quay: Project, assets: Assets) -> None:
    rng = np.random.default_rng(seed)
    project, clips, still = random_stack(rng, quay)
    build = CompiledProject(project, assets)
    starts = {int(t): n for n, t in enumerate(rng.choice(30, len(project.layers), replace=False))}
    ends = {int(rng.integers(40)): int(rng.integers(len(project.layers))) for _ in range(2)}
    plain, simulation = Simulation(build), Simulation(build)
    began: dict[int, int] = {}
    left: dict[int, int] = {}
    loud = 0.6
    for t in range(70):
        for voice in simulation.fighter(OSSA).live():
            if voice.layer == f"L{ends.get(t)}":
                end(simulation.fighter(OSSA), voice, "broken")
        given_ = [Input(OSSA, action=f"A{starts[t]}")] if t in starts else []
        if t == 20:
            loud = float(rng.uniform())
            given_.append(Input(OSSA, parameter="loud", number=loud))
        locomotion = plain.tick([]).fighter(OSSA).pose
        now = simulation.tick(given_).fighter(OSSA)
        live = {int(v.layer[1:]) for v in now.live()}
        began = {**dict.fromkeys(live, t), **began}
        left = {**dict.fromkeys(began.keys() - live, t), **left}
        if not written_out(t, (*starts, *ends, 20)):
            continue
        assert locomotion is not None
        assert now.pose is not None
        want = locomotion.rotation[0]
        for n, (layer, action, mask) in enumerate(zip(project.layers, project.actions, project.masks)):
            if n not in began:
                continue
            until = left.get(n, 1000)
            # An action that was broken has not come on by a tick.
            last = min(t, until - 1)
            much = smooth((last - began[n] + 1) / (action.blend_in + 1))
            if t >= until:
                much *= 1.0 - smooth((t - until + 1) / (action.blend_out + 1))
            much *= layer.weight * (loud if layer.by else 1.0)
            weight, pose = much * weights(assets, mask), posed(assets, clips[n])
            parents = assets.skeleton.parents
            if layer.mode == "additive":
                rows = plain_added(parents, want, pose, posed(assets, still), weight, layer.space)
            else:
                rows = plain_over(parents, want, pose, weight, layer.space)
            want = np.array([r.as_quat() for r in rows])
        assert apart(now.pose.rotation[0], [Rotation.from_quat(q) for q in want]) < 1e-6, t


@pytest.mark.parametrize("adds", ["frame", "alongside", "start"])
def test_what_an_additive_layer_adds_to(adds: str, quay: Project, assets: Assets) -> None:
    """A clip added to itself, as it was at a time, as it plays, or to locomotion's own pose at the start."""
    layer = Layer(name="Over", mode="additive", adds=adds, reference="thrust", at=0.25)  # type: ignore[arg-type]
    action = Action(name="Bare", layer="Over", sections=(section("thrust", 0.6),), blend_in=0, blend_out=0)
    project = bare(replace(adding(quay, action), layers=(layer,)))
    plain, simulation = (Simulation(CompiledProject(project, assets)) for _ in range(2))
    first = None
    for t in range(30):
        base = plain.tick([]).fighter(OSSA).pose
        now = simulation.tick([Input(OSSA, action="Bare")] if t == 0 else []).fighter(OSSA)
        assert base is not None
        assert now.pose is not None
        if t == 0:
            first = base
        part = now.voices[0].part if now.voices else None
        assert part is not None
        source = part.past(t)
        rest = {"frame": part.past(15), "alongside": source, "start": first}[adds]
        assert rest is not None
        want = plain_added(
            assets.skeleton.parents,
            base.rotation[0],
            source.rotation[0],
            rest.rotation[0],
            np.ones(len(assets.skeleton)),
            "joint",
        )
        assert apart(now.pose.rotation[0], want) < 2e-3  # a reference is read off a fine grid of its clip


STATES = ("idle", "walk")


@pytest.mark.parametrize("rule", ["may", "keeps out", "fades", "finishes"])
def test_what_a_layer_does_in_every_state(rule: str, quay: Project, assets: Assets) -> None:
    layer = Layer(name="Arms", mask="upper body", scope=(Speaks(state="walk", rule=rule),), elsewhere="may")  # type: ignore[arg-type]
    wave = Action(name="Wave", layer="Arms", sections=(section("overhead", 0.8),), start=StartRule(commands=("heavy",)))
    others = tuple(replace(a, start=StartRule()) for a in quay.actions)
    project = bare(replace(quay, actions=(*others, wave), layers=(*quay.layers, layer)))
    build = CompiledProject(project, assets)

    def played(script: dict[int, list[Input]], ticks: int) -> list[list[str]]:
        simulation = Simulation(build)
        return [list(simulation.tick(script.get(t, [])).fighter(OSSA).playing()) for t in range(ticks)]

    walk = [Input(OSSA, axis="move", value=(0.0, 0.3))]
    pressed = played({0: walk, 30: [Input(OSSA, "heavy")]}, 50)
    assert any("Wave" in names for names in pressed) == (rule == "may")
    asked = played({0: walk, 30: [Input(OSSA, action="Wave")]}, 50)
    assert any("Wave" in names for names in asked) == (rule in ("may", "finishes"))
    on = played({0: [Input(OSSA, "heavy")], 4: walk}, 60)
    ticks = sum("Wave" in names for names in on)
    assert ticks < 20 if rule == "fades" else ticks == 48


def test_a_rule_of_a_group_holds_for_its_states_and_the_innermost_counts(quay: Project, assets: Assets) -> None:
    group = next(g.name for g in quay.locomotion.groups)
    build = CompiledProject(quay, assets)
    inside = build.chart.members[group]
    rows = (Speaks(state=group, rule="keeps out"), Speaks(state=inside[0], rule="finishes"))
    made = CompiledProject(replace(quay, layers=(Layer(name="Body", scope=rows, elsewhere="fades"),)), assets)
    rules = {s: made.layers["Body"].rule(s) for s in made.chart.states}
    assert rules[inside[0]] == "finishes"
    assert rules[inside[1]] == "keeps out"
    assert rules["idle"] == ("fades" if "idle" not in inside else rules["idle"])


@pytest.mark.parametrize("pressed", ["remembered", "nothing"])
def test_a_press_a_layer_is_deaf_to_is_lost_or_remembered(pressed: str, quay: Project, assets: Assets) -> None:
    layer = replace(quay.layers[0], scope=(Speaks(state="walk", rule="finishes"),), elsewhere="may", pressed=pressed)
    wave = Action(name="Wave", layer="Body", sections=(section("overhead", 0.8),), start=StartRule(commands=("heavy",)))
    others = tuple(replace(a, start=StartRule()) for a in quay.actions)
    commands = tuple(replace(c, buffer=60) if c.name == "heavy" else c for c in quay.commands)
    project = bare(replace(quay, actions=(*others, wave), layers=(layer,), commands=commands))
    simulation = Simulation(CompiledProject(project, assets))
    script = {0: [Input(OSSA, axis="move", value=(0.0, 0.3))], 30: [Input(OSSA, "heavy")],
              34: [Input(OSSA, axis="move", value=(0.0, 0.0))]}  # fmt: skip
    started = [t for t in range(80) if simulation.tick(script.get(t, [])).fighter(OSSA).playing()]
    assert bool(started) == (pressed == "remembered")


@pytest.mark.parametrize(
    ("fields", "moves"),
    [({}, 1.0), ({"weight": 0.5}, 0.5), ({"root": False}, 0.0), ({"mask": "upper body"}, 0.0),
     ({"mode": "additive", "reference": "idle"}, 0.0), ({"by": "loud"}, 0.25)],
)  # fmt: skip
def test_who_moves_the_body(fields: dict[str, Any], moves: float, quay: Project, assets: Assets) -> None:
    ground = replace(quay.locomotion, parameters=(Parameter(name="loud", default=0.25),))
    roll = Action(name="Go", layer="Over", sections=(section("dodge_roll", 0.6),), blend_in=0)
    project = bare(replace(adding(quay, roll), layers=(Layer(name="Over", **fields),), locomotion=ground))
    build = CompiledProject(project, assets)
    simulation = Simulation(build)
    for t in range(36):
        simulation.tick([Input(OSSA, action="Go")] if t == 0 else [])
    gone = simulation.fighter(OSSA).position - np.array(project.stage.fighters[0].position)
    compiled = build.action("Go")
    assert compiled is not None
    source = compiled.sections[0].place
    assert np.linalg.norm(gone[[0, 2]]) == pytest.approx(moves * np.linalg.norm(source[35, [0, 2]]), abs=1e-6)


@pytest.mark.parametrize("weight", [0.25, 0.5, 1.0])
def test_of_two_who_move_the_body_the_lower_has_what_the_upper_leaves(
    weight: float, quay: Project, assets: Assets
) -> None:
    def part(name: str, command: str, cuts: str) -> Action:
        return Action(name=name, layer=name, sections=(section(cuts, 0.6),), blend_in=0,
                      start=StartRule(commands=(command,)), root=RootUse(turn=False))  # fmt: skip

    both = adding(replace(quay, actions=()), part("Low", "light", "dodge_roll"), part("High", "heavy", "staff_charge"))
    project = bare(replace(both, layers=(Layer(name="Low"), Layer(name="High", weight=weight))))
    build = CompiledProject(project, assets)
    simulation = Simulation(build)
    script = {0: [Input(OSSA, "light")], 6: [Input(OSSA, "heavy")]}
    for t in range(30):
        simulation.tick(script.get(t, []))
    assert simulation.fighter(OSSA).playing() == ("Low", "High")
    gone = simulation.fighter(OSSA).position - np.array(project.stage.fighters[0].position)
    low, high = (c.sections[0].place for n in ("Low", "High") if (c := build.action(n)) is not None)
    wanted = low[6] - low[0] + (1.0 - weight) * (low[29] - low[6]) + weight * (high[23] - high[0])
    assert np.linalg.norm(wanted[[0, 2]]) > 0.1
    assert np.linalg.norm(gone[[0, 2]]) == pytest.approx(np.linalg.norm(wanted[[0, 2]]), abs=1e-6)


@pytest.mark.parametrize(("weight", "acts", "does"), [(1.0, 0.5, True), (0.5, 0.5, True), (0.4, 0.5, False), (0.4, 0.3, True)])  # fmt: skip
def test_what_is_faded_out_does_nothing(weight: float, acts: float, does: bool, quay: Project, assets: Assets) -> None:
    layer = Layer(name="Over", by="loud", acts=acts)
    tick = tuple(Event(tick=t, name="beat") for t in range(20))
    beats = Action(name="Beats", layer="Over", sections=(section("idle", 0.4, events=tick),), blend_in=30)
    ground = replace(quay.locomotion, parameters=(Parameter(name="loud", default=weight),))
    project = bare(replace(adding(quay, beats), layers=(layer,), locomotion=ground))
    simulation = Simulation(CompiledProject(project, assets))
    told = [e.name for t in range(20) for e in simulation.tick([Input(OSSA, action="Beats")] if not t else []).events]
    assert told.count("beat") == (20 if does else 0)


def test_what_another_covers_goes_on_unseen_and_fires_nothing(quay: Project, assets: Assets) -> None:
    layers = (Layer(name="Under", mask="upper body"), Layer(name="Over"))
    events = tuple(Event(tick=t, name="beat") for t in range(60))
    under = Action(name="Low", layer="Under", sections=(section("idle", 1.0, events=events),))
    over = Action(name="High", layer="Over", sections=(section("idle", 0.5),), blend_in=0, blend_out=0,
                  start=StartRule(commands=("heavy",)))  # fmt: skip
    others = tuple(replace(a, start=StartRule()) for a in quay.actions)
    project = bare(replace(quay, actions=(*others, under, over), layers=layers))
    simulation = Simulation(CompiledProject(project, assets))
    script = {0: [Input(OSSA, action="Low")], 10: [Input(OSSA, "heavy")]}
    ticks = [t for t in range(60) if any(e.name == "beat" for e in simulation.tick(script.get(t, [])).events)]
    assert ticks == [*range(10), *range(40, 60)]


def stacked(quay: Project) -> Project:
    """The demo's actions on four layers: arms joint by joint and in body space, one added, one for the whole body."""
    masks = (Mask(name="arms", joint="waist", feather=1), Mask(name="head", joint="neck", feather=2))
    layers = (
        Layer(name="Whole", under="both play"),
        Layer(name="Arms", mask="arms", under="both play", root=False),
        Layer(name="Aimed", mask="arms", space="body", under="both play", root=False),
        Layer(name="Added", mask="head", mode="additive", reference="idle", by="loud"),
    )
    names = ["Whole", "Arms", "Aimed", "Added"]
    hold, set_ = Setting(setting="feet", value=0.0), Setting(setting="loud", value=0.5)
    actions = tuple(
        replace(a, layer=names[n % 4], holds=(hold,), on_start=Ending(parameters=(set_,)))
        for n, a in enumerate(quay.actions)
    )
    ground = replace(quay.locomotion, parameters=(Parameter(name="loud", default=1.0),))
    return bare(replace(quay, masks=masks, layers=layers, actions=actions, locomotion=ground, grips=()))


@pytest.mark.parametrize("seed", range(6))
def test_random_actions_on_random_layers_give_all_back(seed: int, quay: Project, assets: Assets) -> None:
    """Broken on any tick: holds are back, weights come to 0 or 1, who moves a joint sums to one, nothing leaps, and
    what no mask speaks for is to the bit what it is without any layer."""
    rng = np.random.default_rng(seed)
    project = stacked(quay)
    build = CompiledProject(project, assets)
    simulation, plain = Simulation(build, seed), Simulation(build, seed)
    names = [a.name for a in project.actions if seed % 2 == 0 or a.layer != "Whole"]
    legs = [j for j, n in enumerate(assets.skeleton.names) if n.startswith(("thigh", "shin", "foot", "hips"))]
    was: tuple[Array, dict[Any, Array], dict[Any, Array]] | None = None
    for t in range(400):
        fighter = simulation.fighter(OSSA)
        for voice in fighter.live():
            if rng.random() < 0.05:
                end(fighter, voice, "broken")
        given_ = [Input(OSSA, action=str(rng.choice(names)))] if rng.random() < 0.08 and t < 330 else []
        if t % 90 == 0:
            given_.append(Input(OSSA, axis="move", value=(0.0, float(rng.choice([0.0, 0.3])))))
        walk = [i for i in given_ if i.axis]
        now, base = simulation.tick(given_).fighter(OSSA), plain.tick(walk).fighter(OSSA)
        left, own, adds = joint_shares(build, now)
        assert np.allclose(left + own.sum(axis=0), 1.0, atol=1e-12)
        assert now.pose is not None
        assert base.pose is not None
        if seed % 2:
            assert np.array_equal(now.pose.rotation[0][legs], base.pose.rotation[0][legs])
            assert np.array_equal(now.position, base.position)
        sources = {v.serial: voice_pose(v)[0].rotation[0] for v in now.voices}
        shares = {v.serial: own[i] + adds[i] for i, v in enumerate(now.voices)}
        if was is not None:
            assert leapt(assets.skeleton, was, (now.pose.rotation[0], sources, shares)) == [], t
        was = now.pose.rotation[0], sources, shares
    last = simulation.fighter(OSSA)
    assert not last.voices
    assert last.holding() == {}
    assert last.shown == ()


def test_fighters_who_are_posed_together_are_posed_as_each_alone(quay: Project, assets: Assets) -> None:
    """Whoever else is about, and whatever is laid over them at the same time; but for the last place of a sine."""
    project = stacked(quay)
    names = [a.name for a in project.actions]
    places = [(20.0 * i, 0.0, 0.0) for i in range(5)]
    fighters = tuple(replace(project.stage.fighters[0], name=f"F{i}", position=p) for i, p in enumerate(places))
    build = CompiledProject(project, assets)
    rng = np.random.default_rng(3)
    script = {
        t: [Input(f.name, action=str(rng.choice(names))) for f in fighters if rng.random() < 0.1] for t in range(160)
    }
    script[0] = [Input(f.name, axis="move", value=(0.0, 0.1 * i)) for i, f in enumerate(fighters)]
    crowd = Simulation(build, fighters=fighters)
    singles = [Simulation(build, fighters=(f,)) for f in fighters]
    for t in range(160):
        together = crowd.tick(script[t])
        for fighter, simulation in zip(fighters, singles):
            one = simulation.tick([i for i in script[t] if i.fighter == fighter.name]).fighter(fighter.name)
            there = together.fighter(fighter.name)
            assert one.pose is not None
            assert there.pose is not None
            assert np.allclose(one.pose.rotation, there.pose.rotation, rtol=0.0, atol=1e-12), (t, fighter.name)
            assert np.allclose(one.joints_now, there.joints_now, rtol=0.0, atol=1e-12)


def leapt(
    bones: Skeleton, was: tuple[Array, dict[Any, Array], dict[Any, Array]], now: tuple[Array, dict[Any, Array], dict[Any, Array]]
) -> list[int]:  # fmt: skip
    """Joints turned farther in their parents than what shows turned, and the fades brought, at most (degrees).

    In body space a joint's turn in its parent goes with what happens to those above it.
    """
    step = angle_between(was[0], now[0])
    turned, changed = np.zeros(len(step)), np.zeros(len(step))
    for key in was[1].keys() | now[1].keys():
        if key in was[1] and key in now[1]:
            turned += angle_between(was[1][key], now[1][key])
        changed += np.abs(now[2].get(key, 0.0) - was[2].get(key, np.zeros(len(step))))
    for joint, parent in enumerate(bones.parents):
        if parent >= 0:
            turned[joint], changed[joint] = max(turned[joint], turned[parent]), max(changed[joint], changed[parent])
    return list(np.flatnonzero(step > 20.0 + 2.0 * turned + 360.0 * changed))


def test_a_leap_is_seen(quay: Project, assets: Assets) -> None:
    """The measure itself: an action cut off without a fade leaps."""
    rest = assets.skeleton.rest_rotation
    thrown = posed(assets, held_pose(np.random.default_rng(1), "far"))
    thrown = (Rotation.from_quat(rest) * (Rotation.from_quat(rest).inv() * Rotation.from_quat(thrown)) ** 4).as_quat()
    assert leapt(assets.skeleton, (thrown, {}, {}), (rest, {}, {}))
