"""Makes *Lantern Quay, paper theatre* beside this script: ``./run demo-paper``. Its drawings are the demo's own clips,
drawn from the side and cut out of paper; what strikes and what can be struck is drawn on them."""

from __future__ import annotations

import io
import json
import shutil
import tempfile
from pathlib import Path
from typing import Any

import numpy as np
from msgspec.structs import replace
from numpy.typing import NDArray
from PIL import Image

import paper_drills
from make import with_what_came
from veergust.core.files.assets import load_assets
from veergust.core.files.folder import open_project
from veergust.core.files.importing import import_file
from veergust.core.files.saving import save_project
from veergust.core.model import (
    Action,
    Capsule,
    Clip,
    FeetToFloor,
    Fighter,
    Floor,
    Hitbox,
    HitboxKey,
    Layer,
    Look,
    Project,
    Reaction,
    Section,
    Stage,
    Strike,
)
from veergust.core.motion.drawn import seen_on
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.contact.volumes import box_frame, shape_at
from veergust.report.flipbook import flipbook

HERE = Path(__file__).resolve().parent
QUAY = HERE / "lantern_quay.veergust"
CLIPS = {
    "idle": 12, "walk": 5, "run": 3, "leap": 4, "drop": 8, "land": 4, "staff_sweep": 3, "staff_thrust": 3,
    "overhead": 3, "dodge_roll": 4, "lantern_toss": 4, "cover": 4, "hit_front": 4, "hit_back": 4, "hit_left": 4,
    "hit_right": 4, "fall": 5,
}  # fmt: skip
"""Which clips are drawn, and for how many frames each drawing is held."""
ACTIONS = (
    "Low sweep", "Thrust", "Overhead hook", "Duck roll", "Lantern toss", "Cover", "Reel front", "Reel back",
    "Reel left", "Reel right", "Fall",
)  # fmt: skip
PARTS = {
    "head": ("head", "neck"),
    "trunk": ("chest", "spine", "waist", "hips"),
    "legs": ("thigh_left", "shin_left", "foot_left", "thigh_right", "shin_right", "foot_right"),
}
"""Hurtboxes of the figure that are one rectangle of its drawings."""
POINTS = ("tip", "butt", "grip", "low hand", "palm L", "foot L", "foot R")
"""The mounts of the figure that are points of its drawings."""
HIGH = 160
PAPER, RIM = (216, 198, 162), 3
OSSA, TARN = "Ossa Renn", "Tarn"


def make(folder: Path) -> None:
    """Draw every clip, bring the sheets in, and lay the demo's own actions over them."""
    quay = open_project(QUAY)
    build = CompiledProject(quay, load_assets(quay, QUAY)[0])
    shutil.rmtree(folder, ignore_errors=True)
    save_project(Project(name="Lantern Quay, paper theatre"), folder)
    project = open_project(folder)
    with tempfile.TemporaryDirectory() as place:
        for name, every in CLIPS.items():
            sheet = drawn(build, name, every, Path(place))
            project = import_file(project, folder, sheet).project
    project = dressed(project, quay)
    project = replace(project, actions=tuple(boxed(project, quay, build, folder)))
    save_project(project, folder)
    shutil.copytree(QUAY / "sounds", folder / "sounds", dirs_exist_ok=True)
    made = CompiledProject(project, load_assets(project, folder)[0])
    save_project(with_what_came(project, made), folder)


def drawn(build: CompiledProject, name: str, every: int, place: Path) -> Path:
    """The sheet of a whole clip, as its source has it, cut out of paper; with what can be struck in three parts."""
    clip = build.clip(name)
    assert clip is not None
    bare = replace(clip, start=0.0, end=None, rate=1.0, mirror=False, reverse=False)
    clips = tuple(bare if c.name == name else c for c in build.project.clips)
    path = place / f"{name}.png"
    actions = tuple(a for a in build.project.actions if a.name != name)
    flipbook(build.renew(replace(build.project, clips=clips, actions=actions)), name, path, every=every, side="right",
             height=HIGH)  # fmt: skip
    said = json.loads(path.with_suffix(".json").read_text())
    for cell in said["cells"]:
        cell["boxes"] = [*parts_of(cell["boxes"]), *(b for b in cell["boxes"] if b["kind"] == "body")]
    said |= {"edges": "smooth"}
    path.with_suffix(".json").write_text(json.dumps(said))
    with Image.open(path) as picture:
        cut = np.asarray(picture.convert("RGBA")).copy()
    wide, high = said["cell"]
    for x, y in (cell["at"] for cell in said["cells"]):
        cut[y : y + high, x : x + wide] = paper_cut(cut[y : y + high, x : x + wide])
    out = io.BytesIO()
    Image.fromarray(cut, "RGBA").quantize(64, method=Image.Quantize.FASTOCTREE).save(out, "PNG", optimize=True)
    path.write_bytes(out.getvalue())
    return path


def parts_of(boxes: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Hurtboxes put together by part."""
    out = []
    for part, names in PARTS.items():
        rects = np.array([b["rect"] for b in boxes if b["kind"] == "hurt" and b["name"] in names])
        low, high = rects[:, :2].min(axis=0), (rects[:, :2] + rects[:, 2:]).max(axis=0)
        rect = [round(float(v), 2) for v in (*low, *(high - low))]
        out.append({"kind": "hurt", "name": part, "rect": rect})
    return out


def paper_cut(pixels: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """A figure with a rim of paper around it, as if it were cut out by scissors."""
    inside = pixels[..., 3] > 127
    rim = inside.copy()
    for _ in range(RIM):
        grown = rim.copy()
        grown[1:] |= rim[:-1]
        grown[:-1] |= rim[1:]
        grown[:, 1:] |= rim[:, :-1]
        grown[:, :-1] |= rim[:, 1:]
        rim = grown
    out = np.zeros_like(pixels)
    out[rim] = (*PAPER, 255)
    out[inside] = pixels[inside]
    out[inside, 3] = 255
    return out


def dressed(project: Project, quay: Project) -> Project:
    """The drawn figure with the quay's ground, commands and stage, without what needs joints."""
    own = {clip.name: clip for clip in quay.clips}
    clips = tuple(_clip(clip, own[clip.name]) for clip in project.clips if clip.name in CLIPS)
    ground = quay.locomotion
    states = tuple(s for s in ground.states if s.name in ("idle", "walk", "run", "rise", "drop", "land"))
    kept = {s.name for s in states} | {"*", "on the floor", "in the air"}
    transitions = tuple(replace(t, ticks=0) for t in ground.transitions if {t.start, t.to} <= kept)
    groups = tuple(g for g in ground.groups if g.name in kept)
    ground = replace(
        ground, states=states, groups=groups, transitions=transitions, feet=FeetToFloor(weight=0.0),
        look=Look(weight=0.0),
    )  # fmt: skip
    rig = replace(
        project.rig, regions=tuple(r for r in quay.rig.regions if r.name == "head"), capsule=Capsule(0.28, 1.75)
    )
    rig = replace(rig, hurtboxes=tuple(replace(h, region="head" if h.name == "head" else "") for h in rig.hurtboxes))
    wanted = {"dodge", "heavy", "light", "thrust", "jump", "toss", "cover"}
    fighters = (Fighter(name=OSSA, position=(-0.85, 0, 0), facing=90.0, plays="keys"),
                Fighter(name=TARN, position=(0.85, 0, 0), facing=-90.0))  # fmt: skip
    stage = Stage(
        name="Paper stage",
        floors=(
            Floor(name="boards", low=(-5.0, -1.5), high=(5.0, 1.5)),
            Floor(name="left step", low=(-5.0, -1.5), high=(-3.8, 1.5), height=0.2),
            Floor(name="pit", low=(-30.0, -30.0), high=(30.0, 30.0), height=-3.0),
        ),
        fighters=fighters,
        put_back_below=-2.5,
    )
    side = {f"Reel {s}": s for s in ("back", "left", "right")}
    reactions = (
        Reaction(action="Fall", situation="last"),
        *(Reaction(action=name, side=s) for name, s in side.items()),
        Reaction(action="Reel front"),
    )
    return replace(
        project,
        settings=quay.settings,
        rig=rig,
        clips=clips,
        locomotion=ground,
        layers=(Layer(name="Body", blend_in=0, blend_out=0), Layer(name="Reactions", blend_in=0, blend_out=0)),
        commands=tuple(c for c in quay.commands if c.name in wanted),
        reactions=reactions,
        thrown=quay.thrown,
        stage=stage,
        drills=paper_drills.drills(OSSA, TARN),
        known_events=quay.known_events,
    )


def _clip(clip: Clip, own: Clip) -> Clip:
    return replace(clip, start=own.start, end=own.end, rate=own.rate, reverse=own.reverse, loop=own.loop, root=own.root,
                   tags=own.tags, marks=own.marks)  # fmt: skip


def boxed(project: Project, quay: Project, build: CompiledProject, folder: Path) -> list[Action]:
    """The quay's actions over the drawings, with their strikes drawn on every one on which they are open."""
    plain = replace(project, actions=tuple(_without_fades(a) for a in quay.actions if a.name in ACTIONS))
    paper = CompiledProject(plain, load_assets(plain, folder)[0])
    out = []
    for action in plain.actions:
        posed, flat = build.action(action.name), paper.action(action.name)
        assert posed is not None
        assert flat is not None
        sections = []
        for i, section in enumerate(action.sections):
            strikes = []
            for strike in section.strikes:
                boxes = []
                for n in range(len(strike.boxes)):
                    whole = posed.action.sections[i].strikes
                    own = whole[section.strikes.index(strike)].boxes[n]
                    boxes.append(_drawn_box(build, paper, posed.sections[i], flat.sections[i], strike, own))
                strikes.append(replace(strike, boxes=tuple(boxes)))
            sections.append(replace(section, strikes=tuple(strikes)))
        out.append(replace(action, sections=tuple(sections)))
    return out


def _drawn_box(
    build: CompiledProject, paper: CompiledProject, posed: Any, flat: Any, strike: Strike, box: Hitbox
) -> Hitbox:
    """A hitbox as the rectangle that it covers, seen from the side, while each drawing is held."""
    bones = paper.assets.skeleton
    rects: dict[tuple[int, int], list[tuple[int, NDArray[np.float64]]]] = {}
    for tick in range(strike.start, strike.end):
        mirrored = posed.mirrored(tick)
        frame = box_frame(build, box, posed.world[tick], mirrored)
        shape = shape_at(box, tick, mirrored)
        assert frame is not None
        ends = np.stack([shape.a, shape.b]) @ frame[:3, :3].T + frame[:3, 3]
        low, high = ends.min(axis=0) - shape.radius, ends.max(axis=0) + shape.radius
        rects.setdefault(seen_on(bones, flat.world[tick]), []).append((tick, np.stack([low, high])))
    keys = []
    for rows in rects.values():
        low, high = np.min([r[0] for _, r in rows], axis=0), np.max([r[1] for _, r in rows], axis=0)
        middle, half = (low + high) / 2.0, (high - low) / 2.0
        at = (0.0, round(float(middle[1]), 3), round(float(middle[2]), 3))
        size = (0.3, round(float(half[1]), 3), round(float(half[2]), 3))
        keys.append(HitboxKey(tick=rows[0][0], offset=at, to=at, radius=0.1, size=size, ease="hold"))
    first = keys[0]
    assert first.size is not None
    held = tuple(keys) if len(keys) > 1 else ()
    return Hitbox(
        mount="feet", shape="box", offset=first.offset, size=first.size, keys=held, name=box.name, share=box.share
    )


def _without_fades(action: Action) -> Action:
    """An action of the whole body that goes over at once; what it asks of other layers and of joints is left out."""
    layer = "Reactions" if action.layer == "Reactions" else "Body"
    states = tuple(s for s in action.start.states if s not in ("on guard", "guard"))
    return replace(
        action,
        layer=layer,
        blend_in=0,
        blend_out=0,
        holds=(),
        kept=(),
        start=replace(action.start, states=states),
        sections=tuple(map(_section, action.sections)),
    )


def _section(section: Section) -> Section:
    there = {*ACTIONS, ""}
    exits = tuple(replace(e, blend=0) for e in section.exits if e.to_kind == "ground" or e.to in there)
    return replace(
        section,
        cuts=tuple(replace(c, blend=0, mirror=False) for c in section.cuts),
        gates=tuple(replace(g, blend=0) for g in section.gates),
        exits=exits,
        events=tuple(replace(e, mount=e.mount if e.mount in POINTS else "feet") for e in section.events),
        holds=(),
    )


if __name__ == "__main__":
    make(HERE / "paper_theatre.veergust")
    print(HERE / "paper_theatre.veergust")
