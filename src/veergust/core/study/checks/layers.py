"""Layers: masks, states and references that they name, and those nothing is seen of."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from veergust.core.kinds import Finding, Ref, in_action
from veergust.core.model import Action
from veergust.core.motion import angle_between
from veergust.core.play import CompiledAction, CompiledProject
from veergust.core.study.layers import weights_of

SAYS = {"may": "may speak", "keeps out": "keeps out", "fades": "fades out", "finishes": "lets what plays finish"}
LOST = 0.2
"""So much travel (m) that a layer does not hand on to the body is told."""
SAME = 0.5
"""A reference whose joints are all within this (degrees) of the rest pose is the rest pose."""


def check(build: CompiledProject) -> Iterator[Finding]:
    """Layers that name what is not there, or show nothing."""
    masks = {mask.name for mask in build.project.masks}
    parameters = {p.name for p in build.project.locomotion.parameters}
    for layer in build.project.layers:
        where = Ref("layer", layer.name, (f"layer {layer.name}",))
        if layer.mask and layer.mask not in masks:
            says = f"names the mask {layer.mask!r}, which is not there"
            yield Finding("mask-missing", "error", where, says, "choose a mask of the project, or none")
        for row in layer.scope:
            if not build.chart.known(row.state):
                says = f"{SAYS[row.rule]} in {row.state!r}, which is no state"
                yield Finding("state-unknown", "error", where, says, "choose states of locomotion")
        if layer.by and build.project.locomotion.parameters and layer.by not in parameters:
            says = f"takes its weight from the parameter {layer.by!r}, which the project does not have"
            yield Finding("parameter-unknown", "error", where, says, "choose one, or make it on Ground")
        for point in layer.aim.points if layer.aim is not None else ():
            if build.clip(point.clip) is None:
                says = f"aims by {point.clip!r}, which is no clip"
                yield Finding("aim-missing", "error", where, says, "choose clips of the project, or take the pose away")
        if layer.weight <= 0.0 and any(a.layer == layer.name for a in build.project.actions):
            says = "has weight 0: what plays on it is not seen"
            yield Finding("layer-silent", "warning", where, says, "give it a weight")
        if layer.mode == "additive" and layer.adds != "start" and build.clip(layer.reference) is None:
            says = f"adds to {layer.reference or 'no clip'!r}"
            do = "choose the clip whose first pose is its reference"
            yield Finding("reference-missing", "error", where, says, do)
        elif layer.mode == "additive" and layer.adds == "frame" and len(build.assets.skeleton):
            clip = build.locomotion_clip(layer.reference)
            pose = clip.at(min(max(layer.at / clip.seconds, 0.0), 1.0), False)
            if float(angle_between(pose.rotation, build.assets.skeleton.rest_rotation[None]).max(initial=0.0)) < SAME:
                says = f"adds to {layer.reference}, whose first pose is the figure at rest"
                do = "choose a clip that begins as the action does, or leave it if that is meant"
                yield Finding("reference-rest", "note", where, says, do)
    yield from _cut_limbs(build)
    yield from _covered(build)
    yield from _grips(build)


def _grips(build: CompiledProject) -> Iterator[Finding]:
    """Hands that cannot be kept where they are to be."""
    for grip, hold in zip(build.project.grips, build.grips):
        where = Ref("layer", next(iter(grip.layers), ""), (f"hand {grip.hand}",))
        if hold is None and len(build.assets.skeleton):
            says = f"cannot be kept on {grip.mount or 'nothing'}: one is not there, or that hangs on the same arm"
            do = "choose a hand with an arm of two bones, and a mount that is not on it"
            yield Finding("grip-loose", "error", where, says, do)
        for name in grip.layers:
            if name not in build.layers:
                says = f"is kept while the layer {name!r} shows, which is not there"
                yield Finding("layer-missing", "error", where, says, "choose a layer of the project")


def _covered(build: CompiledProject) -> Iterator[Finding]:
    """Layers of which nothing is seen while an action on one above plays, and both are started by commands."""
    pressed: dict[str, list[Action]] = {}
    for action in build.project.actions:
        if action.start.commands:
            pressed.setdefault(action.layer, []).append(action)
    for name, layer in build.layers.items():
        for over, upper in build.layers.items():
            both = [s for s in build.chart.states if layer.rule(s) == upper.rule(s) == "may"]
            seen = layer.layer.covered != "goes on" or upper.layer.under == "ends this"
            if upper.covers(layer) and both and not seen and name in pressed and over in pressed:
                where = Ref("layer", name, (f"layer {name}",))
                says = f"is wholly covered by {over}, and both may speak in {both[0]}: what plays on it goes on unseen"
                do = "have it wait or end while it is covered, or give one of them another mask or scope"
                yield Finding("layer-covered", "note", where, says, do)


def _cut_limbs(build: CompiledProject) -> Iterator[Finding]:
    """Masks that speak for no joint, or for a joint and not for what hangs on it."""
    bones = build.assets.skeleton
    for mask in build.project.masks:
        weights = weights_of(build, mask)
        if bones.names and not any(weights.values()):
            where = Ref("mask", mask.name, (f"mask {mask.name}",))
            says = "speaks for no joint: nothing is seen of what plays on its layers"
            yield Finding("mask-empty", "warning", where, says, "paint it on the figure, or remove it")
        for joint, name in enumerate(bones.names):
            parent = bones.parents[joint]
            if parent >= 0 and weights[bones.names[parent]] >= 0.5 and weights[name] <= 0.0:
                where = Ref("mask", mask.name, (f"mask {mask.name}",))
                says = f"speaks for {bones.names[parent]} and not for {name}, which hangs on it"
                yield Finding("mask-cuts", "warning", where, says, "give both a weight, or neither")


def lost(build: CompiledProject, compiled: CompiledAction) -> Iterator[Finding]:
    """Travel of an action that its layer does not hand on to the body."""
    layer = build.layers.get(compiled.action.layer)
    if layer is None:
        return
    name = compiled.action.layer
    share = build.root_share(name)
    far = sum(float(np.linalg.norm(compiled.sections[i].place[-1][[0, 2]])) for i in compiled.path) * (1.0 - share)
    driven = all(d.kind != "root" for d in compiled.action.drives) and bool(compiled.action.drives)
    if far > LOST and not driven:
        says = f"travels, and its layer {name} does not move the body: {far:.2f} m are lost"
        do = "put it on a layer whose mask has the root, or take the travel out in its clip"
        yield Finding("root-lost", "warning", in_action(compiled.action.name), says, do)
