"""Many clips of one take: parts cut out of it as clips of their own, and marks to find places again."""

from __future__ import annotations

from collections.abc import Iterable

from msgspec.structs import replace

from veergust.core.edit.clips import free_clip_name, with_clip
from veergust.core.edit.spans import Edit
from veergust.core.model import Clip, Mark, Project
from veergust.core.trouble import Trouble, named

NEAR = 1e-6


def clips_of_take(project: Project, clip: Clip) -> tuple[Clip, ...]:
    """The clips that are cut out of the same animation of the same file, this one among them."""
    return tuple(c for c in project.clips if (c.file, c.animation) == (clip.file, clip.animation) and c.file)


def unused_parts(project: Project, clip: Clip, seconds: float) -> tuple[tuple[float, float], ...]:
    """Where (source seconds) of ``seconds`` no clip of the take lies; one that is all of it does not count."""
    ends = ((c.start, seconds if c.end is None else c.end) for c in clips_of_take(project, clip))
    taken = sorted((start, end) for start, end in ends if end - start < seconds - NEAR)
    out, at = [], 0.0
    for start, end in taken:
        if start > at + NEAR:
            out.append((at, start))
        at = max(at, end)
    return (*out, (at, seconds)) if at < seconds - NEAR else tuple(out)


def take_parts(project: Project, name: str, parts: Iterable[tuple[str, float, float]]) -> tuple[Edit, tuple[str, ...]]:
    """New clips of parts (wished name, start and end in source seconds) of a clip's take, and what they are called.

    They are prepared as the clip is, and stand behind it. Raises ``Trouble`` for a part without a length.
    """
    clip = named(project.clips, name, "clip", field="clip")
    made: list[Clip] = []
    after = project
    for wish, start, end in parts:
        if end <= start:
            raise Trouble("a part would end before it begins", field=wish, do="put its out behind its in")
        own = free_clip_name(after, wish.strip() or name)
        part = replace(clip, name=own, start=start, end=end, loop=False, contacts=None, poses=(), marks=())
        made.append(part)
        after = replace(after, clips=(*after.clips, part))
    at = project.clips.index(clip) + 1
    clips = (*project.clips[:at], *made, *project.clips[at:])
    names = tuple(part.name for part in made)
    words = f"New clip {names[0]} of {name}" if len(names) == 1 else f"{len(names)} new clips of {name}"
    return Edit(replace(project, clips=clips), words), names


def turn_mark(project: Project, name: str, time: float, step: float) -> Edit:
    """A mark put at a time of a clip's source, or the one that is within half a ``step`` of it taken away."""
    clip = named(project.clips, name, "clip", field="clip")
    there = [m for m in clip.marks if abs(m.time - time) <= 0.5 * step + NEAR]
    if there:
        marks = tuple(m for m in clip.marks if m not in there)
        return Edit(with_clip(project, replace(clip, marks=marks)), f"{name}: mark taken away")
    marks = tuple(sorted((*clip.marks, Mark(time=round(time, 9))), key=lambda m: m.time))
    return Edit(with_clip(project, replace(clip, marks=marks)), f"{name}: mark put")


def name_mark(project: Project, name: str, index: int, words: str) -> Edit:
    """A mark called otherwise."""
    clip = named(project.clips, name, "clip", field="clip")
    marks = tuple(replace(m, name=words.strip()) if i == index else m for i, m in enumerate(clip.marks))
    return Edit(with_clip(project, replace(clip, marks=marks)), f"{name}: mark {words.strip() or 'without a name'}")
