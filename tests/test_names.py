"""Names: one class name has one meaning, and words of the house are in the glossary and in the code."""

from __future__ import annotations

import ast
import re
from collections import defaultdict
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
SOURCES = sorted((ROOT / "src").rglob("*.py"))


def classes() -> dict[str, list[str]]:
    """Where each class is made, by its name."""
    out = defaultdict(list)
    for path in SOURCES:
        for node in ast.parse(path.read_text()).body:
            if isinstance(node, ast.ClassDef) and not node.name.startswith("_"):
                out[node.name].append(str(path.relative_to(ROOT)))
    return out


def names() -> set[str]:
    """Every name of a module, a class, a function or a variable."""
    out = {path.stem for path in SOURCES}
    for path in SOURCES:
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.ClassDef | ast.FunctionDef):
                out.add(node.name)
            elif isinstance(node, ast.Name):
                out.add(node.id)
    return out


def test_no_two_classes_have_one_name() -> None:
    assert {name: where for name, where in classes().items() if len(where) > 1} == {}


def test_every_word_of_the_glossary_is_in_the_code() -> None:
    text = (ROOT / "CONTRIBUTING.md").read_text().partition("## Words of the house")[2]
    words = re.findall(r"^\| `(\w+)` \|", text, re.MULTILINE)
    assert len(words) > 10
    assert len(set(words)) == len(words)
    known = names()
    assert [word for word in words if word not in known] == []


def test_no_name_of_a_class_is_said_to_a_person() -> None:
    """What is written in the window and on the command line has none of the code's names: a name that was changed
    everywhere was changed in a sentence as well."""
    inner = {name for name in classes() if re.search("[a-z][A-Z]", name)}
    said = []
    for path in SOURCES:
        tree = ast.parse(path.read_text())
        ours = {id(node.value) for node in ast.walk(tree) if isinstance(node, ast.Expr)}  # docstrings
        for node in ast.walk(tree):
            if isinstance(node, ast.Constant) and isinstance(node.value, str) and id(node) not in ours:
                words = set(re.findall(r"\w+", node.value)) if " " in node.value else set()
                said += [(str(path.relative_to(ROOT)), node.value) for _ in words & inner]
    assert said == []
