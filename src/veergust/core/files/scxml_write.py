"""Locomotion as State Chart XML, the open standard (W3C, *SCXML*, 2015), for whoever runs it with other tools.

States, groups (compound states), deep history and transitions are the standard's own. Every tick is an event ``tick``
whose data holds what the conditions ask for, by the names in ``asked_of``. What the standard has no word for
(crossfades, where a clip begins) stands in attributes of a namespace of our own, which others pass over.
"""

from __future__ import annotations

import re
import xml.etree.ElementTree as ET

from veergust.core.kinds import CONDITIONS, sentence
from veergust.core.model import ANYWHERE, Condition, Group, Locomotion, Transition
from veergust.core.play import Chart

SCXML = "http://www.w3.org/2005/07/scxml"
OURS = "urn:veergust:locomotion:1"
TICK = "tick"
AROUND = "anywhere"


def data_name(condition: Condition, place: str) -> str:
    """The name under which a condition's value stands in the data of a tick; ``place`` is where it stands."""
    kind = CONDITIONS[condition.test]
    words = [condition.test, condition.name] if kind.of else [condition.test]
    return " ".join([*words, place] if kind.placed else words)


def place_of(transition: int, condition: int) -> str:
    """Where a condition stands, as play names it."""
    return f"transition {transition}/{condition}"


def asked_of(locomotion: Locomotion) -> dict[str, tuple[Condition, str]]:
    """What the data of a tick must hold: name → a condition that asks for it, and its place."""
    out: dict[str, tuple[Condition, str]] = {}
    for i, t in enumerate(locomotion.transitions):
        for j, c in enumerate(t.conditions):
            out.setdefault(data_name(c, place_of(i, j)), (c, place_of(i, j)))
    for g in locomotion.groups:
        if g.enters == "parameter":
            c = Condition(test="parameter", name=g.parameter)
            out.setdefault(data_name(c, ""), (c, ""))
    return out


def pick_name(group: str) -> str:
    """The name under which the pick from a group's pool stands in the data of a tick: a place among its choices."""
    return f"pick {group}"


def to_scxml(locomotion: Locomotion, name: str = "") -> bytes:
    """The chart of locomotion as a document of the standard."""
    return _Writer(locomotion).document(name)


def ids_of(locomotion: Locomotion) -> dict[str, str]:
    """State or group → its id in the document."""
    return dict(_Writer(locomotion).ids)


class _Writer:
    def __init__(self, locomotion: Locomotion) -> None:
        self.locomotion = locomotion
        self.chart = Chart(locomotion)
        self.ids: dict[str, str] = {}
        taken = {AROUND}
        for item in self.chart.around:
            self.ids[item] = _free(_ncname(item), taken)
        self.taken = taken
        self.last = {g: _free(f"{self.ids[g]}.last", taken) for g in self.chart.groups}
        self.choose = {g: _free(f"{self.ids[g]}.choose", taken) for g in self.chart.groups}

    def document(self, name: str) -> bytes:
        ET.register_namespace("", SCXML)
        ET.register_namespace("vg", OURS)
        root = ET.Element(_tag("scxml"), {"version": "1.0", "datamodel": "ecmascript"})
        if name:
            root.set("name", _ncname(name))
        entry = self.locomotion.entry if self.chart.known(self.locomotion.entry) else self.chart.entry
        if entry is not None:
            root.set("initial", self._target(entry))
            around = ET.SubElement(root, _tag("state"), {"id": AROUND, _own("anywhere"): "1"})
            self._transitions(around, ANYWHERE)
            for item in self.chart.members[""]:
                self._item(around, item)
        ET.indent(root)
        text = ET.tostring(root, encoding="unicode")
        return f'<?xml version="1.0" encoding="UTF-8"?>\n{text}\n'.encode()

    def _item(self, under: ET.Element, name: str) -> None:
        at = ET.SubElement(under, _tag("state"), {"id": self.ids[name]})
        if self.ids[name] != name:
            at.set(_own("name"), name)
        group = self.chart.groups.get(name)
        if group is None:
            state = self.chart.states[name]
            if state.band != "floor":
                at.set(_own("band"), state.band)
            self._transitions(at, name)
            return
        there = self.chart.members[name]
        default = group.default if group.default in there else next(iter(there), "")
        if default:
            # How it is entered is told by its first child, which leads on at once.
            ways = {"last": self.last[name], "parameter": self.choose[name], "pool": self.choose[name]}
            at.set("initial", ways.get(group.enters) or self._target(default))
        if group.enters != "default":
            at.set(_own("enters"), group.enters)
        if group.default:
            at.set(_own("default"), group.default)
        if group.apart != 1:
            at.set(_own("apart"), str(group.apart))
        self._transitions(at, name)
        if group.enters == "last" and default:
            history = ET.SubElement(at, _tag("history"), {"id": self.last[name], "type": "deep"})
            ET.SubElement(history, _tag("transition"), {"target": self._target(default)})
        if group.enters in ("parameter", "pool"):
            self._chooser(at, group, there, default)
        for item in there:
            self._item(at, item)

    def _chooser(self, at: ET.Element, group: Group, there: list[str], default: str) -> None:
        choose = ET.SubElement(at, _tag("state"), {"id": self.choose[group.name], _own("choose"): group.enters})
        if group.parameter:
            choose.set(_own("parameter"), group.parameter)
        for i, choice in enumerate(group.choices):
            if group.enters == "parameter":
                asks = Condition(test="parameter", name=group.parameter, value=choice.value)
                when = f'_event.data["{_quoted(data_name(asks, ""))}"] == {_number(choice.value)}'
            else:
                when = f'_event.data["{_quoted(pick_name(group.name))}"] == {i}'
            if choice.state in there:
                leads = {"cond": when, "target": self._target(choice.state)}
                leads |= {_own("weight"): _number(choice.weight)} if choice.weight != 1.0 else {}
                leads |= {_own("value"): _number(choice.value)} if choice.value else {}
                ET.SubElement(choose, _tag("transition"), leads)
        if default:
            ET.SubElement(choose, _tag("transition"), {"target": self._target(default), _own("default"): "1"})

    def _target(self, name: str) -> str:
        """The id that leads into a state or group."""
        return self.ids[name]

    def _transitions(self, at: ET.Element, start: str) -> None:
        for i, t in enumerate(self.locomotion.transitions):
            if t.start == start and self.chart.known(t.to):
                self._transition(at, i, t)

    def _transition(self, at: ET.Element, place: int, t: Transition) -> None:
        terms = [
            f'_event.data["{_quoted(data_name(c, place_of(place, j)))}"] {c.op} {_number(c.value)}'
            for j, c in enumerate(t.conditions)
        ]
        # Whoever is there already is not led there again by what stands around it.
        if t.start != t.to and self.chart.within(t.to, t.start):
            terms.append(f"!In('{self.ids[t.to]}')")
        made = {"event": TICK, "target": self._target(t.to), _own("place"): str(place)}
        if terms:
            made["cond"] = " && ".join(terms)
        made |= {_own("ticks"): str(t.ticks)}
        made |= {_own("ease"): t.ease} if t.ease != "smooth" else {}
        made |= {_own("enters"): t.enters} if t.enters != "usual" else {}
        if t.conditions:
            made[_own("says")] = sentence(t.conditions)
        ET.SubElement(at, _tag("transition"), made)


def _tag(name: str) -> str:
    return f"{{{SCXML}}}{name}"


def _own(name: str) -> str:
    return f"{{{OURS}}}{name}"


def _number(value: float) -> str:
    return repr(int(value)) if float(value).is_integer() and abs(value) < 1e15 else repr(float(value))


def _quoted(text: str) -> str:
    return text.replace("\\", "\\\\").replace('"', '\\"').replace("\n", " ")


def _ncname(name: str) -> str:
    """A name as an XML identifier: letters, digits, ``_``, ``-`` and ``.``, not beginning with a digit."""
    made = re.sub(r"[^\w.-]", "_", name) or "_"
    return made if re.match(r"[^\W\d]|_", made) else f"_{made}"


def _free(name: str, taken: set[str]) -> str:
    made, n = name, 2
    while made in taken:
        made, n = f"{name}_{n}", n + 1
    taken.add(made)
    return made
