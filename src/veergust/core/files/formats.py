"""What can be brought in: formats by their suffixes, and how they are said. Whoever only says them reads no reader."""

from __future__ import annotations

from collections.abc import Iterable
from typing import NamedTuple

PICTURES = (".png", ".gif", ".apng", ".webp")
"""The suffixes of a sheet's picture."""


class Format(NamedTuple):
    """A format that motion is read from: its suffixes, what it is called, and the module with its ``READER``."""

    suffixes: tuple[str, ...]
    name: str
    module: str


DRAWINGS = Format((".json",), "a sheet of drawings (JSON beside PNG)", "drawings.read")
FORMATS = (
    Format((".glb", ".gltf"), "glTF 2.0", "gltf_read"),
    Format((".bvh",), "BVH", "bvh_read"),
    Format((".csv",), "CSV", "csv_read"),
    DRAWINGS,
)
"""A new one is a module with a ``READER``, and its line here."""
SUFFIXES: dict[str, Format] = {suffix: format for format in FORMATS for suffix in format.suffixes}


def spoken(suffixes: Iterable[str]) -> str:
    """Suffixes in a sentence: .a, .b or .c."""
    *most, last = suffixes
    return f"{', '.join(most)} or {last}" if most else last


BROUGHT = frozenset((*SUFFIXES, *PICTURES))
"""The suffixes of what can be brought in."""
SPOKEN = spoken([*(s for s in SUFFIXES if s not in DRAWINGS.suffixes), ".png"])
"""The suffixes of all that can be brought in, in a sentence: a sheet of drawings is called by its picture."""
