"""An export on the disk: only what the manifest owns is touched, and all of it is old or new."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from importlib.metadata import version
from pathlib import Path
from typing import Any

import msgspec

from veergust.core.export.axes import Axes
from veergust.core.export.documents import Made, documents, to_json
from veergust.core.export.manifest import MANIFEST, Manifest, is_exported, make_manifest, read_manifest
from veergust.core.export.schemas import schemas
from veergust.core.files import Beneath, Missing, digest, digest_of, finish, stage
from veergust.core.play import CompiledProject
from veergust.core.trouble import Trouble


@dataclass
class Exported:
    """What became of the files of an export, by their paths."""

    written: list[str] = field(default_factory=list)
    unchanged: list[str] = field(default_factory=list)
    removed: list[str] = field(default_factory=list)
    left_alone: list[str] = field(default_factory=list)
    """What was changed by hand: kept beside what took its place, or left where nothing does."""


def export(
    build: CompiledProject,
    folder: Path,
    axes: Axes | None = None,
    only: Iterable[str] | None = None,
    *,
    mesh: bool = True,
    told: Callable[[str], object] = lambda _: None,
    look: bool = False,
) -> Exported:
    """Write a project for the game into a folder, or only ``look`` what would be written.

    In which axes (None: as the export that is there, else ours); with ``only``, these actions anew, and all else as it
    is there.

    Raises:
        Trouble: the folder is a project, has something else under the name of a file, or cannot be written.
        Unknown: there is no action of a name.
    """
    if (folder / "project.json").exists():
        raise Trouble("is a project, and an export goes elsewhere", file=str(folder), do="give another folder")
    try:
        if look and not folder.exists():
            files = documents(build, axes or Axes(), only, mesh=mesh, told=told) | schemas(
                bool(build.project.rig.sheets)
            )
            return Exported(written=list(files))
        folder.mkdir(parents=True, exist_ok=True)
        with Beneath(folder) as place:
            return _export(build, place, axes, only, mesh, told, look)
    except OSError as error:
        raise Trouble(
            f"cannot be written ({error.strerror or error})", file=str(folder), do="check the disk and the rights"
        ) from error


def _export(
    build: CompiledProject,
    place: Beneath,
    axes: Axes | None,
    only: Iterable[str] | None,
    mesh: bool,
    told: Callable[[str], object],
    look: bool,
) -> Exported:
    if not look:
        finish(place, ours=is_exported)  # one that was cut off is brought to its end first
    there = _there(place)
    if axes is None:
        axes = Axes(there.axes.up, there.axes.hand, there.axes.unit) if there is not None else Axes()
    files = documents(build, axes, only, mesh=mesh, told=told)
    if only is not None:
        if there is None:
            raise Trouble("has no export yet to put single actions into", file=place.name, do="leave --only out once")
        if (there.axes.up, there.axes.hand, there.axes.unit) != (axes.up, axes.hand, axes.unit):
            raise Trouble("has an export in other axes", file=place.name, do="leave --only out, or the axes")
        files = _into(place, there, files)
    files |= schemas(bool(build.project.rig.sheets))
    out, owned = Exported(), there.owned if there is not None else {}
    write, replaced = _new(place, files, owned, out)
    gone = _gone(place, sorted(set(owned) - set(files)), owned, out)
    replaced |= {path: owned[path] for path in gone}
    if look:
        return out
    manifest = to_json(make_manifest(build.project, axes, files, version("veergust")))
    now = digest_of(place, MANIFEST)
    if now != digest(manifest):
        write[MANIFEST], replaced[MANIFEST] = manifest, now
    told("on the disk")
    stage(place, write, gone, replaced, ours=is_exported)
    finish(place, ours=is_exported)
    return out


def _new(place: Beneath, files: Made, owned: dict[str, str], out: Exported) -> tuple[Made, dict[str, str | None]]:
    """What is to be written, and the digests of what it replaces. Raises ``Trouble`` for what is no export's."""
    write: Made = {}
    replaced: dict[str, str | None] = {}
    for path, data in files.items():
        now = digest_of(place, path)
        if now == digest(data):
            out.unchanged.append(path)
            continue
        if now is not None and path not in owned:
            where = f"{place.name}/{path}"
            raise Trouble("is there, and no export's", file=where, do="move it away, or export elsewhere")
        if now is not None and now != owned[path]:
            kept = _aside(place, path)
            write[kept], replaced[kept] = place.read(path, links=False), None
            out.left_alone.append(kept)
        write[path], replaced[path] = data, now
        out.written.append(path)
    return write, replaced


def _gone(place: Beneath, paths: Iterable[str], owned: dict[str, str], out: Exported) -> list[str]:
    """What is no longer part of the export and is as it wrote it."""
    gone = []
    for path in paths:
        now = digest_of(place, path)
        if now is not None and now == owned[path]:
            gone.append(path)
            out.removed.append(path)
        elif now is not None:
            out.left_alone.append(path)
    return gone


def _there(place: Beneath) -> Manifest | None:
    try:
        return read_manifest(place.read(MANIFEST, links=False), place.name)
    except Missing:
        return None


def _into(place: Beneath, there: Manifest, files: Made) -> Made:
    """The files of an export that is there with some actions anew."""
    out: Made = {}
    for path in there.owned:
        try:
            out[path] = place.read(path, links=False)
        except Missing:
            continue
    fresh: dict[str, Any] = msgspec.json.decode(files["actions.json"])
    try:
        old: dict[str, Any] = msgspec.json.decode(out.get("actions.json", b'{"actions": []}'))
        made = {a["identity"]: a for a in fresh["actions"]}
        rows = [made.pop(a["identity"], a) for a in old["actions"]]
    except (msgspec.MsgspecError, TypeError, KeyError) as error:
        raise Trouble("is none of an export", file=f"{place.name}/actions.json", do="leave --only out once") from error
    fresh["actions"] = [*rows, *made.values()]
    return out | files | {"actions.json": to_json(fresh)}


def _aside(place: Beneath, path: str) -> str:
    """A free name beside a file that somebody changed."""
    name, n = f"{path}.changed", 2
    while place.kind(name):
        name, n = f"{path}.changed_{n}", n + 1
    return name
