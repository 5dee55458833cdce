"""What changes of an action come to: its facts before and after, and how clips move otherwise."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator

import numpy as np

from veergust.core.changes.telling import ToldChange
from veergust.core.kinds import identity
from veergust.core.model import Clip
from veergust.core.motion import Array, Assets, Motion, ends, forward, motion_of, source_pose
from veergust.core.play import CompiledProject
from veergust.core.study import Facts, facts

TICKS = (
    ("startup", "starts up in"),
    ("active", "is open for"),
    ("recovery", "recovers in"),
    ("total", "takes"),
)
SIGNED = (
    ("on_hit", "on hit"),
    ("on_guard", "on guard"),
)
SAME = 1e-4
"""Joints that are nearer than this to where they were (m) move as they did."""
STEP = 1 / 60


def numbers(
    old: CompiledProject, new: CompiledProject, told: Iterable[ToldChange], same: Collection[str] = ()
) -> list[ToldChange]:
    """How clips of other files move otherwise, and what the facts of every action come to that was changed, or that
    plays a clip that was. Files that are the ``same`` on both sides are not looked into for that."""
    told = list(told)
    alike = same if old.project.sources == new.project.sources and old.project.rig == new.project.rig else ()
    moved = list(_moved(old, new, alike))
    clips = {c.of for c in moved} | {c.of for c in told if new.clip(c.of) is not None}
    before = {identity(a): a for a in old.project.actions}
    touched = {c.of for c in told}
    out = moved
    for action in new.project.actions:
        was = before.get(identity(action))
        plays = {cut.clip for section in action.sections for cut in section.cuts}
        if was is not None and (action.name in touched or clips & plays):
            a, b = facts(old, was.name, last=False), facts(new, action.name, last=False)
            out += _facts(a, b) if a is not None and b is not None else []
    return out


def _facts(old: Facts, new: Facts) -> Iterator[ToldChange]:
    for name, words in TICKS:
        yield from _said(new.name, name, getattr(old, name), getattr(new, name), f"{words} {{}} → {{}} f")
    lengths = {section: ticks for section, ticks, _ in old.sections}
    for section, ticks, _ in new.sections:
        if lengths.get(section, ticks) != ticks:
            says = f"{new.name}: {section} {lengths[section]} → {ticks} f"
            yield ToldChange((new.name, section), "ticks", lengths[section], ticks, says)
    for name, words in SIGNED:
        a, b = getattr(old, name), getattr(new, name)
        yield from _said(new.name, name, a, b, f"{words} {_signed(a)} → {_signed(b)}")
    if old.coverage is not None and new.coverage is not None and round(old.coverage, 2) != round(new.coverage, 2):
        says = f"{new.name}: covers {old.coverage:.0%} → {new.coverage:.0%} of the weapon"
        yield ToldChange((new.name,), "coverage", old.coverage, new.coverage, says)
    if old.reach is not None and new.reach is not None and round(old.reach - new.reach, 2):
        gap = new.reach - old.reach
        says = f"{new.name}: reaches {abs(gap) * 100:.0f} cm {'more' if gap > 0 else 'less'}"
        yield ToldChange((new.name,), "reach", round(old.reach, 4), round(new.reach, 4), says)
    elif (old.reach is None) != (new.reach is None):
        says = f"{new.name}: {'touches somebody now' if old.reach is None else 'touches nobody any more'}"
        yield ToldChange((new.name,), "reach", old.reach, new.reach, says)
    gap = float(np.linalg.norm(np.subtract(old.travel, new.travel)))
    if gap > 0.005:
        ahead = new.travel[2] - old.travel[2]
        far = f"{abs(ahead) * 100:.0f} cm {'farther' if ahead > 0 else 'less far'}"
        way = far if abs(ahead) > 0.004 else "elsewhere"
        yield ToldChange((new.name,), "travel", list(old.travel), list(new.travel), f"{new.name}: comes {way}")


def _said(action: str, name: str, old: int | None, new: int | None, words: str) -> Iterator[ToldChange]:
    if old != new:
        shown = ("–" if value is None else value for value in (old, new))
        yield ToldChange((action,), name, old, new, f"{action}: {words.format(*shown)}")


def _signed(value: int | None) -> str:
    return "–" if value is None else f"{value:+d}".replace("-", "−")


def _moved(old: CompiledProject, new: CompiledProject, alike: Collection[str]) -> Iterator[ToldChange]:
    """Clips whose source moves otherwise."""
    if old.assets.skeleton.names != new.assets.skeleton.names:
        return
    before = {identity(c): c for c in old.project.clips}
    for clip in new.project.clips:
        was = before.get(identity(clip))
        if was is None or not clip.file:
            continue
        if clip.file in alike and (was.file, was.animation) == (clip.file, clip.animation):
            continue
        a, b = old.assets.motion(was.file, was.animation), new.assets.motion(clip.file, clip.animation)
        if (a is None) != (b is None):
            says = f"{clip.name}: its source {'is there again' if a is None else 'is gone'}"
            yield ToldChange((clip.name,), "motion", a is not None, b is not None, says)
            continue
        if a is None or b is None or _alike(a, b):
            continue
        places = [_places(build.assets, c) for build, c in ((old, was), (new, clip))]
        count = min(map(len, places))
        gaps = np.linalg.norm(places[0][:count] - places[1][:count], axis=-1)
        frames = np.nonzero(gaps.max(axis=1) > SAME)[0] if count else np.zeros(0, int)
        if len(frames):
            worst = divmod(int(gaps.argmax()), gaps.shape[1])
            joint, far = new.assets.skeleton.names[worst[1]], float(gaps[worst])
            first, last = int(frames[0]), int(frames[-1])
            says = f"{clip.name}: moves otherwise from frame {first} to {last}, by up to {far * 100:.1f} cm ({joint})"
            yield ToldChange((clip.name,), "motion", None, {"from": first, "to": last, "metres": round(far, 4)}, says)
        elif len(places[0]) != len(places[1]):
            says = f"{clip.name}: its source has {len(places[0])} → {len(places[1])} frames"
            yield ToldChange((clip.name,), "motion", len(places[0]), len(places[1]), says)


def _alike(a: Motion, b: Motion) -> bool:
    """Whether two motions have the same keys."""
    if a is b:
        return True
    if len(a.tracks) != len(b.tracks) or a.seconds != b.seconds:
        return False
    return all(
        (x.joint, x.path, x.interpolation) == (y.joint, y.path, y.interpolation)
        and np.array_equal(x.times, y.times)
        and np.array_equal(x.values, y.values)
        for x, y in zip(a.tracks, b.tracks)
    )


def _places(assets: Assets, clip: Clip) -> Array:
    """Where every joint of a clip's source is on its frames, as it was shot ``[T, J, 3]``."""
    motion = motion_of(assets, clip)
    assert motion is not None
    start, end = ends(assets, clip)
    at: Array = start + np.arange(max(int((end - start) / STEP + 1e-6), 0) + 1, dtype=np.float64) * STEP
    pose = source_pose(assets, clip, at, keyed=False)
    return np.asarray(forward(assets.skeleton, pose.rotation, pose.translation)[:, :, :3, 3])
