"""The events of a tick: what closes and opens, messages, what touches let go off, what is due on the frames shown."""

from __future__ import annotations

from math import atan2, degrees
from typing import Any

from player import fades
from player.export import Export
from player.fighter import Fighter, Playing, Swinging
from player.figure import Placed, inside, on
from player.reactions import do, number_of
from player.strikes import in_world
from player.turns import about_up, rotate

Json = dict[str, Any]
TOLD = (("strikes", "strike"), ("holds", "hold"), ("shields", "shield"))
"""Spans whose opening and closing is told, in this order."""


def tell(export: Export, f: Fighter) -> list[Json]:
    """What a fighter's tick tells."""
    out: list[Json] = []
    spans: list[tuple[int, str]] = []
    swings: dict[tuple[int, str], tuple[Playing, int]] = {}
    for p in f.acting():
        row = p.part.row
        due = [] if p.told else [n for n, e in enumerate(row["events"]) if e["tick"] == p.frame]
        does = (bool(due) or bool(p.part.strikes)) and fades.acts(f, p)
        p.told = p.told or bool(due)
        for n in due if does else ():
            out.append(_fire(export, f, p, row["events"][n], n))
            event = row["events"][n]
            if event["kind"] == "parameter" and event["name"]:
                f.parameters[event["name"]] = number_of(event["payload"])
        for kind, one in TOLD:
            for n, span in enumerate(row[kind]):
                if span["start"] <= p.frame < span["end"] and (does or kind != "strikes"):
                    mark = p.serial, f"{one} {p.action.name}/{p.part.name}/{n} lap {p.laps}"
                    spans.append(mark)
                    if kind == "strikes" and span["runs"]:
                        swings[mark] = p, n
    begun = [s for s in spans if s not in f.open_spans]
    gone = [s for s in f.open_spans if s not in spans]
    f.open_spans = spans
    for mark in begun:
        if mark in swings:
            _swing(export, f, mark, *swings[mark])
    _close(f, gone)
    came = [_fired(f, words, "message") for words in f.said] + f.came
    f.said, f.came = [], []
    ends = [_fired(f, s, "end") for _, s in gone]
    return ends + [_fired(f, s, "begin") for _, s in begun] + came + out


def _fired(f: Fighter, name: str, kind: str) -> Json:
    said = {"fighter": f.name, "name": name, "kind": kind, "mount": "", "position": f.position}
    return said | {"facing": 0.0, "payload": "", "serial": 0}


def _swing(export: Export, f: Fighter, mark: tuple[int, str], p: Playing, index: int) -> None:
    """A strike that runs something has opened: run it, and wait for whom it touches."""
    strike = p.part.strikes[index]
    met = any((section, n) == (p.section, index) for section, n, _, _ in p.touched)
    f.swinging.append(Swinging(*mark, strike.row, met))
    at = f.position
    boxes = strike.row["boxes"]
    found = _frame(export, f, p, boxes[0]["mount"]) if boxes else None
    if found is not None:
        at = found[1]
    for outcome in strike.row["runs"]:
        if outcome["when"] == "opens":
            do(outcome, f, at)


def _close(f: Fighter, gone: list[tuple[int, str]]) -> None:
    """Strikes have closed: what one runs that has touched nobody."""
    closed = [s for s in f.swinging if (s.serial, s.label) in gone]
    f.swinging = [s for s in f.swinging if s not in closed]
    for swing in closed:
        for outcome in swing.row["runs"] if not swing.met else ():
            if outcome["when"] == "missed":
                do(outcome, f, f.position)


def _frame(export: Export, f: Fighter, p: Playing, mount: str) -> Placed | None:
    """The frame of a mount in the world."""
    at = export.figure.mount(mount, p.part.mirrored(p.frame)) if mount and f.joints else None
    if at is None:
        return None
    return inside(in_world((f.position, f.facing), f.joints[at[0]]), at[1])


def _fire(export: Export, f: Fighter, p: Playing, event: Json, n: int) -> Json:
    """An event as it happens: where, and which way it faces."""
    frame = _frame(export, f, p, event["mount"]) or (about_up(f.facing), f.position)
    x, y, z = p.part.offsets[n]
    looks = rotate(frame[0], (0.0, 0.0, 1.0))
    faces = {"body": f.facing, "mount": degrees(atan2(looks[0], looks[2])), "world": 0.0}
    return {
        "fighter": f.name, "name": event["name"], "kind": event["kind"], "mount": event["mount"],
        "position": on(frame, (-x if p.part.mirrored(p.frame) else x, y, z)), "facing": faces[event["facing"]],
        "payload": event["payload"], "serial": p.serial,
    }  # fmt: skip
