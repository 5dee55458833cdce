"""What Ossa Renn does with the arms alone, over whatever the legs do, and the layers that it is done on."""

from __future__ import annotations

from answers import STRENGTH
from veergust.core.model import (
    Action,
    Condition,
    Cut,
    Event,
    Gate,
    Hitbox,
    Layer,
    Outcome,
    Section,
    Setting,
    Shield,
    Speaks,
    StartRule,
    Strike,
    Thrown,
)


def lantern() -> Thrown:
    """It breaks on what it meets, and sets nobody on fire."""
    return Thrown(
        name="lantern",
        up=2.4,
        radius=0.09,
        strike=Strike(start=0, end=1, name="", damage=6, hit_stop=4, knockback=(0.0, 0.0, 1.4), strength="light",
                      guard="high", poise=6, runs=(Outcome(whose="attacker", name="splinters"),)),
    )  # fmt: skip


def lantern_toss() -> Action:
    """Thrown from the upper body, whatever the legs do: standing, walking, running, in the air."""
    return Action(
        name="Lantern toss",
        group="On the go",
        layer="Arms",
        sections=(
            Section(
                name="Draw",
                cuts=(Cut(clip="lantern_toss", start=0.0, end=0.38),),
                then="Throw",
                events=(Event(tick=8, kind="sound", name="breath", mount="head"),),
            ),
            Section(
                name="Throw",
                cuts=(Cut(clip="lantern_toss", start=0.38, end=1.0),),
                events=(Event(tick=6, kind="spawn", name="lantern", mount="palm L", offset=(0.0, -0.14, 0.04)),
                        Event(tick=4, kind="sound", name="whoosh_thin", mount="palm L")),
            ),
        ),
        start=StartRule(commands=("toss",), cooldown=30),
        holds=(Setting(setting="grip", value=0.0),),
        blend_in=6,
        blend_out=10,
    )  # fmt: skip


def cover() -> Action:
    """The staff held across the body while the command is held, over the walk or the run."""
    return Action(
        name="Cover",
        group="On the go",
        layer="Arms",
        sections=(
            Section(name="Raise", cuts=(Cut(clip="cover", start=0.0, end=0.2),), then="Held",
                    shields=(Shield(start=4, end=12, kind="guard", strength=STRENGTH, lets=0.1, deflects=5),)),
            Section(
                name="Held",
                cuts=(Cut(clip="cover", start=0.2, end=0.8),),
                then="Held",
                gates=(Gate(start=0, end=36, to="Lower", blend=4, conditions=(Condition(test="released", name="cover"),)),),
                shields=(Shield(start=0, end=36, kind="guard", strength=STRENGTH, lets=0.1),),
            ),
            Section(name="Lower", cuts=(Cut(clip="cover", start=0.8, end=1.1),)),
        ),
        start=StartRule(commands=("cover",)),
        blend_in=6,
        blend_out=8,
    )  # fmt: skip


def staff_jab() -> Action:
    """A poke out of the shoulders that only grazes: who is hit by it flinches and goes on."""
    return Action(
        name="Staff jab",
        group="On the go",
        layer="Arms",
        sections=(
            Section(
                name="Jab",
                cuts=(Cut(clip="staff_jab", start=0.0, end=0.45),),
                strikes=(
                    Strike(start=7, end=11, name="Poke", boxes=(Hitbox(mount="grip", offset=(0, 0.6, 0), to=(0, 1.15, 0), radius=0.07),), damage=3, hit_stop=2,
                           knockback=(0.0, 0.0, 0.6), strength="graze", guard="any"),
                ),
                events=(Event(tick=6, kind="sound", name="whoosh_thin", mount="tip"),),
            ),
        ),
        start=StartRule(commands=("jab",)),
        blend_in=3,
        blend_out=6,
    )  # fmt: skip


def flinch() -> Action:
    """Added to whatever the one who was grazed is doing."""
    return Action(
        name="Flinch",
        group="Reactions",
        layer="Flinch",
        sections=(Section(name="Flinch", cuts=(Cut(clip="flinch", start=0.0, end=0.35),)),),
        blend_in=1,
        blend_out=4,
    )


def layers() -> tuple[Layer, ...]:
    """From the bottom up: the whole body, the arms over whatever the legs do, what is added, and reactions over all."""
    floor = ("idle", "walk", "run", "on guard", "land", "slide")
    return (
        Layer(name="Body", scope=tuple(Speaks(state=name) for name in floor), elsewhere="finishes"),
        Layer(
            name="Arms", mask="upper body", space="body", taken="takes over", under="ends this",
            scope=(Speaks(state="slide", rule="keeps out"), Speaks(state="on guard", rule="fades")),
            blend_in=6, blend_out=10,
        ),
        Layer(name="Flinch", mode="additive", mask="upper body", reference="idle", under="both play", blend_in=1, blend_out=4),
        Layer(name="Reactions", blend_in=1),
    )  # fmt: skip
