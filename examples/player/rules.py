"""What plays: exits, gates, start rules; and what becomes of two actions that meet."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from player import fades, ground, jump
from player.body import shares
from player.choosing import Choosing
from player.export import Action
from player.fighter import Going, Playing
from player.hands import Press
from player.pairs import asks_of, meeting, met, shows

Json = dict[str, Any]
At = tuple[int, int, int]
"""A frame of an action: section, tick in it, lap."""
WHOLE = -1
"""Stands for the section of an exit of the whole action."""
UNSEEN = 1e-4
"""Who has less of a layer, under others that one after the other come in over it, is let go."""


class Decider(Choosing):
    """Decides for a fighter on a tick, and takes what plays on by a tick."""

    def decide(self) -> None:
        f = self.f
        if f.stun:
            self._recover()
        forced = self._start_asked() if f.asked[0] and not f.down else None
        started = forced is not None
        for playing in f.live():
            # An action ends once: what an earlier one ended on this tick decides nothing more.
            if playing is not forced and not playing.ended and not playing.waits:
                started |= self._play_on(playing)
        if not started and f.buffer:
            self._start_rules()
        self._cover()
        for playing in f.acting():
            self._look(playing)
        self._scopes()
        left = shares(self.export, f, f.acting())[1]
        jump.consider(self.export, f, left > 0.0)
        if f.strung and not f.stun and not any(p.reacts for p in f.live()):
            f.strung = 0
        ground.advance(self, f)
        self._cover()
        self._fade_on()

    # What plays on

    def _recover(self) -> None:
        """A tick of stun is over; with the last of them so is the reaction."""
        f = self.f
        if f.stun == 1:
            for playing in f.live():
                if playing.serial == f.reels:
                    f.end(playing, "completed")
            f.reels = 0
        f.stun -= 1

    def _play_on(self, p: Playing) -> bool:
        """One action a tick on, or left for another, or ended; whether another has started."""
        self._look(p)
        upcoming = self._upcoming(p)
        # What has shown only its first frame has not been asked for that frame's exits yet.
        chosen = self._exit(p, (p.section, 0, 0)) if p.age == 0 else None
        chosen = chosen or (self._exit(p, upcoming) if upcoming is not None else None)
        if chosen is not None:
            return self._leave(p, *chosen)
        reels = self.f.stun > 0 and p.serial == self.f.reels
        if upcoming is not None:
            self._await(p, upcoming)
            self._advance(p, upcoming)
        elif not p.last and not reels:
            self.f.end(p, "completed")
            own = p.layer, p.action.name, self.tick, p.contact
            self.f.memory = [*(row for row in self.f.memory if row[0] != p.layer), own]
        return False

    def _look(self, p: Playing) -> None:
        """The gates of its first frame are asked once."""
        if not p.looked:
            self._await(p, (p.section, p.frame, 0))
            self._gate(p)
            p.looked = True

    def _lead(self, action: Action, to: str) -> tuple[int, str] | None:
        """The section a name leads to now, and the pool it was picked from; None at the end."""
        if to in action.index:
            return action.index[to], ""
        name = self.pick(to, list(action.index))
        return (action.index[name], to) if name is not None else None

    def _upcoming(self, p: Playing) -> At | None:
        """What it shows on this tick if nothing happens; None when it ends."""
        if p.goto is None and p.frame + 1 < p.part.ticks:
            return p.section, p.frame + 1, p.laps
        to = p.goto
        if to is None:
            lead = self._lead(p.action, p.part.row["then"])
            if lead is None:
                return None
            to = lead[0]
        return to, 0, p.laps + 1 if to == p.section else 0

    def _advance(self, p: Playing, upcoming: At) -> None:
        section, frame, laps = upcoming
        then = p.part.row["then"]
        if frame == 0 and p.goto is None and then not in p.action.index:
            self.picked(then, p.action.sections[section].name)
        onward = (section, laps) == (p.section, p.laps)
        for going in p.going:
            going.tick, going.age = going.tick + 1, going.age + 1
        full = max((n + 1 for n, g in enumerate(p.going) if g.age >= g.blend), default=0)
        p.going = p.going[full:]
        if not onward:
            blend = (p.goto_blend if p.goto is not None else 0) or p.action.sections[section].row["blend"]
            if blend > 0:
                p.going = [*p.going, Going(p.section, p.frame + 1, blend)]
            p.touched, p.evaded = [], []
            p.waiting = {k: v for k, v in p.waiting.items() if k[0] == WHOLE}
        p.section, p.frame, p.laps, p.age = section, frame, laps, p.age + 1
        p.goto, p.told = None, False
        self._gate(p)

    def _gate(self, p: Playing) -> None:
        """The gate that its frame takes, if any: the first that is open and leads somewhere."""
        for n, gate in enumerate(p.part.row["gates"]):
            where = f"{p.action.name}/{p.part.name}/gate {n}"
            if gate["start"] <= p.frame < gate["end"] and self.holds(gate["conditions"], p, where):
                lead = self._lead(p.action, gate["to"])
                if lead is not None:
                    p.goto, p.goto_blend = lead[0], gate["blend"]
                    if lead[1]:
                        self.picked(lead[1], p.action.sections[lead[0]].name)
                    return

    # Exits

    def _exits(self, p: Playing, at: At) -> list[tuple[int, int, Json]]:
        own = p.action.sections[at[0]].row["exits"]
        there = [(at[0], n, e) for n, e in enumerate(own) if e["start"] <= at[1] < e["end"]]
        return there + [(WHOLE, n, e) for n, e in enumerate(p.action.row["exits"])]

    def _exit(self, p: Playing, at: At) -> tuple[Json, Action | None, tuple[Press, ...]] | None:
        """The exit taken on a frame, where it leads, and the presses that ask for it: breaks first, then by priority,
        then the newest press, then the longer sequence, then the order of commands."""
        if p.last:
            return None
        best: tuple[tuple[float, ...], tuple[Json, Action | None, tuple[Press, ...]]] | None = None
        for place, (section, n, exit_) in enumerate(self._exits(p, at)):
            age, asks = -2, asks_of(exit_)
            presses: tuple[Press, ...] = ()
            if exit_["kind"] != "break":
                if self.f.stun:
                    continue
                made = self._pressed(exit_, exit_["early"]) or p.waiting.get((section, n))
                if made is None:
                    continue
                age, presses = made[0].age, made
            order = self._order((asks or [""])[-1])
            rank = (exit_["kind"] != "break", -exit_["priority"], age, -len(asks), order, place)
            if best is not None and best[0] <= rank:
                continue
            where = f"{p.action.name}/{section}/exit {n}"
            if not met(exit_, p.contact) or not self.holds(exit_["conditions"], p, where):
                continue
            target = self.target(exit_)
            if exit_["to_kind"] == "ground" or target is not None:
                best = rank, (exit_, target, presses)
        return best[1] if best is not None else None

    def _order(self, command: str) -> int:
        return self.export.order.get(command, len(self.export.order))

    def _pressed(self, exit_: Json, early: bool = True) -> tuple[Press, ...] | None:
        """The presses that ask for an exit, the last one first; None when they were not made."""
        commands = asks_of(exit_)
        if not commands:
            return None
        keep = exit_["buffer"] if exit_["buffer"] is not None else self.export.buffer_of(commands[-1])
        for last in self.f.buffer:
            if last.command == commands[-1] and last.age < max(keep, 1) and (early or last.age == 0):
                found = self._before(commands[:-1], last, (last,))
                if found is not None:
                    return found
        return None

    def _before(self, commands: list[str], after: Press, used: tuple[Press, ...]) -> tuple[Press, ...] | None:
        """With the presses that come before in turn, each soon enough before the next, none counted twice."""
        if not commands:
            return used
        for press in self.f.history:
            soon = after.age <= press.age <= after.age + self.export.buffer and press.made <= after.made
            if press.command == commands[-1] and soon and press not in used:
                found = self._before(commands[:-1], press, (*used, press))
                if found is not None:
                    return found
        return None

    def _await(self, p: Playing, at: At) -> None:
        """A press made on this tick inside an exit that counts no early ones waits there; the newest is meant."""
        for section, n, exit_ in self._exits(p, at):
            made = self._pressed(exit_, False) if not exit_["early"] else None
            if made is not None:
                p.waiting[section, n] = made

    def _leave(self, p: Playing, exit_: Json, target: Action | None, presses: tuple[Press, ...]) -> bool:
        f = self.f
        f.end(p, "broken" if exit_["kind"] == "break" else "cancelled")
        f.use(presses)
        if target is None:
            if presses and presses[0].command == self.export.ground["jump"]["command"]:
                # Nothing has been started by it yet: it is the jump that was meant.
                f.buffer = [presses[0]._replace(age=0), *f.buffer]
            return False
        if exit_["to_kind"] == "pool":
            self.picked(exit_["to"], target.name)
        self.start(target, section=exit_["section"], blend=exit_["blend"])
        return True

    # Starting

    def start(
        self, action: Action, section: str = "", blend: int | None = None, way: str = "exit", ends: str = "cancelled"
    ) -> Playing | None:
        """Start an action; what gives way to it ends."""
        f = self.f
        if not action.sections:
            return None
        self.give_way(action, way, ends)
        f.starts += 1
        for old in f.playing:
            if old.ended and not old.faded and old.layer == action.layer:
                old.covered = f.starts
        entry = action.index.get(section, action.entry)
        made = Playing(action, entry, action.row["blend_in"] if blend is None else blend, f.starts)
        layers = self.export.layers
        f.playing = sorted([*f.playing, made], key=lambda p: layers[p.layer].place if p.layer in layers else -1)
        f.memory = [row for row in f.memory if row[0] != action.layer]
        f.cooldowns[action.name] = self.tick + action.start["cooldown"]
        f.run("on_start", action)
        return made

    def give_way(self, action: Action, way: str, how: str) -> bool:
        """End what gives way to an action that starts now; whether anything did."""
        layers, ended = self.export.layers, False
        for old in self.f.live():
            if old.layer == action.layer or old.layer not in layers or action.layer not in layers:
                gives = old.layer == action.layer or way == "forced"
            else:
                gives = meeting(self.export, action.layer, old.layer, way) == "older ends"
            if gives:
                self.f.end(old, how)
                ended = True
        return ended

    def _start_asked(self) -> Playing | None:
        """The action that was asked for by name."""
        name, section = self.f.asked
        action = self.export.actions.get(name)
        if action is None or self.rule(action.layer) == "keeps out":
            return None
        return self.start(action, section, way="forced")

    def _start_rules(self) -> None:
        """From locomotion: the newest press decides, then the order of the commands."""
        f = self.f
        if f.down or f.stun:
            return
        presses = [p for p in f.buffer if p.age < max(self.export.buffer_of(p.command), 1)]
        for press in sorted(presses, key=lambda p: (p.age, self._order(p.command))):
            lost = False
            for action, used, section, blend, pool in self._answers(press):
                meets = self._meets(action)
                if meets == "both play" and self.free(action):
                    f.use(used)
                    if pool:
                        self.picked(pool, action.name)
                    self.start(action, section, blend, "pressed")
                    return
                layer = self.export.layers.get(action.layer)
                deaf = layer is not None and layer.row["pressed"] == "nothing" and self.rule(action.layer) != "may"
                lost |= meets == "newer is refused" or deaf
            if lost:
                f.use([press])

    def _meets(self, action: Action) -> str:
        """What a press for an action meets among all that plays."""
        if action.layer not in self.export.layers:
            return "newer is refused"
        for old in self.f.live():
            if old.layer in self.export.layers:
                # No action starts anew by its own command.
                same = old.action.name == action.name
                meets = "newer waits" if same else meeting(self.export, action.layer, old.layer, "pressed")
                if meets in ("newer is refused", "newer waits"):
                    return meets
        return "both play"

    def _answers(self, press: Press) -> Iterator[tuple[Action, tuple[Press, ...], str, int | None, str]]:
        """What a press may start: the next of a string still remembered, actions with a start rule, then pools."""
        for _, name, tick, contact in list(self.f.memory):
            yield from self._next_of_string(press, name, tick, contact)
        for action in self.export.actions.values():
            rule = action.start
            if press.command in rule["commands"] and (not rule["states"] or self.stands_in(rule["states"])):
                if self.holds(rule["conditions"], None, f"{action.name}/start"):
                    yield action, (press,), "", None, ""
        for name, pool in self.export.pools.items():
            if press.command in pool["commands"]:
                one = self.one_of(name, from_locomotion=True)
                if one is not None:
                    yield one, (press,), "", None, name

    def _next_of_string(
        self, press: Press, name: str, tick: int, contact: str
    ) -> Iterator[tuple[Action, tuple[Press, ...], str, int | None, str]]:
        before = self.export.actions.get(name)
        within = before.start["string_memory"] if before is not None else 0
        if before is None or within <= 0 or self.tick - tick > within:
            return
        exits = [(s.name, n, e) for s in before.sections for n, e in enumerate(s.row["exits"])]
        exits += [("", n, e) for n, e in enumerate(before.row["exits"])]
        for section, n, exit_ in exits:
            presses = self._pressed(exit_) if asks_of(exit_)[-1:] == [press.command] else None
            if exit_["kind"] != "combo" or not presses or not met(exit_, contact):
                continue
            if self.holds(exit_["conditions"], None, f"{name}/{section}/exit {n}"):
                target = self.target(exit_)
                if target is not None:
                    pool = exit_["to"] if exit_["to_kind"] == "pool" else ""
                    yield target, presses, exit_["section"], exit_["blend"], pool

    # What is covered, out of scope, or faded out

    def _cover(self) -> None:
        """What is covered waits, as its layer says, and goes on where it stood once nothing covers it."""
        layers = self.export.layers
        for p in self.f.live():
            own = layers.get(p.layer)
            if own is not None and own.row["covered"] == "waits":
                over = (layers.get(other.layer) for other in self.f.live())
                p.waits = any(layer is not None and layer.covers(own) for layer in over)

    def _scopes(self) -> None:
        for p in self.f.live():
            if self.rule(p.layer) == "fades":
                self.f.end(p, "out of scope")

    def _fade_on(self) -> None:
        """What has ended fades out by a tick; what shows no more is let go."""
        f = self.f
        for p in f.playing:
            p.faded += bool(p.ended)
        parts = fades.on_one_layer(f)
        heard: list[Playing] = []
        for n in range(len(f.playing) - 1, -1, -1):
            p = f.playing[n]
            crowded = len({q.layer for q in f.playing}) < len(f.playing)
            hidden = crowded and parts[n][0] < UNSEEN and any(v.serial == p.covered and v.covered for v in heard)
            if shows(p, heard) and not hidden:
                heard.insert(0, p)
        f.playing = heard
