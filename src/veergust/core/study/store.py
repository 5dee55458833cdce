"""One store for what is worked out of a project: each result is kept with what it was worked out from.

A work is a function of a build and of plain arguments. It is given a build that notes what it reads of the project
and of what is compiled; the result holds for every later build in which all of that is the same thing. Nobody has to
list what a result depends on, and nothing is kept that no longer holds.
"""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass
from threading import RLock
from typing import Any, TypeVar

from veergust.core.model import Clip, Project
from veergust.core.motion import Array, Assets
from veergust.core.play import CompiledAction, CompiledProject, LocomotionClip

T = TypeVar("T")
Read = tuple[Any, ...]
"""What was read, and with what arguments."""

MOST = 4000
GENERATIONS = 4
"""So many results of the same question are kept, those asked for last: as it is, as it was saved, and steps back."""


@dataclass(frozen=True, eq=False)
class _Kept:
    """A result and all that was read for it."""

    value: Any
    reads: dict[Read, Any]


class Store:
    """Results of works, the ones asked for last, within bounds. Whoever asks from another thread waits for the work
    that goes on, and finds it done."""

    def __init__(self, most: int = MOST, generations: int = GENERATIONS) -> None:
        self.most, self.generations = most, generations
        self._kept: OrderedDict[Read, list[_Kept]] = OrderedDict()
        self._lock = RLock()

    def of(self, work: Callable[..., T], build: CompiledProject, *args: Any) -> T:
        """``work(build, *args)``, worked out only when something that it read is another now.

        ``work`` is a function of a module, ``args`` are compared by their value.
        """
        with self._lock:
            return self._of(work, build, *args)

    def _of(self, work: Callable[..., T], build: CompiledProject, *args: Any) -> T:
        key = (work, *args)
        rows = self._kept.setdefault(key, [])
        self._kept.move_to_end(key)
        for i, kept in enumerate(rows):
            if all(self._holds(build, read, value) for read, value in kept.reads.items()):
                if i:
                    rows.insert(0, rows.pop(i))
                return kept.value  # type: ignore[no-any-return]
        noted = Recorder(build, self)
        value = work(noted, *args)
        rows.insert(0, _Kept(value, noted.reads))
        del rows[self.generations :]
        while len(self._kept) > self.most:
            self._kept.popitem(last=False)
        return value

    def _holds(self, build: CompiledProject, read: Read, value: Any) -> bool:
        """Whether what was read once is the same in this build."""
        kind, *args = read
        if kind == "asked":
            return bool(self.of(args[0], build, *args[1:]) == value)
        if kind == "field":
            return getattr(build.project, args[0]) is value
        return (build.assets if kind == "assets" else getattr(build, kind)(*args)) is value


class Recorder(CompiledProject):
    """A build that notes what is read of it. It has nothing of its own: all is that of the build it stands for."""

    def __init__(self, build: CompiledProject, store: Store) -> None:
        self._build, self._store = build, store
        self.reads: dict[Read, Any] = {}
        self._fields: Any = _Fields(build.project, self.reads)

    @property
    def project(self) -> Project:  # type: ignore[override]
        return self._fields  # type: ignore[no-any-return]

    @property
    def assets(self) -> Assets:  # type: ignore[override]
        return self._note(("assets",), self._build.assets)

    @property
    def memo(self) -> dict[Any, Any]:  # type: ignore[override]
        return self._build.memo

    def _note(self, read: Read, value: T) -> T:
        self.reads[read] = value
        return value

    @property
    def level(self) -> CompiledProject:
        out = Recorder(self._build.level, self._store)
        out.reads = self.reads
        out._fields = _Fields(self._build.level.project, self.reads, ("stage",))
        return out

    def ask(self, work: Callable[..., T], *args: Any) -> T:
        """What it gives, noted by its value: what it read for that may change as long as the value does not."""
        return self._note(("asked", work, *args), self._store.of(work, self._build, *args))

    @property
    def guests(self) -> dict[str, CompiledProject]:
        """Guests as they are: what their files hold is a part of the assets."""
        self._note(("assets",), self._build.assets)
        return self._build.guests

    @property
    def host(self) -> CompiledProject:  # type: ignore[override]
        return self

    def renew(self, project: Project) -> CompiledProject:
        raise TypeError("a build that notes what is read stands for one project")

    def action(self, name: str) -> CompiledAction | None:
        return self._note(("action", name), self._build.action(name))

    def clip(self, name: str) -> Clip | None:
        return self._note(("clip", name), self._build.clip(name))

    def mount(self, name: str, mirrored: bool = False) -> tuple[int, Array] | None:
        return self._note(("mount", name, mirrored), self._build.mount(name, mirrored))

    def locomotion_clip(self, name: str) -> LocomotionClip:
        return self._note(("locomotion_clip", name), self._build.locomotion_clip(name))

    def prepare(self) -> None:
        """Nothing: whatever is needed is compiled when it is read."""


class _Fields:
    """The fields of a project, noted as they are read."""

    def __init__(self, project: Project, reads: dict[Read, Any], without: tuple[str, ...] = ()) -> None:
        self._project, self._reads, self._without = project, reads, without

    def __getattr__(self, name: str) -> Any:
        value = getattr(self._project, name)
        if name not in self._without:
            self._reads["field", name] = value
        return value
