"""Step 8 of the tick: strikes against hurtboxes.

All contacts of a tick are found before any is applied, so two fighters can trade.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from functools import lru_cache, partial
from typing import NamedTuple

import numpy as np

from veergust.core.model import Hitbox, Post, Strike
from veergust.core.motion import Array, Indices
from veergust.core.play.compiled.hurting import HurtShapes
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.compiled.section import active
from veergust.core.play.contact.applying import share
from veergust.core.play.contact.contact import Contact
from veergust.core.play.contact.hurts import Hurts, placed_hurts
from veergust.core.play.contact.shielding import Judgement, covered, judged, raised, weighed
from veergust.core.play.contact.sweep import near, touches
from veergust.core.play.contact.volumes import Pieces, Shape, Volume, pieces, swept
from veergust.core.play.pose.posing import body_matrix
from veergust.core.play.pose.speaking import acts
from veergust.core.play.state import FighterState, Voice
from veergust.core.play.world import EMPTY, Flying, World, posts_left


@dataclass(frozen=True, eq=False)
class OpenStrike:
    """An open strike of somebody: of an action that plays, or of a thing that flies."""

    attacker: FighterState
    strike: Strike
    voice: Voice | None = None
    index: int = 0
    thing: Flying | None = None

    @property
    def key(self) -> tuple[int, int]:
        """(section, strike) of its action."""
        return (self.voice.section, self.index) if self.voice is not None else (-1, 0)

    def was_evaded(self, victim: str) -> bool:
        """Whether somebody has evaded it already."""
        if self.thing is not None:
            return victim in self.thing.evaded
        return self.voice is not None and any((s, i, v) == (*self.key, victim) for s, i, v, _ in self.voice.evaded)

    def comes_from(self) -> Array:
        """The place it comes from: where the attacker stands, or where the thing was."""
        return self.attacker.position if self.thing is None else np.array(self.thing.before)


@dataclass(frozen=True, eq=False)
class Targets:
    """What can be touched: the names of targets, and ``H`` hurtboxes with whose each is and what it is called."""

    names: list[str]
    fighters: list[FighterState | None]
    owner: Indices
    labels: list[str]
    hurts: Hurts


class Touching(NamedTuple):
    """A hurtbox that is touched, where, and which share of the damage the hitbox has that touches it."""

    hurtbox: str
    place: Array
    share: float


class Contacts:
    """Finds the contacts of one tick."""

    def __init__(self, build: CompiledProject, fighters: list[FighterState], world: World = EMPTY) -> None:
        self.build = build
        self.fighters = fighters
        self.world = world
        self._places: dict[str, tuple[tuple[Array, Array], tuple[Array, Array]]] = {}

    def find(self) -> list[Contact]:
        """Every contact of the tick, in the order of fighters, actions, strikes and victims."""
        open_ = [(swing, box.share, volume) for swing, box, volume in self.volumes()]
        open_ += self._flying() if self.world.things else []
        if not open_:
            return []
        swings = list(dict.fromkeys(swing for swing, _, _ in open_))
        number = {swing: n for n, swing in enumerate(swings)}
        whose = [number[swing] for swing, _, _ in open_]
        targets = self._targets()
        if not len(targets.hurts):
            return []
        hits = pieces([volume for _, _, volume in open_])
        swing_of = np.array(whose)[hits.owner]
        may = np.array([_may_touch(swing, targets) for swing in swings])
        rows, hurt = near(hits, targets.hurts, may, swing_of, targets.owner)
        if not len(rows):
            return []
        times, places = touches(hits, targets.hurts, rows, hurt)
        touched = np.flatnonzero(np.isfinite(times))
        order = touched[np.argsort(times[touched], kind="stable")]
        swung, struck = swing_of[rows[order]].tolist(), targets.owner[hurt[order]].tolist()
        pairs: dict[tuple[int, int], list[int]] = {}
        for i, n, target in zip(order.tolist(), swung, struck):
            pairs.setdefault((n, target), []).append(i)

        def touching(i: int) -> Touching:
            return Touching(targets.labels[hurt[i]], places[i], open_[hits.owner[rows[i]]][1])

        out = []
        for (n, target), found in sorted(pairs.items()):
            contact = self._contact(swings[n], targets, target, [partial(touching, i) for i in found])
            if contact is not None:
                if contact.thing > 0 or contact.strike.push == "swing":
                    contact = replace(contact, along=_along(hits, int(rows[found[0]])))
                out.append(contact)
        return weighed(_once_a_group(out), self.fighters)

    def volumes(self) -> Iterator[tuple[OpenStrike, Hitbox, Volume]]:
        """Every open hitbox: its strike, itself, and what it sweeps."""
        for attacker in self.fighters:
            if not attacker.voices or attacker.joints is None:
                continue
            if not any(v.part.section.strikes for v in attacker.live()):
                continue
            stood, build = self._stood(attacker), self.build.of(attacker.setup)
            for voice in attacker.acting():
                strikes = voice.part.section.strikes
                for index in active(strikes, voice.frame) if acts(build, attacker, voice) else ():
                    mirrored, fresh = voice.part.mirrored(voice.frame), voice.frame == strikes[index].start
                    swing = OpenStrike(attacker, strikes[index], voice, index)
                    for box in strikes[index].boxes:
                        mount = build.mount(box.mount, mirrored)
                        if mount is not None:
                            before, now = (body @ joints[mount[0]] @ mount[1] for body, joints in stood)
                            yield swing, box, swept(box, voice.frame, mirrored, before, now, fresh)

    def _flying(self) -> list[tuple[OpenStrike, float, Volume]]:
        """What flies, and what it sweeps."""
        owners = {f.name: f for f in self.fighters}
        out = []
        for one in self.world.things:
            if one.owner in owners and one.age > 0:
                shape = Shape(np.zeros(3), np.zeros(3), one.thing.radius)
                frames = np.tile(np.eye(4), (2, 1, 1))
                frames[:, :3, 3] = one.before, one.position
                volume = Volume(one.thing.name, frames[0], frames[1], shape, shape)
                out.append((OpenStrike(owners[one.owner], one.strike, thing=one), 1.0, volume))
        return out

    def _targets(self) -> Targets:
        """Hurtboxes of everybody who can be hit, and posts."""
        there = [f for f in self.fighters if not f.down and f.joints is not None]
        there = [f for f in there if self.build.of(f.setup).hurt_shapes[f.posture].names]
        shapes = [self.build.of(f.setup).hurt_shapes[f.posture] for f in there]
        stood = [self._stood(f) for f in there]
        before, now = ([at[side] for at in stood] for side in (0, 1))
        counts = [len(s.names) for s in shapes]
        posts = posts_left(self.build, self.world)
        if posts:
            shapes.append(_of_posts(posts))
            before.append(WORLD)
            now.append(WORLD)
        return Targets(
            [*(f.name for f in there), *(post.name for post in posts)],
            [*there, *(None for _ in posts)],
            np.repeat(np.arange(len(counts) + len(posts)), [*counts, *(1 for _ in posts)]),
            [label for s in shapes for label in s.names],
            placed_hurts(shapes, before, now),
        )

    def _stood(self, fighter: FighterState) -> tuple[tuple[Array, Array], tuple[Array, Array]]:
        """The body's frame and the joints in it at the last tick and now; now twice when it has just been put
        somewhere."""
        known = self._places.get(fighter.name)
        if known is None:
            now = body_matrix(fighter.position, fighter.facing), fighter.joints_now
            known = now, now
            if fighter.frame_before is not None and fighter.joints_before is not None:
                known = (body_matrix(*fighter.frame_before), fighter.joints_before), now
            self._places[fighter.name] = known
        return known

    def _contact(
        self, swing: OpenStrike, targets: Targets, target: int, found: list[Callable[[], Touching]]
    ) -> Contact | None:
        """The contact of a strike with a target, of the hurtboxes it touches, the earliest first."""
        voice, strike, victim = swing.voice, swing.strike, targets.fighters[target]
        one = found[0]()
        came = Judgement("hit")
        if victim is not None:
            shields = list(raised(victim))
            # What is invulnerable is not there: what else is touched counts.
            bare = (f for f in (touch() for touch in found) if not covered(shields, "invulnerable", f.hurtbox))
            first = next(bare, None)
            if first is not None:
                one = first
                came = judged(shields, strike, swing.comes_from(), victim, one.hurtbox)
            elif swing.was_evaded(victim.name):
                return None
            else:
                came = Judgement("evaded")
        region, factor = _region(self.build.of(victim.setup), one.hurtbox) if victim is not None else ("", 1.0)
        return Contact(
            strike,
            swing.attacker.name,
            targets.names[target],
            one.hurtbox,
            came.result,
            one.place,
            self._damage(strike, victim, came, targets.names[target]) * factor * one.share,
            swing.key,
            voice is not None and voice.part.mirrored(voice.frame),
            voice.serial if voice is not None else 0,
            region,
            thing=swing.thing.number if swing.thing is not None else 0,
            shield=came.shield,
        )

    def _damage(self, strike: Strike, victim: FighterState | None, came: Judgement, name: str) -> float:
        """What of a strike's damage comes through, but for the region: less through a guard, and less in a string."""
        if victim is None:
            return strike.damage if name in dict(self.world.posts) else 0.0
        if came.result in ("evaded", "deflected"):
            return 0.0
        if came.result == "guarded":
            return strike.damage * (came.shield.lets if came.shield is not None else 0.0)
        scaling = self.build.project.settings.scaling
        return strike.damage * share(scaling.damage, victim.strung, scaling.least)


def _may_touch(swing: OpenStrike, targets: Targets) -> list[bool]:
    """Which targets a strike may touch."""
    me, strike, voice = swing.attacker, swing.strike, swing.voice
    if voice is not None and not voice.touched and not strike.group and strike.team == "others" and not me.setup.team:
        own = me.name
        return [name != own for name in targets.names]
    return [_may(swing, *who) for who in zip(targets.names, targets.fighters)]


def _may(swing: OpenStrike, victim: str, fighter: FighterState | None) -> bool:
    """Not itself, nor whom the strike is not for; once per opening and victim, once for its whole group, or again
    after ``repeat`` of the attacker's own ticks, so often at most."""
    if victim == swing.attacker.name:
        return False
    voice, strike = swing.voice, swing.strike
    if fighter is not None and strike.team != "everybody":
        own = fighter.setup.team != "" and fighter.setup.team == swing.attacker.setup.team
        if own != (strike.team == "own"):
            return False
    if swing.thing is not None:
        return victim not in swing.thing.touched
    if voice is None:
        return False
    if strike.group and not strike.repeat and (strike.group, victim) in voice.so_far.groups:
        return False
    last = [t for s, i, v, t in voice.touched if (s, i, v) == (voice.section, swing.index, victim)]
    if not last:
        return True
    again = strike.repeat > 0 and voice.age - max(last) >= strike.repeat
    return again and not 0 < strike.most <= len(last)


def _once_a_group(contacts: list[Contact]) -> list[Contact]:
    """Of several touches of one tick by strikes of one group of an action on one victim, the first in their order."""
    seen: set[tuple[str, int, str, str]] = set()
    out = []
    for contact in contacts:
        mark = contact.attacker, contact.serial, contact.strike.group, contact.victim
        if contact.strike.group and not contact.thing and contact.result != "evaded":
            if mark in seen:
                continue
            seen.add(mark)
        out.append(contact)
    return out


def _along(hits: Pieces, row: int) -> tuple[float, float]:
    """Which way (x, z) the middle of a piece of a hitbox goes."""
    a0, b0, a1, b1 = hits.ends[:, row]
    way = a1 + b1 - a0 - b0
    return float(way[0]), float(way[2])


WORLD = np.eye(4), np.eye(4)[None]
"""What does not move: a body at the origin with one joint."""


@lru_cache(maxsize=64)
def _of_posts(posts: tuple[Post, ...]) -> HurtShapes:
    """Posts as what can be touched, in the world."""
    places, radius = np.array([p.position for p in posts]), np.array([p.radius for p in posts])
    tall = np.array([max(p.height - p.radius, p.radius) for p in posts])
    up, nothing = np.array([0.0, 1.0, 0.0]), np.zeros((len(posts), 3))
    return HurtShapes(
        ["post"] * len(posts),
        np.zeros(len(posts), dtype=np.intp),
        places + radius[:, None] * up,
        places + tall[:, None] * up,
        radius,
        np.zeros(len(posts), dtype=np.uint8),
        nothing,
        np.tile(np.eye(3), (len(posts), 1, 1)),
        np.full(len(posts), -1, dtype=np.intp),
    )


def _region(build: CompiledProject, hurtbox: str) -> tuple[str, float]:
    """The part of the body that a hurtbox belongs to, and how many times a strike's damage it takes."""
    rig = build.project.rig
    region = next((h.region for h in rig.hurtboxes if h.name == hurtbox), "")
    return region, next((r.factor for r in rig.regions if r.name == region), 1.0)
