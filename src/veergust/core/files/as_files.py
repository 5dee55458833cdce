"""A project as the files of its folder, and back: which files there are, and what stands in each."""

from __future__ import annotations

import re
from collections import deque
from collections.abc import Callable, Mapping, Sequence
from functools import lru_cache
from math import inf
from typing import Any

import msgspec

from veergust.core.files.bounds import check_bounds
from veergust.core.files.migrate import check_version, migrate
from veergust.core.files.text import from_text, to_plain, to_text
from veergust.core.model import SCHEMA, Action, Drill, KeptTake, Locomotion, Project, Stage
from veergust.core.results import Results
from veergust.core.trouble import Trouble

FOLDERS: dict[str, type[Any]] = {"actions": Action, "stages": Stage, "drills": Drill, "takes": KeptTake}
"""What has a file for each, by the folder they lie in, which is the project's field of them."""
_OWN = ("locomotion", "stage", *FOLDERS)
"""The fields of a project that are not in ``project.json``."""


def slug(name: str) -> str:
    """A file name for a name: lower case, words joined by underscores, no longer than any file system holds."""
    return re.sub(r"[^a-z0-9]+", "_", name.lower()).strip("_")[:80].strip("_") or "item"


@lru_cache(maxsize=16)
def _stems(names: tuple[str, ...]) -> tuple[str, ...]:
    """A stem for each name, no two alike."""
    out: dict[str, None] = {}
    for name in names:
        stem, n = slug(name), 2
        while stem in out:
            stem, n = f"{slug(name)}_{n}", n + 1
        out[stem] = None
    return tuple(out)


def action_path(project: Project, action: Action) -> str:
    """Where an action's file lies in the folder."""
    names = names_of(project.actions)
    return f"actions/{_stems(names)[names.index(action.name)]}.json"


LEAST_KEPT = 1 << 20
"""So many bytes of texts are kept, and twice what the project has when that is more: as it is, and a few steps back."""
_TEXTS = Results[tuple[int, ...], bytes](inf, len)
"""Texts of parts of projects: an edit changes few."""
_LAST: deque[tuple[Project, dict[str, bytes]]] = deque(maxlen=3)
"""The projects last asked for with their files: as it was, as it is, and as it was saved."""


def _text(parts: tuple[object, ...], make: Callable[[], bytes]) -> bytes:
    """The text of something made of ``parts``, made once while they are the very same."""
    return _TEXTS.of(tuple(map(id, parts)), make, parts)


def _part_text(part: object) -> bytes:
    return _text((part,), lambda: to_text(part))


def _top_text(project: Project, stems: Mapping[str, tuple[str, ...]]) -> bytes:
    # What has files of its own is left out before it is turned into text, which is most of the work.
    none: dict[str, Any] = dict.fromkeys(FOLDERS, ())
    head = msgspec.structs.replace(project, locomotion=Locomotion(), stage=Stage(), **none)
    parts = [getattr(head, f) for f in head.__struct_fields__ if f not in _OWN]

    def make() -> bytes:
        top: dict[str, Any] = {"schema": SCHEMA, "name": project.name}
        top |= {folder: rows for folder, rows in stems.items() if rows or folder in ("actions", "drills")}
        top |= {k: v for k, v in to_plain(head).items() if k not in top}
        return to_text(top)

    return _text((*parts, *stems.values()), make)


def project_files(project: Project) -> dict[str, bytes]:
    """Every JSON file of a project by its path in the folder; the same project gives the same bytes."""
    for known, files in _LAST:
        if known is project:
            return dict(files)
    stems = {folder: _stems(names_of(getattr(project, folder))) for folder in FOLDERS}
    out = {
        "project.json": _top_text(project, stems),
        "ground.json": _part_text(project.locomotion),
        "stage.json": _part_text(project.stage),
    }
    for folder, rows in stems.items():
        out |= {f"{folder}/{stem}.json": _part_text(one) for stem, one in zip(rows, getattr(project, folder))}
    _TEXTS.keep(max(LEAST_KEPT, 2 * sum(map(len, out.values()))))
    _TEXTS.most = inf  # while the texts of one project are put together, none of them goes
    _LAST.append((project, out))
    return dict(out)


def names_of(rows: Sequence[Any]) -> tuple[str, ...]:
    """The names of rows that have one."""
    return tuple([row.name for row in rows])


Read = dict[tuple[type[Any], bytes], Any]
"""What was read of texts that are the same in many states of a project."""


def project_from_files(files: Mapping[str, bytes], name: str, known: Read | None = None) -> Project:
    """The project in files read from a folder called ``name``; what is ``known`` already is not read again."""
    known = {} if known is None else known
    if "project.json" not in files:
        raise Trouble("holds no project.json", file=name, do="open a folder that this program saved, or make a new one")
    label = f"{name}/project.json"
    top = dict(_read(files["project.json"], dict, label, known))
    decoded: dict[str, Any] = {"project.json": top}
    if top.get("schema", 1) != SCHEMA:
        check_version(top.get("schema", 1), label)
        decoded |= {p: from_text(d, dict[str, Any], f"{name}/{p}") for p, d in files.items() if p != "project.json"}
        decoded = migrate(decoded, top.get("schema", 1), label)
        files = {p: msgspec.json.encode(v) for p, v in decoded.items()}
        top = decoded["project.json"]
    own = {f: _listed(files, top.pop(f, []), f, kind, name, known) for f, kind in FOLDERS.items()}
    locomotion, stage = (
        _read(files[file], kind, f"{name}/{file}", known) if file in files else kind()
        for file, kind in (("ground.json", Locomotion), ("stage.json", Stage))
    )
    project = known.get((Project, files["project.json"]))
    if project is None:
        project = from_text(msgspec.json.encode(top), Project, label)
        known[Project, files["project.json"]] = project
    return msgspec.structs.replace(project, locomotion=locomotion, stage=stage, **own)


def _read(data: bytes, kind: type[Any], file: str, known: Read) -> Any:
    found = known.get((kind, data))
    if found is None:
        found = known[kind, data] = from_text(data, kind, file)
    return found


def _listed(
    files: Mapping[str, bytes], stems: object, folder: str, kind: type[Any], name: str, known: Read
) -> tuple[Any, ...]:
    if not isinstance(stems, list) or not all(isinstance(s, str) for s in stems):
        raise Trouble("should be a list of names", file=f"{name}/project.json", field=folder, do="correct it")
    listed = [f"{folder}/{stem}.json" for stem in stems]
    for path, stem in zip(listed, stems):
        if path not in files:
            raise Trouble(
                f"names {stem}, and {path} is not there",
                file=f"{name}/project.json",
                field=folder,
                do="bring the file back or take the name out of the list",
            )
    # A file that is there and in no list (a merge may bring one) is part of the project as well.
    extra = sorted(p for p in files if p.startswith(f"{folder}/") and p not in listed)
    out = [_read(files[p], kind, f"{name}/{p}", known) for p in [*listed, *extra]]
    seen: set[str] = set()
    for item, path in zip(out, [*listed, *extra]):
        if item.name in seen:
            raise Trouble(
                f"the name {item.name!r} stands twice",
                file=f"{name}/{path}",
                field="name",
                do="give one of the two another name",
            )
        seen.add(item.name)
    return tuple(out)


def check_change(before: Project, after: Project) -> None:
    """Raise ``Trouble`` for a change that a project cannot hold, so that nothing is made that could not be opened."""
    old = project_files(before)
    changed = {path: data for path, data in project_files(after).items() if old.get(path) != data}
    check_files(after, changed, "", before)


def check_files(project: Project, changed: Mapping[str, bytes], name: str, known: Project | None = None) -> None:
    """Raise ``Trouble`` when files that are to be written for a project could not be opened again.

    What it shares with a project that is ``known`` to be fine is not looked at again.
    """
    for path, data in changed.items():
        kinds: dict[str, type[Any]] = {
            **FOLDERS,
            "ground.json": Locomotion,
            "stage.json": Stage,
        }
        kind = kinds.get(path.split("/")[0], Project)
        if kind is Project:
            top = msgspec.json.decode(data)
            data = msgspec.json.encode({k: v for k, v in top.items() if k not in FOLDERS})
        from_text(data, kind, f"{name}/{path}" if name else path)
    check_bounds(project, name, lambda a: action_path(project, a), known)
