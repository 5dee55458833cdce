"""Locomotion and the layers over it on the command line: a state chart brought in, and both printed."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from msgspec.structs import replace

from veergust.cli.saying import say, say_rows
from veergust.core.files import fetch, from_scxml, open_to_write, save_project


def bring_chart(project: Path, source: Path) -> list[str]:
    """Take the chart of an SCXML document into a project, and save it; what was left out, in words."""
    with open_to_write(project) as (value, known, lock):
        read = from_scxml(fetch(source), source.name, value.locomotion)
        changed = replace(value, locomotion=read.locomotion)
        save_project(changed, project, lock=lock, known=known)
        return read.left_out


def say_ground(made: dict[str, Any], left_out: list[str]) -> None:
    """Print locomotion: its states, its transitions in words, what is found, and what was left out."""
    for s in made["states"]:
        s["plays"] = s["clip"] or ", ".join(p["clip"] for p in s["blend"])
    say_rows([(s["name"], s["group"] or "", s["plays"]) for s in made["states"]])
    say("")
    say_rows([(f"{t['start']} → {t['to']}", t["says"], f"{t['ticks']} f") for t in made["transitions"]])
    for f in made["findings"]:
        say(f"{f['level']}: {f['where']} {f['says']}; {f['do']}.")
    for words in left_out:
        say(f"Left out: {words}.")


def say_layers(made: dict[str, Any]) -> None:
    """Print layers, the top one first, who may speak where, and how much of each joint every mask speaks for."""
    states = list(made["layers"][0]["scope"]) if made["layers"] else []
    rows = [(y["name"], y["mode"], y["mask"] or "whole body", *y["scope"].values()) for y in reversed(made["layers"])]
    say_rows([("layer", "mixes by", "mask", *states), *rows])
    for m in made["masks"]:
        say("")
        say(f"mask {m['name']}")
        say_rows([(name, f"{weight:.2f}") for name, weight in m["joints"].items()])
    for f in made["findings"]:
        say(f"{f['level']}: {f['where']} {f['says']}; {f['do']}.")
