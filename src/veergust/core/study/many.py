"""The facts of many actions, worked out by several processes."""

from __future__ import annotations

import multiprocessing
import os
from collections.abc import Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor

from veergust.core.play.compiled.project import CompiledProject
from veergust.core.study.facts import Facts, every_fact

FEW = 30
"""So many actions are worth a process of their own."""
_build: CompiledProject | None = None


def facts_of(build: CompiledProject, names: Sequence[str]) -> Iterator[Facts | None]:
    """The facts of actions, in the order they are named; None for one that is not there.

    Where a process can have the memory of another (POSIX), as many as there are processors share the work. Not for
    a program with a window or with threads of its own, which a copy of it would lack.
    """
    count = min(os.cpu_count() or 1, len(names) // FEW)
    if count < 2 or "fork" not in multiprocessing.get_all_start_methods():
        yield from (every_fact(build, name) for name in names)
        return
    alike = multiprocessing.get_context("fork")
    with ProcessPoolExecutor(count, mp_context=alike, initializer=_begin, initargs=(build,)) as workers:
        yield from workers.map(_facts, names, chunksize=4)


def _begin(build: CompiledProject) -> None:
    global _build
    _build = build


def _facts(name: str) -> Facts | None:
    assert _build is not None
    return every_fact(_build, name)
