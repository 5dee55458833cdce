"""What became of every press of a take: what it started, or that it was lost, and why."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass

from msgspec.structs import replace

from veergust.core.kinds import Ref, asked_for, asks, in_action, sentence
from veergust.core.model import Action, Exit
from veergust.core.play import Chances, CompiledProject, Record, Voice, made, may_start, touched
from veergust.core.play import gestures as made_by_hand

CONTACTS = {"any": "a touch", "hit": "a hit", "guarded": "a guarded touch", "none": "that nothing was touched"}


@dataclass(frozen=True)
class Fate:
    """A press of ``command`` on ``tick``: on which tick it was ``used`` and what that began, or ``why`` it was lost,
    and the place in the project that says so."""

    tick: int
    command: str
    used: int | None = None
    began: str = ""
    why: str = ""
    where: Ref | None = None

    @property
    def waits(self) -> bool:
        """Whether it may still start something: the take ends before it is forgotten."""
        return self.used is None and not self.why


def fates(
    build: CompiledProject, records: Sequence[Record], name: str, seed: int = 1, among: Iterable[int] | None = None
) -> list[Fate]:
    """The fates of a fighter's presses in a take, in its order; ``among`` some places of it, where these are known."""
    out = []
    for at in range(len(records)) if among is None else among:
        fighter = records[at].fighter(name)
        for command in dict.fromkeys(fighter.pressed):
            out.append(_fate(build, records, name, seed, at, command))
    return out


MOST_LATE = 12
"""A gesture that is late by more than this was not meant."""


def misses(build: CompiledProject, records: Sequence[Record], name: str, at: int) -> list[tuple[str, str]]:
    """Gestures that were nearly made on a tick of a take: each command, and what it lacked."""
    gestures = build.ask(made_by_hand)
    if not gestures or at <= 0:
        return []
    fighter, before = records[at].fighter(name), records[at - 1].fighter(name)
    tick, out = records[at].tick, []
    since = dict(before.hands.down)
    for command in gestures:
        gesture = command.gesture
        if gesture is None or command.name in fighter.pressed:
            continue
        if gesture.kind in ("held", "let go"):
            long = tick - since.get(gesture.of[0], tick) if gesture.of[:1] and gesture.of[0] in fighter.let_go else 0
            if 0 < gesture.ticks - long <= MOST_LATE and long > 0:
                out.append((command.name, f"let go {_frames(gesture.ticks - long)} too soon"))
            continue
        for late in range(1, MOST_LATE + 1):
            wider = replace(command, gesture=replace(gesture, within=gesture.within + late))
            if made([wider], fighter.hands, (), tick):
                out.append((command.name, f"{_frames(late)} late"))
                break
    return out


def _fate(build: CompiledProject, records: Sequence[Record], name: str, seed: int, at: int, command: str) -> Fate:
    tick = records[at].tick
    mark = command, tick
    alive = False
    for later in range(at, len(records)):
        fighter = records[later].fighter(name)
        if mark in fighter.spent:
            began = _began(records, name, later)
            if began:
                return Fate(tick, command, records[later].tick, began)
            break
        alive = any(p.mark == mark for p in fighter.buffer)
        waits = any(p.mark == mark for v in fighter.live() for w in v.waiting for p in w.presses)
        if not alive and not waits and later > at:
            break
    else:
        if alive or at + 1 >= len(records):
            return Fate(tick, command)
    why, where = _why(build, records, name, seed, at, command)
    return Fate(tick, command, why=why, where=where)


def _began(records: Sequence[Record], name: str, at: int) -> str:
    """What began on a tick: an action, or a jump."""
    fighter = records[at].fighter(name)
    begun = [v.compiled.action.name for v in fighter.live() if v.age == 0]
    if begun:
        return begun[-1]
    return "jump" if fighter.leapt or fighter.jumping else ""


def _why(
    build: CompiledProject, records: Sequence[Record], name: str, seed: int, at: int, command: str
) -> tuple[str, Ref | None]:
    """Why a press that is lost was lost: what it came nearest to."""
    if command not in asked_for(build.project):
        return f"{command} starts nothing yet: choose an action", None
    now = records[at].fighter(name)
    before = records[at - 1].fighter(name) if at > 0 else now
    if now.down:
        return "who is down presses nothing", None
    keep = max(build.buffer_of(command), 1)
    last = records[min(at + keep, len(records)) - 1].fighter(name)
    if now.stun and last.stun:
        return f"stunned, {last.stun} more", None
    others = tuple(f for f in records[at].fighters if f.name != name)
    chances = Chances(build, now, others, records[at].tick, seed)
    reasons = [r for v in before.live() for r in _of_exits(build, chances, v, command, keep)]
    if reasons:
        return min(reasons, key=lambda r: r[0])[1:]
    starts = [r for a in build.project.actions if command in a.start.commands for r in _of_start(build, chances, a)]
    if starts:
        return min(starts, key=lambda r: r[0])[1:]
    plays = [v.compiled.action.name for v in before.live()]
    if plays:
        return f"{plays[-1]} has no exit on {command}", in_action(plays[-1])
    return f"nothing that starts on {command} may start here", None


Reason = tuple[float, str, Ref | None]
"""How far it was from starting something, and what was in the way."""


def _of_exits(build: CompiledProject, chances: Chances, voice: Voice, command: str, keep: int) -> Iterator[Reason]:
    """What was in the way of each exit of an action that plays."""
    action, frame = voice.compiled.action, voice.frame + 1
    for place, number, first, i, exit_ in _every(voice):
        if exit_.kind == "break" or command not in asks(exit_):
            continue
        span = {"section": number, "kind": "exits", "index": i} if place else {}
        where = in_action(action.name, *((place, "exit") if place else ("exit",)), **span)  # type: ignore[arg-type]
        to = exit_.to or "the ground"
        held = exit_.buffer if exit_.buffer is not None else keep
        if asks(exit_)[-1] != command:
            yield 60.0, f"only the first of what leads to {to}", where
        elif place and frame < first + exit_.start and not exit_.early:
            gap = first + exit_.start - frame
            yield gap, f"{_frames(gap)} before the window to {to}; early presses do not count here", where
        elif place and frame + max(held, 1) <= first + exit_.start:
            gap = first + exit_.start - frame - max(held, 1) + 1
            yield gap, f"{_frames(gap)} too early for the window to {to}", where
        elif place and frame >= first + exit_.end:
            gap = frame - first - exit_.end + 1
            yield gap, f"{_frames(gap)} after the window to {to}", where
        else:
            yield from _inside(build, chances, voice, exit_, f"{action.name}/{place}/exit {i}", where)


def _every(voice: Voice) -> Iterator[tuple[str, int, int, int, Exit]]:
    """The exits of what plays and of what follows on its way, and those of the whole action: their section's name and
    number, the frame of what plays now on which that begins, their place, and they themselves."""
    compiled, first = voice.compiled, 0
    path = list(compiled.path)
    ahead = path[path.index(voice.section) :] if voice.section in path else [voice.section]
    for number in ahead:
        part = compiled.sections[number]
        yield from ((part.section.name, number, first, i, e) for i, e in enumerate(part.section.exits))
        first += part.ticks
    yield from (("", 0, 0, i, e) for i, e in enumerate(compiled.action.exits))


def _inside(
    build: CompiledProject, chances: Chances, voice: Voice, exit_: Exit, asked: str, where: Ref
) -> Iterator[Reason]:
    """What was in the way of an exit whose window was open in time."""
    to = exit_.to or "the ground"
    if len(asks(exit_)) > 1:
        yield 0.6, f"the rest of what leads to {to} was not pressed before it", where
    if not touched(exit_, voice.contact):
        yield 0.3, f"the window to {to} asks for {CONTACTS.get(exit_.contact, exit_.contact)}", where
    elif not chances.holds(exit_.conditions, voice, asked):
        yield 0.4, f"the window to {to} asks: {sentence(exit_.conditions)}", where
    elif exit_.to_kind == "action" and (compiled := build.action(exit_.to)) is not None:
        reason = _not_free(build, chances, compiled.action)
        yield (0.2, reason, where) if reason else (5.0, f"{voice.compiled.action.name} was over before it", where)
    else:
        yield 5.0, f"nothing of {to} is ready", where


def _of_start(build: CompiledProject, chances: Chances, action: Action) -> Iterator[Reason]:
    """What was in the way of an action that its start rule might have started."""
    rule, where = action.start, in_action(action.name, "start")
    state = chances.fighter.locomotion[-1].state
    met = may_start(build, chances.fighter, action)
    free = _not_free(build, chances, action)
    if met != "both play":
        plays = [v.compiled.action.name for v in chances.fighter.live() if v.compiled.action.layer == action.layer]
        on = plays[-1] if plays else (chances.fighter.playing() or ("what plays",))[-1]
        yield 20.0, f"{on} plays, and has no exit for it", where
    elif rule.states and not chances.stands_in(rule.states):
        yield 30.0, f"{action.name} starts only from {', '.join(rule.states)}, not in {state}", where
    elif not chances.holds(rule.conditions, None, f"{action.name}/start"):
        yield 25.0, f"{action.name} asks: {sentence(rule.conditions)}", where
    elif free:
        yield 22.0, free, where


def _not_free(build: CompiledProject, chances: Chances, action: Action) -> str:
    """Why an action that is asked for may not be chosen; empty when it may."""
    left = dict(chances.fighter.cooldowns).get(action.name, 0) - chances.tick
    if left > 0:
        return f"{action.name}: cooldown, {left} more"
    if chances.rule(action.layer) != "may":
        state = chances.fighter.locomotion[-1].state
        return f"the layer {action.layer} {chances.rule(action.layer) or 'is not there'} in {state}"
    return ""


def _frames(count: int) -> str:
    return f"{count} frame{'s' if count != 1 else ''}"
