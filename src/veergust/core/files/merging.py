"""Three states of a project, or of one of its files, put together and written where ours is."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import msgspec
from msgspec.structs import replace

from veergust.core.changes import Difference, ThreeWay, merge
from veergust.core.edit import free, settled
from veergust.core.files.as_files import FOLDERS
from veergust.core.files.atomic import whole_file
from veergust.core.files.fetch import fetch
from veergust.core.files.folder import open_project
from veergust.core.files.saving import save_project
from veergust.core.files.text import from_text, to_plain, to_text
from veergust.core.model import Action, Kept, Locomotion, Project, Stage
from veergust.core.trouble import Trouble

THEIRS = "theirs"
"""What their version of an action is called, where both changed the same."""
KINDS: tuple[type[Any], ...] = (Locomotion, Action, Stage, *(k for k in FOLDERS.values() if k not in (Action, Stage)))


def merge_folders(base: Path, ours: Path, theirs: Path) -> list[str]:
    """Put three project folders together and save that in ``ours``; what both changed, in words. Raises ``Trouble``."""
    a, b, c = (open_project(path) for path in (base, ours, theirs))
    merged = merge(a, b, c)
    project = merged.project
    for clash in merged.differences:
        project = _beside(project, clash)
    save_project(settled(project, b), ours)
    return [clash.says for clash in merged.differences]


def _beside(project: Project, clash: Difference) -> Project:
    """Where both changed an action, theirs is one of its versions."""
    if not isinstance(clash.ours, Action) or not isinstance(clash.theirs, Action):
        return project
    name = clash.ours.name
    return replace(project, actions=tuple(_kept(a, clash.theirs) if a.name == name else a for a in project.actions))


def _kept(action: Action, theirs: Action) -> Action:
    name = free(THEIRS, {k.name for k in action.kept} | {action.version})
    plain = replace(theirs, kept=(), version=name, name=action.name)
    return replace(action, kept=(*action.kept, Kept(name=name, action=plain)))


def merge_files(base: Path, ours: Path, theirs: Path) -> list[str]:
    """Put three states of one file of a project together and write that to ``ours``; what both changed, in words.

    Raises ``Trouble`` for what is no such file.
    """
    texts = [fetch(path) for path in (base, ours, theirs)]
    kind = _kind(texts, ours)
    together = ThreeWay("ours")
    if kind is None:
        a, b, c = (from_text(text, dict[str, Any], path.name) for text, path in zip(texts, (base, ours, theirs)))
        lists = {}
        for folder in FOLDERS:
            stems = [tuple(x.pop(folder, ())) for x in (a, b, c)]
            lists[folder] = together.of(stems[0], stems[1], stems[2], (folder,))
        heads = [from_text(msgspec.json.encode(x), Project, ours.name) for x in (a, b, c)]
        made = together.of(heads[0], heads[1], heads[2])
        top: dict[str, Any] = {"schema": made.schema, "name": made.name}
        top |= {folder: rows for folder, rows in lists.items() if rows or folder in ("actions", "drills")}
        text = to_text(top | {k: v for k, v in to_plain(made).items() if k not in top})
    else:
        one = [from_text(text, kind, path.name) for text, path in zip(texts, (base, ours, theirs))]
        made = together.of(one[0], one[1], one[2])
        if together.clashes and isinstance(made, Action):
            made = _kept(made, ThreeWay("theirs").of(one[0], one[1], one[2]))
        text = to_text(made)
    with whole_file(ours) as out:
        out.write(text)
    return [" › ".join(step.replace("_", " ") for step in way) or ours.name for way in together.clashes]


def _kind(texts: list[bytes], ours: Path) -> type[Any] | None:
    """What the three files hold; None for a project's own."""
    first: Trouble | None = None
    for kind in (*KINDS, None):
        try:
            for text in texts:
                if kind is None:
                    top = from_text(text, dict[str, Any], ours.name)
                    rest = {k: v for k, v in top.items() if k not in FOLDERS}
                    from_text(msgspec.json.encode(rest), Project, ours.name)
                else:
                    from_text(text, kind, ours.name)
        except Trouble as trouble:
            first = first or trouble
            continue
        return kind
    raise Trouble(
        "is no file of a project, or the three are not states of one", file=str(ours), do="give BASE OURS THEIRS of it"
    ) from first
