"""Work on many things of one project, shared out among several processes."""

from __future__ import annotations

import multiprocessing
import os
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from typing import Any, TypeVar

from veergust.core.play import CompiledProject
from veergust.core.study.facts import Facts, every_fact

FEW = 30
"""So many actions are worth a process of their own."""
Thing = TypeVar("Thing")
Made = TypeVar("Made")
_given: tuple[CompiledProject, Callable[[CompiledProject, Any], Any]] | None = None


def shared_out(
    build: CompiledProject,
    work: Callable[[CompiledProject, Thing], Made],
    things: Sequence[Thing],
    few: int,
    chunk: int = 1,
) -> Iterator[Made]:
    """What some work makes of each of many things, in their order; so ``few`` of them are worth a process of their own,
    and ``chunk`` are given to one at a time.

    Where a process can have the memory of another (POSIX), as many as there are processors share the work. Not for
    a program with a window or with threads of its own, which a copy of it would lack.
    """
    count = min(os.cpu_count() or 1, len(things) // few)
    if count < 2 or "fork" not in multiprocessing.get_all_start_methods():
        yield from (work(build, thing) for thing in things)
        return
    alike = multiprocessing.get_context("fork")
    with ProcessPoolExecutor(count, mp_context=alike, initializer=_begin, initargs=(build, work)) as workers:
        yield from workers.map(_one, things, chunksize=chunk)


def facts_of(build: CompiledProject, names: Sequence[str]) -> Iterator[Facts | None]:
    """The facts of actions, in the order they are named; None for one that is not there. As ``shared_out``."""
    return shared_out(build, every_fact, names, FEW, 4)


def _begin(build: CompiledProject, work: Callable[[CompiledProject, Any], Any]) -> None:
    global _given
    _given = build, work


def _one(thing: Any) -> Any:
    assert _given is not None
    return _given[1](_given[0], thing)
