"""Where the ends of a rehearsal saw different things, in words, and what of it counted."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from veergust.core.play import Contact, FighterState, Record
from veergust.core.rehearse.ends import Key, key_of
from veergust.core.rehearse.hearing import Heard, heard
from veergust.core.rehearse.rehearsal import Rehearsal

APART = 0.05
"""Bodies that are nearer (m) than this to where they counted are there."""
Json = dict[str, Any]


@dataclass(frozen=True)
class Differs:
    """Ticks ``[start, end)`` on which somebody saw something else than what counted."""

    start: int
    end: int
    whose: str
    what: str
    says: str


def touches_of(records: list[Record]) -> dict[Key, tuple[int, Contact]]:
    """Each touch of a take with the first tick it was on."""
    out: dict[Key, tuple[int, Contact]] = {}
    for tick, record in enumerate(records):
        for contact in record.contacts:
            out.setdefault(key_of(contact), (tick, contact))
    return out


def differs(rehearsal: Rehearsal) -> list[Differs]:
    """All that one of the two saw otherwise, in the order it began."""
    out: list[Differs] = []
    counted = touches_of(rehearsal.records)
    for player in rehearsal.players:
        seen = player.shown
        for n, one in enumerate(rehearsal.records[0].fighters if rehearsal.records else ()):
            out += _spans(rehearsal, seen, n, player.name, one.name)
        out += _touches(touches_of(seen), counted, player.name)
        out += _events(heard(player, rehearsal.records), player.name)
    return sorted(out, key=lambda d: (d.start, d.end, d.whose))


def _spans(rehearsal: Rehearsal, seen: list[Record], n: int, whose: str, name: str) -> Iterator[Differs]:
    """Stretches on which a fighter did something else, and stood elsewhere."""
    for what in ("action", "place"):
        start: int | None = None
        farthest, words = 0.0, ""
        for tick, (here, there) in enumerate(
            zip([*seen, rehearsal.records[-1]], [*rehearsal.records, rehearsal.records[-1]])
        ):
            a, b = here.fighters[n], there.fighters[n]
            gap = float(sum((p - q) ** 2 for p, q in zip(a.position.tolist(), b.position.tolist())) ** 0.5)
            other = doing(a) != doing(b) if what == "action" else gap > APART
            if other and start is None:
                start, farthest = tick, 0.0
                words = f"on {whose}'s screen {name} {doing(a)}; what counted: it {doing(b)}"
            farthest = max(farthest, gap) if other else farthest
            if not other and start is not None:
                if what == "place":
                    words = f"on {whose}'s screen {name} is up to {farthest:.2f} m from where it counted"
                yield Differs(start, tick, whose, what, words)
                start = None


def doing(fighter: FighterState) -> str:
    """What a fighter does, in words."""
    playing = fighter.playing()
    return "plays " + " and ".join(playing) if playing else f"is in {fighter.locomotion[-1].state}"


def _touches(
    seen: dict[Key, tuple[int, Contact]], counted: dict[Key, tuple[int, Contact]], whose: str
) -> Iterator[Differs]:
    for key, (tick, contact) in seen.items():
        words = f"on {whose}'s screen {contact.strike.name} of {contact.attacker}"
        if key not in counted:
            says = f"{words} {_came(contact)} {contact.victim} on {tick}; it did not count"
            yield Differs(tick, tick + 1, whose, "touch", says)
        else:
            then, other = counted[key]
            if other.result != contact.result:
                says = (
                    f"{words} {_came(contact)} {contact.victim} on {tick}; what counted: it {_came(other)} it on {then}"
                )
                yield Differs(min(tick, then), max(tick, then) + 1, whose, "touch", says)
            elif then != tick:
                says = f"{words} {_came(contact)} {contact.victim} on {tick}, {_apart(tick - then)} it counted"
                yield Differs(min(tick, then), max(tick, then), whose, "touch", says)
    for key, (tick, contact) in counted.items():
        if key not in seen:
            words = f"{contact.strike.name} of {contact.attacker} {_came(contact)} {contact.victim} on {tick}"
            says = f"{words}, never seen by {whose}"
            yield Differs(tick, tick + 1, whose, "touch", says)


def _events(rows: list[Heard], whose: str) -> Iterator[Differs]:
    """Events that came late, and that were told of what never happened."""
    for row in rows:
        what = f"{row.which.name or row.which.kind} of {row.which.fighter}"
        if row.due is None:
            says = f"on {whose}'s screen {what} on {row.told}; it never happened"
            yield Differs(row.told, row.told + 1, whose, "event", says)
        elif row.late:
            says = f"on {whose}'s screen {what} on {row.told}, {_apart(row.late)} it counted"
            yield Differs(min(row.told, row.due), max(row.told, row.due), whose, "event", says)


def events_of(rehearsal: Rehearsal) -> dict[str, dict[str, int]]:
    """By player: how many events its screen told, and how many of these after they counted and of what never
    happened."""
    out = {}
    for player in rehearsal.players:
        rows = heard(player, rehearsal.records)
        late, never = sum(r.late > 0 for r in rows), sum(r.due is None for r in rows)
        out[player.name] = {"told": len(rows), "late": late, "never_were": never}
    return out


def _came(contact: Contact) -> str:
    return {"hit": "touches", "armoured": "touches", "guarded": "is guarded by", "deflected": "is deflected by",
            "evaded": "is evaded by"}[contact.result]  # fmt: skip


def _apart(ticks: int) -> str:
    return f"{abs(ticks)} f {'after' if ticks > 0 else 'before'}"


def counts_of(rehearsal: Rehearsal) -> dict[str, tuple[int, int]]:
    """How many touches and dodges were seen by whoever did them, and how many of these counted."""
    counted = touches_of(rehearsal.records)
    seen: dict[str, int] = {"touches": 0, "dodges": 0}
    came: dict[str, int] = {"touches": 0, "dodges": 0}
    for player in rehearsal.players:
        for key, (_, contact) in touches_of(player.shown).items():
            dodge = contact.result == "evaded"
            # A touch is seen by who strikes, a dodge by who dodges.
            if player.name != (contact.victim if dodge else contact.attacker):
                continue
            kind = "dodges" if dodge else "touches"
            there = counted.get(key)
            seen[kind] += 1
            came[kind] += there is not None and (there[1].result == "evaded") == dodge
    return {kind: (seen[kind], came[kind]) for kind in seen}


def told(rehearsal: Rehearsal, decides: str) -> Json:
    """A rehearsal as JSON: what was seen otherwise, how many touches and dodges that were seen counted, and by how far
    anybody was put back at once at the most (m)."""
    counts = counts_of(rehearsal)
    events = events_of(rehearsal)
    first, other = rehearsal.names
    back = max((c.far for p in rehearsal.players for c in p.corrections), default=0.0)
    return {
        "ticks": rehearsal.ticks,
        "ends": {"a": first, "b": other, "decider": decides},
        "differ": [
            {"from": d.start, "to": d.end, "end": "a" if d.whose == first else "b", "what": d.what, "says": d.says}
            for d in differs(rehearsal)
        ],
        "events": {"a": events[first], "b": events[other]},
        **{kind: {"seen": seen, "counted": came} for kind, (seen, came) in counts.items()},
        "pulled_back": round(back, 6),
    }
