"""Who wins, pair by pair: the table in docs/semantics.md is played, and written from what is played."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from msgspec.structs import replace
from tools.made.edits import alone, section

from tests.conftest import OSSA
from tests.core.play.test_player import run
from veergust.core.model import Action, Exit, Layer, Mask, Project, StartRule
from veergust.core.motion.figure import Assets
from veergust.core.play.state import Input

DOCS = Path(__file__).resolve().parents[3] / "docs" / "semantics.md"
WAYS = ("pressed", "exit", "forced")
HEAD = ("| the newer is | the older's layer says | pressed | by an exit, or run by a state | by a hit, or by name |",
        "|---|---|---|---|---|")  # fmt: skip
ROWS: tuple[tuple[str, str, str, dict[str, Any]], ...] = (
    ("on its layer", "two on one layer: *waits*", "same", {"taken": "waits"}),
    ("on its layer", "two on one layer: *refused*", "same", {"taken": "refused"}),
    ("on its layer", "two on one layer: *takes over*", "same", {"taken": "takes over"}),
    ("above, for all its joints", "covered: *goes on*", "whole above", {"covered": "goes on"}),
    ("above, for all its joints", "covered: *waits*", "whole above", {"covered": "waits"}),
    ("above, for all its joints", "covered: *ends*", "whole above", {"covered": "ends"}),
    ("above, for some of them, or added", "(whatever it says)", "part above", {"covered": "ends"}),
    ("above, for some of them, or added", "(whatever it says)", "added above", {"covered": "waits"}),
    ("below", "one pressed below: *waits*", "below", {"under": "waits"}),
    ("below", "one pressed below: *both play*", "below", {"under": "both play"}),
    ("below", "one pressed below: *ends this*", "below", {"under": "ends this"}),
)


def project_of(quay: Project, where: str, says: dict[str, Any], way: str) -> Project:
    older = Layer(name="Older", **says)
    newer = {
        "same": older,
        "whole above": Layer(name="Newer"),
        "part above": Layer(name="Newer", mask="upper body"),
        "added above": Layer(name="Newer", mode="additive", reference="idle"),
        "below": Layer(name="Newer"),
    }[where]
    layers = (older,) if where == "same" else (newer, older) if where == "below" else (older, newer)
    exits = (Exit(start=0, end=60, kind="cancel", command="heavy", to="New"),) if way == "exit" else ()
    from_below = Action(name="Leads", layer="Ground floor", sections=(section("idle", 1.0, exits=exits),))
    old = Action(name="Old", layer="Older", sections=(section("idle", 0.5),))
    new = Action(name="New", layer=newer.name, sections=(section("idle", 0.3),))
    if way == "pressed":
        new = replace(new, start=StartRule(commands=("heavy",)))
    # The exit is of a third action, at the very bottom, of which nobody else takes notice.
    layers = (Layer(name="Ground floor", mask="nothing"), *layers)
    masks = (*quay.masks, Mask(name="nothing", joint="toes_left", weights=(("toes_left", 0.0),)))
    others = tuple(replace(a, start=StartRule()) for a in quay.actions)
    # A press is remembered for as long as anything plays here.
    commands = tuple(replace(c, buffer=60) if c.name == "heavy" else c for c in quay.commands)
    quay = replace(quay, commands=commands)
    return alone(replace(quay, actions=(*others, from_below, old, new), layers=layers, masks=masks))


def met(quay: Project, assets: Assets, where: str, says: dict[str, Any], way: str) -> str:
    """What becomes of an old action and a new one, from a play-out."""
    script: dict[int, list[Input]] = {0: [Input(OSSA, action="Leads")], 1: [Input(OSSA, action="Old")]}
    script[10] = [Input(OSSA, action="New") if way == "forced" else Input(OSSA, "heavy")]
    layers = project_of(quay, where, says, way)
    records = run(layers, assets, script, 60)
    frames = [{v.compiled.action.name: v.frame for v in r.fighter(OSSA).live()} for r in records]
    assert frames[9]["Old"] == 8
    started = next((t for t, f in enumerate(frames) if "New" in f), None)
    if started is None:
        return "the newer is refused"
    if started > 11:
        return "the newer waits"
    if "Old" not in frames[started + 1]:
        return "the older ends"
    return "the older waits" if frames[started + 4]["Old"] == frames[started]["Old"] else "both play"


def a_row(quay: Project, assets: Assets, row: tuple[str, str, str, dict[str, Any]]) -> str:
    who, says, where, fields = row
    return " | ".join((f"| {who}", says, *(met(quay, assets, where, fields, way) for way in WAYS))) + " |"


@pytest.mark.parametrize("row", ROWS, ids=lambda row: f"{row[2]}, {next(iter(row[3].values()))}")
def test_the_table_of_every_pair_is_what_is_played(
    row: tuple[str, str, str, dict[str, Any]], quay: Project, assets: Assets
) -> None:
    written = a_row(quay, assets, row)
    words = DOCS.read_text(encoding="utf-8")
    assert "\n".join(HEAD) in words
    assert written in words, f"docs/semantics.md should say:\n{written}"


def test_what_waited_goes_on_where_it_stood(quay: Project, assets: Assets) -> None:
    project = project_of(quay, "whole above", {"covered": "waits"}, "pressed")
    script = {1: [Input(OSSA, action="Old")], 10: [Input(OSSA, "heavy")]}
    records = run(project, assets, script, 70)
    frames = [{v.compiled.action.name: v.frame for v in r.fighter(OSSA).live()} for r in records]
    stood = [f["Old"] for f in frames if "Old" in f]
    # Every frame of it is shown, one after the other, and one of them for as long as it waited.
    assert sorted(set(stood)) == list(range(30))
    assert stood == sorted(stood)
    new = sum("New" in f for f in frames)
    assert new == 18
    assert len(stood) == 30 + new


def test_no_action_begins_anew_by_its_own_command_even_where_the_newer_takes_over(
    quay: Project, assets: Assets
) -> None:
    again = Action(name="Old", layer="Older", sections=(section("idle", 0.5),), start=StartRule(commands=("heavy",)))
    project = project_of(quay, "same", {"taken": "takes over"}, "pressed")
    project = replace(
        project, actions=tuple(again if a.name == "Old" else a for a in project.actions if a.name != "New")
    )
    mash = {t: [Input(OSSA, "heavy")] for t in range(0, 25, 3)}
    frames = [[v.frame for v in r.fighter(OSSA).live()] for r in run(project, assets, mash, 28)]
    assert frames == [[t] for t in range(28)]


def test_every_word_a_layer_has_for_it_stands_in_the_table() -> None:
    from typing import get_args, get_type_hints

    hints = get_type_hints(Layer)
    for field in ("taken", "under", "covered"):
        said = {row[3][field] for row in ROWS if field in row[3] and not row[1].startswith("(")}
        assert said == set(get_args(hints[field]))
