"""Strikes against hurtboxes: every contact of a tick is found before any is applied."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from math import atan2, degrees
from typing import Any, NamedTuple

from player import fades
from player.export import Export, Strike
from player.fighter import Fighter, Playing
from player.figure import HERE, Hurtbox, Placed, inside, on
from player.stage import Post, Stage
from player.thrown import Thing
from player.touch import Piece, Shape, arc, ball, meets
from player.turns import STILL, Vector, about_up, around, minus, mixed, multiply, plus, size

Json = dict[str, Any]
GUARD: Json = {
    "kind": "guard",
    "hurtboxes": [],
    "strength": 0.0,
    "height": "any",
    "arc": 90.0,
    "toward": 0.0,
    "lets": 0.0,
}
"""What a hold of ``guard`` raises."""


@dataclass
class Contact:
    """A touch: whose strike, whom, where, and what it comes to."""

    strike: Strike
    attacker: str
    victim: str
    hurtbox: str
    region: str
    result: str
    position: Vector
    damage: float
    playing: Playing | None = None
    section: int = -1
    index: int = 0
    mirrored: bool = False
    along: tuple[float, float] = (0.0, 0.0)
    thing: int = 0
    shield: Json | None = None
    breaks: bool = False


@dataclass
class Swing:
    """An open strike: of an action that plays, or of what flies; and the pieces of the arcs its hitboxes sweep."""

    attacker: Fighter
    strike: Strike
    playing: Playing | None = None
    index: int = 0
    thing: Thing | None = None
    pieces: list[tuple[float, Piece]] = field(default_factory=list)


class Target(NamedTuple):
    """Somebody or something that can be touched: its hurtboxes (name, region) where they were and are."""

    name: str
    fighter: Fighter | None
    boxes: list[tuple[str, str, Shape, Shape]]


def in_world(body: tuple[Vector, float], joint: Placed) -> Placed:
    """A joint about a body that stands somewhere and looks somewhere, in the world."""
    return inside((about_up(body[1]), body[0]), joint)


class Stood(NamedTuple):
    """Where a body and its joints stood at the last tick, and stand now."""

    before: tuple[Vector, float]
    joints_before: list[Placed]
    now: tuple[Vector, float]
    joints: list[Placed]

    def at(self, joint: int) -> tuple[Placed, Placed]:
        return in_world(self.before, self.joints_before[joint]), in_world(self.now, self.joints[joint])


def stood(f: Fighter) -> Stood:
    """Now twice for who has just been put somewhere."""
    now = f.position, f.facing
    if f.stood_before is None or not f.joints_before:
        return Stood(now, f.joints, now, f.joints)
    return Stood(f.stood_before, f.joints_before, now, f.joints)


def find(export: Export, everybody: Sequence[Fighter], stage: Stage, things: Sequence[Thing]) -> list[Contact]:
    """The contacts of a tick, in the order of fighters, actions, strikes and victims."""
    swings = [*_open(export, everybody), *_flying(everybody, things)]
    if not swings:
        return []
    targets = [*(_hurt(export, f) for f in everybody if not f.down), *(_post(p) for p in stage.posts_left())]
    targets = [t for t in targets if t.boxes]
    out = []
    for swing in swings:
        for target in targets:
            if _may(swing, target):
                found = _touching(swing, target)
                contact = _contact(export, swing, target, found, stage) if found else None
                if contact is not None:
                    out.append(contact)
    return _weighed(_once_a_group(out), everybody)


def _open(export: Export, everybody: Sequence[Fighter]) -> Iterator[Swing]:
    """Every open strike of an action that counts, with what its hitboxes sweep."""
    for f in everybody:
        there: Stood | None = None
        for p in f.acting() if f.joints else ():
            for index, strike in enumerate(p.part.strikes):
                row = strike.row
                if not row["start"] <= p.frame < row["end"] or not fades.acts(f, p):
                    continue
                there = there or stood(f)
                swing = Swing(f, strike, p, index)
                for box in strike.boxes:
                    if p.frame in box.ticks:
                        joint, shape = box.ticks[p.frame]
                        before, now = there.at(joint)
                        was = box.ticks.get(p.frame - 1)
                        earlier = was[1] if was is not None and was[0] == joint else shape
                        if p.frame in box.leaps:
                            earlier = shape
                        if p.frame == row["start"]:
                            before, earlier = now, shape
                        swing.pieces += [(box.share, piece) for piece in arc(before, now, earlier, shape)]
                yield swing


def _flying(everybody: Sequence[Fighter], things: Sequence[Thing]) -> Iterator[Swing]:
    """What flies, and what it sweeps."""
    owners = {f.name: f for f in everybody}
    for one in things:
        if one.owner in owners and one.age > 0:
            shape = Shape((0.0, 0.0, 0.0), (0.0, 0.0, 0.0), one.row["radius"])
            pieces = arc((STILL, one.before), (STILL, one.position), shape, shape)
            yield Swing(owners[one.owner], one.strike, thing=one, pieces=[(1.0, piece) for piece in pieces])


def _hurt(export: Export, f: Fighter) -> Target:
    """Where a fighter can be touched, by how it stands."""
    there = stood(f)
    rows: list[tuple[str, str, Shape, Shape]] = []
    for box in export.figure.hurtboxes if f.joints else ():
        if box.spans >= 0 and (not box.postures or f.posture in box.postures):
            drawn = _drawn(box, f.joints)
            if drawn is not None:
                middle, half = drawn
                was, now = (
                    Shape(on(body, middle), on(body, middle), 0.0, half, body[0])
                    for body in (in_world(there.before, HERE), in_world(there.now, HERE))
                )
                rows.append((box.name, box.region, was, now))
        elif not box.postures or f.posture in box.postures:
            was, now = (
                Shape(on(frame, box.a), on(frame, box.b), box.radius, box.half, multiply(frame[0], box.turn))
                for frame in there.at(box.joint)
            )
            rows.append((box.name, box.region, was, now))
    return Target(f.name, f, rows)


def _drawn(box: Hurtbox, joints: Sequence[Placed]) -> tuple[Vector, Vector] | None:
    """Middle and half extents about the body of a hurtbox of a drawing; None where the drawing has it not."""
    low, high = joints[box.joint][1], joints[box.spans][1]
    half = (box.radius, abs(high[1] - low[1]) / 2.0, abs(high[2] - low[2]) / 2.0)
    if half[1] < FLAT or half[2] < FLAT:
        return None
    return mixed(low, high, 0.5), half


FLAT = 1e-6
"""What is less high or long (m) is no box."""


def _post(post: Post) -> Target:
    x, y, z = post.position
    shape = Shape((x, y + post.radius, z), (x, y + max(post.height - post.radius, post.radius), z), post.radius)
    return Target(post.name, None, [("post", "", shape, shape)])


def _may(swing: Swing, target: Target) -> bool:
    """Not itself, nor whom the strike is not for; once an opening and victim, once for its group, or again after
    ``repeat`` of the attacker's own ticks, so often at most."""
    me, row, p, victim = swing.attacker, swing.strike.row, swing.playing, target.name
    if victim == me.name:
        return False
    if target.fighter is not None and row["team"] != "everybody":
        own = me.row["team"] != "" and me.row["team"] == target.fighter.row["team"]
        if own != (row["team"] == "own"):
            return False
    if swing.thing is not None:
        return victim not in swing.thing.touched
    if p is None or (row["group"] and not row["repeat"] and (row["group"], victim) in p.groups):
        return False
    last = [
        age for section, index, name, age in p.touched if (section, index, name) == (p.section, swing.index, victim)
    ]
    if not last:
        return True
    return row["repeat"] > 0 and p.age - max(last) >= row["repeat"] and not 0 < row["most"] <= len(last)


class Touching(NamedTuple):
    """A hurtbox that is touched: when, where, by a hitbox of which share, and by which piece."""

    when: float
    name: str
    region: str
    place: Vector
    share: float
    piece: Piece


def _touching(swing: Swing, target: Target) -> list[Touching]:
    """The hurtboxes that a strike touches, the earliest first."""
    out = []
    theirs = [(*box, *ball(box[2], box[3])) for box in target.boxes]
    for share, piece in swing.pieces:
        middle, wide = ball(piece.first, piece.last)
        for name, region, was, now, there, room in theirs:
            if size(minus(middle, there)) <= wide + room:
                found = meets(piece, was, now)
                if found is not None:
                    out.append(Touching(found[0], name, region, found[1], share, piece))
    return sorted(out, key=lambda t: t.when)


def _contact(export: Export, swing: Swing, target: Target, found: list[Touching], stage: Stage) -> Contact | None:
    """What a touch comes to, of the earliest hurtbox that is there."""
    p, strike, victim = swing.playing, swing.strike, target.fighter
    one, result, shield = found[0], "hit", None
    if victim is not None:
        shields = list(raised(victim))
        # What is invulnerable is not there: what else is touched counts.
        bare = [t for t in found if not any(s["kind"] == "invulnerable" and _over(s, t.name) for s, _ in shields)]
        if bare:
            one = bare[0]
            place = swing.attacker.position if swing.thing is None else swing.thing.before
            result, shield = _judged(shields, strike.row, place, victim, one.name)
        elif _was_evaded(swing, target.name):
            return None
        else:
            result = "evaded"
    damage = _damage(export, strike.row, victim, result, shield, stage.left.get(target.name) is not None)
    factor = export.figure.factors.get(one.region, 1.0) if victim is not None else 1.0
    out = Contact(
        strike, swing.attacker.name, target.name, one.name, one.region if victim is not None else "", result, one.place,
        damage * factor * one.share, p, p.section if p is not None else -1, swing.index,
        p is not None and p.part.mirrored(p.frame), shield=shield,
    )  # fmt: skip
    if swing.thing is not None or strike.row["push"] == "swing":
        first, last = found[0].piece.first, found[0].piece.last
        way = minus(plus(last.a, last.b), plus(first.a, first.b))
        out.along = way[0], way[2]
    out.thing = swing.thing.number if swing.thing is not None else 0
    return out


def _was_evaded(swing: Swing, victim: str) -> bool:
    if swing.thing is not None:
        return victim in swing.thing.evaded
    p = swing.playing
    return p is not None and (p.section, swing.index, victim) in p.evaded


def _damage(
    export: Export, row: Json, victim: Fighter | None, result: str, shield: Json | None, breakable: bool
) -> float:
    """What of a strike's damage comes through, but for the region: less through a guard, less in a string."""
    much = float(row["damage"])
    if victim is None:
        return much if breakable else 0.0
    if result in ("evaded", "deflected"):
        return 0.0
    if result == "guarded":
        return much * (shield["lets"] if shield is not None else 0.0)
    return much * in_string(export.scaling["damage"], victim.strung, export.scaling["least"])


def in_string(factor: float, before: int, least: float) -> float:
    """What a touch counts after so many others of its string."""
    return float(max(factor**before, min(least, 1.0))) if factor < 1.0 else 1.0


def raised_by(p: Playing) -> Iterator[tuple[Json, bool]]:
    """The shields an action has up, and whether each deflects now."""
    for shield in p.part.row["shields"]:
        if shield["start"] <= p.frame < shield["end"]:
            yield shield, p.laps == 0 and p.frame - shield["start"] < shield["deflects"]
    for shield in p.action.row["shields"]:
        yield shield, p.age < shield["deflects"]


def raised(f: Fighter) -> Iterator[tuple[Json, bool]]:
    """The shields a fighter has up: of its actions, then a guard that is held."""
    for p in f.acting():
        yield from raised_by(p)
    if f.is_on("guard", 0.0):
        yield GUARD, False


def _over(shield: Json, hurtbox: str) -> bool:
    return not shield["hurtboxes"] or hurtbox in shield["hurtboxes"]


def bearing(place: Vector, f: Fighter) -> float:
    """Where a place lies about a fighter: degrees from its front, to its left above 0."""
    x, _, z = minus(place, f.position)
    return around(degrees(atan2(x, z)) - f.facing)


def _judged(
    shields: Sequence[tuple[Json, bool]], row: Json, place: Vector, victim: Fighter, hurtbox: str
) -> tuple[str, Json | None]:
    """What a strike that comes from a place comes to: the first shield that stops it decides."""
    for shield, deflects in shields:
        if not _over(shield, hurtbox):
            continue
        if shield["kind"] == "guard" and row["guard"] != "none":
            high = row["guard"] == "any" or shield["height"] in ("any", row["guard"])
            off = abs(around(bearing(place, victim) - shield["toward"]))
            if high and off <= shield["arc"] / 2.0 + 1e-9:
                return "deflected" if deflects else "guarded", shield
        if shield["kind"] == "armour" and row["poise"] <= shield["strength"]:
            return "armoured", shield
    return "hit", None


def _once_a_group(contacts: Sequence[Contact]) -> list[Contact]:
    """Of several touches of one tick by strikes of one group of an action on one victim, the first."""
    seen: set[tuple[int, str, str]] = set()
    out = []
    for c in contacts:
        group = c.strike.row["group"]
        if group and c.playing is not None and c.result != "evaded":
            mark = id(c.playing), group, c.victim
            if mark in seen:
                continue
            seen.add(mark)
        out.append(c)
    return out


def _weighed(contacts: list[Contact], everybody: Sequence[Fighter]) -> list[Contact]:
    """Poise and guards are asked whether they hold out against all of a tick together."""
    for f in everybody:
        mine = [c for c in contacts if c.victim == f.name]
        hits = [c for c in mine if c.result == "hit"]
        if 0.0 < sum(c.strike.row["poise"] for c in hits) < f.poise:
            for c in hits:
                c.result = "armoured"
        stopped = [c for c in mine if c.result == "guarded"]
        worn = f.worn + sum(c.strike.row["poise"] for c in stopped)
        for c in stopped:
            c.breaks = c.shield is not None and 0.0 < c.shield["strength"] <= worn
    return contacts
