"""Sounds in: every common width, and a sentence for what is no sound."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.io import wavfile

from veergust.core.files.importing import bring_sounds
from veergust.core.files.wav_read import read_sounds, read_wav
from veergust.core.model import Project
from veergust.core.trouble import Trouble

TONE = np.sin(np.linspace(0, 60, 4410))


@pytest.mark.parametrize("kind", ["uint8", "int16", "int32", "float32"])
@pytest.mark.parametrize("channels", [1, 2])
def test_the_same_sound_of_any_width_is_the_same(tmp_path: Path, kind: str, channels: int) -> None:
    if kind == "uint8":
        data = np.round(TONE * 127 + 128).astype(np.uint8)
    elif kind == "float32":
        data = TONE.astype(np.float32)
    else:
        data = np.round(TONE * np.iinfo(kind).max).astype(kind)
    wavfile.write(tmp_path / "tone.wav", 44100, np.stack([data] * channels, axis=-1) if channels > 1 else data)
    sound = read_wav(tmp_path / "tone.wav")
    assert sound.seconds == pytest.approx(0.1)
    assert np.abs(sound.samples - TONE).max() < 0.015
    peaks = sound.peaks(0.01)
    assert len(peaks) == 10
    assert peaks.max() == pytest.approx(1.0, abs=0.02)


@settings(max_examples=60)
@given(data=st.data())
def test_flipped_and_cut_bytes_raise_nothing_but_trouble(tmp_path: Path, data: st.DataObject) -> None:
    wavfile.write(tmp_path / "tone.wav", 8000, np.round(TONE[:400] * 3000).astype(np.int16))
    raw = bytearray((tmp_path / "tone.wav").read_bytes())
    for _ in range(data.draw(st.integers(0, 5))):
        raw[data.draw(st.integers(0, len(raw) - 1))] = data.draw(st.integers(0, 255))
    path = tmp_path / "bad.wav"
    path.write_bytes(bytes(raw[: data.draw(st.integers(0, len(raw)))]))
    try:
        sound = read_wav(path)
    except Trouble:
        return
    assert np.isfinite(sound.samples).all()


def test_sounds_are_taken_into_the_project_all_or_none(tmp_path: Path) -> None:
    folder = tmp_path / "new.veergust"
    folder.mkdir()
    wavfile.write(tmp_path / "clank.wav", 22050, np.round(TONE * 3000).astype(np.int16))
    (tmp_path / "noise.wav").write_bytes(b"RIFF and nothing more")
    with pytest.raises(Trouble, match=r"noise\.wav: is not a WAV file"):
        bring_sounds(Project(), folder, [tmp_path / "clank.wav", tmp_path / "noise.wav"])
    assert not (folder / "sounds").exists()
    edit = bring_sounds(Project(known_events=("dust",)), folder, [tmp_path / "clank.wav"])
    assert edit.project.known_events == ("dust", "clank")
    (folder / "sounds" / "broken.wav").write_bytes(b"")
    sounds, bad = read_sounds(folder)
    assert list(sounds) == ["clank"]
    assert len(bad) == 1
    assert "broken.wav" in bad[0]
