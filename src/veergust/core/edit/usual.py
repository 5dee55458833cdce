"""Locomotion in one step: the usual states, transitions and conditions of the clips that somebody has."""

from __future__ import annotations

from collections.abc import Mapping
from math import atan2, degrees, hypot

from msgspec.structs import replace

from veergust.core.edit.spans import Edit
from veergust.core.model import (
    ANYWHERE,
    BlendPoint,
    Clip,
    Command,
    Condition,
    FeetToFloor,
    Group,
    Jump,
    Locomotion,
    Op,
    Project,
    State,
    Test,
    Transition,
)
from veergust.core.play import CompiledProject
from veergust.core.study import best_loop, reading_of
from veergust.core.trouble import Trouble

FLOOR, GUARD, AIR = "on the floor", "on guard", "in the air"
STARTS = 0.1
"""From this share of the walk's speed on a body walks."""


def usual_set(build: CompiledProject, clips: Mapping[str, str]) -> Edit:
    """Locomotion of the clips by their parts (``core.study.usual``): states, transitions and speeds that work at once.

    Speeds are read off the clips' own travel or feet. What locomotion had of its own (how the stick moves the body)
    stays, and so do commands; a jump and a guard get one where there is none. Raises ``Trouble`` without an idle.
    """
    project = build.project
    have = {part: name for part, name in clips.items() if name}
    if "idle" not in have:
        raise Trouble("somebody has to stand still first", field="idle", do="choose a clip that stands")
    made = _Maker(build, have)
    locomotion = made.locomotion(project.locomotion)
    looping, notes = _looping(build, {have[p] for p in have if p not in ("rise", "land")})
    changed = replace(project, locomotion=locomotion, clips=looping, commands=_commands(project, made.commands))
    return Edit(changed, f"Locomotion of {len(have)} clips", notes)


class _Maker:
    def __init__(self, build: CompiledProject, have: Mapping[str, str]) -> None:
        self.build, self.have = build, have
        self.walk = self._speed("walk", 1.4)
        self.run = self._speed("run", 4.4)
        self.commands: list[Command] = []

    def _speed(self, part: str, usual: float) -> float:
        if part not in self.have:
            return usual
        return round(max(hypot(*self.build.locomotion_clip(self.have[part]).pace), 0.1), 3)

    def locomotion(self, before: Locomotion) -> Locomotion:
        fast = self.run if "run" in self.have else self.walk
        has_air = any(p in self.have for p in ("fall", "rise"))
        has_guard = "guard" in self.have
        groups = [Group(name=FLOOR)]
        groups += [Group(name=GUARD)] if has_guard else []
        groups += [Group(name=AIR, default="fall" if "fall" in self.have else "")] if has_air else []
        jump = before.jump
        if has_air and not jump.command:
            jump = replace(Jump(), command=self._command("jump", "E"))
        feet = before.feet if before.feet.weight > 0.0 else FeetToFloor(weight=1.0)
        return replace(
            before,
            entry="idle",
            states=tuple(self._states()),
            groups=tuple(groups),
            transitions=tuple(self._transitions()),
            walk_speed=self.walk if "walk" in self.have else before.walk_speed,
            run_speed=fast if "run" in self.have or "walk" in self.have else before.run_speed,
            jump=jump,
            feet=feet,
        )

    def _command(self, name: str, key: str) -> str:
        """The command of that name, made where there is none."""
        if name not in {c.name for c in (*self.build.project.commands, *self.commands)}:
            taken = {k for c in self.build.project.commands for k in c.keys}
            free = next(k for k in (key, *"VBNMZXC", "") if k not in taken)
            self.commands.append(Command(name=name, keys=(free,) if free else ()))
        return name

    def _states(self) -> list[State]:
        have = self.have
        out = [State(name="idle", group=FLOOR, clip=have["idle"])]
        points = [BlendPoint(clip=have["idle"], at=(0.0,))]
        for part, speed in (("walk", self.walk), ("run", self.run)):
            if part in have:
                here = [points[-1], BlendPoint(clip=have[part], at=(speed,))]
                out.append(State(name=part, group=FLOOR, blend=tuple(here)))
                points.append(here[1])
        if "land" in have:
            out.append(State(name="land", group=FLOOR, clip=have["land"], plays="once"))
        if "guard" in have:
            out += self._guards()
        if "rise" in have:
            out.append(State(name="rise", group=AIR, clip=have["rise"], plays="hold", band="air"))
        if "fall" in have:
            out.append(State(name="fall", group=AIR, clip=have["fall"], band="air"))
        return out

    def _guards(self) -> list[State]:
        have = self.have
        out = [State(name="guard", group=GUARD, clip=have["guard"], band="guard", turns="target", most=self.walk)]
        points = [BlendPoint(clip=have["guard"], at=(0.0, 0.0))]
        for part in ("guard ahead", "guard left", "guard back", "guard right"):
            if part in have:
                left, ahead = self.build.locomotion_clip(have[part]).pace
                way = round(degrees(atan2(left, ahead)), 1)
                points.append(BlendPoint(clip=have[part], at=(way, round(hypot(left, ahead), 3))))
        if len(points) > 1:
            fast = max(p.at[1] for p in points)
            out[0] = replace(out[0], most=fast)
            over = ("direction", "speed")
            out.append(
                State(name="guard walk", group=GUARD, band="guard", turns="target", most=fast, over=over,
                      blend=tuple(points))
            )  # fmt: skip
        return out

    def _transitions(self) -> list[Transition]:
        have = self.have
        moving = "walk" if "walk" in have else "run" if "run" in have else ""
        out = []
        if "rise" in have:
            out.append(_from(ANYWHERE, "rise", _when("jumped"), ticks=3))
        if any(p in have for p in ("fall", "rise")):
            out.append(_from(ANYWHERE, AIR, _when("on_floor", "==", 0.0), ticks=6))
        if "rise" in have and "fall" in have:
            out.append(_from("rise", "fall", _when("rising", "<", 0.0)))
        if any(p in have for p in ("fall", "rise")):
            out += self._landings(moving)
        if "guard" in have:
            held = self._command("guard", "V")
            out.append(_from(FLOOR, GUARD, Condition(test="held", name=held), enters="foot"))
            if moving:
                let_go = Condition(test="released", name=held)
                out.append(_from(GUARD, moving, let_go, _when("speed", ">", STARTS * self.walk), enters="phase"))
            out.append(_from(GUARD, "idle", Condition(test="released", name=held)))
            if any(p in have for p in ("guard ahead", "guard left", "guard back", "guard right")):
                out.append(_from("guard", "guard walk", _when("speed", ">", 0.1), ticks=6))
                out.append(_from("guard walk", "guard", _when("speed", "<", 0.08)))
        if moving:
            out.append(_from("idle", moving, _when("speed", ">", STARTS * self.walk), ticks=6))
            out.append(_from(moving, "idle", _when("speed", "<", 0.7 * STARTS * self.walk), ticks=10))
        if "walk" in have and "run" in have:
            over = self.walk + 0.3 * (self.run - self.walk)
            out.append(_from("walk", "run", _when("speed", ">", over), ticks=12))
            out.append(_from("run", "walk", _when("speed", "<", over * 0.85), ticks=14))
        return out

    def _landings(self, moving: str) -> list[Transition]:
        floor = _when("on_floor")
        out = []
        if moving:
            out.append(_from(AIR, moving, floor, _when("speed", ">", 0.8 * self.walk), ticks=6, enters="foot"))
        if "land" in self.have:
            out.append(_from(AIR, "land", floor, ticks=3))
            if moving:
                out.append(_from("land", moving, _when("wanted_speed", ">", 0.2), _when("clip_share", ">", 0.3)))
            out.append(_from("land", "idle", _when("section_ended"), ticks=6))
        else:
            out.append(_from(AIR, "idle", floor))
        return out


def _when(test: Test, op: Op = "==", value: float = 1.0) -> Condition:
    return Condition(test=test, op=op, value=round(value, 1 if value >= 1.0 else 2))


def _from(start: str, to: str, *conditions: Condition, ticks: int = 8, enters: str = "usual") -> Transition:
    return Transition(start=start, to=to, conditions=conditions, ticks=ticks, enters=enters)  # type: ignore[arg-type]


def _looping(build: CompiledProject, names: set[str]) -> tuple[tuple[Clip, ...], tuple[str, ...]]:
    """The clips, with these looping, as a state that goes on has to; and in words what was cut for it.

    One that no action plays is cut to where it meets itself best: to whole strides, where it steps.
    """
    notes: list[str] = []
    used = {cut.clip for a in build.project.actions for s in a.sections for cut in s.cuts}

    def made(clip: Clip) -> Clip:
        if clip.name not in names or clip.loop:
            return clip
        reading = reading_of(build, clip.name) if clip.name not in used else None
        found = best_loop(reading) if reading is not None else None
        if reading is None or found is None:
            return replace(clip, loop=True)
        first, last = found
        notes.append(f"{clip.name} from frame {first} to {last}")
        return replace(clip, loop=True, start=float(reading.times[first]), end=float(reading.times[last]))

    clips = tuple(made(c) for c in build.project.clips)
    return clips, (f"Made to loop, by frames of their sources: {', '.join(notes)}",) if notes else ()


def _commands(project: Project, more: list[Command]) -> tuple[Command, ...]:
    return (*project.commands, *more)
