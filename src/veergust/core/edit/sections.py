"""Sections made, named, ordered, split, joined; whatever names one follows."""

from __future__ import annotations

import re
from typing import Any

from msgspec.structs import replace

from veergust.core.edit.alternates import throughout
from veergust.core.edit.cuts import halves, lay, length, with_action
from veergust.core.edit.spans import Edit, action_of, with_keys_moved
from veergust.core.kinds import SPANS, kept_identity
from veergust.core.model import Action, Cut, Event, Pin, Pool, Project, Section, Strike
from veergust.core.motion import Assets, ends
from veergust.core.trouble import Trouble, Unknown, named


def free_section_name(action: Action, wish: str) -> str:
    """``wish``, or with the next free number behind it when a section has it already; never the word ``end``."""
    taken = {s.name for s in action.sections} | {"end"}
    name, n, plain = wish, 2, re.sub(r" \d+$", "", wish)
    while name in taken:
        name, n = f"{plain} {n}", n + 1
    return name


def whole_cut(project: Project, assets: Assets, clip_name: str) -> Cut:
    """A cut of all that a clip's preparation leaves."""
    clip = named(project.clips, clip_name, "clip", field="clip")
    start, end = ends(assets, clip)
    return Cut(clip=clip_name, start=start, end=end)


def add_section(
    project: Project, assets: Assets, name: str, clip: str, after: int | None = None, wish: str = ""
) -> Edit:
    """A section more, of a whole clip (of none when ``clip`` is empty), behind section ``after`` or the last.

    Its ``then`` is end; nothing plays on into it before somebody says so.
    """
    action = action_of(project, name)
    cuts = (whole_cut(project, assets, clip),) if clip else ()
    made = free_section_name(action, wish or (clip.replace("_", " ").capitalize() if clip else "Section"))
    at = len(action.sections) if after is None else after + 1
    sections = (*action.sections[:at], Section(name=made, cuts=cuts), *action.sections[at:])
    return Edit(with_action(project, replace(action, sections=sections)), f"{name}: new section {made}")


def _followed(action: Action, old: str, new: str) -> Action:
    """The action with its own mentions of a section under another name."""
    return replace(
        action,
        entry=new if action.entry == old else action.entry,
        sections=tuple(
            replace(
                s,
                name=new if s.name == old else s.name,
                identity=kept_identity(s, new) if s.name == old else s.identity,
                then=new if s.then == old else s.then,
                **{kind.key: tuple(kind.led(span, old, new) for span in kind.of(s)) for kind in SPANS.values()},
            )
            for s in action.sections
        ),
    )


def rename_section(project: Project, name: str, index: int, new: str) -> Edit:
    """A section under another name; ``then``, gates, exits, reactions and pools that name it follow.

    A pool keeps a name that is another action's, or a section's of another action, as well.
    """
    action = action_of(project, name)
    old, new = action.sections[index].name, new.strip()
    if not new or new == "end":
        raise Trouble("a section needs a name of its own", field="name", do="type one that is not “end”")
    if new != old and new in {s.name for s in action.sections}:
        raise Trouble(f"there is a section {new!r} already", field="name", do="choose another name")
    changed = with_action(project, _followed(action, old, new))

    def other(a: Action) -> Action:
        def leads(e: Any) -> bool:
            return bool(e.to_kind == "action" and e.to == name and e.section == old)

        if not any(leads(e) for s in a.sections for e in s.exits):
            return a
        return replace(
            a,
            sections=tuple(
                replace(s, exits=tuple(replace(e, section=new) if leads(e) else e for e in s.exits)) for s in a.sections
            ),
        )

    changed = replace(
        changed,
        actions=tuple(throughout(a, other) for a in changed.actions),
        reactions=tuple(
            replace(r, section=new) if r.action == name and r.section == old else r for r in changed.reactions
        ),
        pools=_pools_followed(changed, old, new),
    )
    return Edit(changed, f"{name} › {old}: renamed {new}")


def _pools_followed(project: Project, old: str, new: str) -> tuple[Pool, ...]:
    """The pools with a section's new name, where no action and no other section has the old one."""
    if any(a.name == old or any(s.name == old for s in a.sections) for a in project.actions):
        return project.pools
    return tuple(
        replace(p, items=tuple(replace(i, name=new) if i.name == old else i for i in p.items))
        if any(i.name == old for i in p.items)
        else p
        for p in project.pools
    )


def set_then(project: Project, name: str, index: int, then: str) -> Edit:
    """What a section goes on to: another, itself, one that a pool picks, or ``end``."""
    action = action_of(project, name)
    section = action.sections[index]
    names = {s.name for s in action.sections}
    pools = {p.name for p in project.pools if names & {i.name for i in p.items}}
    if then not in {"end", *names, *pools}:
        raise Unknown("section", then, ["end", *(s.name for s in action.sections), *pools], field="then")
    sections = tuple(replace(s, then=then) if i == index else s for i, s in enumerate(action.sections))
    goes = "loops" if then == section.name else f"→ {then}" if then in {"end", *names} else f"→ one of {then}"
    return Edit(with_action(project, replace(action, sections=sections)), f"{name} › {section.name}: {goes}")


def set_mark(project: Project, name: str, index: int, mark: Any) -> Edit:
    """A section marked with an ink, or with none."""
    action = action_of(project, name)
    section = action.sections[index]
    sections = tuple(replace(s, mark=mark) if i == index else s for i, s in enumerate(action.sections))
    words = f"{name} › {section.name}: marked {mark}" if mark else f"{name} › {section.name}: not marked"
    return Edit(with_action(project, replace(action, sections=sections)), words)


def set_posture(project: Project, name: str, index: int, posture: Any) -> Edit:
    """How the body stands in a section, as far as touching goes; empty: as locomotion says."""
    action = action_of(project, name)
    section = action.sections[index]
    sections = tuple(replace(s, posture=posture) if i == index else s for i, s in enumerate(action.sections))
    words = f"{name} › {section.name}: {posture or 'stands as locomotion says'}"
    return Edit(with_action(project, replace(action, sections=sections)), words)


def add_run(project: Project, assets: Assets, name: str, clips: list[str]) -> Edit:
    """One section more of several clips, one after the other."""
    action = action_of(project, name)
    made = free_section_name(action, "Section")
    section = Section(name=made, cuts=tuple(whole_cut(project, assets, clip) for clip in clips))
    changed = replace(action, sections=(*action.sections, section))
    return Edit(with_action(project, changed), f"{name}: new section {made} of {', '.join(clips)}")


def set_entry(project: Project, name: str, index: int) -> Edit:
    """The section an action starts with."""
    action = action_of(project, name)
    section = action.sections[index].name
    return Edit(
        with_action(project, replace(action, entry="" if index == 0 else section)), f"{name}: starts with {section}"
    )


def move_section(project: Project, name: str, index: int, to: int) -> Edit:
    """A section at another place; the entry stays the section it was."""
    action = action_of(project, name)
    entry = action.entry or (action.sections[0].name if action.sections else "")
    sections = list(action.sections)
    moved = sections.pop(index)
    to = min(max(to, 0), len(sections))
    sections.insert(to, moved)
    entry = "" if sections[0].name == entry else entry
    made = replace(action, sections=tuple(sections), entry=entry)
    return Edit(with_action(project, made), f"{name} › {moved.name}: moved to {to + 1}")


def duplicate_section(project: Project, name: str, index: int) -> Edit:
    """A section with all that stands on it once more, right behind itself; a loop loops into the copy's own start."""
    action = action_of(project, name)
    section = action.sections[index]
    new = free_section_name(action, section.name)
    copy = replace(section, name=new, then=new if section.then == section.name else section.then)
    sections = (*action.sections[: index + 1], copy, *action.sections[index + 1 :])
    return Edit(with_action(project, replace(action, sections=sections)), f"{name} › {section.name}: duplicated")


def remove_section(project: Project, name: str, index: int) -> Edit:
    """The action without a section. What went on into it goes where it went on to; gates into it close."""
    action = action_of(project, name)
    gone = action.sections[index]
    onward = gone.then if gone.then != gone.name else "end"

    def left(s: Section) -> dict[str, tuple[Any, ...]]:
        return {k.key: tuple(x for x in k.of(s) if not k.is_to(x, gone.name)) for k in SPANS.values() if k.leads_to}

    shut = sum(k.is_to(x, gone.name) for s in action.sections if s is not gone for k in SPANS.values() for x in k.of(s))
    sections = tuple(
        replace(
            s,
            then=onward if s.then == gone.name else s.then,
            **left(s),
        )
        for i, s in enumerate(action.sections)
        if i != index
    )
    made = replace(action, sections=sections, entry="" if action.entry == gone.name else action.entry)
    notes = (f"{shut} gate{'s' if shut > 1 else ''} to {gone.name} went with it.",) if shut else ()
    return Edit(with_action(project, made), f"{name} › {gone.name}: removed", notes)


def split_section(project: Project, assets: Assets, name: str, index: int, tick: int) -> Edit:
    """A section in two at a tick; the first goes on into the second.

    Spans over the line are cut in two with it, but a strike stays whole on the side that has more of it, for two
    strikes would touch twice.
    """
    action = action_of(project, name)
    section = action.sections[index]
    laid = lay(project, assets, section.cuts, action.speed)
    total = length(laid)
    if not 0 < tick < total or not section.cuts:
        raise Trouble("a section is split inside itself", field="section", do="put the playhead past its first frame")
    before: list[Cut] = []
    after: list[Cut] = []
    for cut, place in zip(section.cuts, laid):
        if place.first + place.ticks <= tick:
            before.append(cut)
        elif place.first >= tick:
            after.append(cut)
        else:
            one, two = halves(cut, place, tick)
            before.append(one)
            after.append(two)
    notes: list[str] = []
    first, second = _shared_out(section, tick, total, notes)
    new = free_section_name(action, section.name)
    then = new if section.then == section.name else section.then
    one_ = replace(section, cuts=tuple(before), then=new, **first)
    # A loop of the whole goes on looping through both.
    two_ = Section(name=new, cuts=tuple(after), then=section.name if section.then == section.name else then, **second)
    sections = (*action.sections[:index], one_, two_, *action.sections[index + 1 :])
    made = with_action(project, replace(action, sections=sections))
    return Edit(made, f"{name} › {section.name}: split at {tick}", tuple(notes))


def _shared_out(section: Section, tick: int, total: int, notes: list[str]) -> tuple[dict[str, Any], dict[str, Any]]:
    first: dict[str, Any] = {}
    second: dict[str, Any] = {}
    for kind in SPANS:
        here: list[Any] = []
        there: list[Any] = []
        for span in getattr(section, kind):
            if isinstance(span, Event):
                (here if span.tick < tick else there).append(
                    span if span.tick < tick else replace(span, tick=span.tick - tick)
                )
            elif span.end <= tick:
                here.append(span)
            elif span.start >= tick:
                there.append(_shifted(span, -tick))
            elif isinstance(span, Strike):
                if tick - span.start >= span.end - tick:
                    here.append(replace(span, end=tick, end_pin=Pin(to=span.end_pin.to)))
                    notes.append(f"{span.name} closes at the split.")
                else:
                    there.append(replace(_shifted(span, -tick), start=0, start_pin=Pin(to=span.start_pin.to)))
                    notes.append(f"{span.name} opens at the split.")
            else:
                here.append(replace(span, end=tick, end_pin=Pin(to=span.end_pin.to)))
                there.append(replace(_shifted(span, -tick), start=0, start_pin=Pin(to=span.start_pin.to)))
        first[kind], second[kind] = tuple(here), tuple(there)
    return first, second


def _shifted(span: Any, by: int) -> Any:
    if isinstance(span, Event):
        return replace(span, tick=span.tick + by)
    return with_keys_moved(replace(span, start=span.start + by, end=span.end + by), by)


def join_sections(project: Project, assets: Assets, name: str, index: int) -> Edit:
    """A section joined with the one behind it, cuts and spans and all; what named the second names the first."""
    action = action_of(project, name)
    if index + 1 >= len(action.sections):
        raise Trouble("there is no section behind it", field="section", do="choose an earlier one")
    one, two = action.sections[index], action.sections[index + 1]
    ticks = length(lay(project, assets, one.cuts, action.speed))
    fields: dict[str, Any] = {
        kind: (*getattr(one, kind), *(_shifted(s, ticks) for s in getattr(two, kind))) for kind in SPANS
    }
    then = one.name if two.then in (one.name, two.name) else two.then
    made = replace(one, cuts=(*one.cuts, *two.cuts), then=then, **fields)
    sections = (*action.sections[:index], made, *action.sections[index + 2 :])
    joined = _followed(replace(action, sections=sections), two.name, one.name)
    return Edit(with_action(project, joined), f"{name} › {one.name}: joined with {two.name}")
