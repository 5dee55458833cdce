"""BVH in: a hierarchy of offsets and channels, and a row of numbers for each frame.

A root's position channels are added to its offset, as the format says; those of any other joint stand in place of
its offset, as every program that writes them means it. Rotation channels turn one after the other in the order they
are listed, whichever of the six it is.
"""

from __future__ import annotations

import re
import warnings
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np

from veergust.core.files.fetch import fetch
from veergust.core.files.motion_file import AGAIN, LARGEST, LONGEST_MOTION, MOST_JOINTS, MotionFile, Reader
from veergust.core.motion import Array, Motion, Skeleton, Track, quat
from veergust.core.trouble import Trouble

AXES = {"X": 0, "Y": 1, "Z": 2}
REPEATS = 0.35
"""How near (as a part of it) the root's first place must be to its offset to be the same place said twice."""
CHANNELS = {f"{axis}{kind}": (axis, kind) for axis in AXES for kind in ("position", "rotation")}
LOWER = {name.lower(): value for name, value in CHANNELS.items()}


@dataclass
class _Joint:
    name: str
    parent: int
    offset: list[float] = field(default_factory=lambda: [0.0, 0.0, 0.0])
    channels: list[tuple[str, str]] = field(default_factory=list)
    ended: bool = False


class _Words:
    """The words of a file, one after the other."""

    def __init__(self, words: list[str], file: str) -> None:
        self.words = words
        self.file = file
        self.at = 0

    def trouble(self, says: str, where: str, do: str = AGAIN) -> Trouble:
        return Trouble(says, file=self.file, field=where, do=do)

    def next(self, where: str) -> str:
        if self.at >= len(self.words):
            raise self.trouble("is cut short: it ends within its hierarchy", where, "copy or export it again")
        self.at += 1
        return self.words[self.at - 1]

    def expect(self, word: str, where: str) -> None:
        found = self.next(where)
        if found.upper() != word:
            raise self.trouble(f"should have {word} here and has {found[:40]!r}", where)

    def number(self, where: str) -> float:
        text = self.next(where)
        try:
            value = float(text)
        except ValueError as error:
            raise self.trouble(f"should have a number here and has {text[:40]!r}", where) from error
        if not abs(value) < LARGEST:
            raise self.trouble(f"holds {text[:40]}, which is no length or angle", where)
        return value

    def name_until_brace(self, where: str) -> str:
        parts = []
        while (word := self.next(where)) != "{":
            parts.append(word)
        return " ".join(parts)


def read_bvh(path: Path, *, within: Path | None = None, moved: bool = True) -> MotionFile:
    """Read a BVH file, which must lie beneath ``within`` if that is given; its motion is called as the file.

    Lengths stay in the file's own unit. Without ``moved`` only its skeleton is read. Raises ``Trouble`` naming the
    file and the place for anything that cannot be used.
    """
    name = path.name
    data = fetch(path, within)
    text = data.decode("utf-8-sig", errors="replace")
    head, found, body = _halves(text)
    if "HIERARCHY" not in head[:4096].upper():
        raise Trouble("is not BVH: it does not begin with HIERARCHY", file=name, field="header", do=AGAIN)
    if not found:
        raise Trouble("has no MOTION part", file=name, field="MOTION", do="copy or export it again")
    joints = _hierarchy(_Words(head.replace("{", " { ").replace("}", " } ").split(), name))
    if not moved:
        return MotionFile(_skeleton(joints), None, ())
    count, step, rows, left_out = _rows(body, sum(len(j.channels) for j in joints), name)
    skeleton = _skeleton(joints)
    absolute = _is_absolute(joints, rows)
    tracks = _tracks(joints, np.arange(count, dtype=np.float64) * step, rows, absolute)
    if absolute:
        left_out.append("the root's place stands in its channels; its offset is not added to them")
    if not tracks:
        raise Trouble("has no channels that move a joint", file=name, field="HIERARCHY", do=AGAIN)
    fps = float(np.clip(round(1.0 / step, 3), 0.01, 100000.0))
    return MotionFile(skeleton, None, (Motion(path.stem, (count - 1) * step, fps, tracks),), tuple(left_out))


def _skeleton(joints: list[_Joint]) -> Skeleton:
    return Skeleton(
        tuple(j.name for j in joints),
        tuple(j.parent for j in joints),
        np.tile(quat.IDENTITY, (len(joints), 1)),
        np.array([j.offset for j in joints]),
    )


def _halves(text: str) -> tuple[str, bool, str]:
    """The hierarchy, whether a motion follows it, and the motion; the word stands on a line of its own."""
    found = re.search(r"^[ \t]*MOTION[ \t]*\r?$", text, re.MULTILINE | re.IGNORECASE)
    return (text[: found.start()], True, text[found.end() :]) if found else (text, False, "")


def _hierarchy(words: _Words) -> list[_Joint]:
    while words.next("HIERARCHY").upper() != "HIERARCHY":
        pass
    joints: list[_Joint] = []
    names: set[str] = set()
    open_: list[int] = []
    while words.at < len(words.words):
        word = words.next("HIERARCHY")
        kind = word.upper()
        where = joints[open_[-1]].name if open_ else "HIERARCHY"
        if kind == "}":
            if not open_:
                raise words.trouble("closes a joint that was not opened", where)
            open_.pop()
        elif kind in ("ROOT", "JOINT") or kind == "END":
            if (kind == "ROOT") == bool(open_):
                raise words.trouble(f"has {word} where it cannot stand", where)
            if len(joints) >= MOST_JOINTS:
                raise words.trouble(f"has more than {MOST_JOINTS} joints", "HIERARCHY")
            name = _new_name(words, kind, where, names)
            names.add(name)
            joints.append(_Joint(name, open_[-1] if open_ else -1, ended=kind == "END"))
            open_.append(len(joints) - 1)
        elif kind == "OFFSET" and open_:
            joints[open_[-1]].offset = [words.number(f"{where} OFFSET") for _ in range(3)]
        elif kind == "CHANNELS" and open_ and not joints[open_[-1]].ended:
            joints[open_[-1]].channels = _channels(words, where)
        else:
            raise words.trouble(f"has {word[:40]!r}, which is no part of a hierarchy", where)
    if open_:
        raise words.trouble("is cut short: a joint is not closed", joints[open_[-1]].name, "copy or export it again")
    if not joints:
        raise words.trouble("holds no joints", "HIERARCHY", "export it with its skeleton")
    return joints


def _new_name(words: _Words, kind: str, where: str, names: set[str]) -> str:
    """The name of the joint that is opened here; an end has that of the joint it ends."""
    name = words.name_until_brace(where)
    if kind == "END":
        name = f"{where} end"
    if not name:
        raise words.trouble("has a joint without a name", where)
    if name in names:
        raise words.trouble(f"joint name {name!r} stands twice", name, "give each joint its own name")
    return name


def _channels(words: _Words, where: str) -> list[tuple[str, str]]:
    count = words.number(f"{where} CHANNELS")
    if count != int(count) or not 0 <= count <= 6:
        raise words.trouble(f"has {count:g} channels; a joint has 0 to 6", f"{where} CHANNELS")
    out = []
    for _ in range(int(count)):
        word = words.next(f"{where} CHANNELS")
        if word.lower() not in LOWER:
            raise words.trouble(f"names the channel {word[:40]!r}, which is not known", f"{where} CHANNELS")
        out.append(LOWER[word.lower()])
    if len(set(out)) < len(out):
        raise words.trouble("names a channel twice", f"{where} CHANNELS")
    return out


def _rows(body: str, wide: int, file: str) -> tuple[int, float, Array, list[str]]:
    """Frame count, seconds a frame, the numbers ``[F, channels]``, and what was left out."""
    low = body[:4096].lower()
    a, b = low.find("frames:"), low.find("frame time:")
    if a < 0 or b < 0:
        missing = "Frames:" if a < 0 else "Frame Time:"
        raise Trouble(f"does not say {missing}", file=file, field="MOTION", do=AGAIN)
    count = _stated(body[a + 7 :], "Frames", file)
    after = body[b + 11 :].lstrip(" \t")
    step_text, _, rest = after.partition("\n")
    step = _stated(step_text, "Frame Time", file)
    if not 1e-5 <= step <= 100.0:
        raise Trouble(f"says {step:g} seconds a frame", file=file, field="Frame Time", do="write the time of one frame")
    if count != int(count) or count < 1:
        raise Trouble("holds no frames", file=file, field="Frames", do="export it with its keys")
    many = int(count)
    rest = rest.strip()
    first = len(rest.partition("\n")[0].split())
    if rest and rest.count("\n") + 1 == many and first != wide:
        says = f"has rows of {first} numbers, and its joints have {wide} channels"
        raise Trouble(says, file=file, field="MOTION", do=AGAIN)
    numbers = _numbers(rest, many, wide, file)
    if count * step > LONGEST_MOTION:
        raise Trouble(f"lasts longer than {LONGEST_MOTION:g} s", file=file, field="Frames", do="export it in parts")
    over = len(numbers) - many * wide
    left_out = [f"{over} numbers past the promised frames"] if over > 0 else []
    rows = numbers[: many * wide].reshape(many, wide)
    fine = np.abs(rows) < LARGEST
    if not fine.all():
        frame = int(np.argmin(fine.all(axis=1)))
        raise Trouble(f"frame {frame} holds what is no length or angle", file=file, field="MOTION", do=AGAIN)
    return many, step, rows, left_out


def _numbers(text: str, many: int, wide: int, file: str) -> Array:
    """All numbers of a text, of which there must be ``many`` rows of ``wide``."""
    with warnings.catch_warnings():
        warnings.simplefilter("ignore", DeprecationWarning)
        try:
            found = np.fromstring(text, dtype=np.float64, sep=" ")
        except ValueError:  # something in it is no number
            found = np.zeros(0)
    if len(found) >= many * wide:
        return found
    words = text.split()
    has = len(words) // wide if wide else 0
    if has < many:
        raise Trouble(
            f"is cut short: it promises {many} frames of {wide} numbers and holds {has}",
            file=file,
            field="MOTION",
            do="copy or export it again",
        )
    bad = next((i for i, w in enumerate(words[: many * wide]) if not _numeric(w)), None)
    if bad is not None:
        says = f"has {words[bad][:40]!r} in frame {bad // wide}, which is no number"
        raise Trouble(says, file=file, field="MOTION", do=AGAIN)
    return np.array(words, dtype=np.float64)


def _stated(text: str, what: str, file: str) -> float:
    words = text.split(None, 1)
    try:
        value = float(words[0])
    except (IndexError, ValueError) as error:
        raise Trouble("is not followed by a number", file=file, field=what, do=AGAIN) from error
    if not abs(value) < 1e12:
        raise Trouble(f"is {words[0][:40]}", file=file, field=what, do="correct it or export the file again")
    return value


def _numeric(word: str) -> bool:
    try:
        float(word)
    except ValueError:
        return False
    return True


def _is_absolute(joints: list[_Joint], rows: Array) -> bool:
    """Whether the root's channels say where it is, and not how far from its offset: then the first frame repeats the
    offset's height, or whatever of it is greatest."""
    offset = np.array(joints[0].offset)
    axis = int(np.argmax(np.abs(offset)))
    names = [(a, kind) for a, kind in joints[0].channels]
    wanted = (next(a for a, n in AXES.items() if n == axis), "position")
    if wanted not in names or abs(offset[axis]) < 1e-6:
        return False
    return bool(abs(rows[0, names.index(wanted)] - offset[axis]) < REPEATS * abs(offset[axis]))


def _tracks(joints: list[_Joint], times: Array, rows: Array, absolute: bool) -> tuple[Track, ...]:
    out: list[Track] = []
    at = 0
    for j, joint in enumerate(joints):
        turn: Array | None = None
        place = np.tile(np.array(joint.offset), (len(rows), 1))
        moved = False
        for k, (axis, kind) in enumerate(joint.channels):
            values = rows[:, at + k]
            if kind == "position":
                base = joint.offset[AXES[axis]] if joint.parent < 0 and not absolute else 0.0
                place[:, AXES[axis]] = base + values
                moved = True
            else:
                part = quat.from_axis_angle(np.eye(3)[AXES[axis]], values)
                turn = part if turn is None else quat.multiply(turn, part)
        at += len(joint.channels)
        if turn is not None:
            out.append(Track(j, "rotation", "LINEAR", times, quat.normalize(turn)))
        if moved:
            out.append(Track(j, "translation", "LINEAR", times, place))
    return tuple(out)


READER = Reader(lambda path, within, mesh, moved: read_bvh(path, within=within, moved=moved))
