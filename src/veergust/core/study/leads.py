"""Names that lead nowhere, and what is set up so that it can never happen: of the project, and of each action."""

from __future__ import annotations

from collections.abc import Iterator

from veergust.core.model import Action, Condition, Exit, Section
from veergust.core.play.compiled.project import Book, tagged
from veergust.core.study.finding import Finding

HELD = ("turn", "gravity", "push", "guard", "feet")
"""Settings that something asks for; ``feet`` is for what corrects them in the game."""
ASKS_COMMAND = ("held", "released", "pressed")


def in_project(book: Book) -> Iterator[Finding]:
    """Layers, masks, reactions, pools, locomotion and fighters."""
    yield from _layers(book)
    yield from _reactions(book)
    yield from _pools(book)
    yield from _locomotion(book)
    for fighter in book.project.stage.fighters:
        if fighter.answer and fighter.answer not in book.commands:
            yield Finding("command-unknown", "error", f"stage › {fighter.name}",
                          f"answers with the command {fighter.answer!r}, which the project does not have",
                          "choose a command")  # fmt: skip


def _layers(book: Book) -> Iterator[Finding]:
    masks = {mask.name for mask in book.project.masks}
    for layer in book.project.layers:
        where = f"layer {layer.name}"
        if layer.mask and layer.mask not in masks:
            yield Finding("mask-missing", "error", where, f"names the mask {layer.mask!r}, which is not there",
                          "choose a mask of the project, or none")  # fmt: skip
        for state in layer.scope:
            if state not in book.states:
                yield Finding("state-unknown", "error", where, f"may speak in {state!r}, which is no state",
                              "choose states of locomotion")  # fmt: skip
        if layer.weight <= 0.0 and any(a.layer == layer.name for a in book.project.actions):
            yield Finding("layer-silent", "warning", where, "has weight 0: what plays on it is not seen",
                          "give it a weight")  # fmt: skip
        if layer.mode == "additive" and book.clip(layer.reference) is None:
            yield Finding("reference-missing", "error", where, f"adds to {layer.reference or 'no clip'!r}",
                          "choose the clip whose first pose is its reference")  # fmt: skip


def _reactions(book: Book) -> Iterator[Finding]:
    rows = book.project.reactions
    for i, row in enumerate(rows):
        target = book.actions_by_name.get(row.action)
        where = f"reactions › row {i + 1}"
        if target is None:
            yield Finding("reaction-missing", "error", where, f"plays {row.action!r}, which is no action",
                          "choose an action")  # fmt: skip
        elif row.section and row.section not in {s.name for s in target.sections}:
            says = f"begins at {row.section!r}, no section of {row.action}"
            yield Finding("reaction-missing", "error", where, says, "choose a section of it")  # fmt: skip
    strengths = {row.strength for row in rows}
    if not rows or "any" in strengths:
        return
    for action in book.project.actions:
        for section in action.sections:
            for strike in section.strikes:
                if strike.strength not in strengths:
                    yield Finding("strength-unanswered", "warning", f"{action.name} › {section.name} › {strike.name}",
                                  f"has the strength {strike.strength!r}, which no reaction is for",
                                  "add a row to the reactions, or choose another strength")  # fmt: skip


def _pools(book: Book) -> Iterator[Finding]:
    sections = {s.name for a in book.project.actions for s in a.sections}
    for pool in book.project.pools:
        if not any(item.weight > 0.0 for item in pool.items):
            yield Finding("pool-empty", "warning", f"pool {pool.name}", "has nothing to pick from",
                          "put actions or sections into it")  # fmt: skip
        for item in pool.items:
            if item.name not in book.actions_by_name and item.name not in sections:
                yield Finding("pool-item-missing", "error", f"pool {pool.name}",
                              f"holds {item.name!r}, which is no action and no section", "take it out")  # fmt: skip


def _locomotion(book: Book) -> Iterator[Finding]:
    ground = book.project.ground
    if ground.entry and ground.entry not in book.states:
        yield Finding("state-unknown", "error", "ground", f"begins in {ground.entry!r}, which is no state",
                      "choose one of its states")  # fmt: skip
    for t in ground.transitions:
        where = f"ground › {t.start} → {t.to}"
        for name in (t.start, t.to):
            if name != "*" and name not in book.states:
                yield Finding("state-unknown", "error", where, f"names {name!r}, which is no state",
                              "choose states of locomotion")  # fmt: skip
        yield from _conditions(book, t.conditions, where)


def _conditions(book: Book, conditions: tuple[Condition, ...], where: str) -> Iterator[Finding]:
    for c in conditions:
        if c.test in ASKS_COMMAND and c.name not in book.commands:
            yield Finding("command-unknown", "error", where,
                          f"asks for the command {c.name!r}, which the project does not have",
                          "choose a command")  # fmt: skip


def in_action(book: Book, action: Action) -> Iterator[Finding]:
    """Start states, conditions, settings, hurtboxes, events and flags."""
    rule = action.start
    for state in rule.states:
        if state not in book.states:
            says = f"starts in {state!r}, which is no state"
            yield Finding("state-unknown", "error", f"{action.name} › start", says,
                          "choose states of locomotion")  # fmt: skip
    layer = book.layers.get(action.layer)
    starts = rule.states or tuple(book.states)
    if layer is not None and layer.scope and rule.commands and not set(starts) & set(layer.scope):
        yield Finding("out-of-scope", "warning", f"{action.name} › start",
                      f"starts only where its layer {layer.name} may not speak",
                      "start it in other states, or let the layer speak there")  # fmt: skip
    yield from _conditions(book, rule.conditions, f"{action.name} › start")
    for held in action.holds:
        yield from _setting(held.setting, f"{action.name} › hold")
    for section in action.sections:
        yield from _section(book, action, section)
    for exit_ in action.exits:
        yield from _exit(book, exit_, f"{action.name} › {exit_.kind}")
    yield from _flags(action)


def _section(book: Book, action: Action, section: Section) -> Iterator[Finding]:
    where = f"{action.name} › {section.name}"
    for gate in section.gates:
        yield from _conditions(book, gate.conditions, f"{where} › gate")
    for exit_ in section.exits:
        yield from _exit(book, exit_, f"{where} › {exit_.kind}")
    for hold in section.holds:
        yield from _setting(hold.setting, f"{where} › hold")
    known = {h.name for h in book.project.rig.hurtboxes}
    for shield in section.shields:
        for name in shield.hurtboxes:
            if name not in known:
                yield Finding("hurtbox-unknown", "error", f"{where} › shield",
                              f"covers {name!r}, which is no hurtbox of the figure",
                              "choose one of its hurtboxes")  # fmt: skip
    for event in section.events:
        if event.name and event.kind != "message" and event.name not in book.project.known_events:
            yield Finding("event-unknown", "note", f"{where} › {event.name}",
                          "fires a name that is not on the project's list of events",
                          "choose one of the list, or type it on the span's page to add it")  # fmt: skip


def _exit(book: Book, exit_: Exit, where: str) -> Iterator[Finding]:
    yield from _conditions(book, exit_.conditions, where)
    if exit_.to_kind == "tag" and not book.ask(tagged, exit_.to):
        yield Finding("exit-target-missing", "error", where, f"leads to the tag {exit_.to!r}, which no action has",
                      "choose a tag, or give it to an action")  # fmt: skip
    if exit_.to_kind == "pool" and exit_.to not in book.pools:
        yield Finding("exit-target-missing", "error", where, f"leads to the pool {exit_.to!r}, which is not there",
                      "choose a pool")  # fmt: skip


def _setting(name: str, where: str) -> Iterator[Finding]:
    if name not in HELD:
        yield Finding("setting-unknown", "warning", where, f"holds {name!r}, which nothing asks for",
                      f"choose one of {', '.join(HELD)}")  # fmt: skip


def _flags(action: Action) -> Iterator[Finding]:
    """What a start sets has to be given back by every ending, or it is left behind by the one that forgot."""
    endings = {
        "completed": action.on_completed,
        "cancelled": action.on_cancelled,
        "broken": action.on_broken,
    }
    for flag in action.on_start.parameters:
        kept = [n for n, e in endings.items() if flag.setting not in {p.setting for p in e.parameters}]
        if kept:
            yield Finding("flag-kept", "warning", f"{action.name} › start",
                          f"sets {flag.setting}, and it stays so when it is {' or '.join(kept)}",
                          "set it back on every ending")  # fmt: skip


def led_from(action: Action) -> frozenset[tuple[str, str]]:
    """(kind, name) of what an action's exits lead to."""
    every = (*action.exits, *(e for s in action.sections for e in s.exits))
    return frozenset((e.to_kind, e.to) for e in every)


def never_started(book: Book, led: frozenset[tuple[str, str]]) -> Iterator[Finding]:
    """Actions without a command that no exit (``led``: what all of them lead to), pool or reaction leads to."""
    project = book.project
    there = {name for kind, name in led if kind == "action"}
    there |= {r.action for r in project.reactions} | {item.name for pool in project.pools for item in pool.items}
    tags = {name for kind, name in led if kind == "tag"}
    for action in project.actions:
        if not action.start.commands and action.name not in there and not tags & set(action.tags):
            yield Finding("never-started", "note", action.name, "has no command, and nothing leads to it",
                          "choose what it starts on, or lead an exit, a pool or a reaction to it")  # fmt: skip
