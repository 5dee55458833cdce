"""The changes of meaning that tests must notice: all of them can be made, and a few drawn by the commit are."""

from __future__ import annotations

import re
import subprocess
from pathlib import Path

from tools.bite import MUTANTS, ROOT, changed, sample, survivors

DRAWN = 1


def test_every_change_can_be_made_and_names_a_test_that_is_there() -> None:
    assert len(MUTANTS) >= 100
    assert len({m.rule for m in MUTANTS}) == len(MUTANTS)
    for mutant in MUTANTS:
        source = (ROOT / "src" / "veergust" / mutant.file).read_text(encoding="utf-8")
        assert changed(source, mutant) != source
        file, _, name = mutant.test.partition("::")
        assert re.search(rf"def {name}\b", Path(ROOT / file).read_text(encoding="utf-8"))


def test_some_of_them_are_noticed() -> None:
    """Which ones goes by the commit, so that all come up in time; ``./run bite`` makes every one."""
    told = subprocess.run(["git", "rev-parse", "HEAD"], cwd=ROOT, capture_output=True, text=True, check=False)
    seed = int(told.stdout.strip() or "0", 16)
    assert [m.rule for m in survivors(sample(seed, DRAWN), tell=False)] == []
