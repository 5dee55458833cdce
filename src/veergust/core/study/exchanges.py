"""The touches of a take as numbers: strings, gaps, and who could act first after each."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from veergust.core.play import CompiledProject, Contact, Record
from veergust.core.study.ahead import bound


@dataclass(frozen=True)
class Exchange:
    """A touch on ``tick``: which of its string it is (1: the first), for how many ticks the victim could have acted
    before it (None: it is the first; 0: it could not, the string is true), how far the two stood apart (m), and by how
    many ticks the attacker could act first after it (None: the take does not show it)."""

    tick: int
    contact: Contact
    string: int
    gap: int | None
    distance: float
    advantage: int | None

    @property
    def words(self) -> str:
        """It as a line."""
        c = self.contact
        much = f", {c.damage:g} damage" if c.damage else ""
        parts = [f"{c.strike.name} {c.result} {c.victim} ({c.hurtbox}){much} at {self.tick}"]
        if self.string > 1:
            parts.append(f"{self.string} of a string, {'true' if not self.gap else f'a gap of {self.gap} f'}")
        if self.advantage is not None:
            parts.append(f"{self.advantage:+d}")
        return " · ".join(parts)


SOON = 20
"""A touch is of the string of the last one where the victim could have acted for fewer ticks than this between them."""


def exchanges(
    build: CompiledProject, records: Sequence[Record], most: int = 10, among: Iterable[int] | None = None
) -> list[Exchange]:
    """The last touches of fighters in a take, the oldest first; ``among`` some places of it, where these are known."""
    places = range(len(records)) if among is None else among
    touches = [(at, c) for at in places for c in records[at].contacts if _fights(records[at], c)]
    out = []
    for n, (at, contact) in enumerate(touches):
        if n < len(touches) - most:
            continue
        string, gap, later = 1, None, at
        # Back along the string: touches of the same two with little between them.
        for before, other in reversed(touches[:n]):
            if (other.attacker, other.victim) != (contact.attacker, contact.victim):
                continue
            free = _free_between(build, records, contact.victim, before, later)
            if free >= SOON:
                break
            gap = free if gap is None else gap
            string, later = string + 1, before
        out.append(Exchange(records[at].tick, contact, string, gap, _apart(records[at], contact),
                            _advantage(build, records, at, contact)))  # fmt: skip
    return out


def _fights(record: Record, contact: Contact) -> bool:
    names = {f.name for f in record.fighters}
    return contact.attacker in names and contact.victim in names and contact.result != "evaded"


def _is_free(build: CompiledProject, record: Record, name: str) -> bool:
    fighter = record.fighter(name)
    return not fighter.down and fighter.advanced and not fighter.frozen and not bound(build.of(fighter.setup), fighter)


def _free_between(build: CompiledProject, records: Sequence[Record], name: str, first: int, last: int) -> int:
    """For how many ticks somebody could act between two; it is not counted beyond ``SOON``."""
    free = 0
    for at in range(last - 1, first, -1):
        free += _is_free(build, records[at], name)
        if free >= SOON:
            break
    return free


def _advantage(build: CompiledProject, records: Sequence[Record], at: int, contact: Contact) -> int | None:
    """By how many ticks the attacker can act first, as far as the take shows both."""
    free = []
    for name in (contact.victim, contact.attacker):
        ticks = (n for n in range(at + 1, len(records)) if _is_free(build, records[n], name))
        free.append(next(ticks, None))
    return free[0] - free[1] if free[0] is not None and free[1] is not None else None


def _apart(record: Record, contact: Contact) -> float:
    a, b = record.fighter(contact.attacker).position, record.fighter(contact.victim).position
    return float(((a[0] - b[0]) ** 2 + (a[2] - b[2]) ** 2) ** 0.5)
