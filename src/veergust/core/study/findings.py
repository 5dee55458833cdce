"""What the checks find wrong. Each finding says where, what, and what to do."""

from __future__ import annotations

from collections.abc import Iterator

from veergust.core.model import Section
from veergust.core.motion.prepared import motion_of
from veergust.core.play.compiled.action import CompiledAction
from veergust.core.play.compiled.project import Book, action_names
from veergust.core.play.rules.presses import asks
from veergust.core.study.finding import Finding
from veergust.core.study.first_poses import first_poses
from veergust.core.study.leads import in_action, in_project, led_from, never_started
from veergust.core.study.pops import pops, words
from veergust.core.study.store import Store
from veergust.core.study.windows import hitboxes, windows

SPANS = ("strikes", "exits", "gates", "shields", "holds", "drives")
ONE = {
    "strikes": "strike",
    "exits": "exit",
    "gates": "gate",
    "shields": "shield",
    "holds": "hold",
    "drives": "drive",
}


def findings(book: Book, store: Store | None = None) -> list[Finding]:
    """Everything found in a project, errors first, then in the order of the project; with a ``store`` what holds is
    not worked out again."""
    store = store or Store()
    names = action_names(book)
    out = [*store.of(found_around, book)]
    for name in names:
        out += store.of(found_in_action, book, name)
    led = frozenset[tuple[str, str]]().union(*(store.of(leads_of, book, name) for name in names))
    out += never_started(book, led)
    rank = {"error": 0, "warning": 1, "note": 2}
    return sorted(out, key=lambda f: rank[f.level])


def found_around(book: Book) -> list[Finding]:
    """What is found in the rig, the clips, locomotion and the lists of a project."""
    return [*_rig(book), *_clips(book), *_ground(book), *in_project(book)]


def found_in_action(book: Book, name: str) -> list[Finding]:
    """What is found in one action."""
    compiled = book.action(name)
    return list(_action(book, compiled)) if compiled is not None else []


def leads_of(book: Book, name: str) -> frozenset[tuple[str, str]]:
    """What the exits of an action lead to: kinds and names."""
    compiled = book.action(name)
    return led_from(compiled.action) if compiled is not None else frozenset()


def _joint(book: Book, name: str, where: str, what: str) -> Iterator[Finding]:
    index = book.cast.skeleton.index
    if name and name not in index and name not in book.mounts and len(book.cast.skeleton):
        near = next((n for n in [*book.mounts, *index] if n.lower() == name.lower()), None)
        do = f"write it {near!r}, as the figure has it" if near else "choose a joint or mount of the figure"
        yield Finding("joint-unknown", "error", where, f"{what} {name!r} is not in the rig", do)


def _rig(book: Book) -> Iterator[Finding]:
    rig = book.project.rig
    for mount in rig.mounts:
        yield from _joint(book, mount.joint, f"rig › mount {mount.name}", "joint")
    for hurtbox in rig.hurtboxes:
        yield from _joint(book, hurtbox.joint, f"rig › hurtbox {hurtbox.name}", "joint")
    for mask in book.project.masks:
        yield from _joint(book, mask.joint, f"mask {mask.name}", "joint")
        for joint, _ in mask.weights:
            yield from _joint(book, joint, f"mask {mask.name}", "joint")
    if rig.root and len(book.cast.skeleton) and rig.root not in book.cast.skeleton.index:
        yield from _joint(book, rig.root, "rig › root", "joint")


def _clips(book: Book) -> Iterator[Finding]:
    for clip in book.project.clips:
        if motion_of(book.cast, clip) is None:
            yield Finding(
                "clip-missing",
                "error",
                f"clip {clip.name}",
                f"its file {clip.file} is gone or has no animation {clip.animation!r}",
                "bring the file back, or import it again",
            )


def _ground(book: Book) -> Iterator[Finding]:
    for state in book.project.ground.states:
        for name in [state.clip, *(p.clip for p in state.blend)]:
            if name and book.clip(name) is None:
                yield Finding(
                    "clip-missing",
                    "error",
                    f"ground › {state.name}",
                    f"names the clip {name!r}, which the project does not have",
                    "import the clip or choose another",
                )


def _action(book: Book, compiled: CompiledAction) -> Iterator[Finding]:
    action = compiled.action
    if action.layer not in book.layers:
        yield Finding(
            "layer-missing",
            "error",
            action.name,
            f"no layer {action.layer!r} shows it",
            "choose a layer of the project",
        )
    if not action.sections:
        yield Finding("action-empty", "warning", action.name, "has no section", "drop a clip on its sheet")
    for name in action.start.commands:
        if name not in book.commands:
            yield Finding(
                "command-unknown",
                "error",
                f"{action.name} › start",
                f"names the command {name!r}, which the project does not have",
                "add the command or choose another",
            )
    for part in compiled.sections:
        yield from _section(book, compiled, part.section, part.ticks)
    yield from first_poses(book, compiled)
    yield from in_action(book, action)
    yield from windows(book, compiled)
    yield from hitboxes(book, compiled)
    for pop in pops(book, compiled):
        where = f"{action.name} › {pop.section} › frame {pop.at}"
        yield Finding(pop.code, "warning", where, words(pop), pop.do)
    yield from _loops(compiled)


def _section(book: Book, compiled: CompiledAction, section: Section, ticks: int) -> Iterator[Finding]:
    where = f"{compiled.action.name} › {section.name}"
    for cut in section.cuts:
        if book.clip(cut.clip) is None:
            yield Finding(
                "clip-missing",
                "error",
                where,
                f"names the clip {cut.clip!r}, which the project does not have",
                "import the clip or choose another",
            )
    if section.then != "end" and not compiled.ways(section.then):
        yield Finding(
            "section-missing", "error", where, f"goes on to {section.then!r}, no section here and no pool of some",
            "choose a section, a pool or end",
        )  # fmt: skip
    for kind in SPANS:
        for i, span in enumerate(getattr(section, kind)):
            label = getattr(span, "name", "") or f"{ONE[kind]} {i + 1}"
            if span.start < 0 or span.end > ticks or span.end <= span.start:
                code = "strike-outside" if kind == "strikes" else "span-outside"
                yield Finding(
                    code,
                    "error" if kind == "strikes" else "warning",
                    f"{where} › {label}",
                    f"lies on {span.start} to {span.end}, and the section has frames 0 to {ticks}",
                    "drag its edges back into the section",
                )
    for gate in section.gates:
        if not compiled.ways(gate.to):
            yield Finding("gate-target-missing", "error", f"{where} › gate",
                          f"leads to {gate.to!r}, no section here and no pool of some",
                          "choose a section or a pool")  # fmt: skip
    for strike in section.strikes:
        if not strike.boxes:
            yield Finding("strike-empty", "warning", f"{where} › {strike.name}", "has no hitbox",
                          "give it a hitbox on a mount")  # fmt: skip
        for box in strike.boxes:
            yield from _joint(book, box.mount, f"{where} › {strike.name}", "mount")
    for exit_ in section.exits:
        target = book.action(exit_.to) if exit_.to_kind == "action" else None
        if exit_.to_kind == "action" and target is None:
            yield Finding("exit-target-missing", "error", f"{where} › {exit_.kind}",
                          f"leads to {exit_.to!r}, which is no action", "choose an action")  # fmt: skip
        if exit_.section and target is not None and exit_.section not in target.index:
            yield Finding("exit-section-missing", "error", f"{where} › {exit_.kind}",
                          f"starts with {exit_.section!r}, which {exit_.to} does not have",
                          "choose one of its sections")  # fmt: skip
        unknown = [c for c in asks(exit_) or ("",) if c not in book.commands] if exit_.kind != "break" else []
        for command in unknown:
            yield Finding("command-unknown", "error", f"{where} › {exit_.kind}",
                          f"asks for the command {command!r}, which the project does not have",
                          "choose a command")  # fmt: skip
    for event in section.events:
        label = event.name or "event"
        if not event.name and event.kind != "message":
            yield Finding("event-empty", "warning", f"{where} › frame {event.tick}",
                          f"fires {event.kind} with nothing assigned", "choose what it fires")  # fmt: skip
        if not 0 <= event.tick < ticks:
            yield Finding("event-outside", "warning", f"{where} › {label}",
                          f"is on frame {event.tick}, past the section", "move it into the section")  # fmt: skip
        if event.mount:
            yield from _joint(book, event.mount, f"{where} › {label}", "mount")


def _loops(compiled: CompiledAction) -> Iterator[Finding]:
    """Sections that play on for ever: from them neither an end, nor a gate out, nor an exit can be reached."""
    for start, part in enumerate(compiled.sections):
        seen: set[int] = set()
        ways = [start]
        out = False
        while ways and not out:
            at = ways.pop()
            if at in seen:
                continue
            seen.add(at)
            section = compiled.sections[at].section
            out = not compiled.ways(section.then) or bool(section.exits)
            ways += [i for to in (section.then, *(g.to for g in section.gates)) for i in compiled.ways(to)]
        if not out:
            yield Finding(
                "loop-without-end",
                "error",
                f"{compiled.action.name} › {part.section.name}",
                "loops and nothing leads out of it",
                "give it a gate or an exit, or let it go on to end",
            )
