"""Moving pictures, read back by the library of another program's making."""

from __future__ import annotations

import io
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from tools.made import DEMO

from veergust.cli.main import main
from veergust.render.moving import moving, times


def colours(count: int) -> list[np.ndarray]:
    """Frames of one colour each, far apart."""
    return [np.full((24, 32, 3), (n * 40 % 256, 255 - n * 40 % 256, 90), np.uint8) for n in range(count)]


@pytest.mark.parametrize("ending", [".webp", ".gif", ".apng", ".png"])
def test_every_frame_is_there_in_turn_for_as_long_as_it_is_played(ending: str) -> None:
    shown = times(range(10, 16), 60)
    read = Image.open(io.BytesIO(moving(colours(6), shown, ending)))
    assert read.n_frames == 6  # type: ignore[attr-defined]
    seconds = 0.0
    for n in range(6):
        read.seek(n)
        read.load()
        seconds += read.info["duration"] / 1000
        red = np.asarray(read.convert("RGB"))[12, 16, 0]
        assert abs(int(red) - n * 40) < 14
    assert seconds == pytest.approx(6 / 60, abs=0.021 if ending == ".gif" else 0.004)
    assert read.info.get("loop") == 0


def test_ticks_apart_are_shown_longer_and_all_of_them_as_long_as_played() -> None:
    assert times((0, 3, 6), 60) == [50, 50, 50]
    assert sum(times(range(60), 60)) == 1000
    assert times((5,), 60) == [17]
    assert times((0, 1), 1000) == [10, 10]


def test_an_action_as_a_moving_picture(tmp_path: Path) -> None:
    for name, more in (("a.webp", []), ("a.png", ["--moving"])):
        out = tmp_path / name
        words = ["render", str(DEMO), "--action", "Low sweep", "--ticks", "0:12:3", "-o", str(out), "--size", "120x90"]
        with pytest.raises(SystemExit) as end:
            main([*words, *more])
        assert end.value.code == 0
        read = Image.open(out)
        assert (read.size, read.n_frames) == ((120, 90), 4)  # type: ignore[attr-defined]
        frames = []
        for n in range(4):
            read.seek(n)
            frames.append(np.asarray(read.convert("RGB")).astype(int))
        assert all(np.abs(a - b).max() > 30 for a, b in zip(frames, frames[1:])), "it moves"


def test_moving_needs_ticks(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    with pytest.raises(SystemExit) as end:
        main(["render", str(DEMO), "--action", "Thrust", "--moving", "-o", str(tmp_path / "a.png")])
    assert end.value.code == 2
    assert "--moving needs --ticks" in capsys.readouterr().err


def test_spans_are_for_a_moving_picture_of_an_action(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    out = tmp_path / "a.webp"
    words = ["render", str(DEMO), "--ticks", "4:8:2", "-o", str(out), "--size", "240x120", "--spans"]
    for more, code in ((["--action", "Low sweep"], 0), (["--clip", "idle"], 2)):
        with pytest.raises(SystemExit) as end:
            main([*words, *more])
        assert end.value.code == code
    assert "--spans is for a moving picture of an action" in capsys.readouterr().err
    wide, high = Image.open(out).size
    assert wide == 240
    assert high > 160
