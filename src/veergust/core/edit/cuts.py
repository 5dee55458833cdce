"""Cuts changed, and the edges of spans kept where their pins say.

An edge pinned to the pose goes where its pose went; one pinned to the frame keeps its tick. Edges on the section's
own first or last tick stay on its first and last, so that what lasts the whole section still does. An edge whose pose
a trim took away is laid on what is left, and said so.
"""

from __future__ import annotations

from dataclasses import dataclass
from dataclasses import replace as with_
from typing import Any

from msgspec.structs import replace

from veergust.core.edit.spans import Edit, action_of
from veergust.core.edit.whole_cells import borders, in_words, shared_out
from veergust.core.kinds import SPANS, title
from veergust.core.model import Action, Clip, Cut, Event, Pin, Project, Section, Strike
from veergust.core.motion import Assets
from veergust.core.play import cut_seconds, cut_ticks
from veergust.core.trouble import Trouble

SHORTEST = 1e-3


@dataclass(frozen=True)
class LaidCuts:
    """A cut on its ticks ``[first, first + ticks)``; ``start`` and ``end`` as they are played (source s)."""

    first: int
    ticks: int
    start: float
    end: float

    def source(self, tick: float) -> float:
        """The source time shown on a tick."""
        return self.start + (self.end - self.start) * (tick - self.first) / self.ticks

    def tick(self, source: float) -> float:
        """The tick on which a source time is shown, however far outside."""
        span = self.end - self.start
        return self.first + (source - self.start) / span * self.ticks if span else float(self.first)


def lay(project: Project, assets: Assets, cuts: tuple[Cut, ...], speed: float = 1.0) -> list[LaidCuts]:
    """Where cuts lie one after the other."""
    clips = {clip.name: clip for clip in project.clips}
    out: list[LaidCuts] = []
    at = 0
    for cut in cuts:
        clip: Clip | None = clips.get(cut.clip)
        ticks = cut_ticks(cut, clip, assets, project.settings.rate, speed)
        start, end = cut_seconds(cut, clip, assets)
        if clip is not None and clip.reverse:
            start, end = end, start
        out.append(LaidCuts(at, ticks, start, end))
        at += ticks
    return out


def length(laid: list[LaidCuts]) -> int:
    """Ticks of a section of these cuts."""
    return sum(cut.ticks for cut in laid) or 1


@dataclass
class _Move:
    """How edges go over from the old cuts to the new; ``to`` gives the new place of each old cut, None if gone."""

    old: list[LaidCuts]
    new: list[LaidCuts]
    to: tuple[int | None, ...]
    gave: list[str]

    def edge(self, tick: int, pin: Pin, closing: bool, says: str) -> tuple[int, Pin]:
        before, after = length(self.old), length(self.new)
        # An edge that came to the border only because its pose lies near it follows its pose again.
        bound = pin.source is None
        if bound and tick <= 0 and not closing:
            return 0, pin
        if bound and tick >= before and closing:
            return after, pin
        if pin.to == "frame" or not self.old:
            kept = min(max(tick, 0), after)
            if kept != tick:
                self.gave.append(f"{says} {tick} → {kept}")
            return kept, pin
        # A closing edge belongs to the pose before it, an opening one to the pose it shows.
        asked = tick - 1 if closing else tick
        index = next((i for i, c in reversed(list(enumerate(self.old))) if c.first <= asked), 0)
        cut, place = self.old[index], self.to[index]
        source = pin.source if pin.source is not None else cut.source(tick)
        if place is None:
            later = [p for p in self.to[index + 1 :] if p is not None]
            kept = self.new[later[0]].first if later else after
            self.gave.append(f"{says} {tick} → {kept}")
            return kept, Pin(to=pin.to)
        home = self.new[place]
        exact = home.tick(source)
        kept = min(max(int(exact + 0.5) if exact >= 0 else 0, home.first), home.first + home.ticks)
        if abs(exact - kept) > 0.75:
            self.gave.append(f"{says} {tick} → {kept}")
            return kept, Pin(to=pin.to)
        return kept, Pin(to=pin.to, source=round(source, 9))


def repinned(
    section: Section, old: list[LaidCuts], new: list[LaidCuts], to: tuple[int | None, ...]
) -> tuple[Section, list[str]]:
    """A section's spans on its new cuts, and a sentence for each edge that had to give. The cuts are left alone."""
    gave: list[str] = []
    move = _Move(old, new, to, gave)
    ticks = length(new)
    fields: dict[str, Any] = {}
    for kind in SPANS:
        items: list[Any] = []
        for span in getattr(section, kind):
            name = title(span)
            if isinstance(span, Event):
                tick, pin = move.edge(span.tick, span.pin, False, f"{name} fires")
                items.append(replace(span, tick=min(tick, ticks - 1), pin=pin))
                continue
            start, start_pin = move.edge(span.start, span.start_pin, False, f"{name} opens")
            end, end_pin = move.edge(span.end, span.end_pin, True, f"{name} closes")
            if end <= start:
                start = min(start, ticks - 1)
                end = start + 1
                gave.append(f"{name} is one frame long")
            laid = replace(span, start=start, end=end, start_pin=start_pin, end_pin=end_pin)
            items.append(_with_keys(laid, move) if isinstance(laid, Strike) else laid)
        fields[kind] = tuple(items)
    return replace(section, **fields), gave


def _with_keys(strike: Strike, move: _Move) -> Strike:
    """A strike whose hitboxes' keys went where their poses went. Two that came onto one tick are one, the later."""
    if not any(box.keys for box in strike.boxes):
        return strike
    quiet = _Move(move.old, move.new, move.to, [])
    boxes = []
    for box in strike.boxes:
        keys = {}
        for key in box.keys:
            tick = quiet.edge(key.tick, Pin(source=None), False, "")[0]
            keys[tick] = replace(key, tick=tick)
        boxes.append(replace(box, keys=tuple(keys[t] for t in sorted(keys))))
    return replace(strike, boxes=tuple(boxes))


def with_section(project: Project, name: str, index: int, section: Section) -> Project:
    """The project with another section in an action."""
    action = action_of(project, name)
    sections = tuple(section if i == index else s for i, s in enumerate(action.sections))
    return with_action(project, replace(action, sections=sections))


def with_action(project: Project, action: Action, old: str = "") -> Project:
    """The project with ``action`` in place of the one of its name (or ``old``)."""
    name = old or action.name
    return replace(project, actions=tuple(action if a.name == name else a for a in project.actions))


def set_cuts(
    project: Project,
    assets: Assets,
    name: str,
    index: int,
    cuts: tuple[Cut, ...],
    to: tuple[int | None, ...],
    words: str,
) -> Edit:
    """A section with other cuts; ``to`` says where each old cut went. Spans follow by their pins."""
    action = action_of(project, name)
    section = action.sections[index]
    old, new = lay(project, assets, section.cuts, action.speed), lay(project, assets, cuts, action.speed)
    changed, gave = repinned(section, old, new, to)
    return Edit(with_section(project, name, index, replace(changed, cuts=cuts)), words, said_to_give(gave))


def said_to_give(gave: list[str]) -> tuple[str, ...]:
    """What is said of edges that had to give."""
    return (f"Edges that had to give: {'; '.join(gave)}.",) if gave else ()


def _here(count: int) -> tuple[int | None, ...]:
    return tuple(range(count))


def _label(section: Section, cut: Cut) -> str:
    return f"{section.name} · {cut.clip}"


def change_cut(
    project: Project, assets: Assets, name: str, index: int, at: int, words: str = "", **fields: Any
) -> Edit:
    """A cut trimmed, retimed, mirrored or blended otherwise. Raises ``Trouble`` where it would have no length."""
    section = action_of(project, name).sections[index]
    cut = replace(section.cuts[at], **fields)
    clip = next((c for c in project.clips if c.name == cut.clip), None)
    start, end = cut_seconds(cut, clip, assets)
    if end - start < SHORTEST or cut.rate <= 0.0:
        raise Trouble("the cut would have no length", field="cut", do="put its out behind its in, its rate above 0")
    if start < 0.0:
        raise Trouble("a cut cannot begin before its source", field="in", do="put it at 0 or later")
    cuts = tuple(cut if i == at else c for i, c in enumerate(section.cuts))
    said = words or ", ".join(f"{_word(k)} {_value(v)}" for k, v in fields.items())
    return set_cuts(project, assets, name, index, cuts, _here(len(cuts)), f"{_label(section, cut)}: {said}")


def _word(field: str) -> str:
    return {"start": "in", "end": "out", "blend": "crossfade"}.get(field, field)


def _value(value: Any) -> str:
    return (
        ("on" if value else "off")
        if isinstance(value, bool)
        else f"{value:.4g}"
        if isinstance(value, float)
        else str(value)
    )


def retime_cut(project: Project, assets: Assets, name: str, index: int, at: int, ticks: int) -> Edit:
    """A cut played in as many ticks, by its rate."""
    action = action_of(project, name)
    section = action.sections[index]
    cut = section.cuts[at]
    clip = next((c for c in project.clips if c.name == cut.clip), None)
    start, end = cut_seconds(cut, clip, assets)
    others = (clip.rate if clip else 1.0) * action.speed
    was = lay(project, assets, section.cuts, action.speed)[at].ticks
    ticks = max(ticks, 1)
    rate = round((end - start) * project.settings.rate / ticks / max(others, 1e-9), 9)
    edit = change_cut(project, assets, name, index, at, f"{was} → {ticks} f, rate {rate:.3g}", rate=rate)
    held = in_words(shared_out(assets, clip, cut, start, end, ticks))
    return with_(edit, notes=(*edit.notes, *held)) if held else edit


def split_cut(project: Project, assets: Assets, name: str, index: int, tick: int) -> Edit:
    """The cut under a tick made two, which play as the one did."""
    action = action_of(project, name)
    section = action.sections[index]
    laid = lay(project, assets, section.cuts, action.speed)
    at = next((i for i, c in enumerate(laid) if c.first < tick < c.first + c.ticks), None)
    if at is None:
        raise Trouble("there is no cut to split here", field="cut", do="put the playhead inside one")
    one, two = halves(section.cuts[at], laid[at], _whole(project, assets, laid[at], section.cuts[at], tick))
    cuts = (*section.cuts[:at], one, two, *section.cuts[at + 1 :])
    made = with_section(project, name, index, replace(section, cuts=cuts))
    return Edit(made, f"{_label(section, one)}: split at {tick}")


def _whole(project: Project, assets: Assets, laid: LaidCuts, cut: Cut, tick: int) -> int:
    """A tick inside a cut, or the nearest at which one of its drawings begins."""
    clip = next((c for c in project.clips if c.name == cut.clip), None)
    inside = [round(laid.tick(at)) for at in borders(assets, clip)]
    inside = [t for t in inside if laid.first < t < laid.first + laid.ticks]
    return min(inside, key=lambda t: abs(t - tick)) if inside else tick


def halves(cut: Cut, laid: LaidCuts, tick: int) -> tuple[Cut, Cut]:
    """A cut in two at a tick of its section; each lasts its ticks exactly."""
    middle = laid.source(tick)
    if laid.end >= laid.start:
        return replace(cut, end=round(middle, 9)), replace(cut, start=round(middle, 9), blend=0)
    return replace(cut, start=round(middle, 9)), replace(cut, end=round(middle, 9), blend=0)


def join_cuts(project: Project, assets: Assets, name: str, index: int, at: int) -> Edit:
    """A cut joined with the next one, which must go on where it ends."""
    section = action_of(project, name).sections[index]
    if at + 1 >= len(section.cuts):
        raise Trouble("there is no cut after it", field="cut", do="choose an earlier one")
    one, two = section.cuts[at], section.cuts[at + 1]
    clips = {clip.name: clip for clip in project.clips}
    end, start = cut_seconds(one, clips.get(one.clip), assets)[1], two.start
    same = (one.clip, one.mirror, round(one.rate, 6)) == (two.clip, two.mirror, round(two.rate, 6))
    if not same or abs(end - start) > 1e-4:
        raise Trouble("the next cut does not go on where this one ends", field="cut", do="make them fit, or keep both")
    cuts = (*section.cuts[:at], replace(one, end=two.end), *section.cuts[at + 2 :])
    made = with_section(project, name, index, replace(section, cuts=cuts))
    return Edit(made, f"{_label(section, one)}: joined with the next")


def insert_cut(project: Project, assets: Assets, name: str, index: int, at: int, cut: Cut, words: str = "") -> Edit:
    """A cut more, at a place in the section; what stood there moves on with its poses."""
    section = action_of(project, name).sections[index]
    cuts = (*section.cuts[:at], cut, *section.cuts[at:])
    to = tuple(i if i < at else i + 1 for i in range(len(section.cuts)))
    return set_cuts(project, assets, name, index, cuts, to, words or f"{_label(section, cut)}: added")


def duplicate_cut(project: Project, assets: Assets, name: str, index: int, at: int) -> Edit:
    """A cut played twice."""
    section = action_of(project, name).sections[index]
    cut = section.cuts[at]
    return insert_cut(project, assets, name, index, at + 1, cut, f"{_label(section, cut)}: twice")


def remove_cut(project: Project, assets: Assets, name: str, index: int, at: int) -> Edit:
    """A cut taken out; what was pinned to it is laid on what is left."""
    section = action_of(project, name).sections[index]
    cut = section.cuts[at]
    cuts = (*section.cuts[:at], *section.cuts[at + 1 :])
    to = tuple(None if i == at else i if i < at else i - 1 for i in range(len(section.cuts)))
    return set_cuts(project, assets, name, index, cuts, to, f"{_label(section, cut)}: removed")


def set_speed(project: Project, assets: Assets, name: str, speed: float) -> Edit:
    """A whole action faster or slower; spans follow by their pins."""
    if speed <= 0.0:
        raise Trouble("a speed must be above 0", field="speed", do="type a larger number")
    action = action_of(project, name)
    gave: list[str] = []
    sections = []
    for section in action.sections:
        old, new = lay(project, assets, section.cuts, action.speed), lay(project, assets, section.cuts, speed)
        changed, lost = repinned(section, old, new, _here(len(section.cuts)))
        sections.append(changed)
        gave += lost
    made = replace(action, speed=speed, sections=tuple(sections))
    return Edit(with_action(project, made), f"{name}: speed ×{action.speed:g} → ×{speed:g}", said_to_give(gave))
