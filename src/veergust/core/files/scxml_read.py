"""Locomotion out of State Chart XML: states, groups and transitions, to which clips are then put.

What ``scxml_write`` wrote comes back whole. From other documents: compound states become groups, history the way they
are entered, events momentary parameters, and what is asked in conditions parameters. What is left out is said.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from typing import Any
from xml.etree.ElementTree import Element

from defusedxml import DefusedXmlException
from defusedxml.ElementTree import ParseError, fromstring
from msgspec.structs import replace

from veergust.core.files.scxml_write import OURS, SCXML, TICK
from veergust.core.kinds import CONDITIONS
from veergust.core.model import ANYWHERE, Choice, Condition, Group, Locomotion, Parameter, State, Transition
from veergust.core.trouble import Trouble

LARGEST = 4 << 20
"""No document is longer (bytes)."""
DEEPEST = 64
NONE = Locomotion()
MOST = 2000
"""No more states, and no more transitions."""
_TERM = re.compile(r'^\s*_event\.data\["((?:[^"\\]|\\.)+)"\]\s*(<=|>=|==|!=|<|>)\s*(-?[\d.eE+-]+)\s*$')
_SIMPLE = re.compile(r"^\s*(!?)\s*([A-Za-z_][\w.]*)\s*(?:(<=|>=|===|==|!==|!=|<|>)\s*(-?[\d.]+|true|false)\s*)?$")
_THERE = re.compile(r"^\s*!In\('[^']*'\)\s*$")


@dataclass
class Read:
    """What came of a document, and what of it was left out, in words."""

    locomotion: Locomotion
    left_out: list[str] = field(default_factory=list)


def from_scxml(data: bytes, file: str, onto: Locomotion = NONE) -> Read:
    """The chart in a document; states of ``onto`` that have the same name keep their clips. Raises ``Trouble``."""
    if len(data) > LARGEST:
        raise Trouble(f"is larger than {LARGEST >> 20} MB", file=file, do="give a document with states alone")
    try:
        root: Element = fromstring(data, forbid_dtd=True)
    except DefusedXmlException:
        raise Trouble("declares entities, which are not read", file=file, do="take the document type out") from None
    except (ParseError, ValueError, LookupError) as error:
        raise Trouble(f"is no XML ({error})", file=file, do="export it again") from None
    if root.tag != f"{{{SCXML}}}scxml":
        raise Trouble("is no state chart of the standard", file=file, do="give an .scxml document")
    return _Reader(file, onto).read(root)


class _Reader:
    def __init__(self, file: str, onto: Locomotion) -> None:
        self.file = file
        self.onto = onto
        self.names: dict[str, str] = {}
        self.leads: dict[str, str] = {}
        """History and choosing states → the group they lead into."""
        self.states: list[State] = []
        self.groups: list[Group] = []
        self.transitions: list[tuple[int, Transition]] = []
        self.left_out: dict[str, None] = {}
        self.parameters: dict[str, Parameter] = {p.name: p for p in onto.parameters}

    def read(self, root: Element) -> Read:
        rows = self._rows(root)
        self._name(rows)
        for element, group, start in rows:
            self._item(element, group)
            for child in element:
                if _kind(child) == "transition" and not self._choosing(element):
                    self._transition(child, start)
        initial = (root.get("initial") or "").split()
        first = next((self.names[e.get("id", "")] for e, *_ in rows if e.get("id", "") in self.names), "")
        entry = self._lead(initial[0]) if initial else first
        ordered = tuple(t for _, t in sorted(self.transitions, key=lambda row: row[0]))
        made = replace(
            self.onto,
            entry=entry,
            states=tuple(self.states),
            groups=tuple(self.groups),
            transitions=ordered,
            parameters=tuple(self.parameters.values()),
        )
        return Read(made, list(self.left_out))

    def _rows(self, root: Element) -> list[tuple[Element, str, str]]:
        """Every state with the id of the group around it and where its transitions start, in document order."""
        out: list[tuple[Element, str, str]] = []
        waiting = [(child, "", 1) for child in reversed(root)]
        while waiting:
            element, group, depth = waiting.pop()
            kind = _kind(element)
            if depth > DEEPEST:
                raise Trouble(f"nests states deeper than {DEEPEST}", file=self.file, do="flatten its groups")
            if kind == "parallel":
                says = f"has states that are all present at once (parallel {element.get('id', '')!r})"
                raise Trouble(says, file=self.file, do="make one chart of each; a body is in one state at a time")
            if kind not in ("state", "final"):
                if kind not in ("transition", "initial", "history"):
                    self.left_out[f"<{kind}>"] = None
                continue
            if len(out) >= MOST:
                raise Trouble(f"has more than {MOST} states", file=self.file, do="take some out")
            around = element.get(f"{{{OURS}}}anywhere") == "1"
            inner = "" if around else element.get("id", "")
            out.append((element, group, ANYWHERE if around else inner))
            waiting += [(child, inner, depth + 1) for child in reversed(element)]
        return out

    def _name(self, rows: list[tuple[Element, str, str]]) -> None:
        for element, _, start in rows:
            own = element.get("id", "")
            if start == ANYWHERE:
                self.names[own] = ANYWHERE
                continue
            if not own:
                own = f"state {len(self.names) + 1}"
                element.set("id", own)
            if own in self.names:
                raise Trouble(f"has two states {own!r}", file=self.file, field="id", do="give one another id")
            self.names[own] = element.get(f"{{{OURS}}}name") or own
            for child in element:
                if _kind(child) == "history":
                    self.leads[child.get("id", "")] = own
            if self._choosing(element):
                del self.names[own]
        for element, group, _ in rows:
            if self._choosing(element):
                self.leads[element.get("id", "")] = group

    @staticmethod
    def _choosing(element: Element) -> bool:
        return element.get(f"{{{OURS}}}choose") is not None

    def _lead(self, target: str) -> str:
        """The state or group that a target leads to. Raises ``Trouble`` when there is none."""
        at = self.leads.get(target, target)
        name = self.names.get(at, "")
        if not name or name == ANYWHERE:
            raise Trouble(f"leads to {target!r}, which is no state", file=self.file, field="target", do="correct it")
        return name

    def _item(self, element: Element, group: str) -> None:
        own = element.get("id", "")
        name = self.names.get(own)
        if name is None or name == ANYWHERE:
            return
        inside = self.names.get(group, "")
        for child in element:
            if _kind(child) not in ("state", "final", "parallel", "transition", "history", "initial"):
                self.left_out[f"<{_kind(child)}> in {name}"] = None
        inner = [c for c in element if _kind(c) in ("state", "final")]
        if not inner:
            known = next((s for s in self.onto.states if s.name == name), State(name=name))
            band = element.get(f"{{{OURS}}}band", known.band)
            self.states.append(
                replace(known, group=inside, band=band if band in ("floor", "guard", "air") else "floor")
            )
            return
        self.groups.append(self._group(element, name, inside))

    def _group(self, element: Element, name: str, inside: str) -> Group:
        history = any(_kind(c) == "history" for c in element)
        chooser = next((c for c in element if self._choosing(c)), None)
        initial = (element.get("initial") or "").split()
        first = initial[0] if initial else ""
        if not first:
            start = element.find(f"{{{SCXML}}}initial/{{{SCXML}}}transition")
            first = (start.get("target") or "").split()[0] if start is not None and start.get("target") else ""
        known = self.leads.get(first) is None and first in self.names
        default = element.get(f"{{{OURS}}}default", "" if element.get(f"{{{OURS}}}enters") else None)
        if default is None:
            default = self.names[first] if known else ""
            if default and default == next(
                (self.names.get(c.get("id", "")) for c in element if _kind(c) == "state"), ""
            ):
                default = ""
        made = Group(name=name, group=inside, default=default, apart=_whole(element.get(f"{{{OURS}}}apart"), 1))
        if chooser is not None:
            leads = [t for t in chooser if t.get("cond")]
            choices = tuple(
                Choice(
                    state=self._lead(t.get("target") or ""),
                    value=_decimal(t.get(f"{{{OURS}}}value"), 0.0),
                    weight=_decimal(t.get(f"{{{OURS}}}weight"), 1.0),
                )
                for t in leads
            )
            enters: Any = "pool" if chooser.get(f"{{{OURS}}}choose") == "pool" else "parameter"
            return replace(made, enters=enters, parameter=chooser.get(f"{{{OURS}}}parameter", ""), choices=choices)
        if history and (first in self.leads or not first):
            return replace(made, enters="last")
        return made

    def _transition(self, element: Element, start: str) -> None:
        targets = (element.get("target") or "").split()
        name = self.names.get(start, ANYWHERE) if start != ANYWHERE else ANYWHERE
        if not targets:
            self.left_out[f"a transition of {name} that leads nowhere"] = None
            return
        if len(self.transitions) >= MOST:
            raise Trouble(f"has more than {MOST} transitions", file=self.file, do="take some out")
        conditions: list[Condition] = []
        events = (element.get("event") or "").split()
        if len(events) > 1:
            self.left_out[f"all but the first of the events {' '.join(events)}"] = None
        if events and events[0] not in (TICK, "*"):
            conditions.append(self._parameter(events[0].rstrip(".*"), "momentary"))
        conditions += self._conditions(element.get("cond") or "")
        ease: Any = element.get(f"{{{OURS}}}ease", "smooth")
        enters: Any = element.get(f"{{{OURS}}}enters", "usual")
        made = Transition(
            start=name,
            to=self._lead(targets[0]),
            conditions=tuple(conditions),
            ticks=min(max(_whole(element.get(f"{{{OURS}}}ticks"), 8), 0), 10_000),
            ease=ease if ease in ("linear", "smooth", "in", "out") else "smooth",
            enters=enters if enters in ("usual", "start", "phase", "foot") else "usual",
        )
        self.transitions.append((_whole(element.get(f"{{{OURS}}}place"), len(self.transitions)), made))

    def _conditions(self, text: str) -> list[Condition]:
        out: list[Condition] = []
        for term in re.split(r"&&", text) if text.strip() else []:
            if _THERE.match(term):
                continue
            found = _TERM.match(term)
            if found is not None:
                made = _ours(found[1].replace('\\"', '"').replace("\\\\", "\\"), found[2], found[3])
                if made is not None:
                    out.append(made)
                    continue
            out.append(self._foreign(term))
        return out

    def _foreign(self, term: str) -> Condition:
        """A term that somebody else wrote: a comparison of one name, or something that only they can work out."""
        found = _SIMPLE.match(term)
        if found is None:
            name = re.sub(r"\s+", " ", term).strip()[:60]
            self.left_out[f"what {name!r} works out: it is a parameter of that name"] = None
            return self._parameter(name, "yes or no")
        no, name, op, value = found.groups()
        if op is None:
            return replace(self._parameter(name, "yes or no"), value=0.0 if no else 1.0)
        number = {"true": 1.0, "false": 0.0}.get(value)
        plain: Any = {"===": "==", "!==": "!="}.get(op, op)
        kind: Any = "yes or no" if number is not None else "number"
        return replace(self._parameter(name, kind), op=plain, value=_decimal(value, 0.0) if number is None else number)

    def _parameter(self, name: str, kind: Any) -> Condition:
        name = name or "event"
        self.parameters.setdefault(name, Parameter(name=name, kind=kind))
        return Condition(test="parameter", name=name)


def _ours(words: str, op: Any, value: str) -> Condition | None:
    """A condition by the name of its value in the data of a tick."""
    test, _, rest = words.partition(" ")
    if test not in CONDITIONS:
        return None
    name = "" if CONDITIONS[test].placed else rest
    known: Any = test
    return Condition(test=known, name=name, op=op, value=_decimal(value, 1.0))


def _kind(element: Element) -> str:
    tag = element.tag if isinstance(element.tag, str) else "comment"
    return tag.rpartition("}")[2]


def _decimal(text: str | None, usual: float) -> float:
    try:
        value = float(text) if text is not None else usual
    except ValueError:
        return usual
    return value if abs(value) <= 1e6 else usual


def _whole(text: str | None, usual: int) -> int:
    return int(_decimal(text, float(usual)))
