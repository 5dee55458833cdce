"""No command that writes into a project follows a link in what it writes."""

from __future__ import annotations

import os
from pathlib import Path

import pytest

from tests.cli.test_hostile import run_all
from tests.core.files.test_links import KINDS, PLACES, hostile
from tests.core.files.test_safe import tree
from tests.core.files.test_units import creature
from veergust.core.files.scxml_write import to_scxml
from veergust.core.model import Locomotion, State

WRITING = ("a file inside", "a hook", "a folder outside", "nothing yet, outside")


def kept_link(folder: str) -> list[str]:
    """The links that lie at the top of a folder."""
    return [p.name for p in Path(folder).iterdir() if p.is_symlink()]


@pytest.mark.parametrize("kind", WRITING)
def test_no_command_writes_through_a_link(tmp_path: Path, kind: str) -> None:
    assert kind in KINDS
    chart, figure = tmp_path / "chart.scxml", tmp_path / "figure.bvh"
    figure.write_text(creature(1.0))
    chart.write_bytes(to_scxml(Locomotion(entry="idle", states=(State(name="idle"),))))
    rows: list[tuple[list[str], Path]] = []
    kept = []
    for i, place in enumerate(PLACES):
        top = tmp_path / str(i)
        folder = hostile(top, place, kind)
        kept.append((folder, [tree(top / "far"), tree(folder / ".git"), tree(folder / "shared")]))
        words = (
            ["import", str(folder), str(figure)],
            ["ground", str(folder), "--from", str(chart)],
        )
        rows += [(list(w), top / "far") for w in words]
    results = run_all(rows)
    for result, (given, _) in zip(results, rows):
        # A lock that is a link is asked for as no link, which a hook on opening cannot see.
        assert all(".lock" in kept_link(given[1]) for _ in result["outside"]), given
        assert result["code"] in (0, 2), (given, result)
        assert "Traceback" not in result["err"]
    for folder, before in kept:
        assert [tree(folder.parent / "far"), tree(folder / ".git"), tree(folder / "shared")] == before
        assert not [p for p in folder.rglob("*") if not p.is_symlink() and os.access(p, os.X_OK) and p.is_file()
                    and ".git" not in p.parts]  # fmt: skip
    said = "".join(r["err"] for r in results)
    assert ("is a link, and nothing is written through one" in said) or "outside" in kind
