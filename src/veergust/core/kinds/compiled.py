"""What kinds ask of a project and of an action as they are compiled."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import Any, Protocol, TypeVar

from veergust.core.model import Action, Command, Mount, Pool, Project, Section

T = TypeVar("T")


class Joints(Protocol):
    """The joints of a figure, by name."""

    @property
    def index(self) -> Mapping[str, int]:
        """Name → place."""

    def __len__(self) -> int: ...


class Figure(Protocol):
    """What stands under a project."""

    @property
    def skeleton(self) -> Joints:
        """Its joints; none where there is no figure yet."""


class CompiledPart(Protocol):
    """A section of an action on its ticks."""

    @property
    def section(self) -> Section:
        """The section."""

    @property
    def ticks(self) -> int:
        """How long it is."""


class Compiled(Protocol):
    """An action as it plays."""

    @property
    def action(self) -> Action:
        """The action."""

    @property
    def sections(self) -> Sequence[CompiledPart]:
        """Its sections in the order they stand in."""

    @property
    def index(self) -> Mapping[str, int]:
        """Section name → place in ``sections``."""

    def ways(self, to: str) -> Sequence[int]:
        """The sections that a name leads to: one of them, or those of a pool."""


class Build(Protocol):
    """A project as it plays."""

    @property
    def project(self) -> Project:
        """The project."""

    @property
    def assets(self) -> Figure:
        """Its figure."""

    @property
    def commands(self) -> Mapping[str, Command]:
        """By name."""

    @property
    def mounts(self) -> Mapping[str, Mount]:
        """By name."""

    @property
    def pools(self) -> Mapping[str, Pool]:
        """By name."""

    @property
    def actions_by_name(self) -> Mapping[str, Action]:
        """By name."""

    def action(self, name: str) -> Compiled | None:
        """An action as it plays."""

    def ask(self, work: Callable[..., T], *args: Any) -> T:
        """``work(build, *args)``, worked out once."""

    def tagged(self, tag: str) -> Sequence[str]:
        """The actions with a tag."""

    def root_share(self, layer: str) -> float:
        """How much of the body's way actions on a layer have."""
