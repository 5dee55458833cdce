"""Commands: their keys, their gestures, their names wherever they are asked for."""

from __future__ import annotations

import pytest
from tools.made.edits import replace

from veergust.core.edit.commands import (
    GESTURES,
    add_command,
    bind,
    change_gesture,
    remove_command,
    rename_command,
    set_gesture,
    unbind,
)
from veergust.core.edit.spans import Edit
from veergust.core.files.text import to_text
from veergust.core.kinds.commands import asked_for
from veergust.core.model import Command, Gesture, Project
from veergust.core.trouble import Trouble


def of(project: Project, name: str) -> Command:
    return next(c for c in project.commands if c.name == name)


def test_keys_are_bound_taken_over_and_let_go(quay: Project) -> None:
    key = of(quay, "light").keys[0]
    with pytest.raises(Trouble, match=f"{key} is the key of light"):
        bind(quay, "heavy", key)
    taken = bind(quay, "heavy", key, take_over=True).project
    assert key in of(taken, "heavy").keys
    assert key not in of(taken, "light").keys
    assert key not in of(unbind(taken, "heavy", key).project, "heavy").keys


@pytest.mark.parametrize("kind", sorted(GESTURES))
def test_each_gesture_begins_with_what_it_can_be_made_of(quay: Project, kind: str) -> None:
    project = add_command(quay, "special").project
    made = set_gesture(project, "special", kind).project
    gesture = of(made, "special").gesture
    assert gesture is not None
    assert gesture.kind == kind
    assert len(gesture.of) == (2 if kind == "together" else 1)
    assert "special" not in gesture.of
    # Another kind keeps the commands it is made of; a press has none.
    other = of(set_gesture(made, "special", "double").project, "special").gesture
    assert other is not None
    assert other.of == gesture.of[:1]
    assert of(set_gesture(made, "special", "").project, "special").gesture is None
    lone = replace(quay, commands=(Command(name="special"),))
    with pytest.raises(Trouble, match="too few"):
        set_gesture(lone, "special", kind)


def test_a_gesture_nobody_can_make_is_refused(quay: Project) -> None:
    project = set_gesture(add_command(quay, "both").project, "both", "together").project
    for fields, says in (({"of": ()}, "needs something"), ({"of": ("light", "light")}, "together with itself")):
        with pytest.raises(Trouble, match=says):
            change_gesture(project, "both", "of", **fields)
    with pytest.raises(Trouble, match="is a press"):
        change_gesture(project, "light", "of", of=("heavy",))
    still = change_gesture(project, "both", "kind", kind="motion", ways=("left", "right"), of=())
    assert of(still.project, "both").gesture == Gesture(kind="motion", ways=("left", "right"), of=(), within=3)


def test_a_new_name_goes_wherever_the_command_is_asked_for(quay: Project) -> None:
    project = set_gesture(add_command(quay, "both").project, "both", "together").project
    project = change_gesture(project, "both", "of", of=("light", "heavy")).project
    for old in [c.name for c in project.commands]:
        edit: Edit = rename_command(project, old, "zzz")
        assert b"zzz" in to_text(edit.project)
        swapped = {("zzz" if n == old else n) for n in asked_for(project)}
        assert asked_for(edit.project) == swapped
        assert rename_command(edit.project, "zzz", old).project == project
    with pytest.raises(Trouble, match="already"):
        rename_command(project, "light", "heavy")


def test_a_command_that_is_asked_for_stays(quay: Project) -> None:
    project = set_gesture(add_command(quay, "both").project, "both", "together").project
    project = change_gesture(project, "both", "of", of=("light", "heavy")).project
    with pytest.raises(Trouble, match="asks for 'light'"):
        remove_command(project, "light")
    left = remove_command(project, "both").project
    assert [c.name for c in left.commands] == [c.name for c in quay.commands]
