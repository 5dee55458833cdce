"""What could not be played, or would fill memory, is refused where it is read, with file and field."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest

from veergust.core.files.folder import open_project
from veergust.core.trouble import Trouble


def put(folder: Path, file: str, where: list[Any], value: Any) -> None:
    path = folder / file
    data = json.loads(path.read_text())
    at = data
    for step in where[:-1]:
        at = at[step]
    at[where[-1]] = value
    path.write_text(json.dumps(data))


SWEEP = "actions/low_sweep.json"


@pytest.mark.parametrize(
    ("file", "where", "value", "says", "field"),
    [
        ("project.json", ["settings"], {"rate": 0}, "1 to 1000 ticks", "settings.rate"),
        ("project.json", ["settings"], {"rate": -60}, "1 to 1000 ticks", "settings.rate"),
        ("project.json", ["clips", 0, "rate"], 0, "above 0", "clips[0].rate"),
        (SWEEP, ["speed"], -1, "above 0", "speed"),
        (SWEEP, ["sections", 1, "cuts", 0, "rate"], 0.0, "above 0", "sections[1].cuts[0].rate"),
        (SWEEP, ["sections", 0, "name"], "end", "cannot be called 'end'", "sections[0].name"),
        (SWEEP, ["sections", 0, "cuts", 0, "out"], 1e5, "longer than", "sections[0].cuts[0]"),
        (SWEEP, ["sections", 1, "strikes", 0, "hit_stop"], 20_000, "0 to 10000", "hit_stop"),
        (SWEEP, ["blend_in"], -3, "0 to 10000", "blend_in"),
        ("stage.json", ["posts"], [{"name": "a"}, {"name": "a"}], "stands twice", "posts"),
        ("stage.json", ["posts"], [{"name": "Tarn"}], "fighter's as well", "posts"),
        ("stage.json", ["fighters", 1, "name"], "Ossa Renn", "stands twice", "fighters"),
        ("stage.json", ["fighters", 0, "position"], [1e300, 0, 0], "at most", "fighters[0].position[0]"),
        ("ground.json", ["states", 1, "name"], "idle", "stands twice", "states"),
    ],
)
def test_what_cannot_be_is_refused_with_file_and_field(
    folder: Path, file: str, where: list[Any], value: Any, says: str, field: str
) -> None:
    put(folder, file, where, value)
    with pytest.raises(Trouble) as found:
        open_project(folder)
    words = str(found.value)
    assert says in words
    assert file in words
    assert field in words
