"""The pose of a fighter: locomotion, each action over it from the bottom layer up, then feet, look and hands."""

from __future__ import annotations

from collections.abc import Sequence

from player import fades, gaze
from player.export import Export, Layer
from player.feet import lay_feet, legs_step
from player.fighter import Fighter, Playing
from player.glb import Pose
from player.grips import hold_on, reach_grips
from player.ground import ground_pose
from player.limbs import carry, turned
from player.poses import added, at_share, over
from player.stage import Stage
from player.turns import ease


def pose(export: Export, f: Fighter, stage: Stage, *, on_a_tick: bool) -> None:
    """Work out where the joints of a fighter are about its body. Corrections go ``on_a_tick``, or stay as they are."""
    if on_a_tick:
        gaze.aim(export, f)
    joints = export.figure.placed(layered(export, f))
    ground = export.ground
    if ground["feet"]["weight"] > 0.0:
        if on_a_tick:
            own = [fades.left_to_locomotion(f, leg.foot) for leg in export.figure.legs]
            legs_step(export, f, stage, joints, own)
        lay_feet(export, f, stage, joints)
    if ground["look"]["weight"] > 0.0:
        if on_a_tick:
            gaze.look(export, f, joints)
        carry(export.figure, joints, turned(export.figure, joints, gaze.look_turns(export, f)))
    if export.grips:
        if on_a_tick:
            hold_on(export, f)
        reach_grips(export, f, joints)
    f.joints = joints


def layered(export: Export, f: Fighter) -> Pose:
    """Locomotion, then every action over it by mask, layer weight and fade, each layer's aim after what is on it."""
    # What hides locomotion is the bottom of the pile.
    out = None if fades.hidden(f) else ground_pose(f)
    below = 0
    for p, much, by in zip(f.playing, fades.shown(f), fades.by_joint(f)):
        layer = export.layers.get(p.layer)
        if layer is None:
            continue
        out, below = _aimed(export, f, out, below, layer.place), max(below, layer.place)
        if much > 0.0:
            own = _of_action(export, p)
            out = own if out is None else _laid(export, f, layer, out, own, p, by, much)
    out = _aimed(export, f, out, below, len(export.layers))
    return out if out is not None else export.figure.rest


def _of_action(export: Export, p: Playing) -> Pose:
    """The pose of an action's frame, mixed over the sections it comes from; once ended its time runs on."""
    frame = p.frame + (p.faded if p.ended and not p.last else 0)
    own = p.part.pose(frame)
    if not p.going:
        return own
    sections, all_ = p.action.sections, [1.0] * len(export.figure)
    out = sections[p.going[0].section].pose(p.going[0].tick)
    for gone, onto in zip(p.going, (*p.going[1:], None)):
        to = own if onto is None else sections[onto.section].pose(onto.tick)
        much = ease(p.action.row["ease"], (gone.age + 1) / (gone.blend + 1))
        out, gone.way = over(export.figure, out, to, [much * w for w in all_], gone.way)
    return out


def _laid(
    export: Export,
    f: Fighter,
    layer: Layer,
    base: Pose,
    own: Pose,
    p: Playing,
    by: Sequence[float] | None,
    much: float,
) -> Pose:
    """An action's pose over what there is, or added to it."""
    if not layer.additive and by is None and layer.even and much * layer.mask[0] >= 1.0:
        p.way = None
        return own
    weight = [much * w for w in layer.mask] if by is None else by
    space = layer.row["space"]
    if layer.additive:
        if layer.row["adds"] == "start" and p.reference is None:
            p.reference = ground_pose(f)
        out, p.way = added(export.figure, base, own, _reference(export, layer, p), weight, p.way, space)
    else:
        out, p.way = over(export.figure, base, own, weight, p.way, space)
    return out


def _reference(export: Export, layer: Layer, p: Playing) -> Pose:
    """The pose whose difference to an action's an additive layer adds."""
    row = layer.row
    if row["adds"] == "start" and p.reference is not None:
        return p.reference
    clip = export.clip(row["reference"])
    along = row["adds"] == "alongside"
    seconds = (p.age + p.faded) / export.rate if along else row["at"]
    share = seconds / clip.seconds if clip.seconds > 0.0 else 0.0
    return at_share(clip, share, clip.loop) if along else at_share(clip, min(max(share, 0.0), 1.0), False)


def _aimed(export: Export, f: Fighter, out: Pose | None, low: int, high: int) -> Pose | None:
    """With the aims of the layers from one place on, below another, added."""
    for layer in export.layers.values():
        found = f.aims.get(layer.name)
        if out is None or found is None or found.weight <= 0.0 or not low <= layer.place < high:
            continue
        field = export.aims[layer.name]
        weight = [found.weight * w for w in layer.mask]
        out, _ = added(
            export.figure, out, field.pose(found.side, found.up), field.ahead, weight, None, layer.row["space"]
        )
    return out
