"""The rooms as the imports have them: no circle of modules, none too long, and the page's picture as it is."""

from __future__ import annotations

import ast
import re
import sys
from collections.abc import Iterator
from importlib import import_module
from pathlib import Path

import grimp
import numpy as np
import pytest
from scipy.sparse import csr_matrix
from scipy.sparse.csgraph import connected_components

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT / "docs"))
import rooms  # noqa: E402

LONGEST = 400


@pytest.fixture(scope="module")
def imports() -> grimp.ImportGraph:
    return rooms.graph()


def circles(imports: grimp.ImportGraph) -> list[list[str]]:
    """Modules that import each other, by whatever way."""
    names = sorted(imports.modules)
    at = {name: i for i, name in enumerate(names)}
    pairs = [(at[a], at[b]) for a in names for b in imports.find_modules_directly_imported_by(a) if b in at]
    rows, columns = np.array(pairs).T
    links = csr_matrix((np.ones(len(pairs)), (rows, columns)), shape=(len(names), len(names)))
    _, of = connected_components(links, connection="strong")
    return [[names[i] for i in np.flatnonzero(of == k)] for k in np.flatnonzero(np.bincount(of) > 1)]


def test_no_modules_import_each_other_not_even_for_their_types(imports: grimp.ImportGraph) -> None:
    assert circles(imports) == []
    closed = grimp.ImportGraph()
    for one, two in (("a", "b"), ("b", "c"), ("c", "a"), ("d", "a")):
        closed.add_import(importer=one, imported=two)
    assert circles(closed) == [["a", "b", "c"]]


def test_no_module_is_too_long_to_be_read_at_a_sitting() -> None:
    every = (ROOT / "src").rglob("*.py")
    long = {p.name: n for p in every if (n := len(p.read_text().splitlines())) > LONGEST}
    assert long == {}


def test_the_picture_of_the_rooms_is_drawn_from_the_imports(imports: grimp.ImportGraph) -> None:
    assert rooms.on_page() == rooms.drawn(imports), "draw it anew with ./run shots rooms"


ROOMS = sorted(path.parent.name for path in (ROOT / "src/veergust/core").glob("*/__init__.py"))


def asked() -> Iterator[tuple[Path, str, str]]:
    """Every name that a module asks of the core: the module, what it asks, and the name."""
    for path in (ROOT / "src").rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.ImportFrom) and (node.module or "").startswith("veergust.core."):
                yield from ((path, node.module or "", alias.name) for alias in node.names)
            if isinstance(node, ast.Attribute) and (room := re.fullmatch(r"core\.(\w+)", ast.unparse(node.value))):
                yield path, f"veergust.core.{room[1]}", node.attr


def test_rooms_of_the_core_are_asked_at_their_face() -> None:
    """What others use of a room stands in its face, nobody reaches deeper, and nothing stands there for nobody."""
    wanted: dict[str, set[str]] = {room: set() for room in ROOMS}
    deep = []
    for path, module, name in asked():
        room, _, inside = module.removeprefix("veergust.core.").partition(".")
        own = ROOT / "src/veergust/core" / room in path.parents
        if room in wanted and not own:
            wanted[room].add(name)
            deep += [f"{path.relative_to(ROOT)}: {module}"] if inside else []
    assert deep == []
    for room in ROOMS:
        face = import_module(f"veergust.core.{room}")
        files = [p.name.partition(".")[0] for p in Path(str(face.__file__)).parent.iterdir()]
        if room != "model":  # all of it is its face
            assert set(face.__all__) == wanted[room], room
            homes = re.findall(r"from \.(\S*) import (\w+)", Path(f"{face.__file__}i").read_text())
            lost = [name for home, name in homes if home and name in files and home != name]
            assert lost == [], f"{room}: {lost} would be hidden by modules of their names"
        for name in wanted[room]:
            assert getattr(face, name) is not None
