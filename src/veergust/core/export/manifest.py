"""The manifest of an export: what it is of, in which axes and units, which files it owns, and what is which."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping

import msgspec
import numpy as np

from veergust.core.export.axes import Axes, Hand, Unit, Up
from veergust.core.export.documents import answers
from veergust.core.export.plain import numbers
from veergust.core.files import digest, reference
from veergust.core.kinds import identity
from veergust.core.model import Project
from veergust.core.trouble import Trouble

FORMAT = 1
MANIFEST = "manifest.json"
_OURS = re.compile(
    r"(manifest|actions|clips|ground|layers|commands|figure|sheets|stage|reactions)\.json|ground\.scxml"
    r"|schemas/[a-z]+\.schema\.json|(clips|actions|ground)/[a-z0-9_]+\.glb|sheets/[0-9]+_[a-z0-9_]+\.png"
)
_KEPT = re.compile(r"(.+)\.changed(_\d+)?")


class OwnedFile(msgspec.Struct, frozen=True):
    """A file that the export owns."""

    path: str
    sha256: str
    bytes: int


class AxesOut(msgspec.Struct, frozen=True):
    """Axes and units: which way is up and ahead, and from our directions to these."""

    up: Up
    hand: Hand
    unit: Unit
    ahead: list[float]
    left: list[float]
    upward: list[float]


class WhatIsWhich(msgspec.Struct, frozen=True):
    """What is which: an identity that outlives its name, and what it is called now."""

    identity: str
    name: str
    of: str = ""
    """Of a section, the identity of its action."""


class Identities(msgspec.Struct, frozen=True):
    """All that has one."""

    actions: list[WhatIsWhich]
    sections: list[WhatIsWhich]
    clips: list[WhatIsWhich]
    reactions: list[WhatIsWhich]


class Manifest(msgspec.Struct, frozen=True):
    """The manifest."""

    format: int
    program: str
    project: str
    rate: int
    axes: AxesOut
    files: list[OwnedFile]
    identities: Identities

    @property
    def owned(self) -> dict[str, str]:
        """The digest of each file by its path."""
        return {file.path: file.sha256 for file in self.files}


def is_exported(name: str) -> bool:
    """Whether a name is one that a file of an export may have."""
    kept = _KEPT.fullmatch(name)
    name = kept[1] if kept is not None else name
    try:
        return reference(name, file="", field="") == name and _OURS.fullmatch(name) is not None
    except Trouble:
        return False


def make_manifest(
    project: Project, axes: Axes, files: Mapping[str, bytes], version: str, mark: Callable[[bytes], str] = digest
) -> Manifest:
    """The manifest of an export with these files, and the mark of each."""
    left, up, ahead = (numbers(axes.directions(np.eye(3)[n])) for n in range(3))
    sections = [WhatIsWhich(identity(s), s.name, identity(a)) for a in project.actions for s in a.sections]
    return Manifest(
        format=FORMAT,
        program=f"veergust {version}",
        project=project.name,
        rate=project.settings.rate,
        axes=AxesOut(axes.up, axes.hand, axes.unit, ahead, left, up),
        files=[OwnedFile(path, mark(data), len(data)) for path, data in sorted(files.items())],
        identities=Identities(
            actions=[WhatIsWhich(identity(a), a.name) for a in project.actions],
            sections=sections,
            clips=[WhatIsWhich(identity(c), c.name) for c in project.clips],
            reactions=[WhatIsWhich(answers(r), r.action) for r in project.reactions],
        ),
    )


def read_manifest(data: bytes, folder: str) -> Manifest:
    """A manifest that is there. Raises ``Trouble`` for one that is none, or that names what an export cannot own."""
    where = f"{folder}/{MANIFEST}"
    try:
        made = msgspec.json.decode(data, type=Manifest)
    except (msgspec.MsgspecError, UnicodeDecodeError, RecursionError) as error:
        raise Trouble("is no manifest of an export", file=where, do="move it away, or export elsewhere") from error
    if made.format != FORMAT:
        raise Trouble(
            f"is of format {made.format}, and this program writes {FORMAT}", file=where, do="export elsewhere"
        )
    for file in made.files:
        if not is_exported(file.path):
            raise Trouble(
                f"names {file.path[:80]!r}, which no export owns", file=where, do="take it out, or export elsewhere"
            )
    return made
