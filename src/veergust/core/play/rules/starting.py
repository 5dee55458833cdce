"""How an action starts, whatever asked for it."""

from __future__ import annotations

from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.rules.pairs import Way, give_way
from veergust.core.play.state import EndKind, FighterState, Voice, run_ending


def start(
    build: CompiledProject,
    fighter: FighterState,
    name: str,
    tick: int,
    *,
    section: str = "",
    blend: int | None = None,
    way: Way = "exit",
    ends: EndKind = "cancelled",
) -> Voice | None:
    """Start an action on its first tick; what gives way to it ends as ``ends`` says."""
    compiled = build.action(name)
    if compiled is None or not compiled.sections:
        return None
    action = compiled.action
    give_way(build, fighter, action, way, ends)
    fighter.starts += 1
    fighter.voices = tuple(
        v.but(covered=fighter.starts) if v.ended and not v.faded and v.layer == action.layer else v
        for v in fighter.voices
    )
    entry = compiled.index.get(section, compiled.entry)
    voice = Voice(compiled, entry, blend=action.blend_in if blend is None else blend, serial=fighter.starts)
    fighter.voices = _in_layer_order(build, (*fighter.voices, voice))
    fighter.memory = tuple(row for row in fighter.memory if row[0] != action.layer)
    fighter.cooldowns = tuple(sorted((dict(fighter.cooldowns) | {name: tick + action.start.cooldown}).items()))
    run_ending(fighter, action.on_start)
    return voice


def _in_layer_order(build: CompiledProject, voices: tuple[Voice, ...]) -> tuple[Voice, ...]:
    places = {name: layer.place for name, layer in build.layers.items()}
    return tuple(sorted(voices, key=lambda v: places.get(v.layer, -1)))
