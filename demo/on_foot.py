"""Ossa Renn's figure and how she moves: mounts and the body, and the locomotion under everything."""

from __future__ import annotations

from figure import STAFF_BUTT, STAFF_TIP
from ground_moves import ASIDE_SPEED, BACK_SPEED, GUARD_SPEED
from moves import RUN_SPEED, WALK_SPEED
from veergust.core.model import (
    BlendPoint,
    Capsule,
    Condition,
    FeetToFloor,
    Group,
    JointShare,
    Jump,
    Locomotion,
    Look,
    Mount,
    Rig,
    State,
    Transition,
    Weapon,
)

FIGURE = "clips/figure.glb"


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
