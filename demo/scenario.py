"""Lantern Quay: the project around Ossa Renn's clips, written as a value of the model."""

from __future__ import annotations

from msgspec.structs import replace

import answers
from answers import low_cover
from drills import drills, takes
from figure import STAFF_BUTT, STAFF_TIP
from ground_moves import ASIDE_SPEED, BACK_SPEED, GUARD_SPEED
from layered import cover, flinch, lantern, lantern_toss, layers, staff_jab
from moves import RUN_SPEED, WALK_SPEED
from stages import gallery, quay
from veergust.core.model import (
    Action,
    BlendPoint,
    Capsule,
    Clip,
    Command,
    Condition,
    Cut,
    Drive,
    Event,
    Exit,
    FeetToFloor,
    Gate,
    Grip,
    Group,
    Hitbox,
    Hold,
    JointShare,
    Jump,
    Kept,
    Locomotion,
    Look,
    Mask,
    Mount,
    Pin,
    Project,
    Rig,
    RootUse,
    Section,
    Shield,
    StartRule,
    State,
    Strike,
    Transition,
    Weapon,
)

FIGURE = "clips/figure.glb"
LOOPS = ("idle", "walk", "run", "drop", "guard_idle", "guard_ahead", "guard_back", "guard_left", "guard_right")
GROUND = (*LOOPS, "leap", "land")
GROUNDED = ("idle", "walk", "run", "on guard", "land")
FRAME = Pin(to="frame")


def rig() -> Rig:
    mounts = (
        Mount(name="tip", joint="staff", offset=(0, STAFF_TIP, 0)),
        Mount(name="butt", joint="staff", offset=(0, STAFF_BUTT, 0)),
        Mount(name="grip", joint="staff"),
        Mount(name="low hand", joint="staff", offset=(0, -0.36, 0)),
        Mount(name="palm L", joint="hand_left", offset=(0, -0.075, 0)),
        Mount(name="foot L", joint="foot_left", offset=(0, -0.08, 0.06)),
        Mount(name="foot R", joint="foot_right", offset=(0, -0.08, 0.06)),
    )
    return Rig(
        figure=FIGURE,
        root="root",
        hips="hips",
        mounts=mounts,
        capsule=Capsule(radius=0.28, height=1.72),
        weapon=Weapon(base="grip", tip="tip", radius=0.028),
    )


def locomotion() -> Locomotion:
    """Idle, walk and run; on guard, going all four ways while looking at the other; off the floor and back; a slide."""
    floor_gone = _when("on_floor", "==", 0.0)
    on_guard, let_go = Condition(test="held", name="guard"), Condition(test="released", name="guard")
    ended = Condition(test="section_ended")
    return Locomotion(
        entry="idle",
        groups=(Group(name="on the floor"), Group(name="on guard"), Group(name="in the air", default="drop")),
        states=(
            State(name="idle", group="on the floor", clip="idle"),
            State(name="walk", group="on the floor", over=("speed",),
                  blend=(BlendPoint(clip="idle", at=(0.0,)), BlendPoint(clip="walk", at=(WALK_SPEED,)))),
            State(name="run", group="on the floor", over=("speed",),
                  blend=(BlendPoint(clip="walk", at=(WALK_SPEED,)), BlendPoint(clip="run", at=(RUN_SPEED,)))),
            State(name="slide", action="Plank slide", clip="idle", turns="not"),
            State(name="guard", group="on guard", clip="guard_idle", band="guard", turns="target", most=GUARD_SPEED),
            State(name="guard walk", group="on guard", band="guard", turns="target", most=GUARD_SPEED,
                  over=("direction", "speed"),
                  blend=(BlendPoint(clip="guard_idle", at=(0.0, 0.0)),
                         BlendPoint(clip="guard_ahead", at=(0.0, GUARD_SPEED)),
                         BlendPoint(clip="guard_left", at=(90.0, ASIDE_SPEED)),
                         BlendPoint(clip="guard_back", at=(180.0, BACK_SPEED)),
                         BlendPoint(clip="guard_right", at=(-90.0, ASIDE_SPEED)))),
            State(name="rise", group="in the air", clip="leap", plays="hold", band="air"),
            State(name="drop", group="in the air", clip="drop", band="air"),
            State(name="land", group="on the floor", clip="land", plays="once"),
        ),
        transitions=(
            Transition(start="*", to="rise", conditions=(Condition(test="jumped"),), ticks=3),
            Transition(start="*", to="in the air", conditions=(floor_gone,), ticks=6),
            Transition(start="rise", to="drop", conditions=(_when("rising", "<", 0.0),), ticks=8),
            Transition(start="in the air", to="run", conditions=(_when("on_floor", "==", 1.0), _when("speed", ">", 2.2)), ticks=6, enters="foot"),
            Transition(start="in the air", to="land", conditions=(_when("on_floor", "==", 1.0),), ticks=3),
            Transition(start="land", to="walk", conditions=(_when("wanted_speed", ">", 0.2), _when("clip_share", ">", 0.3)), ticks=8),
            Transition(start="land", to="idle", conditions=(ended,), ticks=6),
            Transition(start="on the floor", to="on guard", conditions=(on_guard,), ticks=8, enters="foot"),
            Transition(start="on guard", to="walk", conditions=(let_go, _when("speed", ">", 0.2)), ticks=8, enters="phase"),
            Transition(start="on guard", to="idle", conditions=(let_go,), ticks=8),
            Transition(start="guard", to="guard walk", conditions=(_when("speed", ">", 0.1),), ticks=6),
            Transition(start="guard walk", to="guard", conditions=(_when("speed", "<", 0.08),), ticks=8),
            Transition(start="idle", to="walk", conditions=(_when("speed", ">", 0.1),), ticks=6),
            Transition(start="walk", to="run", conditions=(_when("speed", ">", 2.2),), ticks=12),
            Transition(start="walk", to="idle", conditions=(_when("speed", "<", 0.08),), ticks=10),
            Transition(start="run", to="slide", conditions=(Condition(test="pressed", name="slide"),), ticks=3),
            Transition(start="run", to="walk", conditions=(_when("speed", "<", 1.9),), ticks=14),
            Transition(start="slide", to="idle", conditions=(ended,), ticks=4),
        ),
        walk_speed=WALK_SPEED,
        run_speed=RUN_SPEED,
        braking=12.0,
        spot_turn_rate=540.0,
        falling=14.0,
        jump=Jump(command="jump", height=0.9, tap=0.4),
        feet=FeetToFloor(weight=1.0),
        look=Look(
            weight=1.0, states=("on guard",),
            joints=(JointShare(joint="chest", share=0.2), JointShare(joint="neck", share=0.4),
                    JointShare(joint="head", share=0.4)),
        ),
    )  # fmt: skip


def _when(test: str, op: str, value: float) -> Condition:
    return Condition(test=test, op=op, value=value)  # type: ignore[arg-type]


def _shaft(low: float, high: float, radius: float) -> Hitbox:
    return Hitbox(mount="grip", offset=(0, low, 0), to=(0, high, 0), radius=radius)


def _staff_exits(opens: int, ends: int, combo: str, roll_from: int) -> tuple[Exit, ...]:
    combos = (Exit(start=opens, end=ends, kind="combo", command="light", to=combo),) if combo else ()
    return (
        *combos,
        Exit(start=roll_from, end=ends + 12, kind="cancel", command="dodge", to="Duck roll", contact="any"),
    )


def _floor_gone(ticks: int) -> Exit:
    gone = Condition(test="on_floor", op="==", value=0.0)
    return Exit(start=0, end=ticks, kind="break", to_kind="ground", conditions=(gone,), end_pin=FRAME, start_pin=FRAME)


def low_sweep() -> Action:
    """The sweep with two alternates: one whose combo window opens late, and one that hits harder and settles longer."""
    played = _low_sweep()
    wind, swing, settle = played.sections
    late = replace(swing, exits=(replace(swing.exits[0], start=10), *swing.exits[1:]))
    hard = replace(swing, strikes=(replace(swing.strikes[0], damage=17, hit_stop=7, knockback=(-0.6, 0.0, 3.2)),))
    slow = replace(
        settle, exits=(replace(settle.exits[0], start=4, end=12), replace(settle.exits[1], start=8), settle.exits[2])
    )
    return replace(
        played,
        version="early window",
        kept=(
            Kept(name="late window", action=replace(played, sections=(wind, late, settle))),
            Kept(name="heavier", action=replace(played, sections=(wind, hard, slow))),
        ),
    )


def _low_sweep() -> Action:
    cut = dict(clip="staff_sweep", rate=1.25)
    per = 1.25 / 60
    wind = Section(
        name="Wind-up",
        cuts=(Cut(start=0.17, end=0.17 + 8 * per, **cut),),
        then="Swing",
        exits=(_floor_gone(8),),
        drives=(Drive(start=0, end=8),),
        holds=(Hold(start=0, end=8, setting="feet", value=0.0),),
        events=(Event(tick=5, kind="sound", name="whoosh_low", mount="tip"),),
    )
    swing = Section(
        name="Swing",
        cuts=(Cut(start=0.17 + 8 * per, end=0.17 + 20 * per, **cut),),
        then="Settle",
        strikes=(
            Strike(
                start=1, end=5, name="Sweep", boxes=(_shaft(0.25, 1.12, 0.09),), damage=13, hit_stop=5,
                knockback=(-0.6, 0.0, 2.2), strength="light", guard="low",
            ),
        ),
        exits=(Exit(start=7, end=12, command="light", to="Thrust"), Exit(start=9, end=12, kind="cancel", command="dodge", to="Duck roll"),
               _floor_gone(12)),
        drives=(Drive(start=0, end=12),),
        holds=(Hold(start=0, end=12, setting="feet", value=0.0),),
        events=(Event(tick=1, name="trail on", mount="tip"), Event(tick=6, name="trail off", mount="tip"),
                Event(tick=4, name="dust", mount="foot R")),
    )  # fmt: skip
    settle = Section(
        name="Settle",
        cuts=(Cut(start=0.17 + 20 * per, end=0.17 + 46 * per, **cut),),
        exits=(Exit(start=0, end=8, command="light", to="Thrust"), Exit(start=0, end=20, kind="cancel", command="dodge", to="Duck roll"),
               _floor_gone(26)),
        drives=(Drive(start=0, end=14), Drive(start=14, end=26, kind="stick", scale=0.3)),
        events=(Event(tick=10, kind="sound", name="breath", mount="head"),),
    )  # fmt: skip
    return Action(
        name="Low sweep",
        group="Staff string",
        tags=("light",),
        sections=(wind, swing, settle),
        start=StartRule(commands=("light",), states=GROUNDED),
        blend_in=3,
    )


def thrust() -> Action:
    return Action(
        name="Thrust",
        group="Staff string",
        tags=("light",),
        sections=(
            Section(
                name="Draw back",
                cuts=(Cut(clip="staff_thrust", start=0.0, end=0.2),),
                then="Thrust",
                exits=(_floor_gone(12),),
                holds=(Hold(start=0, end=12, setting="feet", value=0.0),),
            ),
            Section(
                name="Thrust",
                cuts=(Cut(clip="staff_thrust", start=0.2, end=0.38),),
                then="Settle",
                strikes=(
                    Strike(start=2, end=6, name="Point", boxes=(_shaft(0.5, 1.15, 0.08),), damage=11, hit_stop=5,
                           knockback=(0.0, 0.0, 3.2), strength="light", guard="high"),
                ),
                exits=(Exit(start=8, end=11, command="light", to="Overhead hook", contact="any"), _floor_gone(11)),
                events=(Event(tick=1, kind="sound", name="whoosh_thin", mount="tip"), Event(tick=2, name="trail on", mount="tip"),
                        Event(tick=7, name="trail off", mount="tip")),
            ),
            Section(
                name="Settle",
                cuts=(Cut(clip="staff_thrust", start=0.38, end=0.8),),
                exits=(Exit(start=0, end=7, command="light", to="Overhead hook"),
                       Exit(start=0, end=18, kind="cancel", command="dodge", to="Duck roll"), _floor_gone(25)),
                drives=(Drive(start=0, end=12), Drive(start=12, end=25, kind="stick", scale=0.3)),
            ),
        ),
        start=StartRule(commands=("thrust",), states=GROUNDED),
    )  # fmt: skip


def braced_charge() -> Action:
    """Braced while the command is held; let go, it goes on at the end of the lap."""
    clip = "staff_charge"
    return Action(
        name="Braced charge",
        group="Staff string",
        tags=("heavy",),
        sections=(
            Section(
                name="Brace",
                cuts=(Cut(clip=clip, start=0.0, end=0.35),),
                then="Hold",
                exits=(Exit(start=0, end=21, kind="cancel", command="dodge", to="Duck roll"), _floor_gone(21)),
                holds=(Hold(start=0, end=21, setting="turn", value=0.0),),
            ),
            Section(
                name="Hold",
                cuts=(Cut(clip=clip, start=0.35, end=0.95),),
                then="Hold",
                gates=(Gate(start=33, end=36, to="Charge", conditions=(Condition(test="released", name="brace"),)),),
                exits=(Exit(start=0, end=36, kind="cancel", command="dodge", to="Duck roll"), _floor_gone(36)),
                holds=(Hold(start=0, end=36, setting="turn", value=0.0),),
                events=(Event(tick=18, kind="sound", name="breath", mount="head"),),
            ),
            Section(
                name="Charge",
                cuts=(Cut(clip=clip, start=0.95, end=1.75),),
                strikes=(
                    Strike(start=4, end=12, name="Point", boxes=(_shaft(0.4, 1.15, 0.09),), damage=24, hit_stop=8,
                           knockback=(0.0, 3.0, 3.2), strength="launch", guard="any", poise=20, guard_stun=22),
                ),
                exits=(Exit(start=24, end=48, kind="cancel", command="dodge", to="Duck roll"), _floor_gone(48)),
                drives=(Drive(start=0, end=34), Drive(start=34, end=48, kind="stick", scale=0.3)),
                events=(Event(tick=2, kind="sound", name="whoosh_thin", mount="tip"), Event(tick=3, name="trail on", mount="tip"),
                        Event(tick=8, name="dust", mount="foot R"), Event(tick=13, name="trail off", mount="tip")),
            ),
        ),
        start=StartRule(commands=("brace",), states=GROUNDED, cooldown=20),
        blend_in=4,
    )  # fmt: skip


def overhead_hook() -> Action:
    return Action(
        name="Overhead hook",
        group="Staff string",
        tags=("heavy",),
        sections=(
            Section(
                name="Raise",
                cuts=(Cut(clip="overhead", start=0.0, end=0.40),),
                then="Down",
                exits=(_floor_gone(24), Exit(start=0, end=10, kind="cancel", command="dodge", to="Duck roll")),
                holds=(Hold(start=0, end=24, setting="feet", value=0.0),),
                events=(Event(tick=18, kind="sound", name="whoosh_heavy", mount="tip"),),
            ),
            Section(
                name="Down",
                cuts=(Cut(clip="overhead", start=0.40, end=0.54),),
                then="Recover",
                strikes=(
                    Strike(start=1, end=6, name="Hook", boxes=(_shaft(0.3, 1.15, 0.1),), damage=22, hit_stop=8,
                           knockback=(0.0, 0.0, 3.6), strength="heavy", guard="high", poise=25, guard_stun=18),
                ),
                exits=(_floor_gone(8),),
                events=(Event(tick=5, name="splinters", mount="tip"),),
            ),
            Section(
                name="Recover",
                cuts=(Cut(clip="overhead", start=0.54, end=1.05),),
                exits=(Exit(start=12, end=31, kind="cancel", command="dodge", to="Duck roll", contact="hit"), _floor_gone(31)),
            ),
        ),
        start=StartRule(commands=("heavy",), states=GROUNDED),
    )  # fmt: skip


def duck_roll() -> Action:
    return Action(
        name="Duck roll",
        group="Evade",
        sections=(
            Section(
                name="Roll",
                cuts=(Cut(clip="dodge_roll", start=0.02, end=0.62, rate=1.0),),
                then="Rise",
                shields=(Shield(start=3, end=22, kind="invulnerable"),),
                exits=(_floor_gone(36),),
                holds=(Hold(start=0, end=36, setting="feet", value=0.0),),
                events=(Event(tick=9, name="dust", mount="foot R"),),
            ),
            Section(
                name="Rise",
                cuts=(Cut(clip="dodge_roll", start=0.62, end=0.9),),
                exits=(Exit(start=2, end=17, kind="cancel", command="light", to="Thrust"), _floor_gone(17)),
                drives=(Drive(start=4, end=17, kind="stick", scale=0.5),),
            ),
        ),
        start=StartRule(commands=("dodge",), states=GROUNDED, cooldown=50),
        blend_in=2,
        blend_out=6,
    )


def plank_slide() -> Action:
    """Run by the locomotion state of that name, and by nothing else; over an edge it ends, and the body flies on."""
    return Action(
        name="Plank slide",
        group="Evade",
        sections=(
            Section(
                name="Slide",
                cuts=(Cut(clip="slide", start=0.0, end=1.05),),
                exits=(_floor_gone(63), Exit(start=30, end=63, kind="cancel", command="dodge", to="Duck roll")),
                holds=(Hold(start=0, end=63, setting="feet", value=0.0),),
                events=(Event(tick=9, name="dust", mount="foot R"),),
            ),
        ),
        blend_in=3,
        blend_out=8,
    )


def project(seconds: dict[str, float]) -> Project:
    clips = tuple(
        Clip(
            name=name,
            file=f"clips/{name}.glb",
            animation=name,
            loop=name in LOOPS,
            root=RootUse(),
            tags=("ground",) if name in GROUND else ("staff",) if "staff" in name or name == "overhead" else ("body",),
        )
        for name in seconds
    )
    # Up from the floor is the fall backwards.
    clips = (*clips, Clip(name="get_up", file="clips/fall.glb", animation="fall", reverse=True, tags=("body",)))
    return Project(
        name="Lantern Quay",
        rig=rig(),
        clips=clips,
        locomotion=locomotion(),
        layers=layers(),
        masks=(Mask(name="upper body", joint="waist", feather=1),),
        # The other hand stays on the staff while the arms come over a run; who throws with it lets go.
        grips=(Grip(hand="palm L", mount="low hand", layers=("Arms",)),),
        commands=(
            Command(name="dodge", keys=("F", "pad east")),
            Command(name="heavy", keys=("D", "pad right trigger")),
            Command(name="light", keys=("A", "pad west")),
            Command(name="thrust", keys=("S", "pad north")),
            Command(name="brace", keys=("G", "pad left trigger")),
            Command(name="guard", keys=("V", "pad left shoulder")),
            Command(name="jump", keys=("E", "pad south")),
            Command(name="slide", keys=("C",)),
            Command(name="toss", keys=("W",)),
            Command(name="cover", keys=("Q",)),
            Command(name="jab", keys=("X", "pad right shoulder")),
            Command(name="low", keys=("B",)),
        ),
        actions=(
            low_sweep(),
            thrust(),
            overhead_hook(),
            braced_charge(),
            duck_roll(),
            plank_slide(),
            lantern_toss(),
            cover(),
            staff_jab(),
            low_cover(),
            *answers.actions(),
            flinch(),
        ),
        reactions=answers.table(),
        thrown=(lantern(),),
        stage=quay(),
        stages=(gallery(),),
        drills=tuple(replace(drill, stage=quay().name) for drill in drills("Ossa Renn", "Tarn")),
        takes=takes("Ossa Renn", "Tarn"),
        known_events=(
            "whoosh_low",
            "whoosh_thin",
            "whoosh_heavy",
            "breath",
            "trail on",
            "trail off",
            "dust",
            "splinters",
            "lantern",
        ),
    )
