"""The ends of a rehearsal: who decides, and those who play and guess until they are told."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal, NamedTuple

from veergust.core.model import Fighter
from veergust.core.play import CompiledProject, Contact, Contacts, Input, Record, Simulation

Decides = Literal["server", "attacker", "victim"]
Key = tuple[str, int, tuple[int, int], str]
"""A touch: attacker, which of its starts, section and strike, victim."""


class Did(NamedTuple):
    """What a player did: its number among all it did, on which tick it is meant, and what."""

    number: int
    tick: int
    given: Input


class Relayed(NamedTuple):
    """What counts on a tick of what was done."""

    tick: int
    done: tuple[Did, ...]

    @property
    def inputs(self) -> tuple[Input, ...]:
        """The inputs of the tick."""
        return tuple(one.given for one in self.done)


class Ruled(NamedTuple):
    """What counts on a tick: the touches."""

    tick: int
    contacts: tuple[Contact, ...]


def key_of(contact: Contact) -> Key:
    """What tells one touch from another."""
    return contact.attacker, contact.serial, contact.key, contact.victim


def found(simulation: Simulation) -> list[Contact]:
    """The touches of a tick as play finds them."""
    return Contacts(simulation.build, simulation.fighters, simulation.world).find()


class DecidingEnd:
    """The end whose take counts. It takes inputs as they arrive, none before the tick it is meant for."""

    def __init__(self, build: CompiledProject, seed: int, fighters: tuple[Fighter, ...], decides: Decides) -> None:
        self.decides = decides
        self.simulation = Simulation(build, seed, fighters, None if decides == "server" else self._said)
        self.records: list[Record] = []
        self.waiting: list[Did] = []
        self.reported: list[Contact] = []
        self.ruled: set[Key] = set()

    def inputs(self, tick: int, arrived: Sequence[Did]) -> Relayed:
        """What counts on a tick of what has arrived."""
        self.waiting += arrived
        now = sorted((g for g in self.waiting if g.tick <= tick), key=lambda g: (g.given.fighter, g.number))
        self.waiting = [g for g in self.waiting if g.tick > tick]
        return Relayed(tick, tuple(now))

    def play(self, relayed: Relayed, reported: Sequence[Contact]) -> Ruled:
        """Play a tick with what counts on it."""
        self.reported = [c for c in reported if key_of(c) not in self.ruled]
        self.ruled |= {key_of(c) for c in self.reported}
        record = self.simulation.tick(relayed.inputs)
        self.records.append(record)
        return Ruled(relayed.tick, record.contacts)

    def _said(self, _: Simulation) -> list[Contact]:
        return list(self.reported)


@dataclass
class Correction:
    """A player's picture was put right: on which tick, and by how far its own body was moved (m)."""

    tick: int
    far: float


class PlayingEnd:
    """An end that plays one fighter: sure of the ticks it was told of, and guessing those after."""

    def __init__(
        self,
        build: CompiledProject,
        seed: int,
        fighters: tuple[Fighter, ...],
        name: str,
        decides: Decides,
        *,
        waits: bool,
    ) -> None:
        self.name, self.decides, self.waits = name, decides, waits
        self.build, self.seed, self.fighters = build, seed, fighters
        self.sure = Simulation(build, seed, fighters, self._told if decides != "server" else None)
        self.known: list[Record] = []
        self.passed: list[tuple[int, tuple[Record, ...]]] = []
        self.relayed: dict[int, Relayed] = {}
        self.ruled: dict[int, Ruled] = {}
        self.done: list[Did] = []
        self.settled: set[int] = set()
        self.guessed: list[Record] = []
        self.used: list[tuple[Input, ...]] = []
        self.pending: dict[Key, Contact] = {}
        self.asked: set[Key] = set()
        self.new: list[Contact] = []
        self.shown: list[Record] = []
        self.corrections: list[Correction] = []

    def tell(self, relayed: Sequence[Relayed], ruled: Sequence[Ruled]) -> None:
        """Take in what counts."""
        self.relayed |= {one.tick: one for one in relayed}
        self.settled |= {g.number for one in relayed for g in one.done if g.given.fighter == self.name}
        self.ruled |= {one.tick: one for one in ruled}

    def _told(self, simulation: Simulation) -> list[Contact]:
        return list(self.ruled[simulation.now].contacts)

    def show(self, tick: int) -> Record:
        """What is seen on a tick; what was guessed wrongly before is put right first."""
        before = self.shown[-1] if self.shown else None
        if not self._catch_up(tick):
            self.guessed, self.used = [], []
            if before is not None and 0 <= before.tick < len(self.known) and not self.waits:
                self._put_right(before, self.known[before.tick])
        if self.waits:
            record = self.known[-1] if self.known else self._first()
        elif len(self.known) > tick:
            record = self.known[tick]
        else:
            record = self._guess(tick, before)
        self.shown.append(record)
        self.passed.append((len(self.known), tuple(self.guessed)))
        return record

    def _first(self) -> Record:
        return Record(-1, tuple(f.copy() for f in self.sure.fighters), (), (), self.sure.world)

    def _catch_up(self, tick: int) -> bool:
        """Play on what is sure; whether all that was guessed of it was right."""
        right = True
        while len(self.known) <= tick and len(self.known) in self.relayed and len(self.known) in self.ruled:
            now = len(self.known)
            told = self.relayed[now].inputs
            self.known.append(self.sure.tick(told))
            for contact in self.ruled[now].contacts:
                self.pending.pop(key_of(contact), None)
            if self.used:
                right &= self.used.pop(0) == told and _alike(self.guessed.pop(0), self.known[-1])
        return right

    def _guess(self, tick: int, before: Record | None) -> Record:
        """Play on from what is sure to a tick, with one's own inputs and what is known of the other's."""
        guess = Simulation(self.build, self.seed, self.fighters, self._guessed if self.decides != "server" else None)
        last = (self.guessed or self.known)[-1:]
        if last:
            earlier = ([*self.known[-2:], *self.guessed])[-2:-1] if len(self.known) + len(self.guessed) > 1 else []
            guess.resume(last[0], earlier[0] if earlier else None)
        while guess.now <= tick:
            now = guess.now
            told = (*(self.relayed[now].inputs if now in self.relayed else ()), *self._unsettled(now))
            self.used.append(told)
            self.guessed.append(guess.tick(told))
            if before is not None and now == before.tick:
                self._put_right(before, self.guessed[-1])
        return self.guessed[-1]

    def _unsettled(self, tick: int) -> list[Input]:
        """One's own inputs that are meant for a tick and were not heard of yet; on the first that is guessed, all that
        were meant for an earlier one as well."""
        first = tick == len(self.known)
        rows = [g for g in self.done if g.number not in self.settled and (g.tick == tick or (first and g.tick < tick))]
        return [g.given for g in rows]

    def show_again(self, tick: int) -> None:
        """What is seen on a tick, once all of it is known on that very tick."""
        self._catch_up(tick)
        if len(self.known) > tick and not self.waits:
            self.shown[-1] = self.known[tick]
        self.passed[-1] = len(self.known), self.passed[-1][1]

    def _put_right(self, before: Record, after: Record) -> None:
        one, other = before.fighter(self.name).position, after.fighter(self.name).position
        far = float(sum((a - b) ** 2 for a, b in zip(one.tolist(), other.tolist())) ** 0.5)
        if far > 1e-6:
            self.corrections.append(Correction(before.tick, far))

    def _decides(self, contact: Contact, names: set[str]) -> bool:
        if self.decides == "attacker" or contact.victim not in names:
            return contact.attacker == self.name
        return contact.victim == self.name

    def _guessed(self, simulation: Simulation) -> list[Contact]:
        """Touches of a guessed tick: those that were ruled, and one's own, those that are still to be and new ones."""
        now = simulation.now
        ruled = list(self.ruled[now].contacts) if now in self.ruled else []
        said = {key_of(c) for c in ruled}
        out = [*ruled, *(c for k, c in self.pending.items() if k not in said)] if now == len(self.known) else ruled
        names = {f.name for f in simulation.fighters}
        for contact in found(simulation):
            key = key_of(contact)
            if key not in self.asked and self._decides(contact, names):
                self.asked.add(key)
                self.pending[key] = contact
                self.new.append(contact)
                out.append(contact)
        return out

    def reports(self) -> list[Contact]:
        """The touches that were decided here since the last time."""
        new, self.new = self.new, []
        return new


def _alike(guessed: Record, known: Record) -> bool:
    """Whether two records of a tick show the same."""
    return all(
        a.position.tolist() == b.position.tolist() and a.facing == b.facing and a.health == b.health
        and [(v.serial, v.section, v.frame) for v in a.voices] == [(v.serial, v.section, v.frame) for v in b.voices]
        for a, b in zip(guessed.fighters, known.fighters)
    )  # fmt: skip
