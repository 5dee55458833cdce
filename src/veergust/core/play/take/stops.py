"""What a run may be stopped on: each told from a tick's record and the one before it."""

from __future__ import annotations

from collections.abc import Callable

from veergust.core.play.take.record import Record

Stop = Callable[[Record, Record | None], str]
"""What happened on a tick, in words; nothing where it did not."""


def _touch(now: Record, before: Record | None) -> str:
    return next((f"{c.strike.name} {c.result} {c.victim}" for c in now.contacts), "")


def _opens(now: Record, before: Record | None) -> str:
    found = (e for e in now.events if e.kind == "begin" and e.name.startswith("strike "))
    return next((f"{e.fighter}: {e.name.removeprefix('strike ').rpartition('/')[0]} opens" for e in found), "")


def _starts(now: Record, before: Record | None) -> str:
    for fighter in now.fighters:
        was = before.fighter(fighter.name).starts if before is not None else 0
        if fighter.starts > was and fighter.live():
            return f"{fighter.name} starts {fighter.live()[-1].compiled.action.name}"
    return ""


def _reacts(now: Record, before: Record | None) -> str:
    for fighter in now.fighters:
        had = {v.serial for v in before.fighter(fighter.name).voices} if before is not None else set()
        for voice in fighter.live():
            if voice.reacts and voice.serial not in had:
                return f"{fighter.name}: {voice.compiled.action.name}"
    return ""


def _free(now: Record, before: Record | None) -> str:
    found = (f.name for f in now.fighters if before is not None and before.fighter(f.name).reeling and not f.reeling)
    return next((f"{name} can act again" for name in found), "")


def _event(now: Record, before: Record | None) -> str:
    return next((f"{e.fighter}: {e.name or e.kind}" for e in now.events if e.kind not in ("begin", "end")), "")


def _lands(now: Record, before: Record | None) -> str:
    found = (f.name for f in now.fighters if before is not None and f.grounded and not before.fighter(f.name).grounded)
    return next((f"{name} lands" for name in found), "")


STOPS: dict[str, Stop] = {
    "a strike opens": _opens,
    "a touch": _touch,
    "an action starts": _starts,
    "a reaction": _reacts,
    "one can act again": _free,
    "an event": _event,
    "a landing": _lands,
}
"""By how they are offered."""
