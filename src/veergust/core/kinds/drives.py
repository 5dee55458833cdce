"""The kinds of drives: what moves the body over a span."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from veergust.core.model import Drive


@dataclass(frozen=True)
class DriveKind:
    """A kind of drive: whether root motion or the stick moves the body, times its scale, or it ``flies`` on with the
    speed it had. ``now`` is what the Now card says of it (``{scale}``)."""

    now: str
    root: bool = False
    stick: bool = False
    flies: bool = False

    @property
    def drops(self) -> bool:
        """Whether nothing moves the body, so that without a floor it drops straight."""
        return not (self.root or self.stick or self.flies)

    def says(self, drive: Drive) -> str:
        """A drive of this kind in words."""
        return self.now.format(scale=f"{drive.scale:g}")


DRIVES: dict[str, DriveKind] = {
    "root": DriveKind("by root motion", root=True),
    "stick": DriveKind("now the stick moves it ×{scale}", stick=True),
    "none": DriveKind("nothing moves it now"),
    "ballistic": DriveKind("now it flies on", flies=True),
}
"""By the name that files have for them, in the order the window offers them."""


def drive_kind(drive: Drive) -> DriveKind:
    """What kind a drive is of."""
    return DRIVES[drive.kind]


def drive_at(own: Sequence[Drive], whole: Sequence[Drive], tick: int, ticks: int) -> tuple[Drive, int | None]:
    """The drive on a tick of a section of ``ticks``, and its place among the section's ``own``.

    The last span that holds it, else the ``whole`` action's, else root motion.
    """
    for i in reversed(range(len(own))):
        if own[i].start <= tick < own[i].end:
            return own[i], i
    return (whole[-1] if whole else Drive(start=0, end=ticks)), None
