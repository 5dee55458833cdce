"""The record of a run: one value a tick, and the line it makes in a take file."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import msgspec
import numpy as np

from veergust.core.motion import Array
from veergust.core.play.contact.contact import Contact
from veergust.core.play.fired import Fired
from veergust.core.play.pose.posing import body_matrix
from veergust.core.play.state import FighterState
from veergust.core.play.world import EMPTY, World
from veergust.core.trouble import named


@dataclass(frozen=True, eq=False)
class Record:
    """One tick: every fighter as it stands at its end, what fired and what touched."""

    tick: int
    fighters: tuple[FighterState, ...]
    events: tuple[Fired, ...]
    contacts: tuple[Contact, ...]
    world: World = EMPTY

    def fighter(self, name: str) -> FighterState:
        """A fighter by name."""
        return named(self.fighters, name, "fighter")

    def slim(self) -> Record:
        """The record to keep for long, without poses, which can be worked out again."""
        return replace(self, fighters=tuple(f.slim() for f in self.fighters))

    def line(self, joints: dict[str, int] | None = None) -> dict[str, Any]:
        """The tick as its line of a take file; numbers rounded to a micrometre.

        ``joints`` (name → its index) are told with each fighter, where they are in the world.
        """
        return {
            "tick": self.tick,
            "fighters": [_fighter(f, joints or {}) for f in self.fighters],
            "events": [
                {
                    "fighter": e.fighter,
                    "name": e.name,
                    "kind": e.kind,
                    "mount": e.mount,
                    "position": rounded(e.position),
                    "facing": round(float(e.facing), 6) + 0.0,
                    "payload": e.payload,
                }
                for e in self.events
            ],
            "contacts": [
                {
                    "strike": c.strike.name,
                    "attacker": c.attacker,
                    "victim": c.victim,
                    "hurtbox": c.hurtbox,
                    "region": c.region,
                    "result": c.result,
                    "position": rounded(c.position),
                    "damage": round(float(c.damage), 6),
                }
                for c in self.contacts
            ],
            "things": [
                {"name": f.thing.name, "number": f.number, "owner": f.owner, "position": rounded(np.array(f.position))}
                for f in self.world.things
            ],
        }


def rounded(values: Array) -> list[float]:
    """Numbers rounded to six places, without negative zeros."""
    return [round(float(v), 6) + 0.0 for v in np.asarray(values)]


def _fighter(f: FighterState, joints: dict[str, int]) -> dict[str, Any]:
    out: dict[str, Any] = {
        "name": f.name,
        "ground": f.locomotion[-1].state,
        "actions": [
            {
                "layer": v.layer,
                "action": v.compiled.action.name,
                "section": v.part.section.name,
                "frame": v.frame,
            }
            for v in f.live()
        ],
        "position": rounded(f.position),
        "facing": round(float(f.facing), 6) + 0.0,
        "grounded": bool(f.grounded),
        "health": round(float(f.health), 6),
        "holds": sorted(f.holding()),
        "frozen": f.frozen,
        "stun": f.stun,
        "poise": round(float(f.poise), 6),
        "stick": rounded(np.array(f.stick)),
        "blocked": f.blocked,
        "layers": [
            {"name": v.layer, "action": v.compiled.action.name, "weight": round(weight, 6)}
            for v, weight in zip(f.voices, f.shown)
        ],
    }
    if joints:
        world = body_matrix(f.position, f.facing) @ f.joints_now[list(joints.values())]
        out["joints"] = {name: rounded(place[:3, 3]) for name, place in zip(joints, world)}
    return out


def write_take(records: list[Record], joints: dict[str, int] | None = None) -> bytes:
    """A take file: one JSON object a line."""
    return b"".join(msgspec.json.encode(r.line(joints)) + b"\n" for r in records)
