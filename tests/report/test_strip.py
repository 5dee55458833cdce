"""The spans under a moving picture lie on their frames, and the frame that is shown is marked."""

from __future__ import annotations

import numpy as np

from veergust.core.model import Project
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.look import THEMES
from veergust.report.rows import bars_of
from veergust.report.strip import EDGE, HEAD, LINE, with_spans

WIDE = 416
LOOK = THEMES["day"]


def rgb(ink: str) -> np.ndarray:
    return np.array([int(ink[i : i + 2], 16) for i in (1, 3, 5)])


def marked(pictures: list[np.ndarray], n: int) -> tuple[int, int]:
    """From where to where the mark of a picture goes, by what is otherwise than on the last one."""
    row = np.abs(pictures[n].astype(int) - pictures[-1].astype(int))[-3].sum(axis=-1)
    left = np.flatnonzero(row[: WIDE * 3 // 4])
    return int(left[0]), int(left[-1])


def test_bars_lie_on_their_frames_and_the_shown_frame_is_marked(quay: Project, assets: Assets) -> None:
    compiled = CompiledProject(quay, assets).action("Low sweep")
    assert compiled is not None
    ticks = range(4, 24)
    above = np.full((30, WIDE, 3), 7, np.uint8)
    pictures = with_spans([above] * len(ticks), compiled, ticks, LOOK)
    bars = [bar for bar in bars_of(compiled) if bar.start < 24 and bar.end > 4]
    assert pictures[0].shape == (30 + HEAD + LINE * len(bars) + EDGE, WIDE, 3)
    assert (pictures[0][:30] == 7).all()
    wide = (WIDE - 2 * EDGE) / len(ticks)
    for n, bar in enumerate(bars):
        first, last = (EDGE + (min(max(t, 4), 24) - 4) * wide for t in (bar.start, bar.end))
        rows = [p[30 + HEAD + LINE * n + 2].astype(int) for p in pictures[::9]]  # its upper edge
        ink = rgb(LOOK.roles[bar.role].ink if bar.role in LOOK.roles else LOOK.ink_soft)
        # On most of the pictures: over a frame of each lies its mark.
        drawn = np.flatnonzero(np.median([np.abs(row - ink).sum(axis=-1) for row in rows], axis=0) < 12)
        drawn = drawn[: np.flatnonzero(np.diff([*drawn, 10**6]) > 2)[0] + 1]
        assert abs(drawn[0] - first) <= 1, bar
        assert abs(drawn[-1] - max(last, first + 2)) <= 2, bar
    for n in (0, 5, 11):
        left, right = marked(pictures, n)
        assert abs(left - (EDGE + n * wide)) <= 2
        assert abs(right - (EDGE + (n + 1) * wide)) <= 2


def test_long_words_are_cut_and_none_goes_over_the_edge(quay: Project, assets: Assets) -> None:
    compiled = CompiledProject(quay, assets).action("Low sweep")
    assert compiled is not None
    narrow = with_spans([np.zeros((4, 90, 3), np.uint8)], compiled, (12,), LOOK)[0]
    paper = rgb(LOOK.paper)
    edge = np.abs(narrow[4 + HEAD :, -EDGE + 2 :].astype(int) - paper).sum(axis=-1)
    assert edge.max() < 20
