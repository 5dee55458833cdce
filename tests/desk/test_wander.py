"""Random use for a short while; ``./run soak`` goes on for ten minutes."""

from __future__ import annotations

from pathlib import Path

import pytest
from tools.wander import Wanderer

from veergust.core.files.folder import open_project
from veergust.desk.shell.window import Window


@pytest.mark.parametrize("seed", [1, 2])
@pytest.mark.pictured
def test_nothing_that_is_done_at_random_raises_or_harms_the_project(window: Window, folder: Path, seed: int) -> None:
    wanderer = Wanderer(window, folder, seed)
    with wanderer.watching():
        wanderer.go(60)
    assert wanderer.errors == []
    open_project(folder)
