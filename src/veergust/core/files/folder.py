"""The project folder in and out.

``NAME.veergust/`` holds ``project.json``, ``ground.json``, ``stage.json``, ``actions/*.json``, ``drills/*.json``
and ``clips/``. A save writes every changed file into ``.saving/``, then a list of them, then renames them into
place; whoever opens the folder next finishes what a crash left behind. So it is always the old project or the
new one. Files the program does not know are left alone.
"""

from __future__ import annotations

import contextlib
import json
import os
import re
import shutil
from functools import lru_cache
from pathlib import Path
from typing import Any

import msgspec

from veergust.core.files.bounds import check_bounds, check_numbers
from veergust.core.files.inside import inside
from veergust.core.files.migrate import migrate
from veergust.core.files.text import from_text, to_plain, to_text
from veergust.core.model import SCHEMA, Action, Drill, Ground, Project, Stage
from veergust.core.trouble import Trouble

SAVING = ".saving"
COMMIT = "commit.json"


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


@lru_cache(maxsize=2048)
def _action_text(action: Action) -> bytes:
    """An action's file; kept, since an edit changes one action of many."""
    return to_text(action)


def project_files(project: Project) -> dict[str, bytes]:
    """Every JSON file of a project by its path in the folder; the same project gives the same bytes."""
    # What has files of its own is left out before it is turned into text, which is most of the work.
    head = to_plain(msgspec.structs.replace(project, ground=Ground(), stage=Stage(), actions=(), drills=()))
    actions = _stems([a.name for a in project.actions])
    drills = _stems([d.name for d in project.drills])
    top: dict[str, Any] = {"schema": SCHEMA, "name": project.name, "actions": actions, "drills": drills}
    top |= {k: v for k, v in head.items() if k not in top}
    out = {
        "project.json": to_text(top),
        "ground.json": to_text(project.ground),
        "stage.json": to_text(project.stage),
    }
    out |= {f"actions/{stem}.json": _action_text(a) for stem, a in zip(actions, project.actions)}
    out |= {f"drills/{stem}.json": to_text(d) for stem, d in zip(drills, project.drills)}
    return out


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
        decoded |= {p: json.loads(d) for p, d in files.items() if p != "project.json"}
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
    """The JSON files of a project folder, after finishing a save that was cut off."""
    if not folder.is_dir():
        raise Trouble("is not a project folder", file=str(folder), do="give the path of a .veergust folder")
    with contextlib.suppress(PermissionError):  # a folder that can only be read is read as it is
        finish_save(folder)
    out: dict[str, bytes] = {}
    patterns = ("project.json", "ground.json", "stage.json", "actions/*.json", "drills/*.json")
    for path in sorted(p for pattern in patterns for p in folder.glob(pattern)):
        inside(str(path.relative_to(folder)), folder, file=folder.name, field=path.name)
        try:
            out[path.relative_to(folder).as_posix()] = path.read_bytes()
        except OSError as error:
            raise Trouble(
                f"cannot be read ({error.strerror})", file=f"{folder.name}/{path.name}", do="check its rights"
            ) from error
    return out


def open_project(folder: Path) -> Project:
    """Read a project folder. Raises ``Trouble`` naming file and field; nothing is changed then."""
    files = read_folder(folder)
    project = project_from_files(files, folder.name)
    check_numbers(files, folder.name)
    check_bounds(project, folder.name, dict(zip((a.name for a in project.actions), _paths(project))))
    for i, clip in enumerate(project.clips):
        if not clip.file:
            continue  # a rough clip lies in the project itself
        inside(clip.file, folder, file=f"{folder.name}/project.json", field=f"clips[{i}].file")
    if project.rig.figure:
        inside(project.rig.figure, folder, file=f"{folder.name}/project.json", field="rig.figure")
    for i, prop in enumerate(project.rig.props):
        inside(prop.file, folder, file=f"{folder.name}/project.json", field=f"rig.props[{i}].file")
    return project


def save_project(project: Project, folder: Path, *, clips_from: Path | None = None) -> None:
    """Save into ``folder``, whole or not at all. ``clips_from`` is the folder whose clips come along."""
    files = project_files(project)
    if clips_from is not None and clips_from.resolve() != folder.resolve():
        named = {c.file for c in project.clips} | {project.rig.figure} | {p.file for p in project.rig.props}
        for name in named - {""}:
            source = inside(name, clips_from, file=clips_from.name, field="clips")
            if source.is_file():
                files[name] = source.read_bytes()
        for sound in (clips_from / "sounds").glob("*.wav"):
            files[f"sounds/{sound.name}"] = sound.read_bytes()
    try:
        folder.mkdir(parents=True, exist_ok=True)
        finish_save(folder)
        old = {
            p.relative_to(folder).as_posix() for kind in ("actions", "drills") for p in folder.glob(f"{kind}/*.json")
        }
        write = {
            path: data
            for path, data in files.items()
            if not (folder / path).is_file() or (folder / path).read_bytes() != data
        }
        stage_save(folder, write, sorted(old - set(files)))
        finish_save(folder)
    except OSError as error:
        raise Trouble(
            f"cannot be written ({error.strerror or error})",
            file=str(folder),
            do="check the disk and the rights, or save somewhere else",
        ) from error


def stage_save(folder: Path, write: dict[str, bytes], remove: list[str]) -> None:
    """Put new contents beside the old ones, and last of all the list that makes them count."""
    saving = folder / SAVING
    shutil.rmtree(saving, ignore_errors=True)
    if not write and not remove:
        return
    for path, data in write.items():
        target = saving / path
        target.parent.mkdir(parents=True, exist_ok=True)
        with target.open("wb") as out:
            out.write(data)
            out.flush()
            os.fsync(out.fileno())
    plan = msgspec.json.encode({"write": sorted(write), "remove": remove})
    draft = saving / "commit.draft"
    saving.mkdir(exist_ok=True)
    with draft.open("wb") as out:
        out.write(plan)
        out.flush()
        os.fsync(out.fileno())
    os.rename(draft, saving / COMMIT)


def finish_save(folder: Path) -> None:
    """Finish a save whose list is complete; forget one whose list is not."""
    saving = folder / SAVING
    if not saving.is_dir():
        return
    commit = saving / COMMIT
    if commit.is_file():
        plan = msgspec.json.decode(commit.read_bytes())
        for path in plan["write"]:
            source = inside(path, saving, file=folder.name, field=SAVING)
            if source.is_file():
                target = inside(path, folder, file=folder.name, field=SAVING)
                target.parent.mkdir(parents=True, exist_ok=True)
                os.replace(source, target)
        for path in plan["remove"]:
            inside(path, folder, file=folder.name, field=SAVING).unlink(missing_ok=True)
    shutil.rmtree(saving, ignore_errors=True)
