"""Names: one class name has one meaning, and words of the house are in the glossary and in the code."""

from __future__ import annotations

import ast
import re
from collections import defaultdict
from functools import cache
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
SOURCES = sorted((ROOT / "src").rglob("*.py"))


@cache
def tree_of(path: Path) -> ast.Module:
    """A module, read once."""
    return ast.parse(path.read_text(encoding="utf-8"))


def classes() -> dict[str, list[str]]:
    """Where each class is made, by its name."""
    out = defaultdict(list)
    for path in SOURCES:
        for node in tree_of(path).body:
            if isinstance(node, ast.ClassDef) and not node.name.startswith("_"):
                out[node.name].append(str(path.relative_to(ROOT)))
    return out


def names() -> set[str]:
    """Every name of a module, a class, a function or a variable."""
    out = {path.stem for path in SOURCES}
    for path in SOURCES:
        for node in ast.walk(tree_of(path)):
            if isinstance(node, ast.ClassDef | ast.FunctionDef):
                out.add(node.name)
            elif isinstance(node, ast.Name):
                out.add(node.id)
    return out


def test_no_two_classes_have_one_name() -> None:
    assert {name: where for name, where in classes().items() if len(where) > 1} == {}


def test_no_two_modules_of_the_model_make_one_name() -> None:
    """All that is public in them is one face, on which the last to come would hide the others."""
    made = defaultdict(list)
    for path in (ROOT / "src" / "veergust" / "core" / "model").glob("*.py"):
        for node in tree_of(path).body:
            targets = node.targets if isinstance(node, ast.Assign) else [getattr(node, "target", None)]
            own = [node.name] if isinstance(node, ast.ClassDef | ast.FunctionDef) else []
            for name in own + [target.id for target in targets if isinstance(target, ast.Name)]:
                made[name].append(path.name)
    assert {name: where for name, where in made.items() if len(where) > 1 and not name.startswith("_")} == {}


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
        tree = tree_of(path)
        ours = {id(node.value) for node in ast.walk(tree) if isinstance(node, ast.Expr)}  # docstrings
        for node in ast.walk(tree):
            if isinstance(node, ast.Constant) and isinstance(node.value, str) and id(node) not in ours:
                words = set(re.findall(r"\w+", node.value)) if " " in node.value else set()
                said += [(str(path.relative_to(ROOT)), node.value) for _ in words & inner]
    assert said == []
