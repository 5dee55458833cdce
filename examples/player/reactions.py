"""What a touch does to either side, and who reacts to it with what.

Everybody's answer is chosen by how it stood when it was touched, before anybody is pushed.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from math import cos, hypot, isfinite, radians, sin
from typing import TYPE_CHECKING, Any

from player.fighter import Fighter, Shove
from player.strikes import Contact, bearing, in_string, raised_by
from player.turns import minus

if TYPE_CHECKING:
    from player.export import Export
    from player.rules import Decider

Json = dict[str, Any]
RANK = ("none", "deflected", "guarded", "hit")
EIGHTHS = ("front", "front left", "left", "back left", "back", "back right", "right", "front right")
STOOD = ("standing", "ducking", "down", "air")
"""Situations that a row for any stands for: how somebody stood. What came of a touch needs a row of its own."""
INSTEAD = {"deflecting": "guarding", "guard broken": "guarding"}
STILL = 1e-6


@dataclass
class Answer:
    """Who reacts to whom, by which row, and for how many ticks it cannot act (None: as long as its reaction is)."""

    who: Fighter
    other: Fighter
    contact: Contact
    row: Json | None
    stun: int | None
    pushed: bool


def apply(
    export: Export, everybody: Sequence[Fighter], contacts: Sequence[Contact], asked: Callable[[Fighter], Decider]
) -> list[Fighter]:
    """Hit stop, damage, wear, what runs, pushes, and the reaction to the heaviest touch; whoever was touched."""
    by_name = {f.name: f for f in everybody}
    strings = {f.name: f.strung for f in everybody}
    heaviest: dict[str, Contact] = {}
    thrown_back: dict[str, Contact] = {}
    for c in contacts:
        attacker, victim, row = by_name[c.attacker], by_name.get(c.victim), c.strike.row
        if not c.thing:
            _mark(attacker, c)
        if c.result == "evaded":
            continue
        if not c.thing:
            attacker.frozen = max(attacker.frozen, row["hit_stop"])
        _run(row["runs"], "hit" if c.result == "armoured" else c.result, c, by_name)
        if victim is None:
            continue
        _hurt(victim, c)
        _heaviest(heaviest, victim.name, c, _weight)
        if c.result == "deflected" and not c.thing:
            _heaviest(thrown_back, attacker.name, c, lambda one: (0, one.strike.row["damage"]))
    answers = [_answer(export, by_name, c, strings, asked) for c in heaviest.values()]
    # Who is hit reels from that, and not from what it was thrown back by.
    hit = {a.who.name for a in answers if a.contact.result == "hit"}
    for name, c in thrown_back.items():
        if name not in hit:
            who, other = by_name[c.attacker], by_name[c.victim]
            answers.append(Answer(who, other, c, _row(export, who, other, c, "deflected", asked), None, False))
    for answer in answers:
        if answer.pushed:
            _push(answer.other, answer.who, answer.contact)
        _react(export, answer, asked)
    return [f for f in everybody if any(a.who is f for a in answers)]


def _heaviest(found: dict[str, Contact], name: str, c: Contact, weight: Callable[[Contact], tuple[int, float]]) -> None:
    """Keep the heaviest contact of each; of equally heavy ones the first."""
    if name not in found or weight(c) > weight(found[name]):
        found[name] = c


def _hurt(victim: Fighter, c: Contact) -> None:
    """Hit stop, damage and wear of a victim."""
    row = c.strike.row
    victim.frozen = max(victim.frozen, row["hit_stop"] if row["victim_stop"] is None else row["victim_stop"])
    victim.health = max(0.0, victim.health - c.damage)
    _wear(victim, c)


def _mark(attacker: Fighter, c: Contact) -> None:
    """Note on the action that struck whom it touched, and with what result."""
    p, row = c.playing, c.strike.row
    if p is None or p.ended or p.section != c.section:
        return
    if c.result == "evaded":
        p.evaded.append((c.section, c.index, c.victim))
        return
    result = "hit" if c.result == "armoured" else c.result
    p.contact = max(p.contact, result, key=RANK.index)
    p.touched.append((c.section, c.index, c.victim, p.age))
    p.touches += 1
    p.regions.add(c.region)
    p.strengths.add(row["strength"])
    if row["group"]:
        p.groups.add((row["group"], c.victim))
    for swing in attacker.swinging:
        if swing.serial == p.serial and swing.row is row:
            swing.met = True


def _wear(victim: Fighter, c: Contact) -> None:
    """Take from poise and guard what a touch takes; what gives way is whole again."""
    poise = c.strike.row["poise"]
    if c.result == "hit":
        victim.strung += 1
        victim.poise = victim.row["poise"]
    elif c.result == "armoured" and victim.row["poise"] > 0.0:
        victim.poise = max(victim.poise - poise, 0.0)
    elif c.result == "guarded":
        victim.worn = 0.0 if c.breaks else victim.worn + poise
    victim.rested = 0


def _weight(c: Contact) -> tuple[int, float]:
    return {"hit": 3, "guarded": 2, "deflected": 1}.get(c.result, 0), c.strike.row["damage"]


def _answer(
    export: Export,
    by_name: dict[str, Fighter],
    c: Contact,
    strings: dict[str, int],
    asked: Callable[[Fighter], Decider],
) -> Answer:
    """How a victim answers the heaviest touch on it."""
    attacker, victim, strike = by_name[c.attacker], by_name[c.victim], c.strike.row
    dead = victim.health <= 0.0
    stood = victim.posture if victim.grounded or victim.posture == "down" else "air"
    came = {"deflected": "deflecting", "hit": stood}.get(c.result, "guard broken" if c.breaks else "guarding")
    row = _row(export, victim, attacker, c, "last" if dead else came, asked)
    if c.result == "armoured" or dead:
        return Answer(victim, attacker, c, row if dead else None, None, c.result != "armoured")
    stun = {"hit": strike["stun"], "guarded": None if c.breaks else strike["guard_stun"]}.get(c.result)
    if stun is not None and c.result == "hit":
        stun = round(stun * in_string(export.scaling["stun"], strings[victim.name], export.scaling["least"]))
    # Whoever is touched can act on the next tick at the earliest.
    return Answer(victim, attacker, c, row, None if stun is None else max(stun, 1), c.result != "deflected")


def _row(
    export: Export, who: Fighter, other: Fighter, c: Contact, situation: str, asked: Callable[[Fighter], Decider]
) -> Json | None:
    """The first row of the table that fits a touch and whose conditions hold."""
    x, _, z = minus(other.position, who.position)
    place = other.position
    if c.thing:  # it comes from where it was, and not from who threw it
        place = who.position[0] - c.along[0], who.position[1], who.position[2] - c.along[1]
    side, far = bearing(place, who), hypot(x, z)
    for now in (situation, INSTEAD.get(situation)):
        for n, row in enumerate(export.reactions if now is not None else ()):
            fits = (
                row["side"] in ("any", _quarter(side), _eighth(side))
                and row["strength"] in ("any", c.strike.row["strength"])
                and (row["situation"] == now or (row["situation"] == "any" and now in STOOD))
                and row["region"] in ("any", c.region)
                and row["near"] <= far
                and (row["far"] is None or far <= row["far"])
            )
            if fits and asked(who).holds(row["conditions"], None, f"reaction {n}"):
                return row
    return None


def _quarter(degrees: float) -> str:
    if abs(degrees) <= 45.0:
        return "front"
    if abs(degrees) >= 135.0:
        return "back"
    return "left" if degrees > 0.0 else "right"


def _eighth(degrees: float) -> str:
    """The eighth a bearing is in; borders belong to the straight sides."""
    straight = round(abs(degrees) / 90.0)
    between = 1 if abs(degrees) < 90.0 else 3
    n = 2 * straight if abs(abs(degrees) - 90.0 * straight) <= 22.5 else between
    return EIGHTHS[n if degrees >= 0.0 else -n % 8]


def _push(attacker: Fighter, victim: Fighter, c: Contact) -> None:
    """Knock a victim back, as the heaviest touch on it says."""
    row = c.strike.row
    side, up, ahead = c.strike.knockback
    side, much = -side if c.mirrored else side, 1.0 if c.result == "hit" else 0.5
    x, z = _way(attacker, victim, c)
    victim.knock = (z * side + x * ahead) * much, 0.0, (z * ahead - x * side) * much
    victim.shove = Shove(victim.knock, row["push_ticks"], row["push_ease"]) if row["push_ticks"] else None
    if c.result == "hit" and up > 0.0:
        victim.velocity = (victim.velocity[0], up, victim.velocity[2])
        victim.grounded = False


def _way(attacker: Fighter, victim: Fighter, c: Contact) -> tuple[float, float]:
    """Which way forward is for a push: the attacker's, away from it, or the hitbox's own."""
    turn, push = radians(attacker.facing), c.strike.row["push"]
    ahead = sin(turn), cos(turn)
    if push == "ahead" and not c.thing:
        return ahead
    x, z = c.along
    if push == "away" and not c.thing:
        x, _, z = minus(victim.position, attacker.position)
    far = hypot(x, z)
    return (x / far, z / far) if far > STILL else ahead


def _react(export: Export, answer: Answer, asked: Callable[[Fighter], Decider]) -> None:
    who, c, row = answer.who, answer.contact, answer.row
    dead = who.health <= 0.0
    if c.result == "armoured" and not dead:
        return
    if c.breaks:
        for p in who.acting():
            if any(shield["kind"] == "guard" for shield, _ in raised_by(p)):
                who.end(p, "broken")
    action = _action(export, who, row, asked) if row is not None else ""
    if c.result == "hit" or dead or row is not None or answer.stun is not None:
        who.stun, who.reels = answer.stun or 0, 0
    if c.result == "hit" or dead or action:
        _play(export, who, action, row["section"] if row is not None else "", asked(who))


def _action(export: Export, who: Fighter, row: Json, asked: Callable[[Fighter], Decider]) -> str:
    """The action of a row, or the one its pool gives."""
    name = str(row["action"])
    if name in export.actions or name not in export.pools:
        return name
    decider = asked(who)
    there = [i["name"] for i in export.pools[name]["items"] if i["name"] in export.actions]
    picked = decider.pick(name, there) or ""
    if picked:
        decider.picked(name, picked)
    return picked


def _play(export: Export, who: Fighter, name: str, section: str, decider: Decider) -> None:
    """Let somebody react with an action; with none what it plays ends."""
    who.down |= who.health <= 0.0
    action = export.actions.get(name)
    if who.down or action is None:
        for p in who.live():
            who.end(p, "broken")
        who.go_on()
    else:
        layer = export.layers.get(action.layer)
        if decider.give_way(action, "forced", "broken") or (layer is not None and layer.root > 0.0):
            who.go_on()
    if action is None:
        return
    started = decider.start(action, section, way="forced", ends="broken")
    if started is not None:
        started.reacts, started.last = True, who.down
        who.reels = started.serial if who.stun and not who.down else 0


def _run(runs: Sequence[Json], when: str, c: Contact, by_name: dict[str, Fighter]) -> None:
    """Do what a strike runs at a moment, at the place of the touch."""
    attacker = by_name[c.attacker]
    for outcome in runs:
        if outcome["when"] == when:
            # A post has nothing of its own.
            whose = attacker if outcome["whose"] == "attacker" else by_name.get(c.victim, attacker)
            do(outcome, whose, c.position)


def do(outcome: Json, whose: Fighter, at: Any) -> None:
    """Set what an outcome sets, and let it be told with the events of the tick."""
    whose.came.append(
        {
            "fighter": whose.name, "name": outcome["name"], "kind": outcome["kind"], "mount": "", "position": at,
            "facing": whose.facing, "payload": outcome["payload"],
        }
    )  # fmt: skip
    if outcome["kind"] == "parameter" and outcome["name"]:
        whose.parameters[outcome["name"]] = number_of(outcome["payload"])


def number_of(payload: str) -> float:
    """The number a payload sets: 1 where it is none."""
    try:
        value = float(payload)
    except ValueError:
        return 1.0
    return value if isfinite(value) else 1.0
