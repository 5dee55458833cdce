"""What is done to the open action where the playhead is: spans put there, proposals taken, clips added."""

from __future__ import annotations

from veergust.core.edit import (
    WHOLE,
    Edit,
    SpanRef,
    add,
    add_run,
    add_section,
    break_without_floor,
    change_cut,
    fit_boxes,
    new_action,
)
from veergust.core.play import active
from veergust.core.study import SHARE, goes_on, striking_mount
from veergust.core.trouble import Trouble
from veergust.desk.document.document import Document

NEW_LENGTH = 4


def take_clips(document: Document, names: list[str], together: bool) -> None:
    """A section of each clip at the end of the open action, or one of all of them ``together``; a new action when
    none is open."""
    assets = document.build.assets
    if document.compiled is None:
        edit, action = new_action(document.project, assets, names[0])
        document.apply(edit)
        document.choose_action(action)
        names = names[1:]
    compiled = document.compiled
    if compiled is None or not names:
        return
    project = document.base
    if together and len(names) > 1:
        document.apply(add_run(project, assets, compiled.action.name, names))
        return
    for name in names:
        project = add_section(project, assets, compiled.action.name, name).project
    document.apply(Edit(project, f"{compiled.action.name}: {', '.join(names)} added"))


def accept_hint(document: Document) -> None:
    """Do what the proposal nearest to the playhead says; breaks lie beside all others, and are taken by themselves."""
    compiled = document.compiled
    hints = [h for h in document.derived.hints() if h.kind != "break"]
    found = sorted(hints, key=lambda h: abs(h.start - document.frame))
    if compiled is None or not found:
        document.said.emit("The numbers of this action propose nothing.", False)
        return
    hint = found[0]
    section, tick = compiled.locate(hint.start)
    if hint.kind == "strike":
        ref = SpanRef(compiled.action.name, section, "strikes", 0)
        end = min(tick + hint.end - hint.start, compiled.sections[section].ticks)
        mount = striking_mount(document.build, compiled, hint.start, hint.end)
        edit, new = add(document.project, ref, tick, end, mount)
        document.apply(edit)
        document.select(new)
    else:
        part = compiled.sections[section]
        at = next(i for i, c in reversed(list(enumerate(part.cuts))) if c.first <= tick)
        field = "start" if part.cuts[at].end < part.cuts[at].start else "end"
        edit = change_cut(
            document.project, document.build.assets, compiled.action.name, section, at,
            f"ends at {hint.start}", **{field: round(float(part.source[tick]), 9)},
        )  # fmt: skip
        document.apply(edit)
    document.move_to(hint.start)


def accept_breaks(document: Document) -> None:
    """Put a break into every section that would go on in the air."""
    compiled = document.compiled
    bare = goes_on(document.build, compiled)[1] if compiled is not None else []
    if compiled is None or not bare:
        document.said.emit("This action does not go on in the air: no break is proposed.", False)
        return
    document.apply(break_without_floor(document.project, compiled, bare))


def strike_here(document: Document) -> SpanRef | None:
    """The selected strike, else the one that is open under the playhead; None without one."""
    selected, compiled = document.selection, document.compiled
    if selected is not None and selected.kind == "strikes":
        return selected
    if compiled is None or not compiled.path:
        return None
    section, tick = compiled.locate(document.frame)
    open_ = active(compiled.sections[section].section.strikes, tick)
    return SpanRef(compiled.action.name, section, "strikes", open_[0]) if open_ else None


def fit_here(document: Document, share: float = SHARE, mount: str = "") -> None:
    """Fit hitboxes to what the strike that is here sweeps."""
    ref = strike_here(document)
    if ref is None:
        document.said.emit("Select a strike, or stand where one is open: its hitboxes are fitted.", False)
        return
    try:
        document.apply(fit_boxes(document.build, ref, share, mount))
    except Trouble as trouble:
        document.said.emit(str(trouble), True)
    else:
        document.select(ref)


def add_here(
    document: Document, column: str, *, whole: bool = False, pointed: bool = False, for_all: bool = False
) -> bool:
    """Put a new span of a column on the playhead, over the ``whole`` section there, just where it was ``pointed`` at,
    or ``for_all`` of the action; whether that was done."""
    compiled = document.compiled
    if compiled is None or not compiled.path:
        return False
    if for_all:
        try:
            edit, new = add(document.project, SpanRef(compiled.action.name, WHOLE, column, 0), 0, 1)
        except Trouble as trouble:
            document.said.emit(str(trouble), True)
            return False
        document.apply(edit)
        document.select(new)
        return True
    section, tick = compiled.locate(document.frame)
    ref = SpanRef(compiled.action.name, section, column, 0)
    end = min(tick + NEW_LENGTH, compiled.sections[section].ticks)
    mount = ""
    if column == "strikes":
        first = compiled.start_of(section)
        mount = striking_mount(document.build, compiled, first + tick, first + end)
    edit, new = add(document.project, ref, tick, end, mount, compiled=compiled, whole=whole, pointed=pointed)
    document.apply(edit)
    document.select(new)
    return True
