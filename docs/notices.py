"""The licences of what is shipped and of what is depended on, made from what is installed: ``./run shots notices``."""

from __future__ import annotations

import re
from importlib.metadata import Distribution, distribution
from pathlib import Path

PAGE = Path(__file__).resolve().parents[1] / "NOTICES"
HEAD = """\
Veergust itself has no licence yet: its owner has not chosen one. Until then nobody but the owner may pass it on.

What is shipped with it
-----------------------

Barlow Semi Condensed, the typeface (src/veergust/desk/fonts): SIL Open Font License 1.1, its text beside it.
The demo, Lantern Quay, and all pictures were made for Veergust.

What it depends on, fetched when it is installed
------------------------------------------------

"""
NAMES = {
    "MIT License": "MIT",
    "BSD License": "BSD-3-Clause",
    "Apache Software License": "Apache-2.0",
    "Python Software Foundation License": "PSF-2.0",
    "zlib/libpng License": "Zlib",
    "Mozilla Public License 2.0 (MPL 2.0)": "MPL-2.0",
}
"""What classifiers call a licence, and what SPDX does."""
KNOWN = re.compile(r"^(MIT|MIT-0|BSD|0BSD|Apache|PSF|MPL|LGPL|GPL|Zlib|CC0|ISC)[\w.-]*$")


def needed(of: str = "veergust") -> list[Distribution]:
    """Every distribution that a program needs to run, by name."""
    found: dict[str, Distribution] = {}
    todo = list(distribution(of).requires or ())
    while todo:
        need = todo.pop()
        if "extra ==" in need or ("python_version <" in need or "python_full_version <" in need):
            continue
        if ("sys_platform" in need and "win32" in need) or "Windows" in need:
            continue
        name = re.split(r"[\s<>=!\[;~(]", need)[0].lower().replace("_", "-")
        if name not in found:
            found[name] = distribution(name)
            todo += found[name].requires or ()
    return [found[name] for name in sorted(found)]


def _first(lines: list[str] | None) -> str:
    return lines[0] if lines else ""


def licence_of(made: Distribution) -> str:
    """The licence of a distribution as SPDX writes it; nothing when it cannot be told."""
    said = made.metadata
    expression = _first(said.get_all("License-Expression"))
    if not expression:
        short = _first(said.get_all("License"))
        rows = [c.rpartition(" :: ")[2] for c in said.get_all("Classifier") or () if c.startswith("License ::")]
        named = [NAMES[row] for row in rows if row in NAMES]
        expression = short if _is_known(short) else (named[0] if named else "")
    return expression if _is_known(expression) else ""


def _is_known(expression: str) -> bool:
    words = re.split(r"\s+(?:AND|OR|WITH)\s+", expression.replace("(", "").replace(")", ""))
    return bool(expression) and all(KNOWN.match(word) for word in words)


def notices() -> str:
    """The page."""
    rows = [f"{made.metadata['Name']}: {licence_of(made) or 'unknown'}" for made in needed()]
    return HEAD + "\n".join(rows) + "\n"


def main() -> int:
    """Write it anew."""
    PAGE.write_text(notices())
    print(PAGE)
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
