"""Step 3 of the tick: exits, gates, start rules and locomotion transitions; then time advances."""

from __future__ import annotations

from collections.abc import Container
from dataclasses import replace

import numpy as np

from veergust.core.model import Action, Exit
from veergust.core.play.book import Book
from veergust.core.play.compiled import CompiledAction
from veergust.core.play.conditions import chance, holds
from veergust.core.play.pick import pick
from veergust.core.play.presses import asks, strung
from veergust.core.play.state import Ended, FighterState, GroundVoice, Press, Voice, end, run_ending

Upcoming = tuple[int, int, int] | None
"""(section, frame, lap) an action shows on this tick if nothing happens; None when it ends."""


class Decider:
    """Decides for one fighter on one tick."""

    def __init__(
        self, book: Book, fighter: FighterState, others: tuple[FighterState, ...], tick: int, seed: int
    ) -> None:
        self.book = book
        self.fighter = fighter
        self.others = others
        self.tick = tick
        self.seed = seed

    def decide(self) -> None:
        """Run exits, gates, starts and transitions, and advance every live action by a tick."""
        fighter = self.fighter
        started = bool(fighter.asked) and not fighter.down and self._start_asked()
        for voice in [] if started else fighter.live():
            upcoming = self._upcoming(voice)
            chosen = self._exit(voice, upcoming)
            if chosen is not None:
                started |= self._leave(voice, chosen)
            elif upcoming is None and not voice.last:
                end(fighter, voice, "completed")
                fighter.memory = Ended(voice.compiled.action.name, self.tick)
            elif upcoming is not None:
                self._advance(voice, upcoming)
        if not started:
            self._start_rules()
        self._scopes()
        self._locomotion()
        for voice in fighter.voices:
            if voice.ended is not None:
                fighter.put(voice, replace(voice, faded=voice.faded + 1))
        fighter.voices = tuple(v for i, v in enumerate(fighter.voices) if self._heard(i, v))

    def _heard(self, index: int, voice: Voice) -> bool:
        """Whether a voice still shows: live, fading out, or under one that has not faded in yet."""
        above = [v for v in self.fighter.voices[index + 1 :] if v.layer == voice.layer]
        if any(v.live and v.age > v.blend for v in above):
            return False
        return voice.live or (voice.covered and bool(above)) or voice.faded <= voice.compiled.action.blend_out

    def _start_asked(self) -> bool:
        """Start the action asked for by name; whatever plays on any layer gives way."""
        if self.book.action(self.fighter.asked) is None:
            return False
        for voice in self.fighter.live():
            end(self.fighter, voice, "cancelled")
        return start(self.book, self.fighter, self.fighter.asked, self.tick) is not None

    def _upcoming(self, voice: Voice) -> Upcoming:
        if voice.goto is not None:
            return voice.goto, 0, voice.laps + 1 if voice.goto == voice.section else 0
        if voice.frame + 1 < voice.part.ticks:
            return voice.section, voice.frame + 1, voice.laps
        then, _ = self._section(voice.compiled, voice.part.section.then)
        if then is None:
            return None
        return then, 0, voice.laps + 1 if then == voice.section else 0

    def _advance(self, voice: Voice, upcoming: tuple[int, int, int]) -> None:
        section, frame, laps = upcoming
        part = voice.compiled.sections[section]
        if frame == 0 and voice.goto is None and voice.part.section.then not in voice.compiled.index:
            self.fighter.picked(voice.part.section.then, part.section.name)
        moved = replace(
            voice,
            section=section,
            frame=frame,
            laps=laps,
            age=voice.age + 1,
            goto=None,
            touched=voice.touched if (section, laps) == (voice.section, voice.laps) else (),
        )
        for gate in part.section.gates:
            if gate.start <= frame < gate.end and self._holds(gate.conditions, moved):
                goto, pool = self._section(voice.compiled, gate.to)
                if goto is not None:
                    if pool:
                        self.fighter.picked(pool, voice.compiled.sections[goto].section.name)
                    moved = replace(moved, goto=goto)
                    break
        self.fighter.put(voice, moved)

    def _section(self, compiled: CompiledAction, name: str) -> tuple[int | None, str]:
        """A section by name, or picked from the pool of that name; and the pool."""
        if name in compiled.index:
            return compiled.index[name], ""
        picked = self._pick(name, compiled.index)
        return (compiled.index[picked] if picked is not None else None), name

    def _pick(self, name: str, there: Container[str]) -> str | None:
        """What a pool gives on this tick; the same however often it is asked."""
        pool = self.book.pools.get(name)
        if pool is None:
            return None
        share = chance(self.seed, self.tick, self.fighter.name, name)
        return pick(pool, there, self.fighter.recent(name), share)

    def _holds(self, conditions: tuple, voice: Voice | None) -> bool:  # type: ignore[type-arg]
        return holds(conditions, self.fighter, voice=voice, others=self.others, seed=self.seed, tick=self.tick)

    def _exit(self, voice: Voice, upcoming: Upcoming) -> Exit | None:
        """The exit taken on this tick: breaks first, then by priority, then in list order."""
        if upcoming is None or voice.last:
            return None
        section, frame, _ = upcoming
        exits = voice.compiled.sections[section].section.exits
        there = [e for e in exits if e.start <= frame < e.end]
        # Of exits of one priority, the one that asks for more in turn is meant.
        there.sort(key=lambda e: (e.kind != "break", -e.priority, -len(asks(e))))
        for exit_ in there:
            if exit_.contact == "none" and voice.contact != "none":
                continue
            if exit_.contact in ("hit", "guarded") and voice.contact != exit_.contact:
                continue
            if not self._holds(exit_.conditions, voice):
                continue
            if exit_.kind == "break" or self._pressed(exit_, exit_.early) is not None:
                target = self._target(exit_)
                if exit_.to_kind == "ground" or (target and self._ready(target)):
                    return exit_
        return None

    def _pressed(self, exit_: Exit, early: bool = True) -> tuple[Press, ...] | None:
        """The presses that ask for an exit; None when they were not made."""
        within = self.book.project.settings.buffer
        return strung(asks(exit_), self.fighter.buffer, self.fighter.history, within, early)

    def _use(self, *presses: Press) -> None:
        """Each press is used once, the last of a sequence as well as those before it."""
        self.fighter.buffer = tuple(p for p in self.fighter.buffer if p not in presses)
        self.fighter.history = tuple(p for p in self.fighter.history if p not in presses)

    def _target(self, exit_: Exit) -> Action | None:
        names = {a.name: a for a in self.book.project.actions}
        if exit_.to_kind == "action":
            return names.get(exit_.to)
        if exit_.to_kind == "tag":
            return next((a for a in self.book.project.actions if exit_.to in a.tags), None)
        name = self._pick(exit_.to, names)
        return names[name] if name is not None else None

    def _ready(self, action: Action) -> bool:
        return dict(self.fighter.cooldowns).get(action.name, 0) <= self.tick and self._in_scope(action)

    def _in_scope(self, action: Action) -> bool:
        layer = self.book.layers.get(action.layer)
        return layer is not None and (not layer.scope or self.fighter.ground[-1].state in layer.scope)

    def _leave(self, voice: Voice, exit_: Exit) -> bool:
        end(self.fighter, voice, "broken" if exit_.kind == "break" else "cancelled")
        self._use(*(self._pressed(exit_, exit_.early) or ()))
        target = self._target(exit_) if exit_.to_kind != "ground" else None
        if target is None:
            return False
        if exit_.to_kind == "pool":
            self.fighter.picked(exit_.to, target.name)
        start(self.book, self.fighter, target.name, self.tick, section=exit_.section, blend=exit_.blend)
        return True

    def _start_rules(self) -> None:
        """Start an action from locomotion: the newest press decides, then the order of the commands."""
        fighter = self.fighter
        if fighter.down:
            return
        order = list(self.book.commands)
        presses = sorted(fighter.buffer, key=lambda p: (p.age, order.index(p.command) if p.command in order else 99))
        for press in presses:
            for action in self._answers(press):
                if self._free(action) and self._ready(action):
                    self._use(press)
                    start(self.book, fighter, action.name, self.tick)
                    return

    def _answers(self, press: Press) -> list[Action]:
        """Actions a press may start: the next of a string still remembered, then those with a start rule."""
        fighter, out = self.fighter, []
        memory = fighter.memory
        before = self.book.action(memory.action) if memory else None
        if memory and before and self.tick - memory.tick <= before.action.start.string_memory:
            for section in before.action.sections:
                for exit_ in section.exits:
                    asked = asks(exit_)[-1:] == (press.command,) and self._pressed(exit_) is not None
                    if exit_.kind == "combo" and asked and exit_.to_kind == "action":
                        target = self._target(exit_)
                        out += [target] if target else []
        state = fighter.ground[-1].state
        for action in self.book.project.actions:
            rule = action.start
            if press.command in rule.commands and (not rule.states or state in rule.states):
                if self._holds(rule.conditions, None):
                    out.append(action)
        return out

    def _free(self, action: Action) -> bool:
        """No action plays on its layer or on one above it."""
        order = list(self.book.layers)
        if action.layer not in order:
            return False
        at = order.index(action.layer)
        return all(v.layer in order and order.index(v.layer) < at for v in self.fighter.live())

    def _scopes(self) -> None:
        state = self.fighter.ground[-1].state
        for voice in self.fighter.live():
            layer = self.book.layers.get(voice.layer)
            if layer and layer.scope and state not in layer.scope and layer.outside == "fade":
                end(self.fighter, voice, "out of scope")

    def _locomotion(self) -> None:
        fighter, ground = self.fighter, self.book.project.ground
        now = fighter.ground[-1]
        state = self.book.states.get(now.state)
        ended = state is not None and not state.blend and now.phase >= 1.0
        for t in ground.transitions:
            if t.start not in (now.state, "*") or t.to == now.state or t.to not in self.book.states:
                continue
            if holds(t.conditions, fighter, others=self.others, seed=self.seed, tick=self.tick, ended=ended):
                # Moving states hand their phase on, so that the feet keep step.
                step = state is not None and _moving(self.book, now.state) and _moving(self.book, t.to)
                fresh = GroundVoice(t.to, now.phase % 1.0 if step else 0.0, 0, t.ticks, t.ease)
                fighter.ground = (*fighter.ground, fresh)
                break
        speed = float(np.hypot(fighter.velocity[0], fighter.velocity[2]))
        rate = self.book.project.settings.rate
        voices = [
            replace(v, age=v.age + 1, phase=v.phase + cycles(self.book, v.state, speed) / rate)
            for v in fighter.ground
        ]
        full = max((i for i, v in enumerate(voices) if v.age > v.blend), default=0)
        fighter.ground = tuple(voices[full:])


def _moving(book: Book, state: str) -> bool:
    entry = book.states[state]
    return bool(entry.blend or entry.matched)


def cycles(book: Book, state: str, speed: float) -> float:
    """Cycles a second of a locomotion state at ground ``speed`` (m/s)."""
    entry = book.states.get(state)
    if entry is None:
        return 1.0
    if entry.blend:
        seconds = stride = 0.0
        for clip, weight, at in blend_weights(book, state, speed):
            length = book.ground_clip(clip).seconds
            seconds += weight * length
            stride += weight * length * at
        return min(max(speed / stride, 0.5 / seconds), 2.0 / seconds) if stride > 1e-6 else 1.0 / seconds
    pace = min(max(speed / entry.matched, 0.4), 2.0) if entry.matched else 1.0
    return pace / book.ground_clip(entry.clip).seconds


def blend_weights(book: Book, state: str, speed: float) -> list[tuple[str, float, float]]:
    """(clip, weight, its speed) of a speed-driven blend: the two neighbours of ``speed``, mixed linearly."""
    points = sorted(book.states[state].blend, key=lambda p: p.speed)
    if not points:
        return []
    if speed <= points[0].speed:
        return [(points[0].clip, 1.0, points[0].speed)]
    for a, b in zip(points, points[1:]):
        if speed <= b.speed:
            t = (speed - a.speed) / (b.speed - a.speed)
            return [(a.clip, 1.0 - t, a.speed), (b.clip, t, b.speed)]
    return [(points[-1].clip, 1.0, points[-1].speed)]


def start(
    book: Book, fighter: FighterState, name: str, tick: int, *, section: str = "", blend: int | None = None
) -> Voice | None:
    """Start an action on its first tick; what still plays on its layer is cancelled."""
    compiled = book.action(name)
    if compiled is None or not compiled.sections:
        return None
    action = compiled.action
    for voice in fighter.live():
        if voice.layer == action.layer:
            end(fighter, voice, "cancelled")
    fighter.voices = tuple(
        replace(v, covered=True) if v.ended and not v.faded and v.layer == action.layer else v for v in fighter.voices
    )
    entry = compiled.index.get(section, compiled.entry)
    voice = Voice(compiled, entry, blend=action.blend_in if blend is None else blend)
    fighter.voices = _in_layer_order(book, (*fighter.voices, voice))
    fighter.memory = None
    fighter.cooldowns = tuple(sorted((dict(fighter.cooldowns) | {name: tick + action.start.cooldown}).items()))
    run_ending(fighter, action.on_start)
    return voice


def _in_layer_order(book: Book, voices: tuple[Voice, ...]) -> tuple[Voice, ...]:
    order = list(book.layers)
    return tuple(sorted(voices, key=lambda v: order.index(v.layer) if v.layer in order else -1))
