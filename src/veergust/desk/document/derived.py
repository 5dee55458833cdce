"""What is asked of the open project, answered from its store: facts, findings, proposals, readings."""

from __future__ import annotations

from collections.abc import Iterator
from functools import cached_property
from typing import TYPE_CHECKING, Protocol

from msgspec.structs import replace

from veergust import core

if TYPE_CHECKING:
    from veergust.core.kinds import Finding
    from veergust.core.model import Project
    from veergust.core.motion import Pose
    from veergust.core.play import CompiledAction, CompiledProject
    from veergust.core.study import Facts, FloorMap, Hint, MapTarget, Reading, Store

MOST_READINGS = 24
"""So many clips, and the takes they are cut from, are kept read."""


class Studied(Protocol):
    """A document, as what is worked out of it sees it."""

    @property
    def project(self) -> Project:
        """Its project."""

    @property
    def build(self) -> CompiledProject:
        """As it plays."""

    @property
    def saved_build(self) -> CompiledProject:
        """As it was last saved."""

    @property
    def action(self) -> str:
        """The action that is open."""

    @property
    def compiled(self) -> CompiledAction | None:
        """That action as it plays."""


class Derived:
    """What is known of a document's project as it is now."""

    def __init__(self, document: Studied) -> None:
        self.document = document
        self._versions: dict[tuple[str, int], CompiledProject] = {}

    @cached_property
    def store(self) -> Store:
        """Where what is known is kept."""
        return core.study.Store()

    @cached_property
    def takes(self) -> Store:
        """Where clips are kept that were read, and the takes they are cut from."""
        return core.study.Store(MOST_READINGS, 2)

    def reading(self, name: str) -> Reading | None:
        """A clip read over its whole source."""
        return self.takes.of(core.study.reading_of, self.document.build, name)

    def uncleaned(self, name: str) -> Reading | None:
        """A clip as it is without its cleaning; None when it has none."""
        return self.takes.of(core.study.uncleaned, self.document.build, name)

    def idle_pose(self) -> Pose | None:
        """The pose actions come from."""
        return self.store.of(core.study.idle_pose, self.document.build)

    def facts(self, name: str) -> Facts | None:
        """The facts of an action as it is now, without the advantage on the last frame."""
        return self.store.of(core.study.facts, self.document.build, name, False)

    def kept_facts(self, name: str) -> Facts | None:
        """The facts of an action as it was last saved."""
        return self.store.of(core.study.facts, self.document.saved_build, name, False)

    def floor_map(self, name: str, target: MapTarget) -> FloorMap | None:
        """Where an action touches a target; None for one that is not there."""
        return self.store.of(core.study.map_of, self.document.build, name, target)

    def version_map(self, index: int, target: MapTarget) -> FloorMap | None:
        """As ``floor_map``, of a kept version of the open action."""
        found = self.version(index)
        if found is None:
            return None
        version = self._versions[self.document.action, index]
        return self.store.of(core.study.map_of, version, self.document.action, target)

    def hints(self) -> list[Hint]:
        """What the numbers of the open action propose."""
        return self.store.of(core.study.hints, self.document.build, self.document.action)

    def version(self, index: int) -> tuple[CompiledAction, Facts] | None:
        """A kept version of the open action, compiled, with its facts; None when there is none."""
        document, name = self.document, self.document.action
        compiled = document.compiled
        if compiled is None or not 0 <= index < len(compiled.action.kept):
            return None
        kept = compiled.action.kept[index].action
        kept = kept if kept.name == name else replace(kept, name=name)
        actions = tuple(kept if a.name == name else a for a in document.project.actions)
        # Renewed from the one before, so that what did not change is compiled once.
        before = self._versions.get((name, index), document.build)
        base = before if before.assets is document.build.assets else document.build
        build = self._versions[name, index] = base.renew(replace(document.project, actions=actions))
        made, numbers = build.action(name), self.store.of(core.study.version_facts, build, name, index)
        assert made is not None
        assert numbers is not None
        return made, numbers

    def findings(self) -> list[Finding]:
        """What the checks find."""
        return core.study.findings(self.document.build, self.store)

    def finding_steps(self) -> Iterator[float | list[Finding]]:
        """The same in steps: how far it is (0…1), and in the end what they found."""
        return core.study.finding_steps(self.document.build, self.store)

    def users(self) -> dict[str, list[str]]:
        """What uses each clip."""
        return self.store.of(core.study.users_of, self.document.build)
