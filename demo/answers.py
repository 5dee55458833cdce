"""How Ossa Renn and Tarn take a touch: reels to eight sides, staggers, a broken guard, a deflected strike, a launch with
the way back onto the feet, and the table that says which when."""

from __future__ import annotations

from typing import Any

from veergust.core.model import (
    Action,
    Condition,
    Cut,
    Event,
    Gate,
    Reaction,
    Section,
    Shield,
    StartRule,
)

STRAIGHT = ("front", "back", "left", "right")
SLANTED = ("front left", "front right", "back left", "back right")
STRENGTH = 45.0
"""So much poise a covering staff stops before it is knocked aside."""


def clip_of(side: str) -> str:
    return f"hit_{side.replace(' ', '_')}"


def _answer(name: str, *sections: Section, **fields: Any) -> Action:
    return Action(name=name, group="Reactions", layer="Reactions", sections=sections, blend_in=1, **fields)


def _reel(side: str) -> Action:
    return _answer(f"Reel {side}", Section(name="Reel", cuts=(Cut(clip=clip_of(side), start=0.0, end=0.52),)))


def _stagger(side: str) -> Action:
    """The same blow taken to heart: slower, and with a breath before the feet are found again."""
    cuts = (
        Cut(clip=clip_of(side), start=0.0, end=0.28, rate=0.9),
        Cut(clip=clip_of(side), start=0.28, end=0.52, rate=0.5),
    )
    return _answer(f"Stagger {side}", Section(name="Stagger", cuts=cuts))


def opened() -> Action:
    """The guard knocked aside: for so long nothing is up."""
    return _answer(
        "Guard opened", Section(name="Opened", cuts=(Cut(clip="hit_front", start=0.0, end=0.52, rate=0.55),))
    )


def jarred() -> Action:
    """One's own strike thrown back."""
    return _answer("Jarred", Section(name="Jarred", cuts=(Cut(clip="hit_right", start=0.0, end=0.52, rate=0.75),)))


def fall() -> Action:
    return _answer(
        "Fall",
        Section(name="Fall", cuts=(Cut(clip="fall", start=0.0, end=1.16),), posture="down",
                events=(Event(tick=27, name="dust", mount="hips"),)),
    )  # fmt: skip


def launched() -> Action:
    """Off the feet, on the back, and up again; in the air it can be struck once more."""
    landed = (Condition(test="on_floor"),)
    return _answer(
        "Launched",
        Section(name="Up", cuts=(Cut(clip="fall", start=0.0, end=0.30),), then="Hang"),
        Section(name="Hang", cuts=(Cut(clip="fall", start=0.30, end=0.304, rate=0.01),), then="Hang",
                gates=(Gate(start=0, end=24, to="Down", conditions=landed, blend=3),)),
        Section(name="Down", cuts=(Cut(clip="fall", start=0.304, end=1.0),), then="Get up", posture="down",
                events=(Event(tick=5, name="dust", mount="hips"),)),
        Section(name="Get up", cuts=(Cut(clip="get_up", start=0.0, end=1.0, rate=1.1),), posture="ducking",
                shields=(Shield(start=0, end=20, kind="invulnerable"),)),
    )  # fmt: skip


def low_cover() -> Action:
    """The staff held low across the shins while the command is held."""
    low: dict[str, Any] = {"kind": "guard", "height": "low", "strength": STRENGTH, "lets": 0.1}
    return Action(
        name="Low cover",
        group="On the go",
        layer="Arms",
        sections=(
            Section(name="Drop", cuts=(Cut(clip="cover_low", start=0.0, end=0.2),), then="Held",
                    shields=(Shield(start=4, end=12, deflects=5, **low),)),
            Section(
                name="Held",
                cuts=(Cut(clip="cover_low", start=0.2, end=0.8),),
                then="Held",
                gates=(Gate(start=0, end=36, to="Lift", blend=4, conditions=(Condition(test="released", name="low"),)),),
                shields=(Shield(start=0, end=36, **low),),
            ),
            Section(name="Lift", cuts=(Cut(clip="cover_low", start=0.8, end=1.1),)),
        ),
        start=StartRule(commands=("low",)),
        blend_in=6,
        blend_out=8,
    )  # fmt: skip


def actions() -> tuple[Action, ...]:
    return (
        *(_reel(side) for side in (*STRAIGHT, *SLANTED)),
        *(_stagger(side) for side in (*STRAIGHT, *SLANTED)),
        fall(),
        launched(),
        opened(),
        jarred(),
    )


def table() -> tuple[Reaction, ...]:
    """Slanted sides before straight ones: what is left of a quarter is the straight one's."""
    sides = (*SLANTED, *STRAIGHT)
    return (
        Reaction(action="Fall", situation="last"),
        Reaction(action="Guard opened", situation="guard broken"),
        Reaction(action="Jarred", situation="deflected"),
        Reaction(action="Flinch", strength="graze"),
        Reaction(action="Launched", strength="launch"),
        Reaction(action="Launched", situation="air"),
        *(Reaction(action=f"Stagger {s}", side=s, strength="heavy") for s in sides),  # type: ignore[arg-type]
        *(Reaction(action=f"Reel {s}", side=s) for s in sides),  # type: ignore[arg-type]
    )
