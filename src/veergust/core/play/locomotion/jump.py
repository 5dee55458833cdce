"""Jumping: when a press becomes a jump, and how high it goes."""

from __future__ import annotations

from math import sqrt

from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.state import FighterState, use


def consider(build: CompiledProject, fighter: FighterState, free: bool) -> None:
    """Jump when it was pressed a little before or on this tick, on the floor or a little after an edge; cut a jump
    short that is let go. ``free`` is whether locomotion has the body."""
    jump = build.project.locomotion.jump
    if not jump.command:
        return
    if fighter.jumping and not fighter.grounded:
        _hold(build, fighter)
        return
    fighter.jumping = False
    press = next((p for p in fighter.buffer if p.command == jump.command and p.age <= jump.early), None)
    if press is None or not free or fighter.down or fighter.stun or fighter.off_floor > jump.late:
        return
    if not fighter.grounded and fighter.velocity[1] > 0.0:
        return
    use(fighter, [press])
    speed = sqrt(2.0 * build.project.locomotion.gravity * jump.height) if build.project.locomotion.gravity > 0 else 0.0
    fighter.velocity = (fighter.velocity[0], speed, fighter.velocity[2])
    fighter.grounded, fighter.jumping, fighter.rose = False, True, 0


def _hold(build: CompiledProject, fighter: FighterState) -> None:
    """A jump goes on rising while its press is held, for as long as it may be; let go, what a tap gives is left."""
    locomotion = build.project.locomotion
    jump = locomotion.jump
    fighter.rose += 1
    if jump.command in fighter.held or fighter.rose > jump.held or fighter.velocity[1] <= 0.0:
        return
    most = sqrt(2.0 * max(locomotion.gravity, 0.0) * min(jump.tap, jump.height))
    fighter.velocity = (fighter.velocity[0], min(fighter.velocity[1], most), fighter.velocity[2])
    fighter.rose = jump.held + 1
