"""The sounds beside a project, by the names of the events that they are heard with."""

from __future__ import annotations

from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING

from veergust import core

if TYPE_CHECKING:
    from veergust.core.files import Sound
    from veergust.desk.document.speaker import Speaker


class Sounds:
    """Sounds that were read, and what they are heard through."""

    def __init__(self) -> None:
        self.named: dict[str, Sound] = {}

    @cached_property
    def speaker(self) -> Speaker:
        """What they are heard through; made with the first of them."""
        from veergust.desk.document.speaker import Speaker

        return Speaker()

    def read(self, folder: Path | None) -> list[str]:
        """Read those of a project folder; gives a sentence for each file that cannot be read."""
        self.named, bad = core.files.read_sounds(folder) if folder else ({}, [])
        if self.named:
            self.speaker.warm()
        return bad

    def hear(self, names: list[str]) -> None:
        """Play the sounds of these names; those that there is no file for are silent."""
        for name in names:
            if name in self.named:
                self.speaker.play(self.named[name])
