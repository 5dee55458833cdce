"""Who stands where on the stage, and what stands about: fighters, posts, and what the touches of a string come to."""

from __future__ import annotations

import re
from typing import Any, TypeVar

from msgspec.structs import replace

from veergust.core.edit.names import free, typed
from veergust.core.edit.spans import Edit
from veergust.core.model import Drill, Fighter, KeptTake, Post, Project
from veergust.core.trouble import Trouble

Played = TypeVar("Played", Drill, KeptTake)
MOST = 16
"""So many fighters stand on a stage at most."""
BESIDE = 1.2
"""Whoever is new stands so far (m) beside the one it is like."""


def add_fighter(project: Project, like: str = "") -> tuple[Edit, str]:
    """One more fighter, who stands beside ``like`` and only stands; and its name.

    Raises:
        Trouble: there are as many as there may be.
    """
    fighters = project.stage.fighters
    if len(fighters) >= MOST:
        raise Trouble(f"{MOST} fighters are as many as there may be", field="fighters", do="take one away first")
    near = next((f for f in fighters if f.name == like), fighters[-1] if fighters else Fighter(name=""))
    x, y, z = near.position
    name = free("Target", _taken(project))
    made = replace(near, name=name, position=(x, y, z + BESIDE), plays="stands", answer="", team="")
    return _with(project, f"{name} stands there", fighters=(*fighters, made)), name


def set_fighter(project: Project, name: str, /, **changes: Any) -> Edit:
    """A fighter with other fields; a new name goes along in drills. Whoever is given the keys takes them, as does the
    second player.

    Raises:
        Trouble: there is none of that name, or another has the new one.
    """
    found = _fighter(project, name)
    if "name" in changes:
        changes["name"] = typed(changes["name"], name, _taken(project) - {name}, "fighter")
    made = replace(found, **changes)
    fighters = tuple(made if f.name == name else f for f in project.stage.fighters)
    if changes.get("plays") in ("keys", "second"):
        fighters = tuple(replace(f, plays="stands") if f.plays == made.plays and f is not made else f for f in fighters)
    edit = _with(project, f"{made.name}: {', '.join(changes)}", fighters=fighters)
    if made.name == name:
        return edit
    drills = tuple(_renamed(drill, name, made.name) for drill in project.drills)
    takes = tuple(_renamed(take, name, made.name) for take in project.takes)
    return Edit(replace(edit.project, drills=drills, takes=takes), edit.words)


def remove_fighter(project: Project, name: str) -> Edit:
    """The stage without a fighter. Raises ``Trouble`` while a drill or a take of this stage has it play."""
    _fighter(project, name)
    played: tuple[Drill | KeptTake, ...] = (*project.drills, *project.takes)
    here = [d for d in played if d.stage in ("", project.stage.name)]
    expected = {d.name for d in project.drills if name in {e.fighter for e in d.expect}}
    users = [d.name for d in here if name in {s.fighter for s in d.steps} or d.name in expected]
    if users:
        raise Trouble(f"{name} plays in {', '.join(users)}", field="fighter", do="change those drills first")
    return _with(project, f"{name} is gone", fighters=tuple(f for f in project.stage.fighters if f.name != name))


def add_post(project: Project) -> tuple[Edit, str]:
    """One more post, and its name."""
    name = free("post", _taken(project))
    return _with(project, f"{name} stands there", posts=(*project.stage.posts, Post(name=name))), name


def set_post(project: Project, name: str, /, **changes: Any) -> Edit:
    """A post with other fields. Raises ``Trouble`` as ``set_fighter``."""
    found = next((p for p in project.stage.posts if p.name == name), None)
    if found is None:
        raise Trouble(f"there is no post {name!r}", field="post", do="choose one that is there")
    if "name" in changes:
        changes["name"] = typed(changes["name"], name, _taken(project) - {name}, "post")
    made = replace(found, **changes)
    posts = tuple(made if p.name == name else p for p in project.stage.posts)
    return _with(project, f"{made.name}: {', '.join(changes)}", posts=posts)


def remove_post(project: Project, name: str) -> Edit:
    """The stage without a post."""
    return _with(project, f"{name} is gone", posts=tuple(p for p in project.stage.posts if p.name != name))


def set_scaling(project: Project, **changes: float) -> Edit:
    """What the second and each further touch of a string comes to."""
    scaling = replace(project.settings.scaling, **changes)
    return Edit(replace(project, settings=replace(project.settings, scaling=scaling)), f"Strings: {', '.join(changes)}")


def _with(project: Project, words: str, **changes: Any) -> Edit:
    return Edit(replace(project, stage=replace(project.stage, **changes)), words)


def _taken(project: Project) -> set[str]:
    """The names of all that stands there: a take calls a post as it does a fighter."""
    return {f.name for f in project.stage.fighters} | {p.name for p in project.stage.posts}


def _fighter(project: Project, name: str) -> Fighter:
    found = next((f for f in project.stage.fighters if f.name == name), None)
    if found is None:
        raise Trouble(f"there is no fighter {name!r}", field="fighter", do="choose one that is there")
    return found


def _renamed(drill: Played, old: str, new: str) -> Played:
    steps = tuple(replace(s, fighter=new) if s.fighter == old else s for s in drill.steps)
    word = re.compile(rf"(?<!\w){re.escape(old)}(?!\w)")
    came = tuple(replace(line, says=word.sub(lambda _: new, line.says)) for line in drill.came)
    if isinstance(drill, KeptTake):
        return replace(drill, steps=steps, came=came)
    expect = tuple(
        replace(e, fighter=new if e.fighter == old else e.fighter, victim=new if e.victim == old else e.victim)
        for e in drill.expect
    )
    return replace(drill, steps=steps, expect=expect, came=came)
