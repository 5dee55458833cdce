"""Step 3 of the tick: exits, gates, start rules and locomotion transitions; then time advances."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

from veergust.core.kinds import asks
from veergust.core.model import Action, Exit, Gate
from veergust.core.play.body.move import shares
from veergust.core.play.compiled.asked import pools_started_by, started_by
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.flow.machine import At
from veergust.core.play.hands import Press
from veergust.core.play.locomotion import jump
from veergust.core.play.locomotion import machine as locomotion
from veergust.core.play.pose.speaking import on_one_layer, share_a_layer
from veergust.core.play.rules.chances import Chances
from veergust.core.play.rules.pairs import may_start, waits
from veergust.core.play.rules.presses import strung
from veergust.core.play.rules.starting import start
from veergust.core.play.state import (
    Ended,
    FighterState,
    Going,
    Voice,
    Waiting,
    end,
    use,
)

Upcoming = At | None
"""What an action shows on this tick if nothing happens; None when it ends."""


NO_EXITS: list[tuple[int, int, Exit]] = []
Taken = tuple[Exit, Action | None, tuple[Press, ...]]
"""An exit that is taken, the action it leads to (None: the ground), and the presses that ask for it."""
UNSEEN = 1e-4
"""Who has no more of a layer, under others that one after the other come in over it, is let go."""
WHOLE = -1
"""Stands for the section of what belongs to the whole action."""


@dataclass(frozen=True)
class Answer:
    """An action a press may start: with which presses, from which section, with which blend (None: its own)."""

    action: Action
    presses: tuple[Press, ...]
    section: str = ""
    blend: int | None = None
    pool: str = ""


def touched(exit_: Exit, contact: str) -> bool:
    """Whether an exit's own wish for a contact is met by what has been touched."""
    if exit_.contact == "none":
        return contact == "none"
    return exit_.contact == "any" or exit_.contact == contact


class Decider:
    """Decides for one fighter on one tick."""

    def __init__(
        self, build: CompiledProject, fighter: FighterState, others: tuple[FighterState, ...], tick: int, seed: int
    ) -> None:
        self.chances = Chances(build, fighter, others, tick, seed)
        self.build, self.fighter, self.tick = build, fighter, tick

    def decide(self) -> None:
        """Run exits, gates, starts and transitions, and advance every live action by a tick."""
        fighter = self.fighter
        if fighter.stun:
            self._recover()
        asked = self._start_asked() if fighter.asked[0] and not fighter.down else None
        started = asked is not None
        for voice in fighter.live() if fighter.voices else ():
            # An action ends once: what an earlier one ended on this tick decides nothing more.
            there = voice is not asked and voice in fighter.voices
            if there and not voice.waits:
                started |= self._play_on(voice)
        if not started and fighter.buffer:
            self._start_rules()
        left = 1.0
        if fighter.voices:
            self._cover()
            for voice in fighter.acting():
                if not voice.looked:
                    self._looked(voice)
            self._scopes()
            left = shares(self.build, fighter, fighter.acting())[1]
        jump.consider(self.build, fighter, left > 0.0)
        if fighter.strung and not fighter.stun and not any(v.reacts for v in fighter.live()):
            fighter.strung = 0
        locomotion.advance(self.build, fighter, locomotion.Asking(self.chances.others, self.tick, self.chances.seed))
        if fighter.voices:
            self._cover()
            self._fade_on()

    def _recover(self) -> None:
        """A tick of stun is over; with the last of them so is the reaction."""
        fighter = self.fighter
        if fighter.stun == 1:
            for voice in fighter.live():
                if voice.serial == fighter.reels:
                    end(fighter, voice, "completed")
            fighter.reels = 0
        fighter.stun = max(fighter.stun - 1, 0)

    def _fade_on(self) -> None:
        """What has ended fades out by a tick; what shows no more is let go."""
        fighter = self.fighter
        for voice in fighter.voices:
            if voice.ended is not None:
                fighter.put(voice, voice.but(faded=voice.faded + 1))
        heard: list[Voice] = []
        parts = on_one_layer(fighter) if share_a_layer(fighter.voices) else ()
        for n in range(len(fighter.voices) - 1, -1, -1):
            voice = fighter.voices[n]
            hidden = parts and parts[n][0] < UNSEEN and any(v.serial == voice.covered and v.covered for v in heard)
            if self._heard(voice, heard) and not hidden:
                heard.append(voice)
        if len(heard) < len(fighter.voices):
            fighter.voices = tuple(reversed(heard))

    def _play_on(self, voice: Voice) -> bool:
        """One action a tick on, or left for another, or ended; whether another has started."""
        part, frame = voice.part, voice.frame + 1
        onward = frame < part.ticks and part.quiet[frame - 1] and not voice.compiled.action.exits
        if onward and voice.looked and voice.goto is None and not voice.going:
            # Nothing can happen to it, as on most frames.
            self.fighter.put(voice, voice.but(frame=frame, age=voice.age + 1, told=False))
            return False
        voice = self._looked(voice)
        upcoming, fighter = self._upcoming(voice), self.fighter
        # What has shown only its first frame has not been asked for that frame's exits yet.
        chosen = self._exit(voice, At(voice.section)) if voice.age == 0 else None
        chosen = chosen or self._exit(voice, upcoming)
        if chosen is not None:
            return self._leave(voice, *chosen)
        reels = fighter.stun > 0 and voice.serial == fighter.reels
        if upcoming is None and not voice.last and not reels:
            end(self.fighter, voice, "completed")
            own = voice.layer, Ended(voice.compiled.action.name, self.tick, voice.contact)
            self.fighter.memory = (*(row for row in self.fighter.memory if row[0] != voice.layer), own)
        elif upcoming is not None:
            self._advance(self._await(voice, upcoming), upcoming)
        return False

    def _cover(self) -> None:
        """Let what is covered wait from the tick on which that happens, as its layer says, and go on where it stood,
        with what its frame does, on the one on which nothing covers it any more."""
        for voice in self.fighter.live() if self.build.waiting_layers else ():
            still = voice.layer in self.build.waiting_layers and waits(self.build, self.fighter, voice)
            if still != voice.waits:
                self.fighter.put(voice, voice.but(waits=still))

    def _looked(self, voice: Voice) -> Voice:
        """The voice once the gates of its first frame have been asked."""
        if voice.looked:
            return voice
        looked = self._gated(self._await(voice, At(voice.section, voice.frame))).but(looked=True)
        self.fighter.put(voice, looked)
        return looked

    def _heard(self, voice: Voice, above: list[Voice]) -> bool:
        """Whether a voice still shows: live, fading out, or under the one that covers it while that one shows."""
        if any(v.live and v.age > v.blend for v in above if v.layer == voice.layer):
            return False
        if voice.live or not voice.covered:
            return voice.live or voice.faded <= voice.compiled.action.blend_out
        return any(v.serial == voice.covered for v in above)

    def _start_asked(self) -> Voice | None:
        """Start the action asked for by name; whatever it cannot play beside gives way."""
        name, section = self.fighter.asked
        compiled = self.build.action(name)
        if compiled is None or self.chances.kept_out(compiled.action):
            return None
        return start(self.build, self.fighter, name, self.tick, section=section, way="forced")

    def _upcoming(self, voice: Voice) -> Upcoming:
        onward = voice.compiled.flow.next(At(voice.section, voice.frame, voice.laps), voice.goto, self.chances.pick)
        return onward[0] if onward is not None else None

    def _advance(self, voice: Voice, upcoming: At) -> None:
        section, frame, laps = upcoming
        part = voice.compiled.sections[section]
        if frame == 0 and voice.goto is None and voice.part.section.then not in voice.compiled.index:
            self.chances.picked(voice.part.section.then, part.section.name)
        onward = (section, laps) == (voice.section, voice.laps)
        going = tuple(replace(g, tick=g.tick + 1, age=g.age + 1) for g in voice.going)
        full = max((i + 1 for i, g in enumerate(going) if g.age >= g.blend), default=0)
        going = going[full:]
        blend = 0 if onward else (voice.goto_blend if voice.goto is not None else 0) or part.blend
        if blend > 0:
            going = (*going, Going(voice.section, voice.frame + 1, blend))
        moved = voice.but(
            section=section,
            frame=frame,
            laps=laps,
            age=voice.age + 1,
            goto=None,
            told=False,
            going=going,
            touched=voice.touched if onward else (),
            evaded=voice.evaded if onward else (),
            waiting=voice.waiting if onward else tuple(w for w in voice.waiting if w.section == WHOLE),
        )
        self.fighter.put(voice, self._gated(moved))

    def _gated(self, voice: Voice) -> Voice:
        """The voice with the gate that its frame takes, if any."""
        compiled, section = voice.compiled, voice.part.section
        if not section.gates:
            return voice

        def open_(i: int, gate: Gate) -> bool:
            return self.chances.holds(gate.conditions, voice, f"{compiled.action.name}/{section.name}/gate {i}")

        taken = compiled.flow.gate(At(voice.section, voice.frame), open_, self.chances.pick)
        if taken is None:
            return voice
        gate, lead = taken
        if lead.pool:
            self.chances.picked(lead.pool, compiled.sections[lead.section].section.name)
        return voice.but(goto=lead.section, goto_blend=gate.blend)

    def _exits(self, voice: Voice, upcoming: At) -> list[tuple[int, int, Exit]]:
        """(section, place, exit) of the exits open on a frame; those of the whole action, last, have section −1."""
        section, frame, _ = upcoming
        own = voice.compiled.sections[section].section.exits
        always = voice.compiled.action.exits
        if not own and not always:
            return NO_EXITS
        there = [(section, i, e) for i, e in enumerate(own) if e.start <= frame < e.end]
        return there + [(WHOLE, i, e) for i, e in enumerate(always)] if always else there

    def _exit(self, voice: Voice, upcoming: Upcoming) -> Taken | None:
        """The exit taken on this tick, where it leads, and the presses that ask for it: breaks first, then by priority,
        then the newest press.

        Of those one press asks for, the one that asks for more in turn is meant, then the order of commands counts.
        """
        if upcoming is None or voice.last:
            return None
        best: tuple[tuple[float, ...], Taken] | None = None
        for place, (section, i, exit_) in enumerate(self._exits(voice, upcoming)):
            age = -2
            presses: tuple[Press, ...] = ()
            if exit_.kind != "break":
                if self.fighter.stun:
                    continue
                kept = next((w.presses for w in voice.waiting if (w.section, w.exit) == (section, i)), None)
                made = self._pressed(exit_, exit_.early) or kept
                if made is None:
                    continue
                age, presses = made[0].age, made
            order = self._order((asks(exit_) or ("",))[-1])
            rank = (exit_.kind != "break", -exit_.priority, age, -len(asks(exit_)), order, place)
            if best is not None and best[0] <= rank:
                continue
            where = f"{voice.compiled.action.name}/{section}/exit {i}"
            if not touched(exit_, voice.contact) or not self.chances.holds(exit_.conditions, voice, where):
                continue
            target = self.chances.target(exit_)
            if exit_.to_kind == "ground" or target is not None:
                best = rank, (exit_, target, presses)
        return best[1] if best is not None else None

    def _order(self, command: str) -> int:
        order = self.build.command_order
        return order.get(command, len(order))

    def _await(self, voice: Voice, upcoming: At) -> Voice:
        """The voice, keeping a press made on this tick inside an exit that counts no early ones and still waits."""
        exits = self._exits(voice, upcoming)
        if not exits:
            return voice
        fresh = []
        for section, i, exit_ in exits:
            made = self._pressed(exit_, False) if not exit_.early else None
            if made is not None:
                fresh.append(Waiting(section, i, made))
        if not fresh:
            return voice
        # The newest press is the one that is meant.
        again = {(w.section, w.exit) for w in fresh}
        kept = voice.but(waiting=(*(w for w in voice.waiting if (w.section, w.exit) not in again), *fresh))
        self.fighter.put(voice, kept)
        return kept

    def _pressed(self, exit_: Exit, early: bool = True) -> tuple[Press, ...] | None:
        """The presses that ask for an exit; None when they were not made."""
        commands = asks(exit_)
        if not commands:
            return None
        keep = exit_.buffer if exit_.buffer is not None else self.build.buffer_of(commands[-1])
        fresh = [p for p in self.fighter.buffer if p.age < max(keep, 1)]
        return strung(commands, fresh, self.fighter.history, self.build.project.settings.buffer, early)

    def _leave(self, voice: Voice, exit_: Exit, target: Action | None, presses: tuple[Press, ...]) -> bool:
        end(self.fighter, voice, "broken" if exit_.kind == "break" else "cancelled")
        use(self.fighter, presses)
        if target is None:
            jumps = self.build.project.locomotion.jump.command
            if presses and presses[0].command == jumps:
                # Nothing has been started by it yet: it is the jump that was meant.
                self.fighter.buffer = (replace(presses[0], age=0), *self.fighter.buffer)
            return False
        if exit_.to_kind == "pool":
            self.chances.picked(exit_.to, target.name)
        start(self.build, self.fighter, target.name, self.tick, section=exit_.section, blend=exit_.blend)
        return True

    def _start_rules(self) -> None:
        """Start an action from locomotion: the newest press decides, then the order of the commands."""
        fighter = self.fighter
        if fighter.down or fighter.stun:
            return
        presses = [p for p in fighter.buffer if p.age < max(self.build.buffer_of(p.command), 1)]
        for press in sorted(presses, key=lambda p: (p.age, self._order(p.command))):
            lost = False
            for answer in self._answers(press):
                met = may_start(self.build, fighter, answer.action)
                if met == "both play" and self.chances.free(answer.action):
                    use(fighter, answer.presses)
                    if answer.pool:
                        self.chances.picked(answer.pool, answer.action.name)
                    self._start(answer)
                    return
                lost |= met == "newer is refused" or self.chances.deaf(answer.action)
            if lost:
                use(fighter, [press])

    def _answers(self, press: Press) -> Iterator[Answer]:
        """What a press may start: the next of a string still remembered, actions with a start rule, then pools."""
        for _, memory in self.fighter.memory:
            yield from self._strung_on(press, memory)
        for name, rule in self.build.ask(started_by, press.command):
            compiled = self.build.action(name) if not rule.states or self.chances.stands_in(rule.states) else None
            if compiled is not None and self.chances.holds(rule.conditions, None, f"{name}/start"):
                yield Answer(compiled.action, (press,))
        for pool in self.build.ask(pools_started_by, press.command):
            action = self.chances.one_of(pool, from_locomotion=True)
            if action is not None:
                yield Answer(action, (press,), pool=pool)

    def _strung_on(self, press: Press, memory: Ended) -> Iterator[Answer]:
        """What a press may start as the next of a string, while the action that ended is remembered."""
        before = self.build.action(memory.action)
        within = before.action.start.string_memory if before else 0
        if before and within > 0 and self.tick - memory.tick <= within:
            exits = [(s.section.name, i, e) for s in before.sections for i, e in enumerate(s.section.exits)]
            exits += [("", i, e) for i, e in enumerate(before.action.exits)]
            for section, i, exit_ in exits:
                presses = self._pressed(exit_) if asks(exit_)[-1:] == (press.command,) else None
                if exit_.kind != "combo" or not presses or not touched(exit_, memory.contact):
                    continue
                if self.chances.holds(exit_.conditions, None, f"{memory.action}/{section}/exit {i}"):
                    target = self.chances.target(exit_)
                    if target is not None:
                        pool = exit_.to if exit_.to_kind == "pool" else ""
                        yield Answer(target, presses, exit_.section, exit_.blend, pool)

    def _start(self, answer: Answer) -> None:
        name, section, blend = answer.action.name, answer.section, answer.blend
        start(self.build, self.fighter, name, self.tick, section=section, blend=blend, way="pressed")

    def _scopes(self) -> None:
        for voice in self.fighter.live():
            if voice.layer in self.build.fading_layers and self.chances.rule(voice.layer) == "fades":
                end(self.fighter, voice, "out of scope")
