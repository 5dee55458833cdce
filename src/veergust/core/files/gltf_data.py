"""The raw side of glTF 2.0: opening a file, finding its buffers, and reading accessors as arrays.

Every number a file states about itself is checked against what the file holds before it is used.
"""

from __future__ import annotations

import base64
import binascii
import contextlib
import struct
from collections.abc import Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, TypeVar
from urllib.parse import unquote

import numpy as np
from numpy.typing import NDArray

from veergust.core.files.beneath import MOST_BYTES, Missing, reference
from veergust.core.files.fetch import fetch
from veergust.core.files.gltf_schema import Buffer, Gltf, Packed, Sparse, decode
from veergust.core.files.motion_file import AGAIN, LARGEST
from veergust.core.trouble import Trouble

T = TypeVar("T")
COMPONENTS = {
    n: np.dtype(t) for n, t in ((5120, "i1"), (5121, "u1"), (5122, "<i2"), (5123, "<u2"), (5125, "<u4"), (5126, "<f4"))
}
COUNTING = (5121, 5123, 5125)
WIDTHS = {"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4, "MAT4": 16}
REQUIRED_KNOWN = {"KHR_mesh_quantization"}


def said_name(value: object) -> str:
    """A name as a file gives it; halves of signs that mean nothing alone become marks. Nothing when it has none."""
    return value.encode("utf-16", "surrogatepass").decode("utf-16", "replace") if isinstance(value, str) else ""


@dataclass(frozen=True, eq=False)
class GltfDocument:
    """A glTF file: its name for messages, what it says, and its buffers as bytes."""

    file: str
    content: Gltf
    buffers: tuple[bytes, ...]
    times: dict[int, NDArray[np.float64]] = field(default_factory=dict)
    """Times of keys that were looked at, by accessor."""

    def trouble(self, field: str, says: str, do: str = AGAIN) -> Trouble:
        """A ``Trouble`` in this file."""
        return Trouble(says, file=self.file, field=field, do=do)

    def item(self, rows: Sequence[T], key: str, index: int | None, field: str) -> T:
        """Entry ``index`` of a list of the file's, called ``key``, as ``field`` refers to it."""
        if index is None or not 0 <= index < len(rows):
            raise self.trouble(field, f"refers to {key}[{index}], which the file does not have")
        return rows[index]

    def parents(self) -> dict[int, int]:
        """The node over each node that has one. Raises ``Trouble`` when it has two."""
        nodes = self.content.nodes
        parent: dict[int, int] = {}
        for i, node in enumerate(nodes):
            for child in node.children:
                if child >= len(nodes):
                    raise self.trouble(f"nodes[{i}].children", "refers to nodes the file does not have")
                if child in parent:
                    raise self.trouble(f"nodes[{child}]", "has two parents")
                parent[child] = i
        return parent

    def accessor(self, index: int | None, field: str) -> NDArray[Any]:
        """Accessor values ``[count, width]``; integers flagged normalized become floats; all finite."""
        entry = self.item(self.content.accessors, "accessors", index, field)
        where = f"accessors[{index}]"
        dtype, width = COMPONENTS.get(entry.component_type), WIDTHS.get(entry.type)
        if dtype is None or width is None:
            raise self.trouble(where, "has an unknown component type or shape")
        if entry.buffer_view is not None:
            values = self._strided(entry, dtype, width, entry.count, where)
        elif entry.count * width * dtype.itemsize > 1 << 26:
            raise self.trouble(where, f"asks for {entry.count} values that the file does not hold")
        else:
            values = np.zeros((entry.count, width), dtype)
        if entry.sparse is not None:
            values = self._sparse(values, entry.sparse, dtype, width, f"{where}.sparse")
        if dtype.kind == "f":
            if values.size and not np.abs(values).max() <= LARGEST:
                raise self._no_number(values, field)
            return values
        return np.maximum(values.astype(np.float32) / np.iinfo(dtype).max, -1.0) if entry.normalized else values

    def _no_number(self, values: NDArray[Any], field: str) -> Trouble:
        finite = np.isfinite(values).all(axis=1)
        if not finite.all():
            return self.trouble(field, f"key {int(np.argmin(finite))} is not a number (NaN or infinite)")
        bad = int(np.argmin((np.abs(values) <= LARGEST).all(axis=1)))
        return self.trouble(field, f"key {bad} is no length, turn or size: {float(np.abs(values[bad]).max()):g}")

    def _strided(self, at: Packed, dtype: np.dtype[Any], width: int, count: int, where: str) -> NDArray[Any]:
        """Rows of numbers in a view, copied."""
        field = f"{where}.bufferView"
        view = self.item(self.content.buffer_views, "bufferViews", at.buffer_view, field)
        named = f"bufferViews[{at.buffer_view}]"
        data = self.item(self.buffers, "buffers", view.buffer, f"{named}.buffer")
        end = view.byte_offset + view.byte_length
        if end > len(data):
            raise self.trouble(named, f"claims bytes {view.byte_offset} to {end} of a buffer that holds {len(data)}")
        size = dtype.itemsize * width
        stride = view.byte_stride or size
        need = at.byte_offset + (stride * (count - 1) + size if count else 0)
        if need > view.byte_length or stride < size:
            raise self.trouble(where, f"claims {need} bytes of a view that holds {view.byte_length}")
        start = view.byte_offset + at.byte_offset
        return np.ndarray((count, width), dtype, data, start, (stride, dtype.itemsize)).copy()

    def _sparse(
        self, values: NDArray[Any], sparse: Sparse, dtype: np.dtype[Any], width: int, field: str
    ) -> NDArray[Any]:
        if sparse.indices.component_type not in COUNTING:
            raise self.trouble(f"{field}.indices", "has a component type that cannot count")
        kind = COMPONENTS[sparse.indices.component_type]
        at = self._strided(sparse.indices, kind, 1, sparse.count, field)[:, 0]
        put = self._strided(sparse.values, dtype, width, sparse.count, field)
        if sparse.count and int(at.max()) >= len(values):
            raise self.trouble(f"{field}.indices", "points past the end of the accessor")
        values[at] = put
        return values


def open_gltf(path: Path, *, within: Path | None = None) -> GltfDocument:
    """Read a ``.glb`` or ``.gltf`` with its buffers, which must lie beside it or below (``within``)."""
    content, binary = _content(path, within)
    document = GltfDocument(path.name, content, ())
    unknown = [e for e in content.extensions_required if e not in REQUIRED_KNOWN]
    if unknown:
        raise document.trouble("extensionsRequired", f"needs {', '.join(unknown)}", "export it without compression")
    beside = _Beside(document, path.parent, within or path.parent)
    buffers: list[bytes] = []
    for i, entry in enumerate(content.buffers):
        buffers.append(_buffer(document, i, entry, binary, beside))
        if sum(map(len, buffers)) > MOST_BYTES:
            raise document.trouble("buffers", f"hold more than {MOST_BYTES} bytes in all", "export it in parts")
    return GltfDocument(path.name, content, tuple(buffers))


def _content(path: Path, within: Path | None) -> tuple[Gltf, bytes | None]:
    """What a file says, and the bytes that come with it."""
    data = fetch(path, within)
    text, binary = _split(data, path.name) if data[:4] == b"glTF" else (data, None)
    return decode(text, path.name), binary


def files_beside(path: Path, within: Path | None = None, pictures: bool = False) -> dict[str, bytes]:
    """The files of buffers beside a glTF file, by their names as they are on disk; beneath ``within`` if that is
    given. ``pictures`` come along where they are there. Raises ``Trouble``."""
    document = GltfDocument(path.name, _content(path, within)[0], ())
    beside = _Beside(document, path.parent, within or path.parent)
    for i, buffer in enumerate(document.content.buffers):
        if buffer.uri is not None and not buffer.uri.startswith("data:"):
            beside.get(buffer.uri, f"buffers[{i}].uri")
    for i, image in enumerate(document.content.images if pictures else ()):
        if image.uri is not None and not image.uri.startswith("data:"):
            with contextlib.suppress(Trouble):
                beside.get(image.uri, f"images[{i}].uri")
    return {beside.names[uri]: data for uri, data in beside.read.items()}


class _Beside:
    """The files beside a glTF file, each read once."""

    def __init__(self, document: GltfDocument, parent: Path, within: Path) -> None:
        self.document, self.parent, self.within = document, parent, within
        self.read: dict[str, bytes] = {}
        self.names: dict[str, str] = {}

    def get(self, uri: str, field: str) -> bytes:
        if uri not in self.read:
            self.read[uri] = self._fetch(uri, field)
        return self.read[uri]

    def _fetch(self, uri: str, field: str) -> bytes:
        below = self.parent.relative_to(self.within).as_posix()
        # As the standard says, escaped; a name with a per cent sign of its own is met as well.
        for text in dict.fromkeys((unquote(uri), uri)):
            name = reference(text, beside=below, file=self.document.file, field=field)
            try:
                found = fetch(self.within / name, self.within)
            except Missing:
                continue
            self.names[uri] = name
            return found
        raise self.document.trouble(field, f"names {unquote(uri)}, which is not there", "copy the file beside it")


def _split(data: bytes, name: str) -> tuple[bytes, bytes | None]:
    if len(data) < 20:
        raise Trouble("is cut short: it ends within its header", file=name, field="header", do=AGAIN)
    version, total = struct.unpack_from("<II", data, 4)
    if version != 2:
        raise Trouble(f"is glTF version {version}, not 2", file=name, field="header", do=AGAIN)
    if total > len(data):
        raise Trouble(
            f"is cut short: its header claims {total} bytes and the file holds {len(data)}",
            file=name,
            field="header",
            do="copy or export it again",
        )
    chunks: dict[int, bytes] = {}
    at = 12
    while at + 8 <= total:
        length, kind = struct.unpack_from("<II", data, at)
        if at + 8 + length > total:
            raise Trouble(
                f"is cut short: a chunk claims {length} bytes and {total - at - 8} are left",
                file=name,
                field="chunk",
                do="copy or export it again",
            )
        chunks.setdefault(kind, data[at + 8 : at + 8 + length])
        at += 8 + length
    if 0x4E4F534A not in chunks:
        raise Trouble("has no JSON chunk", file=name, field="chunk", do=AGAIN)
    return chunks[0x4E4F534A], chunks.get(0x004E4942)


def _buffer(document: GltfDocument, index: int, entry: Buffer, binary: bytes | None, beside: _Beside) -> bytes:
    field, uri = f"buffers[{index}]", entry.uri
    if uri is None:
        data = binary if index == 0 and binary is not None else b""
    elif uri.startswith("data:"):
        try:
            data = base64.b64decode(uri.partition(",")[2], validate=True)
        except (binascii.Error, ValueError) as error:
            raise document.trouble(f"{field}.uri", "holds base64 that does not decode") from error
    else:
        data = beside.get(uri, f"{field}.uri")
    if entry.byte_length > len(data):
        says = f"claims {entry.byte_length} bytes and the file holds {len(data)}"
        raise document.trouble(f"{field}.byteLength", says, "copy or export it again")
    return data if entry.byte_length == len(data) else data[: entry.byte_length]
