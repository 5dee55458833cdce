"""Where the demo is tried: two stages."""

from __future__ import annotations

from veergust.core.model import Fighter, Floor, Post, Stage

STAIR, STAIRS = 0.15, 6
"""Steps of 15 cm, and as many as lead down to the boat landing."""


def quay() -> Stage:
    """The quay: stairs and a ramp down to a landing, a plank over the water, and one who strikes back."""
    return Stage(
        name="Quay, near the edge",
        floors=(
            Floor(name="quay", low=(-6.0, -3.0), high=(4.6, 3.0)),
            Floor(name="wet plank", low=(4.6, -2.5), high=(6.4, -1.8)),
            *(
                Floor(
                    name=f"stair {i + 1}",
                    low=(-4.4, 3.0 + 0.32 * i),
                    high=(-2.6, 3.0 + 0.32 * (i + 1)),
                    height=-STAIR * (i + 1),
                )
                for i in range(STAIRS - 1)
            ),
            Floor(name="landing", low=(-6.0, 3.0 + 0.32 * (STAIRS - 1)), high=(3.0, 7.5), height=-STAIR * STAIRS),
            Floor(name="ramp", low=(0.2, 3.0), high=(2.2, 5.4), height=0.0, rise=-STAIR * STAIRS, along="z"),
            Floor(name="river bed", low=(-40, -40), high=(40, 40), height=-4.0),
        ),
        posts=(
            Post(name="mooring post", position=(-2.6, 0.0, 0.0), radius=0.14, height=1.15),
            Post(name="fish barrel", position=(-3.6, 0.0, 1.9), radius=0.3, height=0.85, health=30, falls="splinters"),
        ),
        fighters=(
            Fighter(name="Ossa Renn", position=(-0.85, 0, 0), facing=90.0, plays="keys"),
            Fighter(name="Tarn", position=(0.85, 0, 0), facing=-90.0, plays="strikes back", answer="thrust"),
        ),
        put_back_below=-3.5,
    )


def gallery() -> Stage:
    """The second stage: a gallery above the quay, with a wall at its back, a step, a lift, and one who walks in."""
    return Stage(
        name="Rope gallery",
        floors=(
            Floor(name="boards", low=(-3.2, -1.4), high=(3.2, 1.4), height=2.0),
            Floor(name="coiled rope", low=(-2.9, -1.2), high=(-2.1, -0.4), height=2.2),
            Floor(name="back wall", low=(-3.2, -1.6), high=(3.2, -1.4), height=4.4),
            Floor(name="gangway", low=(3.2, -0.5), high=(6.4, 0.5), height=2.0, rise=-2.0, along="x"),
            Floor(
                name="rope lift",
                low=(-4.6, -0.7),
                high=(-3.2, 0.7),
                height=2.0,
                goes=(0.0, -2.0, 0.0),
                takes=150,
                rests=90,
            ),
            Floor(name="quay below", low=(-20.0, -20.0), high=(20.0, 20.0)),
        ),
        posts=(Post(name="hoist", position=(1.9, 2.0, 0.9), radius=0.12, height=1.6),),
        fighters=(
            Fighter(name="Ossa Renn", position=(-1.6, 2.0, 0), facing=90.0, plays="keys"),
            Fighter(
                name="Tarn", position=(1.6, 2.0, 0), facing=-90.0, plays="walks in", answer="light", near=1.5, every=70
            ),
        ),
        put_back_below=-3.0,
    )
