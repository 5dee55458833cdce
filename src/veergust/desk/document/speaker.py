"""Hearing sounds, where the machine can; silence without complaint where it cannot."""

from __future__ import annotations

import os
import threading
from collections.abc import Generator
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np

from veergust.desk.running.work import aside

if TYPE_CHECKING:
    from veergust.core.files import Sound

RATE = 44100


def has_sound() -> bool:
    """Whether there is anything to be heard through: a card, or a sound server's socket."""
    run = os.environ.get("XDG_RUNTIME_DIR", "")
    doors = [Path("/dev/snd/timer"), Path(run) / "pulse" / "native", Path(run) / "pipewire-0"]
    return "PULSE_SERVER" in os.environ or any(door.exists() for door in doors[: 3 if run else 1])


class Speaker:
    """Mixes sounds into the machine's own output. The device is opened with the first sound."""

    def __init__(self) -> None:
        self._playing: list[tuple[Any, int]] = []
        self._lock = threading.Lock()
        self._device: Any = None
        self._tried = False

    def warm(self) -> None:
        """Open the device aside, so that the first sound does not wait for it."""
        aside(self._open)

    def play(self, sound: Sound) -> None:
        """Start a sound now."""
        if not self._open():
            return
        at = np.arange(0, len(sound.samples), sound.rate / RATE)
        samples = np.interp(at, np.arange(len(sound.samples)), sound.samples).astype(np.float32)
        with self._lock:
            self._playing = [*self._playing[-15:], (samples, 0)]

    def _open(self) -> bool:
        if self._tried:
            return self._device is not None
        self._tried = True
        if not has_sound():
            return False
        try:
            import miniaudio

            device = miniaudio.PlaybackDevice(
                output_format=miniaudio.SampleFormat.FLOAT32, nchannels=1, sample_rate=RATE, buffersize_msec=40
            )
            mixer = self._mix()
            next(mixer)
            device.start(mixer)
        except Exception:  # noqa: BLE001 – no device, no driver, no library: the machine has no sound
            return False
        self._device = device
        return True

    def _mix(self) -> Generator[Any, int, None]:
        frames = yield b""
        while True:
            frames = yield self.mixed(frames)

    def mixed(self, frames: int) -> Any:
        """The next ``frames`` samples of all that plays."""
        out = np.zeros(frames, np.float32)
        with self._lock:
            still = []
            for samples, at in self._playing:
                part = samples[at : at + frames]
                out[: len(part)] += part
                if at + frames < len(samples):
                    still.append((samples, at + frames))
            self._playing = still
        return np.clip(out, -1.0, 1.0)

    def close(self) -> None:
        """Let the device go."""
        if self._device is not None:
            self._device.close()
            self._device = None
