"""Cuts of drawings: they begin and end with one, and every tick shows one, however they are retimed."""

from __future__ import annotations

from itertools import groupby

import numpy as np

from veergust.core.model import Clip, Cut
from veergust.core.motion import Assets, evaluate, motion_of, times


def borders(assets: Assets, clip: Clip | None) -> list[float]:
    """Where the drawings of a clip begin, and where the last one ends (source s); none where nothing is drawn."""
    motion, picture = motion_of(assets, clip), assets.skeleton.picture
    track = next((t for t in motion.tracks if t.joint == picture), None) if motion is not None else None
    if motion is None or track is None or picture < 0:
        return []
    frames = [round(float(t) * motion.fps) for t in track.times]
    return [*(frame / motion.fps for frame in frames), motion.seconds]


def snapped(assets: Assets, clip: Clip | None, seconds: float) -> float:
    """A source time, or where the nearest drawing begins or the last one ends, so that none is cut in two."""
    there = borders(assets, clip)
    return min(there, key=lambda at: abs(at - seconds)) if there else seconds


def shared_out(assets: Assets, clip: Clip | None, cut: Cut, start: float, end: float, ticks: int) -> list[int]:
    """For how many ticks each drawing of a cut is held; none where nothing is drawn."""
    motion, picture = motion_of(assets, clip), assets.skeleton.picture
    track = next((t for t in motion.tracks if t.joint == picture), None) if motion is not None else None
    if clip is None or track is None or picture < 0:
        return []
    shown = evaluate(track, times(start, end, ticks, clip.reverse)[:-1])
    return [len(list(run)) for _, run in groupby(map(tuple, np.round(shown, 9)))]


def in_words(holds: list[int]) -> tuple[str, ...]:
    """How frames are shared out, in a sentence; nothing where nothing is drawn."""
    some = " ".join(map(str, holds[:24])) + (" …" if len(holds) > 24 else "")
    return (f"Its drawings are held {some} f.",) if holds else ()
