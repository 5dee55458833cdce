"""A bout: fighters on a stage, one tick after the other, in the order of docs/semantics.md."""

from __future__ import annotations

from collections.abc import Sequence
from math import atan2, degrees, hypot
from typing import Any

from player import body, fades, ground, partner, strikes, thrown
from player.events import tell
from player.export import Export
from player.fighter import Fighter, Playing
from player.gaze import look_for
from player.hands import LATELY, Press
from player.posing import pose
from player.reactions import apply
from player.rules import Decider
from player.stage import Stage
from player.turns import Vector

Json = dict[str, Any]


class Bout:
    """Fighters on the first stage of an export. The same export, inputs and seed give the same takes."""

    def __init__(self, export: Export, seed: int = 1) -> None:
        self.export, self.seed, self.now = export, seed, 0
        self.stage = Stage(export.stage, export.axes)
        self.fighters = [Fighter(row, export) for row in export.stage["fighters"]]
        self.things: list[thrown.Thing] = []
        self.let_go = 0
        self.gestures = [c for c in export.commands.values() if c["gesture"] is not None]
        for f in self.fighters:
            pose(export, f, self.stage, on_a_tick=True)
            f.joints_before = f.joints

    def use(self, export: Export) -> None:
        """Go on with a changed export: what plays keeps its place, in the action and the state as they are now."""
        same = export.stands_on == self.export.stands_on
        left = self.stage.left
        self.export = export
        self.stage = Stage(export.stage, export.axes)
        self.stage.left |= {name: had for name, had in left.items() if name in self.stage.left}
        self.gestures = [c for c in export.commands.values() if c["gesture"] is not None]
        self.things = [one for one in self.things if one.row["name"] in export.thrown]
        for one in self.things:
            one.row, one.strike = export.thrown[one.row["name"]], export.thrown_strikes[one.row["name"]]
        for f in self.fighters:
            f.go_on_with(export, same)
            if not same:
                pose(export, f, self.stage, on_a_tick=False)
                f.joints_before = f.joints

    def tick(self, given: Sequence[Json] = ()) -> Json:
        """Play one tick; its line of a take."""
        export = self.export
        given = [*given, *partner.inputs(export, self.fighters, self.now, self.seed)]
        before: dict[str, list[Playing]] = {}
        for f in self.fighters:
            self._read(f, [row for row in given if row["fighter"] == f.name])
            f.advanced = not f.frozen
            f.stood_before = f.position, f.facing
            before[f.name] = f.as_it_stands()
        if any(any(one.goes) for one in self.stage.going):
            self.stage.go_on(self.now)
            for f in self.fighters:
                body.ride(export, f, self.stage)
        self._decide_and_move(before)
        self._stand_and_pose()
        found = strikes.find(export, self.fighters, self.stage, self.things)
        for f in apply(export, self.fighters, found, self._asked) if found else ():
            # A reaction shows its first frame on the tick of contact, and through hit stop.
            pose(export, f, self.stage, on_a_tick=False)
        flew = {one.number: (one.owner, one.label, one.position) for one in self.flew}
        felled = self._touched(found)
        events = [*(e for f in self.fighters for e in tell(export, f)), *felled]
        if export.thrown:
            self.let_go = thrown.let_go(export, self.things, self.let_go, self.fighters, events)
        events += self._told_of_things(flew)
        line = {"tick": self.now, "fighters": self.fighters, "events": events, "contacts": found}
        self.now += 1
        return line

    def _asked(self, f: Fighter) -> Decider:
        others = [o.seen() for o in self.fighters if o is not f]
        return Decider(self.export, f, others, self.now, self.seed)

    # Inputs

    def _read(self, f: Fighter, given: Sequence[Json]) -> None:
        """Read inputs and age the buffer, which keeps its age through hit stop. What came in hit stop (on the tick
        before nothing was played) is of this tick as well."""
        asked = next(((row["action"], row.get("from", "")) for row in given if row.get("action")), None)
        # What was asked for in hit stop waits for the first tick that is played.
        f.asked = asked or (("", "") if f.advanced else f.asked)
        waiting = [] if f.advanced else f.fresh
        f.pressed, f.let_go = [], []
        for row in given:
            if row.get("axis") == "move":
                f.stick = (row["value"][0], row["value"][1])
            elif row.get("command") and row.get("press", True):
                f.pressed.append(row["command"])
                f.held.add(row["command"])
            elif row.get("command"):
                f.let_go.append(row["command"])
                f.held.discard(row["command"])
            elif row.get("parameter"):
                f.parameters[row["parameter"]] = row.get("number") or 0.0
        if self.gestures:
            self._recognise(f)
        f.fresh = [*waiting, *f.pressed]
        f.wanted = 0.0 if f.down or f.stun else min(hypot(*f.stick), 1.0) * body.top_speed(f)
        self._remember(f)

    def _recognise(self, f: Fighter) -> None:
        """Press the commands whose gestures are complete; what they are made of is pressed no more."""
        near = look_for(self.export, f, self.fighters)
        towards = f.facing if near is None else degrees(atan2(near[0] - f.position[0], near[2] - f.position[2]))
        f.hands.go_on(f.pressed, f.let_go, f.stick, f.facing, towards, self.now)
        found = f.hands.made(self.gestures, self.now)
        takes = {moment for one in found for moment in one.takes}
        if found:
            f.hands.taken = [*takes, *f.hands.taken][:LATELY]
            f.use([Press(moment.what, 0, moment.tick) for moment in takes])
            own = {moment.what for moment in takes if moment.tick == self.now}
            f.pressed = [*(c for c in f.pressed if c not in own), *(one.command["name"] for one in found)]
            for one in found:
                gesture = one.command["gesture"]
                if gesture["sets"]:
                    f.parameters[gesture["sets"]] = float(sum(one.long >= level for level in gesture["levels"]))
        names = {c["name"] for c in self.gestures}
        still = {c["name"] for c in self.gestures if f.hands.holds_on(c, self.now)}
        f.let_go += sorted((names & f.held) - still)
        f.held = (f.held - names) | still

    def _remember(self, f: Fighter) -> None:
        """Age the presses that are remembered, and remember those of this tick."""
        order, frozen = self.export.order, f.frozen > 0
        fresh = sorted(dict.fromkeys(f.pressed), key=lambda c: order.get(c, len(order)))
        made = [Press(c, -1 if frozen else 0, self.now) for c in fresh]
        aged = [p if frozen else p._replace(age=p.age + 1) for p in f.buffer if p.command not in fresh]
        f.buffer = made + [p for p in aged if p.age < self.export.longest_buffer]
        past = f.history if frozen else [p._replace(age=p.age + 1) for p in f.history]
        f.history = made + [p for p in past if p.age < self.export.furthest_press]

    # What plays, and where the bodies go

    def _decide_and_move(self, before: dict[str, list[Playing]]) -> None:
        export = self.export
        # Decisions look at where everybody was when the tick began, whoever stands first in the list.
        seen = {f.name: f.seen() for f in self.fighters}
        for f in self.fighters:
            if not f.advanced:
                f.frozen -= 1
                continue
            self._rest(f)
            others = [seen[o.name] for o in self.fighters if o is not f]
            unseen = fades.hidden(f)
            decider = Decider(export, f, others, self.now, self.seed)
            decider.decide()
            body.move(export, f, before[f.name], [o for o in self.fighters if o is not f], others, self.stage)
            if f.adrift and not any(self._moves(p) for p in before[f.name]):
                f.adrift = False  # what ended never had the body
            if f.adrift:
                f.go_on()
                if unseen and not f.live():
                    ground.hand_over(decider, f)
        body.part(export, self.fighters, self.stage)
        self.flew = list(self.things)
        self._flew_at = {one.number: one.position for one in self.things}
        thrown.fly(export, self.things, self.fighters, self.stage)

    def _rest(self, f: Fighter) -> None:
        """What poise and guard have taken goes back, once they were left alone for long enough."""
        f.rested += 1
        if f.rested > f.row["rests"]:
            back = f.row["recovers"] / self.export.rate
            f.poise, f.worn = min(f.poise + back, f.row["poise"]), max(f.worn - back, 0.0)

    def _moves(self, p: Playing) -> bool:
        layer = self.export.layers.get(p.layer)
        return layer is not None and layer.root > 0.0

    def _stand_and_pose(self) -> None:
        """Bodies on the floor or falling, how they stand, and the poses about them."""
        for f in self.fighters:
            if f.advanced and body.settle(self.export, f, self.stage):
                for p in f.live():
                    f.end(p, "broken")
                f.stood_before = None
                if f.down:
                    # Whoever was killed over the edge begins anew.
                    f.down, f.health = False, float(f.row["health"])
        for f in self.fighters:
            f.posture = self._posture(f)
        sees = self.export.ground["look"]["weight"] > 0.0 or self.export.aims
        for f in self.fighters:
            if f.advanced and sees:
                f.sees = look_for(self.export, f, self.fighters)
        for f in self.fighters:
            f.joints_before = f.joints
            if f.advanced:
                pose(self.export, f, self.stage, on_a_tick=True)

    def _posture(self, f: Fighter) -> str:
        """How a body stands: as the section of the topmost action that says so, else as the state does."""
        for p in reversed(f.acting()):
            if p.part.row["posture"]:
                return str(p.part.row["posture"])
        state = self.export.chart.states.get(f.steps[-1].state)
        return str(state["posture"]) if state is not None else "standing"

    # What touches leave behind on things and posts

    def _touched(self, found: Sequence[strikes.Contact]) -> list[Json]:
        """What becomes of things and posts; the effects of posts that fall."""
        thrown.touch(self.things, found)
        stood = self.stage.posts_left()
        for c in found:
            if c.victim in self.stage.left:
                self.stage.left[c.victim] -= c.damage
        left = self.stage.posts_left()
        return [_told(p.name, p.falls, "effect", p.position) for p in stood if p not in left and p.falls]

    def _told_of_things(self, flew: dict[int, tuple[str, str, Vector]]) -> list[Json]:
        """What ended and what began to fly on this tick, where each was seen last."""
        now = {one.number for one in self.things}
        gone = [(owner, label, self._flew_at[n]) for n, (owner, label, _) in flew.items() if n not in now]
        made = [(one.owner, one.label, one.position) for one in self.things if one.number not in flew]
        return [_told(owner, label, "end", at) for owner, label, at in gone] + [
            _told(owner, label, "begin", at) for owner, label, at in made
        ]


def _told(whose: str, name: str, kind: str, at: Vector) -> Json:
    return {
        "fighter": whose,
        "name": name,
        "kind": kind,
        "mount": "",
        "position": at,
        "facing": 0.0,
        "payload": "",
        "serial": 0,
    }
