"""Locomotion on a tick: the transition that is taken, what is entered, and how its states play on."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from veergust.core.kinds import NOBODY_PRESENT, Present, chance
from veergust.core.model import Group, Pool, PoolItem, State, Transition
from veergust.core.motion import Array, feet_of
from veergust.core.play.compiled.chart import Entering
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.flow.pick import pick
from veergust.core.play.locomotion.playing import (
    cycles,
    feet_in,
    first_phase,
    fitting_phase,
    loops,
    moves,
    nearer,
    own_phase,
    parts_of,
)
from veergust.core.play.rules.conditions import holds
from veergust.core.play.rules.starting import start
from veergust.core.play.state import FighterState, LocomotionVoice, Taken, end

OVER = 1.0 - 1e-6
"""A clip has played to its end from here on, whatever the rounding of its last frame."""
HALVES = 0.06
"""A blend comes half way nearer to where the body is in so many seconds."""


class Asking(NamedTuple):
    """On which tick, by which seed and among whom locomotion is asked."""

    others: Sequence[FighterState] = ()
    tick: int = 0
    seed: int = 0


def advance(build: CompiledProject, fighter: FighterState, asking: Asking) -> None:
    """Take the first transition whose conditions hold, and let every state that shows play on by a tick."""
    seen = len(fighter.endings)
    jumped = fighter.jumping and (fighter.rose == 0 or fighter.leapt)
    taken = asked(build, fighter, asking)
    if taken is not None:
        _take(build, fighter, *taken, asking)
    # Each ending is seen once; what the transition itself has ended is seen on the next look.
    fighter.endings = fighter.endings[seen:]
    # One transition is taken a tick: a jump that another came before is looked at once more.
    fighter.leapt = jumped and taken is not None and all(c.test != "jumped" for c in taken[1].conditions)
    # True for the look of one tick; whoever took one by it has used it up.
    fighter.forget(build.chart.momentary)
    rate = build.project.settings.rate
    voices = []
    for v in fighter.locomotion:
        state = build.states.get(v.state)
        if state is None:
            voices.append(v._replace(age=v.age + 1, phase=v.phase + 1.0 / rate))
            continue
        # What is blended over may change at once; the blend goes after it, so that no foot is torn away.
        at = nearer(build, fighter, state, v.at, 1.0 - 0.5 ** (1.0 / (rate * HALVES)))
        step = cycles(build, fighter, state, v.phase, at) / rate
        voices.append(LocomotionVoice(v.state, v.phase + step, v.age + 1, v.blend, v.ease, at))
    if len(voices) > 1:
        del voices[: max((i for i, v in enumerate(voices) if v.age > v.blend), default=0)]
    fighter.locomotion = tuple(voices)


def asked(build: CompiledProject, fighter: FighterState, asking: Asking) -> tuple[int, Transition, str] | None:
    """The transition that is to be taken now: its place, itself, and the state that is entered by it."""
    now = fighter.locomotion[-1]
    for n, t in build.chart.asked(now.state):
        present = NOBODY_PRESENT
        if n in build.chart.ask_of_state:
            present = present_of(build, fighter, now, t)
        if not holds(
            t.conditions,
            fighter,
            others=asking.others,
            seed=asking.seed,
            tick=asking.tick,
            present=present,
            where=f"transition {n}",
        ):
            continue
        to = build.chart.enter(t.to, entering(build, fighter, asking))
        if to is not None and _may(build, fighter, build.states[to]):
            return n, t, to
    return None


def present_of(
    build: CompiledProject, fighter: FighterState, voice: LocomotionVoice, transition: Transition
) -> Present:
    """What a transition may ask of the state that plays."""
    state = build.states.get(voice.state)
    if state is None:
        return Present(ticks=voice.age)
    parts = parts_of(build, fighter, state)
    clip = max(parts, key=lambda p: p[1])[0] if parts else None
    own = own_phase(state, clip, voice.phase) if clip is not None else 0.0
    round_ = clip is None or loops(state, clip)
    ended = not state.blend and voice.phase >= OVER
    if state.action:
        ended = state.action not in fighter.playing()
    share = own % 1.0 if round_ else min(own, 1.0)
    return Present(ended, share, voice.age, lambda: _apart(build, fighter, voice, transition))


def _apart(build: CompiledProject, fighter: FighterState, voice: LocomotionVoice, transition: Transition) -> float:
    """How far (m) the farther foot is from where the entered state would have it."""
    to = build.chart.enter(transition.to)
    here, there = build.states.get(voice.state), build.states.get(to or "")
    if here is None or there is None or not feet_of(build.assets.skeleton):
        return 0.0
    at = _phase(build, fighter, here, there, transition)
    gap = feet_in(build, fighter, here, voice.phase) - feet_in(build, fighter, there, at)
    return float(np.linalg.norm(gap, axis=-1).max())


def entering(build: CompiledProject, fighter: FighterState, asking: Asking) -> Entering:
    """What decides where a group is entered by a transition that is taken now."""

    def draw(group: Group) -> str | None:
        pool = Pool(
            name=group.name,
            apart=group.apart,
            items=tuple(PoolItem(name=c.state, weight=c.weight) for c in group.choices),
        )
        share = chance(asking.seed, asking.tick, fighter.name, f"group {group.name}")
        return pick(pool, [c.state for c in group.choices], fighter.recent(_pool(group)), share)

    # What is entered where it was left is left first, also from inside itself.
    last = build.chart.leaving(fighter.locomotion[-1].state, dict(fighter.last_in))
    return Entering(last, fighter.parameter, draw)


def _pool(group: Group) -> str:
    """What a group's picks are remembered by, apart from those of the project's pools."""
    return f"group {group.name}"


def _may(build: CompiledProject, fighter: FighterState, state: State) -> bool:
    """Whether a state may be entered: one that runs an action only while its layer is free, and by nobody stunned."""
    compiled = build.action(state.action) if state.action else None
    if compiled is None:
        return True
    return not fighter.stun and all(v.layer != compiled.action.layer for v in fighter.live())


def _take(build: CompiledProject, fighter: FighterState, place: int, t: Transition, to: str, asking: Asking) -> None:
    now = fighter.locomotion[-1]
    old, new = build.states.get(now.state), build.states[to]
    _leave(build, fighter)
    for name in {t.to, *build.chart.around[to]}:
        group = build.chart.groups.get(name)
        if group is not None and group.enters == "pool":
            inside = next((m for m in build.chart.members[name] if build.chart.within(to, m)), "")
            fighter.picked(_pool(group), inside, group.apart)
    if old is not None and old.action:
        for voice in fighter.live():
            if voice.compiled.action.name == old.action:
                end(fighter, voice, "cancelled")
    phase = _phase(build, fighter, old, new, t)
    fighter.locomotion = (*fighter.locomotion, LocomotionVoice(to, phase, 0, t.ticks, t.ease))
    fighter.taken = (*fighter.taken[-TAKEN + 1 :], Taken(asking.tick, place, now.state, to))
    if new.action:
        start(build, fighter, new.action, asking.tick)


def _leave(build: CompiledProject, fighter: FighterState) -> None:
    """Let the groups around the present state remember it."""
    left = build.chart.leaving(fighter.locomotion[-1].state, dict(fighter.last_in))
    fighter.last_in = tuple(sorted(left.items()))


TAKEN = 10
"""So many of the last transitions are remembered, for who wants to know why."""


def _phase(build: CompiledProject, fighter: FighterState, old: State | None, new: State, t: Transition) -> float:
    """The phase in which a state is entered."""
    handed = fighter.locomotion[-1].phase
    # Moving states hand their steps on, so that the feet keep step.
    usual = t.enters == "usual" and old is not None and moves(build, old) and moves(build, new)
    if usual or t.enters == "phase":
        parts = parts_of(build, fighter, new)
        beat = max(parts, key=lambda p: p[1])[0].beat if parts else None
        return handed % (beat.laps if beat is not None else 1)
    if t.enters == "foot" and old is not None and feet_of(build.assets.skeleton):
        return fitting_phase(build, fighter, new, feet_in(build, fighter, old, handed))
    return first_phase(build, fighter, new)


def hand_over(build: CompiledProject, fighter: FighterState, asking: Asking) -> None:
    """Give the body back to locomotion, all of which was hidden: in the state that its speed asks for, and where its
    feet are nearest to those on the screen."""
    if fighter.joints is None or build.states.get(fighter.locomotion[-1].state) is None:
        return
    was = fighter.locomotion[-1].state
    for _ in build.states:
        taken = asked(build, fighter, asking)
        if taken is None or build.states[taken[2]].action or not moves(build, build.states[taken[2]]):
            break
        _leave(build, fighter)
        fighter.locomotion = (LocomotionVoice(taken[2]),)
    now = fighter.locomotion[-1]
    state = build.states[now.state]
    feet = list(feet_of(build.assets.skeleton))
    if not feet or not moves(build, state):
        return
    here: Array = fighter.joints[feet, :3, 3]
    phase = fitting_phase(build, fighter, state, here)
    age = now.age if now.state == was else 1
    fighter.locomotion = (LocomotionVoice(now.state, phase, age),)
