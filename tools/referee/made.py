"""Projects made up at random, with a little of everything that a tick can ask: for what has to hold of every one."""

from __future__ import annotations

from typing import Any

from hypothesis import strategies as st
from msgspec.structs import replace

from tools.made.any_span import any_spans, conditions
from veergust.core.model import (
    Action,
    Aim,
    AimPoint,
    Command,
    Cut,
    Ending,
    Exit,
    Floor,
    Gesture,
    Hitbox,
    HitboxKey,
    Layer,
    Mask,
    Pool,
    PoolItem,
    Project,
    Reaction,
    RootUse,
    Scaling,
    Section,
    Setting,
    Shield,
    Speaks,
    StartRule,
)

CLIPS = {"staff_sweep": 1.1, "staff_thrust": 0.7, "dodge_roll": 0.8, "overhead": 0.95, "hit_front": 0.45}
NAMES = ("Made 0", "Made 1", "Made 2", "Made 3")
COMMANDS = ("light", "heavy", "guard")
SECTIONS = ("A", "B", "C")
CAPSULE = Hitbox(mount="grip", offset=(0.0, -0.4, 0.0), to=(0.0, 0.9, 0.0), radius=0.09, name="shaft")
BALL = Hitbox(mount="hand_left", shape="sphere", radius=0.3, share=0.5)
CUBE = Hitbox(mount="tip", shape="box", offset=(0.0, 0.1, 0.0), size=(0.25, 0.35, 0.15))
GROWS = replace(
    CAPSULE,
    keys=(
        HitboxKey(tick=0, offset=(0.0, -0.2, 0.0), to=(0.0, 0.5, 0.0), radius=0.05),
        HitboxKey(tick=9, offset=(0.0, -0.4, 0.1), to=(0.0, 1.0, 0.0), radius=0.2, ease="eased"),
    ),
)
RAFT = Floor(name="raft", low=(-2.0, -2.0), high=(3.0, 2.0), height=0.15, goes=(1.5, 1.0, 0.7), takes=70, rests=20)
BLOCK = Floor(name="block", low=(-4.0, -1.5), high=(-2.5, 1.0), height=1.3, goes=(5.0, 0.0, 0.8), takes=45, rests=10)
GOING: tuple[tuple[Floor, ...], ...] = ((), (), (RAFT,), (BLOCK,), (RAFT, BLOCK))
ASKED: dict[str, tuple[str, ...]] = {
    "command": (*COMMANDS, "twice"), "action": NAMES, "parameter": ("mood",), "contact": ("any", "hit", "guarded"),
    "ending": ("any", "completed", "broken"), "region": ("trunk", "head"), "strength": ("light", "strong"),
    "standing": ("standing", "reeling", "down"),
}  # fmt: skip
SPANS: dict[str, dict[str, Any]] = {
    "": dict(ASKED),
    "strikes": {"boxes": ((CAPSULE,), (BALL, CAPSULE), (CUBE,), (GROWS,)), "strength": ("light", "strong"), "group": ("", "", "one"),
                "knockback": ((0.0, 0.0, 2.0), (-1.0, 3.0, 1.0)), "damage": (5.0, 12.0), "hit_stop": (0, 4, 7),
                "poise": (5.0, 15.0), "team": ("others", "others", "everybody")},
    "exits": {"to": NAMES, "command": COMMANDS, "sequence": ((), (), ("light", "heavy")), "section": ("", "B"),
              "to_kind": ("action", "action", "tag", "pool", "ground"), "blend": (0, 4, 12), "buffer": (None, 0, 14),
              "kind": ("combo", "combo", "cancel", "break")},
    "gates": {"to": (*SECTIONS, "Sections"), "blend": (0, 5)},
    "shields": {"hurtboxes": ((), (), ("head", "chest")), "strength": (0.0, 10.0, 25.0), "arc": (90.0, 180.0), "lets": (0.0, 0.3)},
    "holds": {"setting": ("feet", "turn", "push", "gravity", "guard", "aim", "grip"), "value": (0.0, 1.0)},
    "drives": {"scale": (0.5, 1.0, 1.5), "turn_rate": (90.0, 360.0)},
    "events": {"kind": ("message", "effect", "parameter", "spawn"), "name": ("mood", "lantern"), "mount": ("", "tip", "hand_left"),
               "payload": ("1", "0", "speed=7, up=3")},
}  # fmt: skip


@st.composite
def _sections(draw: st.DrawFn, name: str, names: tuple[str, ...]) -> Section:
    cuts, ticks = [], 0
    for n in range(draw(st.sampled_from([1, 1, 2]))):
        clip = draw(st.sampled_from(sorted(CLIPS)))
        start = draw(st.sampled_from([0.0, 0.1, 0.23]))
        length = draw(st.sampled_from([0.1, 0.2, 0.35]))
        end = min(start + length, CLIPS[clip])
        blend = draw(st.sampled_from([0, 0, 5]))
        cuts.append(Cut(clip=clip, start=start, end=end, rate=draw(st.sampled_from([1.0, 1.0, 0.7])),
                        mirror=draw(st.sampled_from([False, False, True])), blend=blend if n or name != "A" else 0))  # fmt: skip
        ticks += max(1, int(length * 60))
    then = draw(st.sampled_from(["end", "end", "Sections", *names]))
    spans = draw(any_spans(max(ticks // 2, 2), SPANS))
    posture: Any = draw(st.sampled_from(["", "", "ducking", "down"]))
    return Section(name=name, cuts=tuple(cuts), then=then, posture=posture, **spans)  # type: ignore[arg-type]


def _ending(message: str) -> st.SearchStrategy[Ending]:
    plain, sets = Ending(), Ending(parameters=(Setting(setting="mood", value=0.5),), message=message)
    return st.sampled_from([plain, plain, sets])


@st.composite
def _actions(draw: st.DrawFn, name: str, layers: tuple[str, ...]) -> Action:
    names = SECTIONS[: draw(st.integers(1, 3))]
    start = StartRule(
        commands=tuple(
            draw(st.lists(st.sampled_from(["light", "heavy", "guard", "twice", "spin"]), max_size=2, unique=True))
        ),
        conditions=tuple(draw(st.lists(conditions(ASKED), max_size=1))) if draw(st.booleans()) else (),
        states=draw(st.sampled_from([(), (), ("idle", "walk")])),
        cooldown=draw(st.sampled_from([0, 0, 40])),
        string_memory=draw(st.sampled_from([0, 30])),
        momentum=draw(st.sampled_from(["fade", "stop", "keep"])),
    )
    wide = any_spans(200, SPANS)
    whole = draw(wide)
    return Action(
        name=name, layer=draw(st.sampled_from(layers)), start=start, tags=draw(st.sampled_from([(), ("Made 0",), ("Made 1",)])),
        sections=tuple(draw(_sections(n, names)) for n in names),
        root=RootUse(forward=draw(st.booleans()), turn=draw(st.booleans()), up=draw(st.sampled_from([False, False, True]))),
        blend_in=draw(st.sampled_from([0, 4, 9])), blend_out=draw(st.sampled_from([0, 8])),
        ease=draw(st.sampled_from(["linear", "smooth", "in", "out"])), speed=draw(st.sampled_from([1.0, 1.3])),
        exits=tuple(e for e in whole["exits"] if isinstance(e, Exit) and draw(st.booleans())),
        shields=tuple(s for s in whole["shields"] if isinstance(s, Shield) and draw(st.booleans())),
        drives=tuple(d for d in whole["drives"] if draw(st.booleans())),
        holds=draw(st.sampled_from([(), (), (Setting(setting="feet", value=0.0),)])),
        on_start=draw(_ending("begins")), on_completed=draw(_ending("over")), on_cancelled=draw(_ending("left")),
        on_broken=draw(_ending("broken")),
    )  # fmt: skip


@st.composite
def _layers(draw: st.DrawFn, demo: Project) -> tuple[Layer, ...]:
    def some(name: str, **fields: Any) -> Layer:
        scope = draw(
            st.sampled_from([(), (), (Speaks(state="walk", rule="fades"),), (Speaks(state="idle", rule="finishes"),)])
        )
        return Layer(
            name=name, scope=scope, space=draw(st.sampled_from(["joint", "body"])), weight=draw(st.sampled_from([1.0, 1.0, 0.6])),
            taken=draw(st.sampled_from(["waits", "refused", "takes over"])), covered=draw(st.sampled_from(["goes on", "waits", "ends"])),
            under=draw(st.sampled_from(["waits", "both play", "ends this"])), pressed=draw(st.sampled_from(["remembered", "nothing"])),
            **fields,
        )  # fmt: skip

    aim = Aim(points=(AimPoint(clip="idle"), AimPoint(clip="overhead", side=60.0, time=0.3), AimPoint(clip="staff_thrust", up=40.0, time=0.2),
                      AimPoint(clip="staff_sweep", side=-60.0, time=0.3)))  # fmt: skip
    own = (
        some("Whole"),
        some(
            "Upper", mask="made upper", by=draw(st.sampled_from(["", "mood"])), aim=draw(st.sampled_from([None, aim]))
        ),
        some(
            "Adds",
            mode="additive",
            mask="made upper",
            adds=draw(st.sampled_from(["frame", "alongside", "start"])),
            reference="idle",
        ),
    )
    return (*own, *(replace(y, name=y.name) for y in demo.layers))


@st.composite
def made_projects(draw: st.DrawFn, demo: Project) -> Project:
    """The demo's figure, clips and locomotion under layers, actions, pools, reactions, gestures of its own."""
    layers = draw(_layers(demo))
    names = tuple(y.name for y in layers[:3])
    made = tuple(draw(_actions(name, names)) for name in NAMES)
    items = tuple(PoolItem(name=n, weight=1.0 + i) for i, n in enumerate(NAMES))
    pools = (
        Pool(name="Made 1", items=items, commands=draw(st.sampled_from([(), ("heavy",)]))),
        Pool(name="Sections", items=tuple(PoolItem(name=n) for n in SECTIONS), apart=draw(st.sampled_from([0, 1, 2]))),
    )
    situations: list[Any] = ["any", "any", "guarding", "deflected", "last", "air"]
    rows = tuple(
        Reaction(
            action=draw(st.sampled_from([*NAMES, "Made 1", "Reel front"])), situation=draw(st.sampled_from(situations)),
            side=draw(st.sampled_from(["any", "front", "back left", "left"])), region=draw(st.sampled_from(["any", "any", "head"])),
            conditions=tuple(draw(st.lists(conditions(ASKED), max_size=1))) if draw(st.booleans()) else (),
        )
        for _ in range(draw(st.integers(1, 4)))
    )  # fmt: skip
    hands = (
        Command(name="twice", gesture=Gesture(kind="double", of=("light",), within=14)),
        Command(
            name="spin", gesture=Gesture(kind="motion", of=("heavy",), ways=("back", "forward"), wide=True, within=25)
        ),
        Command(
            name="long", gesture=Gesture(kind="held", of=("guard",), ticks=12, levels=(12, 30), sets="mood"), buffer=20
        ),
    )
    settings = replace(
        demo.settings, buffer=draw(st.sampled_from([0, 8, 15])),
        scaling=draw(st.sampled_from([Scaling(), Scaling(damage=0.7, stun=0.8, least=0.3)])),
    )  # fmt: skip
    plays: list[Any] = ["keys", "random", "guards once touched", "hits back", "walks in"]
    first, other = demo.stage.fighters[:2]
    fighters = (
        replace(first, health=400.0, plays="keys", poise=draw(st.sampled_from([0.0, 20.0]))),
        replace(
            other,
            health=400.0,
            plays=draw(st.sampled_from(plays)),
            answer="light",
            every=20,
            poise=draw(st.sampled_from([0.0, 12.0])),
        ),
    )
    return replace(
        demo, layers=layers, masks=(*demo.masks, Mask(name="made upper", joint="waist", feather=1)),
        actions=(*demo.actions, *made), pools=(*demo.pools, *pools), reactions=(*rows, *demo.reactions),
        commands=(*demo.commands, *hands), settings=settings, drills=(), takes=(),
        stage=replace(demo.stage, fighters=fighters, floors=(*demo.stage.floors, *draw(st.sampled_from(GOING)))),
    )  # fmt: skip
