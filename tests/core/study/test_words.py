"""The plain words of the Now card."""

from __future__ import annotations

import pytest
from tools.made.edits import replace, with_action, with_section

from veergust.core.kinds.conditions import sentence
from veergust.core.kinds.spans.exits import note_of
from veergust.core.model import Condition, Drive, Exit, Gate, Hold, Project, Setting, Shield
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.study.now import now, ordinal, phase_of


@pytest.mark.parametrize(
    ("condition", "words"),
    [
        (Condition(test="on_floor"), "feet on the floor"),
        (Condition(test="on_floor", op="==", value=0.0), "no floor under the feet"),
        (Condition(test="on_floor", op="!=", value=1.0), "no floor under the feet"),
        (Condition(test="held", name="guard"), "guard held"),
        (Condition(test="released", name="guard"), "guard let go"),
        (Condition(test="pressed", name="light", value=0.0), "light not pressed"),
        (Condition(test="contact"), "touched"),
        (Condition(test="speed", op=">", value=2.5), "speed > 2.5 m/s"),
        (Condition(test="parameter", name="heat", op=">=", value=3.0), "heat >= 3"),
        (Condition(test="distance", op="<", value=1.25), "target < 1.25 m away"),
    ],
)
def test_a_condition_is_a_sentence(condition: Condition, words: str) -> None:
    assert sentence((condition,)) == words
    assert sentence((condition, condition)) == f"{words} and {words}"


def test_ordinals() -> None:
    assert [ordinal(n) for n in (1, 2, 3, 4, 11, 12, 13, 21, 22, 101, 111)] == [
        "1st", "2nd", "3rd", "4th", "11th", "12th", "13th", "21st", "22nd", "101st", "111th",
    ]  # fmt: skip


def test_every_kind_of_span_has_its_line(quay: Project, assets: Assets) -> None:
    project = with_section(
        quay, "Low sweep", 1,
        gates=(Gate(start=0, end=6, to="Settle", conditions=(Condition(test="released", name="light"),)),),
        shields=(Shield(start=0, end=6, kind="armour", hurtboxes=("chest",)),),
        holds=(Hold(start=0, end=6, setting="turn"), Hold(start=0, end=6, setting="jump", value=2.0)),
        drives=(Drive(start=0, end=6, kind="ballistic"),),
    )  # fmt: skip
    build = CompiledProject(with_action(project, "Low sweep", holds=(Setting(setting="swim", value=1.0),)), assets)
    compiled = build.action("Low sweep")
    assert compiled is not None
    lines = {(i.role, i.says, i.note) for i in now(build, compiled, 10).items}
    assert ("gate", "light let go → Settle", "until 14") in lines
    assert ("shield", "takes hits without reeling (chest)", "until 14") in lines
    assert ("hold", "the body does not turn with the stick", "until 14") in lines
    assert ("hold", "jump is held at 2", "until 14") in lines
    assert ("hold", "swim is held at 1", "until the action ends") in lines
    assert any(says.endswith("now it flies on") for role, says, _ in lines if role == "drive")


def test_the_small_print_of_an_exit() -> None:
    plain = Exit(start=0, end=4, command="light", to="Thrust", early=False)
    assert note_of(plain, 8) == ""
    assert note_of(replace(plain, early=True), 8) == "early press counts, 8 f"
    asked = replace(plain, contact="hit", conditions=(Condition(test="on_floor"),))
    assert note_of(asked, 8) == "after a hit only · if feet on the floor"
    assert note_of(replace(plain, kind="break"), 8) == "breaks at once"


def test_phases_with_a_gap_between_strikes(quay: Project, assets: Assets) -> None:
    strike = quay.actions[0].sections[1].strikes[0]
    two = (strike, replace(strike, start=8, end=10))
    compiled = CompiledProject(with_section(quay, "Low sweep", 1, strikes=two), assets).action("Low sweep")
    assert compiled is not None
    assert [phase_of(compiled, f)[0] for f in (0, 8, 9, 12, 13, 15, 16, 17, 18, 45)] == [
        "startup", "startup", "active", "active", "gap", "gap", "active", "active", "recovery", "recovery",
    ]  # fmt: skip
    assert phase_of(compiled, 17)[1:] == (6, 6)
    fall = CompiledProject(quay, assets).action("Fall")
    assert fall is not None
    assert phase_of(fall, 3)[0] == "no strike"


def test_the_card_says_what_a_layer_speaks_for(quay: Project, assets: Assets) -> None:
    build = CompiledProject(quay, assets)
    for name, wanted in (
        ("Low sweep", None),
        ("Staff jab", "upper body only · what is under it keeps the legs"),
        ("Flinch", "added to what goes on · upper body"),
    ):
        compiled = build.action(name)
        assert compiled is not None
        says = [i.says for i in now(build, compiled, 3).items]
        assert [w for w in says if "upper body" in w] == ([wanted] if wanted else [])
        assert ("locomotion goes on moving the body" in says) == bool(wanted)
