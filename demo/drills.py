"""The demo's drills: what must hold of it, two of them over ranges."""

from __future__ import annotations

from typing import Any

from veergust.core.model import Drill, DrillRange, DrillStep, Expectation, KeptTake


def takes(ossa: str, tarn: str) -> tuple[KeptTake, ...]:
    """Three that were kept, without what came of them."""

    def press(tick: int, command: str, who: str = ossa, *, down: bool = True) -> DrillStep:
        return DrillStep(tick=tick, fighter=who, command=command, press=down)

    def stick(tick: int, x: float, z: float) -> DrillStep:
        return DrillStep(tick=tick, fighter=ossa, axis="move", value=(x, z))

    quay, gallery = "Quay, near the edge", "Rope gallery"
    string = (press(10, "light"), press(30, "light"), press(58, "light"))
    return (
        KeptTake(name="Three in a row", ticks=200, seed=7, stage=quay, steps=string),
        KeptTake(
            name="Round the post",
            ticks=300,
            seed=7,
            stage=quay,
            steps=(
                stick(0, -0.6, 0.6),
                stick(60, -0.6, -0.3),
                stick(120, 1.0, -0.2),
                press(170, "heavy"),
                stick(172, 0.0, 0.0),
            ),
        ),
        KeptTake(
            name="Held off on the gallery",
            ticks=260,
            seed=3,
            stage=gallery,
            steps=(
                press(30, "light"),
                press(72, "dodge"),
                press(100, "thrust"),
                press(142, "dodge"),
                press(176, "thrust"),
            ),
        ),
    )


def drills(ossa: str, tarn: str) -> tuple[Drill, ...]:
    """Twelve of them, of two fighters."""

    def press(tick: int, command: str, who: str = ossa, *, down: bool = True) -> DrillStep:
        return DrillStep(tick=tick, fighter=who, command=command, press=down)

    def on(tick: int, who: str = ossa, **what: Any) -> Expectation:
        return Expectation(fighter=who, tick=tick, since=tick, **what)

    def by(tick: int, who: str = ossa, **what: Any) -> Expectation:
        return Expectation(fighter=who, tick=tick, **what)

    return (
        Drill(
            name="Sweep touches",
            ticks=90,
            steps=(press(5, "light"),),
            expect=(
                on(5, action="Low sweep"),
                by(25, contact="hit", victim=tarn),
                by(30, tarn, action="Reel front"),
                Expectation(fighter=tarn, tick=79, since=60, locomotion="idle"),
            ),
        ),
        Drill(
            name="Sweep into thrust",
            ticks=120,
            steps=(press(5, "light"), press(22, "light")),
            expect=(by(40, action="Thrust"), by(70, contact="hit", victim=tarn)),
        ),
        Drill(
            name="Mash does not restart",
            ticks=12,
            steps=tuple(press(t, "light") for t in (2, 4, 6, 8)),
            expect=(Expectation(fighter=ossa, tick=11, since=3, action="Thrust", never=True),),
        ),
        Drill(
            name="Roll goes under the thrust",
            ticks=80,
            steps=(press(10, "thrust", tarn), press(14, "dodge")),
            expect=(by(20, action="Duck roll"), by(79, tarn, contact="hit", never=True)),
        ),
        Drill(
            name="Low cover holds the sweep",
            ticks=60,
            steps=(press(2, "low"), press(10, "light", tarn)),
            expect=(
                by(30, tarn, contact="guarded", victim=ossa),
                by(59, tarn, contact="hit", never=True),
                on(59, measure="health", low=98.0, high=99.0),
            ),
        ),
        Drill(
            name="Cover holds the thrust",
            ticks=60,
            steps=(press(4, "thrust", tarn), press(8, "cover")),
            expect=(by(30, tarn, contact="guarded", victim=ossa), by(59, action="Reel front", never=True)),
        ),
        Drill(
            name="Cover in time throws it back",
            ticks=60,
            steps=(press(4, "thrust", tarn), press(12, "cover")),
            expect=(
                by(30, tarn, contact="deflected", victim=ossa),
                by(30, tarn, action="Jarred"),
                on(59, measure="health", low=100.0, high=100.0),
            ),
        ),
        Drill(
            name="Sweep is there before the thrust",
            ticks=60,
            steps=(press(2, "light"), press(3, "thrust", tarn)),
            expect=(by(20, contact="hit", victim=tarn), by(59, tarn, contact="hit", never=True)),
        ),
        Drill(
            name="Overhead staggers",
            ticks=60,
            steps=(press(2, "heavy"),),
            expect=(by(35, contact="hit", victim=tarn), by(40, tarn, action="Stagger front")),
        ),
        Drill(
            name="Charge is held until let go",
            ticks=120,
            steps=(press(2, "brace"), press(60, "brace", down=False)),
            expect=(
                on(59, action="Braced charge"),
                Expectation(fighter=ossa, tick=59, contact="hit", never=True),
                by(110, contact="hit", victim=tarn),
                by(115, tarn, action="Launched"),
            ),
        ),
        Drill(
            name="Sweep reaches from close in to two metres",
            ticks=40,
            steps=(press(5, "light"),),
            expect=(by(39, contact="hit", victim=tarn),),
            over=(DrillRange(what="distance", low=0.8, high=2.0, step=0.2),),
        ),
        Drill(
            name="Thrust comes for presses early and late",
            ticks=60,
            steps=(press(5, "light"), press(22, "light")),
            expect=(by(59, action="Thrust"),),
            over=(DrillRange(what="press", low=-6, high=12, step=3),),
        ),
    )
