"""What the Khronos validator says of a file; tests that ask it are skipped, and say why, where it is not there."""

from __future__ import annotations

import json
import shutil
import subprocess
from pathlib import Path

import pytest

NODE = shutil.which("node")
VALIDATOR = Path(__file__).resolve().parents[3] / ".venv" / "node" / "node_modules"
asked = pytest.mark.skipif(
    NODE is None or not VALIDATOR.is_dir(),
    reason="node is not installed, or the glTF validator could not be fetched when .venv was set up",
)


def validated(path: Path) -> None:
    """Nothing is wrong with a file, not even a warning."""
    script = Path(__file__).with_name("validate.mjs")
    out = subprocess.run(
        [str(NODE), str(script), str(VALIDATOR), str(path)], capture_output=True, text=True, check=True
    )
    report = json.loads(out.stdout)
    assert (report["numErrors"], report["numWarnings"]) == (0, 0), report["messages"]
