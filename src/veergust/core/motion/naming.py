"""What joint names mean: the part of the body, its side and its number, whoever named it.

A name is cut into words at separators, at capitals and between letters and digits; a prefix that every joint of a
skeleton shares is dropped. Words for sides and parts are those animators use in several programs.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from difflib import SequenceMatcher
from weakref import WeakKeyDictionary

from veergust.core.motion.skeleton import Skeleton, chain_to

SIDES = {"left": "left", "right": "right", "l": "left", "r": "right", "lft": "left", "rgt": "right", "lf": "left",
         "rt": "right", "lt": "left"}  # fmt: skip
# Longer phrases come first, so that "upper leg" is not read as "leg".
PARTS: tuple[tuple[str, str], ...] = (
    ("toe", "toes ball toe toebase"),
    ("thigh", "upperleg upleg legupper thigh femur upperthigh"),
    ("shin", "lowerleg lowleg leglower shin calf knee tibia foreleg"),
    ("foot", "foot ankle"),
    ("upper_arm", "upperarm uparm armupper humerus bicep shldr"),
    ("forearm", "forearm lowerarm lowarm armlower elbow radius"),
    ("thumb", "thumb"),
    ("index", "index"),
    ("middle", "middle"),
    ("ring", "ring"),
    ("little", "pinky little pinkie"),
    ("fingers", "fingers finger"),
    ("hand", "hand wrist palm"),
    ("collar", "collar clavicle collarbone scapula"),
    ("eye", "eye"),
    ("jaw", "jaw"),
    ("head", "head skull"),
    ("neck", "neck"),
    ("hips", "hips pelvis hip"),
    ("spine", "spine chest torso waist abdomen thorax back upperchest ribcage lowerback upperback"),
    ("shoulder", "shoulder"),
    ("arm", "arm"),
    ("leg", "leg"),
    ("root", "root origin reference ground master trajectory"),
)
ENDS = {"end", "nub", "site", "tip", "effector"}
TWIST = {"twist", "roll", "helper", "ik", "pole", "target", "ctrl"}


ALIKE = 0.6
"""Names of which so much is the same may mean one joint."""


@dataclass(frozen=True)
class Part:
    """What a joint is: ``kind`` (empty when unknown), ``side`` and ``number`` (order in a chain, as named)."""

    kind: str = ""
    side: str = ""
    number: int = 0
    end: bool = False


def words(name: str) -> list[str]:
    """A name cut into lower-case words and numbers."""
    name = name.rsplit(":", 1)[-1].rsplit("|", 1)[-1]
    name = re.sub(r"([a-z])([A-Z])", r"\1 \2", name)
    name = re.sub(r"([A-Z])([A-Z][a-z])", r"\1 \2", name)
    name = re.sub(r"([A-Za-z])(\d)|(\d)([A-Za-z])", lambda m: " ".join(filter(None, m.groups())), name)
    return [w for w in re.split(r"[^A-Za-z0-9]+", name.lower()) if w]


_KNOWN: WeakKeyDictionary[Skeleton, tuple[Part, ...]] = WeakKeyDictionary()


def parts_of(skeleton: Skeleton) -> tuple[Part, ...]:
    """What each joint of a skeleton is; its names are read once."""
    known = _KNOWN.get(skeleton)
    if known is None:
        known = _KNOWN[skeleton] = _parts_of(skeleton)
    return known


def _parts_of(skeleton: Skeleton) -> tuple[Part, ...]:
    shared = _shared_words(skeleton.names)
    found = [_part(words(name)[shared:]) for name in skeleton.names]
    settled = [_settled(skeleton, found, j) for j in range(len(found))]
    if not any(p.kind == "hips" and not p.side for p in settled):
        hips = _forks(skeleton, settled)
        if hips is not None and settled[hips].kind in ("", "root", "spine"):
            settled[hips] = replace(settled[hips], kind="hips", number=0)
    return tuple(settled)


def _forks(skeleton: Skeleton, parts: list[Part]) -> int | None:
    """The lowest joint that both legs hang on; None where there are not two."""
    legs = [
        next((j for j, p in enumerate(parts) if (p.kind, p.side) == ("thigh", side)), None)
        for side in ("left", "right")
    ]
    if legs[0] is None or legs[1] is None:
        return None
    above = chain_above(skeleton, legs[0])
    return next((j for j in above if j in chain_above(skeleton, legs[1])), None)


def _shared_words(names: tuple[str, ...]) -> int:
    cut = [words(name) for name in names]
    if len(cut) < 3:
        return 0
    shared = next((i for i, column in enumerate(zip(*cut)) if len(set(column)) > 1), min(len(c) for c in cut))
    # A word that says something is no prefix, even when all joints have it.
    return min(shared, min(len(c) for c in cut) - 1) if shared else 0


def _part(row: list[str]) -> Part:
    side, number, rest = "", 0, []
    for word in row:
        if word in SIDES and not side:
            side = SIDES[word]
        elif word.isdigit():
            number = int(word[:6])
        else:
            rest.append(word)
    if TWIST & set(rest):
        return Part(side=side, number=number, end=True)
    whole = "".join(rest)
    # A side may be grown together with its word: "lthigh", "rightarm", also where another word follows.
    for prefix, meant in (("left", "left"), ("right", "right"), ("l", "left"), ("r", "right")):
        grown = [w for w in (whole, *rest[:1]) if w.startswith(prefix) and _kind(w[len(prefix) :], exact=True)]
        if not side and grown:
            side, whole = meant, whole[len(prefix) :]
            break
    return Part(_kind(whole), side, number, bool(ENDS & set(rest)))


def _kind(text: str, exact: bool = False) -> str:
    best = ("", 0)
    for kind, known in PARTS:
        for word in known.split():
            if text == word:
                return kind
            if not exact and word in text and len(word) > best[1]:
                best = (kind, len(word))
    return best[0]


def _settled(skeleton: Skeleton, found: list[Part], j: int) -> Part:
    """Words of two meanings settled by what hangs above and below."""
    part = found[j]
    below = [found[c] for c in _chain_below(skeleton, j)]
    kinds = {p.kind for p in below if p.side == part.side or not part.side}
    above = {found[a].kind for a in chain_above(skeleton, j) if found[a].side == part.side}
    if part.kind == "hips" and part.side:
        # What only holds the leg out from the hips is no thigh: the thigh hangs below it.
        own = {p.kind for p in below if p.side == part.side}
        return replace(part, kind="" if "thigh" in own or {"leg", "shin"} <= own else "thigh")
    if part.kind == "shoulder":
        return replace(part, kind="collar" if kinds & {"upper_arm", "arm"} else "upper_arm")
    if part.kind == "arm":
        return replace(part, kind="forearm" if above & {"upper_arm"} else "upper_arm")
    if part.kind == "leg":
        return replace(part, kind="shin" if above & {"thigh"} or not kinds & {"shin"} else "thigh")
    return part


def _chain_below(skeleton: Skeleton, joint: int) -> list[int]:
    inside = {joint}
    out = []
    for j, parent in enumerate(skeleton.parents):
        if parent in inside:
            inside.add(j)
            out.append(j)
    return out


def chain_above(skeleton: Skeleton, joint: int) -> list[int]:
    """The joints above one, the nearest first."""
    return chain_to(skeleton, joint)[-2::-1]


def nearest(skeleton: Skeleton, name: str) -> str:
    """The joint of a skeleton that is most like one of a name that it does not have: the same part of the body, else
    letters alike; empty where none is."""
    part = _part(words(name))
    if part.side:
        # Words that mean one joint or another are settled by what hangs on it; alone they mean most likely this.
        part = replace(part, kind={"hips": "thigh", "arm": "upper_arm", "leg": "shin"}.get(part.kind, part.kind))
    if part.kind and not part.end:
        for own, there in zip(skeleton.names, parts_of(skeleton)):
            if (there.kind, there.side, there.end) == (part.kind, part.side, False):
                return own
    flat = "".join(words(name))
    alike = {own: SequenceMatcher(None, flat, "".join(words(own))).ratio() for own in skeleton.names}
    best = max(alike, key=lambda own: alike[own], default="")
    return best if best and alike[best] > ALIKE else ""
