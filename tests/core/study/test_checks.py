"""Everything that can be known to go wrong without playing is found, and named where it stands."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest
from hypothesis import example, given
from tools.made.edits import adding, alone, replace, section, with_action, with_section

from tests.conftest import OSSA, Found
from tests.core.study.test_playout import BOX, made_actions
from veergust.core.kinds.finding import Finding
from veergust.core.model import (
    Action,
    Aim,
    AimPoint,
    BlendPoint,
    Clip,
    Command,
    Condition,
    Cut,
    Drive,
    Event,
    Exit,
    Fighter,
    Gate,
    Gesture,
    Grip,
    Group,
    Hitbox,
    Hold,
    JointShare,
    Jump,
    Layer,
    Look,
    Mask,
    Parameter,
    Pool,
    PoolItem,
    Project,
    Reaction,
    RootUse,
    Section,
    Setting,
    Shield,
    Speaks,
    StartRule,
    State,
    Strike,
    Thrown,
    Transition,
)
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import Input
from veergust.core.study.findings import findings, found_in_action
from veergust.core.study.store import Store

Break = Callable[[Project], Project]
ONE_FRAME = Strike(start=0, end=1, boxes=(BOX,))
STRAY = State(name="stray", clip="idle")


def far_off(quay: Project) -> tuple[Clip, ...]:
    """The clips, with a roll whose body is read from a hand that goes round it."""
    roll = next(c for c in quay.clips if c.name == "dodge_roll")
    return (*quay.clips, replace(roll, name="roll off", loop=True))


def with_ground(quay: Project, **fields: Any) -> Project:
    return replace(quay, locomotion=replace(quay.locomotion, **fields))


def with_state(quay: Project, name: str, **fields: Any) -> Project:
    states = (replace(s, **fields) if s.name == name else s for s in quay.locomotion.states)
    return with_ground(quay, states=tuple(states))


def joined(quay: Project, *transitions: Transition) -> Project:
    return with_ground(quay, transitions=(*quay.locomotion.transitions, *transitions))


def with_gesture(q: Project, gesture: Gesture) -> Project:
    return replace(q, commands=(*q.commands, Command(name="special", gesture=gesture)))


def only(quay: Project, *transitions: Transition) -> Project:
    return with_ground(quay, transitions=transitions)


def _if(test: Any, op: Any = "==", value: float = 1.0, name: str = "") -> Condition:
    return Condition(test=test, op=op, value=value, name=name)


def mooded(quay: Project, kind: Any, *asks: Condition) -> Project:
    made = with_ground(quay, parameters=(Parameter(name="mood", kind=kind),))
    to = ("run", "land")
    return joined(made, *(Transition(start="idle", to=to[i], conditions=(c,)) for i, c in enumerate(asks)))


def strike(quay: Project, **fields: object) -> Project:
    first = quay.actions[0].sections[1].strikes[0]
    return with_section(quay, "Low sweep", 1, strikes=(replace(first, **fields),))


def hook(quay: Project, **fields: Any) -> Any:
    return replace(sections(quay, "Overhead hook")[1].strikes[0], **fields)


def exits(quay: Project, section: int, *found: Exit) -> Project:
    return with_section(quay, "Low sweep", section, exits=found)


def on_layer(quay: Project, **fields: object) -> Project:
    return replace(quay, layers=tuple(replace(y, **fields) for y in quay.layers))


SWEEP = "Low sweep"
BROKEN: dict[str, tuple[str, Break]] = {
    "a layer names a mask that is not there": ("mask-missing", lambda q: on_layer(q, mask="nowhere")),
    "a scope names no state": (
        "state-unknown",
        lambda q: on_layer(q, scope=(Speaks(state="idle"), Speaks(state="swim"))),
    ),
    "a layer of weight 0": ("layer-silent", lambda q: on_layer(q, weight=0.0)),
    "an additive layer without a reference": ("reference-missing", lambda q: on_layer(q, mode="additive")),
    "an additive layer that adds to the rest pose": (
        "reference-rest",
        lambda q: replace(
            on_layer(q, mode="additive", reference="still"), clips=(*q.clips, Clip(name="still", end=0.5))
        ),
    ),
    "a mask that cuts a limb in two": (
        "mask-cuts",
        lambda q: replace(q, masks=(Mask(name="m", joint="upper_arm_left", weights=(("hand_left", 0.0),)),)),
    ),
    "a hand that is kept on its own arm": (
        "grip-loose",
        lambda q: replace(q, grips=(Grip(hand="palm L", mount="palm L"),)),
    ),
    "a hand that is kept while a layer shows that is gone": (
        "layer-missing",
        lambda q: replace(q, grips=(Grip(hand="palm L", mount="grip", layers=("Gone",)),)),
    ),
    "a mask that speaks for nothing": (
        "mask-empty",
        lambda q: replace(q, masks=(Mask(name="m", joint="toes_left", weights=(("toes_left", 0.0),)),)),
    ),
    "a layer under one that hides it": (
        "layer-covered",
        lambda q: with_action(replace(q, layers=(*q.layers, Layer(name="Over"))), "Thrust", layer="Over"),
    ),
    "a layer by a parameter that is not there": (
        "parameter-unknown",
        lambda q: with_ground(on_layer(q, by="loud"), parameters=(Parameter(name="mood"),)),
    ),
    "an action starts where its layer starts nothing": (
        "out-of-scope",
        lambda q: with_action(
            on_layer(q, scope=(Speaks(state="walk", rule="keeps out"),), elsewhere="may"),
            SWEEP,
            start=StartRule(commands=("light",), states=("idle", "walk")),
        ),
    ),
    "travel on a layer that moves nobody": (
        "root-lost",
        lambda q: with_action(
            replace(q, layers=(*q.layers, Layer(name="Arms", mask="upper body"))), "Duck roll", layer="Arms"
        ),
    ),
    "a mask names an absent joint": ("joint-unknown", lambda q: replace(q, masks=(Mask(name="m", joint="Chest"),))),
    "a reaction plays no action": ("reaction-missing", lambda q: replace(q, reactions=(Reaction(action="Gone"),))),
    "a reaction begins at no section": (
        "reaction-missing",
        lambda q: replace(q, reactions=(Reaction(action="Fall", section="Gone"),)),
    ),
    "a reaction plays one of an empty pool": (
        "reaction-missing",
        lambda q: replace(q, pools=(*q.pools, Pool(name="none")), reactions=(Reaction(action="none"),)),
    ),
    "a reaction is for no part of the body": (
        "reaction-region",
        lambda q: replace(q, reactions=(*q.reactions, Reaction(action="Fall", region="tail"))),
    ),
    "what flies is never let go": ("thrown-unused", lambda q: replace(q, thrown=(*q.thrown, Thrown(name="stone")))),
    "what flies begins inside the body": (
        "thrown-inside",
        lambda q: replace(
            with_section(q, "Low sweep", 1, events=(Event(tick=2, kind="spawn", name="stone", mount="hips"),)),
            thrown=(Thrown(name="stone"),),
        ),
    ),
    "a layer aims by no clip": (
        "aim-missing",
        lambda q: replace(q, layers=(replace(q.layers[0], aim=Aim(points=(AimPoint(clip="gone"),))), *q.layers[1:])),
    ),
    "a strength has no reaction": (
        "strength-unanswered",
        lambda q: replace(q, reactions=tuple(replace(r, strength="feather") for r in q.reactions)),
    ),
    "a pool is empty": ("pool-empty", lambda q: replace(q, pools=(*q.pools, Pool(name="none")))),
    "a pool holds what is not there": (
        "pool-item-missing",
        lambda q: replace(q, pools=(*q.pools, Pool(name="p", items=(PoolItem(name="Gone"),)))),
    ),
    "locomotion begins nowhere": (
        "state-unknown",
        lambda q: replace(q, locomotion=replace(q.locomotion, entry="swim")),
    ),
    "a transition leads nowhere": (
        "state-unknown",
        lambda q: replace(q, locomotion=replace(q.locomotion, transitions=(Transition(start="idle", to="swim"),))),
    ),
    "a state names no clip": (
        "clip-missing",
        lambda q: replace(
            q, locomotion=replace(q.locomotion, states=(*q.locomotion.states, State(name="x", clip="gone")))
        ),
    ),
    "an action starts in no state": (
        "state-unknown",
        lambda q: with_action(q, SWEEP, start=StartRule(commands=("light",), states=("swim",))),
    ),
    "an action starts where its layer may not speak": (
        "out-of-scope",
        lambda q: with_action(
            on_layer(q, scope=(Speaks(state="drop"),), elsewhere="fades"),
            SWEEP,
            start=StartRule(commands=("light",), states=("idle",)),
        ),
    ),
    "a condition asks for no command": (
        "command-unknown",
        lambda q: with_section(
            q, SWEEP, 0, gates=(Gate(start=0, end=3, to="Swing", conditions=(Condition(test="held", name="x"),)),)
        ),
    ),
    "a partner answers with no command": (
        "command-unknown",
        lambda q: replace(
            q, stage=replace(q.stage, fighters=tuple(replace(f, answer="bow") for f in q.stage.fighters))
        ),
    ),
    "a partner replays no drill": (
        "drill-unknown",
        lambda q: replace(
            q,
            stage=replace(q.stage, fighters=tuple(replace(f, plays="replays", replay="bow") for f in q.stage.fighters)),
        ),
    ),
    "a condition asks for an action that is gone": (
        "action-unknown",
        lambda q: joined(q, Transition(start="idle", to="walk", conditions=(_if("plays", name="Gone"),))),
    ),
    "a state runs an action that is gone": ("action-unknown", lambda q: with_state(q, "slide", action="Gone")),
    "a state stands in no group": ("state-unknown", lambda q: with_state(q, "slide", group="nowhere")),
    "a group begins with what is not in it": (
        "state-unknown",
        lambda q: with_ground(q, groups=(replace(q.locomotion.groups[0], default="drop"), *q.locomotion.groups[1:])),
    ),
    "a group is empty": ("group-empty", lambda q: with_ground(q, groups=(*q.locomotion.groups, Group(name="none")))),
    "a jump by no command": ("command-unknown", lambda q: with_ground(q, jump=Jump(command="hop"))),
    "a gesture of a command that is gone": (
        "command-unknown",
        lambda q: with_gesture(q, Gesture(kind="double", of=("hop",))),
    ),
    "a gesture of a gesture": ("gesture-never", lambda q: with_gesture(q, Gesture(kind="double", of=("special",)))),
    "a motion of one way twice": (
        "gesture-never",
        lambda q: with_gesture(q, Gesture(kind="motion", of=("light",), ways=("left", "left"))),
    ),
    "one key together with itself": (
        "gesture-never",
        lambda q: with_gesture(q, Gesture(kind="together", of=("light", "light"))),
    ),
    "a charge told to no parameter": (
        "parameter-unknown",
        lambda q: with_gesture(q, Gesture(kind="let go", of=("light",), sets="power")),
    ),
    "a look of no joint": (
        "joint-unknown",
        lambda q: with_ground(q, look=Look(weight=1.0, joints=(JointShare(joint="antler"),))),
    ),
    "a clip that does not loop in a blend": (
        "clip-does-not-loop",
        lambda q: with_state(q, "walk", blend=(BlendPoint(clip="idle"), BlendPoint(clip="leap", at=(1.0,)))),
    ),
    "a state nobody reaches": ("state-unreached", lambda q: with_ground(q, states=(*q.locomotion.states, STRAY))),
    "a state nobody leaves": (
        "state-kept",
        lambda q: only(q, Transition(start="idle", to="walk", conditions=(_if("speed", ">", 1.0),))),
    ),
    "a state whose end nobody asks for": (
        "state-ends",
        lambda q: only(
            q,
            Transition(start="idle", to="land"),
            Transition(start="land", to="idle", conditions=(_if("speed", ">", 1.0),)),
        ),
    ),
    "a condition that is never so": (
        "condition-never",
        lambda q: joined(
            q, Transition(start="idle", to="walk", conditions=(_if("speed", ">", 3.0), _if("speed", "<", 2.0)))
        ),
    ),
    "a condition that is always so": (
        "condition-always",
        lambda q: joined(q, Transition(start="idle", to="walk", conditions=(_if("speed", ">=", 0.0),))),
    ),
    "anywhere shadows everything": ("anywhere-always", lambda q: joined(q, Transition(start="*", to="idle"))),
    "two transitions that cannot be told apart": (
        "transition-shadowed",
        lambda q: joined(q, replace(q.locomotion.transitions[-1], to="walk")),
    ),
    "two transitions that lead to and fro": (
        "transition-to-and-fro",
        lambda q: only(
            q,
            Transition(start="idle", to="walk", conditions=(_if("speed", ">", 1.0),)),
            Transition(start="walk", to="idle", conditions=(_if("held", name="guard"),)),
        ),
    ),
    "a state that shows nothing": ("state-bare", lambda q: with_state(q, "idle", clip="")),
    "a blend of one": ("blend-one-point", lambda q: with_state(q, "walk", blend=(BlendPoint(clip="idle"),))),
    "two points in one place": (
        "blend-same-place",
        lambda q: with_state(q, "walk", blend=(BlendPoint(clip="idle"), BlendPoint(clip="walk"))),
    ),
    "a blend of what stands elsewhere about its body": (
        "pop",
        lambda q: with_state(
            replace(
                q, clips=tuple(replace(c, root_joint="hand_left") if c.name == "roll off" else c for c in far_off(q))
            ),
            "walk",
            blend=(BlendPoint(clip="idle"), BlendPoint(clip="roll off", at=(1.4,))),
        ),
    ),
    "a blend over three": ("blend-over", lambda q: with_state(q, "walk", over=("speed", "turn_rate", "rising"))),
    "a blend over what is not there": ("parameter-unknown", lambda q: with_state(q, "walk", over=("mood",))),
    "a point that does not say where": ("blend-places", lambda q: with_state(q, "walk", over=("direction", "speed"))),
    "a range the wrong way round": (
        "parameter-range",
        lambda q: with_ground(q, parameters=(Parameter(name="mood", low=2.0, high=1.0),)),
    ),
    "a parameter nobody sets": ("parameter-unset", lambda q: with_ground(q, parameters=(Parameter(name="mood"),))),
    "a parameter nobody asks for": (
        "parameter-unasked",
        lambda q: with_ground(q, parameters=(Parameter(name="mood"),)),
    ),
    "a parameter that is not there": (
        "parameter-unknown",
        lambda q: mooded(q, "number", _if("parameter", ">", 0.5, "moon")),
    ),
    "a parameter of the wrong kind": (
        "parameter-kind",
        lambda q: mooded(q, "yes or no", _if("parameter", ">", 0.5, "mood")),
    ),
    "a whole number that is not": (
        "parameter-kind",
        lambda q: mooded(q, "whole", _if("parameter", "==", 0.5, "mood")),
    ),
    "a momentary parameter asked for twice": (
        "momentary-twice",
        lambda q: mooded(q, "momentary", _if("parameter", name="mood"), _if("parameter", name="mood")),
    ),
    "a hold of what nothing asks for": (
        "setting-unknown",
        lambda q: with_section(q, SWEEP, 0, holds=(Hold(start=0, end=3, setting="hat"),)),
    ),
    "a shield over no hurtbox": (
        "hurtbox-unknown",
        lambda q: with_section(q, SWEEP, 0, shields=(Shield(start=0, end=3, hurtboxes=("tail",)),)),
    ),
    "an event nobody knows": (
        "event-unknown",
        lambda q: with_section(q, SWEEP, 0, events=(Event(tick=1, name="wosh"),)),
    ),
    "a parameter that one machine alone sets": (
        "whom-apart",
        lambda q: with_section(q, SWEEP, 0, events=(Event(tick=1, kind="parameter", name="fear", whom="owner"),)),
    ),
    "something that flies on one machine alone": (
        "whom-apart",
        lambda q: with_section(q, SWEEP, 0, events=(Event(tick=1, kind="spawn", name="lantern", whom="decider"),)),
    ),
    "an effect that only its owner sees": (
        "whom-unseen",
        lambda q: with_section(q, SWEEP, 0, events=(Event(tick=1, name="dust", whom="owner"),)),
    ),
    "a sound where nobody hears it": (
        "whom-unseen",
        lambda q: with_section(q, SWEEP, 0, events=(Event(tick=1, kind="sound", name="breath", whom="decider"),)),
    ),
    "a message that one machine does here and all do there": (
        "whom-each",
        lambda q: with_section(
            with_section(q, SWEEP, 0, events=(Event(tick=1, kind="message", name="hurt", whom="decider"),)),
            "Thrust",
            0,
            events=(Event(tick=1, kind="message", name="hurt"),),
        ),
    ),
    "an exit to a tag nobody has": (
        "exit-target-missing",
        lambda q: exits(q, 1, Exit(start=0, end=5, command="light", to="none", to_kind="tag")),
    ),
    "an exit to a pool that is not there": (
        "exit-target-missing",
        lambda q: exits(q, 1, Exit(start=0, end=5, command="light", to="none", to_kind="pool")),
    ),
    "a flag that one ending forgets": (
        "flag-kept",
        lambda q: with_action(
            q, SWEEP, on_start=replace(q.actions[0].on_start, parameters=(Setting(setting="busy", value=1.0),))
        ),
    ),
    "an action nothing starts": ("never-started", lambda q: with_action(q, "Braced charge", start=StartRule())),
    "a window that ends before the strike it needs": (
        "exit-too-early",
        lambda q: exits(q, 0, Exit(start=0, end=5, command="light", to="Thrust", contact="hit")),
    ),
    "a window that opens on the hit": (
        "combo-early",
        lambda q: exits(q, 1, Exit(start=2, end=12, command="light", to="Thrust")),
    ),
    "a window that opens before the strike does": (
        "combo-early",
        lambda q: exits(q, 1, Exit(start=0, end=3, command="light", to="Thrust")),
    ),
    "an entry that is no section": ("entry-missing", lambda q: with_action(q, SWEEP, entry="Nowhere")),
    "a break on nothing": (
        "break-always",
        lambda q: exits(q, 1, Exit(start=0, end=5, kind="break", to_kind="ground")),
    ),
    "an exit to a pool of sections": (
        "exit-target-missing",
        lambda q: exits(
            replace(q, pools=(*q.pools, Pool(name="parts", items=(PoolItem(name="Swing"),)))),
            1,
            Exit(start=0, end=5, command="light", to="parts", to_kind="pool"),
        ),
    ),
    "a start that never holds": (
        "condition-never",
        lambda q: with_action(
            q, SWEEP, start=StartRule(commands=("light",), conditions=(_if("speed", ">", 3.0), _if("speed", "<", 2.0)))
        ),
    ),
    "a section that nothing leads to": (
        "section-unreached",
        lambda q: with_action(q, SWEEP, sections=(*sections(q, SWEEP), replace(sections(q, SWEEP)[0], name="Spare"))),
    ),
    "a loop whose only gate never opens": (
        "loop-without-end",
        lambda q: with_section(
            q,
            SWEEP,
            0,
            then=sections(q, SWEEP)[0].name,
            exits=(),
            gates=(Gate(start=0, end=4, to="Swing", conditions=(_if("speed", ">", 3.0), _if("speed", "<", 2.0))),),
        ),
    ),
    "a gate that never opens": (
        "condition-never",
        lambda q: with_section(
            q, SWEEP, 0, gates=(Gate(start=0, end=4, to="Swing", conditions=(_if("on_floor", "==", 0.5),)),)
        ),
    ),
    "two on one command": (
        "start-shadowed",
        lambda q: replace(q, actions=(*q.actions, replace(q.actions[0], name="Again"))),
    ),
    "a reaction behind one that takes every hit": (
        "reaction-shadowed",
        lambda q: replace(q, reactions=(Reaction(action="Fall"), *q.reactions)),
    ),
    "a hitbox on nothing": ("hitbox-nowhere", lambda q: strike(q, boxes=(Hitbox(mount=""),))),
    "a strike that opens while the staff is raised": (
        "strike-too-soon",
        lambda q: with_section(q, "Overhead hook", 0, strikes=(hook(q, start=16, end=24),)),
    ),
    "a strike that misses the fastest frames": (
        "strike-off-fastest",
        lambda q: with_section(q, "Overhead hook", 1, strikes=(hook(q, start=hook(q).end + 1, end=hook(q).end + 3),)),
    ),
    "a strike left open to the end": (
        "strike-left-open",
        lambda q: with_section(
            with_section(q, "Overhead hook", 1, then="end", strikes=(hook(q, end=999),)),
            "Overhead hook",
            1,
            cuts=(replace(sections(q, "Overhead hook")[1].cuts[0], end=None),),
        ),
    ),
    "a strike that covers the end of the tip": (
        "strike-covers-little",
        lambda q: strike(q, boxes=(Hitbox(mount="tip", shape="sphere", radius=0.1),)),
    ),
    "a hitbox somebody was testing": ("hitbox-huge", lambda q: strike(q, boxes=(Hitbox(mount="grip", radius=2.0),))),
    "a hitbox far from any weapon": (
        "hitbox-far",
        lambda q: strike(q, boxes=(Hitbox(mount="grip", shape="sphere", offset=(3.0, 0.0, 0.0), radius=0.1),)),
    ),
    "a start far from idle": (
        "start-pops",
        lambda q: with_action(q, SWEEP, entry="Swing", blend_in=0),
    ),
    "a section cut from elsewhere": (
        "pop",
        lambda q: with_section(q, SWEEP, 1, cuts=(Cut(clip="dodge_roll", start=0.3, end=0.5),)),
    ),
    "travel left in the pose": (
        "travel-left",
        lambda q: with_action(q, "Duck roll", root=RootUse(forward=False)),
    ),
}


WELL: dict[str, tuple[str, Break]] = {
    "a loop that a cancel of the whole action leaves": (
        "loop-without-end",
        lambda q: with_action(
            with_section(q, SWEEP, 0, then=sections(q, SWEEP)[0].name, exits=()),
            SWEEP,
            exits=(Exit(start=0, end=1, kind="cancel", command="roll", to_kind="ground"),),
        ),
    ),
    "a loop that a state of locomotion runs": (
        "loop-without-end",
        lambda q: with_state(
            with_section(q, SWEEP, 0, then=sections(q, SWEEP)[0].name, exits=()), "slide", action=SWEEP
        ),
    ),
    "an early window that the second lap reaches with its touch": (
        "exit-too-early",
        lambda q: exits(
            with_section(q, SWEEP, 1, then=sections(q, SWEEP)[0].name),
            0,
            Exit(start=0, end=5, command="light", to="Thrust", contact="hit"),
        ),
    ),
    "two on one command, of which the first has to cool down": (
        "start-shadowed",
        lambda q: replace(
            q,
            actions=(
                replace(q.actions[0], start=replace(q.actions[0].start, cooldown=60)),
                *q.actions[1:],
                replace(q.actions[0], name="Again"),
            ),
        ),
    ),
    "a reaction for a guarded hit behind one for any": (
        "reaction-shadowed",
        lambda q: replace(q, reactions=(Reaction(action="Fall"), Reaction(action="Fall", situation="guarding"))),
    ),
    "a plain reaction behind one that asks for a region": (
        "reaction-shadowed",
        lambda q: replace(q, reactions=(Reaction(action="Fall", region="head"), Reaction(action="Fall"))),
    ),
    "a plain reaction behind one that asks for a distance": (
        "reaction-shadowed",
        lambda q: replace(q, reactions=(Reaction(action="Fall", near=0.5), Reaction(action="Fall"))),
    ),
    "a plain reaction behind one that asks for nobody beyond": (
        "reaction-shadowed",
        lambda q: replace(q, reactions=(Reaction(action="Fall", far=2.0), Reaction(action="Fall"))),
    ),
    "a plain reaction behind one that asks for a condition": (
        "reaction-shadowed",
        lambda q: replace(
            q,
            reactions=(
                Reaction(action="Fall", conditions=(Condition(test="plays", name="Thrust"),)),
                Reaction(action="Fall"),
            ),
        ),
    ),
    "a section that a reaction begins with": (
        "section-unreached",
        lambda q: replace(
            with_action(q, SWEEP, sections=(*sections(q, SWEEP), replace(sections(q, SWEEP)[0], name="Spare"))),
            reactions=(Reaction(action=SWEEP, section="Spare"),),
        ),
    ),
}


def sections(quay: Project, name: str) -> tuple[Any, ...]:
    return next(a.sections for a in quay.actions if a.name == name)


@pytest.mark.parametrize("what", WELL)
def test_nothing_is_found_where_nothing_is_wrong(what: str, quay: Project, found_in: Found) -> None:
    code, changed = WELL[what]
    assert code not in codes(found_in(changed(quay)))


def codes(found: list[Finding]) -> set[str]:
    return {f.code for f in found}


def test_the_demo_is_clean(quay: Project, assets: Assets) -> None:
    assert findings(CompiledProject(quay, assets)) == []


@pytest.mark.parametrize("what", BROKEN)
def test_it_is_found_and_says_what_to_do(what: str, quay: Project, found_in: Found) -> None:
    code, breaks = BROKEN[what]
    found = [f for f in found_in(breaks(quay)) if f.code == code]
    assert found, what
    assert all(f.where and f.says and f.do for f in found)


def test_travel_left_says_how_far_it_snaps_back(quay: Project, found_in: Found) -> None:
    found = found_in(with_action(quay, "Duck roll", root=RootUse(forward=False)))
    assert "snaps back 2.40 m" in next(f.says for f in found if f.code == "travel-left")


def test_a_crossfade_mends_a_pop_and_the_command_to_mend_it_is_right(quay: Project, found_in: Found) -> None:
    cut = Cut(clip="dodge_roll", start=0.3, end=0.5)
    for blend, found in ((0, True), (8, False)):
        project = with_section(quay, SWEEP, 1, cuts=(replace(cut, blend=blend),))
        where = [f.where for f in found_in(project) if f.code == "pop"]
        assert any("Swing" in w for w in where) == found


def test_what_is_kept_of_findings_is_what_is_found_anew(quay: Project, assets: Assets) -> None:
    """Through every sixth break and back, with one store: never anything else than without."""
    shelf = Store()
    build = CompiledProject(quay, assets)
    clean = findings(build)
    for _, breaks in list(BROKEN.values())[::6]:
        broken = breaks(quay)
        build = build.renew(broken)
        assert findings(build, shelf) == findings(CompiledProject(broken, assets))
        build = build.renew(quay)
        assert findings(build, shelf) == clean


# Over the edge

NO_FLOOR = Exit(start=0, end=500, kind="break", to_kind="ground", conditions=(Condition(test="on_floor", value=0.0),))


@pytest.mark.parametrize(
    ("clip", "fields", "found"),
    [
        ("dodge_roll", {}, True),
        ("idle", {}, False),
        ("dodge_roll", {"exits": (NO_FLOOR,)}, False),
        ("dodge_roll", {"exits": (replace(NO_FLOOR, conditions=(Condition(test="on_floor", value=1.0),)),)}, True),
        ("dodge_roll", {"exits": (replace(NO_FLOOR, kind="cancel", command="light"),)}, True),
        ("dodge_roll", {"drives": (Drive(start=0, end=5, kind="ballistic"),)}, False),
        ("dodge_roll", {"drives": (Drive(start=0, end=500, kind="none"),)}, False),
    ],
)
def test_what_carries_the_body_far_is_ended_where_the_floor_ends(
    quay: Project, assets: Assets, clip: str, fields: dict[str, Any], found: bool
) -> None:
    """Seen in play as well: over the quay's edge it goes on as long as its clip, or is over when the floor is."""
    goes = Action(
        name="Goes", sections=(section(clip, 0.8, name="One"),), start=StartRule(commands=("heavy",)), **fields
    )
    project = alone(replace(quay, actions=(goes,), reactions=(), pools=(), drills=()))
    told = [f for f in findings(CompiledProject(project, assets)) if f.code == "goes-on-in-air"]
    assert [f.level for f in told] == ["note"] * found
    if found:
        assert "goes on in the air" in told[0].says
        assert "One" in told[0].do


@pytest.mark.parametrize("ended", [False, True])
def test_over_the_edge_it_goes_on_unless_it_is_ended(quay: Project, assets: Assets, ended: bool) -> None:
    goes = Action(name="Goes", sections=(section("dodge_roll", 0.8),), exits=(NO_FLOOR,) * ended)
    project = alone(replace(quay, actions=(goes,), reactions=(), pools=(), drills=()))
    edge = Fighter(name=OSSA, position=(6.3, 0.0, -2.1), facing=90.0, plays="keys")
    project = replace(project, stage=replace(project.stage, fighters=(edge,)))
    simulation = Simulation(CompiledProject(project, assets))
    records = [simulation.tick([Input(OSSA, action="Goes")] if t == 0 else []) for t in range(48)]
    in_air = [r.fighters[0].live() != [] for r in records if not r.fighters[0].grounded]
    assert in_air
    assert any(in_air[2:]) == (not ended)


@given(made_actions())
@example(Action(name="Made", sections=(Section(name="A", cuts=(Cut(clip="idle", end=0.01),), strikes=(ONE_FRAME,)),)))
def test_whatever_an_action_is_made_of_its_checks_come_to_their_end(
    quay: Project, assets: Assets, made: Action
) -> None:
    """Spans anywhere, sections of a single frame, loops: each finding says what and where."""
    build = CompiledProject(adding(quay, made), assets)
    for found in found_in_action(build, made.name):
        assert found.says
        assert found.at.name == made.name
        assert found.at.section is None or found.at.section < len(made.sections)
