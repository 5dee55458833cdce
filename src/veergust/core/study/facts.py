"""The numbers of an action."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from veergust.core.play import CompiledAction, CompiledProject
from veergust.core.study.advantage import advantage
from veergust.core.study.coverage import swing_of
from veergust.core.study.floor_map import floor_map
from veergust.core.study.playout import Playout, play_out
from veergust.core.study.reach import reach_of
from veergust.core.study.throws import ThrowFacts, throws_of

MEASURED = ("on_hit", "on_guard", "reach")


@dataclass(frozen=True)
class Facts:
    """Ticks, metres and damage; None where a number does not apply.

    They are what playing gives that nobody intervenes in, from a standstill (``study.playout``).
    ``total = startup + active + gaps + recovery``; ``travel`` is the body's displacement (m) with +z ahead.
    ``why`` says of each number that is not there why it is not.
    ``on_hit`` and ``on_guard`` are measured on the first active frame, the ``_last`` ones on the last. ``coverage`` is
    the share of what strikes that lies in open hitboxes, over all active frames; ``width`` the angle (degrees) in
    which a standing target is touched, and ``thrown`` what it lets go of, where those were asked for.
    """

    name: str
    startup: int | None
    active: int
    gaps: int
    recovery: int | None
    total: int | None
    on_hit: int | None
    on_guard: int | None
    on_hit_last: int | None
    on_guard_last: int | None
    reach: float | None
    travel: tuple[float, float, float]
    damage: float
    sections: tuple[tuple[str, int, str], ...]
    why: tuple[tuple[str, str], ...] = ()
    coverage: float | None = None
    width: float | None = None
    thrown: tuple[ThrowFacts, ...] = ()

    def why_not(self, name: str) -> str:
        """Why a number is not there; empty when it is."""
        return dict(self.why).get(name, "")


def facts(build: CompiledProject, name: str, last: bool = True, wide: bool = False) -> Facts | None:
    """The facts of an action; None when the project has none of that name.

    Without ``last`` the advantage on the last active frame is left out, which takes as long as the rest; the
    ``width`` and what is ``thrown`` are only measured when asked for.
    """
    compiled = build.action(name)
    if compiled is None:
        return None
    played = play_out(build, compiled)
    ticks = played.open_ticks(compiled)
    total = len(played.frames) if played.ends and played.frames else None
    why = dict(_why(compiled, played, ticks, total))
    numbers = {"on_hit": None, "on_guard": None, "on_hit_last": None, "on_guard_last": None}
    if ticks and total is not None:
        asked = [("on_hit", ticks[0], "hit"), ("on_guard", ticks[0], "guarded")]
        if last:
            asked += [("on_hit_last", ticks[-1], "hit"), ("on_guard_last", ticks[-1], "guarded")]
        for key, tick, result in asked:
            numbers[key], said = advantage(build, compiled, played, tick, result)  # type: ignore[assignment]
            if said:
                why[key] = said
    reach = reach_of(build, compiled, played)
    if reach is None and ticks:
        why["reach"] = "no hitbox of it touches a standing target"
    x, y, z = (float(v) for v in played.place[-1])
    sections = dict.fromkeys(s for s, _ in played.frames)
    shown = set(played.frames)
    strikes = [
        s
        for i in sections
        for s in compiled.sections[i].section.strikes
        if any((i, t) in shown for t in range(s.start, s.end))
    ]
    return Facts(
        name=name,
        startup=ticks[0] if ticks else None,
        active=len(ticks),
        gaps=ticks[-1] - ticks[0] + 1 - len(ticks) if ticks else 0,
        recovery=total - ticks[-1] - 1 if ticks and total is not None else None,
        total=total,
        reach=reach,
        travel=(x, y, z),
        damage=float(sum(s.damage for s in strikes)),
        sections=tuple((s.section.name, s.ticks, s.section.then) for s in compiled.sections),
        why=tuple(sorted(why.items())),
        coverage=_coverage(build, compiled, [played.frames[n] for n in ticks]),
        width=floor_map(build, compiled, played=played).width if wide and reach is not None else None,
        thrown=throws_of(build, compiled) if wide else (),
        **numbers,
    )


def every_fact(build: CompiledProject, name: str) -> Facts | None:
    """The facts of an action with nothing left out."""
    return facts(build, name, wide=True)


def _coverage(build: CompiledProject, compiled: CompiledAction, open_: list[tuple[int, int]]) -> float | None:
    """The mean share of what strikes in open hitboxes over (section, tick)s; None where nothing does."""
    swing = swing_of(build)
    shares = [share for s, t in open_ if (share := swing.share(build, compiled, s, t)) is not None]
    return round(sum(shares) / len(shares), 4) if shares else None


def version_facts(build: CompiledProject, name: str, index: int) -> Facts | None:
    """The facts of a build in which version ``index`` of an action stands in its place: a question of its own."""
    return facts(build, name, False)


def _why(compiled: CompiledAction, played: Playout, ticks: list[int], total: int | None) -> Iterator[tuple[str, str]]:
    """Why a number is not there."""
    if not compiled.sections:
        yield from ((name, "it has no section") for name in ("startup", "recovery", "total", *MEASURED))
    elif total is None:
        yield from ((name, played.why or "it shows nothing") for name in ("recovery", "total", "on_hit", "on_guard"))
    if compiled.sections and not ticks:
        unplayed = any(s.strikes for s in compiled.action.sections)
        says = "no strike opens on its way when nobody intervenes" if unplayed else "it has no strike"
        yield from ((name, says) for name in ("startup", "recovery", *MEASURED))
