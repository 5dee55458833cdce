"""Commands run in this process, with what they say."""

from __future__ import annotations

import json
from typing import Any

import pytest

from veergust.cli.main import main


class Ran:
    def __init__(self, code: int, out: str, err: str) -> None:
        self.code, self.out, self.err = code, out, err

    @property
    def json(self) -> Any:
        return json.loads(self.out)


@pytest.fixture
def run(capsys: pytest.CaptureFixture[str]) -> Any:
    def go(*words: object) -> Ran:
        with pytest.raises(SystemExit) as stop:
            main([str(w) for w in words])
        captured = capsys.readouterr()
        return Ran(int(stop.value.code or 0), captured.out, captured.err)

    return go
