"""Sections compiled: their cuts sampled on every tick, each about the body's own track."""

from __future__ import annotations

from functools import partial

import numpy as np

from veergust.core.model import Action, Clip, Cut, RootUse, Section
from veergust.core.motion import Array, Assets, Pose, Roots, carried, ends, motion_of, quat, times
from veergust.core.play.compiled.action import crossfaded
from veergust.core.play.compiled.section import CompiledCut, CompiledSection, FindClip, Onward, cut_seconds, cut_ticks

MadeFrom = tuple[tuple[Cut, ...], RootUse, float, str]
"""What a section is sampled from: its cuts, and of its action the root motion, the speed and the ease."""


def compile_section(
    section: Section, action: Action, find: FindClip, assets: Assets, rate: int, roots: Roots
) -> CompiledSection:
    """Sample a section's cuts on every tick, each about the body's own track."""
    bones = assets.skeleton
    cuts: list[CompiledCut] = []
    source: list[Array] = []
    poses: list[Pose] = []
    places, yaws = [np.zeros((1, 3))], [np.zeros(1)]
    at, place, yaw = 0, np.zeros(3), 0.0
    rest = bones.rest_pose()
    last: tuple[Array, Pose] = (np.zeros(1), rest)
    onward: Onward = partial(_held, rest)
    for cut in section.cuts:
        clip = find(cut.clip)
        motion = motion_of(assets, clip)
        start, end = cut_seconds(cut, clip, assets)
        ticks = cut_ticks(cut, clip, assets, rate, action.speed)
        turned = cut.mirror != bool(clip and clip.mirror)
        # Times run to the cut's end, so that its rate fills the ticks exactly.
        at_source = times(start, end, ticks, bool(clip and clip.reverse))
        climbs = action.root.up or bool(clip and clip.root.up)
        went = float(at_source[0]), float(at_source[-1])
        cuts.append(
            CompiledCut(cut, at, ticks, *went, motion is not None, turned, climbs, turned and bool(clip and clip.swaps))
        )
        way, left = carried(assets, clip, at_source, roots, action.root, turned=cut.mirror)
        if cut.blend > 0 and at > 0:
            left = crossfaded(bones, onward, left, min(cut.blend, ticks), action.ease)
        onward = partial(_play_on, assets, clip, at_source, roots, action.root, cut.mirror)
        source.append(at_source[:-1])
        poses.append(Pose(left.rotation[:-1], left.translation[:-1]))
        places.append(place + quat.rotate(quat.from_yaw(yaw), way.place[1:]))
        yaws.append(yaw + way.yaw[1:])
        place, yaw, at = places[-1][-1], float(yaws[-1][-1]), at + ticks
        last = (at_source[-1:], left.frame(-1))
    if not cuts:
        at = 1
        source, poses = [np.zeros(1)], [rest]
        places.append(np.zeros((1, 3)))
        yaws.append(np.zeros(1))
    return CompiledSection(
        section,
        tuple(cuts),
        at,
        np.concatenate([*source, last[0]]),
        Pose(
            np.concatenate([p.rotation for p in [*poses, last[1]]]),
            np.concatenate([p.translation for p in [*poses, last[1]]]),
        ),
        np.concatenate(places),
        np.concatenate(yaws),
        bones,
        onward,
    )


def _held(rest: Pose, ticks: Array) -> Pose:
    return Pose(np.repeat(rest.rotation, len(ticks), axis=0), np.repeat(rest.translation, len(ticks), axis=0))


def _play_on(
    assets: Assets, clip: Clip | None, at_source: Array, roots: Roots, use: RootUse, mirror: bool, ticks: Array
) -> Pose:
    on = at_source[-1] + (at_source[-1] - at_source[-2]) * ticks
    if clip is not None:
        # What was cut away from the clip itself is not shown.
        low, high = ends(assets, clip)
        on = np.clip(on, min(low, float(at_source.min())), max(high, float(at_source.max())))
    return carried(assets, clip, on, roots, use, turned=mirror)[1]
