"""What Ossa Renn does with her staff, and how she gets out of the way."""

from __future__ import annotations

from msgspec.structs import replace

from veergust.core.model import (
    Action,
    Condition,
    Cut,
    Drive,
    Event,
    Exit,
    Gate,
    Hitbox,
    Hold,
    Kept,
    Pin,
    Section,
    Shield,
    StartRule,
    Strike,
)

GROUNDED = ("idle", "walk", "run", "on guard", "land")
FRAME = Pin(to="frame")


def _shaft(low: float, high: float, radius: float) -> Hitbox:
    return Hitbox(mount="grip", offset=(0, low, 0), to=(0, high, 0), radius=radius)


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
