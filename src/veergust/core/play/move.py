"""Steps 5 and 6 of the tick: root motion or drive, and the body against the stage."""

from __future__ import annotations

import numpy as np

from veergust.core.model import Drive, Floor, Stage
from veergust.core.motion import quat
from veergust.core.motion.quat import Array
from veergust.core.play.book import Book
from veergust.core.play.state import FighterState, Voice

STEP_UP = 0.25
SNAP = 0.03


def drive_of(voice: Voice) -> Drive:
    """The drive on an action's frame: the last span that holds it, else root motion."""
    for drive in reversed(voice.part.section.drives):
        if drive.start <= voice.frame < drive.end:
            return drive
    return Drive(start=0, end=voice.part.ticks)


def leader(book: Book, fighter: FighterState) -> tuple[Voice, float] | None:
    """The topmost live action that moves the body, and its share of it."""
    for voice in reversed(fighter.live()):
        share = book.root_share(voice.layer)
        if share > 0.0:
            return voice, share
    return None


def move(book: Book, fighter: FighterState, before: tuple[Voice, ...]) -> None:
    """Move the body for one tick. ``before`` are the actions as they stood on the last tick."""
    ground = book.project.ground
    dt = 1.0 / book.project.settings.rate
    lead = leader(book, fighter)
    drive = drive_of(lead[0]) if lead else None
    share = lead[1] if lead else 0.0
    held = fighter.holding()
    step = np.zeros(3)
    stick = 1.0 - share
    if drive and drive.kind == "stick":
        stick = max(stick, drive.scale)
    if drive and drive.kind == "ballistic":
        step += fighter.velocity * np.array([1.0, 0.0, 1.0]) * dt
    else:
        _steer(fighter, ground.run_speed * stick, ground.acceleration * dt, fighter.grounded)
        step += fighter.velocity * np.array([1.0, 0.0, 1.0]) * dt
    if fighter.grounded and stick > 0.0 and held.get("turn", 1.0) > 0.0 and not fighter.down:
        _turn(fighter, ground.turn_rate * dt * min(stick, 1.0))
    turn, climbing = 0.0, False
    for old in before:
        root, spin, up = _root_step(book, fighter, old)
        step += root
        turn += spin
        climbing |= up
    if np.any(fighter.knock):
        step += fighter.knock * np.array([1.0, 0.0, 1.0]) * dt
        slower = max(0.0, float(np.linalg.norm(fighter.knock)) - ground.friction * dt)
        length = float(np.linalg.norm(fighter.knock))
        fighter.knock = fighter.knock * (slower / length)
    if not fighter.grounded and not climbing and held.get("gravity", 1.0) > 0.0:
        fighter.velocity = fighter.velocity - np.array([0.0, ground.gravity * dt, 0.0])
        step[1] += fighter.velocity[1] * dt
    fighter.position = fighter.position + step
    fighter.facing = float((fighter.facing + turn + 180.0) % 360.0 - 180.0)


def _steer(fighter: FighterState, top: float, change: float, grounded: bool) -> None:
    want = np.array([fighter.stick[0], 0.0, fighter.stick[1]])
    size = float(np.linalg.norm(want))
    want = want / max(size, 1.0) * top
    if fighter.down:
        want = want * 0.0
    if not grounded:
        change *= 0.15
    flat = fighter.velocity * np.array([1.0, 0.0, 1.0])
    if top <= 0.0 and grounded:
        flat = flat * 0.0
    gap = want - flat
    far = float(np.linalg.norm(gap))
    flat = want if far <= change else flat + gap * (change / far)
    fighter.velocity = flat + fighter.velocity * np.array([0.0, 1.0, 0.0])


def _turn(fighter: FighterState, most: float) -> None:
    if abs(fighter.stick[0]) + abs(fighter.stick[1]) < 0.05:
        return
    want = np.degrees(np.arctan2(fighter.stick[0], fighter.stick[1]))
    gap = (want - fighter.facing + 180.0) % 360.0 - 180.0
    fighter.facing += float(np.clip(gap, -most, most))


def _root_step(book: Book, fighter: FighterState, old: Voice) -> tuple[Array, float, bool]:
    """What the frame just left moves the body: place (world), turn (degrees), whether it drives the height."""
    if not old.live or drive_of(old).kind != "root":
        return np.zeros(3), 0.0, False
    share = book.root_share(old.layer)
    if share <= 0.0:
        return np.zeros(3), 0.0, False
    part, f = old.part, old.frame
    if old.last and f + 1 >= part.ticks:
        return np.zeros(3), 0.0, False
    use = old.compiled.action.root
    scale = use.scale * drive_of(old).scale * share
    yaw = float(part.yaw[f])
    local = quat.rotate(quat.from_yaw(-yaw), part.place[f + 1] - part.place[f])
    world = quat.rotate(quat.from_yaw(np.radians(fighter.facing)), local) * scale
    cut = part.cut_at(f)
    return world, float(np.degrees(part.yaw[f + 1] - yaw)) * scale, cut is not None and cut.climbs


def floor_under(stage: Stage, position: Array) -> Floor | None:
    """The highest floor under a point, not counting floors more than a step above it."""
    best: Floor | None = None
    for floor in stage.floors:
        inside = floor.low[0] <= position[0] <= floor.high[0] and floor.low[1] <= position[2] <= floor.high[1]
        if inside and floor.height <= position[1] + STEP_UP and (best is None or floor.height > best.height):
            best = floor
    return best


def settle(book: Book, fighter: FighterState) -> bool:
    """Keep the body on the floor or let it fall; true when it was put back after falling out of the stage."""
    stage = book.project.stage
    floor = floor_under(stage, fighter.position)
    height = floor.height if floor else -np.inf
    if fighter.position[1] <= height + (SNAP if fighter.grounded else 0.0):
        fighter.position = np.array([fighter.position[0], height, fighter.position[2]])
        fighter.velocity = fighter.velocity * np.array([1.0, 0.0, 1.0])
        fighter.grounded = True
    else:
        fighter.grounded = False
    if fighter.position[1] < stage.put_back_below:
        fighter.position = np.array(fighter.setup.position, dtype=float)
        fighter.velocity, fighter.knock = np.zeros(3), np.zeros(3)
        fighter.facing, fighter.grounded = fighter.setup.facing, True
        return True
    return False


def part_bodies(book: Book, fighters: list[FighterState]) -> None:
    """Push bodies out of posts and of each other, each pair half and half, in the order they stand."""
    radius = book.project.rig.capsule.radius
    solid = [f for f in fighters if not f.down and f.holding().get("push", 1.0) > 0.0]
    for i, a in enumerate(solid):
        for b in solid[i + 1 :]:
            if abs(a.position[1] - b.position[1]) < book.project.rig.capsule.height:
                away = _apart(a.position, b.position, 2 * radius, a.facing)
                a.position = a.position + away / 2
                b.position = b.position - away / 2
    for f in solid:
        for post in book.project.stage.posts:
            at = np.array(post.position, dtype=float)
            if at[1] - book.project.rig.capsule.height < f.position[1] < at[1] + post.height:
                f.position = f.position + _apart(f.position, at, radius + post.radius, f.facing)


def _apart(a: Array, b: Array, least: float, facing: float) -> Array:
    gap = (a - b) * np.array([1.0, 0.0, 1.0])
    far = float(np.linalg.norm(gap))
    if far >= least:
        return np.zeros(3)
    if far < 1e-9:
        turn = np.radians(facing)
        return np.array([-np.sin(turn), 0.0, -np.cos(turn)]) * least
    return np.asarray(gap / far * (least - far))
