"""What the documents promise is there: tests they name, pictures they link, commands they list."""

from __future__ import annotations

import re
from pathlib import Path

from veergust.cli.main import cli

ROOT = Path(__file__).resolve().parents[1]


def test_every_rule_of_the_tick_names_a_test_that_exists() -> None:
    there = {
        name for path in (ROOT / "tests").rglob("test_*.py") for name in re.findall(r"def (test_\w+)", path.read_text())
    }
    for page in ("semantics.md", "what-goes-wrong.md"):
        named = set(re.findall(r"\b(test_\w+)`", (ROOT / "docs" / page).read_text()))
        assert len(named) > 30
        assert named - there == set()


def test_every_promise_of_safety_names_a_test_in_its_file() -> None:
    named = re.findall(r"`(tests/[\w/]+\.py)::(test_\w+)`", (ROOT / "docs" / "safety.md").read_text())
    assert len(named) > 30
    assert [(file, test) for file, test in named if f"def {test}(" not in (ROOT / file).read_text()] == []


def test_every_finding_that_a_page_names_is_one_the_checks_give() -> None:
    core = ROOT / "src" / "veergust" / "core"
    found = "".join(p.read_text() for room in ("study", "kinds") for p in (core / room).rglob("*.py"))
    page = (ROOT / "docs" / "what-goes-wrong.md").read_text()
    codes = [c for c in re.findall(r"`([a-z]+(?:-[a-z]+)*)`", page) if c != "then" and c != "end"]
    assert len(codes) > 10
    assert [c for c in codes if f'"{c}"' not in found] == []


def test_pictures_are_linked_and_few() -> None:
    pictures = sorted(p.name for p in (ROOT / "docs" / "screenshots").glob("*.png"))
    readme = (ROOT / "README.md").read_text()
    assert 0 < len(pictures) < 20
    assert [p for p in pictures if p not in readme] == []
    assert all((ROOT / link).exists() for link in re.findall(r"\]\(([^)#]+)\)", readme))


def test_every_command_is_described() -> None:
    text = (ROOT / "docs" / "commands.md").read_text()
    for name, command in cli.every().items():
        assert command.hidden or f"veergust {name} " in text, name
