"""Lantern Quay: the project around Ossa Renn's clips, written as a value of the model."""

from __future__ import annotations

from msgspec.structs import replace

import answers
from answers import low_cover
from drills import drills, takes
from layered import cover, flinch, lantern, lantern_toss, layers, staff_jab
from on_foot import locomotion, rig
from staff import braced_charge, duck_roll, low_sweep, overhead_hook, plank_slide, thrust
from stages import gallery, quay
from veergust.core.model import Clip, Command, Grip, Mask, Project, RootUse

LOOPS = ("idle", "walk", "run", "drop", "guard_idle", "guard_ahead", "guard_back", "guard_left", "guard_right")
GROUND = (*LOOPS, "leap", "land")


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
