"""A project played by the program and, handed over, by the independent player: where the two takes are not the same."""

from __future__ import annotations

import math
import random
import sys
import tempfile
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from tools.made import DEMO
from veergust.core.export.axes import Axes
from veergust.core.export.writing import export
from veergust.core.model import DrillStep, Project
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.scripted import schedule
from veergust.core.play.simulation import Simulation

sys.path.insert(0, str(DEMO.parents[1] / "examples"))
from player.bout import Bout
from player.export import Export
from player.take import line

Json = dict[str, Any]
Given = Mapping[int, Sequence[DrillStep]]
SAME, TURNED = 1e-6, 1e-5
"""Places (m) and headings (degrees) of bodies are the same to this, and health."""
NEAR, FLAT = 2e-3, 0.5
"""Places of touches and events are on poses, which GLB has in single precision: a touch that only grazes slides (m). Where
a box lies flat on something there is no one place at all."""


Handed = tuple[CompiledProject, Export]
"""A project as the program plays it, and as it was handed over."""


def handed_over(project: Project, assets: Assets, axes: Axes | None = None) -> Handed:
    """A project as the program plays it, and as it is handed over and read."""
    build = CompiledProject(project, assets)
    with tempfile.TemporaryDirectory() as folder:
        export(build, Path(folder) / "out", mesh=False, axes=axes)
        return build, Export(Path(folder) / "out")


@dataclass
class Compared:
    """What came of a bout: how many ticks were the same, what was otherwise on the next, how much there was to compare."""

    ticks: int = 0
    otherwise: list[str] = field(default_factory=list)
    contacts: int = 0
    events: int = 0
    started: int = 0


def row_of(step: DrillStep) -> Json:
    """A step as the independent player reads it from an input file."""
    out: Json = {"tick": step.tick, "fighter": step.fighter, "press": step.press}
    out |= {"command": step.command} if step.command else {}
    out |= {"axis": step.axis, "value": list(step.value)} if step.axis else {}
    out |= {"action": step.action, "from": step.section} if step.action else {}
    out |= {"parameter": step.parameter, "number": step.number} if step.parameter else {}
    return out


class Hands:
    """Who presses at random, walks up to the other, keeps off the rims, asks for actions by name."""

    def __init__(self, project: Project, seed: int) -> None:
        self.draw, self.project = random.Random(seed), project
        self.commands = [c.name for c in project.commands]
        self.down: dict[str, set[str]] = {}

    def __call__(self, tick: int, simulation: Simulation) -> list[DrillStep]:
        """What is given on a tick."""
        out = []
        for f in simulation.fighters:
            draw, down = self.draw.random, self.down.setdefault(f.name, set())
            if draw() < 0.08:
                out.append(DrillStep(tick, f.name, axis="move", value=self._stick(f, simulation)))
            if self.commands and draw() < 0.09:
                command = self.draw.choice(self.commands)
                down.add(command)
                out.append(DrillStep(tick, f.name, command=command))
            for command in sorted(down):
                if draw() < 0.1:
                    down.discard(command)
                    out.append(DrillStep(tick, f.name, command=command, press=False))
            if self.project.actions and draw() < 0.006:
                out.append(DrillStep(tick, f.name, action=self.draw.choice(self.project.actions).name))
            if self.project.locomotion.parameters and draw() < 0.004:
                named = self.draw.choice(self.project.locomotion.parameters).name
                out.append(DrillStep(tick, f.name, parameter=named, number=self.draw.choice([0.0, 0.5, 1.0])))
        return out

    def _stick(self, f: Any, simulation: Simulation) -> tuple[float, float]:
        x, _, z = f.position.tolist()
        way, much = self.draw.random() * 2 * math.pi, self.draw.choice([0.0, 0.3, 1.0])
        other = next((o for o in simulation.fighters if o.name != f.name), None)
        if other is not None and self.draw.random() < 0.7:
            gap = (other.position - f.position).tolist()
            way = math.atan2(gap[0], gap[2]) + self.draw.gauss(0.0, 0.4)
            much = self.draw.choice([0.3, 1.0]) if math.hypot(gap[0], gap[2]) > 1.0 else self.draw.choice([0.0, 0.3])
        if math.hypot(x, z) > 4.0:
            way = math.atan2(-x, -z)
        return round(math.sin(way) * much, 4), round(math.cos(way) * much, 4)


def at_random(project: Project, build: CompiledProject, ticks: int, seed: int) -> dict[int, list[DrillStep]]:
    """Inputs that lead to touches: what hands at random give while the program plays."""
    hands, simulation = Hands(project, seed), Simulation(build, seed)
    out = {}
    for tick in range(ticks):
        out[tick] = hands(tick, simulation)
        simulation.tick(schedule(tuple(out[tick])).get(tick, []))
    return out


def compare(build: CompiledProject, export_: Export, given: Given, ticks: int, seed: int) -> Compared:
    """Play what is given both ways, up to the first tick that is not the same."""
    simulation, bout, out = Simulation(build, seed), Bout(export_, seed), Compared()
    starts = [f.starts for f in simulation.fighters]
    for tick in range(ticks):
        steps = tuple(given.get(tick, ()))
        record = simulation.tick(schedule(steps).get(tick, []))
        ours, theirs = record.line(), line(bout.tick([row_of(s) for s in steps]), export_.axes)
        flat = [any(b.shape == "box" for b in c.strike.boxes) for c in record.contacts]
        out.otherwise = differences(ours, theirs, export_.axes, flat)
        for mine, other in zip(simulation.fighters, bout.fighters):
            gap = max(abs(a - b) for a, b in zip(mine.position.tolist(), other.position))
            turned = abs((mine.facing - other.facing + 180.0) % 360.0 - 180.0)
            if gap > SAME or turned > TURNED:
                out.otherwise.append(f"{mine.name} stands {gap:.2e} m and {turned:.2e}° off")
        out.contacts, out.events = out.contacts + len(record.contacts), out.events + len(record.events)
        if out.otherwise:
            break
        out.ticks += 1
    out.started = sum(f.starts - was for f, was in zip(simulation.fighters, starts))
    return out


def differences(ours: Json, theirs: Json, axes: Any, flat: Sequence[bool] = ()) -> list[str]:
    """What two lines of takes have otherwise: decisions, frames, contacts, health, events; and places of contacts, some of
    which are of ``flat`` boxes, and of events, nearly."""
    out = []
    for mine, other in zip(ours["fighters"], theirs["fighters"], strict=True):
        for name in ("name", "ground", "actions", "grounded"):
            if mine[name] != other[name]:
                out.append(f"{mine['name']} {name}: {mine[name]} and {other[name]}")
        if abs(mine["health"] - other["health"]) > SAME:
            out.append(f"{mine['name']} health: {mine['health']} and {other['health']}")
    for kind in ("contacts", "events"):
        told = [[{k: v for k, v in row.items() if k not in ("position", "facing", "damage")} for row in take[kind]]
                for take in (ours, theirs)]  # fmt: skip
        if told[0] != told[1]:
            out.append(f"{kind}: {told[0]} and {told[1]}")
            continue
        for n, (mine, other) in enumerate(zip(ours[kind], theirs[kind])):
            there = axes.place(other["position"])
            near = FLAT if kind == "contacts" and flat and flat[n] else NEAR
            if max(abs(a - b) for a, b in zip(mine["position"], there)) > near:
                out.append(f"{kind} {mine} is at {there}")
            if abs(mine.get("damage", 0.0) - other.get("damage", 0.0)) > SAME:
                out.append(f"{kind} {mine} takes {other['damage']}")
    return out
