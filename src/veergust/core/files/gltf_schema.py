"""What is read of a glTF 2.0 file's JSON, as types; what they say is checked where it is decoded, and the rest of the
file is not looked at."""

from __future__ import annotations

import json
import re
from typing import Annotated, Any, Literal

import msgspec
from msgspec import Meta

from veergust.core.files.motion_file import AGAIN, LARGEST
from veergust.core.files.text import worded
from veergust.core.trouble import Trouble

Count = Annotated[int, Meta(ge=0)]
Number = Annotated[float, Meta(ge=-LARGEST, le=LARGEST)]
Three = tuple[Number, Number, Number]
Four = tuple[Number, Number, Number, Number]
Sixteen = tuple[
    Number, Number, Number, Number, Number, Number, Number, Number,
    Number, Number, Number, Number, Number, Number, Number, Number,
]  # fmt: skip
NUMBERS = {"matrix": 16, "rotation": 4, "translation": 3, "scale": 3}


class Entry(msgspec.Struct, frozen=True, rename="camel"):
    """An object of the file; fields that are not named are left out."""


class Node(Entry, frozen=True):
    """A node: what is below it, what hangs on it, and where it stands, by a matrix (column by column) or its parts."""

    name: Any = None
    children: tuple[Count, ...] = ()
    mesh: int | None = None
    skin: int | None = None
    camera: Any = None
    matrix: Sixteen | None = None
    rotation: Four | None = None
    translation: Three | None = None
    scale: Three | None = None


class Packed(Entry, frozen=True):
    """Numbers in a view of a buffer; ``component_type`` is a constant of the standard's."""

    component_type: int = 0
    buffer_view: int | None = None
    byte_offset: Count = 0


class Sparse(Entry, frozen=True):
    """Some values of an accessor that are put over the others."""

    indices: Packed
    values: Packed
    count: Count = 0


class Accessor(Packed, frozen=True):
    """A list of numbers, of ``count`` rows."""

    type: str = ""
    count: Count = 0
    normalized: bool = False
    sparse: Sparse | None = None


class BufferView(Entry, frozen=True):
    """A stretch of a buffer."""

    buffer: int | None = None
    byte_offset: Count = 0
    byte_length: Count = 0
    byte_stride: Count = 0


class Buffer(Entry, frozen=True):
    """Bytes: those that come with the file, in its text, or in a file beside it."""

    byte_length: Count = 0
    uri: str | None = None


class Image(Entry, frozen=True):
    """A picture, in a file beside it where it has an ``uri``."""

    uri: str | None = None


class Skin(Entry, frozen=True):
    """The joints a mesh is bound to."""

    joints: Annotated[tuple[int, ...], Meta(min_length=1)]
    inverse_bind_matrices: int | None = None


class Sampler(Entry, frozen=True):
    """Keys: the accessors of their times and values."""

    input: int | None = None
    output: int | None = None
    interpolation: Literal["STEP", "LINEAR", "CUBICSPLINE"] = "LINEAR"


class Target(Entry, frozen=True):
    """What keys move: ``path`` of a node."""

    path: str = ""
    node: int | None = None


class Channel(Entry, frozen=True):
    """Keys, and what they move."""

    target: Target
    sampler: int | None = None


class Animation(Entry, frozen=True):
    """An animation."""

    samplers: tuple[Sampler, ...]
    channels: tuple[Channel, ...]
    name: Any = None


class Primitive(Entry, frozen=True):
    """A part of a mesh; ``mode`` 4 is triangles."""

    attributes: dict[str, int] = {}
    indices: int | None = None
    mode: int = 4
    targets: tuple[Any, ...] = ()


class MeshEntry(Entry, frozen=True):
    """A mesh."""

    primitives: tuple[Primitive, ...] = ()


class Gltf(Entry, frozen=True):
    """A file."""

    asset: dict[str, Any]
    extensions_required: tuple[str, ...] = ()
    nodes: tuple[Node, ...] = ()
    meshes: tuple[MeshEntry, ...] = ()
    skins: tuple[Skin, ...] = ()
    animations: tuple[Animation, ...] = ()
    accessors: tuple[Accessor, ...] = ()
    buffer_views: tuple[BufferView, ...] = ()
    buffers: tuple[Buffer, ...] = ()
    images: tuple[Image, ...] = ()


def decode(text: bytes, file: str) -> Gltf:
    """The file's JSON. Raises ``Trouble`` naming ``file`` and the field."""
    try:
        try:
            return msgspec.json.decode(text, type=Gltf)
        except msgspec.ValidationError:
            raise
        except msgspec.DecodeError:
            # Halves of signs in names, and numbers that are none, are met, and are not JSON.
            return msgspec.convert(json.loads(text), Gltf)
    except msgspec.ValidationError as error:
        raise _trouble(str(error), file) from error
    except (ValueError, RecursionError) as error:
        raise Trouble("is not glTF: its JSON does not parse", file=file, do=AGAIN) from error


def _trouble(error: str, file: str) -> Trouble:
    says, _, where = error.partition(" - at `")
    field = where.rstrip("`").removeprefix("$.").removeprefix("$")
    if field in ("", "asset"):
        return Trouble("is not glTF: it has no asset entry", file=file, field="asset", do=AGAIN)
    numbers = re.fullmatch(rf"(.*\.({'|'.join(NUMBERS)}))(\[\d+\])?", field)
    if numbers is not None:
        out = "=" in says or "range" in says
        says = "holds a value that is no length, turn or size" if out else f"should be {NUMBERS[numbers[2]]} numbers"
        return Trouble(says, file=file, field=numbers[1], do=AGAIN)
    return Trouble(worded(says), file=file, field=field, do=AGAIN)
