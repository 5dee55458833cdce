"""The sounds of Lantern Quay, made of nothing but filtered noise: two swings of a staff and a breath."""

from __future__ import annotations

from io import BytesIO
from pathlib import Path

import numpy as np
from scipy.io import wavfile
from scipy.signal import butter, sosfilt

RATE = 22050


def whoosh(seconds: float, low: float, high: float, peak: float, seed: int) -> np.ndarray:
    """Noise between two pitches (Hz) that swells to ``peak`` (share of its length) and dies away."""
    t = np.arange(round(seconds * RATE)) / RATE / seconds
    noise = np.random.default_rng(seed).normal(size=len(t))
    band = sosfilt(butter(2, [low, high], "bandpass", fs=RATE, output="sos"), noise)
    swell = np.where(t < peak, (t / peak) ** 2, ((1 - t) / (1 - peak)) ** 3)
    out = band * swell
    return np.asarray(out / np.abs(out).max() * 0.8)


SOUNDS = {
    "whoosh_low": whoosh(0.34, 180, 900, 0.45, 1),
    "whoosh_thin": whoosh(0.22, 700, 3200, 0.35, 2),
    "breath": whoosh(0.5, 500, 1800, 0.3, 3) * 0.5,
}


def make(folder: Path) -> None:
    folder.mkdir(exist_ok=True)
    for name, samples in SOUNDS.items():
        out = BytesIO()
        wavfile.write(out, RATE, np.round(samples * 127 + 128).astype(np.uint8))
        (folder / f"{name}.wav").write_bytes(out.getvalue())
