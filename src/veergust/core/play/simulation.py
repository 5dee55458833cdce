"""A run of the tick: fighters on the project's stage, from inputs to records."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import replace
from math import atan2, degrees, hypot, inf

import numpy as np

from veergust.core.kinds import Vector
from veergust.core.model import Command, Fighter
from veergust.core.motion import Array
from veergust.core.play import partner
from veergust.core.play.body.move import move, part_bodies, settle, top_speed
from veergust.core.play.body.platforms import has_platforms, platforms_on
from veergust.core.play.body.riding import take_along
from veergust.core.play.compiled.asked import gestures as made_by_hand
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.contact.answers import posture_of
from veergust.core.play.contact.applying import Applying
from veergust.core.play.contact.contact import Contact
from veergust.core.play.contact.contacts import Contacts
from veergust.core.play.fired import Fired
from veergust.core.play.flight import fly, let_go, tell_things, touch
from veergust.core.play.gazing import SIGHT
from veergust.core.play.hands import LATELY, Press, gone_on, held_on, made
from veergust.core.play.locomotion.machine import Asking, hand_over
from veergust.core.play.pose.footholds import NO_FOOTING
from veergust.core.play.pose.posing import place_poses, pose_again
from veergust.core.play.pose.speaking import hidden, weights_of
from veergust.core.play.rules.decide import Decider
from veergust.core.play.rules.starting import start
from veergust.core.play.state import NOT_WEIGHED, NOWHERE, FighterState, Input, LocomotionVoice, Voice, end, go_on, use
from veergust.core.play.take.record import Record
from veergust.core.play.telling import tell
from veergust.core.play.world import discs_left, hurt_posts, posts_left, world_of
from veergust.core.trouble import named

NO_INPUTS: list[Input] = []
NOTHING_ASKED = ("", "")


class Simulation:
    """Fighters on a stage.

    ``tick`` plays one tick; ``resume`` takes play back to one that was played. The same project, inputs and seed give
    the same records.
    """

    def __init__(
        self,
        build: CompiledProject,
        seed: int = 1,
        fighters: tuple[Fighter, ...] | None = None,
        touches: Callable[[Simulation], list[Contact]] | None = None,
        *,
        posed: bool = True,
        moved: bool = True,
    ) -> None:
        """``touches`` stands in for the test of strikes against hurtboxes. Where only numbers are wanted no pose need
        be made, and nobody need be ``moved``."""
        self.build = build
        self.touches = touches
        self.posed = posed
        self.moved = moved
        self.landed = False
        self.seed = seed
        self.now = 0
        setups = build.project.stage.fighters if fighters is None else fighters
        self.fighters = [self._enter(setup) for setup in setups]
        self.world = world_of(build)

    def _enter(self, setup: Fighter) -> FighterState:
        build = self.build.of(setup)
        idle = build.idle_state
        entry = idle.name if idle is not None else ""
        fighter = FighterState(
            setup,
            np.array(setup.position, dtype=float),
            setup.facing,
            (LocomotionVoice(entry),),
            health=setup.health,
            poise=setup.poise,
            parameters=build.chart.defaults,
        )
        if self.posed:
            place_poses(build, [fighter], self._floors())
        return fighter

    def fighter(self, name: str) -> FighterState:
        """A fighter by name."""
        return named(self.fighters, name, "fighter")

    def _by_build(self, fighters: list[FighterState]) -> list[tuple[CompiledProject, list[FighterState]]]:
        """Fighters together with those for whom the same is compiled."""
        if not self.build.guests:
            return [(self.build, fighters)]
        out: dict[str, list[FighterState]] = {}
        for f in fighters:
            out.setdefault(f.setup.project, []).append(f)
        return [(self.build.of(those[0].setup), those) for those in out.values()]

    def use(self, build: CompiledProject) -> None:
        """Go on with an edited project: what plays keeps its place, in the action and the state as they are now."""
        before, self.build = self.build, build
        self.world = world_of(build, self.world)
        for fighter in self.fighters:
            voices = []
            own, was = self.build.of(fighter.setup), before.of(fighter.setup)
            figure = own.assets.skeleton is not was.assets.skeleton
            for voice in fighter.voices:
                compiled = own.action(voice.compiled.action.name)
                if compiled is None or voice.section >= len(compiled.sections):
                    continue
                frame = min(voice.frame, compiled.sections[voice.section].ticks - 1)
                # What it was on its way to, and faded out from, may not be there any more.
                kept = voice.but(compiled=compiled, frame=frame, goto=None, going=(), waiting=())
                voices.append(kept.but(way=None, reference=None) if figure else kept)
            fighter.voices = tuple(voices)
            fighter.locomotion = self._locomotion(fighter, was)
            if figure and self.posed:
                # Nothing of what was worked out is of this figure's joints.
                fighter.footing = NO_FOOTING
                pose_again(own, fighter)
                fighter.joints_before = fighter.joints

    def _locomotion(self, fighter: FighterState, before: CompiledProject) -> tuple[LocomotionVoice, ...]:
        """The states that still are; the one everybody begins in where the present one is gone."""
        states = self.build.of(fighter.setup).states
        kept = tuple(
            v if states[v.state] == before.states.get(v.state) else v._replace(at=None)
            for v in fighter.locomotion
            if v.state in states
        )
        if kept and kept[-1].state == fighter.locomotion[-1].state:
            return kept
        idle = self.build.of(fighter.setup).idle_state
        return (LocomotionVoice(idle.name if idle is not None else ""),)

    def start(self, fighter: str, action: str) -> Voice | None:
        """Start an action at once, whatever its start rule says; it is shown on the next tick's record."""
        return start(self.build.of(self.fighter(fighter).setup), self.fighter(fighter), action, self.now)

    def resume(self, record: Record, before: Record | None = None) -> None:
        """Go on from the end of a tick that was played; ``before`` is the one before it, where there was one."""
        self.now, self.world = record.tick + 1, record.world
        old = before.fighters if before is not None else record.fighters
        self.fighters = [self.whole(f, was) for f, was in zip(record.fighters, old)]
        for fighter in self.fighters:
            # The project may have been edited since.
            fighter.weighed = NOT_WEIGHED

    def whole(self, state: FighterState, before: FighterState | None = None) -> FighterState:
        """A state that was kept, with the pose that long keeping leaves out; ``before`` is the tick before's."""
        out = state.copy()
        if out.joints is None and self.posed:
            pose_again(self.build.of(out.setup), out)
            out.joints_before = out.joints
            if before is not None and before is not state:
                out.joints_before = self.whole(before).joints
        return out

    def tick(self, inputs: Iterable[Input] = ()) -> Record:
        """Play one tick in the order of docs/semantics.md."""
        given = [*inputs, *partner.inputs(self.build, self.fighters, self.now, self.seed)]
        before: dict[str, tuple[Voice, ...]] = {}
        stood = self.world
        for f in self.fighters:
            self._read(f, [i for i in given if i.fighter == f.name] if given else NO_INPUTS)
            f.advanced = not f.frozen
            f.frame_before = (f.position, f.facing)
            before[f.name] = tuple(f.acting()) if f.voices else ()
        floors, carried = self._platforms()
        self._decide_and_move(before, floors)
        self._stand_and_pose(floors, carried)
        if self.touches is not None:
            found = self.touches(self)
        else:
            found = Contacts(self.build, self.fighters, self.world).find() if self.posed else []
        reacting = Applying(self.build, self.fighters, self.now, self.seed).apply(found) if found else ()
        for name in reacting:
            # A reaction shows its first frame on the tick of contact, and through hit stop.
            if self.posed:
                pose_again(self.build.of(self.fighter(name).setup), self.fighter(name))
        felled = self._touched(found) if found else []
        events = [*(e for f in self.fighters for e in tell(self.build.of(f.setup), f)), *felled]
        self.world = let_go(self.build, self.world, self.fighters, events)
        if self.world.things or stood.things:
            events += tell_things(stood, self.world)
        for f in self.fighters:
            f.shown = weights_of(self.build.of(f.setup), f)
        record = Record(self.now, tuple([f.copy() for f in self.fighters]), tuple(events), tuple(found), self.world)
        self.now += 1
        return record

    def _touched(self, found: list[Contact]) -> list[Fired]:
        """What becomes of things and posts that touched or were; the effects of those that fall."""
        stood = posts_left(self.build, self.world)
        self.world = hurt_posts(touch(self.world, found), found)
        fell = [p for p in stood if p.name in self.world.fallen] if self.world.posts else []
        return [Fired(p.name, p.falls, "effect", "", np.array(p.position), mark="falls") for p in fell if p.falls]

    def _floors(self) -> Array:
        """The floors as rows, as they are on this tick."""
        build = self.build
        return platforms_on(build.project.stage.floors, self.now).now if build.ask(has_platforms) else build.floors

    def _platforms(self) -> tuple[Array, dict[str, Vector]]:
        """Platforms go on, and take along who stands on them, in hit stop too; the floors as rows, and how far each
        fighter that stands on one is carried (m)."""
        if not (self.moved and self.build.ask(has_platforms)):
            return self.build.floors, {}
        platforms = platforms_on(self.build.project.stage.floors, self.now)
        carried = {}
        for f in self.fighters:
            build = self.build.of(f.setup)
            radius = build.project.rig.capsule.radius
            carried[f.name] = take_along(platforms, f, radius, discs_left(build, self.world))
        return platforms.now, carried

    def _decide_and_move(self, before: dict[str, tuple[Voice, ...]], floors: Array) -> None:
        """What plays, and where the bodies go over the ``floors`` (rows); ``before`` are the actions as they stood on
        the last tick."""
        stood: list[FighterState] = []
        posts = {
            f.setup.project: discs_left(self.build.of(f.setup), self.world) for f in self.fighters if f.setup.project
        }
        posts[""] = discs_left(self.build, self.world)
        for n, f in enumerate(self.fighters):
            # Decisions look at where everybody was when the tick began, whoever stands first in the list.
            seen = (*stood, *self.fighters[n + 1 :])
            if n + 1 < len(self.fighters):
                stood.append(f.copy())
            if f.advanced:
                if f.rested < f.setup.rests or f.worn or f.poise < f.setup.poise:
                    self._rest(f)
                others = tuple([o for o in self.fighters if o is not f])
                build = self.build.of(f.setup)
                unseen = self.posed and hidden(build, f)
                Decider(build, f, seen, self.now, self.seed).decide()
                if self.moved:
                    move(build, f, before[f.name], others, seen, posts[f.setup.project], floors)
                    if f.adrift and not any(_moves(build, v) for v in before[f.name]):
                        f.adrift = False  # what ended never had the body
                    if f.adrift:
                        self._hand_over(f, seen, unseen)
            else:
                f.frozen -= 1
        if self.moved:
            part_bodies(self.build, self.fighters, posts_left(self.build, self.world))
            self.world = fly(self.build, self.world, self.fighters, floors) if self.world.things else self.world

    def _rest(self, f: FighterState) -> None:
        """What poise and guard have taken goes back, once they were left alone for long enough."""
        f.rested += 1
        if f.rested > f.setup.rests:
            back = f.setup.recovers / self.build.project.settings.rate
            f.poise, f.worn = min(f.poise + back, f.setup.poise), max(f.worn - back, 0.0)

    def _seen_by(
        self, f: FighterState, places: list[tuple[FighterState, list[float]]]
    ) -> tuple[float, float, float] | None:
        """Where the head of the nearest other is (m)."""
        fx, fy, fz = f.position.tolist()
        near, best = None, inf
        for other, (x, y, z) in places:
            if other is not f and not other.down:
                far = (x - fx) ** 2 + (y - fy) ** 2 + (z - fz) ** 2
                if far < best:
                    near, best = (x, y + SIGHT * self.build.of(other.setup).project.rig.capsule.height, z), far
        return near

    def _hand_over(self, f: FighterState, others: tuple[FighterState, ...], hidden: bool) -> None:
        """Locomotion takes over from an action that has ended: with the speed of the body and, where nothing of it was
        to be seen (``hidden``) and nothing else has started, in the state and phase in which the feet fit."""
        go_on(f)
        if hidden and not f.live():
            hand_over(self.build.of(f.setup), f, Asking(others, self.now, self.seed))

    def _stand_and_pose(self, floors: Array, carried: dict[str, Vector]) -> None:
        """Bodies on the ``floors`` (rows) or falling, as far (m) as platforms ``carried`` them, and the poses about
        them."""
        for f in self.fighters:
            carry = carried.get(f.name, NOWHERE)
            if self.moved and f.advanced and settle(self.build.of(f.setup), f, floors, carry):
                for voice in f.live():
                    end(f, voice, "broken")
                f.frame_before = None
                if f.down:
                    # Whoever was killed over the edge begins anew, as it stands there.
                    f.down, f.health = False, f.setup.health
        posed = [f for f in self.fighters if f.advanced and self.posed]
        for f in self.fighters:
            f.posture = posture_of(self.build.of(f.setup), f)
            if not (f.advanced and self.posed):
                f.joints_before = f.joints
        looking = [f for f in posed if _looks(self.build.of(f.setup))]
        if looking:
            places = [(f, f.position.tolist()) for f in self.fighters]
            for f in looking:
                f.sees = self._seen_by(f, places)
        for build, those in self._by_build(posed):
            place_poses(build, those, floors)

    def _read(self, f: FighterState, given: list[Input]) -> None:
        """Read inputs and age the buffer. The buffer keeps its age through hit stop, as all time does then."""
        # What was asked for in hit stop waits for the first tick that is played.
        stood = not f.advanced
        waiting = f.asked if stood else NOTHING_ASKED
        f.asked = next(((i.action, i.section) for i in given if i.action), waiting) if given else waiting
        before = f.fresh if stood else ()
        f.pressed = f.let_go = ()
        f.spent = ()
        if given:
            self._take_in(f, given)
        gestures = self.build.of(f.setup).ask(made_by_hand)
        if gestures:
            self._recognise(f, gestures)
        f.fresh = (*before, *f.pressed) if before else f.pressed
        size = min(hypot(*f.stick), 1.0)
        f.wanted = 0.0 if f.down or f.stun else size * top_speed(self.build.of(f.setup), f)
        if f.buffer or f.history or f.pressed:
            self._remember(f)

    def _take_in(self, f: FighterState, given: list[Input]) -> None:
        """Take in what is given to a fighter on a tick."""
        held, pressed, let_go = set(f.held), [], []
        for i in given:
            if i.axis == "move":
                f.stick = i.value
            elif i.command and i.press:
                pressed.append(i.command)
                held.add(i.command)
            elif i.command:
                let_go.append(i.command)
                held.discard(i.command)
            elif i.parameter:
                f.set_parameter(i.parameter, i.number or 0.0)
            elif i.by_hand:
                rest = [row for row in f.by_hand if row[0] != i.by_hand]
                f.by_hand = (*rest, (i.by_hand, i.number)) if i.number is not None else tuple(rest)
        f.held, f.pressed, f.let_go = tuple(sorted(held)), tuple(pressed), tuple(let_go)

    def _recognise(self, f: FighterState, gestures: tuple[Command, ...]) -> None:
        """Press the commands whose gestures are complete; what they are made of is pressed no more."""
        near = self._seen_by(f, [(o, o.position.tolist()) for o in self.fighters])
        towards = f.facing if near is None else degrees(atan2(near[0] - f.position[0], near[2] - f.position[2]))
        hands, up = gone_on(f.hands, f.pressed, f.let_go, f.stick, f.facing, towards, self.now)
        found = made(gestures, hands, up, self.now)
        if found:
            takes = {moment for one in found for moment in one.takes}
            hands = hands._replace(taken=(*takes, *hands.taken)[:LATELY])
            use(f, [Press(moment.what, made=moment.tick) for moment in takes])
            own = {moment.what for moment in takes if moment.tick == self.now}
            f.pressed = (*(c for c in f.pressed if c not in own), *(one.command.name for one in found))
            for one in found:
                if one.command.gesture is not None and one.command.gesture.sets:
                    f.set_parameter(one.command.gesture.sets, float(one.level))
        names = {c.name for c in gestures}
        still = {c.name for c in gestures if held_on(c, hands, self.now)}
        f.let_go = (*f.let_go, *sorted((names & set(f.held)) - still))
        f.held = tuple(sorted((set(f.held) - names) | still))
        f.hands = hands

    def _remember(self, f: FighterState) -> None:
        """Age the presses that are remembered, and remember those of this tick."""
        build = self.build.of(f.setup)
        order = build.command_order
        fresh = sorted(dict.fromkeys(f.pressed), key=lambda c: order.get(c, len(order)))
        made = [Press(c, -1 if f.frozen else 0, self.now) for c in fresh]
        aged = [p if f.frozen else replace(p, age=p.age + 1) for p in f.buffer if p.command not in fresh]
        keep = build.longest_buffer
        f.buffer = tuple(made + [p for p in aged if p.age < keep])
        past = f.history if f.frozen else tuple(replace(p, age=p.age + 1) for p in f.history)
        f.history = tuple(made + [p for p in past if p.age < build.furthest_press])


def _moves(build: CompiledProject, voice: Voice) -> bool:
    """Whether an action has a part of the body."""
    layer = build.layers.get(voice.layer)
    return layer is not None and layer.root > 0.0


def _looks(build: CompiledProject) -> bool:
    """Whether a figure looks or aims at anybody."""
    return build.project.locomotion.look.weight > 0.0 or bool(build.aims)


def play(
    build: CompiledProject, inputs: dict[int, list[Input]], ticks: int, seed: int = 1
) -> tuple[Simulation, list[Record]]:
    """Play ``ticks`` ticks with scripted inputs by tick."""
    build.prepare()
    simulation = Simulation(build, seed)
    return simulation, [simulation.tick(inputs.get(t, [])) for t in range(ticks)]
