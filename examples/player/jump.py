"""Jumping: when a press becomes a jump, and how high it goes."""

from __future__ import annotations

from math import sqrt

from player.export import Export
from player.fighter import Fighter


def consider(export: Export, f: Fighter, free: bool) -> None:
    """Jump when it was pressed, a little before or after a floor; cut short one that is let go. ``free`` is whether
    locomotion has the body."""
    jump, gravity = export.ground["jump"], export.ground["gravity"]
    if not jump["command"]:
        return
    if f.jumping and not f.grounded:
        f.rose += 1
        if jump["command"] not in f.held and f.rose <= jump["held"] and f.velocity[1] > 0.0:
            most = sqrt(2.0 * max(gravity, 0.0) * min(jump["tap"], jump["height"]))
            f.velocity = (f.velocity[0], min(f.velocity[1], most), f.velocity[2])
            f.rose = jump["held"] + 1
        return
    f.jumping = False
    press = next((p for p in f.buffer if p.command == jump["command"] and p.age <= jump["early"]), None)
    if press is None or not free or f.down or f.stun or f.off_floor > jump["late"]:
        return
    if not f.grounded and f.velocity[1] > 0.0:
        return
    f.use([press])
    speed = sqrt(2.0 * gravity * jump["height"]) if gravity > 0.0 else 0.0
    f.velocity = (f.velocity[0], speed, f.velocity[2])
    f.grounded, f.jumping, f.rose = False, True, 0
