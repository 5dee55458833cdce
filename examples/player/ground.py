"""Locomotion on a tick: the transition that is taken, how its states play on, and the pose they make."""

from __future__ import annotations

from bisect import bisect_right
from math import hypot
from typing import TYPE_CHECKING, Any

from player.chance import drawn, pick
from player.clips import GroundClip
from player.conditions import Asked, Present, holds
from player.export import Export
from player.fighter import Fighter, Step, measured
from player.glb import Pose
from player.poses import Moment, mean, strongest
from player.turns import Vector, ease, minus, plus, size, times

if TYPE_CHECKING:
    from player.rules import Decider

Json = dict[str, Any]
Part = tuple[GroundClip, float, float]
"""A clip, its weight, and the speed (m/s) at which its feet stand."""
SLOWEST, FASTEST = 0.25, 2.5
HALVES = 0.06
"""What is blended over is followed with this half-life (s)."""
TRIED = 48
AS_WELL = 1e-6
"""Phases fit as well whose squares of distances (m²) differ by no more."""
HALF = 0.5 - 1e-6
"""What lies half way between two frames is of the earlier."""

OVER = 1.0 - 1e-6
"""A clip has played to its end from here on, whatever the rounding."""


def parts_of(f: Fighter, state: Json, at: tuple[float, ...] | None = None) -> list[Part]:
    """The clips of a state that show."""
    export = f.export
    if not state["blend"]:
        return [(export.clip(state["clip"]), 1.0, state["matched"])]
    blend = export.blends[state["name"]]
    place = blend.place(_values(f, state)) if at is None else at
    return [(export.clip(state["blend"][n]["clip"]), w, _speed_at(export, state, n)) for n, w in blend.weights(place)]


def _values(f: Fighter, state: Json) -> list[float]:
    return [measured(f, name) for name in state["over"][:2]]


def _speed_at(export: Export, state: Json, point: int) -> float:
    """The ground speed of a point of a blend: as it is laid out by speed, else that of its clip."""
    by = dict(zip(state["over"], state["blend"][point]["at"]))
    if "speed" in by:
        return abs(float(by["speed"]))
    if "ahead" in by or "left" in by:
        return hypot(by.get("ahead", 0.0), by.get("left", 0.0))
    return hypot(*export.clip(state["blend"][point]["clip"]).pace)


def loops(state: Json, clip: GroundClip) -> bool:
    """Whether a clip goes round in a state."""
    return bool(state["blend"]) or (clip.loop if state["plays"] == "clip" else state["plays"] == "loop")


def moves(state: Json) -> bool:
    """Whether a state goes over the floor in steps, which it hands on to the next."""
    return bool(state["blend"] or state["matched"])


def _slope(clip: GroundClip, phase: float) -> tuple[float, float, float]:
    """In the half step of a phase: how much of the clip had played at its beginning, is played a step, and how far it
    has come."""
    at = phase % clip.laps
    n = min(int(2.0 * at), len(clip.half_steps) - 2)
    return clip.half_steps[n], (clip.half_steps[n + 1] - clip.half_steps[n]) * 2.0, at - n / 2.0


def own_phase(state: Json, clip: GroundClip, phase: float) -> float:
    """How much of a clip has played in a phase of its state: clips with steps are in the same step."""
    if state["plays"] == "hold" and not state["blend"]:
        return 1.0
    if loops(state, clip) and clip.laps:
        start, slope, far = _slope(clip, phase)
        return (start + slope * far) % 1.0
    return phase


def first_phase(f: Fighter, state: Json) -> float:
    """The phase in which a state's clip begins."""
    clip = _main(parts_of(f, state))
    if clip is None or not (loops(state, clip) and clip.laps and state["plays"] != "hold"):
        return 0.0
    low = clip.half_steps[0]
    at = (0.0 - low) % 1.0 + low
    n = min(max(bisect_right(clip.half_steps, at) - 1, 0), len(clip.half_steps) - 2)
    a, b = clip.half_steps[n], clip.half_steps[n + 1]
    return (n + (at - a) / (b - a)) / 2.0 % clip.laps


def _main(parts: list[Part]) -> GroundClip | None:
    return max(parts, key=lambda p: p[1])[0] if parts else None


def cycles(f: Fighter, state: Json, phase: float, at: tuple[float, ...] | None) -> float:
    """How many phases a second a state goes on by: as fast as the feet have to, to stand while the body goes."""
    seconds = stride = 0.0
    for clip, weight, speed in parts_of(f, state, at):
        length = clip.seconds * (_slope(clip, phase)[1] if loops(state, clip) and clip.laps else 1.0)
        seconds += weight * length
        stride += weight * length * speed
    if stride <= 1e-6:
        return 1.0 / max(seconds, 1e-6)
    return min(max(measured(f, "speed") / stride, SLOWEST / seconds), FASTEST / seconds)


def feet_in(f: Fighter, state: Json, phase: float) -> list[Vector]:
    """Where the feet are about the body in a phase of a state, on the nearest frames of its clips."""
    figure = f.export.figure
    out: list[Vector] = [(0.0, 0.0, 0.0) for _ in figure.feet]
    for clip, weight, _ in parts_of(f, state):
        pose = clip.poses[int(clip.frame(own_phase(state, clip, phase), loops(state, clip)) + HALF)]
        out = [plus(at, times(figure.place_of(pose, foot), weight)) for at, foot in zip(out, figure.feet)]
    return out


def fitting_phase(f: Fighter, state: Json, feet: list[Vector]) -> float:
    """The phase of a state in which the feet are nearest to where they are: of all that fit as well, the first."""
    tried = [n / TRIED for n in range(TRIED)]
    far = [sum(size(minus(a, b)) ** 2 for a, b in zip(feet_in(f, state, t), feet)) for t in tried]
    return next(t for t, much in zip(tried, far) if much <= min(far) + AS_WELL)


# On a tick


def advance(decider: Decider, f: Fighter) -> None:
    """Take the first transition whose conditions hold, and let every state that shows play on by a tick."""
    export, seen = decider.export, len(f.endings)
    jumped = f.jumping and (f.rose == 0 or f.leapt)
    taken = asked(decider, f)
    if taken is not None:
        _take(decider, f, *taken)
    # Each ending is seen once; what the transition itself has ended is seen on the next look.
    f.endings = f.endings[seen:]
    f.leapt = jumped and taken is not None and all(c["test"] != "jumped" for c in taken[0]["conditions"])
    f.parameters = {name: v for name, v in f.parameters.items() if name not in export.momentary}
    f.steps = [_played_on(export, f, s) for s in f.steps]
    over = max((n for n, s in enumerate(f.steps) if n and s.age > s.blend), default=0)
    f.steps = f.steps[over:]


def _played_on(export: Export, f: Fighter, s: Step) -> Step:
    state = export.chart.states.get(s.state)
    if state is None:
        return s._replace(age=s.age + 1, phase=s.phase + 1.0 / export.rate)
    at = s.at
    if state["blend"]:
        blend, values = export.blends[s.state], _values(f, state)
        share = 1.0 - 0.5 ** (1.0 / (export.rate * HALVES))
        at = blend.place(values) if at is None else blend.nearer(at, values, share)
    return s._replace(phase=s.phase + cycles(f, state, s.phase, at) / export.rate, age=s.age + 1, at=at)


def asked(decider: Decider, f: Fighter) -> tuple[Json, str] | None:
    """The transition that is to be taken now, and the state that is entered by it."""
    chart, now = decider.export.chart, f.steps[-1]
    for n, t in chart.asked.get(now.state, ()):
        present = _present(decider.export, f, now, t)
        if holds(
            t["conditions"], Asked(f, decider.others, decider.seed, decider.tick, None, present), f"transition {n}"
        ):
            to = _entered(decider, f, t["to"])
            if to is not None and _may(decider.export, f, chart.states[to]):
                return t, to
    return None


def _present(export: Export, f: Fighter, step: Step, t: Json) -> Present:
    state = export.chart.states.get(step.state)
    if state is None:
        return Present(ticks=step.age)
    clip = _main(parts_of(f, state))
    own = own_phase(state, clip, step.phase) if clip is not None else 0.0
    ended = not state["blend"] and step.phase >= OVER
    if state["action"]:
        ended = all(p.action.name != state["action"] for p in f.live())
    share = own % 1.0 if clip is None or loops(state, clip) else min(own, 1.0)
    return Present(ended, share, step.age, lambda: _feet_apart(export, f, state, step, t))


def _feet_apart(export: Export, f: Fighter, here: Json, step: Step, t: Json) -> float:
    """How far the farther foot is from where the entered state would have it."""
    there = export.chart.states.get(export.chart.enter(t["to"], {}, None, None) or "")
    if there is None or not export.figure.feet:
        return 0.0
    feet = feet_in(f, here, step.phase)
    to = feet_in(f, there, _phase(f, here, there, t))
    return max(size(minus(a, b)) for a, b in zip(feet, to))


def _entered(decider: Decider, f: Fighter, target: str) -> str | None:
    chart = decider.export.chart
    # What is entered where it was left is left first, also from inside itself.
    left = {**f.last_in, **dict.fromkeys(chart.around.get(f.steps[-1].state, ()), f.steps[-1].state)}

    def draw(group: Json) -> str | None:
        items = [(c["state"], c["weight"]) for c in group["choices"]]
        name = f"group {group['name']}"
        share = drawn(decider.seed, decider.tick, f.name, name)
        return pick(items, group["apart"], [n for n, _ in items], f.picks.get(name, []), share)

    return chart.enter(target, left, f.parameter, draw)


def _may(export: Export, f: Fighter, state: Json) -> bool:
    """One that runs an action is entered only while its layer is free, and by nobody stunned."""
    action = export.actions.get(state["action"]) if state["action"] else None
    return action is None or (not f.stun and all(p.layer != action.layer for p in f.live()))


def _take(decider: Decider, f: Fighter, t: Json, to: str) -> None:
    chart = decider.export.chart
    old, new = chart.states.get(f.steps[-1].state), chart.states[to]
    _leave(decider.export, f)
    for name in {t["to"], *chart.around[to]}:
        group = chart.groups.get(name)
        if group is not None and group["enters"] == "pool":
            inside = next((m for m in chart.members[name] if chart.within(to, m)), "")
            f.picked(f"group {name}", inside, group["apart"])
    if old is not None and old["action"]:
        for p in f.live():
            if p.action.name == old["action"]:
                f.end(p, "cancelled")
    phase = _phase(f, old, new, t)
    f.steps = [*f.steps, Step(to, phase, 0, t["ticks"], t["ease"])]
    if new["action"] and new["action"] in decider.export.actions:
        decider.start(decider.export.actions[new["action"]])


def _leave(export: Export, f: Fighter) -> None:
    state = f.steps[-1].state
    f.last_in |= dict.fromkeys(export.chart.around.get(state, ()), state)


def _phase(f: Fighter, old: Json | None, new: Json, t: Json) -> float:
    """The phase in which a state is entered: moving states hand their steps on."""
    handed = f.steps[-1].phase
    usual = t["enters"] == "usual" and old is not None and moves(old) and moves(new)
    if usual or t["enters"] == "phase":
        clip = _main(parts_of(f, new))
        return handed % (clip.laps if clip is not None and clip.laps else 1)
    if t["enters"] == "foot" and old is not None and f.export.figure.feet:
        return fitting_phase(f, new, feet_in(f, old, handed))
    return first_phase(f, new)


def hand_over(decider: Decider, f: Fighter) -> None:
    """Locomotion, all of which was hidden, takes over: in the state the body's speed asks for, and in the phase in
    which its feet are nearest to where they are."""
    export, was = decider.export, f.steps[-1].state
    states = export.chart.states
    if not f.joints or was not in states:
        return
    for _ in states:
        taken = asked(decider, f)
        if taken is None or states[taken[1]]["action"] or not moves(states[taken[1]]):
            break
        _leave(export, f)
        f.steps = [Step(taken[1])]
    now = f.steps[-1]
    if not export.figure.feet or not moves(states[now.state]):
        return
    phase = fitting_phase(f, states[now.state], [f.joints[foot][1] for foot in export.figure.feet])
    f.steps = [Step(now.state, phase, now.age if now.state == was else 1)]


def ground_pose(f: Fighter) -> Pose:
    """The pose of the present state, over those it comes from while they fade."""
    out: list[Moment] = []
    for n, s in enumerate(f.steps):
        share = ease(s.ease, s.age / (s.blend + 1)) if n else 1.0
        state = f.export.chart.states.get(s.state)
        own: list[Moment] = [(f.export.figure.rest, f.export.figure.rest, 0.0, 1.0)]
        if state is not None:
            own = [_moment(state, clip, s.phase, weight) for clip, weight, _ in parts_of(f, state, s.at)]
        out = [(a, b, t, w * (1.0 - share)) for a, b, t, w in out if share < 1.0]
        out += [(a, b, t, w * share) for a, b, t, w in own if share > 0.0]
    if not out:
        return f.export.figure.rest
    return strongest(out) if f.export.figure.picture >= 0 else mean(out)


def _moment(state: Json, clip: GroundClip, phase: float, weight: float) -> Moment:
    at = clip.frame(own_phase(state, clip, phase), loops(state, clip))
    low = int(at)
    return clip.poses[low], clip.poses[min(low + 1, len(clip.poses) - 1)], at - low, weight
