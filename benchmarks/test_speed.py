"""How fast the parts that repeat are; run with ``./run bench``. Nothing here passes or fails by a clock."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import msgspec
import numpy as np
import pytest

from veergust.core.edit.spans import SpanRef, set_edges
from veergust.core.files.cast import load_cast
from veergust.core.files.folder import open_project, project_files
from veergust.core.motion import quat
from veergust.core.motion.skeleton import forward
from veergust.core.play.book import Book
from veergust.core.play.bout import Bout
from veergust.core.play.state import Input
from veergust.core.study.facts import facts
from veergust.core.study.now import now

DEMO = Path(__file__).resolve().parents[1] / "demo" / "lantern_quay.veergust"


@pytest.fixture(scope="module")
def book() -> Book:
    project = open_project(DEMO)
    return Book(project, load_cast(project, DEMO)[0])


@pytest.mark.parametrize("frames", [1, 1000])
def test_joints_of_a_batch(benchmark: Any, book: Book, frames: int) -> None:
    bones = book.cast.skeleton
    turn = quat.normalize(np.random.default_rng(1).normal(size=(frames, len(bones), 4)))
    place = np.zeros((frames, len(bones), 3))
    benchmark(forward, bones, turn, place)


@pytest.mark.parametrize("frames", [1, 1000])
def test_one_matrix_product_over_the_same_arrays(benchmark: Any, book: Book, frames: int) -> None:
    """What the joints of a batch are held against."""
    a = np.random.default_rng(1).normal(size=(frames, len(book.cast.skeleton), 4, 4))
    benchmark(np.matmul, a, a)


def test_a_tick_of_two_fighters(benchmark: Any, book: Book) -> None:
    bout = Bout(book)
    count = iter(range(10**9))

    def tick() -> None:
        n = next(count)
        bout.tick([Input("Ossa Renn", "light")] if n % 20 == 0 else [])
        if n % 500 == 499:
            bout.back_to(0)

    benchmark(tick)


def test_facts_of_an_action(benchmark: Any, book: Book) -> None:
    benchmark(facts, book, "Low sweep")


def test_an_edit_with_its_facts_and_now_card(benchmark: Any, book: Book) -> None:
    """What a frame of a drag costs without painting."""
    ref = SpanRef("Low sweep", 1, "strikes", 0)
    starts = iter([1, 2, 3, 4] * 100_000)

    def edit() -> None:
        start = next(starts)
        compiled = book.action("Low sweep")
        assert compiled is not None
        changed = book.renew(set_edges(book.project, compiled, ref, start, start + 4).project)
        again = changed.action("Low sweep")
        assert again is not None
        facts(changed, "Low sweep")
        now(changed, again, 11)

    benchmark(edit)


def test_opening_the_demo(benchmark: Any) -> None:
    benchmark(lambda: load_cast(open_project(DEMO), DEMO))


def test_making_the_files_of_two_hundred_actions(benchmark: Any, book: Book) -> None:
    first = book.project.actions[0]
    many = tuple(msgspec.structs.replace(first, name=f"Action {n}") for n in range(200))
    project = msgspec.structs.replace(book.project, actions=many)
    benchmark(project_files, project)
