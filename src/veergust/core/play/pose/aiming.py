"""Aiming: each layer that has an aim points at the target, or where the stick points, over what plays below it."""

from __future__ import annotations

from math import atan2, cos, degrees, hypot, radians, sin

from veergust.core.kinds import AIM
from veergust.core.motion import Pose, added
from veergust.core.play.compiled.aiming import CompiledAim
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.gazing import AHEAD, BEHIND, CHEST, SHOULDER, SIGHT, Gaze
from veergust.core.play.state import FighterState

STILL = 0.05


def step(build: CompiledProject, fighter: FighterState) -> None:
    """Bring the aims of a fighter a tick on."""
    aims = build.aims
    was = fighter.aims if len(fighter.aims) == len(aims) else (AHEAD,) * len(aims)
    fighter.aims = tuple([_next(build, fighter, aim, before) for aim, before in zip(aims, was)])


def _next(build: CompiledProject, fighter: FighterState, compiled: CompiledAim, was: Gaze) -> Gaze:
    aim, side, up, want = compiled.aim, was.side, was.up, 0.0
    found = _wanted(build, fighter, compiled)
    if found is not None and abs(found[0]) <= aim.side + BEHIND:
        side, up = min(max(found[0], -aim.side), aim.side), min(max(found[1], -aim.up), aim.up)
        layer = build.layers[compiled.layer]
        may = layer.rule(fighter.locomotion[-1].state) == "may" and AIM.on(fighter.holding()) and not fighter.down
        want = aim.weight * layer.weight(fighter.parameter(layer.layer.by) if layer.layer.by else 1.0) if may else 0.0
    return was.on(side, up, want, aim.ticks, aim.rate / build.project.settings.rate)


def _wanted(build: CompiledProject, fighter: FighterState, compiled: CompiledAim) -> tuple[float, float] | None:
    """Where it would point: degrees to the left of ahead, and up; None at nothing."""
    if compiled.aim.towards == "stick":
        x, z = fighter.stick
        return (_off(fighter, x, z), 0.0) if hypot(x, z) >= STILL else None
    if fighter.sees is None:
        return None
    height = build.project.rig.capsule.height
    px, py, pz = fighter.position.tolist()
    x, y, z = (
        fighter.sees[0] - px,
        fighter.sees[1] + (CHEST - SIGHT - SHOULDER) * height - py,
        fighter.sees[2] - pz,
    )
    far = hypot(x, z)
    return _off(fighter, x, z) if far > 1e-6 else 0.0, degrees(atan2(y, far))


def _off(fighter: FighterState, x: float, z: float) -> float:
    return (degrees(atan2(x, z)) - fighter.facing + 180.0) % 360.0 - 180.0


def put(build: CompiledProject, fighter: FighterState, out: Pose | None, low: int, high: int) -> Pose | None:
    """What there is of a fighter with the aims of the layers from place ``low`` on, below ``high``, added."""
    if out is None:
        return None
    for compiled, gaze in zip(build.aims, fighter.aims):
        layer = build.layers[compiled.layer]
        if gaze.weight > 0.0 and low <= layer.place < high:
            pose = compiled.pose(gaze.side, gaze.up)
            bones, space = build.assets.skeleton, layer.layer.space
            out, _ = added(bones, out, pose, compiled.ahead, layer.mask, None, space, gaze.weight)
    return out


def aimed_at(build: CompiledProject, fighter: FighterState) -> tuple[float, float]:
    """How far (degrees) to the left and up what is thrown goes: where the aim points that counts most."""
    best = max(fighter.aims, key=lambda g: g.weight, default=AHEAD) if build.aims else AHEAD
    return best.side * best.weight, best.up * best.weight


def raised(speed: float, up: float) -> tuple[float, float]:
    """A speed (m/s) over the floor and upwards, once aimed so many degrees up."""
    turn = radians(up)
    return speed * cos(turn), speed * sin(turn)
