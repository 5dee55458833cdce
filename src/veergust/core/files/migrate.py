"""Bringing older project files up to the schema of today, one step a version."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from veergust.core.model import SCHEMA
from veergust.core.trouble import Trouble

Files = dict[str, Any]
"""Decoded JSON by path inside the project folder."""


def _blends_over_more_than_speed(files: Files) -> Files:
    """1 → 2: a blend's points lie *at* one or two numbers; they had a speed."""
    for state in _rows(files.get("ground.json"), "states"):
        for point in _rows(state, "blend"):
            if "speed" in point:
                point["at"] = [point.pop("speed")]
    return files


def _a_rule_for_every_state(files: Files) -> Files:
    """2 → 3: a layer says what it does in each state; it had a list of those it may speak in, and one rule outside."""
    rules = {"fade": "fades", "finish": "finishes", "refuse": "keeps out"}
    for layer in _rows(files.get("project.json"), "layers"):
        outside, scope = layer.pop("outside", "fade"), layer.get("scope")
        if isinstance(scope, list) and any(isinstance(name, str) for name in scope):
            layer["scope"] = [{"state": name} for name in scope]
            layer["elsewhere"] = rules.get(outside, outside) if isinstance(outside, str) else outside
    return files


def _rows(of: Any, field: str) -> list[dict[str, Any]]:
    """The records in a list of a decoded file; what is no record is left for the check of its shape."""
    rows = of.get(field) if isinstance(of, dict) else None
    return [row for row in rows if isinstance(row, dict)] if isinstance(rows, list) else []


STEPS: dict[int, Callable[[Files], Files]] = {1: _blends_over_more_than_speed, 2: _a_rule_for_every_state}
"""Schema version → the step to the next one. A step gets and gives all JSON files of a project."""


def check_version(version: object, file: str) -> int:
    """The schema a project is of; one from a newer program is refused."""
    if not isinstance(version, int) or isinstance(version, bool) or version < 1:
        raise Trouble("should be a whole number of at least 1", file=file, field="schema", do="correct it")
    if version > SCHEMA:
        raise Trouble(
            f"is version {version} and this program reads up to {SCHEMA}",
            file=file,
            field="schema",
            do="open it with a newer program",
        )
    return version


def migrate(files: Files, version: object, file: str) -> Files:
    """``files`` brought to schema ``SCHEMA``; a project from a newer program is refused."""
    for step in range(check_version(version, file), SCHEMA):
        files = STEPS[step](files)
    return files
