"""Steps 8 and 9 of the tick: strikes against hurtboxes, and what a hit does.

All contacts of a tick are found before any is applied, so two fighters can trade.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from veergust.core.model import Box, Hurtbox, Reaction, Strike
from veergust.core.motion import quat
from veergust.core.motion.quat import Array
from veergust.core.play.book import Book
from veergust.core.play.compiled import active
from veergust.core.play.decide import start
from veergust.core.play.posing import body_matrix
from veergust.core.play.state import FighterState, Voice, end
from veergust.core.play.sweep import first_touch, first_touch_box


@dataclass(frozen=True, eq=False)
class Contact:
    """One touch: whose strike, whom, where and with what result."""

    strike: Strike
    attacker: str
    victim: str
    hurtbox: str
    result: str
    position: Array
    damage: float
    key: tuple[int, int]


@dataclass(frozen=True, eq=False)
class Volume:
    """A capsule (or box) in the world, at the last tick and now."""

    name: str
    before: tuple[Array, Array]
    now: tuple[Array, Array]
    radius: float
    half: Array | None = None
    frame_before: Array | None = None
    frame_now: Array | None = None


def shape_at(box: Box, tick: int) -> tuple[Array, Array, float]:
    """A hitbox's ends and radius on a tick of its strike, by its keys where it has any."""
    a, b = np.array(box.offset), np.array(box.to if box.shape == "capsule" else box.offset)
    if not box.keys:
        return a, b, box.radius
    times = [k.tick for k in box.keys]

    def at(values: list[float]) -> float:
        return float(np.interp(tick, times, values))

    a = np.array([at([k.offset[i] for k in box.keys]) for i in range(3)])
    b = np.array([at([k.to[i] for k in box.keys]) for i in range(3)]) if box.shape == "capsule" else a
    return a, b, at([k.radius for k in box.keys])


def box_frame(book: Book, box: Box, joints: Array, mirrored: bool) -> Array | None:
    """The frame ``[4, 4]`` of a hitbox's mount in the body, of joints ``[J, 4, 4]``."""
    mount = book.mount(box.mount, mirrored)
    return None if mount is None else np.asarray(joints[mount[0]] @ mount[1])


def _point(frame: Array, at: Array) -> Array:
    return np.asarray(frame[:3, :3] @ at + frame[:3, 3])


def hit_volume(
    book: Book, box: Box, tick: int, mirrored: bool, before: Array, now: Array, fresh: bool
) -> Volume | None:
    """A hitbox in the world from world joint matrices at the last tick and now; ``fresh`` ones have not moved."""
    start_frame, end_frame = box_frame(book, box, before, mirrored), box_frame(book, box, now, mirrored)
    if start_frame is None or end_frame is None:
        return None
    return swept(box, tick, mirrored, start_frame, end_frame, fresh)


def swept(box: Box, tick: int, mirrored: bool, before: Array, now: Array, fresh: bool) -> Volume:
    """A hitbox whose mount has the frames ``before`` and ``now`` ``[4, 4]``, as ``hit_volume``."""
    flip = np.array([-1.0, 1.0, 1.0]) if mirrored else np.ones(3)
    a, b, radius = shape_at(box, tick)
    a0, b0 = (a, b) if fresh else shape_at(box, tick - 1)[:2]
    first = now if fresh else before
    ends_before = (_point(first, a0 * flip), _point(first, b0 * flip))
    ends_now = (_point(now, a * flip), _point(now, b * flip))
    if box.shape != "box":
        return Volume(box.mount, ends_before, ends_now, radius)
    place_before, place_now = first.copy(), now.copy()
    place_before[:3, 3], place_now[:3, 3] = ends_before[0], ends_now[0]
    return Volume(box.mount, ends_before, ends_now, 0.0, np.array(box.size), place_before, place_now)


def hurt_volume(book: Book, hurtbox: Hurtbox, before: Array, now: Array) -> Volume | None:
    """A hurtbox in the world from world joint matrices at the last tick and now."""
    joint = book.cast.skeleton.index.get(hurtbox.joint)
    if joint is None:
        return None
    a, b = np.array(hurtbox.offset), np.array(hurtbox.to)
    return Volume(
        hurtbox.name,
        (_point(before[joint], a), _point(before[joint], b)),
        (_point(now[joint], a), _point(now[joint], b)),
        hurtbox.radius,
    )


def touch(hits: list[Volume], hurts: list[Volume]) -> tuple[Volume, Array, float] | None:
    """The first hurtbox any of ``hits`` touches within the tick: which, where and when (0…1)."""
    best: tuple[Volume, Array, float] | None = None
    for hit in hits:
        n = len(hurts)
        ends = tuple(
            np.stack([np.asarray(v) for v in column]) for column in zip(*((*h.before, *h.now) for h in hurts))
        )
        radius = np.array([h.radius + hit.radius for h in hurts])
        if hit.half is None:
            mine = tuple(np.tile(p, (n, 1)) for p in (*hit.before, *hit.now))
            times, places = first_touch(mine, ends, radius)  # type: ignore[arg-type]
        else:
            assert hit.frame_before is not None
            assert hit.frame_now is not None
            back = [np.linalg.inv(hit.frame_before)] * 2 + [np.linalg.inv(hit.frame_now)] * 2
            local = tuple(e @ m[:3, :3].T + m[:3, 3] for e, m in zip(ends, back))
            times, places = first_touch_box(hit.half, local, radius)
            places = places @ hit.frame_now[:3, :3].T + hit.frame_now[:3, 3]
        which = int(np.argmin(times))
        if np.isfinite(times[which]) and (best is None or times[which] < best[2]):
            best = hurts[which], places[which], float(times[which])
    return best


class Contacts:
    """Finds and applies the contacts of one tick."""

    def __init__(self, book: Book, fighters: list[FighterState], tick: int) -> None:
        self.book = book
        self.fighters = fighters
        self.tick = tick

    def find(self) -> list[Contact]:
        """Every contact of the tick, in the order of fighters, actions, strikes and victims."""
        out: list[Contact] = []
        for attacker in self.fighters:
            for voice in attacker.live():
                if attacker.frozen or not attacker.advanced:
                    continue
                for index in active(voice.part.section.strikes, voice.frame):
                    out += self._strike(attacker, voice, index)
        return out

    def _strike(self, attacker: FighterState, voice: Voice, index: int) -> list[Contact]:
        strike = voice.part.section.strikes[index]
        fresh = voice.frame == strike.start or attacker.frame_before is None
        now = body_matrix(attacker.position, attacker.facing) @ attacker.joints_now
        before = now if attacker.frame_before is None else self._before(attacker)
        mirrored = voice.part.mirrored(voice.frame)
        hits = [
            v for box in strike.boxes if (v := hit_volume(self.book, box, voice.frame, mirrored, before, now, fresh))
        ]
        out: list[Contact] = []
        if not hits:
            return out
        for victim in self.fighters:
            if victim is attacker or victim.down or not self._may(voice, index, strike, victim.name):
                continue
            world = body_matrix(victim.position, victim.facing) @ victim.joints_now
            then = world if victim.frame_before is None else self._before(victim)
            hurts = [v for box in self.book.project.rig.hurtboxes if (v := hurt_volume(self.book, box, then, world))]
            found = touch(hits, hurts) if hurts else None
            if found:
                result = self._result(strike, attacker, victim, found[0].name)
                damage = strike.damage if result in ("hit", "armoured") else 0.0
                out.append(
                    Contact(
                        strike,
                        attacker.name,
                        victim.name,
                        found[0].name,
                        result,
                        found[1],
                        damage,
                        (voice.section, index),
                    )
                )
        for post in self.book.project.stage.posts:
            if not self._may(voice, index, strike, post.name):
                continue
            foot = np.array(post.position) + np.array([0.0, post.radius, 0.0])
            top = np.array(post.position) + np.array([0.0, post.height - post.radius, 0.0])
            found = touch(hits, [Volume("post", (foot, top), (foot, top), post.radius)])
            if found:
                out.append(
                    Contact(strike, attacker.name, post.name, "post", "hit", found[1], 0.0, (voice.section, index))
                )
        return out

    def _before(self, fighter: FighterState) -> Array:
        assert fighter.frame_before is not None
        assert fighter.joints_before is not None
        return body_matrix(*fighter.frame_before) @ fighter.joints_before

    def _may(self, voice: Voice, index: int, strike: Strike, victim: str) -> bool:
        """Once per opening and victim, or again after ``repeat`` ticks."""
        last = [t for s, i, v, t in voice.touched if (s, i, v) == (voice.section, index, victim)]
        return not last or (strike.repeat > 0 and self.tick - max(last) >= strike.repeat)

    def _result(self, strike: Strike, attacker: FighterState, victim: FighterState, hurtbox: str) -> str:
        for voice in victim.live():
            for i in active(voice.part.section.shields, voice.frame):
                shield = voice.part.section.shields[i]
                if shield.hurtboxes and hurtbox not in shield.hurtboxes:
                    continue
                if shield.kind == "invulnerable":
                    return "evaded"
                if shield.kind == "guard" and strike.guard != "none" and side_of(attacker, victim) == "front":
                    return "guarded"
                if shield.kind == "armour" and strike.poise <= shield.strength:
                    return "armoured"
        return "hit"

    def apply(self, contacts: list[Contact]) -> None:
        """Hit stop, damage, knockback, then the reaction to the heaviest hit on each victim."""
        by_name = {f.name: f for f in self.fighters}
        reacting: dict[str, Contact] = {}
        for contact in contacts:
            attacker, victim = by_name[contact.attacker], by_name.get(contact.victim)
            self._mark(attacker, contact)
            if contact.result == "evaded":
                continue
            attacker.frozen = max(attacker.frozen, contact.strike.hit_stop)
            if victim is None:
                continue
            victim.frozen = max(victim.frozen, contact.strike.hit_stop)
            victim.health = max(0.0, victim.health - contact.damage)
            push = quat.rotate(quat.from_yaw(np.radians(attacker.facing)), np.array(contact.strike.knockback))
            if contact.result == "hit":
                victim.knock = push * np.array([1.0, 0.0, 1.0])
                if push[1] > 0:
                    victim.velocity = np.array([victim.velocity[0], push[1], victim.velocity[2]])
                    victim.position = victim.position + np.array([0.0, 0.04, 0.0])
                    victim.grounded = False
                worst = reacting.get(victim.name)
                if worst is None or worst.result == "guarded" or contact.damage > worst.damage:
                    reacting[victim.name] = contact
            elif contact.result == "guarded":
                victim.knock = push * np.array([0.5, 0.0, 0.5])
                reacting.setdefault(victim.name, contact)
        for name, contact in reacting.items():
            self._react(by_name[contact.attacker], by_name[name], contact)

    def _mark(self, attacker: FighterState, contact: Contact) -> None:
        section, index = contact.key
        for voice in attacker.live():
            strikes = voice.part.section.strikes
            if voice.section == section and index < len(strikes) and strikes[index] is contact.strike:
                got = "guarded" if contact.result == "guarded" else "hit"
                got = voice.contact if contact.result == "evaded" or voice.contact == "hit" else got
                touched = (*voice.touched, (section, index, contact.victim, self.tick))
                attacker.put(voice, replace(voice, contact=got, touched=touched))

    def _react(self, attacker: FighterState, victim: FighterState, contact: Contact) -> None:
        guarding = contact.result == "guarded"
        reaction = choose_reaction(self.book, attacker, victim, contact.strike, guarding)
        if guarding and reaction is None:
            return
        for voice in victim.live():
            end(victim, voice, "broken")
        if victim.health <= 0.0:
            victim.down = True
        if reaction is None:
            return
        started = start(self.book, victim, reaction.action, self.tick, section=reaction.section)
        if started is not None and victim.down:
            victim.put(started, replace(started, last=True))


def side_of(attacker: FighterState, victim: FighterState) -> str:
    """The side of the victim the attacker stands on, in quarters of the victim's own frame."""
    gap = attacker.position - victim.position
    angle = (np.degrees(np.arctan2(gap[0], gap[2])) - victim.facing + 180.0) % 360.0 - 180.0
    if abs(angle) <= 45.0:
        return "front"
    if abs(angle) >= 135.0:
        return "back"
    return "left" if angle > 0 else "right"


def choose_reaction(
    book: Book, attacker: FighterState, victim: FighterState, strike: Strike, guarding: bool = False
) -> Reaction | None:
    """The first row of the reaction table that fits side, strength and situation.

    Rows for any situation stand for standing and the air; a guarded or a last hit needs a row of its own.
    """
    situation = "standing" if victim.grounded else "air"
    if guarding:
        situation = "guarding"
    elif victim.health <= 0.0:
        situation = "last"
    side = side_of(attacker, victim)
    for row in book.project.reactions:
        if (
            row.side in ("any", side)
            and row.strength in ("any", strike.strength)
            and (row.situation == situation or (row.situation == "any" and situation in ("standing", "air")))
        ):
            return row
    return None
