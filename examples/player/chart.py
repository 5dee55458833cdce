"""Locomotion as a state chart: which transitions are asked, in which order, and which state a target stands for."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

Json = dict[str, Any]
ANYWHERE = "*"


class Chart:
    """The states and groups of ``ground.json``."""

    def __init__(self, ground: Json) -> None:
        self.states: dict[str, Json] = {s["name"]: s for s in ground["states"]}
        self.groups: dict[str, Json] = {g["name"]: g for g in ground["groups"] if g["name"] not in self.states}
        items = {**self.groups, **self.states}
        self.around = {name: self._around(name, items) for name in items}
        """By state or group, the groups around it, the innermost first."""
        self.members: dict[str, list[str]] = {name: [] for name in self.groups}
        for name, item in (*self.states.items(), *self.groups.items()):
            if item["group"] in self.members:
                self.members[item["group"]].append(name)
        self.transitions: list[Json] = ground["transitions"]
        self.asked = {name: self._asked(name) for name in self.states}
        self.entry = self.enter(ground["entry"], {}, None, None) or next(iter(self.states), "")

    def _around(self, name: str, items: dict[str, Json]) -> list[str]:
        out: list[str] = []
        at = items[name]["group"]
        while at in self.groups and at not in out and at != name:
            out.append(at)
            at = self.groups[at]["group"]
        return out

    def within(self, name: str, group: str) -> bool:
        """Whether a state or group is another, or stands in it."""
        return group in (name, ANYWHERE) or group in self.around.get(name, ())

    def _asked(self, state: str) -> list[tuple[int, Json]]:
        """Of a state the transitions that may be taken, the innermost first."""
        out = []
        for start in (state, *self.around[state], ANYWHERE):
            for n, t in enumerate(self.transitions):
                if t["start"] == start and t["to"] in self.around and not self._there_already(state, t):
                    out.append((n, t))
        return out

    def _there_already(self, state: str, t: Json) -> bool:
        """One from around a state that leads to where one is; what starts at its own target restarts it."""
        return self.within(state, t["to"]) and t["start"] != t["to"] and not self.within(t["start"], t["to"])

    def enter(
        self,
        target: str,
        left: dict[str, str],
        value: Callable[[str], float] | None,
        draw: Callable[[Json], str | None] | None,
    ) -> str | None:
        """The state that is entered for a target, by what each group was left at, parameters, and draws."""
        for _ in range(len(self.groups) + 1):
            if target in self.states:
                return target
            if target not in self.groups:
                return None
            target = self._into(self.groups[target], left, value, draw)
        return None

    def _into(
        self,
        group: Json,
        left: dict[str, str],
        value: Callable[[str], float] | None,
        draw: Callable[[Json], str | None] | None,
    ) -> str:
        there = self.members[group["name"]]
        usual = group["default"] if group["default"] in there else next(iter(there), "")
        if group["enters"] == "last":
            was = left.get(group["name"], "")
            return was if was in self.states and self.within(was, group["name"]) else usual
        if group["enters"] == "parameter" and value is not None:
            now = value(group["parameter"])
            return next((c["state"] for c in group["choices"] if c["state"] in there and c["value"] == now), usual)
        if group["enters"] == "pool" and draw is not None:
            drawn = draw(group)
            return drawn if drawn is not None and drawn in there else usual
        return str(usual)
