"""Steps 8 and 9 of the tick: strikes against hurtboxes, and what a hit does.

All contacts of a tick are found before any is applied, so two fighters can trade.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from math import cos, radians, sin

import numpy as np

from veergust.core.kinds.settings import GUARD
from veergust.core.model import Hitbox, Reaction, Shield, Strike
from veergust.core.motion.quat import Array, Indices
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.compiled.section import active
from veergust.core.play.contact.answers import choose_reaction, side_of
from veergust.core.play.contact.volumes import Ends, Volume, balls, hit_volume, piece_balls, pieces, touches
from veergust.core.play.pose.posing import body_matrix
from veergust.core.play.pose.speaking import acts
from veergust.core.play.rules.pairs import give_way
from veergust.core.play.rules.starting import start
from veergust.core.play.state import FighterState, Voice, end, go_on


@dataclass(frozen=True, eq=False)
class Contact:
    """One touch: whose strike, whom, where and with what result. ``key`` is (section, strike) of the attacker's
    action, ``serial`` that action's number among its starts. ``damage`` is what the ``region`` of the hurtbox takes."""

    strike: Strike
    attacker: str
    victim: str
    hurtbox: str
    result: str
    position: Array
    damage: float
    key: tuple[int, int]
    mirrored: bool = False
    serial: int = -1
    region: str = ""


@dataclass(frozen=True, eq=False)
class OpenStrike:
    """An open strike of somebody."""

    attacker: FighterState
    voice: Voice
    index: int
    strike: Strike


@dataclass(frozen=True, eq=False)
class Targets:
    """What can be touched: the names of targets, and ``N`` capsules with whose each is and what it is called."""

    names: list[str]
    fighters: list[FighterState | None]
    owner: Indices
    labels: list[str]
    ends: Ends
    radius: Array


class Contacts:
    """Finds and applies the contacts of one tick."""

    def __init__(self, build: CompiledProject, fighters: list[FighterState], tick: int) -> None:
        self.build = build
        self.fighters = fighters
        self.tick = tick

    def find(self) -> list[Contact]:
        """Every contact of the tick, in the order of fighters, actions, strikes and victims."""
        open_ = list(self.volumes())
        if not open_:
            return []
        swings = list(dict.fromkeys(swing for swing, _, _ in open_))
        number = {swing: n for n, swing in enumerate(swings)}
        whose = [number[swing] for swing, _, _ in open_]
        targets = self._targets()
        if not len(targets.radius):
            return []
        hits = pieces([volume for _, _, volume in open_])
        swing_of = np.array(whose)[hits.owner]
        may = np.array([[self._may(s, name) for name in targets.names] for s in swings])
        mine, my_size = piece_balls(hits)
        theirs, their_size = balls(targets.ends, targets.radius)
        near = np.linalg.norm(theirs[None] - mine[:, None], axis=-1) <= my_size[:, None] + their_size
        rows, hurt = np.nonzero(near & may[swing_of][:, targets.owner])
        if not len(rows):
            return []
        times, places = touches(hits, targets.ends, targets.radius, rows, hurt)
        touched = np.flatnonzero(np.isfinite(times))
        pairs: dict[tuple[int, int], list[int]] = {}
        for i in touched[np.argsort(times[touched], kind="stable")]:
            pairs.setdefault((int(swing_of[rows[i]]), int(targets.owner[hurt[i]])), []).append(int(i))
        out = []
        for (n, target), found in sorted(pairs.items()):
            contact = self._contact(swings[n], targets, target, [(targets.labels[hurt[i]], places[i]) for i in found])
            if contact is not None:
                out.append(contact)
        return out

    def volumes(self) -> Iterator[tuple[OpenStrike, Hitbox, Volume]]:
        """Every open hitbox: its strike, itself, and what it sweeps."""
        for attacker in self.fighters:
            if not attacker.voices or attacker.joints is None:
                continue
            if not any(v.part.section.strikes for v in attacker.live()):
                continue
            now: Array | None = None
            for voice in attacker.acting():
                strikes = voice.part.section.strikes
                for index in active(strikes, voice.frame) if acts(self.build, attacker, voice) else ():
                    if now is None:
                        now, before = world(attacker), world_before(attacker)
                    mirrored, fresh = voice.part.mirrored(voice.frame), voice.frame == strikes[index].start
                    swing = OpenStrike(attacker, voice, index, strikes[index])
                    for box in strikes[index].boxes:
                        volume = hit_volume(self.build, box, voice.frame, mirrored, before, now, fresh)
                        if volume is not None:
                            yield swing, box, volume

    def _targets(self) -> Targets:
        """Hurtboxes of everybody who can be hit, and posts."""
        names: list[str] = []
        fighters: list[FighterState | None] = []
        owner: list[int] = []
        labels: list[str] = []
        columns: list[list[Array]] = [[], [], [], []]
        radius: list[Array] = []
        joints, a, b, size, called = self.build.hurt_capsules
        for fighter in self.fighters:
            if fighter.down or fighter.joints is None or not len(joints):
                continue
            now, before = world(fighter, joints), world_before(fighter, joints)
            for column, frames, at in zip(columns, (before, before, now, now), (a, b, a, b)):
                column.append((frames[:, :3, :3] @ at[:, :, None])[:, :, 0] + frames[:, :3, 3])
            owner += [len(names)] * len(joints)
            labels += called
            radius.append(size)
            names.append(fighter.name)
            fighters.append(fighter)
        for post in self.build.project.stage.posts:
            low = np.array(post.position) + np.array([0.0, post.radius, 0.0])
            high = np.array(post.position) + np.array([0.0, max(post.height - post.radius, post.radius), 0.0])
            for column, at in zip(columns, (low, high, low, high)):
                column.append(at[None])
            owner.append(len(names))
            labels.append("post")
            radius.append(np.array([post.radius]))
            names.append(post.name)
            fighters.append(None)
        ends = tuple(np.concatenate(c) if c else np.zeros((0, 3)) for c in columns)
        sizes = np.concatenate(radius) if radius else np.zeros(0)
        return Targets(names, fighters, np.array(owner, dtype=np.intp), labels, ends, sizes)  # type: ignore[arg-type]

    def _may(self, swing: OpenStrike, victim: str) -> bool:
        """Not itself; once per opening and victim, or again after ``repeat`` of the attacker's own ticks."""
        if victim == swing.attacker.name:
            return False
        voice, strike = swing.voice, swing.strike
        last = [t for s, i, v, t in voice.touched if (s, i, v) == (voice.section, swing.index, victim)]
        return not last or (strike.repeat > 0 and voice.age - max(last) >= strike.repeat)

    def _contact(
        self, swing: OpenStrike, targets: Targets, target: int, found: list[tuple[str, Array]]
    ) -> Contact | None:
        """The contact of a strike with a target, of the hurtboxes it touches, the earliest first."""
        voice, strike, victim = swing.voice, swing.strike, targets.fighters[target]
        key = voice.section, swing.index
        mirrored = voice.part.mirrored(voice.frame)
        hurtbox, place = found[0]
        result = "hit"
        if victim is not None:
            shields = list(_shields(victim))
            # What is invulnerable is not there: what else is touched counts.
            bare = [f for f in found if not _covered(shields, "invulnerable", f[0])]
            if bare:
                hurtbox, place = bare[0]
                result = _result(shields, strike, swing.attacker, victim, hurtbox)
            elif any((s, i, v) == (*key, victim.name) for s, i, v, _ in voice.evaded):
                return None
            else:
                result = "evaded"
        region, factor = _region(self.build, hurtbox) if victim is not None else ("", 1.0)
        damage = strike.damage * factor if victim is not None and result in ("hit", "armoured") else 0.0
        return Contact(
            strike,
            swing.attacker.name,
            targets.names[target],
            hurtbox,
            result,
            place,
            damage,
            key,
            mirrored,
            voice.serial,
            region,
        )

    def apply(self, contacts: list[Contact]) -> set[str]:
        """Hit stop, damage, knockback, then the reaction to the heaviest hit on each victim; whoever reacts."""
        by_name = {f.name: f for f in self.fighters}
        heaviest: dict[str, Contact] = {}
        for contact in contacts:
            attacker, victim = by_name[contact.attacker], by_name.get(contact.victim)
            _mark(attacker, contact)
            if contact.result == "evaded":
                continue
            attacker.frozen = max(attacker.frozen, contact.strike.hit_stop)
            if victim is None:
                continue
            victim.frozen = max(victim.frozen, contact.strike.hit_stop)
            victim.health = max(0.0, victim.health - contact.damage)
            worst = heaviest.get(victim.name)
            if worst is None or _weight(contact) > _weight(worst):
                heaviest[victim.name] = contact
        # Each is chosen by how everybody stood when it was touched, before anybody is pushed.
        answers = []
        for name, contact in heaviest.items():
            attacker, victim = by_name[contact.attacker], by_name[name]
            guarding = contact.result == "guarded" and victim.health > 0.0
            answer = choose_reaction(self.build, attacker, victim, contact.strike, guarding)
            reacts = (contact.result != "armoured" or victim.health <= 0.0) and not (guarding and answer is None)
            answers.append((attacker, victim, contact, answer, reacts))
        for attacker, victim, contact, answer, reacts in answers:
            _push(attacker, victim, contact)
            if reacts:
                self._react(victim, answer)
        return set(heaviest)

    def _react(self, victim: FighterState, reaction: Reaction | None) -> None:
        victim.down |= victim.health <= 0.0
        compiled = self.build.action(reaction.action) if reaction is not None else None
        if victim.down or compiled is None:
            for voice in victim.live():
                end(victim, voice, "broken")
            go_on(victim)
        elif give_way(self.build, victim, compiled.action, "forced", "broken") or self._moves(compiled.action.layer):
            go_on(victim)
        if reaction is None:
            return
        started = start(
            self.build, victim, reaction.action, self.tick, section=reaction.section, way="forced", ends="broken"
        )
        if started is not None and victim.down:
            victim.put(started, started.but(last=True))

    def _moves(self, layer: str) -> bool:
        """Whether actions on a layer move the body."""
        there = self.build.layers.get(layer)
        return there is not None and there.root > 0.0


def world(fighter: FighterState, joints: Indices | None = None) -> Array:
    """World matrices ``[J, 4, 4]`` of a fighter's joints now, or of some of them."""
    own = fighter.joints_now
    return np.asarray(body_matrix(fighter.position, fighter.facing) @ (own if joints is None else own[joints]))


def world_before(fighter: FighterState, joints: Indices | None = None) -> Array:
    """As ``world``, at the last tick; now, when it has just been put somewhere."""
    if fighter.frame_before is None or fighter.joints_before is None:
        return world(fighter, joints)
    own = fighter.joints_before if joints is None else fighter.joints_before[joints]
    return np.asarray(body_matrix(*fighter.frame_before) @ own)


def _region(build: CompiledProject, hurtbox: str) -> tuple[str, float]:
    """The part of the body that a hurtbox belongs to, and how many times a strike's damage it takes."""
    rig = build.project.rig
    region = next((h.region for h in rig.hurtboxes if h.name == hurtbox), "")
    return region, next((r.factor for r in rig.regions if r.name == region), 1.0)


def _shields(fighter: FighterState) -> Iterator[Shield]:
    """The shields a fighter has up: of its sections, then of its whole actions."""
    for voice in fighter.acting():
        shields = voice.part.section.shields
        yield from (shields[i] for i in active(shields, voice.frame))
        yield from voice.compiled.action.shields
    if GUARD.on(fighter.holding()):
        yield Shield(start=0, end=0, kind="guard")


def _covered(shields: list[Shield], kind: str, hurtbox: str) -> bool:
    return any(s.kind == kind and (not s.hurtboxes or hurtbox in s.hurtboxes) for s in shields)


def _result(shields: list[Shield], strike: Strike, attacker: FighterState, victim: FighterState, hurtbox: str) -> str:
    for shield in shields:
        if shield.hurtboxes and hurtbox not in shield.hurtboxes:
            continue
        if shield.kind == "guard" and guards(shield, strike) and side_of(attacker, victim) == "front":
            return "guarded"
        if shield.kind == "armour" and strike.poise <= shield.strength:
            return "armoured"
    return "hit"


def guards(shield: Shield, strike: Strike) -> bool:
    """Whether a guard is held high or low enough for a strike."""
    return strike.guard != "none" and (strike.guard == "any" or shield.height in ("any", strike.guard))


def _weight(contact: Contact) -> tuple[int, float]:
    """How heavy a contact is: hits before guarded ones before armoured ones, then by the strike's damage."""
    return {"hit": 2, "guarded": 1}.get(contact.result, 0), contact.strike.damage


def _push(attacker: FighterState, victim: FighterState, contact: Contact) -> None:
    """Knock a victim back, as the heaviest hit on it says."""
    if contact.result == "armoured":
        return
    side, up, ahead = contact.strike.knockback
    turn, much = radians(attacker.facing), 1.0 if contact.result == "hit" else 0.5
    s, c = sin(turn) * much, cos(turn) * much
    side = -side if contact.mirrored else side
    victim.knock = (c * side + s * ahead, 0.0, c * ahead - s * side)
    if contact.result == "hit" and up > 0.0:
        victim.velocity = (victim.velocity[0], up, victim.velocity[2])
        victim.grounded = False


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
        got = "guarded" if contact.result == "guarded" and voice.contact != "hit" else "hit"
        attacker.put(voice, voice.but(contact=got, touched=(*voice.touched, mark)))
