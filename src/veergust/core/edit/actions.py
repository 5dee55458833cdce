"""Making and removing whole actions."""

from __future__ import annotations

from collections.abc import Callable

import msgspec

from veergust.core.edit.alternates import throughout
from veergust.core.edit.names import free
from veergust.core.edit.parameters import through
from veergust.core.edit.spans import Edit
from veergust.core.kinds import kept_identity
from veergust.core.model import Action, Condition, Cut, Drill, Exit, Layer, Pool, Project, Reaction, Section
from veergust.core.motion import Assets, ends
from veergust.core.play import SITUATIONS
from veergust.core.trouble import Trouble, Unknown, named


def free_name(project: Project, wish: str) -> str:
    """``wish``, or with a number behind it when an action has it already."""
    return free(wish, {a.name for a in project.actions})


def new_action(project: Project, assets: Assets, clip_name: str) -> tuple[Edit, str]:
    """A new action of one section that plays a whole clip, and its name."""
    clip = named(project.clips, clip_name, "clip")
    start, end = ends(assets, clip)
    name = free_name(project, clip_name.replace("_", " ").capitalize())
    layer = project.layers[0] if project.layers else Layer(name="Body")
    section = Section(name="All", cuts=(Cut(clip=clip_name, start=start, end=end),))
    action = Action(
        name=name, layer=layer.name, sections=(section,), blend_in=layer.blend_in, blend_out=layer.blend_out
    )
    changed = msgspec.structs.replace(project, actions=(*project.actions, action))
    return Edit(changed, f"New action {name}"), name


def rename_action(project: Project, old: str, new: str) -> Edit:
    """An action under another name; exits, pools, reactions, drills, states and conditions that name it follow.

    Raises ``Trouble`` when the name is empty or taken.
    """
    new = new.strip()
    if not new:
        raise Trouble("a name cannot be empty", field="name", do="type one")
    if new != old and new in {a.name for a in project.actions}:
        raise Trouble(f"there is an action {new!r} already", field="name", do="choose another name")
    replace = msgspec.structs.replace

    def exit_(e: Exit) -> Exit:
        return replace(e, to=new) if e.to_kind == "action" and e.to == old else e

    condition = _asking(old, new)

    def action(a: Action) -> Action:
        a = through(a, condition)
        sections = tuple(replace(s, exits=tuple(exit_(e) for e in s.exits)) for s in a.sections)
        exits = tuple(exit_(e) for e in a.exits)
        a = replace(a, sections=sections, exits=exits)
        return replace(a, name=new, identity=kept_identity(a, new)) if a.name == old else a

    def pool(p: Pool) -> Pool:
        return replace(p, items=tuple(replace(i, name=new) if i.name == old else i for i in p.items))

    drills = tuple(
        replace(
            d,
            steps=tuple(replace(s, action=new) if s.action == old else s for s in d.steps),
            expect=tuple(replace(e, action=new) if e.action == old else e for e in d.expect),
        )
        for d in project.drills
    )
    locomotion = replace(
        project.locomotion,
        states=tuple(replace(s, action=new) if s.action == old else s for s in project.locomotion.states),
        transitions=through(project.locomotion.transitions, condition),
    )
    changed = replace(
        project,
        locomotion=locomotion,
        actions=tuple(throughout(a, action) for a in project.actions),
        pools=tuple(pool(p) for p in project.pools),
        reactions=through(
            tuple(replace(r, action=new) if r.action == old else r for r in project.reactions), condition
        ),
        drills=drills,
    )
    return Edit(changed, f"{old}: renamed {new}")


def _asking(old: str, new: str) -> Callable[[object], object]:
    """Conditions that ask whether ``old`` plays, asking for ``new``."""

    def renamed(value: object) -> object:
        if isinstance(value, Condition) and (value.test, value.name) == ("plays", old):
            return msgspec.structs.replace(value, name=new)
        return value

    return renamed


def leads_to(project: Project, name: str) -> list[str]:
    """What leads to an action from outside it, in words: exits, pools, reactions, states and drills."""
    out = []
    for action in project.actions:
        for where, exits in ((s.name, s.exits) for s in action.sections):
            out += [f"{action.name} › {where} › {e.kind}" for e in exits if action.name != name and _leads(e, name)]
        out += [f"{action.name} › {e.kind}" for e in action.exits if action.name != name and _leads(e, name)]
    out += [f"pool {p.name}" for p in project.pools if any(i.name == name for i in p.items)]
    out += [f"reaction to a {_row(r)} hit" for r in project.reactions if r.action == name]
    out += [f"state {s.name}" for s in project.locomotion.states if s.action == name]
    return out + [f"drill {d.name}" for d in project.drills if _drills(d, name)]


def _leads(exit_: Exit, name: str) -> bool:
    return exit_.to_kind == "action" and exit_.to == name


def _row(reaction: Reaction) -> str:
    said = [w for w in (reaction.situation, reaction.side, reaction.strength, reaction.region) if w != "any"]
    said += [f"from {reaction.near:g} m"] if reaction.near > 0.0 else []
    said += [f"up to {reaction.far:g} m"] if reaction.far is not None else []
    said += ["conditional"] if reaction.conditions else []
    return " ".join(said) or "any"


def _drills(drill: Drill, name: str) -> bool:
    return any(s.action == name for s in drill.steps) or any(e.action == name for e in drill.expect)


def remove_action(project: Project, name: str, instead: str = "") -> Edit:
    """The project without an action.

    What leads to it leads to ``instead`` from then on; with none it is taken along: exits, items of pools, rows of
    the reaction table, and drills that name it; a state that runs it plays on without. Raises ``Unknown`` when there
    is no such action.
    """
    replace = msgspec.structs.replace
    names = {a.name for a in project.actions}
    if name not in names or (instead and (instead not in names or instead == name)):
        raise Unknown("action", instead or name, names - {name}, field="name")

    def exits(found: tuple[Exit, ...]) -> tuple[Exit, ...]:
        if not instead:
            return tuple(e for e in found if not _leads(e, name))
        return tuple(replace(e, to=instead, section="") if _leads(e, name) else e for e in found)

    asked = _asking(name, instead or name)

    def action(a: Action) -> Action:
        a = through(a, asked)
        sections = tuple(replace(s, exits=exits(s.exits)) for s in a.sections)
        return replace(a, sections=sections, exits=exits(a.exits))

    def pool(p: Pool) -> Pool:
        items = tuple(replace(i, name=instead) if i.name == name else i for i in p.items)
        return replace(p, items=tuple(i for i in items if i.name))

    reactions = (replace(r, action=instead, section="") if r.action == name else r for r in project.reactions)
    drills = project.drills
    if instead:
        drills = tuple(
            replace(
                d,
                steps=tuple(replace(s, action=instead, section="") if s.action == name else s for s in d.steps),
                expect=tuple(replace(e, action=instead) if e.action == name else e for e in d.expect),
            )
            for d in drills
        )
    changed = replace(
        project,
        actions=tuple(throughout(a, action) for a in project.actions if a.name != name),
        pools=tuple(pool(p) for p in project.pools),
        reactions=tuple(r for r in reactions if r.action),
        drills=tuple(d for d in drills if instead or not _drills(d, name)),
        locomotion=replace(
            project.locomotion,
            states=tuple(replace(s, action=instead) if s.action == name else s for s in project.locomotion.states),
            transitions=through(project.locomotion.transitions, asked),
        ),
    )
    return Edit(changed, f"Remove {name}" + (f", {instead} in its place" if instead else ""))


def place_action(project: Project, name: str, group: str, before: str = "") -> Edit:
    """An action in a group, and in the list before another (at the end of the group when there is none)."""
    moved = named(project.actions, name, "action")
    moved = msgspec.structs.replace(moved, group=group)
    rest = [a for a in project.actions if a.name != name]
    at = next((i for i, a in enumerate(rest) if a.name == before), None)
    if at is None:
        last = [i for i, a in enumerate(rest) if a.group == group]
        at = last[-1] + 1 if last else len(rest)
    rest.insert(at, moved)
    return Edit(msgspec.structs.replace(project, actions=tuple(rest)), f"{name}: put in {group or 'no group'}")


ANSWERS = {
    "": "no hit",
    "any": "any hit",
    "front": "a hit from the front",
    "back": "a hit from the back",
    "left": "a hit from the left",
    "right": "a hit from the right",
    "ducking": "a hit on one who ducks",
    "down": "a hit on one who lies",
    "air": "a hit in the air",
    "guarding": "a guarded hit",
    "guard broken": "a hit that breaks the guard",
    "deflecting": "a hit it deflects",
    "deflected": "its own strike, deflected",
    "last": "the last hit",
}
SIDES = ("front", "back", "left", "right")


def answers(project: Project, name: str) -> str | None:
    """Which hits an action is the reaction to: a key of ``ANSWERS``; None where its rows say more than one of them."""
    rows = [r for r in project.reactions if r.action == name]
    if not rows:
        return ""
    alike = [key for key in ANSWERS if key and rows == [_answering(name, key)]]
    return alike[0] if alike else None


def answers_in_words(project: Project, name: str) -> str:
    """All rows of the reaction table that an action answers to, in words."""
    rows = [r for r in project.reactions if r.action == name]
    said = [f"a {_row(r)} hit{f' → {r.section}' if r.section else ''}" for r in rows]
    return "; ".join(said) or ANSWERS[""]


def _answering(name: str, when: str) -> Reaction:
    """The row of one of ``ANSWERS``."""
    side = when if when in SIDES else "any"
    situation = when if when in SITUATIONS else "any"
    return msgspec.convert({"action": name, "side": side, "situation": situation}, Reaction)


def set_answers(project: Project, name: str, when: str) -> Edit:
    """An action as the reaction to such hits and no others. A row for one side goes before those for any.

    Raises ``Trouble`` where the action has rows that this would take away.
    """
    replace = msgspec.structs.replace
    if answers(project, name) is None:
        says = f"{name} answers {answers_in_words(project, name)}"
        raise Trouble(says, field="answers", do="those rows of the table are kept as they are")
    rows = [r for r in project.reactions if r.action != name]
    if when:
        row = _answering(name, when)
        wide = next((i for i, r in enumerate(rows) if (r.side, r.situation) == ("any", "any")), len(rows))
        rows.insert(wide if when != "any" else len(rows), row)
    return Edit(replace(project, reactions=tuple(rows)), f"{name}: answers {ANSWERS[when]}")
