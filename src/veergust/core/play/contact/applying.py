"""Step 9 of the tick: what a touch does to either side, and who reacts to it.

Everybody's answer is chosen by how it stood when it was touched, before anybody is pushed.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import cos, hypot, radians, sin

import numpy as np

from veergust.core.kinds import number_of
from veergust.core.model import Condition, Outcome, Reaction
from veergust.core.play.aftermath import Shove
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.contact.answers import Touched, bearing, choose_reaction, situation_of
from veergust.core.play.contact.contact import Contact
from veergust.core.play.contact.shielding import raised_by
from veergust.core.play.fired import Fired
from veergust.core.play.rules.chances import Chances
from veergust.core.play.rules.pairs import give_way
from veergust.core.play.rules.starting import start
from veergust.core.play.state import FighterState, end, go_on

RANK = ("none", "deflected", "guarded", "hit")
"""Of several results an action has had, the last of these is told."""
STILL = 1e-6
"""What goes no farther (m) than this has no way of its own."""


@dataclass(frozen=True)
class Reply:
    """Who reacts to whom, how, and for how many ticks it cannot act (None: as long as its reaction is)."""

    reacting: FighterState
    other: FighterState
    contact: Contact
    row: Reaction | None
    stun: int | None
    pushed: bool = True


class Applying:
    """Applies the contacts of one tick."""

    def __init__(self, build: CompiledProject, fighters: list[FighterState], tick: int, seed: int) -> None:
        self.build, self.fighters, self.tick, self.seed = build, fighters, tick, seed

    def apply(self, contacts: list[Contact]) -> set[str]:
        """Hit stop, damage, wear, what runs, knockback, and the reaction to the heaviest touch; whoever was touched."""
        by_name = {f.name: f for f in self.fighters}
        heaviest: dict[str, Contact] = {}
        thrown_back: dict[str, Contact] = {}
        strings = {f.name: f.strung for f in self.fighters}
        for contact in contacts:
            attacker, victim = by_name[contact.attacker], by_name.get(contact.victim)
            if not contact.thing:
                _mark(attacker, contact)
            if contact.result == "evaded":
                continue
            strike = contact.strike
            if not contact.thing:
                attacker.frozen = max(attacker.frozen, strike.hit_stop)
            run(contact.strike.runs, "hit" if contact.result == "armoured" else contact.result, contact, by_name)
            if victim is None:
                continue
            own_stop = strike.hit_stop if strike.victim_stop is None else strike.victim_stop
            victim.frozen = max(victim.frozen, own_stop)
            victim.health = max(0.0, victim.health - contact.damage)
            _wear(victim, contact)
            worst = heaviest.get(victim.name)
            if worst is None or _weight(contact) > _weight(worst):
                heaviest[victim.name] = contact
            if contact.result == "deflected" and not contact.thing:
                back = thrown_back.get(attacker.name)
                if back is None or strike.damage > back.strike.damage:
                    thrown_back[attacker.name] = contact
        answers = [self._answer(by_name, c, strings) for c in heaviest.values()]
        # Who is hit reels from that, and not from what it was thrown back by.
        hit = {a.reacting.name for a in answers if a.contact.result == "hit"}
        answers += [self._thrown(by_name, c) for name, c in thrown_back.items() if name not in hit]
        for answer in answers:
            if answer.pushed:
                _push(answer.other, answer.reacting, answer.contact)
            self._react(answer)
        return {a.reacting.name for a in answers}

    def _answer(self, by_name: dict[str, FighterState], contact: Contact, strings: dict[str, int]) -> Reply:
        """How a victim answers the heaviest touch on it."""
        attacker, victim = by_name[contact.attacker], by_name[contact.victim]
        strike, dead = contact.strike, victim.health <= 0.0
        situation = _came_of(contact) if contact.result != "hit" else situation_of(victim)
        row = self._row(victim, attacker, contact, "last" if dead else situation)
        if contact.result == "armoured" or dead:
            return Reply(victim, attacker, contact, row if dead else None, None, pushed=contact.result != "armoured")
        stun = strike.stun
        if contact.result == "guarded":
            stun = None if contact.breaks else strike.guard_stun
        elif contact.result == "deflected":
            stun = None
        if stun is not None and contact.result == "hit":
            scaling = self.build.project.settings.scaling
            stun = round(stun * share(scaling.stun, strings[victim.name], scaling.least))
        # Whoever is touched can act on the next tick at the earliest.
        stun = None if stun is None else max(stun, 1)
        return Reply(victim, attacker, contact, row, stun, pushed=contact.result not in ("deflected", "armoured"))

    def _thrown(self, by_name: dict[str, FighterState], contact: Contact) -> Reply:
        """How an attacker answers that its strike was deflected."""
        attacker, victim = by_name[contact.attacker], by_name[contact.victim]
        row = self._row(attacker, victim, contact, "deflected")
        return Reply(attacker, victim, contact, row, None, pushed=False)

    def _row(self, reacting: FighterState, other: FighterState, contact: Contact, situation: str) -> Reaction | None:
        gap = other.position - reacting.position
        far = hypot(float(gap[0]), float(gap[2]))
        place = other.position
        if contact.thing:  # it comes from where it was, and not from who threw it
            place = reacting.position - np.array([contact.along[0], 0.0, contact.along[1]])
        touch = Touched(bearing(place, reacting), contact.strike.strength, situation, contact.region, far)

        def holds(conditions: tuple[Condition, ...], where: str) -> bool:
            return self._chances(reacting).holds(conditions, None, where)

        return choose_reaction(self._of(reacting), touch, holds)

    def _chances(self, fighter: FighterState) -> Chances:
        others = tuple(f for f in self.fighters if f is not fighter)
        return Chances(self._of(fighter), fighter, others, self.tick, self.seed)

    def _react(self, answer: Reply) -> None:
        victim, contact = answer.reacting, answer.contact
        dead = victim.health <= 0.0
        if contact.result == "armoured" and not dead:
            return
        if contact.breaks:
            _break_guard(victim)
        row = answer.row
        action = self._action(victim, row) if row is not None else ""
        if contact.result == "hit" or dead or row is not None or answer.stun is not None:
            victim.stun, victim.reels = answer.stun or 0, 0
        if contact.result == "hit" or dead or action:
            self._play(victim, action, row.section if row is not None else "")

    def _play(self, victim: FighterState, action: str, section: str) -> None:
        """Let somebody react with an action; with none what it plays ends."""
        victim.down |= victim.health <= 0.0
        build = self._of(victim)
        compiled = build.action(action) if action else None
        if victim.down or compiled is None:
            for voice in victim.live():
                end(victim, voice, "broken")
            go_on(victim)
        elif give_way(build, victim, compiled.action, "forced", "broken") or _moves(build, compiled.action.layer):
            go_on(victim)
        if compiled is None:
            return
        started = start(build, victim, action, self.tick, section=section, way="forced", ends="broken")
        if started is not None:
            victim.put(started, started.but(reacts=True, last=victim.down))
            victim.reels = started.serial if victim.stun and not victim.down else 0

    def _action(self, victim: FighterState, row: Reaction) -> str:
        """The action of a row, or the one its pool gives."""
        build = self._of(victim)
        if build.action(row.action) is not None or row.action not in build.pools:
            return row.action
        chances = self._chances(victim)
        there = [item.name for item in build.pools[row.action].items if build.action(item.name)]
        name = chances.pick(row.action, there) or ""
        if name:
            chances.picked(row.action, name)
        return name

    def _of(self, fighter: FighterState) -> CompiledProject:
        """What is compiled for a fighter."""
        return self.build.of(fighter.setup)


def _moves(build: CompiledProject, layer: str) -> bool:
    """Whether actions on a layer move the body."""
    there = build.layers.get(layer)
    return there is not None and there.root > 0.0


def _break_guard(victim: FighterState) -> None:
    """End whatever guards."""
    for voice in victim.acting():
        if any(r.shield.kind == "guard" for r in raised_by(voice)):
            end(victim, voice, "broken")


def share(factor: float, before: int, least: float) -> float:
    """What a touch counts after so many others of its string."""
    return max(factor**before, min(least, 1.0)) if factor < 1.0 else 1.0


def run(outcomes: tuple[Outcome, ...], when: str, contact: Contact, by_name: dict[str, FighterState]) -> None:
    """Do what a strike runs at a moment, at the place of the touch."""
    for outcome in outcomes:
        attacker = by_name[contact.attacker]
        # A post has nothing of its own.
        whose = attacker if outcome.whose == "attacker" else by_name.get(contact.victim, attacker)
        if outcome.when == when:
            told = whose.name, outcome.name, outcome.kind, "", contact.position, whose.facing, outcome.payload
            mark = f"{when} {contact.attacker} {contact.serial} {contact.key} {contact.victim}"
            do(outcome, whose, Fired(*told, mark=mark))


def do(outcome: Outcome, whose: FighterState, fired: Fired) -> None:
    """Set what an outcome sets, and let it be told with the events of the tick."""
    whose.came = (*whose.came, fired)
    if outcome.kind == "parameter" and outcome.name:
        whose.set_parameter(outcome.name, number_of(outcome.payload))


def _came_of(contact: Contact) -> str:
    """The situation of a touch that was stopped."""
    if contact.result == "deflected":
        return "deflecting"
    return "guard broken" if contact.breaks else "guarding"


def _wear(victim: FighterState, contact: Contact) -> None:
    """Take from poise and guard what a touch takes; what gives way is whole again."""
    poise = contact.strike.poise
    if contact.result == "hit":
        victim.strung += 1
        victim.poise = victim.setup.poise
    elif contact.result == "armoured" and victim.setup.poise > 0.0:
        victim.poise = max(victim.poise - poise, 0.0)
    elif contact.result == "guarded":
        victim.worn = 0.0 if contact.breaks else victim.worn + poise
    victim.rested = 0


def _weight(contact: Contact) -> tuple[int, float]:
    """How heavy a contact is: hits before stopped ones before armoured ones, then by the strike's damage."""
    rank = {"hit": 3, "guarded": 2, "deflected": 1}.get(contact.result, 0)
    return rank, contact.strike.damage


def _push(attacker: FighterState, victim: FighterState, contact: Contact) -> None:
    """Knock a victim back, as the heaviest touch on it says."""
    strike = contact.strike
    side, up, ahead = strike.knockback
    much = 1.0 if contact.result == "hit" else 0.5
    x, z = _way(attacker, victim, contact)
    side = -side if contact.mirrored else side
    knock = ((z * side + x * ahead) * much, 0.0, (z * ahead - x * side) * much)
    victim.knock = knock
    victim.shove = Shove(knock, strike.push_ticks, strike.push_ease) if strike.push_ticks else None
    if contact.result == "hit" and up > 0.0:
        victim.velocity = (victim.velocity[0], up, victim.velocity[2])
        victim.grounded = False


def _way(attacker: FighterState, victim: FighterState, contact: Contact) -> tuple[float, float]:
    """Which way (x, z) forward is for a knockback: the attacker's, away from it, or the hitbox's own."""
    turn = radians(attacker.facing)
    ahead = sin(turn), cos(turn)
    if contact.strike.push == "ahead" and not contact.thing:
        return ahead
    x, z = contact.along
    if contact.strike.push == "away" and not contact.thing:
        gap = victim.position - attacker.position
        x, z = float(gap[0]), float(gap[2])
    far = hypot(x, z)
    return (x / far, z / far) if far > STILL else ahead


def _mark(attacker: FighterState, contact: Contact) -> None:
    """Note on the action that struck whom it touched, and with what result."""
    section, index = contact.key
    for voice in attacker.live():
        if voice.section != section or (contact.serial >= 0 and voice.serial != contact.serial):
            continue
        strikes = voice.part.section.strikes
        if index >= len(strikes) or strikes[index] is not contact.strike:
            continue
        mark = (section, index, contact.victim, voice.age)
        if contact.result == "evaded":
            attacker.put(voice, voice.but(evaded=(*voice.evaded, mark)))
            continue
        result = "hit" if contact.result == "armoured" else contact.result
        got = max(voice.contact, result, key=RANK.index)
        told = voice.so_far.and_of(contact.region, contact.strike.strength, contact.strike.group, contact.victim)
        attacker.swinging = tuple(
            s._replace(met=True) if s.serial == voice.serial and s.strike is contact.strike else s
            for s in attacker.swinging
        )
        attacker.put(voice, voice.but(contact=got, touched=(*voice.touched, mark), so_far=told))
