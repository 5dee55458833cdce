"""What could not be played, or would fill memory, is refused where it is read, with file and field."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Annotated, Any, Literal, get_args, get_origin, get_type_hints

import msgspec
import pytest

from veergust.core.files.folder import open_project
from veergust.core.model import Project
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
        ("project.json", ["settings"], {"rate": 0}, "at least 1", "settings.rate"),
        ("project.json", ["settings"], {"rate": -60}, "at least 1", "settings.rate"),
        ("project.json", ["clips", 0, "rate"], 0, "at least 0.001", "clips[0].rate"),
        (SWEEP, ["speed"], -1, "at least 0.001", "speed"),
        (SWEEP, ["sections", 1, "cuts", 0, "rate"], 0.0, "at least 0.001", "sections[1].cuts[0].rate"),
        (SWEEP, ["sections", 0, "name"], "end", "cannot be called 'end'", "sections[0].name"),
        (SWEEP, ["sections", 0, "cuts", 0, "out"], 2e4, "longer than", "sections[0].cuts[0]"),
        (SWEEP, ["sections", 1, "strikes", 0, "hit_stop"], 20_000, "at most 10000", "hit_stop"),
        (SWEEP, ["blend_in"], -3, "at least 0", "blend_in"),
        ("stage.json", ["posts"], [{"name": "a"}, {"name": "a"}], "stands twice", "posts"),
        ("stage.json", ["posts"], [{"name": "Tarn"}], "fighter's as well", "posts"),
        ("stage.json", ["fighters", 1, "name"], "Ossa Renn", "stands twice", "fighters"),
        ("stage.json", ["fighters", 0, "position"], [1e300, 0, 0], "at most", "fighters[0].position[0]"),
        ("ground.json", ["states", 1, "name"], "idle", "stands twice", "states"),
        ("ground.json", ["groups", 1, "name"], "on the floor", "stands twice", "groups"),
        ("ground.json", ["groups", 0, "name"], "walk", "state's as well", "groups"),
        ("ground.json", ["groups", 0, "group"], "on the floor", "within itself", "groups[0].group"),
        ("ground.json", ["states", 2, "name"], "*", "cannot be called", "states[2].name"),
        ("ground.json", ["groups", 0, "enters"], "mood", "none of the values", "groups[0].enters"),
        ("ground.json", ["transitions", 0, "ticks"], -1, "at least 0", "transitions[0].ticks"),
        (
            "ground.json",
            ["transitions", 0, "conditions", 0, "test"],
            "moon",
            "none of the values",
            "conditions[0].test",
        ),
        ("ground.json", ["parameters"], [{"name": "a"}, {"name": "a"}], "stands twice", "parameters"),
        ("ground.json", ["parameters"], [{"name": "a", "kind": "word"}], "none of the values", "parameters[0].kind"),
        ("project.json", ["layers"], [{"name": f"L{n}"} for n in range(200)], "100 are the most", "layers"),
        ("project.json", ["layers"], [{"name": "A"}, {"name": "A"}], "stands twice", "layers"),
        ("project.json", ["layers", 0, "weight"], 1.5, "at most 1", "layers[0].weight"),
        ("project.json", ["layers", 0, "weight"], float("nan"), "", "project.json"),
        ("project.json", ["layers", 0, "covered"], "hides", "none of the values", "layers[0].covered"),
        (
            "project.json",
            ["layers", 1, "scope"],
            [{"state": "run", "rule": "shouts"}],
            "none of the values",
            "scope[0].rule",
        ),
        (
            "project.json",
            ["layers", 1, "scope"],
            [{"state": "run"}, {"state": "run"}],
            "stands twice",
            "layers[1].scope",
        ),
        ("project.json", ["masks", 0, "weights"], [["head", 2.0]], "at most 1", "masks[0].weights"),
        ("project.json", ["masks", 0, "weights"], [["head", 0.1], ["head", 0.2]], "stands twice", "masks[0].weights"),
        ("ground.json", ["look", "joints", 0, "share"], 7.0, "at most 1", "look.joints[0].share"),
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


def test_every_number_of_a_project_has_bounds() -> None:
    """What has none could be anything: a number that fills memory, or that nothing can be drawn with."""
    free: list[str] = []
    seen: set[Any] = set()
    todo: list[Any] = [Project]
    while todo:
        kind = todo.pop()
        if kind in seen:
            continue
        seen.add(kind)
        hints = get_type_hints(kind, include_extras=True)
        for name, hint in hints.items():
            for part in flat(hint):
                if part in (int, float) and (kind.__name__, name) != ("Project", "schema"):
                    free.append(f"{kind.__name__}.{name}")
                elif isinstance(part, type) and issubclass(part, msgspec.Struct):
                    todo.append(part)
    assert free == []
    assert len(seen) > 40


def flat(hint: Any) -> list[Any]:
    """Every plain type a hint is made of; what has bounds is left out."""
    if get_origin(hint) is Annotated:
        return []
    inner = get_args(hint)
    return [part for arg in inner for part in flat(arg)] if inner and get_origin(hint) is not Literal else [hint]
