"""The reaction table as it is looked at: the row that answers each side, strength and situation, and clips for it."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from veergust.core.model import Project, Reaction
from veergust.core.motion import ends
from veergust.core.play import EIGHTHS, INSTEAD, CompiledProject, Touched, fits
from veergust.core.study.clip_reading import reading_of

STEP = 45.0
WORDS = {
    "front": r"front|fwd|forward|ahead",
    "back": r"back|rear|behind|bwd",
    "left": r"left|(?<![a-z])l(?![a-z])",
    "right": r"right|(?<![a-z])r(?![a-z])",
}
SHOVED, SOON = 0.04, 0.35
"""Who is hit gives way by at least so much (m, for one of 1.75 m) within so long (s)."""


@dataclass(frozen=True)
class HitKind:
    """A hit to be answered: from which eighth, how strong, and how the victim stands."""

    side: str
    strength: str
    situation: str

    @property
    def degrees(self) -> float:
        """The bearing of the middle of its side."""
        n = EIGHTHS.index(self.side)
        return STEP * n if n <= 4 else STEP * n - 360.0


@dataclass(frozen=True)
class Answering:
    """The row that answers a hit, by its place in the table, and whether it is for just that hit."""

    index: int
    row: Reaction
    own: bool


def answer_to(rows: Sequence[Reaction], hit: HitKind) -> Answering | None:
    """The row that answers a hit of which no more is known; None when nothing does."""
    for situation in filter(None, (hit.situation, INSTEAD.get(hit.situation))):
        touch = Touched(hit.degrees, hit.strength, situation)
        for i, row in enumerate(rows):
            if row.plain and fits(row, touch):
                own = (row.side, row.strength, row.situation) == (hit.side, hit.strength, hit.situation)
                return Answering(i, row, own)
    return None


def also(rows: Sequence[Reaction], hit: HitKind) -> list[tuple[int, Reaction]]:
    """The rows, by their place, that may answer a hit in place of the plain one because they ask for more."""
    out = []
    for i, row in enumerate(rows):
        touch = Touched(hit.degrees, hit.strength, hit.situation, row.region, row.near)
        if not row.plain and fits(row, touch):
            out.append((i, row))
    return out


def strengths(project: Project) -> list[str]:
    """Every strength that a strike has or a row asks for, from the one that does the least damage on."""
    damage: dict[str, list[float]] = {}
    for action in project.actions:
        for section in action.sections:
            for strike in section.strikes:
                damage.setdefault(strike.strength, []).append(strike.damage)
    for row in project.reactions:
        if row.strength != "any":
            damage.setdefault(row.strength, [])
    order = {name: float(np.mean(hits)) if hits else 0.0 for name, hits in damage.items()}
    return sorted(order, key=lambda name: (order[name], name)) or ["light"]


def sides_of(build: CompiledProject, clips: Sequence[str]) -> dict[str, str]:
    """Side → the clip that is likely to be the reaction to a hit from there: by its name, else by where it gives way.

    Each clip is one side's; sides for which nothing speaks are left out.
    """
    out: dict[str, str] = {}
    for name in clips:
        side = _named(name) or _moved(build, name)
        if side and side not in out:
            out[side] = name
    return {side: out[side] for side in EIGHTHS if side in out}


def _named(name: str) -> str:
    """The side that a name tells, where it tells one."""
    words = re.sub(r"(?<=[a-z])(?=[A-Z])", " ", name).lower()
    said = {side for side, telling in WORDS.items() if re.search(telling, words)}
    ahead = said & {"front", "back"}
    aside = said & {"left", "right"}
    if len(ahead) > 1 or len(aside) > 1:
        return ""
    return " ".join([*ahead, *aside])


def _moved(build: CompiledProject, name: str) -> str:
    """The side from which somebody is hit who gives way as a clip does: away from it."""
    reading, clip = reading_of(build, name), build.clip(name)
    if reading is None or clip is None or len(reading.times) < 3:
        return ""
    start, end = ends(build.assets, clip)
    first, last = reading.frame_of(start), reading.frame_of(min(start + SOON, end))
    places = reading.world(slice(first, last + 1))[:, :, :3, 3].mean(axis=1)
    gone = (places - places[0]) @ reading.bodies[first][:3, :3]
    far = np.hypot(gone[:, 0], gone[:, 2])
    most = int(np.argmax(far))
    if far[most] < SHOVED * build.project.rig.capsule.height / 1.75:
        return ""
    away = float(np.degrees(np.arctan2(-gone[most, 0], -gone[most, 2])))
    return EIGHTHS[round(away / STEP) % 8]
