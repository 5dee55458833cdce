"""Sounds in: WAV files of any common width, as one channel."""

from __future__ import annotations

import io
import warnings
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from veergust.core.files.beneath import Beneath
from veergust.core.files.fetch import fetch
from veergust.core.trouble import Trouble

LONGEST = 60.0

MOST_OF_SOUNDS = 1 << 30
"""The sounds of a project are no longer together (bytes)."""


@dataclass(frozen=True, eq=False, repr=False)
class Sound:
    """Samples ``[N]`` in −1…1 at ``rate`` a second."""

    rate: int
    samples: NDArray[np.float32]

    @property
    def seconds(self) -> float:
        """How long it lasts."""
        return len(self.samples) / self.rate

    def count(self, step: float) -> int:
        """How many stretches of ``step`` seconds it has, the last perhaps shorter."""
        return -(-len(self.samples) // max(1, round(step * self.rate)))

    def peaks(self, step: float) -> NDArray[np.float32]:
        """The loudest sample in each ``step`` seconds."""
        many = max(1, round(step * self.rate))
        padded = np.zeros(self.count(step) * many, np.float32)
        padded[: len(self.samples)] = np.abs(self.samples)
        return np.asarray(padded.reshape(-1, many).max(axis=1))


def read_wav(path: Path, *, within: Path | None = None) -> Sound:
    """Read a WAV file, its channels mixed; it must lie beneath ``within`` if that is given.

    Raises ``Trouble`` naming the file for anything that cannot be used.
    """
    from scipy.io import wavfile

    content = fetch(path, within)
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore", wavfile.WavFileWarning)  # chunks it does not know
            rate, data = wavfile.read(io.BytesIO(content))
    except Exception as error:  # the library raises whatever a damaged file leads it to
        raise Trouble("is not a WAV file that can be read", file=path.name, do="save it again as PCM WAV") from error
    if rate <= 0 or data.size == 0:
        raise Trouble("holds no sound", file=path.name, do="save it again as PCM WAV")
    if len(data) > LONGEST * rate:
        raise Trouble(f"lasts longer than {LONGEST:g} s", file=path.name, do="cut it shorter")
    values = data.astype(np.float32)
    if data.dtype == np.uint8:
        values = (values - 128.0) / 128.0
    elif np.issubdtype(data.dtype, np.integer):
        values /= float(np.iinfo(data.dtype).max)
    if values.ndim == 2:
        values = values.mean(axis=1)
    if not np.isfinite(values).all():
        raise Trouble("holds samples that are no numbers", file=path.name, do="save it again as PCM WAV")
    return Sound(int(rate), np.clip(values, -1.0, 1.0))


def read_sounds(folder: Path) -> tuple[dict[str, Sound], list[str]]:
    """The sounds in a project's ``sounds`` folder by name, and a sentence for each that cannot be read."""
    out: dict[str, Sound] = {}
    bad: list[str] = []
    try:
        with Beneath(folder) as place:
            names = place.listed("sounds", ".wav")
            place.check_sizes(names, MOST_OF_SOUNDS, each=True)
    except Trouble as trouble:
        return out, [str(trouble)]
    for name in names:
        path = folder / name
        try:
            out[path.stem] = read_wav(path, within=folder)
        except Trouble as trouble:
            bad.append(str(trouble))
    return out, bad
