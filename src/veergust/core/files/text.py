"""Records as JSON text a person can read and merge: stable order, short values on one line."""

from __future__ import annotations

import re
from functools import cache
from typing import Any, TypeVar

import msgspec

from veergust.core.trouble import Trouble

WIDE = 100
_MERGE_MARKS = re.compile(rb"^(<<<<<<<|=======|>>>>>>>)", re.MULTILINE)
"""Where two versions of a text stand one after the other, as version control leaves them."""
T = TypeVar("T")


_fields = cache(msgspec.structs.fields)


def to_text(value: Any) -> bytes:
    """JSON with two-space indents; a list or object that fits in ``WIDE`` columns stays on one line."""
    return (_lines(to_plain(value), 0) + "\n").encode()


def to_plain(value: Any) -> Any:
    """A record as lists, dicts and plain values; equal records give equal ones.

    Fields that equal their default are left out, and numbers without a fraction lose their point.
    """
    if isinstance(value, msgspec.Struct):
        pairs = ((f, getattr(value, f.name)) for f in _fields(type(value)))
        return {f.encode_name: to_plain(v) for f, v in pairs if f.required or v != f.default}
    if isinstance(value, dict):
        return {k: to_plain(v) for k, v in value.items()}
    if isinstance(value, list | tuple):
        return [to_plain(v) for v in value]
    return int(value) if isinstance(value, float) and value.is_integer() and abs(value) < 1e15 else value


def _lines(value: Any, depth: int) -> str:
    flat = msgspec.json.encode(value).decode()
    if not isinstance(value, dict | list) or (len(flat) + 2 * depth <= WIDE and _plain(value)):
        return _spaced(value)
    pad = "  " * (depth + 1)
    if isinstance(value, dict):
        rows = [f"{pad}{msgspec.json.encode(k).decode()}: {_lines(v, depth + 1)}" for k, v in value.items()]
        return "{\n" + ",\n".join(rows) + "\n" + "  " * depth + "}"
    return "[\n" + ",\n".join(pad + _lines(v, depth + 1) for v in value) + "\n" + "  " * depth + "]"


def _plain(value: Any) -> bool:
    """Whether a container nests at most lists of numbers and small objects, so that one line reads well."""
    inner = value.values() if isinstance(value, dict) else value
    return all(not isinstance(v, dict | list) or _flat(v) for v in inner)


def _flat(value: Any) -> bool:
    inner = value.values() if isinstance(value, dict) else value
    return all(not isinstance(v, dict | list) for v in inner)


def _spaced(value: Any) -> str:
    if isinstance(value, dict):
        return "{" + ", ".join(f"{msgspec.json.encode(k).decode()}: {_spaced(v)}" for k, v in value.items()) + "}"
    if isinstance(value, list):
        return "[" + ", ".join(_spaced(v) for v in value) + "]"
    return msgspec.json.encode(value).decode()


def bare(data: bytes) -> bytes:
    """Text without the byte-order mark that some editors put before it."""
    return data.removeprefix(b"\xef\xbb\xbf")


def from_text(data: bytes, kind: type[T], file: str) -> T:
    """The record in ``data``, or a ``Trouble`` naming ``file`` and the field."""
    try:
        return msgspec.json.decode(bare(data), type=kind)
    except msgspec.ValidationError as error:
        says, _, where = str(error).partition(" - at `")
        field = where.rstrip("`").removeprefix("$.").removeprefix("$") or "top level"
        raise Trouble(
            worded(says), file=file, field=field, do="correct the field or take the file from a backup"
        ) from error
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as error:
        marks = _MERGE_MARKS.search(data)
        if marks is not None:
            line = data.count(b"\n", 0, marks.start()) + 1
            raise Trouble(
                "holds merge marks that nobody has settled",
                file=file,
                field=f"line {line}",
                do="settle the merge and open it again",
            ) from error
        raise Trouble(
            f"is not valid JSON ({str(error).rstrip('.')})",
            file=file,
            do="correct it or take the file from a backup",
        ) from error


def _bound(found: re.Match[str]) -> str:
    words = {">=": "at least", "<=": "at most", ">": "above", "<": "below"}
    return f"should be {words[found[1]]} {float(found[2]):g}"


def worded(says: str) -> str:
    says = re.sub(r"Expected `[^`]*` (>=|<=|>|<) (-?[\d.]+)", _bound, says)
    says = re.sub(r"Expected `([^`]*)`, got `([^`]*)`", r"should be \1 and is \2", says)
    says = re.sub(r"Object missing required field `([^`]*)`", r"lacks its field \1", says)
    says = re.sub(r"Object contains unknown field `([^`]*)`", r"has a field \1 that is not known", says)
    says = re.sub(r"Invalid enum value (.*)", r"is \1, which is none of the values it may have", says)
    names = {"int": "a whole number", "float": "a number", "str": "text", "array": "a list", "object": "an object"}
    for code, word in names.items():
        says = re.sub(rf"(should be|is|\|) {code}\b", rf"\1 {word}", says)
    return says[0].lower() + says[1:]
