"""The paper theatre's drills: what must hold of figures that are drawn, two of them over ranges."""

from __future__ import annotations

from typing import Any

from veergust.core.model import Drill, DrillRange, DrillStep, Expectation


def drills(ossa: str, tarn: str) -> tuple[Drill, ...]:
    """Twelve of them, of two fighters who stand 1.7 m apart."""

    def press(tick: int, command: str, who: str = ossa, *, down: bool = True) -> DrillStep:
        return DrillStep(tick=tick, fighter=who, command=command, press=down)

    def stick(tick: int, x: float, z: float, who: str = ossa) -> DrillStep:
        return DrillStep(tick=tick, fighter=who, axis="move", value=(x, z))

    def on(tick: int, who: str = ossa, **what: Any) -> Expectation:
        return Expectation(fighter=who, tick=tick, since=tick, **what)

    def by(tick: int, who: str = ossa, **what: Any) -> Expectation:
        return Expectation(fighter=who, tick=tick, **what)

    string = (press(5, "light"), press(22, "light"), press(52, "light"))
    return (
        Drill(
            name="The sweep is drawn as far as Tarn",
            ticks=90,
            steps=(press(5, "light"),),
            expect=(on(5, action="Low sweep"), by(25, contact="hit", victim=tarn), by(30, tarn, action="Reel front"),
                    Expectation(fighter=tarn, tick=89, since=75, locomotion="idle")),
        ),
        Drill(
            name="Three in a row",
            ticks=130,
            steps=string,
            expect=(by(40, action="Thrust"), by(70, action="Overhead hook"), on(129, tarn, measure="health", low=43, high=43)),
        ),
        Drill(
            name="Before the window nothing comes",
            ticks=12,
            steps=tuple(press(t, "light") for t in (2, 4, 6, 8)),
            expect=(Expectation(fighter=ossa, tick=11, since=3, action="Thrust", never=True),),
        ),
        Drill(
            name="Rolled under",
            ticks=80,
            steps=(press(10, "thrust", tarn), press(14, "dodge")),
            expect=(by(20, action="Duck roll"), by(79, tarn, contact="hit", never=True)),
        ),
        Drill(
            name="The cover holds",
            ticks=60,
            steps=(press(4, "thrust", tarn), press(8, "cover")),
            expect=(by(30, tarn, contact="guarded", victim=ossa), by(59, action="Reel front", never=True)),
        ),
        Drill(
            name="The sweep is there first",
            ticks=60,
            steps=(press(2, "light"), press(3, "thrust", tarn)),
            expect=(by(20, contact="hit", victim=tarn), by(59, tarn, contact="hit", never=True)),
        ),
        Drill(
            name="From behind it reels forward",
            ticks=60,
            steps=(stick(0, 0.2, 0.0, tarn), stick(16, 0.0, 0.0, tarn), stick(0, 0.6, 0.0), stick(20, 0.0, 0.0),
                   press(24, "thrust")),
            expect=(by(59, contact="hit", victim=tarn), by(59, tarn, action="Reel back")),
        ),
        Drill(
            name="A lantern flies over the boards",
            ticks=90,
            steps=(press(4, "toss"),),
            expect=(by(50, event="lantern"), by(89, contact="hit", victim=tarn)),
        ),
        Drill(
            name="Walked, run and stopped",
            ticks=110,
            steps=(stick(0, -0.3, 0.0), stick(30, -1.0, 0.0), stick(70, 0.0, 0.0)),
            expect=(by(28, locomotion="walk"), by(68, locomotion="run"), on(109, locomotion="idle"),
                    on(109, measure="travel", low=3.4, high=4.2)),
        ),
        Drill(
            name="Jumped and landed",
            ticks=90,
            steps=(press(3, "jump"), press(20, "jump", down=False)),
            expect=(by(20, locomotion="rise"), by(50, locomotion="drop"), on(89, locomotion="idle")),
        ),
        Drill(
            name="From close in to two metres",
            ticks=40,
            steps=(press(5, "light"),),
            expect=(by(39, contact="hit", victim=tarn),),
            over=(DrillRange(what="distance", low=0.8, high=2.0, step=0.2),),
        ),
        Drill(
            name="Early and late in the window",
            ticks=60,
            steps=(press(5, "light"), press(22, "light")),
            expect=(by(59, action="Thrust"),),
            over=(DrillRange(what="press", low=-6, high=12, step=3),),
        ),
    )  # fmt: skip
