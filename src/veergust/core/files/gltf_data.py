"""The raw side of glTF 2.0: opening a file, finding its buffers, and reading accessors as arrays.

Every number a file states about itself is checked against what the file holds before it is used.
"""

from __future__ import annotations

import base64
import binascii
import contextlib
import json
import struct
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any
from urllib.parse import unquote

import numpy as np
from numpy.typing import NDArray

from veergust.core.files.beneath import MOST_BYTES, Missing, reference
from veergust.core.files.fetch import fetch
from veergust.core.trouble import Trouble

COMPONENTS = {5120: "i1", 5121: "u1", 5122: "<i2", 5123: "<u2", 5125: "<u4", 5126: "<f4"}
WIDTHS = {"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4, "MAT4": 16}
REQUIRED_KNOWN = {"KHR_mesh_quantization"}
MOST_JOINTS = 4096
LARGEST = 1e7
"""No number in a motion file is greater, in whatever unit."""
LONGEST_MOTION = 36_000.0
"""No motion lasts longer (s)."""
AGAIN = "export it again"


def plain(value: object) -> Any:
    """``value`` when it is text or a whole number, which is all that can be looked up in a table; else None."""
    return value if isinstance(value, str | int) and not isinstance(value, bool) else None


def said_name(value: object) -> str:
    """A name as a file gives it; halves of signs that mean nothing alone become marks. Nothing when it has none."""
    return value.encode("utf-16", "surrogatepass").decode("utf-16", "replace") if isinstance(value, str) else ""


@dataclass(frozen=True, eq=False)
class GltfDocument:
    """A glTF file: its name for messages, its JSON, and its buffers as bytes."""

    file: str
    json: dict[str, Any]
    buffers: tuple[bytes, ...]
    _checked: dict[str, list[dict[str, Any]]] = field(default_factory=dict)
    times: dict[int, NDArray[np.float64]] = field(default_factory=dict)
    """Times of keys that were looked at, by accessor."""

    def trouble(self, field: str, says: str, do: str = AGAIN) -> Trouble:
        """A ``Trouble`` in this file."""
        return Trouble(says, file=self.file, field=field, do=do)

    def items(self, key: str) -> list[dict[str, Any]]:
        """A top-level array of objects, empty where absent."""
        known = self._checked.get(key)
        if known is not None:
            return known
        value = self.json.get(key, [])
        if not isinstance(value, list) or not all(isinstance(v, dict) for v in value):
            raise self.trouble(key, "should be a list of objects")
        self._checked[key] = value
        return value

    def item(self, key: str, index: object, field: str) -> dict[str, Any]:
        """Entry ``index`` of a top-level array, as ``field`` refers to it."""
        entries = self.items(key)
        if not isinstance(index, int) or isinstance(index, bool) or not 0 <= index < len(entries):
            raise self.trouble(field, f"refers to {key}[{index}], which the file does not have")
        return entries[index]

    def children(self, index: int) -> list[int]:
        """The nodes under a node."""
        nodes = self.items("nodes")
        children = nodes[index].get("children", [])
        if not isinstance(children, list) or not all(isinstance(c, int) and 0 <= c < len(nodes) for c in children):
            raise self.trouble(f"nodes[{index}].children", "refers to nodes the file does not have")
        return children

    def whole(self, source: dict[str, Any], key: str, default: int, field: str) -> int:
        """A whole number of at least 0."""
        value = source.get(key, default)
        if not isinstance(value, int) or isinstance(value, bool) or value < 0:
            raise self.trouble(f"{field}.{key}", "should be a whole number of at least 0")
        return value

    def numbers(self, value: object, count: int, field: str) -> NDArray[np.float64]:
        """A list of ``count`` finite numbers."""
        if (
            not isinstance(value, list)
            or len(value) != count
            or not all(isinstance(v, int | float) and not isinstance(v, bool) for v in value)
        ):
            raise self.trouble(field, f"should be {count} numbers")
        try:
            out = np.array(value, dtype=np.float64)
        except OverflowError:
            out = np.array([np.inf])
        if not (np.abs(out) <= LARGEST).all():
            raise self.trouble(field, "holds a value that is no length, turn or size")
        return out

    def accessor(self, index: object, field: str) -> NDArray[Any]:
        """Accessor values ``[count, width]``; integers flagged normalized become floats; all finite."""
        entry = self.item("accessors", index, field)
        where = f"accessors[{index}]"
        component, kind = plain(entry.get("componentType")), plain(entry.get("type"))
        if component not in COMPONENTS or kind not in WIDTHS:
            raise self.trouble(where, "has an unknown component type or shape")
        dtype, width = np.dtype(COMPONENTS[component]), WIDTHS[kind]
        count = self.whole(entry, "count", 0, where)
        if "bufferView" in entry:
            values = self._strided(entry["bufferView"], entry, dtype, width, count, where)
        elif count * width * dtype.itemsize > 1 << 26:
            raise self.trouble(where, f"asks for {count} values that the file does not hold")
        else:
            values = np.zeros((count, width), dtype)
        if "sparse" in entry:
            values = self._sparse(values.copy(), entry["sparse"], dtype, width, where)
        if dtype.kind == "f":
            if not np.isfinite(values).all():
                bad = int(np.argmin(np.isfinite(values).all(axis=1)))
                raise self.trouble(field, f"key {bad} is not a number (NaN or infinite)")
            if not (np.abs(values) <= LARGEST).all():
                bad = int(np.argmin((np.abs(values) <= LARGEST).all(axis=1)))
                raise self.trouble(field, f"key {bad} is no length, turn or size: {float(np.abs(values[bad]).max()):g}")
            return values
        if entry.get("normalized"):
            return np.maximum(values.astype(np.float32) / np.iinfo(dtype).max, -1.0)
        return values

    def _view(self, index: object, field: str) -> tuple[memoryview, int]:
        view = self.item("bufferViews", index, field)
        where = f"bufferViews[{index}]"
        which = view.get("buffer")
        self.item("buffers", which, f"{where}.buffer")
        data = memoryview(self.buffers[which])  # type: ignore[index]
        start = self.whole(view, "byteOffset", 0, where)
        length = self.whole(view, "byteLength", 0, where)
        if start + length > len(data):
            raise self.trouble(where, f"claims bytes {start} to {start + length} of a buffer that holds {len(data)}")
        return data[start : start + length], self.whole(view, "byteStride", 0, where)

    def _strided(
        self, view: object, entry: dict[str, Any], dtype: np.dtype[Any], width: int, count: int, where: str
    ) -> NDArray[Any]:
        data, stride = self._view(view, f"{where}.bufferView")
        offset = self.whole(entry, "byteOffset", 0, where)
        size = dtype.itemsize * width
        stride = stride or size
        need = offset + (stride * (count - 1) + size if count else 0)
        if need > len(data) or stride < size:
            raise self.trouble(where, f"claims {need} bytes of a view that holds {len(data)}")
        shape = np.ndarray((count, width), dtype, data, offset, (stride, dtype.itemsize))
        return shape.copy()

    def _sparse(
        self, values: NDArray[Any], sparse: object, dtype: np.dtype[Any], width: int, where: str
    ) -> NDArray[Any]:
        field = f"{where}.sparse"
        if not isinstance(sparse, dict):
            raise self.trouble(field, "should be an object")
        count = self.whole(sparse, "count", 0, field)
        indices, new = sparse.get("indices"), sparse.get("values")
        if not isinstance(indices, dict) or not isinstance(new, dict):
            raise self.trouble(field, "lacks its indices or values")
        kind = COMPONENTS.get(plain(indices.get("componentType")))
        if kind not in ("u1", "<u2", "<u4"):
            raise self.trouble(f"{field}.indices", "has a component type that cannot count")
        at = self._strided(indices.get("bufferView"), indices, np.dtype(kind), 1, count, field)[:, 0]
        put = self._strided(new.get("bufferView"), new, dtype, width, count, field)
        if count and int(at.max()) >= len(values):
            raise self.trouble(f"{field}.indices", "points past the end of the accessor")
        values[at] = put
        return values


def open_gltf(path: Path, *, within: Path | None = None) -> GltfDocument:
    """Read a ``.glb`` or ``.gltf`` with its buffers, which must lie beside it or below (``within``)."""
    name = path.name
    data = fetch(path, within)
    text, binary = _split(data, name) if data[:4] == b"glTF" else (data, None)
    try:
        content = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise Trouble("is not glTF: its JSON does not parse", file=name, do=AGAIN) from error
    if not isinstance(content, dict) or not isinstance(content.get("asset"), dict):
        raise Trouble("is not glTF: it has no asset entry", file=name, field="asset", do=AGAIN)
    document = GltfDocument(name, content, ())
    required = content.get("extensionsRequired", [])
    unknown = [e for e in required if plain(e) not in REQUIRED_KNOWN] if isinstance(required, list) else ["?"]
    if unknown:
        raise document.trouble(
            "extensionsRequired", f"needs {', '.join(map(str, unknown))}", "export it without compression"
        )
    beside = _Beside(document, path.parent, within or path.parent)
    buffers: list[bytes] = []
    for i, entry in enumerate(document.items("buffers")):
        buffers.append(_buffer(document, i, entry, binary, beside))
        if sum(map(len, buffers)) > MOST_BYTES:
            raise document.trouble("buffers", f"hold more than {MOST_BYTES} bytes in all", "export it in parts")
    return GltfDocument(name, content, tuple(buffers))


def files_beside(path: Path, within: Path | None = None, pictures: bool = False) -> dict[str, bytes]:
    """The files of buffers beside a glTF file, by their names as they are on disk; beneath ``within`` if that is
    given. ``pictures`` come along where they are there. Raises ``Trouble``, or ``ValueError`` for what is no glTF."""
    data = fetch(path, within)
    content = json.loads(_split(data, path.name)[0] if data[:4] == b"glTF" else data)
    document = GltfDocument(path.name, content, ())
    beside = _Beside(document, path.parent, within or path.parent)
    for i, entry in enumerate(document.items("buffers")):
        uri = entry.get("uri")
        if isinstance(uri, str) and not uri.startswith("data:"):
            beside.get(uri, f"buffers[{i}].uri")
    for i, entry in enumerate(document.items("images") if pictures else ()):
        uri = entry.get("uri")
        if isinstance(uri, str) and not uri.startswith("data:"):
            with contextlib.suppress(Trouble):
                beside.get(uri, f"images[{i}].uri")
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


def _buffer(document: GltfDocument, index: int, entry: dict[str, Any], binary: bytes | None, beside: _Beside) -> bytes:
    field = f"buffers[{index}]"
    length = document.whole(entry, "byteLength", 0, field)
    uri = entry.get("uri")
    if uri is None:
        data = binary if index == 0 and binary is not None else b""
    elif not isinstance(uri, str):
        raise document.trouble(f"{field}.uri", "should be text")
    elif uri.startswith("data:"):
        try:
            data = base64.b64decode(uri.partition(",")[2], validate=True)
        except (binascii.Error, ValueError) as error:
            raise document.trouble(f"{field}.uri", "holds base64 that does not decode") from error
    else:
        data = beside.get(uri, f"{field}.uri")
    if length > len(data):
        raise document.trouble(
            f"{field}.byteLength",
            f"claims {length} bytes and the file holds {len(data)}",
            "copy or export it again",
        )
    return data if length == len(data) else data[:length]
