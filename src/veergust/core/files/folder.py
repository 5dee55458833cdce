"""The project folder in and out.

``NAME.veergust/`` holds ``project.json``, ``ground.json``, ``stage.json``, ``actions/*.json``, ``drills/*.json``
and ``clips/``. A save is a plan (``plan``), made by the one who holds the folder's lock (``lock``); reading changes
nothing and sees the old project or the new one, also while a save goes on. Files the program does not know, and
those somebody else put there, are left alone.
"""

from __future__ import annotations

import contextlib
import re
import sys
import time
from collections import OrderedDict
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path
from typing import Any

import msgspec

from veergust.core.files.beneath import Beneath, Missing, reference
from veergust.core.files.bounds import check_bounds
from veergust.core.files.lock import Lock
from veergust.core.files.migrate import check_version, migrate
from veergust.core.files.plan import COMMIT, SAVING, Unfinished, digest, finish, pending, stage
from veergust.core.files.text import bare, from_text, to_plain, to_text
from veergust.core.model import SCHEMA, Action, Drill, Ground, Project, Stage
from veergust.core.trouble import Trouble
from veergust.core.wording import listed

LONGEST_TEXT = 64 << 20
"""No JSON file of a project is longer (bytes)."""
MOST_FILES = 10_000
PATIENCE = 10.0
"""Seconds that reading waits for a moment between two saves, and a command for another to end."""
Known = Mapping[str, str]
"""The digests of a project's files as they were opened or last saved, by path in the folder."""


def slug(name: str) -> str:
    """A file name for a name: lower case, words joined by underscores."""
    return re.sub(r"[^a-z0-9]+", "_", name.lower()).strip("_") or "item"


def _stems(names: list[str]) -> list[str]:
    out: list[str] = []
    for name in names:
        stem, n = slug(name), 2
        while stem in out:
            stem, n = f"{slug(name)}_{n}", n + 1
        out.append(stem)
    return out


def _paths(project: Project) -> list[str]:
    return [f"actions/{stem}.json" for stem in _stems([a.name for a in project.actions])]


def action_path(project: Project, action: Action) -> str:
    """Where an action's file lies in the folder."""
    names = [a.name for a in project.actions]
    return f"actions/{_stems(names)[names.index(action.name)]}.json"


class _Texts:
    """Texts of parts of projects, by the identity of what they were made from; the ones used last, within bounds."""

    def __init__(self, most: int) -> None:
        self.most = most
        self.size = 0
        self.kept: OrderedDict[tuple[int, ...], tuple[tuple[object, ...], bytes]] = OrderedDict()

    def get(self, parts: tuple[object, ...], make: Callable[[], bytes]) -> bytes:
        """The text of something made of ``parts``; made once as long as they are the same, for an edit changes few."""
        key = tuple(map(id, parts))
        if key in self.kept:
            self.kept.move_to_end(key)
            return self.kept[key][1]
        text = make()
        self.kept[key] = parts, text  # what an identity stands for is kept with it
        self.size += len(text)
        while self.size > self.most and len(self.kept) > 1:
            _, (_, old) = self.kept.popitem(last=False)
            self.size -= len(old)
        return text


_TEXTS = _Texts(8 << 20)


def _part_text(part: object) -> bytes:
    return _TEXTS.get((part,), lambda: to_text(part))


def _top_text(project: Project) -> bytes:
    # What has files of its own is left out before it is turned into text, which is most of the work.
    head = msgspec.structs.replace(project, ground=Ground(), stage=Stage(), actions=(), drills=())
    names = [[a.name for a in project.actions], [d.name for d in project.drills]]
    parts = [getattr(head, f) for f in head.__struct_fields__ if f not in ("ground", "stage", "actions", "drills")]

    def make() -> bytes:
        top: dict[str, Any] = {"schema": SCHEMA, "name": project.name}
        top |= {"actions": _stems(names[0]), "drills": _stems(names[1])}
        top |= {k: v for k, v in to_plain(head).items() if k not in top}
        return to_text(top)

    return _TEXTS.get((*parts, *map(sys.intern, names[0]), None, *map(sys.intern, names[1])), make)


def project_files(project: Project) -> dict[str, bytes]:
    """Every JSON file of a project by its path in the folder; the same project gives the same bytes."""
    out = {
        "project.json": _top_text(project),
        "ground.json": _part_text(project.ground),
        "stage.json": _part_text(project.stage),
    }
    out |= {
        f"actions/{stem}.json": _part_text(a) for stem, a in zip(_stems(_names(project.actions)), project.actions)
    }
    out |= {f"drills/{stem}.json": _part_text(d) for stem, d in zip(_stems(_names(project.drills)), project.drills)}
    return out


def _names(rows: Sequence[Any]) -> list[str]:
    return [row.name for row in rows]


def project_from_files(files: dict[str, bytes], name: str) -> Project:
    """The project in files read from a folder called ``name``."""
    if "project.json" not in files:
        raise Trouble(
            "holds no project.json", file=name, do="open a folder that this program saved, or make a new one"
        )
    label = f"{name}/project.json"
    top = from_text(files["project.json"], dict[str, Any], label)
    decoded: dict[str, Any] = {"project.json": top}
    if top.get("schema", 1) != SCHEMA:
        check_version(top.get("schema", 1), label)
        decoded |= {p: from_text(d, dict[str, Any], f"{name}/{p}") for p, d in files.items() if p != "project.json"}
        decoded = migrate(decoded, top.get("schema", 1), label)
        files = {p: msgspec.json.encode(v) for p, v in decoded.items()}
        top = decoded["project.json"]
    actions = _listed(files, top.pop("actions", []), "actions", Action, name)
    drills = _listed(files, top.pop("drills", []), "drills", Drill, name)
    ground = from_text(files["ground.json"], Ground, f"{name}/ground.json") if "ground.json" in files else Ground()
    stage = from_text(files["stage.json"], Stage, f"{name}/stage.json") if "stage.json" in files else Stage()
    project = from_text(msgspec.json.encode(top), Project, label)
    return msgspec.structs.replace(project, ground=ground, stage=stage, actions=actions, drills=drills)


def _listed(files: dict[str, bytes], stems: object, folder: str, kind: type[Any], name: str) -> tuple[Any, ...]:
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
    out = [from_text(files[p], kind, f"{name}/{p}") for p in [*listed, *extra]]
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


def read_folder(folder: Path) -> dict[str, bytes]:
    """The JSON files of a project folder, all of one state: the old one or the new one while a save goes on.

    Changes nothing. Raises ``Trouble``.
    """
    if not folder.is_dir():
        raise Trouble("is not a project folder", file=str(folder), do="give the path of a .veergust folder")
    end = time.monotonic() + PATIENCE
    with Beneath(folder) as place:
        while True:
            found = _read_once(place)
            if found is not None:
                return found
            if time.monotonic() > end:
                raise Trouble("is being saved all the time", file=folder.name, do="wait a little and try again")
            time.sleep(0.002)


def _read_once(place: Beneath) -> dict[str, bytes] | None:
    """The files, or None when somebody wrote while they were read."""
    before = _stamps(place)
    try:
        plan = pending(place)
    except Trouble:
        plan = None  # left as it is: it counts for nothing
    try:
        files = {name: place.read(name, most=LONGEST_TEXT) for name in before if name != SAVING}
        for name, change in (plan.files if plan is not None else {}).items():
            if not name.endswith(".json"):
                continue
            if change.brings is None:
                files.pop(name, None)
            elif name not in files or digest(files[name]) != change.brings:
                files[name] = place.read(f"{SAVING}/{name}", most=LONGEST_TEXT)
    except Missing:
        return None
    return files if _stamps(place) == before else None


def _stamps(place: Beneath) -> dict[str, object]:
    """What tells one state of the folder from another without reading it."""
    names = ["project.json", "ground.json", "stage.json"]
    names += [*place.listed("actions", ".json"), *place.listed("drills", ".json")]
    if len(names) > MOST_FILES:
        raise Trouble(f"holds more than {MOST_FILES} files", file=place.name, do="split the project")
    out: dict[str, object] = {name: place.stamp(name) for name in names if place.kind(name)}
    with contextlib.suppress(Trouble):  # a list behind a link counts for nothing
        out[SAVING] = place.stamp(COMMIT)
    return out


def digests(files: Mapping[str, bytes]) -> dict[str, str]:
    """The digest of each file."""
    return {name: digest(data) for name, data in files.items()}


def unfinished(folder: Path) -> str:
    """What is to be said of an unfinished save in the folder that is left as it is; nothing when all is well."""
    try:
        with Beneath(folder) as place:
            pending(place)
    except Trouble as trouble:
        return str(trouble)
    return ""


def open_project(folder: Path) -> Project:
    """Read a project folder. Raises ``Trouble`` naming file and field; nothing is changed."""
    return project_of(read_folder(folder), folder)


def project_of(files: dict[str, bytes], folder: Path) -> Project:
    """The project in files read from ``folder``, with its numbers and references checked. Raises ``Trouble``."""
    project = project_from_files(files, folder.name)
    check_bounds(project, folder.name, dict(zip((a.name for a in project.actions), _paths(project))))
    with Beneath(folder) as place:
        for field, file in named_files(project):
            place.stamp(reference(file, file=f"{folder.name}/project.json", field=field))
    return project


def check_change(before: Project, after: Project) -> None:
    """Raise ``Trouble`` for a change that a project cannot hold, so that nothing is made that could not be opened."""
    old = project_files(before)
    for path, data in project_files(after).items():
        if old.get(path) == data:
            continue
        kinds: dict[str, type[Any]] = {"actions": Action, "drills": Drill, "ground.json": Ground, "stage.json": Stage}
        kind = kinds.get(path.split("/")[0], Project)
        if kind is Project:
            top = msgspec.json.decode(data)
            data = msgspec.json.encode({k: v for k, v in top.items() if k not in ("actions", "drills")})
        from_text(data, kind, path)
    check_bounds(after, "", dict(zip(_names(after.actions), _paths(after))))


def named_files(project: Project) -> list[tuple[str, str]]:
    """Field and path of every file that a project names."""
    rows = [(f"clips[{i}].file", clip.file) for i, clip in enumerate(project.clips) if clip.file]
    rows += [("rig.figure", project.rig.figure)] if project.rig.figure else []
    return rows + [(f"rig.props[{i}].file", prop.file) for i, prop in enumerate(project.rig.props)]


class Changed(Trouble):
    """Files that are to be written are not the ones that were opened any more."""

    def __init__(self, folder: Path, names: list[str]) -> None:
        super().__init__(
            f"{listed(names)} changed on disk since it was opened",
            file=folder.name,
            do="try again",
        )
        self.names = names


def save_project(
    project: Project,
    folder: Path,
    *,
    clips_from: Path | None = None,
    known: Known | None = None,
    lock: Lock | None = None,
    also: Mapping[str, bytes] | None = None,
) -> dict[str, str]:
    """Save into ``folder``, whole or not at all, and give the digests of its files as they are then.

    ``clips_from`` is the folder whose clips come along, ``also`` are other files that come with the project.
    ``known`` are the digests as it was opened: a file that was changed since by somebody else is not overwritten
    (``Changed``), and only files known are ever removed. Without ``lock`` the folder is locked meanwhile.
    """
    files = {**project_files(project), **(also or {})}
    with _ready(folder, clips_from, project) as more:
        files |= more
        with contextlib.ExitStack() as held:
            if lock is None:
                held.enter_context(Lock(folder, "command", PATIENCE))
            place = held.enter_context(Beneath(folder))
            finish(place)
            _write(place, folder, files, known)
    return digests(project_files(project))


def add_files(folder: Path, files: Mapping[str, bytes], *, lock: Lock | None = None) -> None:
    """Put files beside a project, such as clips, all or none. Without ``lock`` the folder is locked meanwhile."""
    try:
        with contextlib.ExitStack() as held:
            if lock is None:
                held.enter_context(Lock(folder, "command", PATIENCE))
            place = held.enter_context(Beneath(folder))
            finish(place)
            stage(place, dict(files), (), {name: _digest_there(place, name) for name in files})
            finish(place)
    except OSError as error:
        raise _unwritten(folder, error) from error


@contextlib.contextmanager
def _ready(folder: Path, clips_from: Path | None, project: Project) -> Any:
    """The folder made if it is not there, and what comes along; when it fails nothing that was made is left."""
    try:
        along = _along(project, folder, clips_from)
        made = _make(folder)
        try:
            yield along
        except BaseException as error:
            if not isinstance(error, Unfinished):
                for step in made:
                    with contextlib.suppress(OSError):
                        step.rmdir()
            raise
    except OSError as error:
        raise _unwritten(folder, error) from error


def _make(folder: Path) -> list[Path]:
    """Make a folder and those above it; gives the ones that were made, the lowest first."""
    made = []
    for step in (folder, *folder.parents):
        if step.exists():
            break
        made.append(step)
    folder.mkdir(parents=True, exist_ok=True)
    return made


def _along(project: Project, folder: Path, clips_from: Path | None) -> dict[str, bytes]:
    if clips_from is None or clips_from.resolve() == folder.resolve():
        return {}
    out = {}
    with Beneath(clips_from) as source:
        for name in dict.fromkeys(n for _, n in named_files(project)):
            with contextlib.suppress(Missing):
                out[name] = source.read(name)
        for name in source.listed("sounds", ".wav"):
            out[name] = source.read(name)
    return out


def _write(place: Beneath, folder: Path, files: dict[str, bytes], known: Known | None) -> None:
    there = {name: _digest_there(place, name) for name in files}
    write = {name: data for name, data in files.items() if there[name] != digest(data)}
    gone = [n for n in (_listed_there(place) if known is None else known) if n not in files]
    there |= {name: _digest_there(place, name) for name in gone}
    if known is not None:
        foreign = [n for n in [*write, *gone] if n.endswith(".json") and there[n] not in (known.get(n), None)]
        if foreign:
            raise Changed(folder, sorted(foreign))
    stage(place, write, [n for n in gone if there[n] is not None], there)
    finish(place)


def _digest_there(place: Beneath, name: str) -> str | None:
    try:
        return digest(place.read(name))
    except Missing:
        return None
    except Trouble:
        if place.kind(name) in ("folder", "other"):
            raise Trouble(
                "is no ordinary file, and one is to be written there", file=f"{place.name}/{name}", do="move it away"
            ) from None
        raise


def _listed_there(place: Beneath) -> list[str]:
    """The actions and drills that the project in a folder names as its own."""
    try:
        top = msgspec.json.decode(bare(place.read("project.json", most=LONGEST_TEXT)))
        rows = [(kind, stem) for kind in ("actions", "drills") for stem in top.get(kind, [])]
    except (Trouble, msgspec.DecodeError, UnicodeDecodeError, RecursionError, AttributeError, TypeError):
        return []
    return [f"{kind}/{stem}.json" for kind, stem in rows if isinstance(stem, str)]


def _unwritten(folder: Path, error: OSError) -> Trouble:
    return Trouble(
        f"cannot be written ({error.strerror or error})",
        file=str(folder),
        do="check the disk and the rights, or save somewhere else",
    )
