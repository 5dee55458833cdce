"""What is so on one frame of an action, and what can happen from it, in plain words."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from veergust.core.model import Condition, Exit, Hold
from veergust.core.play.body.move import drive_of
from veergust.core.play.compiled.action import CompiledAction
from veergust.core.play.compiled.project import Book
from veergust.core.play.rules.presses import asks
from veergust.core.play.state import Voice
from veergust.core.study.coverage import covered

SETTINGS = {
    "feet": "feet are free of ground correction",
    "turn": "the body does not turn with the stick",
    "gravity": "the body does not fall",
    "push": "bodies do not push each other",
    "guard": "does not guard",
}
CONTACTS = {"hit": "after a hit only", "guarded": "after a guarded touch only", "none": "before any touch"}


@dataclass(frozen=True)
class NowItem:
    """One line of the Now card: its role, words, a note, and the span it is about."""

    role: str
    says: str
    note: str = ""
    section: int | None = None
    kind: str = ""
    index: int = 0
    open: bool = True


@dataclass(frozen=True)
class Now:
    """The Now card of a frame."""

    frame: int
    headline: str
    phase: str
    items: tuple[NowItem, ...]


def phase_of(compiled: CompiledAction, frame: int) -> tuple[str, int, int]:
    """(phase, which frame of it from 1, its length); no phase where there is no strike."""
    ticks = compiled.open_frames
    if frame >= compiled.total:
        return "off the path", frame - compiled.total + 1, compiled.rows - compiled.total
    if not ticks:
        return "no strike", frame + 1, compiled.total
    if frame < ticks[0]:
        return "startup", frame + 1, ticks[0]
    if frame > ticks[-1]:
        return "recovery", frame - ticks[-1], compiled.total - ticks[-1] - 1
    if frame in ticks:
        return "active", ticks.index(frame) + 1, len(ticks)
    return "gap", frame - ticks[0] + 1, ticks[-1] - ticks[0] + 1


def ordinal(n: int) -> str:
    """1st, 2nd, 3rd, 4th …"""
    tail = "th" if 10 <= n % 100 <= 20 else {1: "st", 2: "nd", 3: "rd"}.get(n % 10, "th")
    return f"{n}{tail}"


def sentence(conditions: tuple[Condition, ...]) -> str:
    """Conditions as words."""
    words = {
        "speed": "speed {op} {v:g} m/s",
        "rising": "rising {op} {v:g} m/s",
        "height": "height {op} {v:g} m",
        "distance": "target {op} {v:g} m away",
        "chance": "chance {op} {v:g}",
        "parameter": "{name} {op} {v:g}",
    }
    truths = {
        "on_floor": ("feet on the floor", "no floor under the feet"),
        "held": ("{name} held", "{name} not held"),
        "released": ("{name} let go", "{name} held"),
        "pressed": ("{name} pressed", "{name} not pressed"),
        "contact": ("touched", "not touched"),
        "section_ended": ("its clip has ended", "its clip plays"),
    }
    out = []
    for c in conditions:
        if c.test in truths:
            yes = (c.value != 0) == (c.op in ("==", ">=", ">"))
            out.append(truths[c.test][0 if yes else 1].format(name=c.name))
        else:
            out.append(words[c.test].format(op=c.op, v=c.value, name=c.name))
    return " and ".join(out)


def now(book: Book, compiled: CompiledAction, frame: int) -> Now:
    """The Now card of ``frame`` along the path."""
    if not compiled.path:
        return Now(0, "No section yet", "", ())
    frame = min(max(frame, 0), compiled.rows - 1)
    section, tick = compiled.locate(frame)
    part = compiled.sections[section]
    first = compiled.start_of(section)
    phase, at, of = phase_of(compiled, frame)
    headline = f"{part.section.name}, {ordinal(tick + 1)} of {part.ticks} · source {part.source[tick]:.3f} s"
    items = [
        *_strikes(book, compiled, section, tick, first),
        *_exits(book, compiled, section, tick, first),
        *_gates(compiled, section, tick, first),
        *_holds(compiled, section, tick, first),
        *_shields(compiled, section, tick, first),
        _body(compiled, frame, section, tick, first),
    ]
    words = f"{phase} {at} of {of}" if phase != "no strike" else "no strike"
    return Now(frame, headline, words, tuple(items))


def _strikes(book: Book, compiled: CompiledAction, section: int, tick: int, first: int) -> list[NowItem]:
    out = []
    for i, s in enumerate(compiled.sections[section].section.strikes):
        if s.start <= tick < s.end:
            share = covered(book, compiled, section, tick)
            much = f", covers {share:.0%} of the weapon" if share is not None else ""
            guard = {"any": "guard any", "high": "guard high", "low": "guard low", "none": "not guardable"}
            note = f"{s.damage:g} damage · {guard[s.guard]}"
            out.append(
                NowItem("strike", f"{s.name} is open until {first + s.end}{much}", note, section, "strikes", i)
            )
        elif s.start > tick:
            note = f"in {s.start - tick} f"
            out.append(NowItem("strike", f"{s.name} opens at {first + s.start}", note, section, "strikes", i, False))
    return out


def exit_note(book: Book, exit_: Exit) -> str:
    """The small print of an exit."""
    notes = []
    if exit_.contact in CONTACTS:
        notes.append(CONTACTS[exit_.contact])
    if exit_.conditions and exit_.kind != "break":
        notes.append("if " + sentence(exit_.conditions))
    if exit_.kind == "break":
        notes.append("breaks at once")
    elif exit_.early:
        notes.append(f"early press counts, {book.project.settings.buffer} f")
    return " · ".join(notes)


def _exits(book: Book, compiled: CompiledAction, section: int, tick: int, first: int) -> list[NowItem]:
    out = []
    for i, e in enumerate(compiled.sections[section].section.exits):
        if e.end <= tick:
            continue
        to = e.to or "locomotion"
        open_ = e.start <= tick
        if e.kind == "break":
            says = f"{sentence(e.conditions)} → {to}"
        elif open_:
            says = f"{', '.join(asks(e))} until {first + e.end} → {to}"
        else:
            says = f"{', '.join(asks(e))} from {first + e.start} → {to}"
        out.append(NowItem(e.kind, says, exit_note(book, e), section, "exits", i, open_))
    return sorted(out, key=lambda item: (not item.open, item.role == "break"))


def _gates(compiled: CompiledAction, section: int, tick: int, first: int) -> list[NowItem]:
    return [
        NowItem(
            "gate", f"{sentence(g.conditions) or 'always'} → {g.to}", f"until {first + g.end}", section, "gates", i
        )
        for i, g in enumerate(compiled.sections[section].section.gates)
        if g.start <= tick < g.end
    ]


def _hold_words(hold: Hold) -> str:
    return (
        SETTINGS.get(hold.setting, "")
        if hold.value == 0 and hold.setting in SETTINGS
        else (f"{hold.setting} is held at {hold.value:g}")
    )


def _holds(compiled: CompiledAction, section: int, tick: int, first: int) -> list[NowItem]:
    part = compiled.sections[section]
    out = [
        NowItem("hold", _hold_words(h), f"until {first + h.end}", section, "holds", i)
        for i, h in enumerate(part.section.holds)
        if h.start <= tick < h.end
    ]
    return out + [
        NowItem("hold", f"{s.setting} is held at {s.value:g}", "until the action ends") for s in compiled.action.holds
    ]


def _shields(compiled: CompiledAction, section: int, tick: int, first: int) -> list[NowItem]:
    words = {"invulnerable": "cannot be touched", "armour": "takes hits without reeling", "guard": "guards"}
    return [
        NowItem(
            "shield",
            words[s.kind] + (f" ({', '.join(s.hurtboxes)})" if s.hurtboxes else ""),
            f"until {first + s.end}",
            section,
            "shields",
            i,
        )
        for i, s in enumerate(compiled.sections[section].section.shields)
        if s.start <= tick < s.end
    ]


def _body(compiled: CompiledAction, frame: int, section: int, tick: int, first: int) -> NowItem:
    place, _ = compiled.travel_to(frame)
    far = float(np.hypot(place[0], place[2]))
    drives = compiled.sections[section].section.drives
    index = next((i for i in reversed(range(len(drives))) if drives[i].start <= tick < drives[i].end), None)
    drive = drive_of(Voice(compiled, section, tick))
    moves = {
        "root": "by root motion",
        "stick": f"now the stick moves it ×{drive.scale:g}",
        "none": "nothing moves it now",
        "ballistic": "now it flies on",
    }[drive.kind]
    note = "stick gives nothing" if drive.kind in ("root", "none") else f"until {first + drive.end}"
    if index is None:
        return NowItem("drive", f"body has moved {far:.2f} m, {moves}", note)
    return NowItem("drive", f"body has moved {far:.2f} m, {moves}", note, section, "drives", index)
