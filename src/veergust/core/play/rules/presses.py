"""Whether what an exit asks for was pressed: one command, or several in turn."""

from __future__ import annotations

from collections.abc import Sequence

from veergust.core.play.hands import Press


def strung(
    commands: Sequence[str], buffer: Sequence[Press], history: Sequence[Press], within: int, early: bool = True
) -> tuple[Press, ...] | None:
    """The presses that make up ``commands``, the last one first; None when they were not made so.

    The last must still be in the ``buffer``, made on this tick unless ``early`` presses count. Each one before it is
    in the ``history`` (newest first), at most ``within`` played ticks before the next, in hit stop too in the order
    in which they were made. What else was pressed between does not matter, and one press counts once.
    """
    if not commands:
        return None
    for last in buffer:
        if last.command == commands[-1] and (early or last.age == 0):
            rest = _before(tuple(commands[:-1]), last, (last,), history, within)
            if rest is not None:
                return rest
    return None


def _before(
    commands: tuple[str, ...], after: Press, used: tuple[Press, ...], history: Sequence[Press], within: int
) -> tuple[Press, ...] | None:
    if not commands:
        return used
    for press in history:
        fits = press.command == commands[-1] and after.age <= press.age <= after.age + within
        fits = fits and press.made <= after.made
        if fits and press not in used:
            found = _before(commands[:-1], press, (*used, press), history, within)
            if found is not None:
                return found
    return None
