"""Whether the tests bite: changes of meaning, chosen by hand for each rule, of which every one must be noticed.

A rule is held when its change makes a test that is named for it fail. ``mutants`` has the changes with their rules;
each is made in a copy of the source, and the test of its rule is run beside it: all of them (``./run bite``), or so
many drawn by a seed (``./run bite SEED COUNT``).
"""

from __future__ import annotations

import compileall
import os
import random
import re
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from queue import Queue

import msgspec

ROOT = Path(__file__).resolve().parents[1]
LONGEST = 240
"""Seconds after which a change is taken for one that makes the tests go on for ever, which is noticed as well."""


class Mutant(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A change of ``old`` to ``new`` in a file of the package, which breaks a ``rule`` that a ``test`` is named for."""

    rule: str
    file: str
    old: str
    new: str
    test: str


MUTANTS = tuple(
    mutant
    for path in sorted((Path(__file__).parent / "mutants").glob("*.toml"))
    for mutant in msgspec.toml.decode(path.read_bytes(), type=dict[str, list[Mutant]])["mutant"]
)
"""All changes of meaning."""


def changed(source: str, mutant: Mutant) -> str:
    """A module's text with the change. Raises ``ValueError`` where what is to be changed is not there just once."""
    if source.count(mutant.old) != 1:
        raise ValueError(f"{mutant.file}: {source.count(mutant.old)} times: {mutant.old!r}")
    return source.replace(mutant.old, mutant.new)


def noticed(mutant: Mutant, copy: Path) -> str:
    """The test of a rule that fails with the change made in a ``copy`` of the source; nothing when none does."""
    there = copy / "veergust" / mutant.file
    was = there.read_text(encoding="utf-8")
    there.write_text(changed(was, mutant), encoding="utf-8")
    environment = {**os.environ, "PYTHONPATH": os.pathsep.join([str(copy), str(ROOT)]), "PYTHONDONTWRITEBYTECODE": "1"}
    environment["VEERGUST_EXAMPLES_FOR"] = "at once"
    words = [
        sys.executable,
        "-m",
        "pytest",
        *["-x", "-q", "-p", "no:cacheprovider", "--no-header", "--tb=no"],
        mutant.test,
    ]
    try:
        done = subprocess.run(
            words, cwd=ROOT, env=environment, capture_output=True, text=True, timeout=LONGEST, check=False
        )
    except subprocess.TimeoutExpired:
        return "it goes on for ever"
    finally:
        there.write_text(was, encoding="utf-8")
    if done.returncode not in (0, 1):
        raise RuntimeError(f"{mutant.rule}: {mutant.test} did not run:\n{done.stdout[-800:]}{done.stderr[-800:]}")
    failed = re.search(r"^(?:FAILED|ERROR) (\S+)", done.stdout, re.MULTILINE)
    return failed.group(1) if failed else "its tests cannot be read" if done.returncode else ""


def survivors(mutants: Sequence[Mutant], tell: bool = True) -> list[Mutant]:
    """The changes that no test of their rule notices; two at a time, each in a copy of its own."""
    with tempfile.TemporaryDirectory() as folder:
        copies: Queue[Path] = Queue()
        for n in range(2):
            copy = Path(folder) / str(n)
            shutil.copytree(ROOT / "src", copy, ignore=shutil.ignore_patterns("__pycache__"))
            compileall.compile_dir(copy, quiet=1)  # so that each run compiles only what is changed
            copies.put(copy)

        def tried(mutant: Mutant) -> str:
            copy = copies.get()
            try:
                found = noticed(mutant, copy)
            finally:
                copies.put(copy)
            if tell:
                print(f"{'dies ' if found else 'LIVES'}  {mutant.rule}{f'  by {found}' if found else ''}", flush=True)
            return found

        with ThreadPoolExecutor(2) as pool:
            found = list(pool.map(tried, mutants))
    return [m for m, dead in zip(mutants, found) if not dead]


def sample(seed: int, count: int) -> list[Mutant]:
    """Some of the changes, by a seed."""
    return random.Random(seed).sample(MUTANTS, min(count, len(MUTANTS)))


def main(arguments: list[str]) -> int:
    """Run them and say how many lived; 1 if any did."""
    mutants = sample(int(arguments[0]), int(arguments[1])) if len(arguments) == 2 else list(MUTANTS)
    left = survivors(mutants)
    print(f"{len(mutants) - len(left)} of {len(mutants)} changes of meaning are noticed by the test of their rule.")
    for mutant in left:
        print(f"  not: {mutant.rule} ({mutant.file}: {mutant.old!r} → {mutant.new!r})")
    return 1 if left else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
