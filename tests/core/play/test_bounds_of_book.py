"""What a book keeps compiled stays within bounds, however long somebody drags."""

from __future__ import annotations

from tests.core.edits import replace, with_section
from veergust.core.model import Project
from veergust.core.motion.figure import Cast
from veergust.core.play.compiled.project import SPARE, Book


def test_a_long_drag_keeps_no_more_than_a_project_and_some(quay: Project, cast: Cast) -> None:
    book = Book(quay, cast)
    book.prepare()
    part = quay.actions[0].sections[1]
    many = sum(len(a.sections) for a in quay.actions)
    for n in range(3 * SPARE + 2 * many):
        cut = replace(part.cuts[0], rate=1.0 + n / 1000)
        book = book.renew(with_section(book.project, quay.actions[0].name, 1, cuts=(cut,)))
        assert book.action(quay.actions[0].name) is not None
    assert len(book._sections) <= SPARE + 2 * many
    assert len(cast.tracks) < 200
